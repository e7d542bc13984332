"""The phrase on top of a summary: words that open popovers, the same as typed text, and a place to drop
fields."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import QPoint, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from summula.core.phrases.editing import Clause, with_field, words_in
from summula.core.phrases.phrase import Phrase
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal
from summula.core.summaries import parse, print_for
from summula.desk.frame.contents import dragged_field
from summula.desk.phrase.phrasetext import PhraseText, Underline
from summula.desk.phrase.phrasewords import Word, words_of
from summula.desk.phrase.wordbutton import Said, WordButton
from summula.desk.phrase.wordcarrying import Carrying
from summula.desk.theme import colour, font, tint
from summula.desk.widgets.flow import FlowLayout
from summula.desk.widgets.plaintext import Button, Label

if TYPE_CHECKING:
    from summula.core.language.vocabulary import Vocabulary
    from summula.desk.phrase.completionlist import CompletionList


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
        self._underline = Underline(self.text.document())  # type: ignore[arg-type]
        self.text.textChanged.connect(self._check)
        self.text.entered.connect(self._take)
        self.text.left.connect(self.show_words)
        row = QHBoxLayout()
        self.trouble = Label()
        self.trouble.setFont(font(12.5))
        self.mend = Button()
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
        self.carrying = Carrying(self)

    # -- words -----------------------------------------------------------------------------------

    def show_phrase(self, phrase: Phrase, vocabulary: Vocabulary) -> None:
        if phrase == self.phrase and vocabulary is self.vocabulary:
            return
        self.phrase, self.vocabulary = phrase, vocabulary
        before, words = self._widgets(), words_of(phrase)
        focused = next((each for each in self.buttons() if each.hasFocus()), None)
        place = _place(focused.word) if focused is not None else None
        stays = any(word.role != "said" and _place(word) == place for word in words)
        # Making and styling a widget takes longer than all else an edit does: those that are there say other words.
        buttons = [each for each in self.buttons() if stays or each is not focused]
        labels = [each for each in before if isinstance(each, Said)]
        after: list[Said | WordButton] = []
        for word in words:
            after.append(self._said(word, labels) if word.role == "said" else self._button(word, buttons))
        if after != before:
            self._set(after, before)
        if stays:
            next(each for each in self.buttons() if _place(each.word) == place).setFocus()
        if not self.typing.isHidden() and not self.text.hasFocus():
            self.show_words()
        self.flow.invalidate()
        self.words.updateGeometry()

    def _said(self, word: Word, spare: list[Said]) -> Said:
        label = spare.pop(0) if spare else Said("")
        label.say(word.text)
        return label

    def _button(self, word: Word, spare: list[WordButton]) -> WordButton:
        if spare:
            button = spare.pop(0)
        else:
            button = WordButton(word)
            button.opened.connect(self.word_opened)
            button.removed.connect(self.word_removed)
            button.carried.connect(self.carrying.carry)
            button.put_down.connect(self.carrying.put_down)
            button.kept.connect(self.carrying.forget)
        button.say(word, _meant(word, self.phrase, self.vocabulary) if self.phrase and self.vocabulary else "")
        return button

    def _set(self, after: list[Said | WordButton], before: list[Said | WordButton]) -> None:
        """Words that come one by one into what is seen would each have the whole page laid out anew."""
        shown = not self.words.isHidden()
        self.words.hide()
        while self.flow.count():
            self.flow.takeAt(0)
        for widget in before:
            if widget not in after:
                widget.hide()
                widget.deleteLater()
        for widget in after:
            self.flow.addWidget(widget)
        self.words.setVisible(shown)
        for one, other in pairwise(self.buttons()):
            QWidget.setTabOrder(one, other)

    def let_go(self) -> None:
        """Show nothing of a folio that has gone."""
        self.phrase = self.vocabulary = self._refusal = None
        if self._completions is not None:
            self._completions.vocabulary = None

    def for_readers(self) -> None:
        """The sentence alone, without what adds to it, nor the word of a clause that is empty."""
        before: QWidget | None = None
        for widget in self._widgets():
            if isinstance(widget, WordButton) and widget.word.role == "add":
                empty = isinstance(before, Said) and before.text() == widget.word.clause
                for left_out in (widget, before) if empty and before is not None else (widget,):
                    self.flow.removeWidget(left_out)
                    left_out.hide()
            before = widget

    def _widgets(self) -> list[Said | WordButton]:
        items = [self.flow.itemAt(at) for at in range(self.flow.count())]
        widgets = [item.widget() for item in items if item is not None]
        return [each for each in widgets if isinstance(each, Said | WordButton)]

    def buttons(self) -> list[WordButton]:
        return [each for each in self._widgets() if isinstance(each, WordButton)]

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
        self.text.setPlainText(
            print_for(self.phrase, self.vocabulary) if self.vocabulary else print_phrase(self.phrase)
        )
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
            self._refusal = refusal.with_traceback(None)  # else the table read with stays as long
        span = self._refusal.span if self._refusal else None
        if span != self._underline.span:
            self._underline.span = span
            self.text.blockSignals(True)
            self._underline.rehighlight()
            self.text.blockSignals(False)
        suggestion = self._refusal.suggestion if self._refusal else None
        if self._refusal is None:
            tint(self.trouble, "gain")
            self.trouble.setText("Enter applies, Escape cancels, Tab completes")
        else:
            tint(self.trouble, "loss")
            self.trouble.setText(self._refusal.wrong + ("" if suggestion else f": {self._refusal.remedy}"))
        self.mend.setVisible(bool(suggestion))
        if suggestion:
            self.mend.setText(f"Make it {suggestion}")

    def _mend(self) -> None:
        refusal = self._refusal
        if refusal is None or refusal.span is None or refusal.suggestion is None:
            return
        from summula.core.phrases.printing import name_text

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
        self.carrying.paint()
        if self._drop is not None and self._drop[0] is not None:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            painter.setPen(QPen(colour("plum"), 1.5, Qt.PenStyle.DashLine))
            painter.setBrush(colour("plum wash"))
            painter.drawRoundedRect(self._drop[1].adjusted(-2, -1, 2, -1), 5, 5)


def _place(word: Word) -> tuple[str, int, str]:
    return word.role, word.at, word.clause


def _meant(word: Word, phrase: Phrase, vocabulary: Vocabulary) -> str:
    """What the fields of a word mean, as far as somebody has written it down."""
    if word.role not in ("measures", "by", "across", "where", "keeping"):
        return ""
    stated = words_in(phrase, cast(Clause, word.clause))
    if word.at >= len(stated):
        return ""
    word_said = stated[word.at]
    if word.role == "measures":
        text = print_phrase(Phrase((word_said,)))
    else:
        text = word_said.field if word.clause in ("by", "across") else word_said.heading.field
    fields = [field for field in vocabulary.table.fields if field.description and field.name in text]
    return "\n".join(f"{field.name}: {field.description}" for field in fields[:3])
