"""How many different members stand behind each figure: from the members that each cell holds, else from the rows."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

from summula.core.arrays import np
from summula.core.fields.heading import Heading, encode_heading
from summula.core.memory import Remembered
from summula.core.tables.column import CodedColumn, Mask, different_values, stretches

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.cells import Cells
    from summula.core.engine.fold import Fold, Levels
    from summula.core.phrases.phrase import Aggregate

_MOST_PLACES = 32_000_000  # cells times members


class _Held(NamedTuple):
    """Which members each cell holds, as pairs: the cell, and the member's code."""

    cell: NDArray[np.intp]
    member: NDArray[np.intp]


_HELD: Remembered[str, _Held] = Remembered("members of cells", most=8)


def distinct_count(fold: Fold, aggregate: Aggregate) -> Levels:
    """How many different values, blanks left out; of a date with a time, its days."""
    table = fold.cells.table
    assert aggregate.field is not None
    column = table.column(aggregate.field)
    encoded = encode_heading(table, Heading(aggregate.field))
    codes, members = encoded.codes, len(encoded.members)
    blank = column.blank if not isinstance(column, CodedColumn) else encoded.codes == members
    if members == 0:
        return {level: np.zeros(fold.shape(level)) for level in fold.levels}
    finest = fold.rows.nodes * fold.columns.nodes
    # A place for every member of every figure, where that costs less than sorting the rows for each level.
    if 0 < finest * members <= max(1_000_000, 8 * len(codes), min(64_000_000, 40 * len(codes))):
        # What is there at a coarser level is what is there at any level below it.
        seen = fold.rolled(np.logical_or, _seen(fold, aggregate, codes, members, blank))
        return {level: np.asarray(block.sum(axis=2), dtype=np.float64) for level, block in seen.items()}
    found = {}
    for level in fold.levels:
        groups, shape = fold.row_groups(aggregate, level)
        inside = groups >= 0 if blank is None else (groups >= 0) & ~blank
        # In 64 bits: places of large grids times members are beyond 32.
        owners = different_values(groups[inside].astype(np.int64) * members + codes[inside]) // members
        found[level] = np.bincount(owners, minlength=shape[0] * shape[1]).astype(np.float64).reshape(shape)
    return found


def _seen(fold: Fold, aggregate: Aggregate, codes: NDArray[Any], members: int, blank: Mask | None) -> NDArray[np.bool_]:
    """Which members of a field each figure of the finest level holds: (row nodes, column nodes, members)."""
    cells, finest = fold.cells, (fold.rows.depth, fold.columns.depth)
    if cells.folded and cells.size * members <= min(_MOST_PLACES, len(codes)):
        held = _HELD.of(cells.memo, aggregate.field or "", lambda: _held(cells, codes, members, blank))
        owners, shape = fold.cell_groups(aggregate, finest)
        owner = owners[held.cell]
        inside = owner >= 0
        seen = np.zeros(shape[0] * shape[1] * members, dtype=np.bool_)
        seen[owner[inside].astype(np.intp) * members + held.member[inside]] = True
        return seen.reshape(*shape, members)
    groups, shape = fold.row_groups(aggregate, finest)
    return _marked(groups, shape[0] * shape[1], codes, members, blank).reshape(*shape, members)


def _held(cells: Cells, codes: NDArray[Any], members: int, blank: Mask | None) -> _Held:
    of_row = cells.cell_of_row
    assert of_row is not None
    return _Held(*np.divmod(np.flatnonzero(_marked(of_row, cells.size, codes, members, blank)), members))


def _marked(groups: NDArray[Any], size: int, codes: NDArray[Any], members: int, blank: Mask | None) -> Mask:
    """Which members occur in each of `size` groups: (size * members). Rows of a group below 0 count nowhere."""
    kind = np.int32 if (size + 1) * members < 2**31 else np.int64
    # Rows that do not count go to one place more, which is then left out.
    seen = np.zeros((size + 1) * members, dtype=np.bool_)
    for part in stretches(len(groups)):
        here = groups[part]
        places: NDArray[Any] = (here if here.dtype.kind == "u" else np.where(here < 0, size, here)).astype(kind)
        places *= np.asarray(members, dtype=kind)
        places += codes[part].astype(kind)
        seen[places if blank is None else places[~blank[part]]] = True
    return seen[: size * members]
