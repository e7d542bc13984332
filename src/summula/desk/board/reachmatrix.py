"""The reach of all slicers in one place: slicers down, panels across, a dot where one moves the other.

A click turns a dot; a drag turns many; a name turns its whole line or column. Keys: arrows, Space.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QScrollArea, QWidget

from summula.core.boards.reach import with_reach
from summula.core.slicing.slicerkinds import slicer_name
from summula.desk.theme import colour, font, text_width
from summula.desk.widgets.plaintext import set_tip
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.boards.board import Board

_ROW, _COLUMN, _HEAD, _SIDE = 26, 34, 150, 150


class ReachMatrix(QWidget):
    """`can`: which slicers can move which panels at all, by their ids; elsewhere there is nothing to turn."""

    turned = pyqtSignal(list, list, bool)  # slicers, panels, whether they move them now

    def __init__(self, board: Board, can: Callable[[str, str], bool]) -> None:
        super().__init__()
        self._can = can
        self._at = (0, 0)  # the line and the column that keys are at
        self._drag: tuple[bool, set[tuple[int, int]]] | None = None
        self.show_board(board)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Which slicers affect which panels")

    def show_board(self, board: Board) -> None:
        self.board = board
        panels = [panel for panel in board.panels if any(self._can(s.id, panel.id) for s in board.slicers)]
        self.panels, self.slicers = panels, list(board.slicers)
        self.setFixedSize(self.sizeHint())
        self._describe()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_SIDE + _COLUMN * len(self.panels) + 90, _HEAD + _ROW * len(self.slicers) + 8)

    def centre(self, line: int, column: int) -> QPoint:
        return QPoint(_SIDE + _COLUMN * column + _COLUMN // 2, _HEAD + _ROW * line + _ROW // 2)

    def moves(self, line: int, column: int) -> bool | None:
        """Whether a slicer moves a panel; None where it never can."""
        slicer, panel = self.slicers[line], self.panels[column]
        if not self._can(slicer.id, panel.id):
            return None
        return panel.id not in slicer.spares

    def _cell(self, place: QPointF) -> tuple[int, int]:
        """Line and column at a place, -1 for a name beside or above them."""
        line = int((place.y() - _HEAD) // _ROW) if place.y() >= _HEAD else -1
        column = int((place.x() - _SIDE) // _COLUMN) if place.x() >= _SIDE else -1
        return min(line, len(self.slicers) - 1), min(column, len(self.panels) - 1)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setFont(font(12))
        painter.setPen(colour("ink"))
        for column, panel in enumerate(self.panels):
            painter.save()
            painter.translate(_SIDE + _COLUMN * column + _COLUMN / 2 + 4, _HEAD - 8)
            painter.rotate(-52)
            painter.drawText(0, 0, painter.fontMetrics().elidedText(panel.title, Qt.TextElideMode.ElideRight, 165))
            painter.restore()
        for line, slicer in enumerate(self.slicers):
            y = _HEAD + _ROW * line
            painter.setPen(colour("ink"))
            name = painter.fontMetrics().elidedText(slicer_name(slicer), Qt.TextElideMode.ElideRight, _SIDE - 12)
            painter.drawText(QRectF(0, y, _SIDE - 10, _ROW), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setPen(colour("hairline"))
            painter.drawLine(0, y, _SIDE + _COLUMN * len(self.panels), y)
            for column in range(len(self.panels)):
                self._dot(painter, line, column)

    def _dot(self, painter: QPainter, line: int, column: int) -> None:
        state, middle = self.moves(line, column), QPointF(self.centre(line, column))
        if self._drag is not None and (line, column) in self._drag[1] and state is not None:
            state = self._drag[0]
        if state is None:
            return
        painter.setPen(QPen(colour("plum"), 1.4))
        painter.setBrush(colour("plum") if state else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(middle, 5, 5)
        if self.hasFocus() and (line, column) == self._at:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(middle.x() - 11, middle.y() - 11, 22, 22), 4, 4)

    # -- turning ---------------------------------------------------------------------------------------

    def _turn(self, cells: set[tuple[int, int]], moves: bool) -> None:
        """Each slicer for the panels that are turned with it."""
        by_panels: dict[tuple[str, ...], list[str]] = {}
        for line, slicer in enumerate(self.slicers):
            panels = tuple(
                self.panels[c].id for row, c in sorted(cells) if row == line and self.moves(row, c) is not None
            )
            if panels:
                by_panels.setdefault(panels, []).append(slicer.id)
        for panels, slicers in by_panels.items():
            self.turned.emit(slicers, list(panels), moves)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self.panels or not self.slicers:
            return
        line, column = self._cell(event.position())
        cells = {
            (row, col)
            for row in (range(len(self.slicers)) if line < 0 else [line])
            for col in (range(len(self.panels)) if column < 0 else [column])
        }
        known = [self.moves(*each) for each in cells]
        self._drag = (not all(each for each in known if each is not None), cells)
        self._at = (max(line, 0), max(column, 0))
        if line < 0 or column < 0:  # a whole line or column: turned at once
            drag, self._drag = self._drag, None
            self._turn(drag[1], drag[0])
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drag is None:
            return
        cell = self._cell(event.position())
        if min(cell) >= 0 and cell not in self._drag[1]:
            self._drag[1].add(cell)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is not None:
            drag, self._drag = self._drag, None
            self._turn(drag[1], drag[0])
            self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.panels or not self.slicers:
            return
        steps = {Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Down: (1, 0), Qt.Key.Key_Up: (-1, 0)}
        step = steps.get(Qt.Key(event.key()))
        if step is not None:
            line = min(max(self._at[0] + step[0], 0), len(self.slicers) - 1)
            self._at = (line, min(max(self._at[1] + step[1], 0), len(self.panels) - 1))
            self._describe()
            self.update()
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self._turn({self._at}, not self.moves(*self._at))
        else:
            super().keyPressEvent(event)

    def _describe(self) -> None:
        if self.panels and self.slicers:
            line, column = min(self._at[0], len(self.slicers) - 1), min(self._at[1], len(self.panels) - 1)
            words = {None: "cannot affect", True: "moves", False: "spares"}[self.moves(line, column)]
            self.setAccessibleDescription(f"{slicer_name(self.slicers[line])} {words} {self.panels[column].title}")

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self._describe()
        self.update()


class ReachPopover(Popover):
    """`put` takes the board with another reach."""

    stays = True

    def __init__(
        self, parent: QWidget, board: Board, can: Callable[[str, str], bool], put: Callable[[Board], None]
    ) -> None:
        longest = max((text_width(panel.title, 12) for panel in board.panels), default=0.0)
        self.matrix = ReachMatrix(board, can)
        wide = min(self.matrix.width() + 30, 920)
        super().__init__(parent, "Reach · which slicer affects which panel", int(max(wide, 320)))
        self._board, self._put = board, put
        self.matrix.turned.connect(self._turned)
        area = QScrollArea()
        area.setWidget(self.matrix)
        area.setFixedHeight(min(self.matrix.height() + 14, 560))
        set_tip(area, "Click a dot, drag across several, or a name for its whole line" if longest else "")
        self.column.addWidget(area)

    def _turned(self, slicers: list[str], panels: list[str], moves: bool) -> None:
        self._board = with_reach(self._board, slicers, panels, moves=moves)
        self.matrix.show_board(self._board)
        self._put(self._board)
