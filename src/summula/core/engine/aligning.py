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
    rows, columns = same_nodes(part.rows, whole.rows), same_nodes(part.columns, whole.columns)
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
    return tuple(map(_key, path))


_GATHERED = object()  # like no member


def same_nodes(part: Axis, whole: Axis) -> list[Nodes]:
    """For each level and each node of the whole on it, the node of the part with the same members, or -1; as far down
    as both go. What was gathered is the same place, however many members it holds in either."""
    if part is whole:
        return [np.arange(level.size) for level in whole.levels]
    found = [np.zeros(whole.levels[0].size, dtype=np.intp) if part.levels[0].size else _none(whole.levels[0].size)]
    for at, (known, wanted) in enumerate(zip(part.members, whole.members, strict=False)):
        own, others = part.levels[at + 1], whole.levels[at + 1]
        if not own.size or not others.size:
            found.append(_none(others.size))
            continue
        code_of, code_in = _one_code_each(known, wanted)
        keys = own.parent * len(known) + code_of[own.codes[:, at]]
        under, code = found[at][others.parent], code_in[others.codes[:, at]]
        asked = np.where((under >= 0) & (code >= 0), under * len(known) + code, -1)
        order = np.argsort(keys, kind="stable")
        place = order[np.minimum(np.searchsorted(keys, asked, sorter=order), len(keys) - 1)]
        found.append(np.where(keys[place] == asked, place, -1))
    return found


def _none(size: int) -> Nodes:
    return np.full(size, -1, dtype=np.intp)


def _one_code_each(known: tuple[Member, ...], wanted: tuple[Member, ...]) -> tuple[Nodes, Nodes]:
    """For each code of `known` the first one with the same member; for each of `wanted` likewise, or -1."""
    if known is wanted or known == wanted:
        codes = np.arange(len(known))
        gathered = [code for code, member in enumerate(known) if isinstance(member, Others)]
        codes[gathered] = gathered[:1] * len(gathered)
        return codes, codes
    first: dict[object, int] = {}
    own = [first.setdefault(_key(member), code) for code, member in enumerate(known)]
    return np.array(own, dtype=np.intp), np.array([first.get(_key(each), -1) for each in wanted], dtype=np.intp)


def _key(member: Member) -> object:
    return _GATHERED if isinstance(member, Others) else member


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
