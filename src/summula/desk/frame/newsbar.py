"""News under the header: a source that has changed, or what a new reading brought. It stays until dismissed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from summula.desk.theme import colour
from summula.desk.widgets.plaintext import Button, Label


class NewsBar(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("News")
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 6, 16, 6)
        row.setSpacing(8)
        self.text = Label()
        self.text.setWordWrap(True)
        self.text.setTextFormat(Qt.TextFormat.PlainText)
        self.text.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        row.addWidget(self.text, 1)
        self.edit_name = Button()
        self.edit_name.setProperty("strong", "true")
        self.edit_name.clicked.connect(self._do)
        row.addWidget(self.edit_name)
        self.away = Button("Dismiss")
        self.away.clicked.connect(self._decline)
        row.addWidget(self.away)
        self._run: Callable[[], None] | None = None
        self.declined: Callable[[], None] | None = None  # what dismissing it does
        self.hide()

    def tell(self, sentence: str, edit_name: str = "", run: Callable[[], None] | None = None) -> None:
        """Show a sentence, and a button where something can be done about it."""
        self.text.setText(sentence)
        self.setAccessibleDescription(sentence)
        self.edit_name.setText(edit_name)
        self.edit_name.setVisible(bool(edit_name))
        self._run = run
        self.declined = None
        self.show()

    def _decline(self) -> None:
        self.hide()
        if self.declined is not None:
            self.declined()

    def _do(self) -> None:
        self.hide()
        if self._run is not None:
            self._run()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("plum wash"))
        painter.fillRect(0, self.height() - 1, self.width(), 1, colour("hairline"))
