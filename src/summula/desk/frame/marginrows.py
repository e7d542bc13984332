"""The rows of the margin: a widget for each kind of block."""

from __future__ import annotations

from typing import assert_never

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QVBoxLayout,
    QWidget,
)

from summula.core.secondlook.look import SecondLook
from summula.core.statistics.distribution import Distribution
from summula.desk.frame.margin import WIDTH
from summula.desk.frame.marginblocks import ActionBlock, Block, Buttons, LookBlock, Note, Offer, Pair, Shape
from summula.desk.theme import colour, font, repolish, tint
from summula.desk.widgets.flow import FlowLayout
from summula.desk.widgets.glyphs import paint_kind, paint_shape
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.popover import small_heading
from summula.desk.widgets.writing import write


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
            set_tip(self, f"{self.shape.labels[at]}: {rows:,} {'row' if rows == 1 else 'rows'}")

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


def widget_of(block: Block) -> QWidget:
    match block:
        case str():
            return _HeadingRow(block)
        case Pair():
            return _PairRow(block)
        case Note():
            return _NoteRow(block)
        case ActionBlock():
            return _ActionRow(block)
        case SecondLook():
            return _LookRow(LookBlock(block))
        case LookBlock():
            return _LookRow(block)
        case Shape():
            return ShapeView(block)
        case Distribution():
            return ShapeView(Shape(block))
        case Offer():
            return _OfferRow(block)
        case Buttons():
            return _ButtonsRow(block)
        case QWidget():
            return block
        case _:
            assert_never(block)


def reached(widget: QWidget) -> list[QWidget]:
    """What of a block's widget the keys reach, in its order; not what opens in a window of its own."""
    window, by_tab = widget.window(), (Qt.FocusPolicy.StrongFocus, Qt.FocusPolicy.TabFocus)
    inside = [widget, *widget.findChildren(QWidget)]
    return [each for each in inside if each.focusPolicy() in by_tab and each.window() is window]


class Kept:
    """What a widget of the margin is besides, where it can tell another block of its kind."""

    def takes(self, block: Block, *, same_name: bool) -> bool:
        raise NotImplementedError

    def show_block(self, block: Block) -> None:
        raise NotImplementedError

    def rest(self) -> None:
        """It is put by: what its block would do is let go, with the rows that may hang on it."""


def _nothing(*_: object) -> None:
    """What a widget does that rests."""


class _HeadingRow(QFrame, Kept):
    def __init__(self, text: str) -> None:
        super().__init__()
        self.text = text
        self.label = small_heading(text)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.label)

    def takes(self, block: Block, *, same_name: bool) -> bool:
        return isinstance(block, str) and (block == self.text or not same_name)

    def show_block(self, block: Block) -> None:
        assert isinstance(block, str)
        self.text = block
        self.label.setText(block.upper())


class _PairRow(QFrame, Kept):
    def __init__(self, pair: Pair) -> None:
        super().__init__()
        self.pair = pair
        self.setObjectName("pair")
        self.row = QHBoxLayout(self)
        room = 5 if pair.change is None else 1
        # Values end where a button's words do.
        self.row.setContentsMargins(0, room, room if pair.change is None else 0, room)
        self.label = Label(pair.label)
        self.label.setWordWrap(True)
        self.row.addWidget(self.label, 1)
        self.value: Label | Button
        if pair.change is None:
            self.value = value = Label()
            value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            value.setWordWrap(True)
        else:
            self.value = button = Button()
            button.setProperty("quiet", "true")
            button.clicked.connect(lambda: self.pair.change and self.pair.change(button))
        self.value.setFont(font(13, 600))
        self.row.addWidget(self.value)
        self.show_block(pair)

    def takes(self, block: Block, *, same_name: bool) -> bool:
        own = self.pair
        if not isinstance(block, Pair) or (block.change is None) != (own.change is None):
            return False
        return block.label == own.label or not same_name

    def rest(self) -> None:
        self.pair = Pair(self.pair.label, self.pair.value, self.pair.change and _nothing, self.pair.by_default)

    def show_block(self, block: Block) -> None:
        assert isinstance(block, Pair)
        self.pair, value = block, self.value
        self.label.setText(block.label)
        value.setText(block.value)
        if isinstance(value, Button) and value.property("by_default") != str(block.by_default):
            value.setProperty("by_default", str(block.by_default))  # grey, where what was chosen stands out
            repolish(value)
            value.setFont(font(13, 400 if block.by_default else 600))
        named = value if isinstance(value, Button) else self
        named.setAccessibleName(f"{block.label}: {block.value}")
        if block.change is None:
            set_tip(value, block.value)
            # Each has room as it needs it; where both do not fit, the label gives way to half of it at most, a short
            # value not at all.
            needed = [each.fontMetrics().horizontalAdvance(each.text()) for each in (self.label, value)]
            self.label.setMinimumWidth(min(needed[0], WIDTH // 2 - 24))
            value.setMinimumWidth(needed[1] + 1 if needed[1] <= WIDTH // 3 else 0)
            self.row.setStretch(0, max(needed[0], 1))
            self.row.setStretch(1, max(needed[1], 1))


class _ActionRow(QFrame, Kept):
    def __init__(self, block: ActionBlock) -> None:
        super().__init__()
        self.block = block
        self.button = Button(block.text)
        self.button.clicked.connect(lambda: self.block.run())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.button)

    def takes(self, block: Block, *, same_name: bool) -> bool:
        return isinstance(block, ActionBlock) and (block.text == self.block.text or not same_name)

    def rest(self) -> None:
        self.block = ActionBlock(self.block.text, _nothing)

    def show_block(self, block: Block) -> None:
        assert isinstance(block, ActionBlock)
        self.block = block
        self.button.setText(block.text)


class _NoteRow(Label, Kept):
    def __init__(self, note: Note) -> None:
        super().__init__(note.text)
        self.setWordWrap(True)
        tint(self, "muted")
        self.setContentsMargins(0, 4, 0, 4)

    def takes(self, block: Block, *, same_name: bool) -> bool:
        return isinstance(block, Note) and (block.text == self.text() or not same_name)

    def show_block(self, block: Block) -> None:
        assert isinstance(block, Note)
        self.setText(block.text)


class _OfferRow(QAbstractButton, Kept):
    def __init__(self, offer: Offer) -> None:
        super().__init__()
        self.offer: Offer
        self.setFixedHeight(27)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.clicked.connect(lambda: self.offer.run(self))
        self.show_block(offer)

    def takes(self, block: Block, *, same_name: bool) -> bool:
        return isinstance(block, Offer) and (block.text == self.offer.text or not same_name)

    def rest(self) -> None:
        self.offer = Offer(self.offer.text, self.offer.glyph, _nothing, self.offer.hint)

    def show_block(self, block: Block) -> None:
        assert isinstance(block, Offer)
        self.offer = block
        set_tip(self, block.hint)
        self.setAccessibleName(block.text)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(WIDTH - 32, 27)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if self.underMouse() or self.isDown():
            painter.fillRect(self.rect(), colour("ghost", 0.5, "paper"))
        painter.setPen(colour("ink"))
        write(painter, QRectF(0, 0, self.width() - 24, self.height()), self.offer.text, 13)
        paint_kind(painter, self.offer.glyph, self.width() - 17, 7, "plum" if self.underMouse() else "muted")
        painter.setPen(colour("plum" if self.hasFocus() else "hairline"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()


class _LookRow(QFrame, Kept):
    """A second look, with the button of its remedy, if it has one."""

    def __init__(self, block: LookBlock) -> None:
        super().__init__()
        self.block: LookBlock
        self.setObjectName("look")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 8, 9)
        column.setSpacing(3)
        self.title, self.text = Label(), Label()
        for label, weight in ((self.title, 600), (self.text, 400)):
            label.setFont(font(12.5, weight))
            label.setWordWrap(True)
            column.addWidget(label)
        self.button: Button | None = None
        if _has_remedy(block):
            self.button = Button()
            self.button.setProperty("quiet", "true")
            self.button.clicked.connect(lambda: self.block.run and self.block.run())
            column.addWidget(self.button, 0, Qt.AlignmentFlag.AlignLeft)
        self.show_block(block)

    def takes(self, block: Block, *, same_name: bool) -> bool:
        told = LookBlock(block) if isinstance(block, SecondLook) else block
        if not isinstance(told, LookBlock) or _has_remedy(told) != (self.button is not None):
            return False
        return told.look.title == self.block.look.title or not same_name

    def rest(self) -> None:
        self.block = LookBlock(self.block.look, self.block.run and _nothing)

    def show_block(self, block: Block) -> None:
        told = LookBlock(block) if isinstance(block, SecondLook) else block
        assert isinstance(told, LookBlock)
        self.block, look = told, told.look
        self.title.setText(look.title)
        self.text.setText(look.text)
        if self.button is not None:
            self.button.setText(look.remedy)
            self.button.setAccessibleName(look.remedy)
        self.setAccessibleName(f"Worth a second look: {look.title} {look.text}")


def _has_remedy(block: LookBlock) -> bool:
    return bool(block.look.remedy) and block.run is not None


class _ButtonsRow(QWidget, Kept):
    def __init__(self, block: Buttons) -> None:
        super().__init__()
        self.block: Buttons
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(2)
        self.title = Label()
        self.title.setFont(font(12))
        tint(self.title, "muted")
        column.addWidget(self.title)
        row = QWidget()
        flow = FlowLayout(row)
        self.buttons = [Button() for _ in block.buttons]
        for at, button in enumerate(self.buttons):
            button.clicked.connect(lambda _, at=at: self.block.buttons[at][2]())
            flow.addWidget(button)
        column.addWidget(row)
        self.show_block(block)

    def takes(self, block: Block, *, same_name: bool) -> bool:
        if not isinstance(block, Buttons) or len(block.buttons) != len(self.buttons):
            return False
        return block.title == self.block.title or not same_name

    def show_block(self, block: Block) -> None:
        assert isinstance(block, Buttons)
        self.block = block
        self.title.setText(block.title)
        for button, (text, name, _) in zip(self.buttons, block.buttons, strict=True):
            button.setText(text)
            button.setAccessibleName(name)
            set_tip(button, name)

    def rest(self) -> None:
        self.block = Buttons(self.block.title, tuple((text, name, _nothing) for text, name, _ in self.block.buttons))
