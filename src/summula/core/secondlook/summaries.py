"""Second looks at an answer: a rule a function."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.engine.periods import PartPeriod, first_part_way, last_part_way
from summula.core.fields.figures import plural
from summula.core.fields.heading import Heading
from summula.core.memory import Remembered
from summula.core.phrases.phrase import Aggregate, Condition, Measure, Phrase, aggregates_of, headings_of, linked_in
from summula.core.phrases.printing import print_condition
from summula.core.secondlook.fields import sensed_of
from summula.core.secondlook.look import SecondLook
from summula.core.statistics.distribution import distribution
from summula.core.tables.calendarnames import calendar_names
from summula.core.tables.column import different_values
from summula.core.tables.field import MEASURED
from summula.core.tables.natural import natural_sorted
from summula.core.tables.periodnumbers import period_unit

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid
    from summula.core.tables.column import NumberColumn
    from summula.core.tables.table import Table


def summary_looks(phrase: Phrase, table: Table, grid: Grid) -> list[SecondLook]:
    """What is worth a second look in an answer."""
    found = [rule(phrase, table, grid) for rule in _OF_SUMMARIES]
    return [look for look in found if look is not None]


def _part_way_period(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    part = last_part_way(table, grid)
    if part is None:
        return None
    comparable = same_days_condition(part, table.year_begins) is not None
    adds_up = any(
        aggregate.function in ("sum", "rows", "count", "distinct count")
        for measure in grid.phrase.measures
        for aggregate in aggregates_of(measure.calculation)
    )
    means = "lower than a full one would be" if adds_up else "a full one may turn out otherwise"
    return SecondLook(
        f"{part.label} is part-way through.",
        f"It holds {part.held:,} of {plural(part.days, 'day')}, up to {part.edge_words}: {means}.",
        "Compare the same days" if comparable else "Leave it out",
        "same days" if comparable else "without last period",
    )


def _late_period(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    part = first_part_way(table, grid)
    if part is None:
        return None
    return SecondLook(
        f"{part.label} starts late.",
        f"Its rows start on {part.edge_words}: it holds {part.held:,} of {plural(part.days, 'day')}.",
        "Leave it out",
        "without first period",
    )


def same_days_condition(part: PartPeriod, begins: int) -> Condition | None:
    """The condition by which every period holds the days that the part-way one holds; None where none says it."""
    name = part.heading.field
    if part.heading.part == "year" or (part.heading.part == "fiscal year" and begins == 1):
        return Condition(Heading(name, "month-day"), "is at most", (f"{part.edge:%m-%d}",))
    if part.heading.part == "year-quarter":
        return Condition(Heading(name, "quarter-day"), "is at most", (float(part.held),))
    if part.heading.part == "year-month":
        return Condition(Heading(name, "day"), "is at most", (float(part.held),))
    return None


def _summed_code(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """A total of numbers that only tell things apart."""
    for measure in phrase.measures:
        for aggregate in aggregates_of(measure.calculation):
            name = aggregate.field
            if name is not None and aggregate.function in TOTALS and looks_like_a_code(table, name):
                return SecondLook(
                    f"{name} looks like a code.",
                    f"Its numbers tell things apart; their {aggregate.function} means nothing.",
                    "Count them instead",
                    "count codes",
                )
    return None


def _summed_periods(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """A total of years, or of months and the like."""
    for measure in phrase.measures:
        for name in periods_summed(measure, table):
            unit = period_unit(table, name)
            remedy = f"Count the rows of each {unit[:-1]} instead"
            return SecondLook(f"{name} holds {unit}.", f"A sum of {unit} means nothing.", remedy, "by years")
    return None


def _summed_averages(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """A total of what is averaged: temperatures, rates, prices."""
    for measure in phrase.measures:
        for name in averages_summed(measure, table):
            title = f"{name} should not be summed."
            return SecondLook(title, "Its mean says more than its sum.", "Use the mean", "mean")
    return None


def averages_summed(measure: Measure, table: Table) -> list[str]:
    """The fields that are averaged by default and that a measure totals, other than years and months."""
    summed = [each.field for each in aggregates_of(measure.calculation) if each.function == "sum" and each.field]
    return [name for name in summed if table.field(name).total == "mean" and not period_unit(table, name)]


def periods_summed(measure: Measure, table: Table) -> list[str]:
    """The fields of years, or of months and the like, that a measure totals."""
    summed = [each.field for each in aggregates_of(measure.calculation) if each.function == "sum" and each.field]
    return [name for name in summed if period_unit(table, name)]


TOTALS = {"sum", "mean", "median", "range", "standard deviation", "variance", "percentile"}


_CODE_LIKE: Remembered[str, bool] = Remembered("looks like a code", most=2_000)


def looks_like_a_code(table: Table, name: str) -> bool:
    """Whether a number field was sensed as a code, or holds whole numbers of one length that hardly ever come twice."""
    if table.field(name).kind not in MEASURED:
        return False
    sensed = sensed_of(table, name)
    if sensed is not None and sensed.kind == "code":
        return True
    return _CODE_LIKE.of(table.memo, name, lambda: _code_like(table.number(name)))


def _code_like(column: NumberColumn) -> bool:
    present = column.present()
    whole = len(present) >= _TOLD_APART and column.decimals == 0 and bool(np.all(present == np.rint(present)))
    if not whole or present.min() < 1:
        return False
    lengths = len(str(int(present.min()))) == len(str(int(present.max()))) >= 4
    run = present.max() - present.min() + 1 <= 1.2 * len(present)  # a running number
    return bool((lengths or run) and len(different_values(present)) > 0.98 * len(present))


_TOLD_APART = 20


def _left_out(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    dropping = [keep for keep in phrase.keeping if not keep.gather]
    if not dropping:
        return None
    return SecondLook(
        "Totals cover only the members kept.",
        f"{grid.rows_used:,} of {grid.rows_read:,} rows are in them. Gather the rest to have totals of everything.",
        "Group the rest",
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
                    "Use the median",
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
                "Shares of values with both signs.",
                "Some values are negative, so the other shares add up to more than 100 %.",
                "Show values instead",
                "no shares",
            )
    return None


def _few_rows(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """Means, medians and the like of a handful of rows."""
    notice = {"mean", "median", "percentile", "standard deviation", "variance"}
    functions = {a.function for measure in phrase.measures for a in aggregates_of(measure.calculation)}
    if not functions & notice or any(
        a == Aggregate("rows") for m in phrase.measures for a in aggregates_of(m.calculation)
    ):
        return None
    counts = grid.cell_rows[grid.finest]
    few = int(np.count_nonzero((counts > 0) & (counts < _FEW)))
    if not few:
        return None
    figures = "One figure is based" if few == 1 else f"{few:,} figures are based"
    return SecondLook(
        f"{figures} on fewer than {_FEW} rows.",
        "A mean or median of so few rows says little.",
        "Show row counts",
        "rows",
    )


def heading_by_letters(phrase: Phrase, table: Table) -> Heading | None:
    """A heading whose members are months or weekdays, and stand in the order of their letters; None where none does, or
    where the phrase says an order of its own."""
    if phrase.order is not None:
        return None
    for heading in headings_of(phrase):
        if heading.part is None and heading.bands is None and table.has(heading.field):
            named = calendar_names(table, heading.field)
            if named is not None and list(named.members) != natural_sorted(named.members):
                return heading
    return None


def _by_letters(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    heading = heading_by_letters(phrase, table)
    named = calendar_names(table, heading.field) if heading is not None else None
    if heading is None or named is None:
        return None
    span = "year" if named.unit == "months" else "week"
    first, second, *_ = natural_sorted(named.members)
    return SecondLook(
        f"The {named.unit} of {heading.field} are in alphabetical order.",
        f"{first} comes before {second}, unlike in the {span}.",
        f"Sort them as in the {span}",
        "calendar order",
    )


def _at_odds(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """Conditions that no row can meet together."""
    if grid.rows_used or not phrase.where:
        return None
    for at, first in enumerate(phrase.where):
        for second in phrase.where[at + 1 :]:
            if first.heading == second.heading:
                return SecondLook(
                    f"Two conditions on {first.heading.field} contradict each other.",
                    f"No row meets both “{print_condition(first)}” and “{print_condition(second)}”.",
                    "Remove the second",
                    "without second condition",
                )
    return None


def _empty_cells(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    if not grid.columns.depth or not grid.rows.depth:
        return None
    without_rows = grid.cell_rows[grid.finest] == 0
    blank = sum(int(np.count_nonzero(np.isnan(values) & without_rows)) for values in grid.values[grid.finest])
    if blank == 0:  # a count of no rows is 0, and shown as that
        return None
    if blank == 1:
        return SecondLook("One figure has no rows.", "It is left blank, which is not the same as zero.")
    return SecondLook(f"{blank:,} figures have no rows.", "They are left blank, which is not the same as zero.")


_FEW = 5


def _unlinked_heading(phrase: Phrase, table: Table, grid: Grid) -> SecondLook | None:
    """A figure of another table that is blank throughout, since that table does not know a heading."""
    for at, measure in enumerate(grid.phrase.measures):
        linked = linked_in(measure.calculation)
        finest = grid.values[grid.finest][at]
        if linked and finest.size and bool(np.isnan(finest).all()) and (grid.rows.depth or grid.columns.depth):
            last = (grid.columns if grid.columns.depth else grid.rows).headings[-1].field
            return SecondLook(
                f"{linked[0].table} knows nothing of {last}, or of a condition.",
                "Its figures are blank there; the total is of all its rows. Link a field, or remove the heading.",
            )  # fmt: skip
    return None


_OF_SUMMARIES = (
    _unlinked_heading,
    _by_letters, _at_odds, _summed_code, _summed_periods, _summed_averages, _late_period, _part_way_period, _left_out,
    _torn_means, _mixed_shares, _few_rows, _empty_cells,
)  # fmt: skip
