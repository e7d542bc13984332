"""What the mouse does on a pivot grid: select, fold, order, pull an edge, carry a member."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication

from summula.desk.grid.carrying import Carried, Landing, Pulled, landing
from summula.desk.grid.gridlayout import HEAD, INDENT, GridLayout, HeadSpan
from summula.desk.grid.headpainting import SIGN

if TYPE_CHECKING:
    from summula.desk.grid.pivotgrid import PivotGrid


class GridMouse:
    """Works for one grid: knows what is pulled or carried just now."""

    def __init__(self, grid: PivotGrid) -> None:
        self.grid = grid
        self.pulled: Pulled | None = None
        self.carried: Carried | None = None
        self.landing: Landing | None = None
        self.hovered = -1

    def forget(self) -> None:
        """Nothing is pulled or carried any more."""
        self.pulled = self.carried = self.landing = None

    def press(self, event: QMouseEvent) -> None:
        layout = self.grid.layout_
        if layout is None or event.button() != Qt.MouseButton.LeftButton:
            return
        place = event.position().toPoint()
        edge = self._edge_at(place)
        if edge is not None:
            width = layout.head_width if edge < 0 else layout.widths[edge]
            self.pulled = Pulled(edge, place.x(), width)
            return
        at = self.grid.cell_at(place)
        if at is None or not len(layout.rows) or not layout.lefts:
            return
        held = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        row, column = at
        anchor = self.grid.selection.anchor if self.grid.selection is not None else None
        last_row, last_column = len(layout.rows) - 1, len(layout.lefts) - 1
        if column == -1 and row >= 0:
            line = layout.line(row)
            if line.foldable and line.first and place.x() < 8 + INDENT * max(line.level - 1, 0) + 16:
                self.grid.folded.emit(line.path, False)
                return
            first = anchor[0] if held and anchor is not None else row
            self.grid.select((first, 0), (row, last_column))
            if line.level and not held:
                self.carried = Carried(False, line.level, line.node, place)
        elif row == -1 and column >= 0:
            own = self._own_head(layout, place)
            left = layout.head_width + layout.lefts[own] - self.grid.offset()[0] if own >= 0 else 0
            span = layout.heads[-1]
            if own >= 0 and place.x() - left < SIGN and not any(s.foldable and s.start == own for s in span):
                self._order_by(layout, own)
            else:
                self.press_head(layout, place, held=held)
        elif row == -1:
            self.grid.select((0, 0), (last_row, last_column))
        elif held and anchor is not None:
            self.grid.select(anchor, at)
        else:
            self.grid.select(at, at)

    def press_head(self, layout: GridLayout, place: QPoint, *, held: bool) -> None:
        """A column head: its mark folds, the rest selects all its columns and takes the member up."""
        x = place.x() - layout.head_width + self.grid.offset()[0]
        span = layout.span_at(x, place.y())
        if span is None:
            return
        if self._on_mark(layout, span, x):
            self.grid.folded.emit(span.path, True)
            return
        of_measure = place.y() // HEAD >= layout.grid.columns.depth  # it stands below its member's
        level = len(layout.columns[span.start].path if of_measure else span.path) - 1
        selection = self.grid.selection
        first = selection.anchor[1] if held and selection is not None else span.start
        self.grid.select((0, first), (len(layout.rows) - 1, span.stop - 1), level)
        chosen = self.grid.chosen()
        if not of_measure and chosen is not None and not held:
            self.carried = Carried(True, chosen.level, chosen.nodes[0], place)

    def move(self, event: QMouseEvent) -> None:
        layout = self.grid.layout_
        if layout is None:
            return
        place = event.position().toPoint()
        if not event.buttons() & Qt.MouseButton.LeftButton:
            edge = self._edge_at(place)
            self.grid.view().setCursor(Qt.CursorShape.ArrowCursor if edge is None else Qt.CursorShape.SplitHCursor)
            self.hover(self._own_head(layout, place))
            return
        if self.pulled is not None:
            self._pull(layout, self.pulled, place.x())
        elif self.carried is not None:
            self._carry(layout, self.carried, place)
        elif self.grid.selection is not None:
            at, selection = self.grid.cell_at(place), self.grid.selection
            if at is not None and at[0] >= 0 and at[1] >= 0 and at != selection.cursor:
                self.grid.select(selection.anchor, at)

    def _pull(self, layout: GridLayout, pulled: Pulled, x: int) -> None:
        """Show a column as wide as it is pulled."""
        if pulled.column < 0:
            layout.head_width = pulled.at(x)
        else:
            layout.widths[pulled.column] = float(pulled.at(x))
        left = 0.0
        for at, width in enumerate(layout.widths):
            layout.lefts[at] = left
            left += width
        layout.width = layout.head_width + left
        self.grid.refit()
        self.grid.view().update()

    def _carry(self, layout: GridLayout, carried: Carried, place: QPoint) -> None:
        if self.landing is None and (place - carried.start).manhattanLength() < QApplication.startDragDistance():
            return
        at = self.grid.cell_at(place)
        over = -1 if at is None else at[1] if carried.across else at[0]
        self.landing = landing(layout, carried, over)
        self.grid.view().setCursor(Qt.CursorShape.ClosedHandCursor)
        self.grid.view().update()

    def release(self, event: QMouseEvent) -> None:
        pulled, carried, place = self.pulled, self.carried, self.landing
        self.pulled = self.carried = self.landing = None
        self.grid.view().setCursor(Qt.CursorShape.ArrowCursor)
        self.grid.view().update()
        if pulled is not None and event.position().toPoint().x() != pulled.start:
            self.grid.width_set.emit(pulled.column, pulled.at(event.position().toPoint().x()))
        elif carried is not None and place is not None:
            self.grid.member_moved.emit(carried.across, carried.level, carried.node, place.node, place.after)

    def double_click(self, event: QMouseEvent) -> None:
        at = self.grid.cell_at(event.position().toPoint())
        layout = self.grid.layout_
        if layout is None:
            return
        edge = self._edge_at(event.position().toPoint())
        if edge is not None:
            self.grid.width_set.emit(edge, 0)
        elif at is None:
            return
        elif at[0] < 0:
            self._double_click_head(layout, event.position().toPoint())
        elif at[1] >= 0:
            self.grid.select(at, at)
            self.grid.rows_asked.emit()
        elif layout.line(at[0]).foldable:
            self.grid.folded.emit(layout.line(at[0]).path, False)
        elif layout.line(at[0]).level:
            self.grid.select((at[0], 0), (at[0], 0))
            self.grid.member_asked.emit("into")

    def _double_click_head(self, layout: GridLayout, place: QPoint) -> None:
        """A column's own head orders by it; a member's over several columns folds. What the first click did with a sign
        or a mark is not done twice."""
        x = place.x() - layout.head_width + self.grid.offset()[0]
        own, span = self._own_head(layout, place), layout.span_at(x, place.y())
        if span is not None and span.foldable:
            if not self._on_mark(layout, span, x):
                self.grid.folded.emit(span.path, True)
        elif own >= 0 and x - layout.lefts[own] >= SIGN:
            self._order_by(layout, own)

    def _on_mark(self, layout: GridLayout, span: HeadSpan, x: float) -> bool:
        """Whether a place, from the first column's left, is on the mark that folds a head."""
        first = layout.lefts[span.start]
        left = first + 4 if span.stop - span.start == 1 else max(first, self.grid.offset()[0]) + 8
        return span.foldable and left - 4 <= x < left + 14

    def _edge_at(self, place: QPoint) -> int | None:
        """The column (-1: the lines' heads) whose right edge is under a place among the heads."""
        layout = self.grid.layout_
        if layout is None or place.y() >= layout.head_height:
            return None
        if abs(place.x() - layout.head_width) <= 4:
            return -1
        return layout.edge_at(place.x() - layout.head_width + self.grid.offset()[0])

    def _order_by(self, layout: GridLayout, column: int) -> None:
        """Largest first, then smallest first, then the members' own order again."""
        if layout.can_order(column):
            following = {"": "largest", "▾": "smallest", "▴": ""}[layout.order_sign(column)]
            self.grid.order_asked.emit(column, following)

    def hover(self, column: int) -> None:
        """The column whose own head is under the mouse; -1: none."""
        if column != self.hovered:
            self.hovered = column
            self.grid.view().update()

    def _own_head(self, layout: GridLayout, place: QPoint) -> int:
        """The column whose own head, in the lowest line of heads, is at a place; -1: none."""
        if place.x() < layout.head_width or not 0 <= layout.head_height - place.y() <= HEAD:
            return -1
        column = layout.column_at(place.x() - layout.head_width + self.grid.offset()[0])
        return -1 if column is None else column
