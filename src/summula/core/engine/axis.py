"""The axes of a grid: which members stand on them, at every level, in which order."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, TypeAlias

import msgspec
from msgspec.structs import force_setattr, replace

from summula.core.arrays import np
from summula.core.engine.combinations import combine, occurring
from summula.core.fields.heading import Heading, Member
from summula.core.memory import Memory, Remembered
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from numpy.typing import NDArray

Indices: TypeAlias = "NDArray[np.intp]"
MOST_NODES = 2_000_000
_FEW = 4096  # members whose occurrence is looked up at once


class Level(msgspec.Struct, frozen=True, eq=False):
    """The nodes of one depth. `codes` (nodes, depth) index each heading's members; `parent` points to
    the level above. Nodes stand in the order they are shown; a parent's children are neighbours."""

    codes: NDArray[np.int64]
    parent: Indices

    @property
    def size(self) -> int:
        return len(self.parent)


class Axis(msgspec.Struct, frozen=True, eq=False):
    """Headings, their members by code (text, …, None for blank, Others), and levels 0 … len(headings).

    Level 0 is the single total.
    """

    headings: tuple[Heading, ...]
    members: tuple[tuple[Member, ...], ...]
    levels: tuple[Level, ...]
    memo: Memory = msgspec.field(default_factory=Memory)

    @property
    def depth(self) -> int:
        return len(self.headings)

    def path(self, level: int, node: int) -> tuple[Member, ...]:
        """The members that lead to a node."""
        codes = self.levels[level].codes[node]
        return tuple(self.members[at][code] for at, code in enumerate(codes))

    def children(self, level: int, node: int) -> Indices:
        return np.flatnonzero(self.levels[level + 1].parent == node)


class Placed(msgspec.Struct, frozen=True, eq=False):
    """One heading as it stands on an axis: a code for each cell, indexing `members` (blank and
    gathered members included)."""

    heading: Heading
    codes: NDArray[np.integer]
    members: tuple[Member, ...]


AXES: Remembered[tuple[Heading, ...], RawAxis] = Remembered("axes")  # of cells, by their headings


class RawAxis(msgspec.Struct, frozen=True, eq=False):
    """An axis over the cells, before what is empty is left out: the finest node of each cell, the
    nodes' codes in lexicographic order, and where each coarser level's runs begin."""

    headings: tuple[Heading, ...]
    members: tuple[tuple[Member, ...], ...]
    node_of_cell: NDArray[np.unsignedinteger]
    codes: NDArray[np.int64]  # (nodes, depth)
    starts: tuple[Indices, ...]  # per level 0..depth: first finest node of each node of that level
    depth: int = -1  # how many headings; told by the others, as are the next two
    nodes: int = -1  # how many finest nodes
    banded: bool = False  # whether a heading has bands

    def __post_init__(self) -> None:
        force_setattr(self, "depth", len(self.headings))
        force_setattr(self, "nodes", len(self.codes))
        force_setattr(self, "banded", any(heading.bands is not None for heading in self.headings))

    def node_of_finest(self, level: int) -> Indices:
        """For each finest node, its node at `level`."""
        marks = np.zeros(self.nodes, dtype=np.intp)
        if self.nodes == 0:
            return marks
        marks[self.starts[level]] = 1
        return np.cumsum(marks) - 1


def raw_axis(placed: Sequence[Placed], cells: int) -> RawAxis:
    headings = tuple(each.heading for each in placed)
    members = tuple(each.members for each in placed)
    if not placed:
        ids = np.zeros(cells, dtype=np.uint8)
        return RawAxis((), (), ids, np.zeros((1, 0), dtype=np.int64), (np.zeros(1, dtype=np.intp),))
    # A blank is a member of every heading, the last, but seldom occurs: without it the codes are dense.
    sizes = [int(each.codes.max()) + 1 if len(each.codes) else len(each.members) for each in placed]
    if len(placed) == 1 and 0 < sizes[0] <= _FEW < cells:
        occurs = occurring(placed[0].codes, sizes[0])
        if occurs.all():  # the codes are the nodes
            places = np.arange(sizes[0])
            starts = (np.zeros(1, dtype=np.intp), places)
            return RawAxis(headings, members, placed[0].codes, places[:, None], starts)  # type: ignore[arg-type]
    combined = combine([each.codes for each in placed], sizes, tally=False)
    if combined is None or len(combined.codes) > MOST_NODES:
        names = " and ".join(heading.field for heading in headings)
        raise Refusal(f"{names} together have too many members to lay out", "remove a heading, or use bands")
    codes = combined.codes
    return RawAxis(headings, members, combined.ids, codes, _starts(codes, len(placed)))


def _starts(codes: NDArray[np.int64], depth: int) -> tuple[Indices, ...]:
    if len(codes) == 0:  # no rows at all: the total is there all the same
        return (np.zeros(1, dtype=np.intp), *(np.zeros(0, dtype=np.intp) for _ in range(depth)))
    changed = np.zeros(len(codes), dtype=np.bool_)
    changed[0] = True
    starts = [np.flatnonzero(changed)]
    for level in range(depth):
        changed[1:] |= codes[1:, level] != codes[:-1, level]
        starts.append(np.flatnonzero(changed))
    return tuple(starts)


def widened(axis: RawAxis, wanted: NDArray[np.int64]) -> RawAxis:
    """The same axis with these finest combinations (rows of codes) present too, empty of cells."""
    if len(wanted) > MOST_NODES:
        raise Refusal("every member of every heading together is too many to lay out", "remove a heading")
    both = np.concatenate([axis.codes, wanted])
    combined = combine([both[:, at] for at in range(axis.depth)], [len(each) for each in axis.members], tally=False)
    assert combined is not None  # so few rows have no more combinations than fit
    place, codes = combined.ids[: axis.nodes], combined.codes
    return replace(
        axis,
        node_of_cell=place[axis.node_of_cell].astype(np.uint32) if axis.nodes else axis.node_of_cell,
        codes=codes,
        starts=_starts(codes, axis.depth),
    )


def level_codes(axis: RawAxis, level: int) -> NDArray[np.int64]:
    if level == 0:
        return np.zeros((1, 0), dtype=np.int64)
    return axis.codes[axis.starts[level], :level]


def plain(axis: RawAxis) -> Axis:
    """An axis of one heading that shows all its nodes in their own order."""
    under_total = np.zeros(axis.nodes, dtype=np.intp)
    total = Level(np.zeros((1, 0), dtype=np.int64), np.zeros(1, dtype=np.intp))
    return Axis(axis.headings, axis.members, (total, Level(axis.codes, under_total)))


def finished(
    axis: RawAxis, shown: Sequence[NDArray[np.bool_]], ranks: Sequence[NDArray[np.float64]]
) -> tuple[Axis, list[Indices]]:
    """The axis with only the shown nodes, each level ordered by `ranks` among its siblings.

    `shown` and `ranks` have an entry a level, for that level's raw nodes. Also returns, for each level,
    which raw node each node of the finished level is.
    """
    levels: list[Level] = []
    chosen: list[Indices] = []
    place_of_raw: Indices = np.zeros(0, dtype=np.intp)
    for level in range(axis.depth + 1):
        raw = np.flatnonzero(shown[level])
        if level == 0:
            parent = np.zeros(len(raw), dtype=np.intp)
        else:
            raw_parent = axis.node_of_finest(level - 1)[axis.starts[level]]
            parent = place_of_raw[raw_parent[raw]]
            order = np.lexsort((ranks[level][raw], parent))
            raw, parent = raw[order], parent[order]
        place_of_raw = np.full(len(axis.starts[level]), -1, dtype=np.intp)
        place_of_raw[raw] = np.arange(len(raw))
        levels.append(Level(level_codes(axis, level)[raw], parent))
        chosen.append(raw)
    return Axis(axis.headings, axis.members, tuple(levels)), chosen


GridPlace = tuple[int, int]


def place_of(axis: Axis, path: Sequence[Member]) -> GridPlace | None:
    """The node that a path of members leads to."""
    level = len(path)
    if level > axis.depth:
        return None
    codes = axis.levels[level].codes
    there = np.ones(len(codes), dtype=np.bool_)
    for depth, wanted in enumerate(path):
        alike = [code for code, member in enumerate(axis.members[depth]) if member == wanted]
        there &= np.isin(codes[:, depth], alike)
    node = int(np.argmax(there)) if there.any() else None
    return None if node is None else (level, node)
