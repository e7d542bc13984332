"""A veil over what is still shown but no longer what is asked."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QWidget

from summula.desk.theme import colour

_PATIENCE = 250  # ms: a quick answer comes without a flicker
_THICKNESS = 20  # of 255: muted text keeps 4.5:1 on paper
_APART = 15  # pixels between the threads


class Veil(QWidget):
    """Lies over a widget while its answer is worked out. What is under it stays readable and can be used."""

    def __init__(self, under: QWidget) -> None:
        super().__init__(under)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAccessibleName("This is the previous answer")
        self.hide()
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(_PATIENCE)
        self._wait.timeout.connect(self._lay)
        under.installEventFilter(self)

    def lay(self, lies: bool) -> None:
        """Lay it, unless it is taken away again soon; or take it away."""
        if not lies:
            self._wait.stop()
            self.hide()
        elif not self.isVisible():
            self._wait.start()

    def _lay(self) -> None:
        under = self.parentWidget()
        if under is not None:
            self.setGeometry(under.rect())
            self.raise_()
            self.show()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        under = self.parentWidget()
        if under is not None and isinstance(event, QResizeEvent):
            self.setGeometry(under.rect())
        return False

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        pale = colour("paper")
        painter.fillRect(self.rect(), type(pale)(pale.red(), pale.green(), pale.blue(), _THICKNESS))
        # Thin slanting threads say that this is not the answer any more, and leave the text between them as it is.
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setPen(QPen(colour("hairline"), 1))
        width, height = self.width(), self.height()
        for x in range(-height, width, _APART):
            painter.drawLine(x, height, x + height, 0)
