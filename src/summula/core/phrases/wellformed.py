"""Whether a phrase that came as data, not as text, says something at all: values in number and range, nothing missing.

What is typed is checked by the grammar; a folio's phrases come from wherever the folio came from.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from summula.core.fields.bands import LARGEST
from summula.core.fields.bands import checked as checked_bands
from summula.core.phrases.phrase import (
    MOST_CONDITIONS,
    MOST_HEADINGS,
    MOST_MEASURES,
    MOST_VALUES,
    Aggregate,
    Arithmetic,
    Calculation,
    Condition,
    Keep,
    Lever,
    Linked,
    Measure,
    Number,
    Phrase,
    figures_shown,
    headings_of,
)
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.fields.heading import Heading

MOST_PARTS = 250  # of one calculation
_MOST_TEXT = 20_000  # letters of one value
_UNITS = ("days", "weeks", "months", "quarters", "years")


def checked_phrase(phrase: Phrase) -> Phrase:
    """The phrase, where it can be asked; raises Refusal where it cannot."""
    figures = figures_shown(phrase)
    if not phrase.measures:
        raise Refusal("the phrase has no measure", "add a measure")
    _few(len(figures), MOST_MEASURES, "measures")
    _few(max(len(phrase.by), len(phrase.across)), MOST_HEADINGS, "headings on one side")
    _few(len(phrase.keeping), MOST_HEADINGS, "choices of members to keep")
    for measure in figures:
        check_measure(measure)
    if phrase.multiples is not None and phrase.multiples in (*phrase.by, *phrase.across):
        raise Refusal(
            f"{phrase.multiples.field} is used after 'for each' and after 'by' or 'across'", "remove it on one side"
        )
    for heading in headings_of(phrase):
        check_heading(heading)
    check_conditions(phrase.where)
    for keep in phrase.keeping:
        _check_keep(keep)
    order = phrase.order
    if order is not None:
        if (order.measure is None) == (order.heading is None):
            raise Refusal("no sort key given", "order by a measure or by a heading")
        if order.measure is not None:
            check_measure(order.measure)
        if order.heading is not None:
            check_heading(order.heading)
        _check_values(order.sequence)
    return phrase


def check_measure(measure: Measure) -> None:
    """Raises Refusal for a measure that cannot be worked out."""
    _check_calculation(measure.calculation)
    comparison = measure.comparison
    if comparison is not None:
        along = comparison.kind.endswith(("previous", "change on")) or comparison.kind in ("running total", "rank")
        if along and comparison.along is None:
            raise Refusal("the comparison has no heading", "name a heading")
        if comparison.kind in ("change on", "percent change on") and comparison.member is None:
            raise Refusal("the comparison has no member", "name one")
        if comparison.along is not None:
            check_heading(comparison.along)
        _check_values(() if comparison.member is None else (comparison.member,))


def _check_calculation(calculation: Calculation) -> None:
    left: list[tuple[Calculation, int]] = [(calculation, 1)]
    parts = 0
    while left:
        each, depth = left.pop()
        parts += 1
        if parts > 2 * MOST_PARTS or depth > MOST_PARTS:
            raise Refusal(f"a calculation has at most {MOST_PARTS} parts", "make it shorter")
        if isinstance(each, Arithmetic):
            left += [(each.left, depth + 1), (each.right, depth + 1)]
        elif isinstance(each, Number):
            _check_number(each.value)
        elif isinstance(each, Lever):
            if each.value is not None:
                _check_number(each.value)
        elif isinstance(each, Linked):
            if each.aggregate.function == "each row" or each.aggregate.where:
                raise Refusal("a measure of another table cannot have conditions", "remove its conditions")
            _check_aggregate(each.aggregate)
        else:
            _check_aggregate(each)


def _check_aggregate(aggregate: Aggregate) -> None:
    if (aggregate.function == "rows") != (aggregate.field is None):
        raise Refusal(f"'{aggregate.function}' is of no field", "name one")
    if aggregate.function == "percentile" and not (
        aggregate.percentile is not None and 0 <= aggregate.percentile <= 100
    ):
        raise Refusal("there is no such percentile", "enter a number from 0 to 100")
    check_conditions(aggregate.where)


def check_heading(heading: Heading) -> None:
    """Raises Refusal for a heading that is none."""
    if heading.part is not None and heading.bands is not None:
        raise Refusal(f"'{heading.field}' cannot be a part and in bands at once", "choose one")
    if heading.bands is not None:
        checked_bands(heading.bands)


def check_conditions(conditions: Sequence[Condition]) -> None:
    """Raises Refusal for a condition that has not the values it needs."""
    _few(len(conditions), MOST_CONDITIONS, "conditions")
    for each in conditions:
        check_heading(each.heading)
        _few(len(each.values), MOST_VALUES, "values of one condition")
        _check_values(each.values)
        wants = {"is blank": 0, "is not blank": 0, "is from": 2, "is in the last": 2}.get(each.test, 1)
        fits = len(each.values) >= 1 if each.test in ("is", "is not") else len(each.values) == wants
        if each.test == "is in the last" and fits:
            number, unit = each.values
            fits = isinstance(number, float) and 1 <= number <= MOST_VALUES and unit in _UNITS
        if not fits:
            raise Refusal(f"the condition on '{each.heading.field}' lacks its values", "enter it again")


def _check_keep(keep: Keep) -> None:
    check_heading(keep.heading)
    if keep.each is not None:
        check_heading(keep.each)
    check_measure(keep.measure)
    most = 100.0 if keep.percent else 1e9
    if not 0 < keep.number <= most or (not keep.percent and keep.number != int(keep.number)):
        raise Refusal(f"{keep.number:g} members cannot be kept", "enter a whole number from 1 on")


def _check_values(values: Sequence[str | float]) -> None:
    for value in values:
        if isinstance(value, float | int):
            _check_number(value)
        elif len(value) > _MOST_TEXT:
            raise Refusal("a value is longer than any text can be", "enter it again")


def _check_number(number: float) -> None:
    if not math.isfinite(number) or abs(number) > LARGEST:
        raise Refusal(f"{number:g} is too large a number", f"enter at most {LARGEST:g}")


def _few(number: int, most: int, what: str) -> None:
    if number > most:
        raise Refusal(f"{number:,} {what} are too many", f"remove some: at most {most:,} are possible")
