"""Starting points: a handful of phrases worth asking of a table, chosen from kinds, members and dates."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.language.vocabulary import Vocabulary
from summula.core.phrases.fitting import why_not
from summula.core.phrases.phrase import Phrase
from summula.core.phrases.printing import name_text
from summula.core.refusal import Refusal
from summula.core.tables.calendarnames import calendar_names
from summula.core.tables.column import CodedColumn, DateColumn, NumberColumn, different_values
from summula.core.tables.field import MEASURED
from summula.core.tables.periodnumbers import called_year, period_unit

if TYPE_CHECKING:
    from summula.core.tables.table import Table

_FEW, _MANY = 2, 60  # members that a heading is readable with
_LONG = 10  # members beyond which the rest is gathered
MOST = 6


class StartingPoint(msgspec.Struct, frozen=True):
    """A name for the summary, and its phrase."""

    name: str
    phrase: Phrase


def starting_points(table: Table) -> list[StartingPoint]:
    """The likeliest questions first; only what the table can answer. Never a total of codes, or of years."""
    from summula.core.language.grammar import parse  # what starting does not need

    words = Vocabulary(table)
    found: list[StartingPoint] = []
    for name, text in _asked(table):
        try:
            point = StartingPoint(name, parse(text, words))
        except Refusal:
            continue
        if why_not(point.phrase, point.phrase.form):  # of figures that do not add up
            point = replace(point, phrase=replace(point.phrase, form="columns"))
        if all(point.phrase != other.phrase for other in found):
            found.append(point)
    return found[:MOST]


def _asked(table: Table) -> list[tuple[str, str]]:
    measures, dates, groups = measures_of(table), spans_of(table), groups_of(table)
    first, title = measures[0] if measures else ("rows", "Rows")
    asked = _by_years(table, first, title) if not dates else []
    if dates:
        name, months, years = dates[0]
        quoted = name_text(name)
        if years > 1:
            asked.append(
                (
                    f"{title}, month by month",
                    f"show {first} by month of {quoted} across year of {quoted} drawn as lines",
                )
            )
        elif months > 1:
            asked.append((f"{title}, month by month", f"show {first} by year-month of {quoted} drawn as columns"))
        else:
            asked.append((f"{title} by day", f"show {first} by {quoted} drawn as columns"))
    for group, members in groups[:2]:
        if ordered_as(table, group):
            text = f"show {first} by {name_text(group)}{ordered_as(table, group)} drawn as columns"
            asked.append((f"{title} by {group}", text))
            continue
        keeping = _keeping(group, first) if members > _LONG + 1 else ""
        asked.append(
            (
                f"{title} by {group}",
                f"show {first} by {name_text(group)}{keeping} ordered by {first}, largest first drawn as bars",
            )
        )
    if len(groups) > 1:
        (rows, many), (columns, few) = sorted(groups[:2], key=lambda each: -each[1])
        keeping = _keeping(rows, first) if many > _LONG + 1 else ""
        if few <= _LONG + 2:
            asked.append(
                (
                    f"{title}: {rows} and {columns}",
                    f"show {first} by {name_text(rows)} across {name_text(columns)}{keeping}",
                )
            )
    if dates and groups:
        name, _, years = dates[0]
        small = min(groups, key=lambda each: abs(each[1] - 5))
        part = "year" if years > 2 else "year-quarter"
        keeping = f" keeping top 5 {name_text(small[0])} by {first} gathering the rest" if small[1] > 6 else ""
        asked.append(
            (
                f"{small[0]} by {part.replace('year-', '')}",
                f"show {first} by {part} of {name_text(name)} across {name_text(small[0])}{keeping} "
                "drawn as stacked columns",
            )
        )
    if len(measures) > 1 and groups:
        second, other = measures[1]
        group = groups[-1][0]
        asked.append(
            (
                f"{other} by {group}",
                f"show {second} by {name_text(group)} ordered by {second}, largest first drawn as bars",
            )
        )
    if groups and not first.startswith("mean of"):  # means are shares of nothing
        group = groups[0][0]
        share = f"show {first} and {first} as share of all by {name_text(group)} ordered by {first}, largest first"
        asked.append((f"Share of {title.lower()} by {group}", share))
    return asked or [(f"All {title.lower()}", f"show {first}")]


def _by_years(table: Table, first: str, title: str) -> list[tuple[str, str]]:
    """What is asked of a table without dates that knows years, or the names of months."""
    years, months = years_of(table), months_of(table)
    asked = []
    if months:
        asked.append((f"{title}, month by month", by_months(table, first, months, years[0][0] if years else "")))
    if years:
        year, count = years[0]
        form = "lines" if count > _LONG else "columns"
        asked.append((f"{title} by {year}", f"show {first} by {name_text(year)} drawn as {form}"))
        groups = [each for each in groups_of(table) if each[0] != months]
        small = min(groups, key=lambda each: abs(each[1] - 5), default=None)
        if small is not None:
            name = name_text(small[0])
            keeping = f" keeping top 5 {name} by {first} gathering the rest" if small[1] > 6 else ""
            text = f"show {first} by {name_text(year)} across {name}{keeping} drawn as stacked columns"
            asked.append((f"{small[0]} by {year}", text))
    return asked


def by_months(table: Table, first: str, months: str, year: str) -> str:
    """A figure by a field of months as they follow, the years (where there is a field of them) as lines."""
    across, form = (f" across {name_text(year)}", "lines") if year else ("", "columns")
    return f"show {first} by {name_text(months)}{across}{ordered_as(table, months)} drawn as {form}"


def years_of(table: Table) -> list[tuple[str, int]]:
    """Fields that are called years, and how many there are of them, where these can be seen at a glance."""
    found = []
    for field, column in zip(table.fields, table.columns, strict=True):
        if field.kind == "number" and not field.hidden and isinstance(column, NumberColumn):
            years = called_year(field.name) and period_unit(table, field.name) == "years"
            count = len(different_values(column.present())) if years else 0
            if _FEW <= count <= _MANY:
                found.append((field.name, count))
    return found


def months_of(table: Table) -> str:
    """The first field whose members are names of months, or else their numbers; empty where there is none."""
    named = (each for each, _ in groups_of(table) if (found := calendar_names(table, each)) and found.unit == "months")
    fields = (each.name for each in table.fields if each.kind == "number" and not each.hidden)
    return next(named, "") or next((each for each in fields if period_unit(table, each) == "months"), "")


def ordered_as(table: Table, name: str) -> str:
    """The part of a phrase that puts months or weekdays in the calendar's order; empty for other members."""
    named = calendar_names(table, name)
    return "" if named is None else f" ordered {name_text(name)} as {', '.join(map(name_text, named.members))}"


def _keeping(group: str, measure: str) -> str:
    return f" keeping top {_LONG} {name_text(group)} by {measure} gathering the rest"


def measures_of(table: Table) -> list[tuple[str, str]]:
    """Figures in words, money and what varies most first; a field that is averaged by default stands last."""
    ranked = []
    for at, (field, column) in enumerate(zip(table.fields, table.columns, strict=True)):
        if field.kind not in MEASURED or field.hidden or not isinstance(column, NumberColumn):
            continue
        if period_unit(table, field.name):
            continue
        values = column.present()
        if len(values) == 0:
            continue
        text = name_text(field.name)
        averaged = field.total == "mean"
        stated = f"mean of {text}" if averaged else f"sum of {text}"
        title = f"Mean {field.name}" if averaged else field.name
        ranked.append((averaged, not field.pattern, float(np.ptp(values)) == 0, at, stated, title))
    return [(stated, title) for *_, stated, title in sorted(ranked)]


def spans_of(table: Table) -> list[tuple[str, int, int]]:
    """Date fields with how many months and years they reach over."""
    found = []
    for field, column in zip(table.fields, table.columns, strict=True):
        if isinstance(column, DateColumn) and not field.hidden:
            days = column.days if column.blank is None else column.days[~column.blank]
            if len(days):
                low, high = (np.datetime64(int(day), "D") for day in (days.min(), days.max()))
                months = int(high.astype("datetime64[M]") - low.astype("datetime64[M]")) + 1
                years = int(high.astype("datetime64[Y]") - low.astype("datetime64[Y]")) + 1
                found.append((field.name, months, years))
    return found


def groups_of(table: Table) -> list[tuple[str, int]]:
    """Categories of a readable number of members, in the table's order; months and weekdays last."""
    found = [
        (field.name, len(column.members))
        for field, column in zip(table.fields, table.columns, strict=True)
        if field.kind in ("category", "flag")
        and not field.hidden
        and isinstance(column, CodedColumn)
        and _FEW <= len(column.members) <= _MANY
    ]
    return sorted(found, key=lambda each: calendar_names(table, each[0]) is not None)
