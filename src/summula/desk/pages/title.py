"""A page's name, changed where it stands."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QLineEdit

from summula.desk.theme import font

if TYPE_CHECKING:
    from summula.desk.session import Session


class Title(QLineEdit):
    """A page's name, changed where it stands: Enter takes it, Escape leaves it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self._page = session, ""
        self.setFont(font(22, 600, serif=True))
        self.setObjectName("title")
        self.setAccessibleName("Name of this page")
        self.editingFinished.connect(self._take)
        self.installEventFilter(self)

    def show_name(self, page_id: str, name: str) -> None:
        self._page = page_id
        if not self.hasFocus() or self.text() != name:
            self.setText(name)
            self.setCursorPosition(0)

    def _take(self) -> None:
        self.session.rename(self._page, self.text())

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape:
            self.undo()
            self.clearFocus()
            return True
        return super().eventFilter(watched, event)
