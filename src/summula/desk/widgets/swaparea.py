"""A scroll area whose content is replaced whole, safely from within a signal of the old content."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QWidget


class SwapArea(QScrollArea):
    """Scrolls up and down only."""

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what it holds is reached, and scrolled to

    def swap(self, inner: QWidget) -> None:
        """Show `inner`. The old content goes once control is back in the event loop: it may be what called."""
        old = self.takeWidget()
        self.setWidget(inner)
        if old is not None:
            old.hide()
            old.deleteLater()
