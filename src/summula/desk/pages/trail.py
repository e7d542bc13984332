"""The way into the members that have been looked into: each step leads back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from summula.core.fields.labels import all_name, heading_name
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Button, Label, set_tip

if TYPE_CHECKING:
    from summula.core.phrases.members import DrillStep


class Trail(QWidget):
    """Hidden while nothing has been looked into."""

    asked = pyqtSignal(int)  # back to before this step

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Drill path")
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(4)
        self.drilled: tuple[DrillStep, ...] = ()
        self.hide()

    def show_drilled(self, drilled: tuple[DrillStep, ...]) -> None:
        if drilled == self.drilled:
            return
        self.drilled = drilled
        while self.row.count():
            item = self.row.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for at, way in enumerate(drilled):
            before = Button(all_name(way.heading) if at == 0 else drilled[at - 1].label)
            before.setProperty("quiet", "true")
            set_tip(before, "Back to here (Alt+Left goes one step back)")
            before.clicked.connect(lambda _, at=at: self.asked.emit(at))
            self.row.addWidget(before)
            self.row.addWidget(_sign("›"))
        if drilled:
            self.row.addWidget(_sign(f"{drilled[-1].label}, by {heading_name(drilled[-1].by)}", strong=True))
        self.row.addStretch(1)
        self.setVisible(bool(drilled))


def _sign(text: str, *, strong: bool = False) -> Label:
    label = Label(text)
    label.setFont(font(13, 600 if strong else 400))
    tint(label, "ink" if strong else "muted")
    return label
