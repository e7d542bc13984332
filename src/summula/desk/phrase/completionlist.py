"""The list under the caret of a phrase being typed: what may follow. Tab takes, arrows choose, Escape closes."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt
from PyQt6.QtGui import QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QPlainTextEdit

from summula.core.language.completing import Completion, Completions, complete
from summula.desk.theme import font
from summula.desk.widgets.plaintext import set_tip

if TYPE_CHECKING:
    from summula.core.language.vocabulary import Vocabulary

_ROWS, _WIDTH = 8, 300


class CompletionList(QListWidget):
    """Belongs to a text and floats over its window; the keys stay with the text."""

    def __init__(self, text: QPlainTextEdit) -> None:
        super().__init__(text.window())
        self.text = text
        self.vocabulary: Vocabulary | None = None
        self._found = Completions(0, ())
        self._moved = False
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFont(font(13))
        self.setAccessibleName("Completions")
        self.setObjectName("completions")
        self.itemClicked.connect(lambda item: self.take(item))
        self.hide()
        text.installEventFilter(self)

    def offer(self) -> None:
        """Show what may stand at the caret, as far as there is something."""
        if self.vocabulary is None or not self.text.hasFocus():
            self.hide()
            return
        cursor = self.text.textCursor()
        if cursor.hasSelection():
            self.hide()
            return
        self._found = complete(self.text.toPlainText(), cursor.position(), self.vocabulary)
        self._moved = False
        self.clear()
        for choice in self._found.choices:
            about = choice.hint or ("" if choice.what == "word" else choice.what)
            item = QListWidgetItem(f"{choice.text}    {about}" if about else choice.text)
            set_tip(item, about)
            item.setData(Qt.ItemDataRole.UserRole, choice)
            self.addItem(item)
        if not self._found.choices:
            self.hide()
            return
        self.setCurrentRow(0)
        if self.parent() is not self.text.window():
            self.setParent(self.text.window())
        rows = min(self.count(), _ROWS)
        self.setFixedSize(_WIDTH, rows * max(self.sizeHintForRow(0), 24) + 4)
        begun = QTextCursor(cursor)
        begun.setPosition(min(self._found.start, len(self.text.toPlainText())))
        below = self.text.cursorRect(begun).bottomLeft() + QPoint(0, 8)
        viewport, window = self.text.viewport(), self.text.window()
        assert viewport is not None and window is not None
        place = viewport.mapTo(window, below)
        self.move(min(place.x(), window.width() - _WIDTH - 8), min(place.y(), window.height() - self.height() - 8))
        self.raise_()
        self.show()

    def take(self, item: QListWidgetItem | None) -> None:
        """Put a choice in the place of what is begun."""
        choice: Completion | None = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if choice is None:
            return
        cursor = self.text.textCursor()
        end = cursor.position()
        cursor.setPosition(self._found.start)
        cursor.setPosition(end, QTextCursor.MoveMode.KeepAnchor)
        cursor.insertText(choice.text + " ")
        self.text.setTextCursor(cursor)
        self.text.setFocus()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in (QEvent.Type.FocusOut, QEvent.Type.Hide):
            self.hide()
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return False
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Space and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.offer()
            return True
        if not self.isVisible():
            return False
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: _ROWS, Qt.Key.Key_PageUp: -_ROWS}.get(key)
        if step is not None:
            self._moved = True
            self.setCurrentRow(min(max(self.currentRow() + step, 0), self.count() - 1))
            return True
        if key == Qt.Key.Key_Tab or (key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._moved):
            self.take(self.currentItem())
            return True
        if key == Qt.Key.Key_Escape:
            self.hide()
            return True
        return False
