"""Play: a board stepped through the periods of a date, one at a time or all up to it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Literal

import msgspec

from summula.core.memory import Remembered
from summula.core.slicing.slicer import PeriodSlicer
from summula.core.slicing.slicerkinds import period_label
from summula.core.tables.column import DateColumn, date_of

if TYPE_CHECKING:
    from summula.core.boards.board import Board
    from summula.core.tables.table import Table

PlayPart = Literal["month", "quarter", "year"]
PARTS: tuple[PlayPart, ...] = ("month", "quarter", "year")
_MONTHS_HELD: Remembered[str, tuple[str, str] | None] = Remembered("months held")
_MONTHS: dict[PlayPart, int] = {"month": 1, "quarter": 3, "year": 12}


class Play(msgspec.Struct, frozen=True):
    """It stands at the period that begins with the month `at` ("2024-04"); of the `months` from the first to the last
    that the table knows. `up_to`: all before it are in play as well. `trail`: points show where they stood before."""

    table: str
    field: str
    first: str
    last: str
    at: str
    part: PlayPart = "month"
    up_to: bool = False
    trail: bool = False

    @property
    def steps(self) -> tuple[str, ...]:
        """The months that its periods begin with."""
        size = _MONTHS[self.part]
        begin, end = _number(self.first), _number(self.last)
        return tuple(_key(at) for at in range(begin - begin % size, end + 1, size))

    def step(self, by: int) -> Play:
        """So many periods on; after the last comes the first."""
        steps = self.steps
        return msgspec.structs.replace(self, at=steps[(self.index + by) % len(steps)])

    @property
    def still(self) -> Play:
        """What does not change from step to step."""
        return msgspec.structs.replace(self, at=self.first, trail=False)

    @property
    def index(self) -> int:
        steps = self.steps
        return max((n for n, key in enumerate(steps) if key <= self.at), default=0)

    @property
    def slicer(self) -> PeriodSlicer:
        """What it lets through."""
        begin = self.steps[self.index]
        last = _key(_number(begin) + _MONTHS[self.part] - 1)
        return PeriodSlicer("play", self.table, self.field, None if self.up_to else begin, last)

    @property
    def words(self) -> str:
        """The period it stands at: "Apr 2024", "Q2 2024", "2024"."""
        begin = self.steps[self.index]
        year, month = begin.split("-")
        said = {"month": period_label(begin), "quarter": f"Q{(int(month) + 2) // 3} {year}", "year": year}[self.part]
        return f"up to {said}" if self.up_to else said


def playable(board: Board, tables: Mapping[str, Table], part: PlayPart = "month") -> Play | None:
    """What a board can be played through: the dates of its ruler, else the first there are; None where there are
    none."""
    ruler = next((each for each in board.slicers if isinstance(each, PeriodSlicer)), None)
    found = [(key, f.name) for key, table in tables.items() for f in table.fields if f.kind == "date"]
    if ruler is not None and ruler.table in tables and tables[ruler.table].has(ruler.field):
        found = [(ruler.table, ruler.field)]
    if not found:
        return None
    table_id, field = found[0]
    months = months_of(tables[table_id], field)
    return None if months is None else Play(table_id, field, *months, months[0], part)


def months_of(table: Table, field: str) -> tuple[str, str] | None:
    """The first and the last month of a date field; None where it has no dates."""
    return _MONTHS_HELD.of(table.memo, field, lambda: _months_held(table, field))


def _months_held(table: Table, field: str) -> tuple[str, str] | None:
    column = table.column(field)
    if not isinstance(column, DateColumn):
        return None
    days = column.days if column.blank is None else column.days[~column.blank]
    if not len(days):
        return None
    return date_of(int(days.min())).isoformat()[:7], date_of(int(days.max())).isoformat()[:7]


def _number(month: str) -> int:
    return int(month[:4]) * 12 + int(month[5:7]) - 1


def _key(number: int) -> str:
    return f"{number // 12:04d}-{number % 12 + 1:02d}"
