"""The rules. Each takes what is shown and returns a second look, or None."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
import numpy as np

from summula.core.boards.reckoning import last_period, last_period_stops
from summula.core.statistics.distribution import distribution
from summula.core.summaries.grid import Grid
from summula.core.summaries.phrase import (
    Aggregate,
    Arithmetic,
    Calculation,
    Condition,
    Measure,
    Phrase,
    aggregates_of,
)
from summula.core.summaries.printing import print_condition
from summula.core.tables.field import Sensed
from summula.core.tables.table import Table


@dataclass(frozen=True, slots=True)
class SecondLook:
    """What was noticed, in a few words, and why it matters. `remedy` is what can be done about it at once: its words,
    and a name by which the page knows it."""

    title: str
    text: str
    remedy: str = ""
    deed: str = ""


def field_looks(table: Table, name: str) -> list[SecondLook]:
    """What is worth a second look in one field."""
    found = [
        rule(table, name) for rule in (_kept_as_code, _ambiguous_dates, _ambiguous_sign, _blank, _refused, _torn_mean)
    ]
    return [look for look in found if look is not None]


def table_looks(table: Table) -> list[SecondLook]:
    """What is worth a second look in a table as a whole."""
    looks = []
    if table.ragged:
        first = table.ragged[:3]
        places = ", ".join(f"{each.row + 1:,}" for each in first)
        more = f" and {len(table.ragged) - 3:,} more" if len(table.ragged) > 3 else ""
        extra = next((f" Row {each.row + 1:,} also held “{each.extra[0][:30]}”." for each in first if each.extra), "")
        one = len(table.ragged) == 1
        looks.append(
            SecondLook(
                f"{len(table.ragged):,} {'row has' if one else 'rows have'} too many or too few values.",
                f"{'Row' if one else 'Rows'} {places}{more}: what is missing is blank.{extra}",
                "Show the rows",
                "ragged",
            )
        )
    return looks


def summary_looks(phrase: Phrase, table: Table, grid: Grid) -> list[SecondLook]:
    """What is worth a second look in an answer."""
    found = [rule(phrase, table, grid) for rule in _OF_SUMMARIES]
    return [look for look in found if look is not None]


def _kept_as_code(table: Table, name: str) -> SecondLook | None:
    column = table.column(name)
    members = getattr(column, "members", ())
    if table.field(name).kind != "code" or not members or not members[0].isdigit():
        return None
    return SecondLook(
        "Looked like a number, kept as a code.",
        "Its digits identify something, so a total would mean nothing. It is counted, never totalled.",
        "Make it a number",
        "number",
    )


def _sensed(table: Table, name: str) -> Sensed | None:
    at = [field.name for field in table.fields].index(name)
    return table.sensed[at] if len(table.sensed) == len(table.fields) else None


def _ambiguous_dates(table: Table, name: str) -> SecondLook | None:
    sensed = _sensed(table, name)
    if sensed is None or sensed.kind != "date" or not sensed.doubt or table.field(name).kind != "date":
        return None
    other = "month first" if sensed.reading == "day first" else "day first"
    return SecondLook(
        f"Read {sensed.reading}, but it could be {other}.",
        "No value has a part above 12, so nothing in the file decides it.",
        f"Read it {other}",
        other,
    )


def _ambiguous_sign(table: Table, name: str) -> SecondLook | None:
    sensed = _sensed(table, name)
    if sensed is None or sensed.kind != "number" or not sensed.doubt:
        return None
    other = {"point": "comma", "comma": "point"}.get(sensed.reading, "point")
    return SecondLook(
        f"Read with a decimal {sensed.reading}, but it could be a {other}.",
        "Every mark could part thousands as well as decimals.",
        "See how it is read",
        "preview",
    )


def _blank(table: Table, name: str) -> SecondLook | None:
    shape = distribution(table, name)
    if shape.blank == 0:
        return None
    share = shape.blank / max(shape.rows, 1)
    return SecondLook(
        f"{name} is blank in {shape.blank:,} {'row' if shape.blank == 1 else 'rows'}.",
        f"Blanks ({share:.1%}) are left out of every sum, mean and median.",
        "Show the rows",
        "blank",
    )


def _refused(table: Table, name: str) -> SecondLook | None:
    refused = table.column(name).refused
    if not refused:
        return None
    one = len(refused) == 1
    places = ", ".join(f"{each.row + 1:,}" for each in refused[:3])
    more = f" and {len(refused) - 3:,} more" if len(refused) > 3 else ""
    kinds = {"number": ("a number", "numbers"), "date": ("a date", "dates"), "flag": ("yes or no", "yes or no")}
    kind = kinds.get(table.field(name).kind, ("a value", "values"))[not one]
    kept = "kept as it was, counted as blank" if one else "kept as they were, counted as blank"
    return SecondLook(
        f"{len(refused):,} {'value' if one else 'values'} of {name} {'is' if one else 'are'} not {kind}.",
        f"{'Row' if one else 'Rows'} {places}{more}: {kept}. The first is “{refused[0].text[:40]}”.",
        "Show the rows",
        "refused",
    )


def _torn_mean(table: Table, name: str) -> SecondLook | None:
    shape = distribution(table, name)
    if shape.mean is None or shape.median is None or shape.median == 0:
        return None
    if abs(shape.mean - shape.median) < 0.8 * abs(shape.median):
        return None
    return SecondLook(
        "Mean and median lie far apart.",
        f"The mean is {shape.mean:,.4g}, the median {shape.median:,.4g}; the largest value is {shape.most:,.6g}. "
        "A few extreme values may pull the mean.",
        "Show the largest",
        "largest",
    )


def _part_way_period(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    until = last_period_stops(phrase, table, grid)
    if not until:
        return None
    return SecondLook(
        "The last period is part-way through.",
        f"Its rows stop on {until}, so it stands lower than a full one would.",
        "Leave it out",
        "without last period",
    )


def _left_out(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    dropping = [keep for keep in phrase.keeping if not keep.gather]
    if not dropping:
        return None
    return SecondLook(
        "Totals cover only what is kept.",
        f"{grid.rows_used:,} of {grid.rows_read:,} rows are in them. Gather the rest to have totals of everything.",
        "Gather the rest",
        "gather",
    )


def _torn_means(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """A mean of a field whose extreme values pull it far from the median."""
    for measure in phrase.measures:
        for aggregate in aggregates_of(measure.calculation):
            if aggregate.function != "mean" or aggregate.field is None:
                continue
            shape = distribution(table, aggregate.field)
            if shape.mean is None or shape.median is None or shape.median == 0:
                continue
            if abs(shape.mean - shape.median) > 0.8 * abs(shape.median):
                return SecondLook(
                    f"A few extreme values pull the mean of {aggregate.field}.",
                    f"Over all rows the mean is {shape.mean:,.4g}, the median {shape.median:,.4g}.",
                    "Take the median",
                    "median",
                )
    return None


def _mixed_shares(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """Shares of a whole that some members lessen do not add up as people expect."""
    for at, measure in enumerate(phrase.measures):
        if measure.comparison is None or not measure.comparison.kind.startswith("share"):
            continue
        shares = grid.values[grid.finest][at]
        if np.any(shares < 0) and np.any(shares > 0):
            return SecondLook(
                "Shares of figures with both signs.",
                "Some members lessen the whole, so that the shares of the others add up to more than 100 %.",
                "Show the figures instead",
                "no shares",
            )
    return None


def _few_rows(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """Means, medians and the like of a handful of rows."""
    told = {"mean", "median", "percentile", "standard deviation", "variance"}
    functions = {a.function for measure in phrase.measures for a in aggregates_of(measure.calculation)}
    if not functions & told or any(
        a == Aggregate("rows") for m in phrase.measures for a in aggregates_of(m.calculation)
    ):
        return None
    counts = grid.cell_rows[grid.finest]
    few = int(np.count_nonzero((counts > 0) & (counts < _FEW)))
    if not few:
        return None
    figures = "One figure stands" if few == 1 else f"{few:,} figures stand"
    return SecondLook(
        f"{figures} on fewer than {_FEW} rows.",
        "Such a mean or median says little about what is usual.",
        "Show how many rows",
        "rows",
    )


def _at_odds(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """Conditions that no row can meet together."""
    if grid.rows_used or not phrase.where:
        return None
    for at, first in enumerate(phrase.where):
        for second in phrase.where[at + 1 :]:
            if first.heading == second.heading:
                return SecondLook(
                    f"Two conditions on {first.heading.field} are at odds.",
                    f"No row meets both “{print_condition(first)}” and “{print_condition(second)}”.",
                    "Take the second away",
                    "without second condition",
                )
    return None


def mended(deed: str, phrase: Phrase, table: Table, grid: Grid) -> Phrase:
    """The phrase with the remedy of one of its second looks done."""
    if deed == "without last period":
        found = last_period(phrase, table, grid)
        if found is not None:
            heading, member = found
            value = float(member) if heading.part == "year" else member
            return msgspec.structs.replace(phrase, where=(*phrase.where, Condition(heading, "is not", (value,))))
    elif deed == "gather":
        keeps = tuple(msgspec.structs.replace(each, gather=True) for each in phrase.keeping)
        return msgspec.structs.replace(phrase, keeping=keeps)
    elif deed == "median":
        measures = tuple(
            msgspec.structs.replace(each, calculation=_with_medians(each.calculation)) for each in phrase.measures
        )
        return msgspec.structs.replace(phrase, measures=measures)
    elif deed == "no shares":
        measures = tuple(
            msgspec.structs.replace(each, comparison=None)
            if each.comparison is not None and each.comparison.kind.startswith("share")
            else each
            for each in phrase.measures
        )
        return msgspec.structs.replace(phrase, measures=tuple(dict.fromkeys(measures)))
    elif deed == "rows":
        return msgspec.structs.replace(phrase, measures=(*phrase.measures, Measure(Aggregate("rows"))))
    elif deed == "without second condition":
        headings = [each.heading for each in phrase.where]
        second = next(at for at, heading in enumerate(headings) if heading in headings[:at])
        return msgspec.structs.replace(phrase, where=phrase.where[:second] + phrase.where[second + 1 :])
    return phrase


def _with_medians(calculation: Calculation) -> Calculation:
    if isinstance(calculation, Aggregate):
        return (
            msgspec.structs.replace(calculation, function="median") if calculation.function == "mean" else calculation
        )
    if not isinstance(calculation, Arithmetic):
        return calculation
    return Arithmetic(calculation.operator, _with_medians(calculation.left), _with_medians(calculation.right))


def _empty_cells(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    if not grid.columns.depth or not grid.rows.depth:
        return None
    empty = int(np.count_nonzero(grid.cell_rows[grid.finest] == 0))
    if empty == 0:
        return None
    figures = "One figure has" if empty == 1 else f"{empty:,} figures have"
    return SecondLook(f"{figures} no rows.", "Shown as –, counted as nothing, not as zero.")


_FEW = 5
_OF_SUMMARIES = (
    _at_odds, _part_way_period, _left_out, _torn_means, _mixed_shares, _few_rows, _empty_cells,
)  # fmt: skip
