"""A word, and a few small buttons that belong to it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from summula.desk.theme import font, tint
from summula.desk.widgets.flow import FlowLayout


class ButtonRow(QWidget):
    """Each button has a short text, a full name and what it does."""

    def __init__(self, title: str, buttons: Sequence[tuple[str, str, Callable[[], object]]]) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(2)
        label = QLabel(title)
        label.setFont(font(12))
        tint(label, "muted")
        column.addWidget(label)
        row = QWidget()
        flow = FlowLayout(row)
        for text, name, run in buttons:
            button = QPushButton(text)
            button.setAccessibleName(name)
            button.setToolTip(name)
            button.clicked.connect(lambda _, run=run: run())
            flow.addWidget(button)
        column.addWidget(row)
