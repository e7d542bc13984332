"""What stands on an empty board: three whole boards drawn live, five empty layouts, and words on dragging fields."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from summula.core.boards.board import Board
from summula.core.boards.reckoning import Reckoning
from summula.core.composition.boardpages import compose_board
from summula.core.folio.offering import LAYOUTS, BoardOffer, offered_boards, with_offer
from summula.desk.theme import colour, font, tint
from summula.desk.widgets.flow import FlowLayout
from summula.desk.widgets.painter import paint_scene
from summula.desk.widgets.plaintext import Label, set_tip
from summula.desk.widgets.swaparea import let_go
from summula.desk.work import QUICK_ROWS, Work

if TYPE_CHECKING:
    from summula.core.charts.scene import Scene
    from summula.core.folio.model import Folio
    from summula.core.tables.table import Table

_CARD = QSize(286, 214)
_LEAST, _GAP = 220, 8
_DRAWN = (1180.0, 760.0)


class _Card(QWidget):
    """Something to begin with: a picture above its name."""

    chosen = pyqtSignal()

    def __init__(self, name: str, hint: str, size: QSize) -> None:
        super().__init__()
        self.name = name
        self.setFixedSize(size)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(name)
        self.setAccessibleDescription(hint)
        set_tip(self, hint)

    def picture(self, painter: QPainter, area: QRectF) -> None:
        """What stands above the name."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        warm = self.underMouse() or self.hasFocus()
        painter.setPen(QPen(colour("plum" if warm else "hairline"), 1.6 if self.hasFocus() else 1))
        painter.setBrush(colour("sheet"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.8, 0.8, -0.8, -0.8), 5, 5)
        self.picture(painter, QRectF(7, 7, self.width() - 14, self.height() - 36))
        painter.setFont(font(12.5, 600))
        painter.setPen(colour("plum" if warm else "ink"))
        area = QRectF(10, self.height() - 27, self.width() - 20, 22)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, self.name)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit()
        else:
            super().keyPressEvent(event)


class OfferCard(_Card):
    """A whole board, as it would look."""

    def __init__(self, offer: BoardOffer) -> None:
        hint = f"{len(offer.measures)} key figures and {len(offer.points)} charts, sliced by {', '.join(offer.sliced)}"
        super().__init__(offer.name, hint, _CARD)
        self.offer = offer
        self.scene: Scene | None = None

    def show_scene(self, scene: Scene) -> None:
        self.scene = scene
        self.update()

    def picture(self, painter: QPainter, area: QRectF) -> None:
        painter.fillRect(area, colour("paper"))
        if self.scene is None:
            return
        scale = min(area.width() / self.scene.width, area.height() / self.scene.height)
        painter.save()
        painter.translate(area.x() + (area.width() - self.scene.width * scale) / 2, area.y())
        painter.scale(scale, scale)
        paint_scene(painter, self.scene)
        painter.restore()


class LayoutCard(_Card):
    """The places of an empty layout."""

    def __init__(self, name: str) -> None:
        super().__init__(name, "Empty places to drop fields on", QSize(150, 106))

    def picture(self, painter: QPainter, area: QRectF) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("ghost"))
        for place in LAYOUTS[self.name]:
            x, y = area.x() + area.width() * place.column / 24, area.y() + area.height() * place.row / 18
            wide, high = area.width() * place.width / 24 - 4, area.height() * place.height / 18 - 4
            painter.drawRoundedRect(QRectF(x, y, wide, max(high, 3)), 2, 2)


class BoardOffers(QWidget):
    """`take` begins with a whole board, `lay` with an empty layout."""

    def __init__(self, take: Callable[[BoardOffer], None], lay: Callable[[str], None]) -> None:
        super().__init__()
        self._take, self._lay = take, lay
        self._of: Table | None = None
        self.cards: list[OfferCard] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(4, 8, 4, 8)
        column.setSpacing(8)
        self.title = Label("This board is empty")
        self.title.setFont(font(19, 600, serif=True))
        self.words = Label("Start from a suggested board and change it as you like:")
        tint(self.words, "muted")
        column.addWidget(self.title)
        column.addWidget(self.words)
        self._row = QWidget()
        self._flow = FlowLayout(self._row, _GAP, _GAP)
        column.addWidget(self._row)
        below = Label("… or start from empty places, or drag fields from the left onto the board:")
        tint(below, "muted")
        column.addWidget(below)
        places = QWidget()
        layouts = FlowLayout(places, _GAP, _GAP)
        self.layouts: dict[str, LayoutCard] = {}
        for name in LAYOUTS:
            card = LayoutCard(name)
            card.chosen.connect(lambda name=name: self._lay(name))
            layouts.addWidget(card)
            self.layouts[name] = card
        column.addWidget(places)
        column.addStretch(1)
        self.work = Work(self)

    def show_offers(self, folio: Folio, table_id: str, table: Table) -> None:
        """The boards that a table offers; worked out once."""
        if self._of is table:
            return
        self._of = table
        for card in self.cards:
            card.setParent(None)
            let_go(card)
        self.cards = [OfferCard(offer) for offer in offered_boards(table)]
        self.words.setVisible(bool(self.cards))
        for card in self.cards:
            self._flow.addWidget(card)
            card.chosen.connect(lambda card=card: self._take(card.offer))

        def scenes() -> list[Scene]:
            return [offered_scene(folio, table_id, table, card.offer) for card in self.cards]

        self.work.ask(scenes, self._shown, lambda refusal: None, soon=table.rows <= QUICK_ROWS)

    def height_in(self, width: int) -> int:
        """How high it is at a width: its cards shrink, so that three stand side by side where they can be read."""
        wide = min(max((width - 8 - 2 * _GAP) // 3, _LEAST), _CARD.width())
        for card in self.cards:
            card.setFixedSize(wide, wide * _CARD.height() // _CARD.width())
        column = self.layout()
        assert column is not None
        return column.heightForWidth(width)

    def _shown(self, scenes: list[Scene]) -> None:
        for card, scene in zip(self.cards, scenes, strict=True):
            card.show_scene(scene)


def offered_scene(folio: Folio, table_id: str, table: Table, offer: BoardOffer) -> Scene:
    """The picture of a board that is not there yet."""
    board = Board("offered", offer.name)
    made = with_offer(folio, table_id, table, offer, board)
    reckoning = Reckoning({table_id: table}, made.phrases(), made.looks(), made.levers)
    return compose_board(made.board("offered"), reckoning, _DRAWN).pages[0].scene
