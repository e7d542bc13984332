"""How many members stand for themselves, the rest gathered."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QSpinBox, QWidget

from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover

_SUITS, _MOST = 6, 24


class GatherPopover(Popover):
    """`put` takes a number as it is changed, 0 for all of them."""

    stays = True

    def __init__(self, parent: QWidget, count: int, put: Callable[[int], None]) -> None:
        super().__init__(parent, "Maximum slices", 240)
        self.number = QSpinBox()
        self.number.setRange(1, _MOST)
        self.number.setAccessibleName("Maximum slices")
        self.number.setValue(count or _SUITS)
        self.number.valueChanged.connect(put)
        row = QHBoxLayout()
        row.addWidget(self.number)
        row.addWidget(Label("and one for all others"), 1)
        self.column.addLayout(row)
        self.all = Button("No maximum" if count else f"Group all but {_SUITS}")
        self.all.setProperty("quiet", "true")
        self.all.clicked.connect(lambda: put(0 if count else self.number.value()))
        self.all.clicked.connect(self.close)
        self.column.addWidget(self.all)
