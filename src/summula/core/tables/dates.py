"""Dates from text: in figures and in words, with a time or none; and periods (quarters, months, weeks) as the day that
they begin with.

A field has one reading. Under each of them, what can be read in one way only (2024-05-31, 31 May 2024) is read as well.
"""

from __future__ import annotations

import re
from datetime import date, timedelta
from typing import TYPE_CHECKING, Literal

import polars as pl

from summula.core.arrays import np
from summula.core.tables.monthnames import MONTH_OF, WEEKDAYS
from summula.core.tables.names import words
from summula.core.tables.natural import folded
from summula.core.tables.script import in_plain_signs

if TYPE_CHECKING:
    from numpy.typing import NDArray

Reading = Literal["iso", "compact", "day first", "month first", "named", "quarter", "half", "month", "week", "year"]
CENTURY = 1950  # the first of the hundred years that two figures mean, unless said otherwise
# A time behind the day, in a zone of its own: the day and hour that its clocks show are meant.
CLOCK = (
    r"(?:(?:[T,]| +(?:at |um |à )?)\s*(\d{1,2}:\d{2}(?::\d{2})?)(?:[.,]\d+)?( ?[AaPp]\.?[Mm]\.?)?"
    r"(?: ?(?:[Zz]|UTC|GMT|(?:UTC|GMT)?[+\-]\d{1,2}(?::?\d{2})?|[A-Z]{3,4}))?"
    r"(?: ?[\[(][^\])]*[\])])?(?: ?Uhr| ?h)?)?Z?$"
)
ISO = r"^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})" + CLOCK
SLASHED = r"^(\d{1,2})(?:[/\-. ]|\. )(\d{1,2})(?:[/\-. ]|\. )(\d{4}|\d{2})\.?" + CLOCK
COMPACT = r"^(\d{4})(\d{2})(\d{2})(?:[T ]?\d{6}Z?|" + CLOCK.removesuffix("$") + ")$"
_HALF = r"^(.*?)" + CLOCK
_YEARS = (1000, 2999)


def in_figures(texts: pl.Series, pattern: str) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """The three numbers of dates written in figures; -1 where a text is not such."""
    groups = texts.str.extract_groups(pattern).struct
    parts = [groups.field(f"{at}").cast(pl.Int64, strict=False).fill_null(-1).to_numpy() for at in (1, 2, 3)]
    return parts[0], parts[1], parts[2]


def days_of(years: NDArray[np.int64], months: NDArray[np.int64], days: NDArray[np.int64]) -> pl.Series:
    """Days since 1970-01-01 as dates; null where no calendar has the day."""
    known = (years >= 1) & (years <= 9999) & (months >= 1) & (months <= 12) & (days >= 1) & (days <= 31)
    years, months, days = (np.where(known, part, 1) for part in (years, months, days))
    first = ((years - 1970) * 12 + months - 1).astype("datetime64[M]")
    found = first.astype("datetime64[D]").astype(np.int64) + days - 1
    known &= found.astype("datetime64[D]").astype("datetime64[M]") == first  # 30 February is in March
    series = pl.Series(found.astype(np.int32))
    return series.set(pl.Series(~known), None).cast(pl.Date)


def full_years(years: NDArray[np.int64], written: pl.Series, century: int) -> NDArray[np.int64]:
    """Years of two figures as those of the hundred years from `century` on."""
    short = (years >= 0) & (years < 100) & ~written.str.contains(r"\d{4}").fill_null(False).to_numpy()
    century = century or CENTURY
    return np.where(short, century + (years - century) % 100, years)


def days_from_text(texts: pl.Series, reading: str, century: int = 0) -> pl.Series:
    """The days that texts mean, null where they mean none."""
    if reading == "iso":
        plain = texts.str.slice(0, 10).str.to_date("%Y-%m-%d", strict=False)
        if plain.null_count() == texts.null_count():
            return plain.alias(texts.name)
    texts = in_plain_signs(texts)
    readers = {"compact": (_compact,), "day first": (_slashed,), "month first": (_slashed,)}.get(reading, ())
    found = pl.Series(texts.name, [None], dtype=pl.Date).new_from_index(0, len(texts))
    for way in (*readers, _iso, _worded):
        missing = found.is_null() & texts.is_not_null()
        if not bool(missing.any()):
            break
        left = texts.filter(missing)
        read = way(left, reading, century)
        found = read if len(left) == len(texts) else found.scatter(np.flatnonzero(missing.to_numpy()), read)
    return found.alias(texts.name)


def _iso(texts: pl.Series, reading: str, century: int) -> pl.Series:
    return days_of(*in_figures(texts, ISO))


def _compact(texts: pl.Series, reading: str, century: int) -> pl.Series:
    return days_of(*in_figures(texts, COMPACT))


def _slashed(texts: pl.Series, reading: str, century: int) -> pl.Series:
    first, second, years = in_figures(texts, SLASHED)
    years = full_years(years, texts.str.extract(SLASHED, 3), century)
    return days_of(years, first, second) if reading == "month first" else days_of(years, second, first)


def _worded(texts: pl.Series, reading: str, century: int) -> pl.Series:
    """With a month's name, or of a period: told one distinct text at a time."""
    heads = texts.str.extract(_HALF, 1)
    heads = heads.set(heads.is_null(), "").cast(pl.String)
    distinct = heads.unique().to_list()
    days = [_day_of(each, reading, century) for each in distinct]
    if all(day is None for day in days):
        return pl.Series(texts.name, [None], dtype=pl.Date).new_from_index(0, len(texts))
    places = heads.cast(pl.Enum(distinct)).to_physical()
    return pl.Series(days, dtype=pl.Date).gather(places)


_WORDS = re.compile(r"[^\W\d_]+(?:['.·][^\W\d_]+)*|\d+", re.UNICODE)
_FILLING = words(
    """
    st nd rd th of de del di the er t z den le do da d a al ta ος г год года year am el il lo om kl on
    """
)
_EASTERN = re.compile(r"^(\d{4})\s*[年년]\s*(\d{1,2})\s*[月월](?:\s*(\d{1,2})\s*[日일])?$")


def _day_of(text: str, reading: str, century: int) -> date | None:
    """The day that a text means which names its month, or the first of the period that it is."""
    if not text or len(text) > 60:
        return None
    if reading == "year":
        found = YEAR.fullmatch(text)
        return _date(int(found[1]), 1, 1) if found else None
    if reading in ("quarter", "half", "month", "week"):
        period = period_of(text, century)
        if period is not None and period[0] == reading:
            return period[1]
    parts = named_parts(text)
    if parts is None:
        return None
    year, month, day = parts
    return _date(_full(year, century), month, day) if day else None


_FIGURES = re.compile(
    r"^(?:\d{4}[-/.]\d{1,2}[-/.]\d{1,2}|\d{1,2}(?:[/\-. ]|\. )\d{1,2}(?:[/\-. ]|\. )(?:\d{4}|\d{2})|\d{8})(?!\d)"
)
_ENDS_WITH_CLOCK = re.compile(r"[T, ]\s*\d{1,2}:\d{2}.*$")


def may_be_date(text: str) -> bool:
    """Whether a text looks at all like a day, or a period of a year."""
    if text.isascii() and _FIGURES.match(text):
        return True
    return named_parts(_ENDS_WITH_CLOCK.sub("", text)) is not None or period_of(text) is not None


YEAR = re.compile(r"(\d{4})(?:\.0)?")


def _full(year: str, century: int) -> int:
    if len(year) > 2:
        return int(year)
    century = century or CENTURY
    return century + (int(year) - century) % 100


def _date(year: int, month: int, day: int) -> date | None:
    try:
        return date(year, month, day) if _YEARS[0] <= year <= _YEARS[1] else None
    except ValueError:
        return None


def named_parts(text: str) -> tuple[str, int, int] | None:
    """Year as it is written, month, and day (0 where there is none) of a text that names its month."""
    eastern = _EASTERN.match(text)
    if eastern:
        return eastern[1], int(eastern[2]), int(eastern[3] or 0)
    month, before, numbers = 0, 0, []
    for word in _WORDS.findall(folded(text)):
        if word[0].isdigit():
            numbers.append(word)
            continue
        found = MONTH_OF.get(word) or MONTH_OF.get(word.rstrip("s"))
        if found:  # "mar. 5 mars": what stands first is a day of the week that is called like a month
            month, before = found, len(numbers)
        elif word not in WEEKDAYS and word not in _FILLING:
            return None
    if not month or not 1 <= len(numbers) <= 2 or any(len(each) not in (1, 2, 4) for each in numbers):
        return None
    if len(numbers) == 1:
        return (numbers[0], month, 0) if len(numbers[0]) in (2, 4) else None
    first, second = numbers
    if before == 1 and len(first) == 4:  # 2024 January 5
        return first, month, int(second)
    if len(second) == 1 or len(first) == 4:
        return None
    return second, month, int(first)


_QUARTER = re.compile(
    r"^(?:(\d{4})[\s\-/.]*(?:q|qtr|quarter|quartal|trim|t|кв)\.?\s*([1-4])|(?:q|qtr|quarter|quartal|trim|t)\.?\s*([1-4])"
    r"[\s\-/.']*(\d{4}|\d{2})|([1-4])(?:\.|st|nd|rd|th)?\s*(?:q|qtr|quarter|quartal|trim|кв)\.?[\s\-/.']*(\d{4}|\d{2}))$"
)
_HALVES = re.compile(r"^(?:(\d{4})[\s\-/.]*(?:h|hj|s)\.?\s*([12])|(?:h|hj|s)\.?\s*([12])[\s\-/.']*(\d{4}|\d{2}))$")
_WEEK = re.compile(
    r"^(?:(\d{4})[\s\-/.]*(?:w|wk|week|kw|cw)\.?\s*(\d{1,2})|(?:w|wk|week|kw|cw)\.?\s*(\d{1,2})[\s\-/.,]*(\d{4}))$"
)
_MONTH = re.compile(r"^(?:(\d{4})(?:[\-/.]|\s*m)(\d{1,2})|(\d{1,2})[\-/.](\d{4}))$")
_RUN_TOGETHER = re.compile(r"^(\d{4})(\d{2})$")
PERIODS: tuple[Literal["quarter", "half", "month", "week"], ...] = ("quarter", "half", "month", "week")


def period_of(text: str, century: int = 0) -> tuple[str, date] | None:
    """Which period of the year a text means, and the day it begins with."""
    small = folded(text.strip())
    if found := _QUARTER.match(small):
        year = found[1] or found[4] or found[6]
        place = int(found[2] or found[3] or found[5])
        start = _date(_full(year, century), place * 3 - 2, 1)
        return ("quarter", start) if start else None
    if found := _HALVES.match(small):
        start = _date(_full(found[1] or found[4], century), int(found[2] or found[3]) * 6 - 5, 1)
        return ("half", start) if start else None
    if found := _WEEK.match(small):
        year, week = int(found[1] or found[4]), int(found[2] or found[3])
        if not (_YEARS[0] <= year <= _YEARS[1] and 1 <= week <= 53):
            return None
        start = date.fromisocalendar(year, 1, 1) + timedelta(weeks=week - 1)
        return ("week", start) if start.isocalendar().year == year else None
    if found := _MONTH.match(small) or _RUN_TOGETHER.match(small):
        groups = found.groups()
        year, month = (groups[0], groups[1]) if groups[0] else (groups[3], groups[2])
        start = _date(int(year), int(month), 1)
        return ("month", start) if start else None
    parts = named_parts(text)
    if parts is not None and not parts[2]:
        start = _date(_full(parts[0], century), parts[1], 1)
        return ("month", start) if start else None
    return None


def seconds_from_text(texts: pl.Series) -> NDArray[np.int32] | None:
    """Seconds of the day from the times that stand behind days; None where there is none."""
    texts = in_plain_signs(texts)
    halves = texts.str.extract_groups(_HALF).struct
    clock, half = halves.field("2"), halves.field("3")
    if clock.null_count() == len(texts):
        together = texts.str.extract_groups(r"^\d{8}[T ]?(\d{2})(\d{2})(\d{2})Z?$").struct
        clock = pl.select(pl.concat_str([together.field(f"{at}") for at in (1, 2, 3)], separator=":")).to_series()
        if clock.null_count() == len(texts):
            return None
    return clock_seconds(clock, half)


def clock_seconds(clock: pl.Series, half: pl.Series) -> NDArray[np.int32]:
    """Seconds of the day from "7:05", "07:05:30" and an "am" or "pm"; 0 where there is no time."""
    parts = clock.str.split_exact(":", 2).struct
    hours, minutes, seconds = (parts.field(f"field_{at}").cast(pl.Int32).fill_null(0).to_numpy() for at in range(3))
    marks = half.str.replace_all(r"[\s.]", "").str.to_lowercase().fill_null("")
    hours = np.where((marks == "pm").to_numpy() & (hours < 12), hours + 12, hours)
    hours = np.where((marks == "am").to_numpy() & (hours == 12), 0, hours)
    of_day: NDArray[np.int32] = (hours * 3600 + minutes * 60 + seconds).astype(np.int32)
    return of_day


def of_the_past() -> int:
    """The first of the hundred years that end with this one."""
    return date.today().year - 99
