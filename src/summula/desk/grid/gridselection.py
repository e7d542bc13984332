"""What is selected on a pivot grid: cells, and the members that they stand for."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec

from summula.desk.grid.carrying import ancestor

if TYPE_CHECKING:
    from summula.core.engine.axis import GridPlace
    from summula.desk.grid.copying import Span
    from summula.desk.grid.gridlayout import GridLayout

Cell = tuple[int, int]  # a line and a column
_MOST_LINES = 100_000  # that are looked through for members


class ChosenMembers(msgspec.Struct, frozen=True):
    """The members that are chosen: nodes of one level of an axis."""

    across: bool
    level: int
    nodes: tuple[int, ...]


class Selection(msgspec.Struct, frozen=True):
    """From the anchor to the cursor, wherever each lies. `head_level` is the line of heads by which whole columns were
    selected; -1 where they were selected otherwise."""

    anchor: Cell
    cursor: Cell
    head_level: int = -1

    @property
    def span(self) -> Span:
        """First line and column, last line and column."""
        (r0, c0), (r1, c1) = self.anchor, self.cursor
        return min(r0, r1), min(c0, c1), max(r0, r1), max(c0, c1)

    def holds(self, row: int, column: int) -> bool:
        top, left, bottom, right = self.span
        return top <= row <= bottom and left <= column <= right

    def figure(self, layout: GridLayout) -> tuple[int, GridPlace, GridPlace]:
        """The figure under the cursor: its measure, and its nodes on the lines and columns."""
        line = layout.line(self.cursor[0])
        return layout.measure(*self.cursor), (line.level, line.node), layout.columns[self.cursor[1]].place

    def words(self, layout: GridLayout) -> str:
        """The figure under the cursor as it is read out."""
        return f"{layout.line(self.cursor[0]).label}, {layout.column_words(*self.cursor)}: {layout.text(*self.cursor)}"

    def members(self, layout: GridLayout) -> ChosenMembers | None:
        """Those of the columns selected by a head, else of the lines selected, as far as they are of the cursor's
        level. None where that is a total of everything."""
        top, left, bottom, right = self.span
        if self.head_level >= 0:
            axis, level = layout.grid.columns, self.head_level + 1
            columns = [layout.columns[at] for at in range(left, right + 1) if not layout.is_sparkline(at)]
            nodes = [ancestor(axis, each.level, each.node, level) for each in columns]
        else:
            level = layout.line(self.cursor[0]).level
            lines = (layout.line(row) for row in range(top, min(bottom + 1, top + _MOST_LINES)))
            nodes = [line.node for line in lines if line.level == level]
        distinct = tuple(dict.fromkeys(node for node in nodes if node is not None))
        return ChosenMembers(self.head_level >= 0, level, distinct) if distinct and level else None
