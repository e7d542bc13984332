"""The ground that panels stand on: its grid while arranging, guides while dragging, a rubber band, a sketch below."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPoint, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QWidget

from summula.core.boards.board import COLUMNS, Place
from summula.core.composition.boardgrid import GAP, BoardGrid
from summula.desk.frame.contents import dragged_field
from summula.desk.theme import colour


class Canvas(QWidget):
    """The panels' grid of 24 columns. In arranging, the columns show."""

    drawn_over = pyqtSignal(QRect, bool)  # the rubber band; whether it adds to what is selected
    clicked = pyqtSignal()  # beside all panels
    let_fall = pyqtSignal(str, QPoint)  # a field's name, and where

    def __init__(self) -> None:
        super().__init__()
        self.board_rows = 0
        self.arranging = False
        self.fit_height = 400
        self.underlay: tuple[QImage, float] | None = None
        self._guides: list[tuple[bool, float]] = []  # upright?, the place in pixels
        self._band: tuple[QPoint, QPoint] | None = None
        self.setAccessibleName("Panels")
        self.setAcceptDrops(True)

    @property
    def grid(self) -> BoardGrid:
        return BoardGrid.of(self.width(), self.fit_height, self.board_rows)

    def area(self, place: Place) -> QRect:
        return QRect(*self.grid.area(place))

    def place(self, area: QRect) -> Place:
        """The nearest grid place to an area in pixels."""
        return self.grid.place(area.x(), area.y(), area.width(), area.height())

    def show_guides(self, place: Place | None, others: Sequence[Place]) -> None:
        """Lines at the edges that a dragged panel shares with its neighbours, and where its gaps are equal."""
        self._guides = [] if place is None else guides(place, others, self.grid)
        self.update()

    @property
    def guides(self) -> list[tuple[bool, float]]:
        return self._guides

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.underlay is not None:
            image, strength = self.underlay
            scale = self.width() / max(image.width(), 1)
            painter.setOpacity(strength)
            painter.drawImage(QRectF(0, 0, self.width(), image.height() * scale), image)
            painter.setOpacity(1.0)
        if not self.arranging:
            return
        across = self.grid.across
        for column in range(COLUMNS):
            area = QRect(round(column * across), 0, round(across - GAP), self.height())
            painter.fillRect(area, colour("ghost", 0.45, "paper"))
        painter.setPen(QPen(colour("plum"), 1, Qt.PenStyle.DashLine))
        for upright, at in self._guides:
            painter.drawLine(*((QPoint(int(at), 0), QPoint(int(at), self.height())) if upright
                               else (QPoint(0, int(at)), QPoint(self.width(), int(at)))))  # fmt: skip
        if self._band is not None:
            painter.setBrush(colour("plum", 0.12))
            painter.drawRect(QRect(*self._band).normalized())

    @property
    def takes_fields(self) -> bool:
        """Whether fields can be let fall: while arranging, and on an empty board."""
        return self.arranging or not self.board_rows

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and self.takes_fields and dragged_field(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and self.takes_fields and dragged_field(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        name = dragged_field(event.mimeData()) if event is not None else None
        if event is not None and name is not None and self.takes_fields:
            event.acceptProposedAction()
            self.let_fall.emit(name, event.position().toPoint())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.arranging and event.button() == Qt.MouseButton.LeftButton:
            self._band = (event.position().toPoint(), event.position().toPoint())
        elif event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.clicked.emit()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._band is not None:
            self._band = (self._band[0], event.position().toPoint())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._band is None:
            return
        area = QRect(*self._band).normalized()
        self._band = None
        self.update()
        self.drawn_over.emit(area, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))


def guides(place: Place, others: Sequence[Place], grid: BoardGrid) -> list[tuple[bool, float]]:
    """The edges that a place shares with others, and the middles of gaps that are equal on both its sides: upright or
    not, and where, in pixels."""
    found: set[tuple[bool, float]] = set()
    left, right = place.column, place.column + place.width
    top, bottom = place.row, place.row + place.height
    for other in others:
        for edge in (left, right):
            if edge in (other.column, other.column + other.width):
                found.add((True, edge * grid.across - GAP / 2))
        for edge in (top, bottom):
            if edge in (other.row, other.row + other.height):
                found.add((False, edge * grid.down - GAP / 2))
    beside = [each for each in others if each.row < bottom and top < each.row + each.height]
    before = [left - (each.column + each.width) for each in beside if each.column + each.width <= left]
    after = [each.column - right for each in beside if each.column >= right]
    if before and after and min(before) == min(after) > 0:
        found.add((True, (left - min(before) / 2) * grid.across))
        found.add((True, (right + min(after) / 2) * grid.across))
    return sorted(found)
