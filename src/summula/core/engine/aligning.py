"""A part laid on the axes of its whole, so that both can be told side by side."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeAlias

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.engine.samples import Boxes, Points, Ranges, Samples, Several
from summula.core.fields.heading import Member, Others

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.axis import Axis
    from summula.core.engine.grid import Grid

Nodes: TypeAlias = "NDArray[np.intp]"


def aligned(part: Grid, whole: Grid) -> Grid:
    """The part's figures where the whole's stand: in the same members and the same order, blank where it has none."""
    rows = [_nodes(part.rows, whole.rows, level) for level in range(whole.rows.depth + 1)]
    columns = [_nodes(part.columns, whole.columns, level) for level in range(whole.columns.depth + 1)]
    values, counts = {}, {}
    for (row, column), block in whole.values.items():
        at_row, at_column = rows[row], columns[column]
        there = np.ix_(at_row >= 0, at_column >= 0)
        held = np.zeros(block.shape[1:])
        figures = np.full(block.shape, np.nan)
        if at_row.size and at_column.size:
            own = np.ix_(at_row[at_row >= 0], at_column[at_column >= 0])
            held[there] = part.cell_rows[row, column][own]
            for measure, figure in enumerate(part.values[row, column]):
                figures[measure][there] = figure[own]
        values[row, column], counts[row, column] = figures, held
    samples = _aligned_samples(part, whole, rows, columns)
    return replace(part, rows=whole.rows, columns=whole.columns, values=values, cell_rows=counts, samples=samples)


def path_key(path: tuple[Member, ...]) -> tuple[object, ...]:
    """A path as it is found again in another grid: however many were gathered then and now, it is the same place."""
    for member in path:
        if isinstance(member, Others):
            return tuple(_GATHERED if isinstance(each, Others) else each for each in path)
    return path


_GATHERED = object()  # like no member


def _nodes(part: Axis, whole: Axis, level: int) -> Nodes:
    """For each node of the whole, the same one of the part, or -1."""
    if part is whole:
        return np.arange(whole.levels[level].size)
    place = {path_key(part.path(level, node)): node for node in range(part.levels[level].size)}
    size = whole.levels[level].size
    return np.array([place.get(path_key(whole.path(level, node)), -1) for node in range(size)], dtype=np.intp)


def _aligned_samples(part: Grid, whole: Grid, rows: list[Nodes], columns: list[Nodes]) -> Samples | None:
    held, across = part.samples, columns[-1]
    if isinstance(held, Several):
        first = rows[1].tolist() if len(rows) > 1 else []
        own = [held.parts[at] if 0 <= at < len(held.parts) else None for at in first]
        return Several(tuple(None if each is None else _moved(each, across) for each in own))  # type: ignore[misc]
    if isinstance(held, Boxes):
        wide = part.columns.levels[part.columns.depth].size
        return Boxes(tuple(
            held.spreads[row * wide + column] if row >= 0 and column >= 0 else None
            for row in rows[-1].tolist()
            for column in across.tolist()
        ))  # fmt: skip
    return None if held is None else _moved(held, across)


def _moved(held: Samples, across: Nodes) -> Samples:
    """Values told apart by column, with the whole's columns."""
    if isinstance(held, Ranges):
        counts = np.zeros((len(across), held.counts.shape[1]))
        counts[across >= 0] = held.counts[across[across >= 0]]
        return replace(held, counts=counts)
    if isinstance(held, Points):
        back = np.zeros(int(across.max(initial=0)) + 1, dtype=np.intp)
        known = np.flatnonzero(across >= 0)
        back[across[known]] = known
        return replace(held, column=back[held.column])
    return held
