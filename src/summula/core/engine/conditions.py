"""What conditions mean: which members, or which rows, meet them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, timedelta
from functools import lru_cache
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.fields.figures import CURRENCY_MARKS
from summula.core.fields.heading import YEARLY, Encoded, Heading, Member, Others, encode_heading
from summula.core.fields.labels import label_of
from summula.core.fields.periods import NUMBERED, days_of, number_of_part
from summula.core.refusal import Refusal
from summula.core.tables.column import EPOCH, DateColumn, Mask, NumberColumn, date_of, take_at
from summula.core.tables.natural import folded

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.phrases.phrase import Condition, Value
    from summula.core.tables.table import Table

PLAIN_DIGITS = re.compile(r"\d+(\.\d+)?", re.ASCII)


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
        raise Refusal(f"'{heading.field}' is compared with a number, not '{value}'", "enter a number")
    if column.unit == 1.0:
        return float(value)
    units = value * column.unit
    return float(np.rint(units)) if abs(units - np.rint(units)) < 1e-6 else float(units)


def holds_by_member(condition: Condition, encoded: Encoded, table: Table) -> Mask:
    """For each code of a heading (the blank last): whether its rows meet the condition.

    A blank meets only "is blank" and "is not …".
    """
    test, values, members, heading = condition.test, condition.values, encoded.members, condition.heading
    if test in ("is blank", "is not blank"):
        wanted = test == "is not blank"
        return np.array([*[wanted] * len(members), not wanted], dtype=np.bool_)
    met: Sequence[bool] | Mask
    if test == "is in the last":
        low, high = _last_span(condition, table)
        met = [isinstance(m, date) and low <= m <= high for m in members]
    elif test in ("contains", "starts with", "ends with"):
        text = folded(str(_written(values[0])))
        labels = [folded(label_of(heading, member)) for member in members]
        if test == "contains":
            met = [text in label for label in labels]
        elif test == "starts with":
            met = [label.startswith(text) for label in labels]
        else:
            met = [label.endswith(text) for label in labels]
    elif heading.part in YEARLY or (heading.part is None and members and isinstance(members[0], date)):
        met = _by_days(test, values, members, table.year_begins)
    elif test in ("is", "is not"):
        met = _among(values, members, heading)
    else:
        met = _compared(test, values, members)
    return np.append(met, False).astype(np.bool_) ^ (test == "is not")


def _by_days(test: str, values: tuple[Value, ...], members: tuple[Member, ...], begins: int) -> Mask:
    """Dates and periods of years by the days they hold. One that holds days on both sides of a limit is neither
    under nor over it; it is a period if it lies within it."""
    firsts, lasts = _days_of_members(members, begins)
    spans = [days_of(value, begins) for value in values]
    if test in ("is", "is not"):
        met = np.zeros(len(members), dtype=np.bool_)
        singles = [span.first for span in spans if span is not None and span.first == span.last]
        if singles:
            met |= (firsts == lasts) & np.isin(firsts, singles)
        for span in spans:
            if span is not None and span.first < span.last:
                met |= (firsts >= span.first) & (lasts <= span.last)
        return met
    limit = spans[0]
    if limit is None or (test == "is from" and spans[1] is None):
        return np.zeros(len(members), dtype=np.bool_)
    if test == "is over":
        return np.asarray(firsts > limit.last)
    if test == "is at least":
        return np.asarray(lasts >= limit.first)
    if test == "is under":
        return np.asarray(lasts < limit.first)
    if test == "is at most":
        return np.asarray(firsts <= limit.last)
    assert spans[1] is not None
    return np.asarray((lasts >= limit.first) & (firsts <= spans[1].last))


@lru_cache(maxsize=16)
def _days_of_members(members: tuple[Member, ...], begins: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The first and the last day of each date or period (since 1970-01-01)."""
    if members and isinstance(members[0], date):
        days = np.array([member.toordinal() - EPOCH for member in members], dtype=np.int64)  # type: ignore[union-attr]
        return days, days
    spans = [days_of(member, begins) for member in members]  # type: ignore[arg-type]
    both = np.array([span or (1, 0) for span in spans], dtype=np.int64).reshape(len(members), 2)
    return both[:, 0], both[:, 1]


TRUTHS = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}


def _among(values: tuple[Value, ...], members: tuple[Member, ...], heading: Heading) -> list[bool]:
    """Which members are among the values: the one spelled so, or where there is none those that differ in case."""
    if heading.bands is not None:
        asked = {band_label_key(str(value)) for value in values}
        return [band_label_key(str(m)) in asked or band_label_key(label_of(heading, m)) in asked for m in members]
    if heading.part in NUMBERED:
        numbers = {number_of_part(value, heading.part) for value in values}
        return [member in numbers for member in members]
    if members and isinstance(members[0], bool):
        truths = {TRUTHS.get(_written(value).casefold()) for value in values}
        return [member in truths for member in members]
    spelled = [_written(float(m) if isinstance(m, int | float) else str(m)) for m in members]
    known, wanted = set(spelled), {_written(value) for value in values}
    loose = {value.casefold() for value in wanted - known}
    return [text in wanted or (bool(loose) and text.casefold() in loose) for text in spelled]


def members_meant(value: Value, members: Sequence[Member], heading: Heading) -> list[int]:
    """The codes of the members that one value means; blanks and gathered members are never meant."""
    codes = [code for code, member in enumerate(members) if member is not None and not isinstance(member, Others)]
    known = tuple(members[code] for code in codes)
    if known and isinstance(known[0], date):
        met = [member == value or str(member) == value for member in known]
    else:
        met = _among((value,), known, heading)
    return [code for code, each in zip(codes, met, strict=True) if each]


def _written(value: Value) -> str:
    if isinstance(value, str):
        return value
    return str(int(value)) if value == int(value) else repr(value)


def band_label_key(label: str) -> str:
    """What tells a band's label from others, however its limits are written."""
    return _MARKS.sub("", label.casefold())


_MARKS = re.compile(rf"(?<=\d),(?=\d)|[{CURRENCY_MARKS}\s]")


def _compared(test: str, values: tuple[Value, ...], members: tuple[Member, ...]) -> list[bool]:
    """Comparisons on ordered members: numbers by size, so also the digits of codes where the limits are numbers; other
    text by its letters, case and accents folded."""
    numbers = all(isinstance(value, int | float) for value in values)

    def key(member: Member | Value) -> float | str | None:
        if isinstance(member, bool):
            return None
        if isinstance(member, int | float):
            return float(member)
        if isinstance(member, str):
            return float(member) if numbers and PLAIN_DIGITS.fullmatch(member) else folded(member)
        return None

    limits = [key(value) for value in values]
    met = []
    for member in members:
        at = key(member)
        if at is None or any(type(limit) is not type(at) for limit in limits):
            met.append(False)
        elif test == "is from":
            met.append(limits[0] <= at <= limits[1])  # type: ignore[operator]
        elif test == "is over":
            met.append(at > limits[0])  # type: ignore[operator]
        elif test == "is at least":
            met.append(at >= limits[0])  # type: ignore[operator]
        elif test == "is under":
            met.append(at < limits[0])  # type: ignore[operator]
        else:
            met.append(at <= limits[0])  # type: ignore[operator]
    return met


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
            by_row = take_at(holds_by_member(condition, encoded, table), encoded.codes)
        met &= by_row
    return met
