"""The popovers of a phrase's words: pick, change, reorder, take away."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, cast

import msgspec
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QWidget,
)

from summula.core.charts import why_not
from summula.core.fields.bands import Bands
from summula.core.fields.heading import PARTS, Heading
from summula.core.refusal import Refusal
from summula.core.summaries import editing, parse
from summula.core.summaries.language.printing import print_measure
from summula.core.summaries.language.vocabulary import Vocabulary
from summula.core.summaries.phrase import (
    FORMS,
    Aggregate,
    Arithmetic,
    Comparison,
    Lever,
    Measure,
    Number,
    Phrase,
)
from summula.desk.phrase.conditionpopover import condition_popover
from summula.desk.phrase.keeppopover import keep_popover, order_popover
from summula.desk.phrase.phrasewords import Word, heading_words
from summula.desk.phrase.popoverparts import Say, done, field_choices, foot, taken_away, typed
from summula.desk.widgets.picklist import Choice, PickList
from summula.desk.widgets.popover import Popover, small_heading

_SHARES: tuple[Literal["share of all", "share of row", "share of column"], ...] = (
    "share of all",
    "share of row",
    "share of column",
)


def open_word(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    """The popover of a word, shown below it. `say` takes the changed phrase and what was done."""
    makers: dict[str, Callable[..., Popover]] = {
        "measures": _measure,
        "by": _heading,
        "across": _heading,
        "where": condition_popover,
        "keeping": keep_popover,
        "order": order_popover,
        "form": _form,
        "option": _option,
        "add": _add,
    }
    try:
        popover = makers[word.role](beside, word, phrase, vocabulary, say)
    except Refusal as refusal:  # a field that the table lacks now: the word can at least be taken away
        popover = _lacking(beside, word, phrase, say, refusal)
    popover.open_below(beside)
    return popover


def _measure(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    table, measure = vocabulary.table, phrase.measures[word.at]
    popover = Popover(beside, "Figure", 300)
    aggregate = measure.calculation if isinstance(measure.calculation, Aggregate) else None

    def change(new: Measure, deed: str) -> None:
        done(popover, say, editing.put(phrase, "measures", word.at, new), deed)

    if aggregate is not None:
        functions = editing.functions_for(table, aggregate.field)
        now = aggregate.function
        if now == "default" and aggregate.field is not None:
            now = editing.default_aggregate(table, aggregate.field).function
        picks = PickList(
            [Choice(("✓ " if f == now else "    ") + f, f) for f in functions],
            name="how it is worked out",
            most_rows=7,
            search=False,
        )
        picks.list.setCurrentRow(functions.index(now) if now in functions else 0)
        picks.picked.connect(
            lambda f: (
                change(
                    msgspec.structs.replace(measure, calculation=msgspec.structs.replace(aggregate, function=f)),
                    f"{f} of {aggregate.field}",
                )
                if f != "rows"
                else popover.close()
            )
        )
        popover.column.addWidget(picks)
        popover.column.addWidget(small_heading("Shown as"))
        shown = QComboBox()
        shown.setAccessibleName("Shown as")
        shown.addItem("the figure itself", None)
        for kind in _SHARES:
            shown.addItem(kind, Comparison(kind))
        for heading in (*phrase.by, *phrase.across):
            name = heading_words(heading)
            shown.addItem(f"running total along {name}", Comparison("running total", heading))
            shown.addItem(f"rank along {name}", Comparison("rank", heading))
            shown.addItem(f"change on previous {name}", Comparison("change on previous", heading))
            shown.addItem(f"percent change on previous {name}", Comparison("percent change on previous", heading))
            if heading.carries_year:
                shown.addItem("percent change on a year earlier", Comparison("percent change on a year earlier"))
        for at in range(shown.count()):
            if shown.itemData(at) == measure.comparison:
                shown.setCurrentIndex(at)
        shown.activated.connect(
            lambda at: change(msgspec.structs.replace(measure, comparison=shown.itemData(at)), shown.itemText(at))
        )
        popover.column.addWidget(shown)
    if vocabulary.levers:
        popover.column.addWidget(small_heading("What if"))
        popover.column.addWidget(_what_if(measure, vocabulary.levers, change))

    def read(text: str) -> Phrase:
        new = parse(f"show {text}", vocabulary).measures
        measures = (*phrase.measures[: word.at], *new, *phrase.measures[word.at + 1 :])
        return msgspec.structs.replace(phrase, measures=measures)

    line = typed(popover, print_measure(measure), "the figure as text", read, say, "Change a figure")
    foot(popover, word, phrase, say, len(phrase.measures))
    if aggregate is None:
        line.setFocus()
    return popover


def _what_if(measure: Measure, levers: tuple[str, ...], change: Callable[[Measure, str], None]) -> PickList:
    """The figure raised by a lever, or times it, or with it added."""
    one, figure = Number(1.0), measure.calculation
    choices = []
    for name in levers:
        lever = Lever(name)
        raised = Arithmetic("*", figure, Arithmetic("+", one, lever))
        choices.append(Choice(f"raised by {name}", raised, "× (1 + lever)"))
        choices.append(Choice(f"times {name}", Arithmetic("*", figure, lever), "× lever"))
        choices.append(Choice(f"plus {name}", Arithmetic("+", figure, lever), "+ lever"))
    picks = PickList(choices, name="what if", most_rows=3, search=False)
    picks.picked.connect(
        lambda new: change(msgspec.structs.replace(measure, calculation=new), "What if: a figure with a lever")
    )
    return picks


def _heading(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    clause = cast(editing.Clause, word.clause)
    headings: tuple[Heading, ...] = getattr(phrase, clause)
    heading, table = headings[word.at], vocabulary.table
    popover = Popover(beside, heading.field, 290)
    kind = table.field(heading.field).kind

    def change(new: Heading) -> None:
        done(popover, say, editing.put(phrase, clause, word.at, new), f"{clause} {heading_words(new)}")

    if kind == "date":
        parts = [*(p for p in PARTS if p != "hour"), "each day"]
        picks = PickList([Choice(p, p) for p in parts], name="part of the date", most_rows=6, search=False)
        if heading.part in parts:
            picks.list.setCurrentRow(parts.index(heading.part))
        picks.picked.connect(lambda part: change(Heading(heading.field, None if part == "each day" else part)))
        popover.column.addWidget(picks)
    elif kind == "number":
        row = QHBoxLayout()
        width = QLineEdit(f"{heading.bands.width:g}" if heading.bands and heading.bands.width else "10")
        width.setAccessibleName("width of a band")

        def set_width() -> None:
            try:
                wide = float(width.text())
            except ValueError:
                width.setFocus()
                return
            if wide > 0:
                change(Heading(heading.field, bands=Bands(wide)))

        width.returnPressed.connect(set_width)
        row.addWidget(QLabel("in bands of"))
        row.addWidget(width)
        popover.column.addLayout(row)
    popover.column.addWidget(small_heading("Another field"))
    fields = PickList(field_choices(table), name="fields", most_rows=6)
    fields.picked.connect(lambda name: change(editing.default_heading(table, name, phrase)))
    popover.column.addWidget(fields)
    other = "across" if clause == "by" else "by"
    swap = QPushButton(f"Move to {other}")
    swap.clicked.connect(
        lambda: done(popover, say, _moved_over(phrase, clause, word.at), f"Move {heading_words(heading)} to {other}")
    )
    popover.column.addWidget(swap)
    foot(popover, word, phrase, say, len(headings))
    return popover


def _moved_over(phrase: Phrase, clause: editing.Clause, at: int) -> Phrase:
    heading = getattr(phrase, clause)[at]
    other: editing.Clause = "across" if clause == "by" else "by"
    return editing.put(editing.take_away(phrase, clause, at), other, None, heading)


def _form(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(beside, "Drawn as", 300)
    picks = PickList([Choice(form, form, why_not(phrase, form)) for form in FORMS], name="forms", search=False)
    picks.picked.connect(lambda form: done(popover, say, msgspec.structs.replace(phrase, form=form), f"Draw as {form}"))
    popover.column.addWidget(picks)
    picks.focus_in()
    return popover


def _option(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(beside, word.text, 200)
    remove = QPushButton("Take away")
    remove.clicked.connect(lambda: taken_away(popover, word, phrase, say))
    popover.column.addWidget(remove)
    return popover


def _lacking(beside: QWidget, word: Word, phrase: Phrase, say: Say, refusal: Refusal) -> Popover:
    popover = Popover(beside, word.text, 260)
    reason = QLabel(str(refusal))
    reason.setWordWrap(True)
    remove = QPushButton("Take away")
    remove.clicked.connect(lambda: taken_away(popover, word, phrase, say))
    popover.column.addWidget(reason)
    popover.column.addWidget(remove)
    return popover


def _add(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    table = vocabulary.table
    if word.clause == "more":
        return _more(beside, phrase, vocabulary, say)
    titles = {"measures": "Show also", "by": "By", "across": "Across", "where": "Only rows where"}
    popover = Popover(beside, titles[word.clause], 290)
    choices = field_choices(table)
    if word.clause == "measures":
        choices.insert(0, Choice("rows", None, "how many rows"))

    def add(name: str | None) -> None:
        if name is None:
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


def _more(beside: QWidget, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(beside, "Add to the phrase", 270)
    choices = [
        Choice("where …", "where", "only some rows"),
        Choice("keeping …", "keeping", "the top or bottom few"),
        Choice("ordered …", "order", "by a figure, or backwards"),
        Choice("with every member", "every_member", "also those without rows"),
        Choice("without subtotals", "subtotals"),
        Choice("without totals", "totals"),
    ]
    picks = PickList(choices, name="clauses", search=False)

    def add(what: str) -> None:
        popover.close()
        if what == "where":
            _add(beside, Word("add", "+", "where"), phrase, vocabulary, say).open_below(beside)
        elif what == "order":
            order_popover(beside, Word("order", "", "order"), phrase, vocabulary, say).open_below(beside)
        elif what == "keeping":
            keep = editing.default_keep(phrase, vocabulary.table)
            if keep is not None:
                say(editing.put(phrase, "keeping", None, keep), "Keep the top 5")
        else:
            say(
                msgspec.structs.replace(phrase, **{what: what == "every_member"}),
                next(c.text for c in choices if c.value == what),
            )

    picks.picked.connect(add)
    popover.column.addWidget(picks)
    picks.focus_in()
    return popover
