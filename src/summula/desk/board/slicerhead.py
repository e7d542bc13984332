"""What stands above every slicer: its name, what is chosen, and the ways to clear it, change its look and remove it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Button, Label


class SlicerHead(QWidget):
    """`name` says what it slices by."""

    cleared = pyqtSignal()
    removed = pyqtSignal()
    looks = pyqtSignal(QWidget)  # the button that its look is asked for by

    def __init__(self, name: str) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        row = QHBoxLayout()
        title = Label(name)
        title.setFont(font(15, 600, serif=True))
        title.setMinimumWidth(20)
        self.count = Label()
        self.count.setFont(font(12))
        tint(self.count, "muted")
        self.clear = self._quiet("clear", f"Clear {name}", self.cleared.emit)
        self.remove = self._quiet("remove", f"Remove the slicer {name}", self.removed.emit)
        self.look = self._quiet("settings ▾", f"Settings of the slicer {name}", self._ask_look)
        row.addWidget(title, 1)
        for each in (self.clear, self.look, self.remove, self.count):
            row.addWidget(each)
        column.addLayout(row)
        rule = QWidget()
        rule.setFixedHeight(1)
        rule.setObjectName("rule")
        rule.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        column.addWidget(rule)

    def _ask_look(self) -> None:
        self.looks.emit(self.look)

    def _quiet(self, text: str, name: str, run: Callable[[], object]) -> Button:
        button = Button(text)
        button.setProperty("quiet", "true")
        button.setAccessibleName(name)
        button.clicked.connect(lambda: run())
        return button

    def say(self, count: str, *, narrows: bool, arranging: bool, has_look: bool = True) -> None:
        self.count.setText(count)
        self.count.setVisible(not arranging)
        self.clear.setVisible(narrows and not arranging)
        self.remove.setVisible(arranging)
        self.look.setVisible(arranging and has_look)
