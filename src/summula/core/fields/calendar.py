"""Parts of dates. Each part has a number that sorts, and a member that reads (ISO 8601)."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, TypeAlias

from summula.core.arrays import np

if TYPE_CHECKING:
    from numpy.typing import NDArray

Days: TypeAlias = "NDArray[np.int64]"


def part_numbers(days: Days, part: str, begins: int = 1) -> NDArray[np.int64]:
    """For each day (since 1970-01-01) the sorting number of its part: month 1-12, year-month
    year*100+month, year-week ISO year*100+week, and so on.

    `begins` is the fiscal year's first month: months sort from it, and the fiscal parts are counted from it, a fiscal
    year numbered by the calendar year that it begins in.
    """
    dates = days.astype("datetime64[D]")
    years = dates.astype("datetime64[Y]").astype(np.int64) + 1970
    months = dates.astype("datetime64[M]").astype(np.int64) % 12 + 1
    if part == "year":
        return years
    if part == "half":
        return (months + 5) // 6
    if part == "quarter":
        return (months + 2) // 3
    if part == "month":
        return months if begins == 1 else (months - begins) % 12 * 100 + months
    if part.startswith("fiscal "):
        moved = dates.astype("datetime64[M]") - (begins - 1)
        return part_numbers(moved.astype("datetime64[D]").astype(np.int64), part.removeprefix("fiscal "))
    if part == "weekday":
        return (days + 3) % 7 + 1  # 1970-01-01 was a Thursday
    if part == "day":
        return np.asarray((dates - dates.astype("datetime64[M]")).astype(np.int64) + 1)
    if part == "month-day":
        return months * 100 + part_numbers(days, "day")
    if part == "quarter-day":
        first = dates.astype("datetime64[M]") - (months - 1) % 3
        return np.asarray((dates - first.astype("datetime64[D]")).astype(np.int64) + 1)
    if part == "year-half":
        return years * 100 + (months + 5) // 6
    if part == "year-quarter":
        return years * 100 + (months + 2) // 3
    if part == "year-month":
        return years * 100 + months
    iso_years, weeks = _iso_weeks(days)
    if part == "week":
        return weeks
    if part == "year-week":
        return iso_years * 100 + weeks
    raise ValueError(f"not a part of a day: {part}")


def _iso_weeks(days: Days) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    # A week belongs to the year that holds its Thursday (ISO 8601).
    thursday = days - (days + 3) % 7 + 3
    year = thursday.astype("datetime64[D]").astype("datetime64[Y]")
    first = year.astype("datetime64[D]").astype(np.int64)
    return year.astype(np.int64) + 1970, (thursday - first) // 7 + 1


_COMPOUND = {"year-half": "H", "year-quarter": "Q", "year-month": "", "year-week": "W"}


def part_member(number: int, part: str, begins: int = 1) -> str | int:
    """The member of a part's sorting number: 3, "2024-Q2", or "2024/25-Q2" of a fiscal year that spans two years."""
    if part.startswith("fiscal "):
        plain = part.removeprefix("fiscal ")
        if plain not in ("year", *_COMPOUND):
            return number
        year, place = (number, 0) if plain == "year" else divmod(number, 100)
        span = f"{year:04d}" if begins == 1 else f"{year:04d}/{(year + 1) % 100:02d}"
        return span if plain == "year" else f"{span}-{_COMPOUND[plain]}{place}"
    if part == "month-day":
        return f"{number // 100:02d}-{number % 100:02d}"
    if part == "month":
        return number % 100  # what stands before tells where the year begins
    if part not in _COMPOUND:
        return number
    year, place = divmod(number, 100)
    mark = _COMPOUND[part]
    return f"{year:04d}-{mark}{place}" if mark in ("H", "Q") else f"{year:04d}-{mark}{place:02d}"


def year_earlier(member: str | int, part: str) -> str | int:
    """The same part one calendar year back."""
    if part == "year":
        return int(member) - 1
    text = str(member)
    year = int(text[:4]) - 1
    return f"{year:04d}/{(year + 1) % 100:02d}{text[7:]}" if text[4:5] == "/" else f"{year:04d}{text[4:]}"


@lru_cache(maxsize=64)
def member_on(day: int, part: str, begins: int = 1) -> str | int:
    """The part's member that a day (since 1970-01-01) lies in."""
    return part_member(int(part_numbers(np.array([day]), part, begins)[0]), part, begins)
