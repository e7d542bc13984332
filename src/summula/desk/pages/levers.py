"""Levers in the margin: each with its name, where it stands, and a slider; a popover makes and changes one."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6 import sip
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from summula.core.phrases.lever import LeverSetting, checked
from summula.core.refusal import Refusal, sentence
from summula.desk.theme import font, text_width, tint
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.popover import Popover

_NAME_ROOM = 196  # pixels of a margin's line for a lever's name and value
_PATTERNS = (("plain numbers", ""), ("percent", "0%"), ("percent with a decimal", "0.0%"), ("money", "£#,##0.00"))


class LeverRow(QWidget):
    """Moved by slider, arrow keys, or by a click on its value."""

    moved = pyqtSignal(object)  # the lever, moved

    def __init__(self, lever: LeverSetting, change: Callable[[LeverSetting, QWidget], None]) -> None:
        super().__init__()
        self.lever = lever
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 6)
        column.setSpacing(2)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        room = _NAME_ROOM - text_width(f"{lever.text(lever.low)} ▾", 13, 600)
        name = Label()
        name.setFont(font(13))
        name.setText(name.fontMetrics().elidedText(lever.name, Qt.TextElideMode.ElideRight, int(room)))
        ends = f"from {lever.text(lever.low)} to {lever.text(lever.high)}"
        set_tip(name, f"{lever.name}: {ends} in steps of {lever.text(lever.step)}")
        self.value = Button(f"{lever.text()} ▾")
        self.value.setProperty("quiet", "true")
        self.value.setFont(font(13, 600))
        self.value.setAccessibleName(f"{lever.name}: {lever.text()}")
        self.value.clicked.connect(lambda: change(self.lever, self.value))
        row.addWidget(name, 1)
        row.addWidget(self.value)
        column.addLayout(row)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName(lever.name)
        self.slider.setRange(0, lever.steps)
        self.slider.setPageStep(max(1, lever.steps // 10))
        self.slider.setValue(lever.place)
        self.slider.valueChanged.connect(self._slide)
        column.addWidget(self.slider)

    @property
    def held(self) -> bool:
        """Whether a hand is on it: then it must not be made anew."""
        if sip.isdeleted(self.slider):  # the margin shows something else by now
            return False
        return self.slider.isSliderDown() or self.slider.hasFocus()

    def _slide(self, place: int) -> None:
        self.lever = self.lever.at(place)
        self._said()
        self.moved.emit(self.lever)

    def follow(self, lever: LeverSetting) -> None:
        """Stand where the lever stands now, without moving it."""
        self.lever = lever
        self.slider.blockSignals(True)
        self.slider.setValue(lever.place)
        self.slider.blockSignals(False)
        self._said()

    def _said(self) -> None:
        self.value.setText(f"{self.lever.text()} ▾")
        self.value.setAccessibleName(f"{self.lever.name}: {self.lever.text()}")


class LeverPopover(Popover):
    """Makes a lever, or changes where one stands and how far it moves."""

    def __init__(
        self,
        parent: QWidget,
        lever: LeverSetting | None,
        put: Callable[[LeverSetting], None],
        remove: Callable[[str], None] | None = None,
    ) -> None:
        super().__init__(parent, lever.name if lever else "Lever: a number you can change", 290)
        self.lever, self._put = lever, put
        form = QFormLayout()
        form.setSpacing(6)
        now = lever or LeverSetting("", 0.0, -0.3, 0.3, 0.02, "0%")
        self.name = QLineEdit(now.name)
        self.name.setPlaceholderText("such as Fare change")
        self.pattern = QComboBox()
        self.pattern.addItems([text for text, _ in _PATTERNS])
        self.pattern.setCurrentIndex(next((at for at, (_, each) in enumerate(_PATTERNS) if each == now.pattern), 0))
        self.lines = {what: QLineEdit() for what in ("value", "low", "high", "step")}
        words = {"value": "Value", "low": "From", "high": "To", "step": "Step"}
        if lever is None:
            form.addRow("Name", self.name)
        form.addRow("Format", self.pattern)
        for what, line in self.lines.items():
            form.addRow(words[what], line)
            line.setAccessibleName(words[what])
            line.returnPressed.connect(self.take)
        self.name.setAccessibleName("Name")
        self.name.returnPressed.connect(self.take)
        self.pattern.setAccessibleName("Format")
        self.pattern.activated.connect(lambda _: self._show(self._read_or(now)))
        self.column.addLayout(form)
        self.trouble = Label()
        self.trouble.setWordWrap(True)
        self.trouble.setFont(font(12))
        tint(self.trouble, "loss")
        self.trouble.hide()
        self.column.addWidget(self.trouble)
        row = QHBoxLayout()
        take = Button("Apply" if lever else "Create")
        take.setProperty("strong", "true")
        take.clicked.connect(self.take)
        row.addWidget(take)
        row.addStretch(1)
        if lever is not None and remove is not None:
            away = Button("Remove")
            away.clicked.connect(lambda: (self.close(), remove(lever.name)))
            row.addWidget(away)
        self.column.addLayout(row)
        self._percent = "%" in now.pattern
        self._show(now)
        (self.lines["value"] if lever else self.name).setFocus()
        self.lines["value"].selectAll()

    def _show(self, lever: LeverSetting) -> None:
        self._percent = "%" in _PATTERNS[self.pattern.currentIndex()][1]
        for what, line in self.lines.items():
            value = getattr(lever, what) * (100 if self._percent else 1)
            line.setText(f"{value:.10g}" + (" %" if self._percent else ""))

    def _read_or(self, other: LeverSetting) -> LeverSetting:
        try:
            return self._read()
        except Refusal:
            return other

    def _read(self) -> LeverSetting:
        figures = {}
        for what, line in self.lines.items():
            text = line.text().replace("%", "").replace(",", "").replace("\N{MINUS SIGN}", "-").strip()
            try:
                figures[what] = float(text) / (100 if self._percent else 1)
            except ValueError:
                raise Refusal(f"“{line.text()}” is not a number", "enter one, such as 0.02 or 2 %") from None
        name = self.lever.name if self.lever else " ".join(self.name.text().split())
        figures = {what: float(f"{value:.12g}") for what, value in figures.items()}
        return LeverSetting(name, **figures, pattern=_PATTERNS[self.pattern.currentIndex()][1])

    def take(self) -> None:
        try:
            lever = checked(self._read())
        except Refusal as refusal:
            self.trouble.setText(sentence(refusal))
            self.trouble.show()
            self.adjustSize()
            return
        self.close()
        self._put(lever)
