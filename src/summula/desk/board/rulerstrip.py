"""The strip of a period ruler: its months or days, and where each stands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from itertools import groupby
from typing import TYPE_CHECKING

import msgspec

from summula.core.fields.labels import MONTHS
from summula.core.slicing.slicerkinds import period_label

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Holding, PeriodSlicer

HEIGHT = 74
BARS, LETTERS, QUARTERS, YEARS = 27, 41, 54, 70  # the bottoms of its four rows
_MOST_DAYS = 40_000


class Unit(msgspec.Struct, frozen=True):
    """A month or a day of the strip: its key ("2024-05", "2024-05-31"), rows now and before slicing; known: inside the
    data."""

    key: str
    rows: int
    before: int
    known: bool

    @property
    def year(self) -> int:
        return int(self.key[:4])

    @property
    def number(self) -> int:
        """The month's number."""
        return int(self.key[5:7])

    @property
    def day(self) -> date:
        return date.fromisoformat(self.key if len(self.key) > 7 else f"{self.key}-01")

    @property
    def is_day(self) -> bool:
        return len(self.key) > 7

    @property
    def letter(self) -> str:
        return str(int(self.key[8:])) if self.is_day else MONTHS[self.number - 1][0]

    @property
    def group(self) -> str:
        """Its quarter, or its week, in a word."""
        return f"W{self.day.isocalendar().week}" if self.is_day else f"Q{(self.number + 2) // 3}"

    @property
    def whole(self) -> str:
        """Its year, or its month, in a word."""
        return f"{MONTHS[self.number - 1]} {self.year}" if self.is_day else str(self.year)

    @property
    def words(self) -> str:
        return period_label(self.key)


def units_of(slicer: PeriodSlicer, held: Sequence[Holding]) -> list[Unit]:
    """All months of the years that hold something, or all days from the first to the last."""
    by_key = {str(each.choice): each for each in held if each.choice is not None}
    low, high = (min(by_key), max(by_key)) if by_key else ("", "")
    return [
        Unit(key, by_key[key].rows, by_key[key].before, True) if key in by_key else Unit(key, 0, 0, low <= key <= high)
        for key in _keys(by_key, slicer.grain)
    ]


def _keys(known: Mapping[str, Holding], grain: str) -> list[str]:
    if not known:
        return []
    low, high = min(known), max(known)
    if grain == "month":
        return [f"{year:04d}-{month:02d}" for year in range(int(low[:4]), int(high[:4]) + 1) for month in range(1, 13)]
    first, last = date.fromisoformat(low), date.fromisoformat(high)
    return [(first + timedelta(days=at)).isoformat() for at in range(min((last - first).days + 1, _MOST_DAYS))]


def _spans(units: list[Unit], unit: int) -> list[tuple[int, int]]:
    """Of each unit the first and last that belong together with it: by quarter or week (3), by year or month (12)."""

    def belongs(each: Unit) -> tuple[int, str]:
        if unit == 3:
            return (each.day.isocalendar().year if each.is_day else each.year), each.group
        return each.year, each.whole

    found: list[tuple[int, int]] = []
    for _, together in groupby(units, key=belongs):
        first, count = len(found), len(list(together))
        found += [(first, first + count - 1)] * count
    return found


class Strip:
    """Units side by side in a width (pixels); all of them, or those in a window: the first in view, and how many."""

    def __init__(self, months: list[Unit], width: int = 600, window: tuple[int, int] | None = None) -> None:
        self.months, self.width, self.window = months, width, window
        self._spans: dict[int, list[tuple[int, int]]] = {}  # by unit, when they are asked for

    @property
    def by_days(self) -> bool:
        return bool(self.months) and self.months[0].is_day

    @property
    def first(self) -> int:
        return self.window[0] if self.window is not None else 0

    @property
    def count(self) -> int:
        return self.window[1] if self.window is not None else len(self.months)

    @property
    def in_view(self) -> range:
        return range(max(self.first, 0), min(self.first + self.count, len(self.months)))

    @property
    def step(self) -> float:
        """Pixels a unit."""
        return (self.width - 4) / max(self.count, 1)

    def left(self, at: int) -> float:
        return 2 + (at - self.first) * self.step

    def unit_at(self, x: float) -> int:
        at = self.first + int((x - 2) // self.step)
        return min(max(at, self.first), min(self.first + self.count, len(self.months)) - 1)

    def span_of(self, at: int, unit: int) -> tuple[int, int]:
        """The units that belong together with one: itself (1), its quarter or week (3), its year or month (12)."""
        if unit == 1:
            return at, at
        if unit not in self._spans:
            self._spans[unit] = _spans(self.months, unit)
        return self._spans[unit][at]

    def chosen(self, slicer: PeriodSlicer) -> tuple[int, int] | None:
        """The first and last that a slicer lets through; None where it narrows nothing."""
        if not slicer.narrows or not self.months:
            return None
        keys = [month.key for month in self.months]
        low, high = slicer.first or keys[0], (slicer.last or keys[-1]) + "~"
        inside = [at for at, key in enumerate(keys) if low[: len(key)] <= key <= high]
        return (inside[0], inside[-1]) if inside else None

    def same_window(self, months: list[Unit]) -> tuple[int, int] | None:
        """The stretch in view, in other units."""
        view = self.in_view
        first, last = self.months[view[0]].key[:7], self.months[view[-1]].key[:7]
        inside = [at for at, month in enumerate(months) if first <= month.key[:7] <= last]
        return (inside[0], len(inside)) if inside and len(inside) < len(months) else None

    def window_around(self, at: int, count: int) -> tuple[int, int] | None:
        """So many units in view, around one that keeps its place as near as can be."""
        if count >= len(self.months):
            return None
        share = (at - self.first) / max(self.count, 1)
        return min(max(round(at - share * count), 0), len(self.months) - count), count


def row_at(y: float) -> int:
    """Which row of the strip: 1 a month or day, 3 a quarter or week, 12 a year or month."""
    return 1 if y <= LETTERS else 3 if y <= QUARTERS else 12
