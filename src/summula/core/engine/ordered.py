"""Cells in the order of a number field's values: a mask that changes by a click looks its order statistics up in
counts a block of values, and at a few blocks' rows, instead of sorting rows anew."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.engine.runs import whole_units
from summula.core.memory import Remembered
from summula.core.tables.column import smallest_code_type, stretches, take_at

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.cells import Cells
    from summula.core.engine.fold import Fold, LevelPair
    from summula.core.phrases.phrase import Aggregate, Condition

_MOST_COUNTS = 1 << 22  # blocks times cells
_LEAST_BLOCK, _MOST_BLOCKS = 256, 4096
_MOST_KEYS = 1 << 62


class OrderedCells(msgspec.Struct, frozen=True, eq=False):
    """A field's values that are not blank, ascending: `cell` tells each one's cell (n); `counts` (cells, blocks) how
    many of each cell lie in each block of `block` values; `values` are the distinct ones, each up to its place in
    `ends`."""

    cell: NDArray[np.unsignedinteger]
    counts: NDArray[np.integer]
    block: int
    values: NDArray[np.float64]
    ends: NDArray[np.int64]

    def values_at(self, places: NDArray[np.int64]) -> NDArray[np.float64]:
        """The values at places in their order, in the column's own units."""
        found: NDArray[np.float64] = self.values[np.searchsorted(self.ends, places, side="right")]
        return found


_ORDERED: Remembered[str, OrderedCells | None] = Remembered("ordered cells", most=4)
_COUNTS: Remembered[tuple[str | None, tuple[Condition, ...]], dict[LevelPair, NDArray[np.int64]]] = Remembered(
    "counts of blocks"
)


def ordered_cells(fold: Fold, name: str, order: NDArray[np.intp] | None = None) -> OrderedCells | None:
    """The cells of a fold in a field's order; None where that would not pay: rows are cells of their
    own, or there are too many figures or cells. `order`: row numbers by
    ascending value, blanks left out, where the values are not whole units. Remembered by the cells."""
    cells, figures = fold.cells, fold.rows.nodes * fold.columns.nodes
    blocks = _blocks(cells)
    if not cells.folded or not figures or not blocks or 2 * figures > max(blocks, 16):
        return None
    return _ORDERED.of(cells.memo, name, lambda: _ordered(cells, name, blocks, order))


def _blocks(cells: Cells) -> int:
    return min(_MOST_BLOCKS, _MOST_COUNTS // max(cells.size, 1), cells.table.rows // _LEAST_BLOCK + 1)


def _ordered(cells: Cells, name: str, blocks: int, order: NDArray[np.intp] | None) -> OrderedCells | None:
    column, of_row = cells.table.number(name), cells.cell_of_row
    if of_row is None:
        return None
    kind = smallest_code_type(cells.size)
    if order is None:
        whole = whole_units(cells, name)
        if whole is None or whole.span * cells.size >= _MOST_KEYS:
            return None
        units = whole.units.astype(np.int64) * cells.size  # the unit and the cell make one whole number
        units += of_row
        keys = units if column.blank is None else units[~column.blank]
        keys.sort()
        cell = np.empty(len(keys), dtype=kind)
        for part in stretches(len(keys)):
            cell[part] = keys[part] % cells.size
            keys[part] //= cells.size
        ends = np.append(np.flatnonzero(keys[1:] != keys[:-1]) + 1, len(keys)) if len(keys) else np.zeros(0, np.int64)
        values = keys[ends - 1] + whole.low
    else:
        cell = take_at(of_row, order).astype(kind, copy=False)
        ascending = column.values[order]
        ends = np.append(np.flatnonzero(ascending[1:] != ascending[:-1]) + 1, len(order)) if len(order) else order
        values = ascending[ends - 1]
    block = max(-(-len(cell) // blocks), 1)
    # In the fewest bits that hold all values of a block: a click sums the counts of thousands of cells.
    counts = np.zeros((cells.size, blocks), dtype=np.uint16 if block < 1 << 16 else np.int32)
    for at in range(-(-len(cell) // block)):
        counts[:, at] = np.bincount(cell[at * block : (at + 1) * block], minlength=cells.size)
    return OrderedCells(cell, counts, block, values, ends.astype(np.int64))


def block_counts(fold: Fold, aggregate: Aggregate, ordered: OrderedCells) -> dict[LevelPair, NDArray[np.int64]]:
    """How many values of each figure of every level pair lie in each block: (row nodes, column nodes, blocks)."""
    return _COUNTS.of(
        fold.memo, (aggregate.field, aggregate.where), lambda: fold.rolled(np.add, _finest(fold, aggregate, ordered))
    )


def _finest(fold: Fold, aggregate: Aggregate, ordered: OrderedCells) -> NDArray[np.int64]:
    owners, shape = fold.cell_groups(aggregate, (fold.rows.depth, fold.columns.depth))
    chosen = np.flatnonzero(owners >= 0)
    chosen = chosen[np.argsort(owners[chosen], kind="stable")]
    found = np.zeros((shape[0] * shape[1], ordered.counts.shape[1]), dtype=np.int64)
    if len(chosen):
        groups, starts = np.unique(owners[chosen], return_index=True)
        for group, start, end in zip(groups.tolist(), starts.tolist(), [*starts[1:].tolist(), None], strict=True):
            # A block's counts hold all of its values together; figure by figure is five times as quick as at once.
            found[group] = np.add.reduce(ordered.counts[chosen[start:end]], axis=0, dtype=ordered.counts.dtype)
    return found.reshape(*shape, -1)


def picking(
    owners: NDArray[np.signedinteger], counts: NDArray[np.int64], ordered: OrderedCells
) -> Callable[[NDArray[np.int64]], NDArray[np.float64]]:
    """From a place for each figure (n) to the value there among its ascending ones; any value where it has none.
    `owners` tells each cell's figure, or -1; `counts` (n, blocks) how many of its values each block holds."""
    upto = counts.cumsum(axis=1)
    figures, holds = np.arange(len(counts)), upto[:, -1] > 0

    @cache  # a figure's two middle values mostly lie in one block
    def owners_in(block: int) -> NDArray[np.signedinteger]:
        start = block * ordered.block
        return owners.take(ordered.cell[start : start + ordered.block])

    @cache
    def places_in(block: int, figure: int) -> NDArray[np.intp]:
        return np.flatnonzero(owners_in(block) == figure)

    def pick(places: NDArray[np.int64]) -> NDArray[np.float64]:
        block = np.argmax(upto > places[:, None], axis=1)
        within = places - np.where(block > 0, upto[figures, block - 1], 0)
        at = np.zeros(len(places), dtype=np.int64)
        for figure in np.flatnonzero(holds).tolist():
            own = int(block[figure])
            at[figure] = own * ordered.block + places_in(own, figure)[within[figure]]
        return ordered.values_at(at) if len(ordered.values) else np.zeros(len(places))

    return pick
