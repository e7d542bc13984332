"""A line to search with."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QLineEdit

if TYPE_CHECKING:
    from PyQt6.QtGui import QShowEvent


class SearchLine(QLineEdit):
    """Says what is searched while it is empty; `name` is what a screen reader hears. Its button that empties it is made
    when it is seen first: many never are."""

    def __init__(self, hint: str, name: str = "") -> None:
        super().__init__()
        self.setPlaceholderText(hint)
        self.setAccessibleName(name or hint)

    def showEvent(self, event: QShowEvent | None) -> None:
        if not self.isClearButtonEnabled():
            self.setClearButtonEnabled(True)
        super().showEvent(event)
