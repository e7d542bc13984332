"""The status line: rows read and used, what is selected, refusals, and how long the answer took."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from summula.desk.theme import colour, font, tint
from summula.desk.widgets.plaintext import Button, Label, set_tip

if TYPE_CHECKING:
    from summula.desk.work import Work


class StatusLine(QWidget):
    """Left: the page's account. Middle: the selection. Right: time taken, or work in progress."""

    cancelled = pyqtSignal()
    link = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(28)
        self._row = row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(22)
        self.account, self.selection, self.taken = Label(), Label(), Label()
        for label, name in ((self.account, "Rows"), (self.selection, "Selection"), (self.taken, "Time")):
            label.setFont(font(12))
            label.setAccessibleName(name)
            tint(label, "muted")
        self.clear = Button("Clear slicing")
        self.clear.setProperty("quiet", "true")
        self.clear.clicked.connect(self.link)
        self.clear.hide()
        self.cancel = Button("Cancel")
        self.cancel.setProperty("quiet", "true")
        self.cancel.clicked.connect(self.cancelled)
        self.cancel.hide()
        row.addWidget(self.account)
        row.addWidget(self.clear)
        row.addWidget(self.selection)
        row.addStretch(1)
        row.addWidget(self.cancel)
        row.addWidget(self.taken)
        self._told = ""
        self._before = ""
        self._attended: dict[Work, str] = {}  # and what is said of each
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._untell)

    @cached_property
    def progress(self) -> QProgressBar:
        """Beside Cancel: made when something is under way first."""
        bar = QProgressBar()
        bar.setRange(0, 0)
        bar.setFixedSize(120, 5)
        bar.setTextVisible(False)
        bar.hide()
        self._row.insertWidget(self._row.indexOf(self.cancel), bar)
        return bar

    def say(self, account: str, taken: str = "") -> None:
        self.account.setText(account)
        set_tip(self.account, account)
        self.taken.setText(taken)
        self._before = "" if _under_way(taken) else taken

    def begin(self, what: str) -> None:
        """Something has been asked for that takes its time: "reading routes.csv …". The page's account stays."""
        if not _under_way(self.taken.text()):
            self._before = self.taken.text()
        self.taken.setText(what)

    def select(self, text: str) -> None:
        if not self._told:
            tint(self.selection, "muted")
            self.selection.setText(text)

    def tell(self, sentence: str, refused: bool) -> None:
        """A sentence that stays for a while; a refusal in the colour of loss."""
        self._told = sentence
        tint(self.selection, "loss" if refused else "plum")
        self.selection.setText(sentence)
        set_tip(self.selection, sentence)
        self._timer.start(12000 if refused else 5000)

    def _untell(self) -> None:
        self._told = ""
        self.selection.setText("")
        set_tip(self.selection, "")  # which is what a screen reader says of it, too

    def attend(self, work: Work, what: str = "") -> None:
        """Show while `work` is under way that it is, and how many rows it has come to; Cancel stands beside it."""
        self._attended[work] = what
        # Methods of this line are let go with it; a function made here would outlive it.
        work.busy.connect(self._work)
        work.rows.connect(self._rows_read)
        work.parts.connect(self._parts_done)

    def _asking(self) -> Work | None:
        """The work whose signal is being answered."""
        sender = self.sender()
        return next((each for each in self._attended if each is sender), None)

    def _rows_read(self, rows: int) -> None:
        self._come_to(f"{rows:,} rows so far …")

    def _parts_done(self, done: int, of: int) -> None:
        self._come_to(f"{done:,} of {of:,} …")

    def _come_to(self, words: str) -> None:
        work = self._asking()
        if work is not None and work.waits:  # what was told just before it was stopped comes later
            self.taken.setText(words)

    def _work(self, begun: bool) -> None:
        work = self._asking()
        what = "" if work is None else self._attended[work]
        busy = any(work.waits for work in self._attended)
        if busy or "progress" in self.__dict__:  # made already
            self.progress.setVisible(busy)
        self.cancel.setVisible(busy)
        if begun and what and not _under_way(self.taken.text()):
            self.begin(what)
        if not busy and _under_way(self.taken.text()):
            self.taken.setText(self._before)  # what stood there before

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("paper"))
        painter.setPen(colour("hairline"))
        painter.drawLine(0, 0, self.width(), 0)


def _under_way(words: str) -> bool:
    return words.endswith("…")
