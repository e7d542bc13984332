"""The margin: what is selected on the page, its settings, and second looks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from summula.core.secondlook import SecondLook
from summula.core.statistics.distribution import Distribution
from summula.desk.theme import TOKENS, colour, font
from summula.desk.widgets.glyphs import paint_shape
from summula.desk.widgets.popover import small_heading
from summula.desk.widgets.swaparea import SwapArea

WIDTH = 250


@dataclass(frozen=True)
class Pair:
    """A label and its value; with `change`, the value is a button that changes it."""

    label: str
    value: str
    change: Callable[[QWidget], None] | None = None


@dataclass(frozen=True)
class Note:
    text: str


@dataclass(frozen=True)
class Deed:
    """Something to do about what is selected."""

    text: str
    run: Callable[[], None]


Block = str | Pair | Note | Deed | SecondLook | Distribution | QWidget


class _Shape(QWidget):
    def __init__(self, shape: Distribution) -> None:
        super().__init__()
        self.shape = shape
        self.setFixedHeight(58)
        commonest = "; ".join(
            f"{label}: {height:,}" for label, height in zip(shape.labels, shape.heights, strict=False)
        )
        self.setAccessibleName("Distribution")
        self.setAccessibleDescription(commonest)
        self.setToolTip("\n".join(commonest.split("; ")[:14]))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_shape(QPainter(self), self.shape.heights, QRectF(0, 4, self.width(), self.height() - 8))


class Margin(SwapArea):
    """The right side of the frame. Pages hand it blocks; it lays them out."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Margin")

    def show_blocks(self, blocks: list[Block]) -> None:
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
            elif isinstance(block, Deed):
                column.addSpacing(6)
                button = QPushButton(block.text)
                button.clicked.connect(block.run)
                column.addWidget(button)
            elif isinstance(block, SecondLook):
                column.addWidget(_second_look(block))
                column.addSpacing(8)
            elif isinstance(block, Distribution):
                column.addWidget(_Shape(block))
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
    line.setStyleSheet(f"QFrame#pair {{ border-bottom: 1px dotted {TOKENS['hairline']}; }}")
    row = QHBoxLayout(line)
    row.setContentsMargins(0, 5, 0, 5)
    label = QLabel(pair.label)
    label.setWordWrap(True)
    row.addWidget(label, 1)
    if pair.change is None:
        value = QLabel(pair.value)
        value.setFont(font(13, 600))
        value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        value.setWordWrap(True)
        value.setToolTip(pair.value)
        row.addWidget(value, 1)
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
    label.setStyleSheet(f"color: {TOKENS['muted']};")
    label.setContentsMargins(0, 4, 0, 4)
    return label


def _second_look(look: SecondLook) -> QWidget:
    frame = QFrame()
    frame.setObjectName("look")
    frame.setStyleSheet(
        f"QFrame#look {{ background: {TOKENS['sheet']}; border-left: 3px solid {TOKENS['series 1']}; }}"
    )
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
    frame.setAccessibleName(f"Worth a second look: {look.title} {look.text}")
    return frame
