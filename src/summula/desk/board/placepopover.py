"""A panel's place and size by number."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFormLayout, QSpinBox, QWidget

from summula.core.boards.arrangement import MOST_ROWS
from summula.core.boards.board import COLUMNS, Place
from summula.desk.widgets.popover import Popover


class PlacePopover(Popover):
    """`put` takes the place as it is changed."""

    stays = True

    def __init__(self, parent: QWidget, place: Place, put: Callable[[Place], None]) -> None:
        super().__init__(parent, "Place and size", 220)
        self._put = put
        form = QFormLayout()
        self.numbers: dict[str, QSpinBox] = {}
        for name, words, now, most in (
            ("column", "Column", place.column + 1, COLUMNS),
            ("row", "Row", place.row + 1, MOST_ROWS),
            ("width", "Columns wide", place.width, COLUMNS),
            ("height", "Rows high", place.height, MOST_ROWS),
        ):
            number = QSpinBox()
            number.setRange(1, most)
            number.setValue(now)
            number.setAccessibleName(words)
            number.valueChanged.connect(lambda _: self._take())
            self.numbers[name] = number
            form.addRow(words, number)
        self.column.addLayout(form)

    def _take(self) -> None:
        column, row, width, height = (each.value() for each in self.numbers.values())
        self._put(Place(min(column - 1, COLUMNS - width), row - 1, width, height))
