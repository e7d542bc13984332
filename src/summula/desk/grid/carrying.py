"""Carrying members and edges by mouse: where a carried member would be put down, how wide a pulled column becomes."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec
from PyQt6.QtCore import QPoint

from summula.desk.grid.gridlayout import LEAST_WIDTH, ROW, GridLayout

if TYPE_CHECKING:
    from summula.core.engine.axis import Axis

MOST_WIDTH = 900


class Pulled(msgspec.Struct, frozen=True):
    """The right edge of a column (-1: of the lines' heads) under the mouse, and the width it had."""

    column: int
    start: int
    width: float

    def at(self, x: int) -> int:
        return int(min(max(self.width + x - self.start, LEAST_WIDTH), MOST_WIDTH))


class Carried(msgspec.Struct, frozen=True):
    """A member on its way to another place: its level and node on an axis, and where it was taken up."""

    across: bool
    level: int
    node: int
    start: QPoint


class Landing(msgspec.Struct, frozen=True):
    """The node beside which it would stand, and between which lines (or columns) that is: before `edge`."""

    node: int
    after: bool
    edge: int


def ancestor(axis: Axis, level: int, node: int, wanted: int) -> int | None:
    """The node of a coarser level that a node lies in; None for a total of still coarser level."""
    if level < wanted:
        return None
    while level > wanted:
        node = int(axis.levels[level].parent[node])
        level -= 1
    return node


def landing(layout: GridLayout, carried: Carried, at: int) -> Landing | None:
    """Where a member carried over the line (or column) `at` would be put down: behind the member it has been carried
    down over, before one that it has been carried up over; None over itself and over totals."""
    axis = layout.grid.columns if carried.across else layout.grid.rows
    size = layout.first_course if carried.across else len(layout.rows)
    if not 0 <= at < size:
        return None

    def lies_in(place: int) -> int | None:
        each = layout.columns[place] if carried.across else layout.line(place)
        return ancestor(axis, each.level, each.node, carried.level)

    over = lies_in(at)
    if over is None or over == carried.node:
        return None
    after = over > carried.node
    edge = at
    while 0 <= edge < size and lies_in(edge) == over:
        edge += 1 if after else -1
    return Landing(over, after, edge if after else edge + 1)


def edge_place(layout: GridLayout, landing: Landing, across: bool) -> float:
    """Where the edge of a landing lies, from the first line's top (or the first column's left)."""
    if not across:
        return float(landing.edge * ROW)
    return layout.lefts[landing.edge] if landing.edge < len(layout.lefts) else layout.lefts[-1] + layout.widths[-1]
