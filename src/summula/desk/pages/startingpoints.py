"""Starting points for a table: small live pictures of summaries worth asking for, one click away."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from summula.core.charts import draw
from summula.core.charts.chart import Canvas, chart_of
from summula.core.language.starting import StartingPoint, starting_points
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal
from summula.core.summaries import answer
from summula.desk.theme import colour, font
from summula.desk.widgets.painter import paint_scene
from summula.desk.widgets.plaintext import Button, set_tip
from summula.desk.widgets.popover import Popover
from summula.desk.work import QUICK_ROWS, Work

if TYPE_CHECKING:
    from summula.core.charts.scene import Scene
    from summula.core.engine.grid import Grid
    from summula.core.phrases.phrase import Phrase
    from summula.core.tables.table import Table

_CARD = QSize(248, 176)
_ACROSS = 3
_SMALL = 0.66


class Miniature(QWidget):
    """A summary drawn as if it had more room, then made small: all of it is seen."""

    def __init__(self) -> None:
        super().__init__()
        self.grid: Grid | None = None
        self._scene: tuple[QSize, Scene] | None = None

    def show_answer(self, grid: Grid) -> None:
        self.grid, self._scene = grid, None
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.grid is None:
            return
        if self._scene is None or self._scene[0] != self.size():
            room = (self.width() / _SMALL, self.height() / _SMALL)
            self._scene = (self.size(), draw(chart_of(self.grid), Canvas(*room)))
        painter = QPainter(self)
        painter.scale(_SMALL, _SMALL)
        paint_scene(painter, self._scene[1])


class PointCard(QWidget):
    """One starting point: its picture above its name; the phrase is its tooltip."""

    chosen = pyqtSignal(object)  # the starting point

    def __init__(self, point: StartingPoint) -> None:
        super().__init__()
        self.point = point
        self.setFixedSize(_CARD)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(point.name)
        self.setAccessibleDescription(print_phrase(point.phrase))
        set_tip(self, print_phrase(point.phrase))
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 26)
        self.picture = Miniature()
        self.picture.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        column.addWidget(self.picture)

    def show_answer(self, grid: Grid) -> None:
        self.picture.show_answer(grid)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        warm = self.underMouse() or self.hasFocus()
        painter.setPen(QPen(colour("plum" if warm else "hairline"), 1))
        painter.setBrush(colour("sheet"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5)
        painter.setFont(font(12.5, 600))
        painter.setPen(colour("plum" if warm else "ink"))
        name = painter.fontMetrics().elidedText(self.point.name, Qt.TextElideMode.ElideRight, self.width() - 20)
        area = QRectF(10, self.height() - 26, self.width() - 20, 22)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, name)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(self.point)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(self.point)
        else:
            super().keyPressEvent(event)


class StartingPoints(Popover):
    """`begin` takes a name and a phrase; without a phrase it begins an empty summary."""

    def __init__(self, parent: QWidget, table: Table, begin: Callable[[str, Phrase | None], None]) -> None:
        super().__init__(parent, f"Worth asking of {table.name}", _ACROSS * (_CARD.width() + 10) + 26)
        self.cards = [PointCard(point) for point in starting_points(table)]
        grid = QGridLayout()
        grid.setSpacing(10)
        for at, card in enumerate(self.cards):
            grid.addWidget(card, at // _ACROSS, at % _ACROSS)
            card.chosen.connect(lambda point: self._begin(begin, point.name, point.phrase))
        self.column.addLayout(grid)
        empty = Button("Empty summary")
        empty.clicked.connect(lambda: self._begin(begin, "New summary", None))
        self.column.addWidget(empty, 0, Qt.AlignmentFlag.AlignLeft)
        self.work = Work(self)
        cards = self.cards
        self.work.ask(lambda: _answers(cards, table), self._show, lambda _: None, soon=table.rows <= QUICK_ROWS)

    def _show(self, grids: list[Grid | None]) -> None:
        for card, grid in zip(self.cards, grids, strict=True):
            if grid is not None:
                card.show_answer(grid)

    def _begin(self, begin: Callable[[str, Phrase | None], None], name: str, phrase: Phrase | None) -> None:
        self.close()
        begin(name, phrase)

    def focus_in(self) -> None:
        if self.cards:
            self.cards[0].setFocus()


def _answers(cards: list[PointCard], table: Table) -> list[Grid | None]:
    found: list[Grid | None] = []
    for card in cards:
        try:
            found.append(answer(card.point.phrase, table))
        except Refusal:
            found.append(None)
    return found
