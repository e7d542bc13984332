"""Periods that the rows fill only in part: the first and the last of a summary over time."""

from __future__ import annotations

from datetime import date
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

from summula.core.arrays import np
from summula.core.fields import calendar
from summula.core.fields.heading import DatePart, Heading, Member, encode_heading
from summula.core.fields.labels import MONTHS, label_of
from summula.core.memory import Remembered
from summula.core.tables.column import date_of

if TYPE_CHECKING:
    from summula.core.engine.axis import Axis
    from summula.core.engine.grid import Grid
    from summula.core.tables.table import Table

_EPOCH = date(1970, 1, 1).toordinal()
_LACKING = 0.03  # of a period's days: one that lacks fewer is as good as full


class PartPeriod(NamedTuple):
    """A period shown whose rows begin after its first day, or stop before its last. It holds `held` of its `days`."""

    heading: Heading
    member: Member
    edge: date
    held: int
    days: int

    @property
    def label(self) -> str:
        return label_of(self.heading, self.member)

    @property
    def edge_words(self) -> str:
        return f"{self.edge.day} {MONTHS[self.edge.month - 1]}"


def first_part_way(table: Table, grid: Grid) -> PartPeriod | None:
    """The first period shown, where the table's rows begin within it and other periods are full."""
    return _part_way(table, grid, last=False)


def last_part_way(table: Table, grid: Grid) -> PartPeriod | None:
    """The last period shown, where the table's rows stop within it."""
    return _part_way(table, grid, last=True)


def _part_way(table: Table, grid: Grid, *, last: bool) -> PartPeriod | None:
    for axis in (grid.rows, grid.columns):
        for depth, heading in enumerate(axis.headings):
            if not heading.carries_year:
                continue
            assert heading.part is not None
            edge, shown = _edge(table, heading.field, last=last), _shown(axis, depth)
            if edge is None or not shown or (not last and len(shown) < 2) or same_days(grid, heading.field):
                return None
            period = calendar.member_on(edge, heading.part, table.year_begins)
            if period != (shown[-1] if last else shown[0]):
                return None
            first, days = _days_around(edge, heading.part, table.year_begins)
            held = edge - first + 1 if last else first + days - edge
            if days - held < max(1, _LACKING * days):
                return None
            return PartPeriod(heading, period, date_of(edge), held, days)
    return None


@lru_cache(maxsize=64)
def _days_around(day: int, part: DatePart, begins: int) -> tuple[int, int]:
    """The first day of the period a day falls in, and how many days it has."""
    near = np.arange(day - 370, day + 371)
    numbers = calendar.part_numbers(near, part, begins)
    days = near[numbers == numbers[370]]
    return int(days[0]), len(days)


def same_days(grid: Grid, field: str) -> bool:
    """Whether the phrase compares the same days of each period already."""
    parts = ("month-day", "quarter-day", "day")
    return any(each.heading.field == field and each.heading.part in parts for each in grid.phrase.where)


_EDGES: Remembered[str, tuple[int, int] | None] = Remembered("first and last days")


def _edge(table: Table, field: str, *, last: bool) -> int | None:
    """The first or last day (since 1970-01-01) that the table's rows cover; None without any. Where all dates are the
    same day of their months, each stands for its month."""
    edges = _EDGES.of(table.memo, field, lambda: _edges(table, field))
    return None if edges is None else edges[last]


def _edges(table: Table, field: str) -> tuple[int, int] | None:
    days = np.array(
        [each.toordinal() - _EPOCH for each in encode_heading(table, Heading(field)).members],  # type: ignore[union-attr]
        dtype=np.int64,
    )
    if len(days) > 1 and np.ptp(calendar.part_numbers(days, "day")) == 0:
        months = days.astype("datetime64[D]").astype("datetime64[M]")
        ends = [(months + at).astype("datetime64[D]").astype(np.int64) for at in (0, 1)]
        return int(ends[0].min()), int(ends[1].max()) - 1
    return (int(days.min()), int(days.max())) if len(days) else None


def _shown(axis: Axis, depth: int) -> list[Member]:
    """The members of a heading that are shown, earliest first."""
    codes = sorted(set(axis.levels[axis.depth].codes[:, depth].tolist()))
    return [axis.members[depth][code] for code in codes if axis.members[depth][code] is not None]
