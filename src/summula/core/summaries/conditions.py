"""What conditions mean: which members, or which rows, meet them."""

from __future__ import annotations

import re
from datetime import date, timedelta

from summula.core.arrays import np
from summula.core.fields.heading import Encoded, Heading, Member, encode_heading
from summula.core.fields.labels import label_of
from summula.core.refusal import Refusal
from summula.core.summaries.phrase import Condition, Value
from summula.core.tables.column import DateColumn, Mask, NumberColumn, date_of, looked_up
from summula.core.tables.table import Table

_PLAIN = re.compile(r"\d+(\.\d+)?", re.ASCII)


def holds_by_row(condition: Condition, table: Table) -> Mask | None:
    """The rows that meet a condition on a plain number field; None where members decide instead."""
    heading = condition.heading
    if heading.part is not None or heading.bands is not None:
        return None
    column = table.column(heading.field)
    if not isinstance(column, NumberColumn):
        return None
    blank = np.zeros(column.rows, dtype=np.bool_) if column.blank is None else column.blank
    if condition.test == "is blank":
        return blank.copy()
    if condition.test == "is not blank":
        return ~blank
    values = column.values
    # Compared in the column's own units, so that 12.10 is exactly twelve ten.
    limits = [_in_units(value, column, heading) for value in condition.values]
    if condition.test == "is":
        met = np.isin(values, limits)
    elif condition.test == "is not":
        return ~np.isin(values, limits) | blank
    elif condition.test == "is from":
        met = (values >= limits[0]) & (values <= limits[1])
    elif condition.test == "is over":
        met = values > limits[0]
    elif condition.test == "is at least":
        met = values >= limits[0]
    elif condition.test == "is under":
        met = values < limits[0]
    elif condition.test == "is at most":
        met = values <= limits[0]
    else:
        raise Refusal(
            f"'{heading.field}' holds numbers, so nothing {condition.test} a text", "compare it with a number"
        )
    return met & ~blank


def _in_units(value: Value, column: NumberColumn, heading: Heading) -> float:
    if isinstance(value, str):
        raise Refusal(f"'{heading.field}' is compared with a number, not '{value}'", "write a number")
    if not column.decimals:
        return float(value)
    units = value * column.unit
    return float(np.rint(units)) if abs(units - np.rint(units)) < 1e-6 else float(units)


def holds_by_member(condition: Condition, encoded: Encoded, table: Table) -> Mask:
    """For each code of a heading (the blank last): whether its rows meet the condition.

    A blank meets only "is blank" and "is not …".
    """
    test, values, members = condition.test, condition.values, encoded.members
    if test in ("is blank", "is not blank"):
        wanted = test == "is not blank"
        return np.array([*[wanted] * len(members), not wanted], dtype=np.bool_)
    if test in ("is", "is not"):
        asked = {_folded(value) for value in values}
        met = [_folded_member(member) in asked for member in members]
        return np.array([*met, False], dtype=np.bool_) ^ (test == "is not")
    if test == "is in the last":
        low, high = _last_span(condition, table)
        met = [isinstance(m, date) and low <= m <= high for m in members]
    elif test in ("contains", "starts with", "ends with"):
        text = _folded(values[0])
        labels = [label_of(condition.heading, member).casefold() for member in members]
        if test == "contains":
            met = [text in label for label in labels]
        elif test == "starts with":
            met = [label.startswith(text) for label in labels]
        else:
            met = [label.endswith(text) for label in labels]
    else:
        met = _compared(test, values, members)
    return np.array([*met, False], dtype=np.bool_)


def _folded(value: Value) -> str:
    if isinstance(value, str):
        return value.casefold()
    return str(int(value)) if value == int(value) else repr(value)


def _folded_member(member: Member) -> str:
    if isinstance(member, bool | str):
        return str(member).casefold()
    if isinstance(member, date):
        return member.isoformat()
    if isinstance(member, int | float):
        return _folded(float(member))
    return str(member).casefold()


def _compared(test: str, values: tuple[Value, ...], members: tuple[Member, ...]) -> list[bool]:
    """Comparisons on ordered members: numbers, dates and periods by size, so also the digits of codes where the limits
    are numbers; other text by its letters."""
    numbers = all(isinstance(value, int | float) for value in values)

    def key(member: Member | Value) -> float | str | None:
        if isinstance(member, bool):
            return str(member).casefold()
        if isinstance(member, int | float):
            return float(member)
        if isinstance(member, date):
            return member.isoformat()
        if isinstance(member, str):
            return float(member) if numbers and _PLAIN.fullmatch(member) else member.casefold()
        return None

    limits = [key(value) for value in values]
    met = []
    for member in members:
        at = key(member)
        if at is None or any(type(limit) is not type(at) for limit in limits):
            met.append(False)
            continue
        if test == "is from":
            # "from 2024-01 to 2024-03" takes in every day of March: a longer ISO text is inside its period.
            inside = at >= limits[0] and (at <= limits[1] or _within(at, limits[1]))  # type: ignore[operator]
            met.append(inside)
        elif test == "is over":
            met.append(at > limits[0] and not _within(at, limits[0]))  # type: ignore[operator]
        elif test == "is at least":
            met.append(at >= limits[0])  # type: ignore[operator]
        elif test == "is under":
            met.append(at < limits[0])  # type: ignore[operator]
        else:
            met.append(at <= limits[0] or _within(at, limits[0]))  # type: ignore[operator]
    return met


def _within(at: float | str | None, limit: float | str | None) -> bool:
    return isinstance(at, str) and isinstance(limit, str) and len(limit) >= 7 and at.startswith(limit + "-")


def _last_span(condition: Condition, table: Table) -> tuple[date, date]:
    """The last N days, weeks … up to the latest date the table holds: an answer does not change overnight."""
    column = table.column(condition.heading.field)
    assert isinstance(column, DateColumn)
    days = column.days if column.blank is None else column.days[~column.blank]
    if len(days) == 0:
        return date.max, date.min
    high = date_of(int(days.max()))
    number, unit = int(float(condition.values[0])), str(condition.values[1])
    if unit in ("days", "weeks"):
        length = number * (7 if unit == "weeks" else 1)
        return high - timedelta(days=min(length - 1, high.toordinal() - 1)), high
    months = number * {"months": 1, "quarters": 3, "years": 12}[unit]
    place = high.year * 12 + high.month - 1 - months
    if place < 12:
        return date.min, high
    year, month = divmod(place, 12)
    day = min(high.day, (date(year + (month == 11), (month + 1) % 12 + 1, 1) - timedelta(days=1)).day)
    return date(year, month + 1, day) + timedelta(days=1), high


def rows_meeting(conditions: tuple[Condition, ...], table: Table) -> Mask:
    """The rows of a table that meet all the conditions."""
    met = np.ones(table.rows, dtype=np.bool_)
    for condition in conditions:
        by_row = holds_by_row(condition, table)
        if by_row is None:
            encoded = encode_heading(table, condition.heading)
            by_row = looked_up(holds_by_member(condition, encoded, table), encoded.codes)
        met &= by_row
    return met
