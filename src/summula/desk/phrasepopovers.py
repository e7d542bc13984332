"""The popovers of a phrase's words: pick, change, reorder, take away."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from typing import Any, Literal, cast

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidgetItem,
    QPushButton,
    QSpinBox,
    QWidget,
)

from summula.core.charts import why_not
from summula.core.fields.bands import Bands
from summula.core.fields.heading import PARTS, Heading, encode_heading
from summula.core.fields.labels import label_of
from summula.core.refusal import Refusal
from summula.core.summaries import editing, parse
from summula.core.summaries.phrase import (
    FORMS,
    Aggregate,
    Comparison,
    Condition,
    Keep,
    Measure,
    Order,
    Phrase,
    Value,
)
from summula.core.summaries.printing import print_condition, print_measure
from summula.core.summaries.vocabulary import Vocabulary
from summula.core.tables.table import Table
from summula.desk.glyphs import KIND_WORDS
from summula.desk.phrasewords import Word, heading_words, measure_words
from summula.desk.picklist import Choice, PickList
from summula.desk.popover import Popover, small_heading
from summula.desk.theme import colour, font

Say = Callable[[Phrase, str], None]
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
        "where": _condition,
        "keeping": _keep,
        "order": _order,
        "form": _form,
        "option": _option,
        "add": _add,
    }
    popover = makers[word.role](beside, word, phrase, vocabulary, say)
    popover.open_below(beside)
    return popover


def remove_word(word: Word, phrase: Phrase, say: Say) -> None:
    """Take a word out of its phrase."""
    if word.role == "order":
        say(msgspec.structs.replace(phrase, order=None), "Remove the order")
    elif word.role == "option":
        option = {
            "with every member": {"every_member": False},
            "without subtotals": {"subtotals": True},
            "without totals": {"totals": True},
        }
        say(msgspec.structs.replace(phrase, **option[word.text]), f"Remove {word.text}")
    elif word.role in ("measures", "by", "across", "where", "keeping"):
        say(editing.take_away(phrase, cast(editing.Clause, word.clause), word.at), f"Remove {word.text}")


def field_choices(table: Table, kinds: tuple[str, ...] = ()) -> list[Choice]:
    return [
        Choice(f.name, f.name, KIND_WORDS[f.kind].split(":")[0]) for f in table.fields if not kinds or f.kind in kinds
    ]


def _foot(popover: Popover, word: Word, phrase: Phrase, say: Say, count: int) -> None:
    """Earlier, later, take away: at the foot of a word's popover."""
    row = QHBoxLayout()
    clause = cast(editing.Clause, word.clause)
    for text, step, possible in (("← Earlier", -1, word.at > 0), ("Later →", 1, word.at < count - 1)):
        button = QPushButton(text)
        button.setEnabled(possible)
        button.clicked.connect(
            lambda _, step=step: _done(popover, say, editing.move(phrase, clause, word.at, step), f"Move {word.text}")
        )
        row.addWidget(button)
    row.addStretch(1)
    remove = QPushButton("Take away")
    remove.clicked.connect(lambda: _taken_away(popover, word, phrase, say))
    row.addWidget(remove)
    popover.column.addLayout(row)


def _taken_away(popover: Popover, word: Word, phrase: Phrase, say: Say) -> None:
    popover.close()
    remove_word(word, phrase, say)


def _done(popover: Popover, say: Say, phrase: Phrase, deed: str) -> None:
    popover.close()
    say(phrase, deed)


def _typed(popover: Popover, text: str, name: str, read: Callable[[str], Phrase], say: Say, deed: str) -> QLineEdit:
    """A line in which the word can be typed; a fault is told below it."""
    line = QLineEdit(text)
    line.setAccessibleName(name)
    trouble = QLabel()
    trouble.setWordWrap(True)
    trouble.setFont(font(12))
    trouble.setStyleSheet(f"color: {colour('loss').name()}")
    trouble.hide()

    def take() -> None:
        try:
            changed = read(line.text())
        except Refusal as refusal:
            trouble.setText(str(refusal))
            trouble.show()
            popover.adjustSize()
            return
        _done(popover, say, changed, deed)

    line.returnPressed.connect(take)
    popover.column.addWidget(small_heading("As text"))
    popover.column.addWidget(line)
    popover.column.addWidget(trouble)
    return line


def _measure(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    table, measure = vocabulary.table, phrase.measures[word.at]
    popover = Popover(beside, "Figure", 300)
    aggregate = measure.calculation if isinstance(measure.calculation, Aggregate) else None

    def change(new: Measure, deed: str) -> None:
        _done(popover, say, editing.put(phrase, "measures", word.at, new), deed)

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

    def read(text: str) -> Phrase:
        new = parse(f"show {text}", vocabulary).measures
        measures = (*phrase.measures[: word.at], *new, *phrase.measures[word.at + 1 :])
        return msgspec.structs.replace(phrase, measures=measures)

    line = _typed(popover, print_measure(measure), "the figure as text", read, say, "Change a figure")
    _foot(popover, word, phrase, say, len(phrase.measures))
    if aggregate is None:
        line.setFocus()
    return popover


def _heading(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    clause = cast(editing.Clause, word.clause)
    headings: tuple[Heading, ...] = getattr(phrase, clause)
    heading, table = headings[word.at], vocabulary.table
    popover = Popover(beside, heading.field, 290)
    kind = table.field(heading.field).kind

    def change(new: Heading) -> None:
        _done(popover, say, editing.put(phrase, clause, word.at, new), f"{clause} {heading_words(new)}")

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
        lambda: _done(popover, say, _moved_over(phrase, clause, word.at), f"Move {heading_words(heading)} to {other}")
    )
    popover.column.addWidget(swap)
    _foot(popover, word, phrase, say, len(headings))
    return popover


def _moved_over(phrase: Phrase, clause: editing.Clause, at: int) -> Phrase:
    heading = getattr(phrase, clause)[at]
    other: editing.Clause = "across" if clause == "by" else "by"
    return editing.put(editing.take_away(phrase, clause, at), other, None, heading)


def _condition(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    condition, table = phrase.where[word.at], vocabulary.table
    popover = Popover(beside, f"Only rows where {condition.heading.field}", 310)
    kind = table.field(condition.heading.field).kind

    def change(new: Condition) -> None:
        _done(popover, say, editing.put(phrase, "where", word.at, new), f"where {print_condition(new)}")

    if kind in ("category", "flag") or condition.heading.part is not None:
        _member_choice(popover, condition, table, change)

    def read(text: str) -> Phrase:
        new = parse(f"show rows where {text}", vocabulary).where
        where = (*phrase.where[: word.at], *new, *phrase.where[word.at + 1 :])
        return msgspec.structs.replace(phrase, where=where)

    line = _typed(popover, print_condition(condition), "the condition as text", read, say, "Change a condition")
    if kind in ("number", "date", "code"):
        hints = {
            "number": "is over 10 · is from 5 to 20 · is blank",
            "date": "is from 2024-01-01 to 2024-12-31 · is in the last 3 months",
            "code": 'starts with "10"',
        }
        hint = QLabel("For example: " + hints[kind])
        hint.setWordWrap(True)
        hint.setFont(font(12))
        hint.setStyleSheet(f"color: {colour('muted').name()}")
        popover.column.addWidget(hint)
        line.setFocus()
    _foot(popover, word, phrase, say, len(phrase.where))
    return popover


def _member_choice(popover: Popover, condition: Condition, table: Table, change: Callable[[Condition], None]) -> None:
    test = QComboBox()
    test.setAccessibleName("which members")
    test.addItems(["is", "is not"])
    test.setCurrentText(condition.test if condition.test in ("is", "is not") else "is")
    popover.column.addWidget(test)
    encoded = encode_heading(table, condition.heading)
    picks = PickList([], name="members", most_rows=9, search=len(encoded.members) > 9)
    picks.list.setSelectionMode(picks.list.SelectionMode.NoSelection)
    chosen = {str(v).casefold() if isinstance(v, str) else str(int(v)) for v in condition.values}
    picks.list.clear()
    for member in encoded.members[:2000]:
        spelled = member.isoformat() if isinstance(member, date) else member
        item = QListWidgetItem(label_of(condition.heading, member))
        value: Value = float(spelled) if isinstance(spelled, int) and not isinstance(spelled, bool) else str(spelled)
        item.setData(Qt.ItemDataRole.UserRole, value)
        item.setCheckState(Qt.CheckState.Checked if str(spelled).casefold() in chosen else Qt.CheckState.Unchecked)
        picks.list.addItem(item)
    rows = min(max(len(encoded.members), 1), 9)
    picks.list.setFixedHeight(rows * max(picks.list.sizeHintForRow(0), 24) + 6)
    picks.list.itemClicked.disconnect()
    picks.list.itemActivated.disconnect()
    picks.search.textChanged.disconnect()
    picks.search.textChanged.connect(lambda text: _hide_others(picks, text))
    popover.column.addWidget(picks)
    take = QPushButton("Take these")
    take.setProperty("strong", "true")

    def taken() -> None:
        values = []
        for row in range(picks.list.count()):
            item = picks.list.item(row)
            if item is not None and item.checkState() == Qt.CheckState.Checked:
                values.append(item.data(Qt.ItemDataRole.UserRole))
        if values:
            change(Condition(condition.heading, cast(Any, test.currentText()), tuple(values)))

    take.clicked.connect(taken)
    popover.column.addWidget(take)


def _hide_others(picks: PickList, text: str) -> None:
    for row in range(picks.list.count()):
        item = picks.list.item(row)
        if item is not None:
            item.setHidden(text.casefold() not in item.text().casefold())


def _keep(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    keep, table = phrase.keeping[word.at], vocabulary.table
    popover = Popover(beside, "Keeping", 320)
    row = QHBoxLayout()
    end = QComboBox()
    end.setAccessibleName("top or bottom")
    end.addItems(["top", "bottom"])
    end.setCurrentText(keep.end)
    number = QSpinBox()
    number.setAccessibleName("how many")
    number.setRange(1, 100 if keep.percent else 100_000)
    number.setValue(int(keep.number))
    row.addWidget(end)
    row.addWidget(number)
    popover.column.addLayout(row)
    heading = QComboBox()
    heading.setAccessibleName("of which heading")
    options = list(
        dict.fromkeys(
            [
                keep.heading,
                *phrase.by,
                *phrase.across,
                *(Heading(f.name) for f in table.fields if f.kind == "category"),
            ]
        )
    )
    for each in options:
        heading.addItem(heading_words(each), each)
    measure = QComboBox()
    measure.setAccessibleName("by which figure")
    plain = [Measure(m.calculation) for m in phrase.measures]
    for figure in dict.fromkeys([keep.measure, *plain, Measure(Aggregate("rows"))]):
        measure.addItem("by " + measure_words(figure, ()), figure)
    each_in = QComboBox()
    each_in.setAccessibleName("in each")
    each_in.addItem("overall", None)
    for each in (*phrase.by, *phrase.across):
        each_in.addItem(f"in each {heading_words(each)}", each)
        if each == keep.each:
            each_in.setCurrentIndex(each_in.count() - 1)
    gather = QCheckBox("gather the rest into one")
    gather.setChecked(keep.gather)
    for box in (heading, measure, each_in, gather):
        popover.column.addWidget(box)
    take = QPushButton("Keep these")
    take.setProperty("strong", "true")

    def taken() -> None:
        each = each_in.currentData()
        new = Keep(
            cast(Any, end.currentText()),
            float(number.value()),
            heading.currentData(),
            measure.currentData(),
            keep.percent,
            each if each != heading.currentData() else None,
            gather.isChecked(),
            keep.gathered_name,
        )
        _done(popover, say, editing.put(phrase, "keeping", word.at, new), "Change what is kept")

    take.clicked.connect(taken)
    popover.column.addWidget(take)
    _foot(popover, word, phrase, say, len(phrase.keeping))
    return popover


def order_choices(phrase: Phrase) -> list[Choice]:
    choices = [Choice("each heading's own order", None)]
    for measure in phrase.measures:
        plain = Measure(measure.calculation)
        name = measure_words(plain, ())
        choices.append(Choice(f"{name}, largest first", Order(plain, True)))
        choices.append(Choice(f"{name}, smallest first", Order(plain, False)))
    choices += [
        Choice(f"{heading_words(h)}, backwards", Order(heading=h, backwards=True)) for h in (*phrase.by, *phrase.across)
    ]
    return list({choice.text: choice for choice in choices}.values())


def _order(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(beside, "Ordered", 300)
    picks = PickList(order_choices(phrase), name="orders", search=False)
    picks.picked.connect(
        lambda order: _done(popover, say, msgspec.structs.replace(phrase, order=order), "Change the order")
    )
    popover.column.addWidget(picks)
    picks.focus_in()
    return popover


def _form(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(beside, "Drawn as", 300)
    picks = PickList([Choice(form, form, why_not(phrase, form)) for form in FORMS], name="forms", search=False)
    picks.picked.connect(
        lambda form: _done(popover, say, msgspec.structs.replace(phrase, form=form), f"Draw as {form}")
    )
    popover.column.addWidget(picks)
    picks.focus_in()
    return popover


def _option(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(beside, word.text, 200)
    remove = QPushButton("Take away")
    remove.clicked.connect(lambda: _taken_away(popover, word, phrase, say))
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
        _done(popover, say, changed, f"Add {name or 'rows'}")

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
            _order(beside, Word("order", "", "order"), phrase, vocabulary, say).open_below(beside)
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
