"""Edits of a phrase: each takes one and returns another. What a word's popover or a drag does."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal

from msgspec.structs import replace

from summula.core.fields.heading import Heading
from summula.core.phrases.fitting import fitting_form
from summula.core.phrases.phrase import (
    Aggregate,
    Condition,
    Keep,
    Measure,
    Order,
    Phrase,
    aggregates_of,
    headings_of,
    is_each_row,
)
from summula.core.refusal import Refusal
from summula.core.tables.field import MEASURED

if TYPE_CHECKING:
    from summula.core.tables.table import Table

Clause = Literal["measures", "by", "across", "where", "keeping", "against", "multiples"]


def words_in(phrase: Phrase, clause: Clause) -> list[Any]:
    """The words of a clause; the one figure after `against` and the one heading after `for each` are clauses of their
    own."""
    found = getattr(phrase, clause)
    if clause in ("against", "multiples"):
        return [] if found is None else [found]
    return list(found)


def _with_words(phrase: Phrase, clause: Clause, words: list[Any]) -> Phrase:
    if clause == "against":
        return replace(phrase, against=words[-1] if words else None)
    if clause == "multiples":
        heading = words[-1] if words else None
        by, across = (tuple(each for each in headings if each != heading) for headings in (phrase.by, phrase.across))
        return replace(phrase, multiples=heading, by=by, across=across)
    return replace(phrase, **{clause: tuple(words)})


def put(phrase: Phrase, clause: Clause, at: int | None, word: Any) -> Phrase:
    """A word in the place `at` of a clause, or at its end (`at` None)."""
    words = words_in(phrase, clause)
    if at is None:
        words.append(word)
    else:
        words[at] = word
    return tidy(_with_words(phrase, clause, words))


def take_away(phrase: Phrase, clause: Clause, at: int) -> Phrase:
    """Without one word; the last measure gives way to `rows`, since a phrase shows something."""
    words = words_in(phrase, clause)
    del words[at]
    if clause == "measures" and not words:
        words = [Measure(Aggregate("rows"))]
    return tidy(_with_words(phrase, clause, words))


def move(phrase: Phrase, clause: Clause, at: int, step: int) -> Phrase:
    """One word earlier (-1) or later (1) in its clause."""
    words = words_in(phrase, clause)
    to = at + step
    if 0 <= to < len(words):
        words[at], words[to] = words[to], words[at]
    return _with_words(phrase, clause, words)


def moved_word(phrase: Phrase, clause: Clause, at: int, to: Clause, before: int) -> Phrase:
    """One word put before another (or at the end) of a clause: its own, or for a heading the other axis."""
    words = words_in(phrase, clause)
    word = words.pop(at)
    if to == clause:
        words.insert(before - (before > at), word)
        return _with_words(phrase, clause, words)
    without = _with_words(phrase, clause, words)
    others = [each for each in words_in(without, to) if each != word]
    others.insert(min(before, len(others)), word)
    return tidy(_with_words(without, to, others))


def swap_axes(phrase: Phrase) -> Phrase:
    return replace(phrase, by=phrase.across, across=phrase.by)


def tidy(phrase: Phrase) -> Phrase:
    """Without a heading named twice, and without an order of a heading that has left."""
    by = tuple(dict.fromkeys(phrase.by))
    across = tuple(heading for heading in dict.fromkeys(phrase.across) if heading not in by)
    if phrase.multiples in (*by, *across):
        phrase = replace(phrase, multiples=None)
    order = phrase.order
    if order is not None and order.heading is not None and order.heading not in (*by, *across, phrase.multiples):
        order = None
    return replace(phrase, by=by, across=across, order=order, form=fitting_form(phrase))


def with_field(phrase: Phrase, table: Table, name: str, clause: Clause | None = None) -> Phrase:
    """The phrase with a field put where it was dropped, or where a field of its kind belongs."""
    field = table.field(name)
    if clause is None:
        clause = "measures" if field.kind in (*MEASURED, "code") else "by"
    if clause == "measures":
        measure = Measure(default_aggregate(table, name))
        only_rows = [m.calculation for m in phrase.measures] == [Aggregate("rows")]
        if only_rows and field.kind in MEASURED:  # the first real figure takes the place of the count
            return put(phrase, "measures", 0, measure)
        return phrase if measure in phrase.measures else put(phrase, "measures", None, measure)
    if clause in ("by", "across"):
        heading = default_heading(table, name, phrase)
        other: Clause = "across" if clause == "by" else "by"
        if heading in getattr(phrase, other):
            phrase = take_away(phrase, other, getattr(phrase, other).index(heading))
        return put(phrase, clause, None, heading)
    return phrase


def default_aggregate(table: Table, name: str) -> Aggregate:
    field = table.field(name)
    if field.kind in MEASURED:
        return Aggregate(field.total, name)
    return Aggregate("distinct count", name)


def default_heading(table: Table, name: str, phrase: Phrase | None = None) -> Heading:
    """A date by its year (by its quarter where the year stands already), a number in round bands."""
    field = table.field(name)
    if field.kind == "date":
        taken = {h.part for h in headings_of(phrase) if h.field == name} if phrase else set()
        for part in ("year", "quarter", "month"):
            if part not in taken:
                return Heading(name, part)
        return Heading(name, "year-month")
    if field.kind in MEASURED:
        from summula.core.fields.bands import Bands

        return Heading(name, bands=Bands(_round_width(table, name)))
    return Heading(name)


def _round_width(table: Table, name: str) -> float:
    import numpy as np

    values = table.number(name).present()
    if len(values) == 0:
        return 1.0
    low, high = np.percentile(values, (2, 98))
    raw = max((high - low) / 8, 1e-6)
    power = 10.0 ** np.floor(np.log10(raw))
    return float(next(f * power for f in (1, 2, 5, 10) if f * power >= raw * 0.999))


def default_condition(table: Table, name: str) -> Condition:
    """A condition to begin with, that lets most rows through."""
    field = table.field(name)
    if field.kind in (*MEASURED, "date", "code"):
        return Condition(Heading(name), "is not blank")
    from summula.core.fields.heading import encode_heading

    members = encode_heading(table, Heading(name)).members
    first = members[0] if members else ""
    return Condition(Heading(name), "is not", (str(first).lower() if isinstance(first, bool) else str(first),))


def default_keep(phrase: Phrase, table: Table) -> Keep | None:
    """Top 5 of the first heading (else the first category) by the first measure, the rest gathered; else None."""
    headings = [*headings_of(phrase)] or [Heading(f.name) for f in table.fields if f.kind == "category"]
    if not headings:
        return None
    measure = replace(phrase.measures[0], comparison=None, name=None)
    if isinstance(measure.calculation, Aggregate) and is_each_row(measure.calculation):
        measure = Measure(default_aggregate(table, measure.calculation.field or ""))
    return Keep("top", 5, headings[0], measure, gather=True)


def gathering_all_but(phrase: Phrase, count: int, *, across: bool = False) -> Phrase:
    """The largest `count` of the last heading by the first measure, the rest gathered, in the place of an earlier
    choice among its members; all of them with 0. Raises Refusal where there is no heading."""
    headings = phrase.across if across else phrase.by
    if not headings:
        raise Refusal("there is no heading with members to group", "add one")
    heading = headings[-1]
    rest = tuple(each for each in phrase.keeping if each.heading != heading)
    if not count:
        return replace(phrase, keeping=rest)
    measure = replace(phrase.measures[0], name=None, comparison=None)
    return replace(phrase, keeping=(*rest, Keep("top", count, heading, measure, gather=True)))


def gathered_but(phrase: Phrase) -> int:
    """How many of the last heading stand for themselves beside a gathered rest; 0 where none are gathered."""
    found = [each for each in phrase.keeping if phrase.by and each.heading == phrase.by[-1] and each.gather]
    return int(found[0].number) if found and found[0].end == "top" and not found[0].percent else 0


def ordered_by(phrase: Phrase, measure: Measure, *, largest: bool) -> Phrase:
    plain = Measure(measure.calculation)
    return replace(phrase, order=Order(plain, largest))


def functions_for(table: Table, name: str | None) -> list[str]:
    """The aggregates that a field's kind allows, in the order they are offered."""
    if name is None:
        return ["rows"]
    if table.field(name).kind not in MEASURED:
        return ["distinct count", "count"]
    return [
        "sum",
        "mean",
        "median",
        "min",
        "max",
        "range",
        "count",
        "distinct count",
        "standard deviation",
        "variance",
        "percentile",
        "first",
        "last",
        "each row",
    ]


def fields_in(phrase: Phrase) -> set[str]:
    """Every field a phrase names."""
    named = {h.field for h in headings_of(phrase)} | {c.heading.field for c in phrase.where}
    for measure in phrase.measures:
        named |= {a.field for a in aggregates_of(measure.calculation) if a.field}
    return named
