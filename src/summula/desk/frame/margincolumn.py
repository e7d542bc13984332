"""The column of widgets in the margin that tell a page's blocks: those that are there are used again."""

from __future__ import annotations

from itertools import pairwise

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from summula.desk.frame.margin import WIDTH
from summula.desk.frame.marginblocks import APART, Block
from summula.desk.frame.marginrows import Kept, reached, widget_of

_RESTING = 30  # widgets


class MarginColumn(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.setMaximumWidth(WIDTH)
        self._shown: list[QWidget] = []  # one a block
        self._resting: list[QWidget] = []  # made for other pages, and used again
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(16, 14, 16, 16)
        self._column.setSpacing(0)

    def show_blocks(self, blocks: list[Block]) -> None:
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
        if [each for each in self.children() if each in self._shown] != self._shown:
            for widget in self._shown:  # they are read out in the order in which they lie upon each other
                widget.raise_()
        self.show()

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
