"""What a key figure shows: its value in play, its course by month, its change on a year earlier."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.charts.keyfigure import KeyFigure
from summula.core.engine.answer import answer
from summula.core.fields.heading import Heading
from summula.core.fields.labels import label_of
from summula.core.fields.periods import days_of
from summula.core.memory import Remembered
from summula.core.phrases.additivity import adds_up
from summula.core.phrases.phrase import Condition, Measure, Phrase
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicer import Echo, Narrowing, PeriodSlicer
from summula.core.tables.column import DateColumn, Mask, date_of, take_at

if TYPE_CHECKING:
    from summula.core.boards.board import KeyFigurePanel
    from summula.core.engine.cells import Cells, Dimension
    from summula.core.engine.grid import Grid
    from summula.core.tables.table import Table


class PartWay(msgspec.Struct, frozen=True):
    """A date field's last month, and the day it stops on when that is before the month's end."""

    month: str  # "2025-11"
    day: int | None  # None: the month is full


_PART_WAY: Remembered[str, PartWay | None] = Remembered("part way", of_columns=True)
_UNSLICED: Remembered[Measure, float] = Remembered("before slicing")


def part_way(table: Table, field: str) -> PartWay | None:
    """Where the dates of a field stop; None when it has none. Remembered by the table."""
    return _PART_WAY.of(table.memo, field, lambda: _part_way(table, field))


def _part_way(table: Table, field: str) -> PartWay | None:
    column = table.column(field)
    if not isinstance(column, DateColumn):
        return None
    days = column.days if column.blank is None else column.days[~column.blank]
    if len(days) == 0:
        return None
    last = int(days.max())
    month = date_of(last).isoformat()[:7]
    span = days_of(month)
    assert span is not None
    return PartWay(month, None if last == span.last else date_of(last).day)


def key_figure_dimensions(table: Table, dated: str | None) -> list[Dimension]:
    """What a key figure needs its rows folded by, beside the slicers."""
    if dated is None:
        return []
    needed: list[Dimension] = [Heading(dated, "year-month")]
    stop = part_way(table, dated)
    if stop is not None and stop.day is not None:
        needed.append(_same_days(dated, stop.day))
    return needed


def _same_days(dated: str, day: int) -> Condition:
    return Condition(Heading(dated, "day"), "is at most", (float(day),))


def key_figure(panel: KeyFigurePanel, cells: Cells, slicers: list[Narrowing]) -> tuple[KeyFigure, Grid]:
    """The panel's figure under its slicers, and the grid that its course was taken from. Under an echo it is the
    part's, beside the whole's."""
    measure, dated = panel.measure, panel.dated
    mask = joined_mask(slicers, cells)
    table = cells.table
    month = Heading(dated or "", "year-month")
    by = (month,) if dated is not None else ()
    grid = answer(Phrase((measure,), by=by), table, cells, mask)
    value = grid.bottom_line()
    kept = [each for each in slicers if not isinstance(each, Echo)]
    whole = math.nan
    if len(kept) < len(slicers):
        whole = answer(Phrase((measure,)), table, cells, joined_mask(kept, cells)).bottom_line()
    before = _unsliced(measure, cells) if mask is not None else value
    change, against, sparkline = math.nan, "", []
    if dated is not None:
        block = grid.values[1, 0][0, :, 0]
        months = [grid.rows.path(1, node)[0] for node in range(len(block))]
        sparkline = [
            ((month, m), label_of(month, m), float(v)) for m, v in zip(months, block, strict=True) if m is not None
        ]
        change, against = _change(measure, dated, cells, slicers)
    figure = KeyFigure(
        panel.title,
        value,
        grid.styles[0],
        change,
        against,
        tuple(sparkline),
        before,
        panel.rising,
        whole,
        adds_up(measure),
    )
    return figure, grid


def _unsliced(measure: Measure, cells: Cells) -> float:
    """The figure before any slicing; remembered with the cells."""
    return _UNSLICED.of(cells.memo, measure, lambda: answer(Phrase((measure,)), cells.table, cells).bottom_line())


def _change(measure: Measure, dated: str, cells: Cells, slicers: list[Narrowing]) -> tuple[float, str]:
    """The latest year in play against the same months and days a year earlier.

    The period ruler says which months are in play; every other slicer narrows both years alike.
    """
    stop = part_way(cells.table, dated)
    if stop is None:
        return math.nan, ""
    months = cells.encoded(Heading(dated, "year-month"))
    own = [s for s in slicers if isinstance(s, PeriodSlicer) and s.field == dated and s.narrows]
    if any(s.grain == "day" for s in own):  # some days of a month have no whole months to be set against
        return math.nan, ""
    last = min([stop.month, *(s.last for s in own if s.last)])
    year = last[:4]
    first = max([f"{year}-01", *(s.first for s in own if s.first)])
    earlier = [f"{int(month[:4]) - 1:04d}{month[4:]}" for month in (first, last)]
    known = [str(member) for member in months.members]
    if not known or earlier[0] < known[0]:
        return math.nan, ""
    others = [s for s in slicers if s not in own]
    base = joined_mask(others, cells)
    until_day = last == stop.month and stop.day is not None

    def total(low: str, high: str) -> float:
        inside = np.array([*[low <= month <= high for month in known], False], dtype=np.bool_)
        mask: Mask = take_at(inside, months.codes)
        if until_day and stop.day is not None:
            last_month = take_at(np.array([*[month == high for month in known], False]), months.codes)
            mask &= ~last_month | cells.passes(_same_days(dated, stop.day))
        if base is not None:
            mask &= base
        return answer(Phrase((measure,)), cells.table, cells, mask).bottom_line()

    now, then = total(first, last), total(earlier[0], earlier[1])
    if math.isnan(now) or math.isnan(then) or then == 0:
        return math.nan, ""
    if until_day:
        against = f"the same days of {int(year) - 1}"
    else:
        against = str(int(year) - 1) if (first[5:], last[5:]) == ("01", "12") else f"the same months of {int(year) - 1}"
    return (now - then) / abs(then), against
