"""A number slicer: the field's distribution with a handle at either end, and limits that can be typed.

Drag a handle, or over the bars; keys: Left and Right move the range, with Shift its end; Escape lets all through.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from summula.core.fields.figures import FigureStyle, typed_number
from summula.core.refusal import Refusal
from summula.core.slicing.slicerkinds import slicer_words
from summula.desk.board.slicerhead import SlicerHead
from summula.desk.theme import colour, font, tint
from summula.desk.widgets.plaintext import Label

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Holding, NumberSlicer

_HIGH, _EDGE, _HANDLE = 46, 8.0, 8
Ends = tuple[float | None, float | None]


class RangeBars(QWidget):
    """The distribution; `limits` are the places between bars, those at the ends open (None)."""

    chosen = pyqtSignal(object)  # (low, high), None where open

    def __init__(self, name: str) -> None:
        super().__init__()
        self.held: list[Holding] = []
        self.limits: list[float | None] = []
        self.span: tuple[int, int] = (0, 0)  # the first bar and the one after the last that are let through
        self._grip: tuple[str, int] | None = None
        self.setFixedHeight(_HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(f"Slicer {name}")

    def show_range(self, slicer: NumberSlicer, held: list[Holding]) -> None:
        self.held = [each for each in held if each.choice is not None]
        edges = slicer.dimension.bands.at if slicer.dimension.bands is not None else ()
        inner = list(edges[: max(len(self.held) - 1, 0)])
        self.limits = [None, *inner, None]
        low = inner.index(slicer.low) + 1 if slicer.low in inner else 0
        high = inner.index(slicer.high) + 1 if slicer.high in inner else len(self.held)
        self.span = (low, high)
        self.setAccessibleDescription(slicer_words(slicer) or "all values")
        self.update()

    def x_of(self, at: int) -> float:
        return _EDGE + (self.width() - 2 * _EDGE) * at / max(len(self.held), 1)

    def _at(self, x: float) -> int:
        share = (x - _EDGE) / max(self.width() - 2 * _EDGE, 1)
        return min(max(round(share * len(self.held)), 0), len(self.held))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        most, base = max((each.before for each in self.held), default=1) or 1, _HIGH - 8.0
        for at, each in enumerate(self.held):
            left, wide = self.x_of(at), self.x_of(at + 1) - self.x_of(at) - 1
            inside = self.span[0] <= at < self.span[1]
            for count, ink in ((each.before, "ghost"), (each.rows if inside else 0, "plum")):
                tall = (base - 4) * count / most
                painter.fillRect(QRectF(left, base - tall, max(wide, 1), tall), colour(ink, 1.0, "paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setPen(QPen(colour("plum"), 2.4 if self.hasFocus() else 1.6))
        first, last = self.x_of(self.span[0]), self.x_of(self.span[1])
        painter.drawLine(QPointF(first, base + 3), QPointF(last, base + 3))
        painter.setBrush(colour("sheet"))
        for x in (first, last):
            painter.drawEllipse(QPointF(x, base + 3), 4.5, 4.5)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or not self.held:
            return
        x = event.position().x()
        near = [abs(x - self.x_of(each)) for each in self.span]
        if min(near) <= _HANDLE:
            self._grip = ("low" if near[0] <= near[1] else "high", 0)
        else:
            self._grip = ("over", self._at(x - (self.x_of(1) - self.x_of(0)) / 2))
            self.span = (self._grip[1], min(self._grip[1] + 1, len(self.held)))
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        x = event.position().x()
        if self._grip is None:
            near = min((abs(x - self.x_of(each)) for each in self.span), default=99.0) <= _HANDLE
            self.setCursor(Qt.CursorShape.SizeHorCursor if near else Qt.CursorShape.PointingHandCursor)
            return
        at, (low, high) = self._at(x), self.span
        match self._grip:
            case ("low", _):
                self.span = (min(at, high - 1), high)
            case ("high", _):
                self.span = (low, max(at, low + 1))
            case (_, start):
                self.span = (min(start, at), max(start + 1, at))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._grip is not None:
            self._grip = None
            self._say()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key())) if event is not None else None
        low, high = self.span
        if event is None or not self.held:
            return
        if event.key() == Qt.Key.Key_Escape and self.span != (0, len(self.held)):
            self.span = (0, len(self.held))
            self._say()
        elif step is None:
            super().keyPressEvent(event)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.span = (low, min(max(high + step, low + 1), len(self.held)))
            self._say()
        elif low + step >= 0 and high + step <= len(self.held):
            self.span = (low + step, high + step)
            self._say()
        elif self.span == (0, len(self.held)):
            self.span = (0, 1) if step > 0 else (len(self.held) - 1, len(self.held))
            self._say()

    def _say(self) -> None:
        low, high = self.span
        self.update()
        self.chosen.emit((self.limits[low], self.limits[high]))


class RangeView(QWidget):
    """The bars, and their limits to be typed."""

    chosen = pyqtSignal(str, object)  # slicer id; (low, high), None where open
    restyled = pyqtSignal(object)
    removed = pyqtSignal(str)
    refused = pyqtSignal(object)

    def __init__(self, slicer: NumberSlicer) -> None:
        super().__init__()
        self.slicer = slicer
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        self.head = SlicerHead(slicer.field)
        self.head.cleared.connect(lambda: self.chosen.emit(self.slicer.id, (None, None)))
        self.head.removed.connect(lambda: self.removed.emit(self.slicer.id))
        column.addWidget(self.head)
        self.bars = RangeBars(slicer.field)
        self.bars.chosen.connect(lambda ends: self.chosen.emit(self.slicer.id, ends))
        column.addWidget(self.bars)
        row = QHBoxLayout()
        row.setSpacing(5)
        self.low, self.high = QLineEdit(), QLineEdit()
        for words, line, hint in (("from", self.low, "any"), ("under", self.high, "any")):
            label = Label(words)
            label.setFont(font(12))
            tint(label, "muted")
            line.setPlaceholderText(hint)
            line.setAccessibleName(f"{slicer.field} {words}")
            line.returnPressed.connect(self._typed)
            row.addWidget(label)
            row.addWidget(line, 1)
        column.addLayout(row)

    def show_slicer(self, slicer: NumberSlicer, held: list[Holding], *, arranging: bool) -> None:
        self.slicer = slicer
        self.bars.show_range(slicer, held)
        self.head.say("" if slicer.narrows else "all", narrows=slicer.narrows, arranging=arranging, has_look=False)
        plain = FigureStyle()
        for line, value in ((self.low, slicer.low), (self.high, slicer.high)):
            if not line.hasFocus() or value is None:
                line.setText("" if value is None else plain.text(value))

    def _typed(self) -> None:
        ends: list[float | None] = []
        for line in (self.low, self.high):
            text = line.text().strip()
            number = typed_number(text) if text else None
            if text and number is None:
                self.refused.emit(Refusal(f"'{text}' is no number", "enter digits"))
                return
            ends.append(number)
        if ends[0] is not None and ends[1] is not None and ends[0] >= ends[1]:
            self.refused.emit(Refusal("the start is not below the end", "enter the smaller number first"))
            return
        self.chosen.emit(self.slicer.id, tuple(ends))

    def sizeHint(self) -> QSize:
        return QSize(174, 110)
