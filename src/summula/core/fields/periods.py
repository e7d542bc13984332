"""Periods as people write them (2024, 2024-Q2, 2024-W07, 2024-05-31, 2024/25-Q1), and the days that they hold."""

from __future__ import annotations

import re
from datetime import date
from functools import lru_cache
from typing import NamedTuple

from summula.core.arrays import np
from summula.core.fields import calendar
from summula.core.fields.labels import MONTHS, WEEKDAYS
from summula.core.tables.column import EPOCH

_PERIOD = re.compile(r"(\d{4})(?:/(\d{2}))?(?:-(Q[1-4]|H[12]|W\d{2}|\d{2})(?:-(\d{2}))?)?", re.IGNORECASE | re.ASCII)
# The numbers that a part without its year can be.
NUMBERED: dict[str, tuple[int, int]] = {
    "half": (1, 2),
    "quarter": (1, 4),
    "month": (1, 12),
    "week": (1, 53),
    "weekday": (1, 7),
    "day": (1, 31),
    "hour": (0, 23),
    "quarter-day": (1, 92),
    "fiscal half": (1, 2),
    "fiscal quarter": (1, 4),
}
_NAMES = {
    "month": [name.casefold() for name in MONTHS],
    "weekday": [name.casefold() for name in WEEKDAYS],
}
_FULL_NAMES = {
    "month": [
        "january", "february", "march", "april", "may", "june",
        "july", "august", "september", "october", "november", "december",
    ],
    "weekday": ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"],
}  # fmt: skip


class Days(NamedTuple):
    """A stretch of days, first and last, as numbers since 1970-01-01."""

    first: int
    last: int


def days_of(written: str | float | date, begins: int = 1) -> Days | None:
    """The days of a date or a period as written; None where no calendar holds it. `begins` is the fiscal year's
    first month. A whole number from 1 to 9999 is a year."""
    if isinstance(written, date):
        day = written.toordinal() - EPOCH
        return Days(day, day)
    if isinstance(written, float | int):
        if written != written or written != int(written) or not 1 <= written <= 9999:
            return None
        return _days_of(f"{int(written):04d}", begins)
    return _days_of(written.strip(), begins)


@lru_cache(maxsize=4096)
def _days_of(text: str, begins: int) -> Days | None:
    found = _PERIOD.fullmatch(text)
    if found is None:
        return None
    year, next_year, within, day = int(found[1]), found[2], (found[3] or "").upper(), found[4]
    if not 1 <= year <= 9999:
        return None
    if day is not None:
        try:
            return None if next_year or not within.isdigit() else days_of(date(year, int(within), int(day)))
        except ValueError:
            return None
    if next_year is not None and (int(next_year) != (year + 1) % 100 or begins == 1):
        return None
    if within[:1] == "W":
        return None if next_year else _days_of_week(year, int(within[1:]))
    first = begins if next_year else 1
    if not within:
        return _days_of_months(year, first, 12)
    if within[:1] in ("Q", "H"):
        length = 3 if within[0] == "Q" else 6
        return _days_of_months(year, first + (int(within[1]) - 1) * length, length)
    if next_year or not 1 <= int(within) <= 12:
        return None
    return _days_of_months(year, int(within), 1)


def _days_of_week(year: int, week: int) -> Days | None:
    try:
        first = date.fromisocalendar(year, week, 1).toordinal() - EPOCH
    except ValueError:
        return None
    return Days(first, first + 6)


def _days_of_months(year: int, month: int, length: int) -> Days | None:
    begin = (year - 1970) * 12 + month - 1
    ends = [int(np.datetime64(at, "M").astype("datetime64[D]").astype(np.int64)) for at in (begin, begin + length)]
    return Days(ends[0], ends[1] - 1)


def holds_whole(days: Days, part: str, begins: int = 1) -> bool:
    """Whether some whole period of a date's part (a month of a year, say) lies within these days."""
    around = np.arange(days.first - 1, days.last + 2, dtype=np.int64)
    numbers = calendar.part_numbers(around, part, begins)
    return bool(np.setdiff1d(numbers[1:-1], numbers[[0, -1]]).size)


def number_of_part(written: str | float, part: str) -> int | None:
    """The number of a part without its year: 5, "May", "Q2", "W12", "07:00"; None where there is no such one."""
    if isinstance(written, str):
        text = written.strip().casefold()
        plain = part.removeprefix("fiscal ")
        for names in (_NAMES.get(plain, []), _FULL_NAMES.get(plain, [])):
            if text in names:
                return names.index(text) + 1
        if plain in ("quarter", "half", "week"):
            text = text.removeprefix(plain[0])
        if plain == "hour":
            text = text.removesuffix(":00")
        if not text.isdecimal() or len(text) > 3:
            return None
        written = float(text)
    low, high = NUMBERED[part]
    return int(written) if written == int(written) and low <= written <= high else None


def is_month_day(text: str) -> bool:
    """Whether a text is a day of the year, such as "05-31"."""
    found = re.fullmatch(r"(\d{2})-(\d{2})", text, re.ASCII)
    try:
        return found is not None and date(2024, int(found[1]), int(found[2])) is not None
    except ValueError:
        return False
