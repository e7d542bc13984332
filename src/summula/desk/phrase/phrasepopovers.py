"""The popovers of a phrase's words: pick, change, reorder, take away."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, cast

from msgspec.structs import replace
from PyQt6.QtWidgets import (
    QWidget,
)

from summula.core.phrases import editing
from summula.core.phrases.phrase import (
    Aggregate,
    Measure,
    Phrase,
)
from summula.core.refusal import Refusal
from summula.desk.phrase.conditionpopover import condition_popover
from summula.desk.phrase.headingpopover import heading_popover
from summula.desk.phrase.keeppopover import keep_popover, order_popover
from summula.desk.phrase.measurepopover import measure_popover
from summula.desk.phrase.phrasewords import Word
from summula.desk.phrase.popoverparts import Say, done, field_choices, taken_away
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.language.vocabulary import Vocabulary


def open_word(anchor: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    """The popover of a word, shown below it. `say` takes the changed phrase and what was done."""
    makers: dict[str, Callable[..., Popover]] = {
        "measures": measure_popover,
        "by": heading_popover,
        "across": heading_popover,
        "multiples": heading_popover,
        "where": condition_popover,
        "keeping": keep_popover,
        "order": order_popover,
        "option": _option,
        "add": _add,
    }
    try:
        popover = makers[word.role](anchor, word, phrase, vocabulary, say)
    except Refusal as refusal:  # a field that the table lacks now: the word can at least be taken away
        popover = _lacking(anchor, word, phrase, say, refusal)
    popover.open_below(anchor)
    return popover


def _option(anchor: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(anchor, word.text, 200)
    remove = Button("Remove")
    remove.clicked.connect(lambda: taken_away(popover, word, phrase, say))
    popover.column.addWidget(remove)
    return popover


def _lacking(anchor: QWidget, word: Word, phrase: Phrase, say: Say, refusal: Refusal) -> Popover:
    popover = Popover(anchor, word.text, 260)
    reason = Label(str(refusal))
    reason.setWordWrap(True)
    remove = Button("Remove")
    remove.clicked.connect(lambda: taken_away(popover, word, phrase, say))
    popover.column.addWidget(reason)
    popover.column.addWidget(remove)
    return popover


def _add(anchor: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    table = vocabulary.table
    if word.clause == "more":
        return _more(anchor, phrase, vocabulary, say)
    titles = {
        "measures": "Show also",
        "by": "By",
        "across": "Across",
        "where": "Filter",
        "against": "Against",
        "multiples": "Once for each",
    }
    popover = Popover(anchor, titles[word.clause], 290)
    choices = field_choices(table)
    if word.clause in ("measures", "against"):
        choices.insert(0, Pick("rows", None, "how many rows"))

    def add(name: str | None) -> None:
        if word.clause == "against":
            figure = Aggregate("rows") if name is None else editing.default_aggregate(table, name)
            changed = replace(phrase, against=Measure(figure), form="scatter")
        elif word.clause == "multiples":
            assert name is not None
            heading = editing.default_heading(table, name, phrase)
            changed = editing.put(phrase, "multiples", None, heading)
        elif name is None:
            changed = editing.put(phrase, "measures", None, Measure(Aggregate("rows")))
        elif word.clause == "where":
            changed = editing.put(phrase, "where", None, editing.default_condition(table, name))
        elif word.clause == "measures":
            changed = editing.put(phrase, "measures", None, Measure(editing.default_aggregate(table, name)))
        else:
            changed = editing.with_field(phrase, table, name, cast(editing.Clause, word.clause))
        done(popover, say, changed, f"Add {name or 'rows'}")

    picks = PickList(choices, name="fields", search=True)
    picks.picked.connect(add)
    popover.column.addWidget(picks)
    picks.focus_in()
    return popover


def _more(anchor: QWidget, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(anchor, "Add to the phrase", 270)
    keep = editing.default_keep(phrase, vocabulary.table)
    choices = [
        Pick("where …", "where", "filter rows"),
        *([Pick("keeping …", "keeping", "top or bottom members")] if keep is not None else []),
        Pick("against …", "against", "horizontal axis of a scatter"),
        *([Pick("for each …", "multiples", "small multiples")] if phrase.form != "grid" else []),
        Pick("ordered …", "order", "sort by a measure, or reversed"),
        Pick("with every member", "every_member", "include members without rows"),
        Pick("without subtotals", "subtotals"),
        Pick("without totals", "totals"),
    ]
    picks = PickList(choices, name="clauses", search=False)

    def add(what: str) -> None:
        popover.close()
        if what == "where":
            _add(anchor, Word("add", "+", "where"), phrase, vocabulary, say).open_below(anchor)
        elif what in ("against", "multiples"):
            _add(anchor, Word("add", "+", what), phrase, vocabulary, say).open_below(anchor)
        elif what == "order":
            order_popover(anchor, Word("order", "", "order"), phrase, vocabulary, say).open_below(anchor)
        elif what == "keeping":
            say(editing.put(phrase, "keeping", None, keep), "Keep the top 5")
        else:
            say(
                replace(phrase, **{what: what == "every_member"}),
                next(c.text for c in choices if c.value == what),
            )

    picks.picked.connect(add)
    popover.column.addWidget(picks)
    picks.focus_in()
    return popover
