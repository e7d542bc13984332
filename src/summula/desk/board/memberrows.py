"""The members of a list slicer, with bars of what each holds now, and pale behind, before slicing.

Click takes one; Ctrl+click adds; dragging takes several, Shift a run. Keys: arrows move, Space adds, Enter takes one,
Escape clears.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QPoint, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QScrollArea, QWidget

from summula.desk.theme import colour, pen, text_width
from summula.desk.widgets.plaintext import show_tip
from summula.desk.widgets.tooltips import tip_asked
from summula.desk.widgets.writing import elided, write

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Holding, MemberChoice

ROW = 28
_COUNTED = 120  # pixels of a column: a narrower one shows no counts


class MemberRows(QWidget):
    """The members, in one column or several; with `single` one at a time."""

    chosen = pyqtSignal(object)  # the new tuple of choices

    def __init__(self, name: str) -> None:
        super().__init__()
        self.held: list[Holding] = []
        self.selection: tuple[MemberChoice, ...] = ()
        self.columns = 1
        self.single = False
        self._cursor = 0
        self._drag: tuple[int, int] | None = None
        self._adding = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"Slicer {name}")
        self._hover = -1

    @property
    def lines(self) -> int:
        return -(-max(len(self.held), 1) // self.columns)

    def show_held(self, held: list[Holding], selection: tuple[MemberChoice, ...]) -> None:
        self.held, self.selection = held, selection
        self._cursor = min(self._cursor, max(len(held) - 1, 0))
        self.setFixedHeight(self.lines * ROW)
        self._describe()
        self.update()

    def _describe(self) -> None:
        if self.held:
            each = self.held[self._cursor]
            state = "chosen" if each.choice in self.selection else "not selected"
            self.setAccessibleDescription(f"{each.label}, {each.rows:,} of {each.before:,} rows, {state}")

    def _previewed(self) -> tuple[MemberChoice, ...]:
        """The selection as it will be when the mouse is let go."""
        if self._drag is None:
            return self.selection
        first, last = sorted(self._drag)
        span = [each.choice for each in self.held[first : last + 1]]
        if self.single:
            return (self.held[self._drag[1]].choice,)
        if not self._adding:
            return tuple(span)
        if len(span) == 1 and span[0] in self.selection:
            return tuple(choice for choice in self.selection if choice != span[0])
        return (*self.selection, *(choice for choice in span if choice not in self.selection))

    # -- painting --------------------------------------------------------------------------------------

    def _area(self, at: int) -> QRectF:
        wide = self.width() / self.columns
        line, column = at // self.columns, at % self.columns
        return QRectF(column * wide, line * ROW, wide - (8 if self.columns > 1 else 0), ROW)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        if not self.held:
            painter.setPen(colour("muted"))
            write(painter, QRectF(0, 0, self.width(), ROW), "No member found", 12.5)
            return
        most = max((each.before for each in self.held), default=1) or 1
        selection = self._previewed()
        area = event.rect() if event is not None else self.rect()
        first, last = max(0, area.top() // ROW), area.bottom() // ROW + 1
        for at in range(first * self.columns, min(len(self.held), last * self.columns)):
            self._paint_member(painter, at, self.held[at], most, selection)

    def _paint_member(
        self, painter: QPainter, at: int, each: Holding, most: int, selection: tuple[MemberChoice, ...]
    ) -> None:
        area = self._area(at)
        x, y, wide = area.x(), area.y(), area.width()
        chosen = each.choice in selection
        if at == self._hover or (self.hasFocus() and at == self._cursor):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("ghost", 0.45, "paper"))
            painter.drawRoundedRect(QRectF(x, y + 1, wide, ROW - 2), 4, 4)
        if self.hasFocus() and at == self._cursor:
            painter.setPen(QPen(colour("plum"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(x + 0.5, y + 1.5, wide - 1, ROW - 3), 4, 4)
        painter.setPen(QPen(colour("plum"), 1.4))
        painter.setBrush(colour("plum") if chosen else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QRectF(x + 3, y + 5.5, 8.4, 8.4))
        number = f"{each.rows:,}" if wide >= _COUNTED else ""
        painter.setPen(pen("muted"))
        write(painter, QRectF(x, y, wide - 4, 21), number, 12, side="right")
        room, weight = int(wide - 26 - text_width(number, 12)), 600 if chosen else 400
        painter.setPen(pen("muted" if each.rows == 0 else "ink"))
        write(painter, QRectF(x + 18, y, room + 2, 21), elided(each.label, room, 13, weight), 13, weight)
        width = wide - 22
        painter.fillRect(QRectF(x + 18, y + 21, max(width * each.before / most, 1), 3), colour("ghost"))
        if each.rows:
            strength = 1.0 if chosen or not selection else 0.45
            now = QRectF(x + 18, y + 21, max(width * each.rows / most, 1), 3)
            painter.fillRect(now, colour("plum", strength, "paper"))

    # -- events ----------------------------------------------------------------------------------------

    def row_at(self, place: QPoint) -> int:
        """The member at a place; the nearest one where it lies beside them."""
        if not self.held:
            return -1
        line = min(max(place.y() // ROW, 0), self.lines - 1)
        column = min(max(int(place.x() / (self.width() / self.columns)), 0), self.columns - 1)
        return min(line * self.columns + column, len(self.held) - 1)

    def row_centre(self, at: int) -> QPoint:
        return self._area(at).center().toPoint()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or not self.held:
            return
        row = self.row_at(event.position().toPoint())
        self._adding = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        start = self._cursor if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else row
        self._drag = (start, row)
        self._cursor = row
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        row = self.row_at(event.position().toPoint())
        if self._drag is not None and row != self._drag[1]:
            self._drag = (self._drag[0], row)
        if row != self._hover or self._drag is not None:
            self._hover = row
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is None:
            return
        alone = self._drag[0] == self._drag[1] and not self._adding
        self._cursor = self._drag[1]
        wanted = self._previewed()
        self._drag = None
        # Clicking the only one chosen lets everything through again.
        self.chosen.emit(() if alone and wanted == self.selection else wanted)
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.held:
            return
        key = Qt.Key(event.key())
        steps = {
            Qt.Key.Key_Down: self.columns, Qt.Key.Key_Up: -self.columns,
            Qt.Key.Key_Right: 1 if self.columns > 1 else 0, Qt.Key.Key_Left: -1 if self.columns > 1 else 0,
        }  # fmt: skip
        choice = self.held[self._cursor].choice
        if steps.get(key):
            self._cursor = min(max(self._cursor + steps[key], 0), len(self.held) - 1)
            self._describe()
            self._reveal()
            self.update()
        elif key == Qt.Key.Key_Space and not self.single:
            kept = tuple(each for each in self.selection if each != choice)
            self.chosen.emit(kept if choice in self.selection else (*self.selection, choice))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(() if self.selection == (choice,) else (choice,))
        elif key == Qt.Key.Key_Escape and self.selection:
            self.chosen.emit(())
        else:
            super().keyPressEvent(event)

    def _reveal(self) -> None:
        parent = self.parent()
        area = parent.parent() if parent is not None else None
        if isinstance(area, QScrollArea):
            area.ensureVisible(4, self.row_centre(self._cursor).y(), 0, ROW)

    def event(self, event: QEvent | None) -> bool:
        if tip_asked(event) and self.held:
            each = self.held[self.row_at(event.pos())]
            words = f"{each.label}\n{each.rows:,} rows now · {each.before:,} before slicing"
            show_tip(event.globalPos(), words, self)
            return True
        return super().event(event)
