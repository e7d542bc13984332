"""The phrase as text: Enter takes it, Escape leaves it, a fault is underlined at its place."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QSyntaxHighlighter, QTextCharFormat, QTextDocument
from PyQt6.QtWidgets import QPlainTextEdit

from summula.desk.theme import colour, font


class Underline(QSyntaxHighlighter):
    """Underlines the place of an error."""

    def __init__(self, document: QTextDocument) -> None:
        super().__init__(document)
        self.span: tuple[int, int] | None = None

    def highlightBlock(self, text: str | None) -> None:
        block = self.currentBlock()
        if self.span is None or text is None:
            return
        start, end = self.span[0] - block.position(), self.span[1] - block.position()
        start, end = max(start, 0), min(max(end, start + 1), len(text))
        if start < end:
            style = QTextCharFormat()
            style.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
            style.setUnderlineColor(colour("loss"))
            style.setForeground(colour("loss"))
            self.setFormat(start, end - start, style)


class PhraseText(QPlainTextEdit):
    """The phrase as text. Enter takes it, Escape leaves it."""

    entered = pyqtSignal()
    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(15, 500))
        self.setAccessibleName("The phrase as text")
        self.setFixedHeight(64)
        self.setTabChangesFocus(True)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        elif event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)
