"""The popover of a heading: part of its date, bands of its number, another field, another axis."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, cast

from PyQt6.QtWidgets import QGridLayout, QLineEdit, QWidget

from summula.core.fields.bands import Bands
from summula.core.fields.heading import PARTS, Heading
from summula.core.phrases import editing
from summula.core.phrases.printing import name_text
from summula.core.refusal import Refusal, sentence
from summula.core.summaries import parse
from summula.core.tables.column import DateColumn
from summula.core.tables.field import MEASURED
from summula.desk.phrase.phrasewords import Word, heading_words
from summula.desk.phrase.popoverparts import Say, done, field_choices, foot, trouble_label
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover, small_heading

if TYPE_CHECKING:
    from summula.core.language.vocabulary import Vocabulary
    from summula.core.phrases.phrase import Phrase

_SIDES: tuple[editing.Clause, ...] = ("by", "across", "multiples")
_SAID: dict[editing.Clause, str] = {"by": "by", "across": "across", "multiples": "for each"}


def heading_popover(anchor: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    clause = cast(editing.Clause, word.clause)
    headings: list[Heading] = editing.words_in(phrase, clause)
    heading, table = headings[word.at], vocabulary.table
    popover = Popover(anchor, heading.field, 290)
    kind = table.field(heading.field).kind

    def change(new: Heading) -> None:
        done(popover, say, editing.put(phrase, clause, word.at, new), f"{_SAID[clause]} {heading_words(new)}")

    if kind == "date":
        column = table.column(heading.field)
        timed = isinstance(column, DateColumn) and column.seconds is not None
        parts = [*(p for p in PARTS if p != "hour" or timed), "each day"]
        picks = PickList([Pick(p, p) for p in parts], name="part of the date", most_rows=7, search=True)
        if heading.part in parts:
            picks.list.setCurrentRow(parts.index(heading.part))
        picks.picked.connect(lambda part: change(Heading(heading.field, None if part == "each day" else part)))
        popover.column.addWidget(picks)
    elif kind in MEASURED:
        popover.column.addWidget(_BandsForm(heading, vocabulary, change))
    popover.column.addWidget(small_heading("Change field"))
    fields = PickList(field_choices(table), name="fields", most_rows=6)
    fields.picked.connect(lambda name: change(editing.default_heading(table, name, phrase)))
    popover.column.addWidget(fields)
    for other in _SIDES:
        if other != clause and (other != "multiples" or phrase.form != "grid"):
            moved = editing.moved_word(phrase, clause, word.at, other, len(editing.words_in(phrase, other)))
            swap = Button(f"Move to {_SAID[other]}")
            said = f"Move {heading_words(heading)} to {_SAID[other]}"
            swap.clicked.connect(lambda _, moved=moved, said=said: done(popover, say, moved, said))
            popover.column.addWidget(swap)
    foot(popover, word, phrase, say, len(headings))
    return popover


class _BandsForm(QWidget):
    """Bands of one width, between limits if they are said; or bands at chosen limits."""

    def __init__(self, heading: Heading, vocabulary: Vocabulary, change: Callable[[Heading], None]) -> None:
        super().__init__()
        self.heading, self.vocabulary, self._change = heading, vocabulary, change
        bands = heading.bands or Bands(10.0)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        self.lines: dict[str, QLineEdit] = {}
        figures = {"width": bands.width, "from": bands.lowest, "to": bands.highest}
        words = {"width": "in bands of", "from": "from", "to": "to", "at": "or at"}
        for row, what in enumerate(words):
            line = QLineEdit()
            line.setAccessibleName({"width": "width of a band", "at": "limits of bands"}.get(what, f"bands {what}"))
            value = figures.get(what)
            line.setText("" if value is None else f"{value:g}")
            line.returnPressed.connect(lambda what=what: self.take(at=what == "at"))
            self.lines[what] = line
            grid.addWidget(Label(words[what]), row, 0)
            grid.addWidget(line, row, 1)
        self.lines["at"].setText(", ".join(f"{limit:g}" for limit in bands.at))
        self.lines["at"].setPlaceholderText("limits, such as 0, 15, 60")
        self.notice = trouble_label()
        take = Button("Apply")
        take.clicked.connect(lambda: self.take(at=bool(self.lines["at"].isModified() and self.lines["at"].text())))
        grid.addWidget(self.notice, 4, 0, 1, 2)
        grid.addWidget(take, 5, 0, 1, 2)

    def take(self, *, at: bool) -> None:
        text = {what: " ".join(line.text().split()) for what, line in self.lines.items()}
        name = name_text(self.heading.field)
        if at:
            stated = f"{name} in bands at {text['at']}"
        else:
            stated = f"{name} in bands of {text['width']}"
            stated += "".join(f" {word} {text[word]}" for word in ("from", "to") if text[word])
        try:
            made = parse(f"show rows by {stated}", self.vocabulary).by[0]
        except Refusal as refusal:
            known = "bands" in refusal.wrong
            numbers = "Enter plain numbers, separated by commas."
            self.notice.setText(sentence(refusal.wrong) if known else numbers)
            self.notice.show()
            return
        self._change(made)
