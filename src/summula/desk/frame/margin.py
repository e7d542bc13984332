"""The margin: what is selected on the page, its settings, and second looks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QSize, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy

from summula.desk.theme import colour
from summula.desk.widgets.swaparea import SwapArea

if TYPE_CHECKING:
    from summula.desk.frame.marginblocks import Block
    from summula.desk.frame.margincolumn import MarginColumn

WIDTH = 250
_A_FRAME = 16  # ms


class Margin(SwapArea):
    """The right side of the frame. Pages hand it blocks; it lays them out."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Margin")
        self._blocks: list[Block] | None = None  # what is to be shown next
        self._column: MarginColumn | None = None  # made when a page has something to tell
        self._of = ""  # the page that they are of
        self._next = QTimer(self)
        self._next.setSingleShot(True)
        self._next.timeout.connect(self.lay_out)

    @property
    def of(self) -> str:
        """The page whose blocks are shown."""
        return self._of

    def show_blocks(self, blocks: list[Block], of: str) -> None:
        """Show blocks, in place of what is there. Those `of` another page come a frame later: that page is painted
        first. What the last one offered is out of reach by then."""
        turned = of != self._of
        self._blocks, self._of = blocks, of
        inner = self.widget()
        bar = self.verticalScrollBar()
        if turned and bar is not None:
            bar.setValue(0)
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
        if self._column is None:
            from summula.desk.frame.margincolumn import MarginColumn

            self._column = MarginColumn()
            self.swap(self._column)
        self._column.show_blocks(blocks)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self.viewport())
        painter.setPen(colour("hairline"))
        painter.drawLine(0, 0, 0, self.height())

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 400)
