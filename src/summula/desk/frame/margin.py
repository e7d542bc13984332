"""The margin: what is selected on the page, its settings, and second looks."""

from __future__ import annotations

from itertools import pairwise

from PyQt6.QtCore import QSize, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from summula.desk.frame.marginblocks import APART, WIDTH, Block
from summula.desk.frame.marginrows import Kept, reached, widget_of
from summula.desk.theme import colour
from summula.desk.widgets.swaparea import SwapArea

_RESTING = 30  # widgets
_A_FRAME = 16  # ms


class Margin(SwapArea):
    """The right side of the frame. Pages hand it blocks; it lays them out."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Margin")
        self._blocks: list[Block] | None = None  # what is to be shown next
        self._shown: list[QWidget] = []  # one a block
        self._resting: list[QWidget] = []  # made for other pages, and used again
        self._column: QVBoxLayout | None = None
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
            inner = QWidget()
            inner.setMaximumWidth(WIDTH)
            self._column = QVBoxLayout(inner)
            self._column.setContentsMargins(16, 14, 16, 16)
            self._column.setSpacing(0)
            self.swap(inner)
        column, before = self._column, self._shown
        self._shown = self._widgets(blocks)
        column.setEnabled(False)  # each that is shown would have everything laid out anew
        while column.count():
            column.takeAt(0)
        for at, (block, widget) in enumerate(zip(blocks, self._shown, strict=True)):
            above, below = APART.get(type(block), (0, 0))
            column.addSpacing(above if at or not isinstance(block, str) else 0)
            column.addWidget(widget)
            column.addSpacing(below)
            if widget.isHidden():
                widget.show()
        column.addStretch(1)
        for widget in before:
            if widget not in self._shown:
                self._put_by(widget)
        column.setEnabled(True)
        column.invalidate()
        in_order = [each for widget in self._shown for each in reached(widget)]
        for one, other in pairwise(in_order):
            QWidget.setTabOrder(one, other)
        content = column.parentWidget()
        if content is not None:
            if [each for each in content.children() if each in self._shown] != self._shown:
                for widget in self._shown:  # they are read out in the order in which they lie upon each other
                    widget.raise_()
            content.show()

    def _put_by(self, widget: QWidget) -> None:
        """A widget that is not shown any more waits for its next block; or it goes, once control is back in the event
        loop: it may be what called."""
        widget.hide()
        if isinstance(widget, Kept) and len(self._resting) < _RESTING:
            widget.rest()
            self._resting.append(widget)
        else:
            widget.deleteLater()

    def _widgets(self, blocks: list[Block]) -> list[QWidget]:
        """A widget a block: one that is shown where it can tell the block (making and styling one takes longer than all
        else that an edit does), of those one of the same name first."""
        kept = [widget for widget in (*self._shown, *self._resting) if isinstance(widget, Kept)]
        found: dict[int, QWidget] = {}
        for same_name in (True, False):
            for at, block in enumerate(blocks):
                if at not in found:
                    fit = next((each for each in kept if each.takes(block, same_name=same_name)), None)
                    if fit is not None:
                        kept.remove(fit)
                        fit.show_block(block)
                        found[at] = fit
        self._resting = [widget for widget in self._resting if widget in kept]
        return [found[at] if at in found else widget_of(block) for at, block in enumerate(blocks)]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self.viewport())
        painter.setPen(colour("hairline"))
        painter.drawLine(0, 0, 0, self.height())

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 400)
