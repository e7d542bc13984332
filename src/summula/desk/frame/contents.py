"""Contents: the numbered list of the folio's pages, and the fields of the table in view.

On a board it narrows to the numbers.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QMimeData, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDrag, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from summula.core.boards.board import Board
from summula.core.preparation.editing import derived_fields
from summula.desk.theme import colour, font, pen, text_width
from summula.desk.widgets.glyphs import KIND_WORDS, paint_kind, paint_shape
from summula.desk.widgets.menu import add, passing_menu
from summula.desk.widgets.plaintext import set_tip
from summula.desk.widgets.searchline import SearchLine
from summula.desk.widgets.swaparea import SwapArea
from summula.desk.widgets.writing import elided, write

if TYPE_CHECKING:
    from summula.core.folio.change import Change
    from summula.core.tables.table import Table
    from summula.desk.session import Session

FIELD_MIME = "application/x-summula-field"
WIDE, NARROW = 216, 34
_ROW = 25
_SEARCHED = 14  # fields that are seen at a glance; of more, one can search
_OF_PAGES = 0.55  # of the height, at most, where fields are listed below
_UNBOUNDED = 16_777_215  # pixels: as high as Qt lets a widget be
_SECTIONS = (("table", "TABLES"), ("summary", "SUMMARIES"), ("board", "BOARDS"))


class _Heading(QWidget):
    """A section's name, in small spaced capitals."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.text = text
        self.setFixedHeight(34)
        self.setAccessibleName(text.title())

    def say(self, text: str) -> None:
        self.text = text
        self.setAccessibleName(text.title())
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        face = font(11, 500)
        face.setLetterSpacing(face.SpacingType.AbsoluteSpacing, 0.9)
        painter.setFont(face)
        painter.setPen(colour("muted"))
        metrics = painter.fontMetrics()
        painter.drawText(16, 25, metrics.elidedText(self.text, Qt.TextElideMode.ElideRight, self.width() - 22))


class PageRow(QWidget):
    """One page: its number and name. Enter or click turns to it."""

    chosen = pyqtSignal(str)
    removed = pyqtSignal(str)
    drawn_out = pyqtSignal(str)  # it is dragged: what it shows goes out of the window

    def __init__(self, number: int, page_id: str, name: str, *, removable: bool) -> None:
        super().__init__()
        self.number, self.page_id, self.name, self.narrow = number, page_id, name, False
        self.removable = removable
        self.current = False
        self._pressed: QPoint | None = None  # where the mouse went down
        self.setFixedHeight(_ROW)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Page {number}: {name}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_narrow(self, narrow: bool) -> None:
        """Its number only, or its name beside it."""
        self.narrow = narrow
        set_tip(self, self.name if narrow or text_width(self.name, 13, 600) > WIDE - 56 else "")
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        if self.current and not self.narrow:
            painter.fillRect(QRectF(14, 0, self.width() - 14, self.height()), colour("sheet"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("plum"))
            painter.drawRoundedRect(QRectF(13, 0, 3, self.height()), 1.5, 1.5)
        elif self.underMouse():
            painter.fillRect(
                QRectF(14 if not self.narrow else 4, 0, self.width() - 18, self.height()),
                colour("ghost", 0.5, "paper"),
            )
        number, weight, italic = str(self.number), 600 if self.current else 400, not self.current or not self.narrow
        painter.setPen(pen("plum" if self.current else "muted"))
        if self.narrow:
            write(painter, QRectF(self.rect()), number, 13, weight, side="middle", serif=True, italic=italic)
        else:
            left = QRectF(14, 0, 22, self.height())
            write(painter, left, number, 13, weight, side="right", serif=True, italic=italic)
            painter.setPen(pen("plum" if self.current else "ink"))
            name = elided(self.name, self.width() - 52, 13, weight)
            write(painter, QRectF(44, 0, self.width() - 46, self.height()), name, 13, weight)
        if self.hasFocus():
            painter.setPen(QPen(colour("plum"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(4, 1, -3, -1), 4, 4)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event and event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.position().toPoint()
            self.chosen.emit(self.page_id)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if (event.position().toPoint() - self._pressed).manhattanLength() >= QApplication.startDragDistance():
            self._pressed = None
            self.drawn_out.emit(self.page_id)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._pressed = None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(self.page_id)
        elif event and event.key() == Qt.Key.Key_Delete and self.removable:
            self.removed.emit(self.page_id)
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: object) -> None:
        if self.removable:
            menu = passing_menu(self)
            add(menu, "Remove this page", lambda: self.removed.emit(self.page_id))
            menu.exec(event.globalPos())  # type: ignore[attr-defined]


class FieldRow(QWidget):
    """One field: glyph, name, distribution. Drag it onto a phrase or a grid's edge; Enter asks about it."""

    asked = pyqtSignal(str)

    def __init__(self, table: Table, name: str, *, derived: bool = False) -> None:
        from summula.core.statistics.distribution import distribution

        super().__init__()
        self.field, self.derived = table.field(name), derived
        self.shape = distribution(table, name).heights if self.field.kind != "code" else ()
        self._pressed: QPoint | None = None
        self.setFixedHeight(23)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Field {name}, {KIND_WORDS[self.field.kind]}")
        self.setAccessibleDescription(self.field.description)
        tip = f"{name} · {KIND_WORDS[self.field.kind]}"
        tip += " · calculated" if derived else ""
        set_tip(self, f"{tip}\n{self.field.description}" if self.field.description else tip)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.underMouse() or self.hasFocus():
            painter.fillRect(self.rect().adjusted(8, 0, -4, 0), colour("ghost", 0.5, "paper"))
        paint_kind(painter, self.field.kind, 16, (self.height() - 13) / 2, "plum" if self.derived else "muted")
        room = self.width() - 38 - (60 if self.shape else 8)
        painter.setPen(colour("ink"))
        write(painter, QRectF(38, 0, room, self.height()), elided(self.field.name, int(room), 13), 13)
        paint_shape(painter, self.shape, QRectF(self.width() - 57, 5, 44, 13))
        if self.hasFocus():
            painter.setPen(QPen(colour("plum"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(8.5, 0.5, -4.5, -0.5), 4, 4)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._pressed = event.position().toPoint() if event else None

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None:
            return
        if (event.position().toPoint() - self._pressed).manhattanLength() < QApplication.startDragDistance():
            return
        self._pressed = None
        drag = QDrag(self)
        drag.setMimeData(field_mime(self.field.name))
        drag.setPixmap(_drag_picture(self.field.name))
        drag.setHotSpot(QPoint(12, 12))
        drag.exec(Qt.DropAction.CopyAction)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.asked.emit(self.field.name)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.asked.emit(self.field.name)
        else:
            super().keyPressEvent(event)


def field_mime(name: str) -> QMimeData:
    mime = QMimeData()
    mime.setData(FIELD_MIME, name.encode("utf-8"))
    return mime


def dragged_field(mime: QMimeData | None) -> str | None:
    if mime is None or not mime.hasFormat(FIELD_MIME):
        return None
    return bytes(mime.data(FIELD_MIME).data()).decode("utf-8", "replace")


def _drag_picture(name: str) -> QPixmap:
    picture = QPixmap(int(text_width(name, 13, 500)) + 22, 26)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    painter.setPen(QPen(colour("plum"), 1))
    painter.setBrush(colour("sheet"))
    painter.drawRoundedRect(QRectF(0.5, 0.5, picture.width() - 1, 25), 5, 5)
    painter.setFont(font(13, 500))
    painter.drawText(QRectF(11, 0, picture.width(), 26), Qt.AlignmentFlag.AlignVCenter, name)
    painter.end()
    return picture


class Contents(QWidget):
    """The left side of the frame: the pages, and below them the fields, each of which scrolls by itself."""

    field_asked = pyqtSignal(str)
    drawn_out = pyqtSignal(str)  # a page that is dragged

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("contents")
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Expanding)
        self.setMinimumWidth(NARROW)
        self.setAccessibleName("Contents")
        self._pages: list[tuple[str, str, str]] | None = None  # that the rows were built of
        self._table: Table | None = None  # likewise
        self._shown: tuple[bool, bool] | None = None  # narrow, with fields
        self._cramped = self._narrow = self._many = False
        self.pages, self.fields = SwapArea(), SwapArea()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.pages)
        self.title = _Heading("")
        column.addWidget(self.title)
        self._searching = QHBoxLayout()
        self._searching.setContentsMargins(12, 0, 10, 6)
        column.addLayout(self._searching)
        column.addWidget(self.fields, 1)
        session.adopted.connect(self._let_go)
        session.changed.connect(self._changed)
        session.page_changed.connect(self.refresh)

    @cached_property
    def search(self) -> SearchLine:
        """Above the fields: made when there are many first."""
        search = SearchLine("Find a field", "find a field")
        search.textChanged.connect(self._narrow_fields)
        self._searching.addWidget(search)
        return search

    def cramp(self, cramped: bool) -> None:
        """In a narrow window, leave the room to the page."""
        if cramped != self._cramped:
            self._cramped = cramped
            self.refresh()

    def _changed(self, change: Change) -> None:
        if change.pages or change.tables or change.everywhere:
            self.refresh()

    def _let_go(self) -> None:
        """The fields' folio has gone; its rows of fields are replaced when some are shown again."""
        self._table = None

    def refresh(self) -> None:
        """Rebuild the rows when what they show has changed; else only mark the page in view."""
        session = self.session
        board = session.page_of(Board)
        # Of a board that is read there is more to see; for one that is made, fields are at hand.
        read = board is not None and bool(board.panels) and not session.board_state.arranging
        narrow = self._cramped or read
        pages: list[tuple[str, str, str]] = [(kind, each.id, each.name) for kind, each in session.folio.pages()]
        rebuilt = pages != self._pages
        if rebuilt:
            self._pages = pages
            self._build_pages(pages)
        table_id = "" if narrow else session.default_table()
        if table_id:
            table = session.table(table_id)
            if table is not self._table:
                self._table = table
                self._build_fields(table, table_id)
        shown = (narrow, bool(table_id))
        if rebuilt or shown != self._shown:
            self._shown = shown
            self._show_narrow(narrow, fields=bool(table_id))
        for row in self.page_rows():
            if row.current != (row.page_id == session.page_id):
                row.current = not row.current
                row.update()

    def _show_narrow(self, narrow: bool, *, fields: bool) -> None:
        """Numbers only, or names under their headings and the fields below."""
        self._narrow = narrow
        self.setMaximumWidth(NARROW if narrow else WIDE)
        self.updateGeometry()
        inner = self.pages.widget()
        if inner is not None:
            for heading in inner.findChildren(_Heading):
                heading.setVisible(not narrow)
            column = inner.layout()
            if column is not None:
                column.setContentsMargins(0, 6 if not narrow else 14, 0, 6)
                column.activate()
        for row in self.page_rows():
            row.show_narrow(narrow)
        self.title.setVisible(fields)
        self.fields.setVisible(fields)
        searched = fields and self._many
        if searched or "search" in self.__dict__:  # made already
            self.search.setVisible(searched)
        self._share_room()

    def _build_pages(self, pages: Sequence[tuple[str, str, str]]) -> None:
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setSpacing(0)
        number = 0
        for kind, title in _SECTIONS:
            of_kind = [(page_id, name) for page_kind, page_id, name in pages if page_kind == kind]
            if of_kind:
                column.addWidget(_Heading(title))
            for page_id, name in of_kind:
                number += 1
                row = PageRow(number, page_id, name, removable=kind != "table")
                row.chosen.connect(self.session.turn_to)
                row.removed.connect(self.session.remove_page)
                row.drawn_out.connect(self.drawn_out)
                column.addWidget(row)
        column.addStretch(1)
        self.pages.swap(inner)

    def _build_fields(self, table: Table, table_id: str) -> None:
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 0, 10)
        column.setSpacing(0)
        entry = self.session.folio.table(table_id)
        self.title.say(f"FIELDS · {entry.name.upper()}")
        made = derived_fields(entry.steps)
        shown = [field for field in table.fields if not field.hidden]
        for field in shown:
            row = FieldRow(table, field.name, derived=field.name in made)
            row.asked.connect(self.field_asked)
            column.addWidget(row)
        column.addStretch(1)
        self.fields.swap(inner)
        if "search" in self.__dict__:  # made already
            self.search.clear()
        self._many = len(shown) > _SEARCHED
        self._shown = None

    def _narrow_fields(self, text: str) -> None:
        """Only the fields whose names hold all these words."""
        words = text.casefold().split()
        inner = self.fields.widget()
        for row in inner.findChildren(FieldRow) if inner is not None else []:
            row.setVisible(all(word in row.field.name.casefold() for word in words))

    def _share_room(self) -> None:
        """The pages take what they need, but leave the fields their part: both stay in sight."""
        inner = self.pages.widget()
        needed = inner.sizeHint().height() + 4 if inner is not None else 0
        if self.title.isHidden():
            self.pages.setMaximumHeight(_UNBOUNDED)
            self.pages.setMinimumHeight(0)
            return
        height = min(needed, max(int(self.height() * _OF_PAGES), 4 * _ROW))
        self.pages.setFixedHeight(height)

    def resizeEvent(self, event: object) -> None:
        self._share_room()

    def page_rows(self) -> list[PageRow]:
        inner = self.pages.widget()
        return inner.findChildren(PageRow) if inner is not None else []

    def sizeHint(self) -> QSize:
        return QSize(NARROW if self._narrow else WIDE, 400)

    def minimumSizeHint(self) -> QSize:
        """Of its narrow state, to which it comes as the window shrinks."""
        return QSize(NARROW, 120)
