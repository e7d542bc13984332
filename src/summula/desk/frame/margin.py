"""The margin: what is selected on the page, its settings, and second looks."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from summula.core.secondlook.look import SecondLook
from summula.core.statistics.distribution import Distribution
from summula.core.tables.field import Kind
from summula.desk.theme import colour, font, tint
from summula.desk.widgets.glyphs import paint_kind, paint_shape
from summula.desk.widgets.popover import small_heading
from summula.desk.widgets.swaparea import SwapArea

WIDTH = 250
_A_FRAME = 16  # ms


class Pair(msgspec.Struct, frozen=True):
    """A label and its value; with `change`, the value is a button that changes it."""

    label: str
    value: str
    change: Callable[[QWidget], None] | None = None


class Note(msgspec.Struct, frozen=True):
    text: str


class ActionBlock(msgspec.Struct, frozen=True):
    """Something to do about what is selected."""

    text: str
    run: Callable[[], None]


class LookBlock(msgspec.Struct, frozen=True):
    """A second look, and what its remedy does."""

    look: SecondLook
    run: Callable[[], None] | None = None


class Offer(msgspec.Struct, frozen=True):
    """Something that can be made: its words, a kind's glyph behind them."""

    text: str
    glyph: Kind
    run: Callable[[QWidget], None]
    hint: str = ""


class Shape(msgspec.Struct, frozen=True):
    """A distribution; with `chosen`, each of its bars can be clicked."""

    shape: Distribution
    chosen: Callable[[int], None] | None = None


Block = LookBlock | Offer | Shape | str | Pair | Note | ActionBlock | SecondLook | Distribution | QWidget


class ShapeView(QWidget):
    """A field's distribution. A click on a bar (or Enter, after the arrows) asks for its rows."""

    def __init__(self, block: Shape) -> None:
        super().__init__()
        self.shape, self.chosen = block.shape, block.chosen
        self.at = -1
        self.setFixedHeight(58)
        self.setMouseTracking(True)
        commonest = "; ".join(
            f"{label}: {height:,}" for label, height in zip(self.shape.labels, self.shape.heights, strict=False)
        )
        self.setAccessibleName("Distribution")
        self.setAccessibleDescription(commonest)
        if self.chosen is not None:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
            self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def bar_at(self, x: float) -> int:
        count = len(self.shape.heights)
        return min(max(int(x / max(self.width(), 1) * count), 0), count - 1) if count else -1

    def _point(self, at: int) -> None:
        if at != self.at:
            self.at = at
            self.update()
        if 0 <= at < len(self.shape.heights):
            rows = self.shape.heights[at]
            self.setToolTip(f"{self.shape.labels[at]}: {rows:,} {'row' if rows == 1 else 'rows'}")

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._point(self.bar_at(event.position().x()))

    def leaveEvent(self, event: object) -> None:
        self._point(-1)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self.chosen is not None and self.shape.heights:
            self.chosen(self.bar_at(event.position().x()))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key())) if event is not None else None
        if step is not None:
            self._point(min(max(self.at + step, 0), len(self.shape.heights) - 1))
        elif (
            event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and self.chosen and self.at >= 0
        ):
            self.chosen(self.at)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        area = QRectF(0, 4, self.width(), self.height() - 8)
        paint_shape(painter, self.shape.heights, area)
        if 0 <= self.at < len(self.shape.heights):
            only = [height if at == self.at else 0 for at, height in enumerate(self.shape.heights)]
            top = max(self.shape.heights)
            step = area.width() / len(only)
            tall = max(1.0, area.height() * only[self.at] / top) if top else 0
            place = QRectF(area.x() + self.at * step, area.bottom() - tall, max(step - 1, 1), tall)
            painter.fillRect(place, colour("plum"))
        if self.hasFocus():
            painter.setPen(colour("plum"))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


class Margin(SwapArea):
    """The right side of the frame. Pages hand it blocks; it lays them out."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Margin")
        self._blocks: list[Block] | None = None  # what is to be shown next
        self._of = ""  # the page that they are of
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self.lay_out)

    def show_blocks(self, blocks: list[Block], of: str) -> None:
        """Show blocks, in place of what is there. Those `of` another page come a frame later: that page is painted
        first. What the last one offered is out of reach by then."""
        turned = of != self._of
        self._blocks, self._of = blocks, of
        inner = self.widget()
        if turned and inner is not None and self.isVisible():
            inner.hide()
            self._next.start(_A_FRAME)
        elif not self._next.isActive():
            self.lay_out()

    def lay_out(self) -> None:
        """Show at once what was asked for last."""
        blocks, self._blocks = self._blocks, None
        self._next.stop()
        if blocks is not None:
            self._build(blocks)

    def _build(self, blocks: list[Block]) -> None:
        inner = QWidget()
        inner.setMaximumWidth(WIDTH)
        column = QVBoxLayout(inner)
        column.setContentsMargins(16, 14, 16, 16)
        column.setSpacing(0)
        for at, block in enumerate(blocks):
            if isinstance(block, str):
                if at:
                    column.addSpacing(16)
                column.addWidget(small_heading(block))
                column.addSpacing(4)
            elif isinstance(block, Pair):
                column.addWidget(_pair(block))
            elif isinstance(block, Note):
                column.addWidget(_note(block.text))
            elif isinstance(block, ActionBlock):
                column.addSpacing(6)
                button = QPushButton(block.text)
                button.clicked.connect(block.run)
                column.addWidget(button)
            elif isinstance(block, SecondLook | LookBlock):
                column.addWidget(_second_look(block if isinstance(block, LookBlock) else LookBlock(block)))
                column.addSpacing(8)
            elif isinstance(block, Distribution | Shape):
                column.addWidget(ShapeView(block if isinstance(block, Shape) else Shape(block)))
            elif isinstance(block, Offer):
                column.addWidget(_OfferRow(block))
            else:
                column.addWidget(block)
        column.addStretch(1)
        self.swap(inner)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self.viewport())
        painter.setPen(colour("hairline"))
        painter.drawLine(0, 0, 0, self.height())

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 400)


def _pair(pair: Pair) -> QWidget:
    line = QFrame()
    line.setObjectName("pair")
    row = QHBoxLayout(line)
    room = 5 if pair.change is None else 1
    row.setContentsMargins(0, room, room if pair.change is None else 0, room)  # values end where a button's words do
    label = QLabel(pair.label)
    label.setWordWrap(True)
    row.addWidget(label, 1)
    if pair.change is None:
        value = QLabel(pair.value)
        value.setFont(font(13, 600))
        value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        value.setWordWrap(True)
        value.setToolTip(pair.value)
        # Each has room as it needs it; where both do not fit, the label gives way to half of it at most.
        needed = [each.fontMetrics().horizontalAdvance(each.text()) for each in (label, value)]
        label.setMinimumWidth(min(needed[0], WIDTH // 2 - 24))
        row.setStretch(0, max(needed[0], 1))
        row.addWidget(value, max(needed[1], 1))
        line.setAccessibleName(f"{pair.label}: {pair.value}")
    else:
        button = QPushButton(pair.value)
        button.setProperty("quiet", "true")
        button.setFont(font(13, 600))
        button.setAccessibleName(f"{pair.label}: {pair.value}")
        change = pair.change
        button.clicked.connect(lambda: change(button))
        row.addWidget(button)
    return line


def _note(text: str) -> QLabel:
    label = QLabel(text)
    label.setWordWrap(True)
    tint(label, "muted")
    label.setContentsMargins(0, 4, 0, 4)
    return label


class _OfferRow(QAbstractButton):
    def __init__(self, offer: Offer) -> None:
        super().__init__()
        self.offer = offer
        self.setFixedHeight(27)
        self.setToolTip(offer.hint)
        self.setAccessibleName(offer.text)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.clicked.connect(lambda: offer.run(self))

    def sizeHint(self) -> QSize:
        return QSize(WIDTH - 32, 27)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.underMouse() or self.isDown():
            painter.fillRect(self.rect(), colour("ghost", 0.5, "paper"))
        painter.setFont(font(13))
        painter.setPen(colour("ink"))
        painter.drawText(QRectF(0, 0, self.width() - 24, self.height()), Qt.AlignmentFlag.AlignVCenter, self.offer.text)
        paint_kind(painter, self.offer.glyph, self.width() - 17, 7, "plum" if self.underMouse() else "muted")
        painter.setPen(colour("plum" if self.hasFocus() else "hairline"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()


def _second_look(block: LookBlock) -> QWidget:
    look = block.look
    frame = QFrame()
    frame.setObjectName("look")
    column = QVBoxLayout(frame)
    column.setContentsMargins(10, 8, 8, 9)
    column.setSpacing(3)
    title = QLabel(look.title)
    title.setFont(font(12.5, 600))
    title.setWordWrap(True)
    text = QLabel(look.text)
    text.setFont(font(12.5))
    text.setWordWrap(True)
    column.addWidget(title)
    column.addWidget(text)
    if look.remedy and block.run is not None:
        button = QPushButton(look.remedy)
        button.setProperty("quiet", "true")
        button.setAccessibleName(look.remedy)
        button.clicked.connect(block.run)
        column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
    frame.setAccessibleName(f"Worth a second look: {look.title} {look.text}")
    return frame
