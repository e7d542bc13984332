"""The tour: six steps through the demo, in a bar below the header. It can be left at any time."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from summula.desk.theme import colour, font
from summula.desk.widgets.plaintext import Button, Label


class Stop(NamedTuple):
    """A step of the tour: the demo's page that it is about, and what to try there."""

    page: str
    text: str


STOPS = (
    Stop("b8", "A board shows your figures together. Click a route in the slicer on the left: every panel follows."),
    Stop("b8", "Click a bar or a point: its part is highlighted in every panel. Escape ends it."),
    Stop("s3", "A summary is one sentence. Click a word such as “Takings · sum” to change it, or press F2 to type."),
    Stop("s6", "Press Ctrl+D to change the chart type. Click a part of the chart to see its settings in the margin."),
    Stop("t1", "A table keeps its rows and the steps that prepare them. Click a field to see what it holds."),
    Stop("b8", "Ctrl+K finds anything by any word, F1 opens the manual, Ctrl+P exports, Ctrl+Z undoes every change."),
)


class TourBar(QWidget):
    """`turn` goes to a page of the demo."""

    def __init__(self, turn: Callable[[str], None]) -> None:
        super().__init__()
        self.setAccessibleName("Tour")
        self._turn, self.at = turn, 0
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 6, 16, 6)
        row.setSpacing(8)
        self.count = Label()
        self.count.setFont(font(13, 600))
        self.text = Label()
        self.text.setWordWrap(True)
        self.text.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.back = Button("Back")
        self.back.clicked.connect(lambda: self.show_stop(self.at - 1))
        self.next = Button("Next")
        self.next.setProperty("strong", "true")
        self.next.clicked.connect(self._on)
        self.leave = Button("Leave the tour")
        self.leave.clicked.connect(self.hide)
        row.addWidget(self.count)
        row.addWidget(self.text, 1)
        for button in (self.back, self.next, self.leave):
            row.addWidget(button)
        self.hide()

    def show_stop(self, at: int) -> None:
        """One of the steps, its page in view."""
        self.at, stop = at, STOPS[at]
        self._turn(stop.page)
        self.count.setText(f"{at + 1} of {len(STOPS)}")
        self.text.setText(stop.text)
        self.setAccessibleDescription(f"Step {at + 1} of {len(STOPS)}: {stop.text}")
        self.back.setEnabled(at > 0)
        self.next.setText("Next" if at + 1 < len(STOPS) else "Done")
        self.leave.setVisible(at + 1 < len(STOPS))
        self.show()

    def _on(self) -> None:
        if self.at + 1 < len(STOPS):
            self.show_stop(self.at + 1)
        else:
            self.hide()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("plum wash"))
