"""The bar under the ruler that plays a board through time: play, pause, step, speed."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QSlider, QWidget

from summula.core.boards.playing import PARTS, Play
from summula.desk.theme import font
from summula.desk.widgets.plaintext import Button, CheckBox, Label, set_tip

_SPEEDS = (("slow", 1_500), ("steady", 800), ("fast", 350))


class PlayBar(QWidget):
    """Emits where play stands; `None` when it ends."""

    moved = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.play: Play | None = None
        self._timer = QTimer(self)
        self._timer.timeout.connect(lambda: self._step(1))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.start = self._button("▶", "Play or pause", self.toggle)
        self.back = self._button("◀", "Previous step", lambda: self._step(-1))
        self.on = self._button("▶▏", "Next step", lambda: self._step(1))
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Period shown")
        self.slider.valueChanged.connect(self._slid)
        self.words = Label()
        self.words.setFont(font(13, 600))
        self.words.setMinimumWidth(104)
        self.part = QComboBox()
        self.part.addItems([f"by {each}" for each in PARTS])
        self.part.setAccessibleName("Step")
        self.part.activated.connect(lambda at: self._change(part=PARTS[at]))
        self.speed = QComboBox()
        self.speed.addItems([words for words, _ in _SPEEDS])
        self.speed.setCurrentIndex(1)
        self.speed.setAccessibleName("Speed")
        self.speed.activated.connect(lambda at: self._timer.setInterval(_SPEEDS[at][1]))
        self.up_to = CheckBox("cumulative")
        self.up_to.toggled.connect(lambda on: self._change(up_to=on))
        self.trail = CheckBox("trails")
        set_tip(self.trail, "Show where points and bubbles were at earlier steps")
        self.trail.toggled.connect(lambda on: self._change(trail=on))
        self.end = self._button("done", "Stop", lambda: self.moved.emit(None))
        parts: tuple[QWidget, ...] = (
            self.start, self.back, self.on, self.slider, self.words, self.part, self.speed, self.up_to, self.trail,
            self.end,
        )  # fmt: skip
        for each in parts:
            row.addWidget(each, 1 if each is self.slider else 0)
        self._timer.setInterval(_SPEEDS[1][1])

    def _button(self, text: str, name: str, run: Callable[[], object]) -> Button:
        button = Button(text)
        button.setProperty("quiet", "true")
        button.setAccessibleName(name)
        set_tip(button, name)
        button.clicked.connect(lambda: run())
        return button

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def show_play(self, play: Play | None) -> None:
        self.play = play
        self.setVisible(play is not None)
        if play is None:
            self._timer.stop()
            return
        self.slider.blockSignals(True)
        self.slider.setRange(0, len(play.steps) - 1)
        self.slider.setValue(play.index)
        self.slider.blockSignals(False)
        self.part.setCurrentIndex(PARTS.index(play.part))
        self.up_to.blockSignals(True)
        self.up_to.setChecked(play.up_to)
        self.up_to.blockSignals(False)
        self.trail.blockSignals(True)
        self.trail.setChecked(play.trail)
        self.trail.blockSignals(False)
        self.words.setText(play.words)
        self.start.setText("❚❚" if self.playing else "▶")

    def toggle(self) -> None:
        """Play, or pause where it is."""
        if self.playing:
            self._timer.stop()
        else:
            self._timer.start()
        self.show_play(self.play)

    def pause(self) -> None:
        self._timer.stop()
        self.show_play(self.play)

    def _step(self, by: int) -> None:
        if self.play is not None:
            self.moved.emit(self.play.step(by))

    def _slid(self, at: int) -> None:
        if self.play is not None:
            self.moved.emit(self.play.step(at - self.play.index))

    def _change(self, **changes: object) -> None:
        if self.play is not None:
            self.moved.emit(replace(self.play, **changes))
