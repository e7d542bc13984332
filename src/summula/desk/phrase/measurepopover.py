"""The popover of a figure: how it is worked out, of which rows, set against what, what if, and its name."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Literal, cast

from msgspec.structs import replace
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QSpinBox, QWidget

from summula.core.fields.heading import Heading, encode_heading
from summula.core.fields.labels import label_of
from summula.core.phrases import editing
from summula.core.phrases.members import value_of_member
from summula.core.phrases.phrase import Aggregate, Arithmetic, Comparison, Lever, Measure, Number, Phrase
from summula.core.phrases.printing import print_measure
from summula.core.refusal import Refusal
from summula.core.summaries import parse
from summula.desk.phrase.conditionpopover import ConditionForm
from summula.desk.phrase.phrasewords import Word, condition_words, heading_words
from summula.desk.phrase.popoverparts import Say, done, field_choices, foot, tell, trouble_label, typed
from summula.desk.theme import font, tint
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover, small_heading

if TYPE_CHECKING:
    from summula.core.language.vocabulary import Vocabulary

_SHARES: tuple[
    Literal["share of all", "share of row", "share of column", "share of group", "share of everything"], ...
] = ("share of all", "share of row", "share of column", "share of group", "share of everything")
_MOST_MEMBERS = 500
Change = Callable[[Measure, str], None]


def measure_popover(anchor: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    clause = cast(editing.Clause, word.clause)
    words = editing.words_in(phrase, clause)
    measure: Measure = words[word.at]
    popover = Popover(anchor, "Figure", 300)
    aggregate = measure.calculation if isinstance(measure.calculation, Aggregate) else None

    def change(new: Measure, edit_name: str) -> None:
        done(popover, say, editing.put(phrase, clause, word.at, new), edit_name)

    def change_later(new: Measure, edit_name: str) -> None:  # from a popover that came after this one
        say(editing.put(phrase, clause, word.at, new), edit_name)

    if aggregate is not None:
        _functions(popover, measure, aggregate, vocabulary, change)
    popover.column.addWidget(small_heading("Shown as"))
    popover.column.addWidget(_comparisons(popover, anchor, measure, phrase, vocabulary, change, change_later))
    if aggregate is not None:
        popover.column.addWidget(_only_for(popover, anchor, measure, aggregate, vocabulary, change, change_later))
    if vocabulary.levers:
        popover.column.addWidget(small_heading("What if"))
        popover.column.addWidget(_what_if(measure, vocabulary.levers, change))

    def read(text: str) -> Phrase:
        new = parse(f"show {text}", vocabulary).measures
        if clause == "against":
            return editing.put(phrase, clause, word.at, new[0])
        measures = (*phrase.measures[: word.at], *new, *phrase.measures[word.at + 1 :])
        return replace(phrase, measures=measures)

    name = QLineEdit(measure.name or "")
    name.setAccessibleName("called")
    name.setPlaceholderText("rename …")
    name.returnPressed.connect(
        lambda: change(replace(measure, name=" ".join(name.text().split()) or None), "Name a figure")
    )
    popover.column.addWidget(name)
    line = typed(popover, print_measure(measure), "the figure as text", read, say, "Change a figure")
    foot(popover, word, phrase, say, len(words))
    if aggregate is None:
        line.setFocus()
    return popover


def _functions(
    popover: Popover, measure: Measure, aggregate: Aggregate, vocabulary: Vocabulary, change: Change
) -> None:
    """How the figure is worked out; a percentile says which."""
    table = vocabulary.table
    functions = editing.functions_for(table, aggregate.field)
    now = aggregate.function
    if now == "default" and aggregate.field is not None:
        now = editing.default_aggregate(table, aggregate.field).function
    choices = [Pick(("✓ " if f == now else "    ") + f, f) for f in functions]
    picks = PickList(choices, name="aggregate", most_rows=7, search=False)
    picks.list.setCurrentRow(functions.index(now) if now in functions else 0)

    def take(function: str, percent: float | None = None) -> None:
        if function == "rows":
            popover.close()
            return
        percent = (percent if percent is not None else 90.0) if function == "percentile" else None
        new = replace(aggregate, function=function, percentile=percent)
        change(replace(measure, calculation=new), f"{function} of {aggregate.field}")

    picks.picked.connect(take)
    popover.column.addWidget(picks)
    if aggregate.function == "percentile":
        row = QHBoxLayout()
        which = QSpinBox()
        which.setAccessibleName("which percentile")
        which.setRange(0, 100)
        which.setValue(int(aggregate.percentile or 0))
        set_it = Button("Apply")
        set_it.clicked.connect(lambda: take("percentile", float(which.value())))
        row.addWidget(Label("percentile"))
        row.addWidget(which, 1)
        row.addWidget(set_it)
        popover.column.addLayout(row)


def _comparisons(
    popover: Popover,
    anchor: QWidget,
    measure: Measure,
    phrase: Phrase,
    vocabulary: Vocabulary,
    change: Change,
    later: Change,
) -> QComboBox:
    """What the figure is set against."""
    shown = QComboBox()
    shown.setAccessibleName("Shown as")
    shown.addItem("no comparison", None)
    for kind in _SHARES:
        shown.addItem(kind, Comparison(kind))
    for heading in (*phrase.by, *phrase.across):
        name = heading_words(heading)
        shown.addItem(f"running total along {name}", Comparison("running total", heading))
        shown.addItem(f"rank along {name}", Comparison("rank", heading))
        for percent in ("", "percent "):
            shown.addItem(
                f"{percent}change on previous {name}",
                Comparison("percent change on previous" if percent else "change on previous", heading),
            )
        if heading.carries_year:
            shown.addItem("change on a year earlier", Comparison("change on a year earlier"))
            shown.addItem("percent change on a year earlier", Comparison("percent change on a year earlier"))
        for percent in ("", "percent "):
            shown.addItem(f"{percent}change on one {name} …", (bool(percent), heading))
    now = measure.comparison
    for at in range(shown.count()):
        data = shown.itemData(at)
        one = isinstance(data, tuple) and now is not None and now.member is not None
        if data == now or (one and now is not None and data == (now.kind.startswith("percent"), now.along)):
            shown.setCurrentIndex(at)

    def take(at: int) -> None:
        data = shown.itemData(at)
        if isinstance(data, tuple):
            popover.close()
            QTimer.singleShot(0, lambda: _against_member(anchor, measure, data[0], data[1], vocabulary, later))
        else:
            change(replace(measure, comparison=data), shown.itemText(at))

    shown.activated.connect(take)
    return shown


def _against_member(
    anchor: QWidget, measure: Measure, percent: bool, heading: Heading, vocabulary: Vocabulary, change: Change
) -> None:
    """The member that all others are set against."""
    members = encode_heading(vocabulary.table, heading).members[:_MOST_MEMBERS]
    picking = Popover(anchor, f"Change on one {heading_words(heading)}", 280)
    picks = PickList([Pick(label_of(heading, each), each) for each in members], name="members", search=True)

    def take(member: object) -> None:
        picking.close()
        kind: Literal["percent change on", "change on"] = "percent change on" if percent else "change on"
        against = Comparison(kind, heading, value_of_member(member))  # type: ignore[arg-type]
        change(replace(measure, comparison=against), f"{kind} one member")

    picks.picked.connect(take)
    picking.column.addWidget(picks)
    picking.open_below(anchor)
    picks.focus_in()


def _only_for(
    popover: Popover,
    anchor: QWidget,
    measure: Measure,
    aggregate: Aggregate,
    vocabulary: Vocabulary,
    change: Change,
    later: Change,
) -> QWidget:
    """Conditions on this figure alone."""
    inside = QWidget()
    row = QHBoxLayout(inside)
    row.setContentsMargins(0, 0, 0, 0)
    stated = " and ".join(condition_words(each) for each in aggregate.where)
    more = Button("Only where …" if not stated else "And only where …")
    more.setProperty("quiet", "true")

    def ask() -> None:
        popover.close()
        QTimer.singleShot(0, lambda: _ask_field(anchor, measure, aggregate, vocabulary, later))

    more.clicked.connect(ask)
    row.addWidget(more)
    row.addStretch(1)
    if stated:
        notice = Label(f"only where {stated}")
        notice.setWordWrap(True)
        notice.setFont(font(12))
        tint(notice, "muted")
        popover.column.addWidget(notice)
        every = Button("Of all rows")
        every.setProperty("quiet", "true")
        plain = replace(aggregate, where=())
        every.clicked.connect(lambda: change(replace(measure, calculation=plain), "A figure of all rows"))
        row.addWidget(every)
    return inside


def _ask_field(anchor: QWidget, measure: Measure, aggregate: Aggregate, vocabulary: Vocabulary, change: Change) -> None:
    picking = Popover(anchor, "Filter", 290)
    picks = PickList(field_choices(vocabulary.table), name="fields", search=True)

    def chosen(name: str) -> None:
        picking.close()
        QTimer.singleShot(0, lambda: _ask_condition(anchor, measure, aggregate, name, vocabulary, change))

    picks.picked.connect(chosen)
    picking.column.addWidget(picks)
    picking.open_below(anchor)
    picks.focus_in()


def _ask_condition(
    anchor: QWidget, measure: Measure, aggregate: Aggregate, name: str, vocabulary: Vocabulary, change: Change
) -> None:
    asking = Popover(anchor, f"Only rows where {name}", 300)
    form = ConditionForm(editing.default_condition(vocabulary.table, name), vocabulary.table)
    notice = trouble_label()
    take = Button("Apply")
    take.setProperty("strong", "true")

    def taken() -> None:
        try:
            condition = parse(f"show rows where {form.text()}", vocabulary).where[0]
        except Refusal as refusal:
            tell(notice, refusal, asking)
            return
        asking.close()
        new = replace(aggregate, where=(*aggregate.where, condition))
        change(replace(measure, calculation=new), f"Only where {condition_words(condition)}")

    form.entered = taken
    take.clicked.connect(taken)
    for widget in (form, notice, take):
        asking.column.addWidget(widget)
    asking.open_below(anchor)


def _what_if(measure: Measure, levers: tuple[str, ...], change: Change) -> PickList:
    """The figure raised by a lever, or times it, or with it added."""
    one, figure = Number(1.0), measure.calculation
    choices = []
    for name in levers:
        lever = Lever(name)
        raised = Arithmetic("*", figure, Arithmetic("+", one, lever))
        choices.append(Pick(f"raised by {name}", raised, "× (1 + lever)"))
        choices.append(Pick(f"times {name}", Arithmetic("*", figure, lever), "× lever"))
        choices.append(Pick(f"plus {name}", Arithmetic("+", figure, lever), "+ lever"))
    picks = PickList(choices, name="what if", most_rows=3, search=False)
    picks.picked.connect(lambda new: change(replace(measure, calculation=new), "What if: a figure with a lever"))
    return picks
