"""What the remedies of second looks do to a phrase."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.engine.periods import first_part_way, last_part_way
from summula.core.fields.heading import Heading
from summula.core.phrases.members import with_members
from summula.core.phrases.phrase import (
    Aggregate,
    Arithmetic,
    Calculation,
    Measure,
    Order,
    Phrase,
    headings_of,
)
from summula.core.secondlook.charts import PHRASE_REMEDIES
from summula.core.secondlook.summaries import (
    TOTALS,
    heading_by_letters,
    looks_like_a_code,
    periods_summed,
    same_days_condition,
)
from summula.core.tables.calendarnames import calendar_names

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid
    from summula.core.tables.table import Table


def mended(edit_name: str, phrase: Phrase, table: Table, grid: Grid) -> Phrase:
    """The phrase with the remedy of one of its second looks done."""
    if edit_name in ("without last period", "without first period"):
        part = last_part_way(table, grid) if "last" in edit_name else first_part_way(table, grid)
        if part is not None:
            return with_members(phrase, part.heading, [part.member], only=False) or phrase
    elif edit_name == "same days":
        part = last_part_way(table, grid)
        condition = same_days_condition(part, table.year_begins) if part is not None else None
        if condition is not None:
            return replace(phrase, where=(*phrase.where, condition))
    elif edit_name == "count codes":
        return _counted_codes(phrase, table)
    elif edit_name == "by years":
        return _by_periods(phrase, table)
    elif edit_name == "gather":
        keeps = tuple(replace(each, gather=True) for each in phrase.keeping)
        return replace(phrase, keeping=keeps)
    elif edit_name == "median":
        measures = tuple(replace(each, calculation=_with_medians(each.calculation)) for each in phrase.measures)
        return replace(phrase, measures=measures)
    elif edit_name == "no shares":
        measures = tuple(
            replace(each, comparison=None)
            if each.comparison is not None and each.comparison.kind.startswith("share")
            else each
            for each in phrase.measures
        )
        return replace(phrase, measures=tuple(dict.fromkeys(measures)))
    elif edit_name == "mean":
        return _averaged(phrase, table)
    elif edit_name == "rows":
        return replace(phrase, measures=(*phrase.measures, Measure(Aggregate("rows"))))
    elif edit_name == "calendar order":
        return _in_calendar_order(phrase, table)
    elif edit_name in PHRASE_REMEDIES:
        return PHRASE_REMEDIES[edit_name](phrase)
    elif edit_name == "without second condition":
        headings = [each.heading for each in phrase.where]
        second = next(at for at, heading in enumerate(headings) if heading in headings[:at])
        return replace(phrase, where=phrase.where[:second] + phrase.where[second + 1 :])
    return phrase


def _in_calendar_order(phrase: Phrase, table: Table) -> Phrase:
    heading = heading_by_letters(phrase, table)
    named = calendar_names(table, heading.field) if heading is not None else None
    return phrase if named is None else replace(phrase, order=Order(heading=heading, sequence=named.members))


def _averaged(phrase: Phrase, table: Table) -> Phrase:
    """The mean of every field that is averaged by default in place of its total."""

    def averaged(calculation: Calculation) -> Calculation:
        if isinstance(calculation, Arithmetic):
            return Arithmetic(calculation.operator, averaged(calculation.left), averaged(calculation.right))
        summed = calculation.field if isinstance(calculation, Aggregate) and calculation.function == "sum" else None
        if isinstance(calculation, Aggregate) and summed is not None and table.field(summed).total == "mean":
            return Aggregate("mean", summed, where=calculation.where)
        return calculation

    return replace(
        phrase, measures=tuple(replace(each, calculation=averaged(each.calculation)) for each in phrase.measures)
    )


def _counted_codes(phrase: Phrase, table: Table) -> Phrase:
    """Every total of what looks like a code as a count of how many there are."""

    def counted(calculation: Calculation) -> Calculation:
        if isinstance(calculation, Arithmetic):
            return Arithmetic(calculation.operator, counted(calculation.left), counted(calculation.right))
        name = calculation.field if isinstance(calculation, Aggregate) and calculation.function in TOTALS else None
        if isinstance(calculation, Aggregate) and name is not None and looks_like_a_code(table, name):
            return Aggregate("distinct count", name, where=calculation.where)
        return calculation

    measures = tuple(replace(each, calculation=counted(each.calculation)) for each in phrase.measures)
    return replace(phrase, measures=measures)


def _by_periods(phrase: Phrase, table: Table) -> Phrase:
    """The summed years or months as a heading, and the rows of each counted."""
    left = [measure for measure in phrase.measures if not periods_summed(measure, table)]
    names = dict.fromkeys(name for measure in phrase.measures for name in periods_summed(measure, table))
    added = tuple(Heading(name) for name in names if Heading(name) not in headings_of(phrase))
    measures = tuple(dict.fromkeys([Measure(Aggregate("rows")), *left]))
    ordering = None if phrase.order is None else phrase.order.measure
    order = None if ordering is not None and periods_summed(ordering, table) else phrase.order
    return replace(phrase, measures=measures, by=(*added, *phrase.by), order=order)


def _with_medians(calculation: Calculation) -> Calculation:
    if isinstance(calculation, Aggregate):
        return replace(calculation, function="median") if calculation.function == "mean" else calculation
    if not isinstance(calculation, Arithmetic):
        return calculation
    return Arithmetic(calculation.operator, _with_medians(calculation.left), _with_medians(calculation.right))
