"""Order statistics: percentiles of every figure, from the rows."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeAlias

from summula.core.arrays import np
from summula.core.engine.combinations import counted
from summula.core.engine.ordered import OrderedCells, block_counts, ordered_cells, picking
from summula.core.engine.runs import Runs, WholeUnits, whole_units
from summula.core.memory import Remembered

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.cells import Cells
    from summula.core.engine.fold import Block, Fold, Groups
    from summula.core.phrases.phrase import Aggregate, Condition
    from summula.core.tables.column import NumberColumn


def percentile(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    """Linear interpolation between order statistics: at (n-1)·p/100 (numpy's default method)."""
    assert aggregate.field is not None
    column = fold.cells.table.number(aggregate.field)
    shape = (len(fold.rows.starts[level[0]]), len(fold.columns.starts[level[1]]))
    spread = whole_units(fold.cells, aggregate.field)
    ordered = None
    if fold.mask is not None or aggregate.where:
        order = None if spread is not None else value_order(fold.cells, aggregate.field)
        ordered = ordered_cells(fold, aggregate.field, order)
    if ordered is not None:
        pick, count = _picked_from_blocks(fold, aggregate, level, ordered)
    elif spread is not None and spread.span * fold.rows.nodes * fold.columns.nodes < _MOST_KEYS:
        pick, count = _picked_from_runs(fold, aggregate, level, column, spread)
    else:
        groups, _ = fold.row_groups(aggregate, level)
        order = value_order(fold.cells, aggregate.field)
        pick, count = _picked_by_order(groups, column, shape[0] * shape[1], order)
    if not count.any():
        return np.full(shape, np.nan)
    share = 0.5 if aggregate.function == "median" else (aggregate.percentile or 0.0) / 100
    place = np.maximum(count - 1, 0) * share
    lower = np.floor(place).astype(np.int64)
    low = pick(lower)
    high = pick(np.minimum(lower + 1, np.maximum(count - 1, 0)))
    figures = low + (high - low) * (place - lower)
    return np.where(count > 0, figures / column.unit, np.nan).reshape(shape)


def _picked_from_blocks(
    fold: Fold, aggregate: Aggregate, level: tuple[int, int], ordered: OrderedCells
) -> tuple[_Pick, NDArray[np.int64]]:
    """Under a mask that a click may change: by what is known of all cells' values."""
    counts = block_counts(fold, aggregate, ordered)[level]
    counts = counts.reshape(-1, counts.shape[2])
    owners, _ = fold.cell_groups(aggregate, level)
    return picking(owners, counts, ordered), counts.sum(axis=1)


_MOST_KEYS = 2**62
_Pick: TypeAlias = "Callable[[NDArray[np.int64]], Block]"
"""For each group the value at a place among its ascending ones; any value where a group has none."""


_WORTH = 64  # rows a run, from which on runs are searched rather than rows sorted anew


_RUNS: Remembered[tuple[str | None, tuple[Condition, ...]], Runs] = Remembered("runs")
ORDERS: Remembered[str, NDArray[np.intp]] = Remembered("orders", most=16, of_columns=True)


def _picked_from_runs(
    fold: Fold, aggregate: Aggregate, level: tuple[int, int], column: NumberColumn, whole: WholeUnits
) -> tuple[_Pick, NDArray[np.int64]]:
    """The finest figures' values are sorted once; coarser figures find theirs among the runs that they cover."""
    finest = (fold.rows.depth, fold.columns.depth)
    size = fold.rows.nodes * fold.columns.nodes
    runs = _RUNS.of(
        fold.memo,
        (aggregate.field, aggregate.where),
        lambda: Runs.of(fold.row_groups(aggregate, finest)[0], column, size, whole),
    )
    if level != finest and size * _WORTH <= len(runs.keys):
        rows, columns = fold.rows.node_of_finest(level[0]), fold.columns.node_of_finest(level[1])
        owners = (rows[:, None] * len(fold.columns.starts[level[1]]) + columns).ravel()
        return _searched(runs, owners, len(fold.rows.starts[level[0]]) * len(fold.columns.starts[level[1]]), whole)
    if level != finest:
        groups, shape = fold.row_groups(aggregate, level)
        size = shape[0] * shape[1]
        runs = Runs.of(groups, column, size, whole)
    base = np.arange(size, dtype=np.int64) * whole.span
    found = runs

    def pick(place: NDArray[np.int64]) -> Block:
        values: Block = found.keys[np.minimum(found.start + place, len(found.keys) - 1)] - base + whole.low
        return values

    return pick, runs.count


def _searched(runs: Runs, owners: NDArray[np.intp], size: int, whole: WholeUnits) -> tuple[_Pick, NDArray[np.int64]]:
    """Order statistics of groups that each own several runs, by halving the range of values: how many of a group's
    values lie at or below one is told by a search in each of its runs."""
    base = np.arange(len(runs.count), dtype=np.int64) * whole.span
    count = np.bincount(owners, weights=runs.count, minlength=size).astype(np.int64)

    def pick(place: NDArray[np.int64]) -> Block:
        low, high = np.zeros(size, dtype=np.int64), np.full(size, whole.span - 1, dtype=np.int64)
        while np.any(low < high):
            middle = (low + high) // 2
            wanted = (base + middle[owners]).astype(runs.keys.dtype)
            below = np.searchsorted(runs.keys, wanted, side="right") - runs.start
            enough = np.bincount(owners, weights=below, minlength=size) > place
            low, high = np.where(enough, low, np.minimum(middle + 1, high)), np.where(enough, middle, high)
        return low.astype(np.float64) + whole.low

    return pick, count


def _picked_by_order(
    groups: Groups, column: NumberColumn, size: int, order: NDArray[np.intp]
) -> tuple[_Pick, NDArray[np.int64]]:
    """The same for any numbers: by the order of all values, remembered from figure to figure."""
    grouped = groups[order]
    inside = grouped >= 0
    if not inside.all():
        order, grouped = order[inside], grouped[inside]
    # A stable sort by group leaves each group's values ascending; 16-bit keys sort by radix.
    narrow = grouped.astype(np.uint16) if size <= 0xFFFF else grouped
    values = column.values[order[np.argsort(narrow, kind="stable")]]
    count = counted(narrow, size).astype(np.int64)
    start = np.cumsum(count) - count

    def pick(place: NDArray[np.int64]) -> Block:
        found: Block = values[np.minimum(start + place, len(values) - 1)]
        return found

    return pick, count


def value_order(cells: Cells, name: str) -> NDArray[np.intp]:
    """Row numbers by ascending value of a number field, blanks left out; remembered by the table."""
    return ORDERS.of(cells.table.memo, name, lambda: _value_order(cells.table.number(name)))


def _value_order(column: NumberColumn) -> NDArray[np.intp]:
    found = np.argsort(column.values, kind="stable")
    return found if column.blank is None else found[~column.blank[found]]
