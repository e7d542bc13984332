"""A scroll area whose content is replaced whole, safely from within a signal of the old content."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QScrollArea, QWidget

_going: list[QWidget] = []


def let_go(widget: QWidget) -> None:
    """Let a widget go that nothing holds any more, once control is back in the event loop: it may be what called. Until
    then it is held here, since without a parent it is Python's own, which would delete it at once."""
    _going.append(widget)
    widget.destroyed.connect(lambda: QTimer.singleShot(0, _forget))  # with it what it showed
    widget.hide()
    widget.deleteLater()


def _forget() -> None:
    _going[:] = [each for each in _going if not sip.isdeleted(each)]


class SwapArea(QScrollArea):
    """Scrolls up and down only."""

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what it holds is reached, and scrolled to

    def swap(self, inner: QWidget) -> None:
        """Show `inner` in place of what was shown."""
        old = self.takeWidget()
        self.setWidget(inner)
        if old is not None:
            let_go(old)
