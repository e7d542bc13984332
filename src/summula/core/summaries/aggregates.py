"""The aggregates: what each figure is, worked out from additive parts or from the rows themselves.

To add an aggregate: its word in phrase.py and words.py, and its function in `_ADDITIVE` or `_BY_ROW`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from summula.core.fields.heading import Heading, encode_heading
from summula.core.refusal import Refusal
from summula.core.summaries.axis import RawAxis
from summula.core.summaries.cells import Cells, Part, counted
from summula.core.summaries.phrase import Aggregate
from summula.core.tables.column import CodedColumn, DateColumn, Mask, NumberColumn

Block = NDArray[np.float64]
_MOST_FIGURES = 20_000_000


@dataclass(frozen=True, eq=False)
class Fold:
    """Cells under a mask, laid on two axes. Blocks are (row nodes, column nodes) of a level pair."""

    cells: Cells
    mask: Mask | None
    rows: RawAxis
    columns: RawAxis
    memo: dict[Any, Any] = field(default_factory=dict, repr=False)

    def __post_init__(self) -> None:
        if self.rows.nodes * self.columns.nodes > _MOST_FIGURES:
            raise Refusal(
                f"this would lay out {self.rows.nodes:,} by {self.columns.nodes:,} figures",
                "take a heading away, keep fewer members, or use bands",
            )

    def figures(self, aggregate: Aggregate, level: tuple[int, int]) -> Block:
        """The aggregate at a level pair, in true units; NaN where blank."""
        key = (aggregate, level)
        found: Block | None = self.memo.get(key)
        if found is None:
            if aggregate.function in _ADDITIVE:
                found = _ADDITIVE[aggregate.function](self, aggregate, level)
            else:
                found = _BY_ROW[aggregate.function](self, aggregate, level)
            self.memo[key] = found
        return found

    def row_counts(self, level: tuple[int, int]) -> Block:
        return self.figures(Aggregate("rows"), level)

    def _selected(self, aggregate: Aggregate) -> Mask | None:
        mask = self.mask
        for condition in aggregate.where:
            passes = self.cells.passes(condition)
            mask = passes if mask is None else mask & passes
        return mask

    def _places(self, aggregate: Aggregate) -> tuple[NDArray[np.intp], NDArray[np.intp] | None]:
        """The finest figure each selected cell goes to, and which cells those are (None: all)."""
        key = ("places", aggregate.where)
        found = self.memo.get(key)
        if found is None:
            flat = flat_places(self.cells, self.rows, self.columns)
            mask = self._selected(aggregate)
            chosen = None if mask is None else chosen_cells(self.cells, mask)
            found = (flat if chosen is None else flat[chosen], chosen)
            self.memo[key] = found
        return cast(tuple[NDArray[np.intp], "NDArray[np.intp] | None"], found)

    def added(self, aggregate: Aggregate, part: Part | None, level: tuple[int, int]) -> Block:
        """A part summed up to a level pair; `part` None adds up the rows."""
        key = ("part", aggregate.field if part else None, part, aggregate.where)
        finest: Block | None = self.memo.get(key)
        shape = (self.rows.nodes, self.columns.nodes)
        if finest is None:
            places, chosen = self._places(aggregate)
            weights = self._weights(aggregate, part)
            if weights is not None and chosen is not None:
                weights = chosen_weights(self.cells, chosen, weights)
            size = shape[0] * shape[1]
            finest = counted(places, size, weights).reshape(shape)
            self.memo[key] = finest
        return self._rolled(np.add, finest, level)

    def _weights(self, aggregate: Aggregate, part: Part | None) -> Block | None:
        if part is None:
            return self.cells.rows
        assert aggregate.field is not None
        if part == "count" and self.cells.table.column(aggregate.field).blank is None:
            return self.cells.rows
        return self.cells.part(aggregate.field, part)

    def extreme(self, aggregate: Aggregate, part: Part, level: tuple[int, int]) -> Block:
        """The least ("min", "first") or greatest ("max", "last") of a part up to a level pair."""
        assert aggregate.field is not None
        least = part in ("min", "first")
        operation = np.minimum if least else np.maximum
        places, chosen = self._places(aggregate)
        weights = self.cells.part(aggregate.field, part)
        finest = np.full(self.rows.nodes * self.columns.nodes, np.inf if least else -np.inf)
        operation.at(finest, places, weights if chosen is None else weights[chosen])
        block = self._rolled(operation, finest.reshape(self.rows.nodes, self.columns.nodes), level)
        return np.where(np.isinf(block), np.nan, block)

    def _rolled(self, operation: np.ufunc, finest: NDArray[Any], level: tuple[int, int]) -> NDArray[Any]:
        block = finest
        if block.size == 0:
            nothing = np.inf if operation is np.minimum else -np.inf if operation is np.maximum else 0.0
            return np.full((len(self.rows.starts[level[0]]), len(self.columns.starts[level[1]])), nothing)
        if level[0] < self.rows.depth:
            block = operation.reduceat(block, self.rows.starts[level[0]], axis=0)
        if level[1] < self.columns.depth:
            block = operation.reduceat(block, self.columns.starts[level[1]], axis=1)
        return block

    def row_groups(self, aggregate: Aggregate, level: tuple[int, int]) -> tuple[NDArray[np.int64], tuple[int, int]]:
        """For each row of the table its figure's place at a level pair, or -1; and the block's shape."""
        rows, columns = self.rows.starts[level[0]], self.columns.starts[level[1]]
        row_nodes = self.rows.node_of_finest(level[0])[self.rows.node_of_cell]
        column_nodes = self.columns.node_of_finest(level[1])[self.columns.node_of_cell]
        of_cell = (row_nodes * len(columns) + column_nodes).astype(np.int64)
        mask = self._selected(aggregate)
        if mask is not None:
            of_cell[~mask] = -1
        cell_of_row = self.cells.cell_of_row
        return (of_cell if cell_of_row is None else of_cell[cell_of_row]), (len(rows), len(columns))


def chosen_cells(cells: Cells, mask: Mask) -> NDArray[np.intp]:
    """The cells that a mask lets through; the last mask is remembered, since a board's panels share it."""
    last = cells.memo.get("chosen")
    if last is None or last[0] is not mask:
        last = (mask, np.flatnonzero(mask))
        cells.memo["chosen"] = last
    return cast("NDArray[np.intp]", last[1])


def chosen_weights(cells: Cells, chosen: NDArray[np.intp], weights: Block) -> Block:
    """The chosen cells' part of some weights; remembered while the choice lasts, for the next panel asks the same."""
    last = cells.memo.get("chosen weights")
    if last is None or last[0] is not chosen:
        last = (chosen, {})
        cells.memo["chosen weights"] = last
    of_choice: dict[int, tuple[Block, Block]] = last[1]
    found = of_choice.get(id(weights))
    if found is None:
        found = (weights, weights[chosen])  # the weights are kept too, so that no other can take their id
        of_choice[id(weights)] = found
    return found[1]


def flat_places(cells: Cells, rows: RawAxis, columns: RawAxis) -> NDArray[np.intp]:
    """Each cell's place among the finest figures; remembered for axes that keeping has not recoded."""
    lasting = all(cells.memo.get(("axis", axis.headings)) is axis for axis in (rows, columns))
    key = ("flat", rows.headings, columns.headings)
    found = cells.memo.get(key) if lasting else None
    if found is None:
        found = rows.node_of_cell.astype(np.intp)
        found *= columns.nodes
        found += columns.node_of_cell
        if lasting:
            cells.memo[key] = found
    return cast("NDArray[np.intp]", found)


def _number(fold: Fold, aggregate: Aggregate) -> NumberColumn:
    assert aggregate.field is not None
    return fold.cells.table.number(aggregate.field)


def _rows(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    return fold.added(aggregate, None, level)


def _count(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    return fold.added(aggregate, "count", level)


def _sum(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    count = _count(fold, aggregate, level)
    return np.where(count > 0, fold.added(aggregate, "sum", level) / _number(fold, aggregate).unit, np.nan)


def _mean(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    count = _count(fold, aggregate, level)
    total = fold.added(aggregate, "sum", level)
    return np.where(count > 0, total / np.maximum(count, 1), np.nan) / _number(fold, aggregate).unit


def _min(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    return fold.extreme(aggregate, "min", level) / _number(fold, aggregate).unit


def _max(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    return fold.extreme(aggregate, "max", level) / _number(fold, aggregate).unit


def _range(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    return _max(fold, aggregate, level) - _min(fold, aggregate, level)


def _variance(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    """Divided by n-1; in two passes over the rows (mean first), so that large figures lose nothing."""
    groups, shape = fold.row_groups(aggregate, level)
    column = _number(fold, aggregate)
    inside = groups >= 0 if column.blank is None else (groups >= 0) & ~column.blank
    groups, values = groups[inside], column.values[inside]
    size = shape[0] * shape[1]
    count = np.bincount(groups, minlength=size)
    mean = np.bincount(groups, weights=values, minlength=size) / np.maximum(count, 1)
    squares = np.bincount(groups, weights=(values - mean[groups]) ** 2, minlength=size)
    variance = np.where(count > 1, squares / np.maximum(count - 1, 1), np.nan)
    return variance.reshape(shape) / column.unit**2


def _standard_deviation(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    return np.sqrt(_variance(fold, aggregate, level))


def _edge(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    part = cast(Part, aggregate.function)
    rows = fold.extreme(aggregate, part, level)
    column = _number(fold, aggregate)
    at = np.where(np.isnan(rows), 0, rows).astype(np.intp)
    return np.where(np.isnan(rows), np.nan, column.values[at] / column.unit)


def _percentile(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    """Linear interpolation between order statistics: at (n-1)·p/100 (numpy's default method)."""
    groups, shape = fold.row_groups(aggregate, level)
    column = _number(fold, aggregate)
    assert aggregate.field is not None
    size = shape[0] * shape[1]
    spread = whole_units(fold.cells, aggregate.field)
    if spread is not None and spread.span * size < _MOST_KEYS:
        pick, count = _picked_by_keys(groups, column, size, spread)
    else:
        pick, count = _picked_by_order(groups, column, size, value_order(fold.cells, aggregate.field))
    if not count.any():
        return np.full(shape, np.nan)
    share = 0.5 if aggregate.function == "median" else (aggregate.percentile or 0.0) / 100
    place = np.maximum(count - 1, 0) * share
    lower = np.floor(place).astype(np.int64)
    low = pick(lower)
    high = pick(np.minimum(lower + 1, np.maximum(count - 1, 0)))
    figures = low + (high - low) * (place - lower)
    return np.where(count > 0, figures / column.unit, np.nan).reshape(shape)


_MOST_KEYS = 2**62
_Pick = Callable[[NDArray[np.int64]], Block]
"""For each group the value at a place among its ascending ones; any value where a group has none."""


@dataclass(frozen=True, eq=False)
class WholeUnits:
    """A number field as whole numbers from 0 to `span` - 1, beginning with its least value `low`; 0 where blank."""

    units: NDArray[np.signedinteger]
    low: float
    span: int


def _picked_by_keys(
    groups: NDArray[np.int64], column: NumberColumn, size: int, whole: WholeUnits
) -> tuple[_Pick, NDArray[np.intp]]:
    """Each group's values in their order, and how many it has. Units and their group make one whole number, so that
    one plain sort does it all."""
    inside = groups >= 0 if column.blank is None else (groups >= 0) & ~column.blank
    chosen, units = (groups, whole.units) if inside.all() else (groups[inside], whole.units[inside])
    kind: type[np.signedinteger] = np.int32 if whole.span * size < 2**31 else np.int64
    keys: NDArray[Any] = units.astype(kind)
    if size > 1:
        keys += chosen.astype(kind) * np.asarray(whole.span, dtype=kind)
    keys.sort()
    count = np.bincount(chosen, minlength=size) if size > 1 else np.array([len(chosen)], dtype=np.intp)
    start, base = np.cumsum(count) - count, np.arange(size, dtype=np.int64) * whole.span

    def pick(place: NDArray[np.int64]) -> Block:
        found: Block = keys[np.minimum(start + place, len(keys) - 1)] - base + whole.low
        return found

    return pick, count


def _picked_by_order(
    groups: NDArray[np.int64], column: NumberColumn, size: int, order: NDArray[np.intp]
) -> tuple[_Pick, NDArray[np.intp]]:
    """The same for any numbers: by the order of all values, remembered from figure to figure."""
    grouped = groups[order]
    inside = grouped >= 0
    if not inside.all():
        order, grouped = order[inside], grouped[inside]
    # A stable sort by group leaves each group's values ascending; 16-bit keys sort by radix.
    if size <= 0xFFFF:
        grouped = grouped.astype(np.uint16)
    values = column.values[order[np.argsort(grouped, kind="stable")]]
    count = np.bincount(grouped, minlength=size)
    start = np.cumsum(count) - count

    def pick(place: NDArray[np.int64]) -> Block:
        found: Block = values[np.minimum(start + place, len(values) - 1)]
        return found

    return pick, count


def whole_units(cells: Cells, name: str) -> WholeUnits | None:
    """A number field as small whole numbers; None where its values are not whole units. Remembered by the table."""
    memo = cells.table.memo
    key = ("order", name, "units")
    if key not in memo:
        column = cells.table.number(name)
        values = column.values if column.blank is None else column.values[~column.blank]
        memo[key] = None
        if len(values) and not np.any(values != np.rint(values)) and np.abs(values).max() < 2.0**53:
            low, span = float(values.min()), int(values.max() - values.min()) + 1
            filled = column.values if column.blank is None else np.where(column.blank, low, column.values)
            kind = np.int32 if span < 2**31 else np.int64
            memo[key] = WholeUnits((filled - low).astype(kind), low, span)
    return cast("WholeUnits | None", memo[key])


def value_order(cells: Cells, name: str) -> NDArray[np.intp]:
    """Row numbers by ascending value of a number field, blanks left out; remembered by the table."""
    memo = cells.table.memo
    found = memo.get(("order", name))
    if found is None:
        column = cells.table.number(name)
        found = np.argsort(column.values, kind="stable")
        if column.blank is not None:
            found = found[~column.blank[found]]
        memo["order", name] = found
    return cast("NDArray[np.intp]", found)


def _distinct_count(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    table = fold.cells.table
    assert aggregate.field is not None
    column = table.column(aggregate.field)
    if isinstance(column, DateColumn) and column.seconds is not None:
        distinct = np.unique(column.days * np.int64(86400) + column.seconds, return_inverse=True)
        codes, members = np.asarray(distinct[1]), len(distinct[0])
        blank = column.blank
    else:
        encoded = encode_heading(table, Heading(aggregate.field))
        codes, members = encoded.codes, len(encoded.members)
        blank = column.blank if not isinstance(column, CodedColumn) else encoded.codes == members
    shape = (len(fold.rows.starts[level[0]]), len(fold.columns.starts[level[1]]))
    if members == 0:
        return np.zeros(shape)
    finest = fold.rows.nodes * fold.columns.nodes
    if 0 < finest * members <= max(64_000_000, 8 * len(codes)):
        # What is there at a coarser level is what is there at any level below it.
        key = ("seen", aggregate.field, aggregate.where)
        seen = fold.memo.get(key)
        if seen is None:
            seen = fold.memo[key] = _seen(fold, aggregate, codes, members, blank)
        return np.asarray(fold._rolled(np.logical_or, seen, level).sum(axis=2), dtype=np.float64)
    groups, _ = fold.row_groups(aggregate, level)
    inside = groups >= 0 if blank is None else (groups >= 0) & ~blank
    owners = np.unique(groups[inside] * members + codes[inside]) // members
    return np.bincount(owners, minlength=shape[0] * shape[1]).astype(np.float64).reshape(shape)


def _seen(fold: Fold, aggregate: Aggregate, codes: NDArray[Any], members: int, blank: Mask | None) -> NDArray[np.bool_]:
    """Which members of a field each figure of the finest level holds: (row nodes, column nodes, members)."""
    groups, shape = fold.row_groups(aggregate, (fold.rows.depth, fold.columns.depth))
    size = shape[0] * shape[1]
    kind = np.int32 if (size + 1) * members < 2**31 else np.int64
    # Rows that do not count go to one place more, which is then left out.
    places = np.where(groups < 0, size, groups).astype(kind) * np.asarray(members, dtype=kind)
    seen = np.zeros((size + 1) * members, dtype=np.bool_)
    if blank is None:
        seen[places + codes] = True
    else:
        seen[(places + codes.astype(kind))[~blank]] = True
    return seen[: size * members].reshape(*shape, members)


def _each_row(fold: Fold, aggregate: Aggregate, level: tuple[int, int]) -> Block:
    raise Refusal(
        "'each row' shows the rows themselves, which none of the forms here can draw",
        "use mean or median of it",
    )


_Figure = Callable[[Fold, Aggregate, tuple[int, int]], Block]
_ADDITIVE: dict[str, _Figure] = {
    "rows": _rows,
    "count": _count,
    "sum": _sum,
    "mean": _mean,
    "min": _min,
    "max": _max,
    "range": _range,
    "first": _edge,
    "last": _edge,
}
ADDITIVE = frozenset(_ADDITIVE)  # worked out from cells alone
_BY_ROW: dict[str, _Figure] = {
    "median": _percentile,
    "percentile": _percentile,
    "distinct count": _distinct_count,
    "variance": _variance,
    "standard deviation": _standard_deviation,
    "each row": _each_row,
}
