"""What stands on the desk before anything is open: what to do next."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from summula.desk.session import Session
from summula.desk.theme import font, tint


class EmptyPage(QWidget):
    opened = pyqtSignal()
    demo = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("page")
        column = QVBoxLayout(self)
        column.setSpacing(12)
        column.addStretch(2)
        title = QLabel("Begin with a flat table")
        title.setFont(font(28, 600, serif=True))
        title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        text = QLabel(
            "Open a CSV, TSV or XLSX file, or drop one on this window.\n"
            "Its fields are read and described; then ask it something."
        )
        text.setAlignment(Qt.AlignmentFlag.AlignCenter)
        text.setFont(font(14))
        tint(text, "muted")
        row = QHBoxLayout()
        row.addStretch(1)
        opening = QPushButton("Open a file")
        opening.setProperty("strong", "true")
        opening.clicked.connect(self.opened)
        showing = QPushButton("Look at the demo")
        showing.clicked.connect(self.demo)
        row.addWidget(opening)
        row.addWidget(showing)
        row.addStretch(1)
        column.addWidget(title)
        column.addWidget(text)
        column.addSpacing(8)
        column.addLayout(row)
        column.addStretch(3)
