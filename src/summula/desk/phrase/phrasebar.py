"""The phrase on top of a summary: words that open popovers, the same as typed text, and a place to drop
fields."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QSyntaxHighlighter,
    QTextCharFormat,
    QTextDocument,
)
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from summula.core.refusal import Refusal
from summula.core.summaries import parse
from summula.core.summaries.editing import Clause, with_field
from summula.core.summaries.language.printing import print_phrase
from summula.core.summaries.language.vocabulary import Vocabulary
from summula.core.summaries.phrase import Phrase
from summula.desk.frame.contents import dragged_field
from summula.desk.phrase.phrasewords import Word, words_of
from summula.desk.theme import colour, font, text_width
from summula.desk.widgets.flow import FlowLayout

_LINE = 28

if TYPE_CHECKING:
    from summula.desk.phrase.completionlist import CompletionList


class WordButton(QWidget):
    """A word that can be changed. Enter, Space or a click opens its popover; Delete takes it away."""

    opened = pyqtSignal(object)
    removed = pyqtSignal(object)

    def __init__(self, word: Word) -> None:
        super().__init__()
        self.word = word
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        names = {
            "measures": "Figure",
            "by": "By",
            "across": "Across",
            "where": "Where",
            "keeping": "Keeping",
            "order": "Ordered",
            "form": "Drawn as",
        }
        if word.role == "add":
            what = {
                "measures": "a figure",
                "by": "a heading by",
                "across": "a heading across",
                "where": "a condition",
                "more": "a condition, keeping, an order",
            }
            self.setAccessibleName(f"Add {what.get(word.clause, word.clause)}")
            self.setToolTip(f"Add {what.get(word.clause, word.clause)}")
        else:
            self.setAccessibleName(f"{names.get(word.role, 'Option')}: {word.text}")
            self.setToolTip(word.text if self._natural() > 420 else "")

    def _natural(self) -> float:
        return text_width(self.word.text, 15, 500) + (6 if self.word.role == "add" else 10)

    def sizeHint(self) -> QSize:
        return QSize(int(min(self._natural(), 430)) + 1, _LINE)

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
            self.opened.emit(self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        key = event.key() if event is not None else 0
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.opened.emit(self)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.word.role not in ("add", "form"):
            self.removed.emit(self)
        else:
            super().keyPressEvent(event)


class _Said(QLabel):
    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setFont(font(18, 400, serif=True, italic=True))
        self.setStyleSheet(f"color: {colour('muted').name()}")
        self.setFixedHeight(_LINE - 2)


class _Underline(QSyntaxHighlighter):
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


class PhraseBar(QWidget):
    """Shows a phrase as words or as text; tells what is asked to change."""

    phrase_said = pyqtSignal(object, str)  # Phrase, deed
    word_opened = pyqtSignal(object)  # WordButton
    word_removed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self.phrase: Phrase | None = None
        self.vocabulary: Vocabulary | None = None
        self._drop: tuple[Clause | None, QRectF] | None = None
        self.words = QWidget()
        self.flow = FlowLayout(self.words)
        typing = QWidget()
        column = QVBoxLayout(typing)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        self.text = PhraseText()
        self._underline = _Underline(self.text.document())  # type: ignore[arg-type]
        self.text.textChanged.connect(self._check)
        self.text.entered.connect(self._take)
        self.text.left.connect(self.show_words)
        row = QHBoxLayout()
        self.trouble = QLabel()
        self.trouble.setFont(font(12.5))
        self.mend = QPushButton()
        self.mend.setProperty("quiet", "true")
        self.mend.clicked.connect(self._mend)
        row.addWidget(self.trouble)
        row.addWidget(self.mend)
        row.addStretch(1)
        column.addWidget(self.text)
        column.addLayout(row)
        self._refusal: Refusal | None = None
        self._completions: CompletionList | None = None
        self.typing = typing
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(self.words)
        outer.addWidget(typing)
        typing.hide()

    # -- words -----------------------------------------------------------------------------------

    def show_phrase(self, phrase: Phrase, vocabulary: Vocabulary) -> None:
        if phrase == self.phrase and vocabulary is self.vocabulary:
            return
        focused = next((b.word for b in self.buttons() if b.hasFocus()), None)
        self.phrase, self.vocabulary = phrase, vocabulary
        while (item := self.flow.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for word in words_of(phrase):
            if word.role == "said":
                self.flow.addWidget(_Said(word.text))
            else:
                button = WordButton(word)
                meant = _meant(word, phrase, vocabulary)
                if meant:
                    button.setToolTip(f"{word.text}\n{meant}")
                button.opened.connect(self.word_opened)
                button.removed.connect(self.word_removed)
                self.flow.addWidget(button)
                if focused is not None and (word.role, word.at, word.clause) == (
                    focused.role,
                    focused.at,
                    focused.clause,
                ):
                    button.setFocus()
        if not self.typing.isHidden() and not self.text.hasFocus():
            self.show_words()
        self.words.updateGeometry()

    def for_readers(self) -> None:
        """The sentence alone, without what adds to it."""
        for button in self.buttons():
            if button.word.role == "add":
                self.flow.removeWidget(button)
                button.hide()

    def buttons(self) -> list[WordButton]:
        found = []
        for at in range(self.flow.count()):
            item = self.flow.itemAt(at)
            widget = item.widget() if item is not None else None
            if isinstance(widget, WordButton):
                found.append(widget)
        return found

    def button(self, role: str, at: int = 0, clause: str = "") -> WordButton:
        return next(
            b for b in self.buttons() if b.word.role == role and b.word.at == at and clause in ("", b.word.clause)
        )

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.show_text()

    # -- text ------------------------------------------------------------------------------------

    def show_text(self) -> None:
        if self.phrase is None:
            return
        self.words.hide()
        self.typing.show()
        self.text.setPlainText(print_phrase(self.phrase))
        self.text.selectAll()
        self.text.setFocus()

    def show_words(self) -> None:
        self.typing.hide()
        self.words.show()

    def completions(self) -> CompletionList:
        """The list of what may follow; made when first wanted, since it knows the parser."""
        if self._completions is None:
            from summula.desk.phrase.completionlist import CompletionList

            self._completions = CompletionList(self.text)
        self._completions.vocabulary = self.vocabulary
        return self._completions

    def _check(self) -> None:
        self._refusal = None
        if self.text.hasFocus():
            self.completions().offer()
        text = self.text.toPlainText()
        try:
            parse(text, self.vocabulary)
        except Refusal as refusal:
            self._refusal = refusal
        span = self._refusal.span if self._refusal else None
        if span != self._underline.span:
            self._underline.span = span
            self.text.blockSignals(True)
            self._underline.rehighlight()
            self.text.blockSignals(False)
        suggestion = self._refusal.suggestion if self._refusal else None
        if self._refusal is None:
            self.trouble.setStyleSheet(f"color: {colour('gain').name()}")
            self.trouble.setText("Enter takes it, Escape leaves it as it was; Tab completes")
        else:
            self.trouble.setStyleSheet(f"color: {colour('loss').name()}")
            self.trouble.setText(self._refusal.wrong + ("" if suggestion else f": {self._refusal.remedy}"))
        self.mend.setVisible(bool(suggestion))
        if suggestion:
            self.mend.setText(f"Make it {suggestion}")

    def _mend(self) -> None:
        refusal = self._refusal
        if refusal is None or refusal.span is None or refusal.suggestion is None:
            return
        from summula.core.summaries.language.printing import name_text

        text, (start, end) = self.text.toPlainText(), refusal.span
        known = self.vocabulary is not None and self.vocabulary.table.has(refusal.suggestion)
        spelled = name_text(refusal.suggestion) if known or " " in refusal.suggestion else refusal.suggestion
        self.text.setPlainText(text[:start] + spelled + text[end:])
        self.text.moveCursor(self.text.textCursor().MoveOperation.End)
        self.text.setFocus()

    def _take(self) -> None:
        if self._refusal is not None:
            return
        if self._completions is not None:
            self._completions.hide()
        phrase = parse(self.text.toPlainText(), self.vocabulary)
        self.show_words()
        self.phrase_said.emit(phrase, "Change the phrase")

    # -- dropping fields ---------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dragged_field(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None:
            clause, area = self._clause_at(event.position().toPoint())
            self._drop = (clause, area)
            event.acceptProposedAction()
            self.update()

    def dragLeaveEvent(self, event: QDragLeaveEvent | None) -> None:
        self._drop = None
        self.update()

    def dropEvent(self, event: QDropEvent | None) -> None:
        name = dragged_field(event.mimeData()) if event is not None else None
        self._drop = None
        self.update()
        if event is None or name is None or self.phrase is None or self.vocabulary is None:
            return
        clause, _ = self._clause_at(event.position().toPoint())
        event.acceptProposedAction()
        phrase = with_field(self.phrase, self.vocabulary.table, name, clause)
        self.phrase_said.emit(phrase, f"Put {name} into the phrase")

    def _clause_at(self, place: QPoint) -> tuple[Clause | None, QRectF]:
        """The clause whose words are nearest: dropping there puts the field into it."""
        best: tuple[float, Clause | None, QRectF] = (1e9, None, QRectF())
        for button in self.buttons():
            clause = button.word.clause
            if clause not in ("measures", "by", "across"):
                continue
            area = QRectF(button.geometry())
            dx = max(area.left() - place.x(), 0, place.x() - area.right())
            dy = max(area.top() - place.y(), 0, place.y() - area.bottom())
            if dx + 3 * dy < best[0]:
                best = (dx + 3 * dy, clause, area)  # type: ignore[assignment]
        return best[1], best[2]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._drop is not None and self._drop[0] is not None:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            painter.setPen(QPen(colour("plum"), 1.5, Qt.PenStyle.DashLine))
            painter.setBrush(colour("plum wash"))
            painter.drawRoundedRect(self._drop[1].adjusted(-2, -1, 2, -1), 5, 5)


def _meant(word: Word, phrase: Phrase, vocabulary: Vocabulary) -> str:
    """What the fields of a word mean, as far as somebody has written it down."""
    said = getattr(phrase, word.clause, None) if word.role in ("measures", "by", "across", "where", "keeping") else None
    if not isinstance(said, tuple) or word.at >= len(said):
        return ""
    word_said: Any = said[word.at]
    if word.clause == "measures":
        text = print_phrase(Phrase((word_said,)))
    else:
        text = word_said.field if word.clause in ("by", "across") else word_said.heading.field
    fields = [field for field in vocabulary.table.fields if field.description and field.name in text]
    return "\n".join(f"{field.name}: {field.description}" for field in fields[:3])
