"""Live figures: words in braces that are answered on the rows in play where they stand.

`{sum of Takings where Route is "Osk – Vaila"}` is a figure, with `keeping`, and `shown as "#,##0"` at its end;
`{names: top 2 Vessel by sum of Takings}` are names; `{Route}` is what the slicers of a field let through; `{period}`,
`{rows}`, `{lever "Fare change"}` and `{read at}` say themselves. A doubled brace is a brace. What cannot be answered
says why in its place.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.charts.style import Words
from summula.core.engine.answer import answer, dimensions_of, with_defaults
from summula.core.engine.cells import Cells, Dimension
from summula.core.fields.figures import checked_pattern, several
from summula.core.fields.heading import Heading, encode_heading
from summula.core.fields.labels import MONTHS, label_of
from summula.core.grids.measurestyle import MeasureStyle, styled
from summula.core.memory import Remembered
from summula.core.phrases.lever import LeverSetting, with_levers
from summula.core.phrases.phrase import Aggregate, Condition, Measure, Number, Order, Phrase
from summula.core.phrases.printing import number_text
from summula.core.refusal import Refusal
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer, Slicer
from summula.core.slicing.slicerkinds import slicer_words
from summula.core.tables.column import DateColumn, date_of
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from summula.core.charts.chart import Chart
    from summula.core.language.vocabulary import Vocabulary

_MOST = 24  # live figures of one text
_LISTED = 3  # members of a slicer that are named; of more it is said how many
_BRACES = re.compile(r"\{\{|\}\}|\{([^{}]*)\}")
_SHOWN_AS = re.compile(r'\s+shown\s+as\s+"((?:[^"]|"")*)"\s*$', re.IGNORECASE)
_NAMES = re.compile(r"\s*names\s*:\s*", re.IGNORECASE)
_LEVER = re.compile(r'\s*lever\s+"((?:[^"]|"")*)"\s*$', re.IGNORECASE)


class LiveRows(msgspec.Struct, frozen=True, eq=False):
    """The rows in play: of a table, or of its `cells` under slicers; `where` narrows them further, as the summary does
    in which the words stand. `read_at`: when the rows were read."""

    table: Table
    cells: Cells | None = None
    slicers: tuple[Slicer, ...] = ()
    where: tuple[Condition, ...] = ()
    levers: tuple[LeverSetting, ...] = ()
    read_at: str = ""


class Asking(msgspec.Struct, frozen=True, eq=False):
    """What stands in braces, as it was understood: a phrase (whose figure, or whose members' names are said), or the
    words themselves. `refusal`: why it says nothing."""

    words: str
    phrase: Phrase | None = None
    names: bool = False
    pattern: str = ""
    refusal: str = ""


_ASKED: Remembered[tuple[str, tuple[str, ...]], Asking] = Remembered("live figures", most=512)


def is_live(text: str) -> bool:
    return "{" in text or "}" in text


def _asking(words: str, table: Table, levers: tuple[str, ...]) -> Asking:
    return _ASKED.of(table.memo, (words, levers), lambda: _understood(words, table, levers))


def _understood(words: str, table: Table, levers: tuple[str, ...]) -> Asking:
    plain = words.strip()
    if plain.casefold() in ("period", "rows", "read at") or _LEVER.match(words) or _field(table, plain):
        return Asking(words)
    pattern = ""
    found = _SHOWN_AS.search(words)
    if found:
        pattern, words = found.group(1).replace('""', '"'), words[: found.start()]
    from summula.core.language.vocabulary import Vocabulary

    vocabulary = Vocabulary(table, levers)
    try:
        if pattern:
            checked_pattern(pattern)
        listed = _NAMES.match(words)
        if listed:
            return Asking(words, _of_names(words[listed.end() :], vocabulary), names=True)
        return Asking(words, _of_figure(_parsed(f"show {words}", vocabulary)), pattern=pattern)
    except Refusal as refusal:
        return Asking(words, refusal=refusal.wrong)


def _parsed(words: str, vocabulary: Vocabulary) -> Phrase:
    # The grammar takes long to load, and few boards have live figures: none waits for it at the start.
    from summula.core.language.grammar import parse

    return parse(words, vocabulary)


def _of_names(words: str, vocabulary: Vocabulary) -> Phrase:
    """`top 2 Vessel by sum of Takings`: those members, in the order of that figure."""
    keep = _parsed(f"show rows keeping {words}", vocabulary).keeping
    if len(keep) != 1:
        raise Refusal("names are of one heading", "enter {names: top 2 FIELD by FIGURE}")
    order = Order(keep[0].measure, keep[0].end == "top")
    return Phrase((keep[0].measure,), by=(keep[0].heading,), keeping=keep, order=order)


def _of_figure(phrase: Phrase) -> Phrase:
    """A single figure. "keeping … as share of everything" means the share of the figure that is shown: a share orders
    members as the figure itself does."""
    if len(phrase.measures) != 1 or phrase.by or phrase.across or phrase.against is not None:
        raise Refusal("braces hold one figure", "remove headings and further measures")
    last, measure = (phrase.keeping[-1] if phrase.keeping else None), phrase.measures[0]
    comparison = last.measure.comparison if last is not None else None
    if (
        last is not None
        and comparison is not None
        and comparison.kind.startswith("share of")
        and not measure.comparison
    ):
        plain = replace(last, measure=replace(last.measure, comparison=None))
        measure = replace(measure, comparison=comparison)
        phrase = replace(phrase, measures=(measure,), keeping=(*phrase.keeping[:-1], plain))
    return phrase


def live_dimensions(texts: Sequence[str], table: Table, levers: Sequence[LeverSetting]) -> list[Dimension]:
    """What the rows must be folded by so that live figures can be answered from cells."""
    found: list[Dimension] = []
    names = tuple(lever.name for lever in levers)
    for text in texts:
        for match in list(_BRACES.finditer(text))[:_MOST] if is_live(text) else ():
            phrase = _asking(match.group(1), table, names).phrase if match.group(1) else None
            if phrase is not None:
                found += dimensions_of(with_defaults(with_levers(phrase, levers), table), table)
    return found


def said(text: str, rows: LiveRows) -> str:
    """The text with its live figures answered."""
    if not is_live(text):
        return text
    count = 0

    def answered(match: re.Match[str]) -> str:
        nonlocal count
        if match.group(1) is None:
            return match.group()[0]
        count += 1
        return _answered(match.group(1), rows) if count <= _MOST else match.group()

    return _BRACES.sub(answered, text)


def live_words(words: Words, rows: LiveRows) -> Words:
    """All words of a chart, answered."""
    if not has_live(words):
        return words
    return Words(**{name: said(getattr(words, name), rows) for name in words.__struct_fields__})


def has_live(words: Words) -> bool:
    return any(is_live(getattr(words, name)) for name in words.__struct_fields__)


def with_live_words(chart: Chart, rows: LiveRows) -> Chart:
    """The chart with all its words answered."""
    words = live_words(chart.style.words, rows)
    if words is chart.style.words:
        return chart
    return replace(chart, look=replace(chart.look, style=replace(chart.style, words=words)))


def _answered(words: str, rows: LiveRows) -> str:
    names = tuple(lever.name for lever in rows.levers)
    asking = _asking(words, rows.table, names)
    try:
        if asking.refusal:
            raise Refusal(asking.refusal)
        return _word(words, rows) if asking.phrase is None else _figure(asking, asking.phrase, rows)
    except Refusal as refusal:
        return f"[{refusal.wrong}]"


def _figure(asking: Asking, phrase: Phrase, rows: LiveRows) -> str:
    calculation = phrase.measures[0].calculation
    if isinstance(calculation, Number) and not asking.pattern:
        return number_text(calculation.value)
    phrase = replace(with_levers(phrase, rows.levers), where=(*phrase.where, *rows.where))
    mask = joined_mask(rows.slicers, rows.cells) if rows.cells is not None else None
    grid = answer(phrase, rows.table, rows.cells, mask)
    if asking.names:
        axis = grid.rows
        labels = [label_of(axis.headings[0], axis.path(1, node)[0]) for node in range(axis.levels[1].size)]
        return joined(labels) or "none"
    style = styled(grid.styles[0], MeasureStyle(asking.pattern)) if asking.pattern else grid.styles[0]
    return style.text(grid.bottom_line(), unit=True)


def _word(words: str, rows: LiveRows) -> str:
    plain = words.strip()
    lever = _LEVER.match(words)
    if lever:
        name = lever.group(1).replace('""', '"')
        found = next((each for each in rows.levers if each.name == name), None)
        if found is None:
            raise Refusal(f"there is no lever '{name}'")
        return found.text()
    match plain.casefold():
        case "read at":
            return rows.read_at or "just now"
        case "rows":
            phrase = Phrase((Measure(Aggregate("rows")),))
            return _figure(Asking(words, phrase), phrase, rows)
        case "period":
            return _period(rows)
    field = _field(rows.table, plain)
    assert field is not None
    slicer = next((s for s in rows.slicers if isinstance(s, ListSlicer) and s.heading == Heading(field)), None)
    return _let_through(rows.table, field, slicer)


def _let_through(table: Table, field: str, slicer: ListSlicer | None) -> str:
    """What a slicer leaves of a field: "all routes", "Osk – Vaila", "4 of 11 routes"."""
    things = _things(field)
    if slicer is None or not slicer.chosen:
        return f"all {things}"
    labels = ["blank" if each is None else f"{each:g}" if isinstance(each, float) else each for each in slicer.chosen]
    if len(labels) <= _LISTED:
        return joined(labels)
    members = [each for each in encode_heading(table, slicer.heading).members if each is not None]
    return f"{len(labels)} of {len(members):,} {things}"


def _things(field: str) -> str:
    """The members of a field, within a sentence: "routes", "SKUs", "members of Delay (min)"."""
    if not field[-1].isalpha():
        return f"members of {field}"
    return several(field if field[1:2].isupper() else f"{field[:1].lower()}{field[1:]}")


def _period(rows: LiveRows) -> str:
    """What the ruler of a period lets through; all dates there are where it narrows none."""
    slicer = next((each for each in rows.slicers if isinstance(each, PeriodSlicer)), None)
    if slicer is not None and slicer.narrows:
        return slicer_words(slicer)
    wanted = slicer.field if slicer is not None else next((f.name for f in rows.table.fields if f.kind == "date"), "")
    column = rows.table.column(wanted) if wanted else None
    if not isinstance(column, DateColumn):
        raise Refusal("the table has no dates")
    days = column.days if column.blank is None else column.days[~column.blank]
    if not len(days):
        raise Refusal("no date is in play")
    first, last = (date_of(int(each)) for each in (days.min(), days.max()))
    ends = [f"{MONTHS[each.month - 1]} {each.year}" for each in (first, last)]
    return ends[0] if ends[0] == ends[1] else f"{ends[0]} – {ends[1]}"


def _field(table: Table, name: str) -> str | None:
    return next((field.name for field in table.fields if field.name.casefold() == name.casefold()), None)


def joined(names: Sequence[str]) -> str:
    """Names with commas and "and"."""
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
