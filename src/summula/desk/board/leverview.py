"""A lever on a board: moved by slider, steps or a typed value; with what it was, and a way back to it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QSlider, QVBoxLayout, QWidget

from summula.core.fields.figures import CURRENCY_MARKS, typed_number
from summula.core.folio.model import with_lever
from summula.core.refusal import Refusal
from summula.desk.theme import font
from summula.desk.widgets.plaintext import Button, Label

if TYPE_CHECKING:
    from summula.core.phrases.lever import LeverSetting
    from summula.desk.session import Session


class LeverView(QWidget):
    """Moves the folio's lever while the hand is still on it; a pull is one step of undo."""

    def __init__(self, session: Session, lever: LeverSetting) -> None:
        super().__init__()
        self.session, self.lever = session, lever
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        top = QHBoxLayout()
        name = Label(lever.name)
        name.setMinimumWidth(20)
        name.setFont(font(13))
        self.value = QLineEdit(lever.text())
        self.value.setAccessibleName(f"{lever.name}, typed")
        self.value.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.value.setFont(font(13, 600))
        self.value.setFixedWidth(84)
        self.value.returnPressed.connect(self._typed)
        top.addWidget(name, 1)
        top.addWidget(self.value)
        column.addLayout(top)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.down, self.up = Button("\N{MINUS SIGN}"), Button("+")
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName(lever.name)
        self.slider.setRange(0, lever.steps)
        self.slider.setPageStep(max(1, lever.steps // 10))
        self.slider.setValue(lever.place)
        self.slider.valueChanged.connect(lambda place: self._move(self.lever.at(place)))
        for button, step, words in ((self.down, -1, "step down"), (self.up, 1, "step up")):
            button.setFixedWidth(26)
            button.setProperty("quiet", "true")
            button.setAccessibleName(f"{lever.name} {words}")
            button.clicked.connect(lambda _, step=step: self._move(self.lever.at(self.lever.place + step)))
        for each in (self.down, self.slider, self.up):
            row.addWidget(each)
        column.addLayout(row)
        self.back = Button()
        self.back.setProperty("quiet", "true")
        self.back.clicked.connect(self._go_back)
        column.addWidget(self.back, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        self._say()

    def follow(self, session: Session) -> None:
        """Stand where the lever stands now."""
        found = next((each for each in session.folio.levers if each.name == self.lever.name), self.lever)
        if found != self.lever:
            self.lever = found
            self.slider.blockSignals(True)
            self.slider.setValue(found.place)
            self.slider.blockSignals(False)
            self._say()

    def _say(self) -> None:
        if not self.value.hasFocus():
            self.value.setText(self.lever.text())
        start = self.lever.start
        moved = start is not None and start != self.lever.value
        self.back.setVisible(moved)
        if start is not None and moved:
            self.back.setText(f"was {self.lever.text(start)}: back")
            self.back.setAccessibleName(f"{self.lever.name} back to {self.lever.text(start)}")

    def _move(self, lever: LeverSetting) -> None:
        if lever == self.lever:
            return
        if lever.start is None:
            lever = replace(lever, start=self.lever.value)
        self.lever = lever
        self.slider.blockSignals(True)
        self.slider.setValue(lever.place)
        self.slider.blockSignals(False)
        self._say()
        self.session.edit(with_lever(self.session.folio, lever), f"Move {lever.name}", going_on=True)

    def _go_back(self) -> None:
        if self.lever.start is not None:
            self._move(replace(self.lever, value=self.lever.start))

    def _typed(self) -> None:
        text = self.value.text().strip()
        bare = "".join(sign for sign in text if sign not in CURRENCY_MARKS).strip()
        number = typed_number(bare.rstrip("%").replace("\N{MINUS SIGN}", "-"))
        if number is None:
            self.session.refuse(Refusal(f"'{text}' is no number", "enter digits"))
            return
        number = number / 100 if "%" in self.lever.pattern else number
        if not self.lever.low <= number <= self.lever.high:
            ends = f"{self.lever.text(self.lever.low)} to {self.lever.text(self.lever.high)}"
            self.session.refuse(Refusal(f"'{text}' is outside {ends}", "enter a number in that range"))
            return
        self.value.clearFocus()
        self._move(replace(self.lever, value=number))
