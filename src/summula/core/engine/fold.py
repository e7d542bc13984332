"""Cells under a mask, laid on two axes: what every figure is worked out from."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any, TypeAlias

import msgspec

from summula.core.arrays import np
from summula.core.engine.axis import AXES, RawAxis
from summula.core.engine.cells import Cells, SumPart
from summula.core.engine.combinations import counted
from summula.core.fields.heading import Heading
from summula.core.memory import Memory, Remembered
from summula.core.phrases.phrase import Aggregate, Condition
from summula.core.refusal import Refusal
from summula.core.tables.column import Mask, take_at

if TYPE_CHECKING:
    from numpy.typing import NDArray

Block: TypeAlias = "NDArray[np.float64]"
LevelPair = tuple[int, int]
Levels = dict[LevelPair, Block]
Groups: TypeAlias = "NDArray[np.signedinteger]"
_FEW = 4096  # cells that are added up in less time than it takes to part neighbours
_MOST_FIGURES = 20_000_000
_ROWS = Aggregate("rows")


Conditions = tuple[Condition, ...]
Headings = tuple[Heading, ...]
_Places: TypeAlias = "tuple[NDArray[np.intp], NDArray[np.intp] | None]"
_PLACES: Remembered[Conditions, _Places] = Remembered("places")
_GROUPS: Remembered[Conditions, Groups] = Remembered("groups of cells")
_ADDED: Remembered[tuple[SumPart | None, str | None, Conditions], Levels] = Remembered("added up", most=500)
_CHOSEN: Remembered[str, tuple[Mask, NDArray[np.intp]]] = Remembered("chosen cells", most=1)
_CHOSEN_WEIGHTS: Remembered[str, tuple[NDArray[np.intp], dict[int, tuple[Block, Block]]]] = Remembered(
    "chosen weights", most=1
)
_FLAT: Remembered[tuple[Headings, Headings], NDArray[np.intp] | None] = Remembered("flat places")


@lru_cache(maxsize=64)
def _levels(rows: int, columns: int) -> tuple[LevelPair, ...]:
    return tuple((i, j) for i in range(rows + 1) for j in range(columns + 1))


class Fold(msgspec.Struct, frozen=True, eq=False):
    """Cells under a mask, laid on two axes. Blocks are (row nodes, column nodes) of a level pair."""

    cells: Cells
    mask: Mask | None
    rows: RawAxis
    columns: RawAxis
    memo: Memory = msgspec.field(default_factory=Memory)

    def __post_init__(self) -> None:
        if self.rows.nodes * self.columns.nodes > _MOST_FIGURES:
            raise Refusal(
                f"this would lay out {self.rows.nodes:,} by {self.columns.nodes:,} figures",
                "remove a heading, keep fewer members, or use bands",
            )

    @property
    def levels(self) -> tuple[LevelPair, ...]:
        """Every level of the rows by every level of the columns, the finest of each last."""
        return _levels(self.rows.depth, self.columns.depth)

    @property
    def row_counts(self) -> Levels:
        """How many rows stand behind each figure."""
        return self.added(_ROWS, None)

    def _selected(self, aggregate: Aggregate) -> Mask | None:
        mask = self.mask
        for condition in aggregate.where:
            passes = self.cells.passes(condition)
            mask = passes if mask is None else mask & passes
        return mask

    def _places(self, aggregate: Aggregate) -> tuple[NDArray[np.intp], NDArray[np.intp] | None]:
        """The finest figure each selected cell goes to, and which cells those are (None: all)."""
        found = _PLACES.get(self.memo, aggregate.where)
        if found is None:
            mask = self._selected(aggregate)
            chosen = None if mask is None else chosen_cells(self.cells, mask)
            found = (flat_places(self.cells, self.rows, self.columns, chosen), chosen)
            _PLACES.put(self.memo, aggregate.where, found)
        return found

    def added(self, aggregate: Aggregate, part: SumPart | None) -> Levels:
        """A part summed up to every level pair; `part` None adds up the rows. Remembered by the fold."""
        if part == "count" and self._has_no_blanks(aggregate.field or ""):
            part = None  # there are as many values as rows
        key = (part, aggregate.field if part else None, aggregate.where)
        return _ADDED.of(self.memo, key, lambda: self.rolled(np.add, self._added(aggregate, part)))

    def _added(self, aggregate: Aggregate, part: SumPart | None) -> Block:
        """A part summed up to the finest figures."""
        places, chosen = self._places(aggregate)
        weights = self._weights(aggregate, part)
        if weights is not None and chosen is not None:
            weights = chosen_weights(self.cells, chosen, weights)
        shape = (self.rows.nodes, self.columns.nodes)
        return counted(places, shape[0] * shape[1], weights).reshape(shape)

    def _has_no_blanks(self, name: str) -> bool:
        return self.cells.table.column(name).blank is None

    def _weights(self, aggregate: Aggregate, part: SumPart | None) -> Block | None:
        if part is None:
            return self.cells.rows
        assert aggregate.field is not None
        return self.cells.part(aggregate.field, part)

    def extreme(self, aggregate: Aggregate, part: SumPart) -> Levels:
        """The least ("min", "first") or greatest ("max", "last") of a part up to every level pair."""
        assert aggregate.field is not None
        least = part in ("min", "first")
        operation = np.minimum if least else np.maximum
        places, chosen = self._places(aggregate)
        weights = self.cells.part(aggregate.field, part)
        finest = np.full(self.rows.nodes * self.columns.nodes, np.inf if least else -np.inf)
        operation.at(finest, places, weights if chosen is None else weights[chosen])
        levels = self.rolled(operation, finest.reshape(self.rows.nodes, self.columns.nodes))
        return {level: np.where(np.isinf(block), np.nan, block) for level, block in levels.items()}

    def rolled(self, operation: np.ufunc, finest: NDArray[Any]) -> dict[LevelPair, NDArray[Any]]:
        """The finest figures put together to those of every level pair."""
        rows, columns = self.rows, self.columns
        if finest.size == 0:
            return {level: self.rolled_to(operation, finest, level) for level in self.levels}
        found: dict[LevelPair, NDArray[Any]] = {}
        deep, wide, reduceat = rows.depth, columns.depth, operation.reduceat
        for level in self.levels:
            i, j = level
            if j == 0:
                across = finest if i == deep else reduceat(finest, rows.starts[i], axis=0)
            found[level] = across if j == wide else reduceat(across, columns.starts[j], axis=1)
        return found

    def rolled_to(self, operation: np.ufunc, finest: NDArray[Any], level: LevelPair) -> NDArray[Any]:
        """The finest figures put together to those of one level pair."""
        if level == self.levels[-1]:
            return finest
        if finest.size == 0:
            nothing = np.inf if operation is np.minimum else -np.inf if operation is np.maximum else 0.0
            return np.full(self.shape(level) + finest.shape[2:], nothing, dtype=finest.dtype)
        block = finest
        if level[0] < self.rows.depth:
            block = operation.reduceat(block, self.rows.starts[level[0]], axis=0)
        if level[1] < self.columns.depth:
            block = operation.reduceat(block, self.columns.starts[level[1]], axis=1)
        return block

    def shape(self, level: LevelPair) -> tuple[int, int]:
        """How many rows and columns of figures a level pair has."""
        return (len(self.rows.starts[level[0]]), len(self.columns.starts[level[1]]))

    def row_groups(self, aggregate: Aggregate, level: LevelPair) -> tuple[Groups, tuple[int, int]]:
        """For each row of the table its figure's place at a level pair, or -1; and the block's shape."""
        of_cell, shape = self.cell_groups(aggregate, level)
        cell_of_row = self.cells.cell_of_row
        return (of_cell if cell_of_row is None else take_at(of_cell, cell_of_row)), shape

    def cell_groups(self, aggregate: Aggregate, level: LevelPair) -> tuple[Groups, tuple[int, int]]:
        """For each cell its figure's place at a level pair, or -1; and the block's shape."""
        shape = self.shape(level)
        if not self.cells.folded:  # as many cells as rows: too large to be kept
            return self._cell_groups(aggregate, level), shape
        finest = _GROUPS.of(self.memo, aggregate.where, lambda: self._cell_groups(aggregate, self.levels[-1]))
        if level == self.levels[-1]:
            return finest, shape
        rows, columns = self.rows.node_of_finest(level[0]), self.columns.node_of_finest(level[1])
        coarser = np.append((rows[:, None] * shape[1] + columns).ravel(), -1).astype(finest.dtype)
        return coarser.take(finest), shape  # -1 takes the last, which is -1

    def _cell_groups(self, aggregate: Aggregate, level: LevelPair) -> Groups:
        shape = self.shape(level)
        row_nodes = self.rows.node_of_finest(level[0])[self.rows.node_of_cell]
        column_nodes = self.columns.node_of_finest(level[1])[self.columns.node_of_cell]
        kind = np.int32 if shape[0] * shape[1] < 2**31 else np.int64
        of_cell: Groups = (row_nodes * shape[1] + column_nodes).astype(kind)
        mask = self._selected(aggregate)
        if mask is not None:
            of_cell[~mask] = -1
        return of_cell


def chosen_cells(cells: Cells, mask: Mask) -> NDArray[np.intp]:
    """The cells that a mask lets through, neighbours apart. The last are remembered, since a board's panels share them.

    Neighbouring cells go to the same figure. Adding to one figure again and again, a processor waits each time for the
    last addition to be stored: taking turns between four parts of the cells, it need not.
    """
    last = _CHOSEN.get(cells.memo, "last")
    if last is None or last[0] is not mask:
        found = mask.nonzero()[0]
        if len(found) > _FEW:
            apart, quarter = np.empty_like(found), len(found) // 4
            apart[: 4 * quarter].reshape(quarter, 4)[...] = found[: 4 * quarter].reshape(4, quarter).T
            apart[4 * quarter :] = found[4 * quarter :]
            found = apart
        last = _CHOSEN.put(cells.memo, "last", (mask, found))
    return last[1]


def chosen_weights(cells: Cells, chosen: NDArray[np.intp], weights: Block) -> Block:
    """The chosen cells' part of some weights; remembered while the choice lasts, for the next panel asks the same."""
    last = _CHOSEN_WEIGHTS.get(cells.memo, "last")
    if last is None or last[0] is not chosen:
        last = _CHOSEN_WEIGHTS.put(cells.memo, "last", (chosen, {}))
    of_choice = last[1]
    found = of_choice.get(id(weights))
    if found is None:
        found = (weights, weights.take(chosen))  # the weights are kept too, so that no other can take their id
        of_choice[id(weights)] = found
    return found[1]


def flat_places(
    cells: Cells, rows: RawAxis, columns: RawAxis, chosen: NDArray[np.intp] | None = None
) -> NDArray[np.intp]:
    """Each cell's (or chosen cell's) place among the finest figures.

    Of all the cells they are remembered, for axes that keeping has not recoded; but only when asked for again, since
    one question about few cells is answered sooner without the others.
    """
    memo = cells.memo
    lasting = AXES.get(memo, rows.headings) is rows and AXES.get(memo, columns.headings) is columns
    key = (rows.headings, columns.headings)
    found = _FLAT.get(memo, key) if lasting else None
    if found is None:
        again = lasting and _FLAT.has(memo, key)
        if lasting and not again:
            _FLAT.put(memo, key, None)
        if chosen is not None and not again:
            return _flat(rows.node_of_cell.take(chosen), columns.node_of_cell.take(chosen), columns.nodes)
        found = _flat(rows.node_of_cell, columns.node_of_cell, columns.nodes)
        if lasting:
            _FLAT.put(memo, key, found)
    return found if chosen is None else found.take(chosen)


def _flat(rows: NDArray[Any], columns: NDArray[Any], across: int) -> NDArray[np.intp]:
    flat = rows.astype(np.intp)
    flat *= across
    flat += columns
    return flat
