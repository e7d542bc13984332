"""A text slicer: texts that contain some letters, or start with them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QSize, QTimer, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QVBoxLayout, QWidget

from summula.core.fields.figures import plural
from summula.desk.board.slicerhead import SlicerHead
from summula.desk.widgets.searchline import SearchLine

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Holding, TextSlicer

_PAUSE = 250  # ms after the last letter
_TESTS = ("contains", "starts with")


class TextView(QWidget):
    """Follows what is typed after a short pause."""

    chosen = pyqtSignal(str, object)  # slicer id; (test, text)
    restyled = pyqtSignal(object)
    removed = pyqtSignal(str)
    refused = pyqtSignal(object)  # a Refusal

    def __init__(self, slicer: TextSlicer) -> None:
        super().__init__()
        self.slicer = slicer
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.head = SlicerHead(slicer.field)
        self.head.cleared.connect(self._clear)
        self.head.removed.connect(lambda: self.removed.emit(self.slicer.id))
        column.addWidget(self.head)
        self.test = QComboBox()
        self.test.addItems(_TESTS)
        self.test.setAccessibleName(f"How {slicer.field} is searched")
        self.test.activated.connect(lambda _: self._say())
        column.addWidget(self.test)
        self.line = SearchLine("some letters", f"Slicer {slicer.field}: letters")
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(_PAUSE)
        self._pause.timeout.connect(self._say)
        self.line.textEdited.connect(lambda _: self._pause.start())
        self.line.returnPressed.connect(self._say)
        column.addWidget(self.line)

    def show_slicer(self, slicer: TextSlicer, held: list[Holding], *, arranging: bool) -> None:
        self.slicer = slicer
        members = [each for each in held if each.rows]
        count = plural(len(members), "member") if not slicer.narrows else ""
        self.head.say(count, narrows=slicer.narrows, arranging=arranging, has_look=False)
        self.test.setCurrentIndex(_TESTS.index(slicer.test))
        if not self.line.hasFocus():
            self.line.setText(slicer.text)

    def _clear(self) -> None:
        self.line.clear()
        self._say()

    def _say(self) -> None:
        self._pause.stop()
        asked = (_TESTS[self.test.currentIndex()], self.line.text())
        if asked != (self.slicer.test, self.slicer.text):
            self.chosen.emit(self.slicer.id, asked)

    def sizeHint(self) -> QSize:
        return QSize(174, 96)
