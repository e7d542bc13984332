"""Which members of a date are named along an axis that has no room for all: those that begin a week, a month, a
quarter, a year, or so many years."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from summula.core.charts.series import Category
    from summula.core.fields.heading import Member

_YEARS = (1, 2, 5, 10, 20, 50, 100)
_CROWDED = 0.1  # of the names that a level asks for may be without room, where days or months are missing


def calendar_marks(cats: Sequence[Category], step: float, wide: float) -> list[int] | None:
    """The places of the members to be named, where each has `step` pixels and a name needs `wide` of them: the most
    that can be read. None where the members are no dates, or two names have no room."""
    heading = cats[0].pairs[-1][0] if cats and cats[0].pairs else None
    if heading is None or heading.bands is not None:
        return None
    members = [cat.path[-1] for cat in cats]
    known = [member for member in (*members[:2], *members[-2:]) if member is not None]
    for level in _levels(heading.part, known):
        if known and abs(level(known[-1]) - level(known[0])) * wide > len(cats) * step * (1 + 2 * _CROWDED):
            continue  # far too many
        numbers = [level(member) if member is not None else -1 for member in members]
        starts = [
            at
            for at, number in enumerate(numbers)
            if at == 0 or number != numbers[at - 1] or cats[at].group != cats[at - 1].group
        ]
        if len(starts) > 2 and (starts[1] - starts[0]) * step < wide:
            starts = starts[1:]  # the first is the rest of a period that began before
        named = starts[:1]
        for at in starts[1:]:
            if (at - named[-1]) * step >= wide:
                named.append(at)
        if len(named) > 1 and len(starts) - len(named) <= _CROWDED * len(starts):
            return named
    return None


Level = Callable[["Member"], int]  # the number of the period that a member lies in


def _levels(part: str | None, members: Sequence[Member]) -> list[Level]:
    """The periods that members are put together in, the shortest first; none for what is no date."""
    if part is None:
        if not any(isinstance(member, date) for member in members):
            return []
        return [_week, *(_months_of_day(months) for months in (1, 3, 6, *(12 * years for years in _YEARS)))]
    per_year, coarser = _PARTS.get(part, (0, ()))
    if not per_year:
        return []
    return [_periods(per_year, periods) for periods in (*coarser, *(per_year * years for years in _YEARS))]


# Of each part of a date: how many there are in a year, and how many of them make a shorter period.
_PARTS: dict[str, tuple[int, tuple[int, ...]]] = {
    "year": (1, ()),
    "half": (2, ()),
    "quarter": (4, (2,)),
    "month": (12, (3, 6)),
    "week": (52, (13, 26)),
    "year-half": (2, ()),
    "year-quarter": (4, (2,)),
    "year-month": (12, (3, 6)),
    "year-week": (52, (13, 26)),
    "fiscal year": (1, ()),
    "fiscal half": (2, ()),
    "fiscal quarter": (4, (2,)),
    "fiscal year-half": (2, ()),
    "fiscal year-quarter": (4, (2,)),
    "month-day": (372, (31, 93, 186)),
}


def _week(member: Member) -> int:
    return (member.toordinal() - 1) // 7 if isinstance(member, date) else -1


def _months_of_day(months: int) -> Level:
    return lambda member: (member.year * 12 + member.month - 1) // months if isinstance(member, date) else -1


def _periods(per_year: int, periods: int) -> Level:
    def number(member: Member) -> int:
        if isinstance(member, str):  # 2024-05, 2024-Q2, 2024-W07, 2024/25-Q2; of a day of the year, 05-31
            year, _, rest = member.partition("-")
            own = int(rest.lstrip("QHW") or 1)
            if len(year) == 2:
                return ((int(year) - 1) * 31 + own - 1) // periods
            return (int(year[:4]) * per_year + min(own, per_year) - 1) // periods
        if isinstance(member, int):
            return (member - 1 if per_year > 1 else member) // periods
        return -1

    return number
