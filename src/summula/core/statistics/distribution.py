"""The shape of a field at a glance: a small distribution, blanks, distinct, middle and extremes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import msgspec

from summula.core.arrays import np
from summula.core.memory import Remembered
from summula.core.tables.column import (
    CodedColumn,
    Column,
    DateColumn,
    Mask,
    NumberColumn,
    date_of,
    different_values,
    tallied,
)
from summula.core.tables.table import Table, blanks, distinct

if TYPE_CHECKING:
    from numpy.typing import NDArray

_BARS = 12
_MOST_MEMBERS = 8
_DENSE = 1_000_000  # days
_COUNTED = 1 << 22  # units between the least and the most
_WORTH_THREADS = 200_000  # rows


class Distribution(msgspec.Struct, frozen=True):
    """`heights` are rows a bar: the commonest members, or equal ranges of numbers or time.

    The outermost hundredth of the numbers on either side shares the outer bars, so that one absurd value
    does not flatten all others. `edges` are the limits of the bars of numbers and dates. `whole` says whether all
    numbers are.
    """

    heights: Sequence[int]
    labels: Sequence[str]
    rows: int
    blank: int
    distinct: int
    least: object = None
    most: object = None
    mean: float | None = None
    median: float | None = None
    edges: Sequence[float] = ()
    whole: bool = True


_DISTRIBUTIONS: Remembered[str, Distribution] = Remembered("distribution", most=4_000, of_columns=True)


def distribution(table: Table, name: str) -> Distribution:
    """The distribution of a field; remembered by the table."""
    return _DISTRIBUTIONS.of(table.memo, name, lambda: _of(table.column(name)))


def _of(column: Column) -> Distribution:
    if isinstance(column, CodedColumn):
        return _of_members(column)
    return _of_numbers(column) if isinstance(column, NumberColumn) else _of_dates(column)


def describe(table: Table) -> None:
    """Work out the distribution of every field now: in a worker, before a page asks for them all."""
    names = [field.name for field in table.fields]
    if table.rows < _WORTH_THREADS:
        for name in names:
            distribution(table, name)
    else:
        from concurrent.futures import ThreadPoolExecutor  # only large tables need it

        # What takes longest first, so that nobody waits for it at the end.
        names.sort(key=lambda name: not isinstance(table.column(name), NumberColumn))
        with ThreadPoolExecutor(2) as threads:
            list(threads.map(lambda name: distribution(table, name), names))


def _of_members(column: CodedColumn) -> Distribution:
    tally = tallied(column.codes, len(column.members) + 1)
    counts, blank = tally[:-1], int(tally[-1])
    order = np.argsort(-counts, kind="stable")[:_MOST_MEMBERS]
    return Distribution(
        tuple(int(counts[at]) for at in order),
        tuple(column.members[at] for at in order),
        column.rows,
        blank,
        len(column.members),
        column.members[0] if column.members else None,
        column.members[-1] if column.members else None,
    )


def _of_numbers(column: NumberColumn) -> Distribution:
    units = column.values if column.blank is None else column.values[~column.blank]
    rows = len(units)
    if rows == 0:
        return Distribution((), (), column.rows, column.rows, 0)
    values, ends = _ranked(units)
    values = values / column.unit
    low, high = _ranks(values, ends, int(rows * 0.01), int((rows - 1) * 0.99))
    edges = np.linspace(low, high if high > low else low + 1, _BARS + 1)
    below = np.concatenate([[0], ends])[np.searchsorted(values, edges[1:-1])]
    heights = np.diff(np.concatenate([[0], below, [rows]]))
    return Distribution(
        tuple(int(h) for h in heights),
        tuple(f"{edges[at]:,.4g} to {edges[at + 1]:,.4g}" for at in range(_BARS)),
        column.rows,
        blanks(column),
        len(values),
        float(values[0]),
        float(values[-1]),
        float(units.mean()) / column.unit,
        float(_ranks(values, ends, (rows - 1) // 2, rows // 2).mean()),
        tuple(float(edge) for edge in edges),
        bool(np.array_equal(values, np.rint(values))),
    )


def _ranked(units: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """The different values in order, and how many rows hold each of them or a smaller one.

    Whole units that lie close together are counted rather than sorted; others of 32 bits take half the time to sort.
    """
    least, most = units.min(), units.max()
    short = units.astype(np.int32) if max(most, -least) < 2**31 else None
    if short is None or not np.array_equal(short, units):
        return _told_apart(np.sort(units))
    if most - least > min(_COUNTED, 4 * len(units)):
        short.sort()
        return _told_apart(short)
    near = short - np.int32(least)
    tally = tallied(near.astype(np.uint8) if most - least < 256 else near, int(most - least) + 1)
    held = np.flatnonzero(tally)
    return held + least, np.cumsum(tally[held])


def _told_apart(ordered: NDArray[Any]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    last = np.append(np.flatnonzero(ordered[1:] != ordered[:-1]), len(ordered) - 1)
    return ordered[last].astype(np.float64), last + 1


def _ranks(values: NDArray[np.float64], ends: NDArray[np.int64], *rows: int) -> NDArray[np.float64]:
    """The values of the rows that stand at these places in order."""
    found: NDArray[np.float64] = values[np.searchsorted(ends, rows, side="right")]
    return found


def _of_dates(column: DateColumn) -> Distribution:
    days = column.days if column.blank is None else column.days[~column.blank]
    if len(days) == 0:
        return Distribution((), (), column.rows, column.rows, 0)
    low, high = int(days.min()), int(days.max())
    bars = 36
    edges = np.linspace(low, high + 1, bars + 1)
    if high - low < _DENSE:  # counted once a day, not once a row
        a_day = tallied(days - np.int32(low), high - low + 1)
        heights, different = (
            np.histogram(np.arange(low, high + 1), edges, weights=a_day)[0],
            int(np.count_nonzero(a_day)),
        )
    else:
        heights, different = np.histogram(days, edges)[0], len(different_values(days))
    labels = tuple(f"{date_of(int(edges[at]))} to {date_of(int(edges[at + 1]) - 1)}" for at in range(bars))
    return Distribution(
        tuple(int(h) for h in heights),
        labels,
        column.rows,
        blanks(column),
        different if column.seconds is None else distinct(column),
        date_of(low),
        date_of(high),
        edges=tuple(float(edge) for edge in edges),
    )


def rows_of_bar(table: Table, name: str, bar: int) -> Mask:
    """The rows that a bar of the field's distribution stands for."""
    shape, column = distribution(table, name), table.column(name)
    if isinstance(column, CodedColumn):
        return np.asarray(column.codes == column.members.index(shape.labels[bar]))
    low, high = shape.edges[bar], shape.edges[bar + 1]
    if isinstance(column, DateColumn):
        inside = (column.days >= low) & (column.days < high)
    else:
        values = column.values / column.unit
        inside = (values >= low) | (bar == 0)
        inside &= (values < high) | (bar == len(shape.heights) - 1)
    return inside if column.blank is None else inside & ~column.blank
