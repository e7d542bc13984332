"""What stands on the desk before anything is open: what to do next."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from summula.core.folio.recent import recent_folios
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.popover import small_heading

if TYPE_CHECKING:
    from summula.desk.session import Session

_MOST = 6  # folios that are offered


class EmptyPage(QWidget):
    opened = pyqtSignal()
    demo = pyqtSignal()
    tour = pyqtSignal()
    chosen = pyqtSignal(object)  # the path of a folio that was open before

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("page")
        column = QVBoxLayout(self)
        column.setSpacing(12)
        column.addStretch(2)
        title = Label("Start with a table")
        title.setFont(font(28, 600, serif=True))
        title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        text = Label(
            "Open a CSV, XLSX, ODS, Parquet, JSON or SQLite file,\n"
            "or drop one on this window.\nIts fields are read and described; then ask a question."
        )
        text.setAlignment(Qt.AlignmentFlag.AlignCenter)
        text.setFont(font(14))
        tint(text, "muted")
        row = QHBoxLayout()
        row.addStretch(1)
        opening = Button("Open a file")
        opening.setProperty("strong", "true")
        opening.clicked.connect(self.opened)
        showing = Button("Look at the demo")
        showing.clicked.connect(self.demo)
        row.addWidget(opening)
        row.addWidget(showing)
        touring = Button("Take the tour")
        set_tip(touring, "Six steps through the demo")
        touring.clicked.connect(self.tour)
        row.addWidget(touring)
        row.addStretch(1)
        column.addWidget(title)
        column.addWidget(text)
        column.addSpacing(8)
        column.addLayout(row)
        self.recent = QVBoxLayout()
        self.recent.setSpacing(2)
        column.addSpacing(18)
        column.addLayout(self.recent)
        column.addStretch(3)
        self._shown: list[Path] = []

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.show_recent(recent_folios())

    def show_recent(self, folios: list[Path]) -> None:
        """The folios that were open last, to go on with."""
        if folios == self._shown:
            return
        self._shown = folios
        while (item := self.recent.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        if not folios:
            return
        heading = small_heading("Recent folios")
        heading.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.recent.addWidget(heading)
        for path in folios[:_MOST]:
            alike = sum(each.stem == path.stem for each in folios) > 1
            button = Button(f"{path.stem}, in {path.parent.name or path.parent}" if alike else path.stem)
            button.setProperty("quiet", "true")
            set_tip(button, str(path))
            button.setAccessibleName(f"Open {path.stem}, in {path.parent}")
            button.clicked.connect(lambda _, path=path: self.chosen.emit(path))
            self.recent.addWidget(button, 0, Qt.AlignmentFlag.AlignHCenter)
