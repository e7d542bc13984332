"""What can be done with what the cursor of a grid stands on: its menus."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QMenu

from summula.core.fields.figures import plural
from summula.core.grids.lines import path_labels
from summula.desk.widgets.menu import add, passing_menu

if TYPE_CHECKING:
    from summula.desk.grid.pivotgrid import PivotGrid


def copy_menu(grid: PivotGrid, menu: QMenu) -> None:
    add(menu, "Copy as cells", grid.copy)
    add(menu, "Copy as picture", grid.copy_picture)
    add(menu, "Copy the phrase", grid.phrase_asked.emit)


def member_menu(grid: PivotGrid, menu: QMenu) -> None:
    """For the chosen members of an axis: keep, leave out, bundle, look into, move, fold."""
    chosen, layout = grid.chosen(), grid.layout_
    if chosen is None or layout is None:
        return
    axis = layout.grid.columns if chosen.across else layout.grid.rows
    label = path_labels(axis, chosen.level, chosen.nodes[0])[-1]
    several = len(chosen.nodes) > 1
    name = f"these {plural(len(chosen.nodes), 'member')}" if several else label
    menu.addSeparator()
    add(menu, f"Only {name}", lambda: grid.member_asked.emit("only"))
    add(menu, f"Without {name}", lambda: grid.member_asked.emit("not"))
    if several:
        add(menu, f"Group {name} …", lambda: grid.member_asked.emit("bundle"))
    else:
        add(menu, f"Drill into {label}", lambda: grid.member_asked.emit("into"))
        back, on = ("left", "right") if chosen.across else ("up", "down")
        add(menu, f"Move {label} {back}", lambda: grid.step_member(-1))
        add(menu, f"Move {label} {on}", lambda: grid.step_member(1))
        grid.menu_asked.emit(menu)
    if chosen.level < axis.depth:
        heading = axis.headings[chosen.level - 1].field
        menu.addSeparator()
        add(menu, f"Collapse all {heading}", lambda: grid.level_folded.emit(chosen.level, chosen.across, True))
        add(menu, f"Expand all {heading}", lambda: grid.level_folded.emit(chosen.level, chosen.across, False))


def head_menu(grid: PivotGrid, column: int) -> QMenu:
    """For a column's head: the orders its measure offers, its width, and what its members offer."""
    menu, layout = passing_menu(grid), grid.layout_
    assert layout is not None
    if layout.can_order(column):
        for text, how in (
            ("Largest first", "largest"),
            ("Smallest first", "smallest"),
            ("Original order", ""),
        ):
            add(menu, text, partial(grid.order_asked.emit, column, how))
        menu.addSeparator()
    width = int(layout.widths[column])
    add(menu, "Wider", lambda: grid.width_set.emit(column, width + 24))
    add(menu, "Narrower", lambda: grid.width_set.emit(column, max(width - 24, 30)))
    add(menu, "Fit width to content", lambda: grid.width_set.emit(column, 0))
    if not layout.is_sparkline(column):
        member_menu(grid, menu)
    menu.addSeparator()
    copy_menu(grid, menu)
    return menu


def cell_menu(grid: PivotGrid) -> QMenu:
    """For a figure or a line's head."""
    menu = passing_menu(grid)
    copy_menu(grid, menu)
    if grid.current() is not None:
        menu.addSeparator()
        add(menu, "Rows behind this figure", grid.rows_asked.emit)
    member_menu(grid, menu)
    return menu
