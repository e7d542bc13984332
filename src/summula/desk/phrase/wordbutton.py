"""A word of a phrase that can be changed, carried to another place, and taken away."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QApplication, QWidget

from summula.desk.theme import colour, font, text_width, tint
from summula.desk.widgets.plaintext import Label, set_tip

if TYPE_CHECKING:
    from summula.desk.phrase.phrasewords import Word

_LINE = 28
_NAMES = {
    "measures": "Figure",
    "by": "By",
    "across": "Across",
    "where": "Where",
    "keeping": "Keeping",
    "order": "Ordered",
    "form": "Chart type",
    "multiples": "For each",
}
_ADDED = {
    "measures": "a figure",
    "by": "a heading by",
    "across": "a heading across",
    "where": "a condition",
    "more": "a condition, keeping, an order",
}
MOVABLE = ("measures", "by", "across", "where", "keeping")


class WordButton(QWidget):
    """A word that can be changed. Enter, Space or a click opens its popover; Delete takes it away."""

    opened = pyqtSignal(object)
    removed = pyqtSignal(object)
    carried = pyqtSignal(object, QPoint)  # itself, and where it is held just now, on the screen
    put_down = pyqtSignal(object, QPoint)
    kept = pyqtSignal()  # not put down after all

    def __init__(self, word: Word) -> None:
        super().__init__()
        self._pressed: QPoint | None = None
        self._carrying = False
        self._wide = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.say(word)

    def say(self, word: Word, meant: str = "") -> None:
        """Stand for a word. `meant` is what its fields mean. A word that is held just now is let go: it is another."""
        if self._carrying:
            self._let_go()
            self.kept.emit()
        self._pressed = None
        self.word = word
        self._wide = text_width(word.text, 15, 500) + (6 if word.role == "add" else 10)
        if word.role == "add":
            name = hint = f"Add {_ADDED.get(word.clause, word.clause)}"
        else:
            name = f"{_NAMES.get(word.role, 'Option')}: {word.text}"
            hint = f"{word.text}\n{meant}" if meant else word.text if self._wide > 420 else ""
        if name != self.accessibleName():
            self.setAccessibleName(name)
        if hint != self.toolTip():
            set_tip(self, hint)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(int(min(self._wide, 430)) + 1, _LINE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        add = self.word.role == "add"
        warm = self.underMouse() or self.hasFocus()
        if warm:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("plum wash"))
            painter.drawRoundedRect(QRectF(0, 1, self.width(), self.height() - 5), 4, 4)
        painter.setFont(font(15 if not add or self.word.text == "+" else 13, 500))
        painter.setPen(colour("plum" if add else "ink"))
        text = painter.fontMetrics().elidedText(self.word.text, Qt.TextElideMode.ElideRight, self.width() - 4)
        painter.drawText(
            QRectF(3 if add else 5, 0, self.width(), self.height() - 4), Qt.AlignmentFlag.AlignVCenter, text
        )
        if not add:
            painter.fillRect(
                QRectF(1, self.height() - 4, self.width() - 2, 2),
                colour("series 1" if self.word.role == "where" else "plum"),
            )
        if self.hasFocus():
            painter.setPen(QPen(colour("plum"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 5), 4, 4)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.position().toPoint()
            self.setFocus()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None or self.word.role not in MOVABLE:
            return
        far = (event.position().toPoint() - self._pressed).manhattanLength()
        if self._carrying or far >= QApplication.startDragDistance():
            self._carrying = True
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.carried.emit(self, event.globalPosition().toPoint())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        pressed, carrying = self._pressed, self._carrying
        self._let_go()
        if event is None or pressed is None:
            return
        if carrying:
            self.put_down.emit(self, event.globalPosition().toPoint())
        elif self.rect().contains(event.position().toPoint()):
            self.opened.emit(self)

    def _let_go(self) -> None:
        self._pressed, self._carrying = None, False
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        key = event.key() if event is not None else 0
        if key == Qt.Key.Key_Escape and self._carrying:
            self._let_go()
            self.kept.emit()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.opened.emit(self)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.word.role not in ("add", "form"):
            self.removed.emit(self)
        else:
            super().keyPressEvent(event)


class Said(Label):
    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setFont(font(18, 400, serif=True, italic=True))
        tint(self, "muted")
        self.setFixedHeight(_LINE - 2)

    def say(self, text: str) -> None:
        if text != self.text():
            self.setText(text)
