"""Which members stand on the axes of a summary, in which order: those with rows, every one, or the bands between."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple, TypeAlias

from summula.core.arrays import np
from summula.core.engine import comparisons
from summula.core.engine.axis import (
    AXES,
    MOST_NODES,
    Axis,
    Level,
    Placed,
    RawAxis,
    finished,
    level_codes,
    plain,
    raw_axis,
    widened,
)
from summula.core.fields.heading import Heading, Member, Others
from summula.core.memory import Remembered
from summula.core.refusal import Refusal
from summula.core.tables.column import different_values, smallest_code_type

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.cells import Cells
    from summula.core.engine.fold import Fold
    from summula.core.engine.grid import Block, LevelPair
    from summula.core.engine.keeping import Gathered, Kept
    from summula.core.fields.heading import Encoded
    from summula.core.phrases.phrase import Order, Phrase

# Of each level's shown nodes, which raw node each is; None: the same ones.
Nodes: TypeAlias = "list[NDArray[np.intp] | None]"


_FINISHED: Remembered[tuple[object, ...], tuple[Axis, Nodes]] = Remembered("axes as they are shown")


def axis_of(headings: tuple[Heading, ...], cells: Cells, kept: Kept, every_member: bool) -> RawAxis:
    """The axis of these headings over the cells, gathered members in their place, members without rows where they are
    wanted. Raises Refusal where there are too many to lay out."""
    recoded = bool(kept.gathered) and any(heading in kept.gathered for heading in headings)
    axis = None if recoded else AXES.get(cells.memo, headings)
    if axis is None:
        placed: list[Placed] = []
        for heading in headings:
            encoded = cells.encoded(heading)
            members: tuple[Member, ...] = (*encoded.members, None)
            codes: NDArray[np.integer] = encoded.codes
            gathered = kept.gathered.get(heading)
            if gathered is not None:
                members, codes = _gathered(gathered, members, codes, placed)
            placed.append(Placed(heading, codes, members))
        axis = raw_axis(placed, cells.size)
        if not recoded:
            AXES.put(cells.memo, headings, axis)
    if headings and (every_member or axis.banded):
        axis = _with_empty(axis, cells, kept, every_member)
    return axis


def _gathered(
    gathered: Gathered, members: tuple[Member, ...], codes: NDArray[np.integer], outer: Sequence[Placed]
) -> tuple[tuple[Member, ...], NDArray[np.integer]]:
    """A heading's members and codes with the gathered member last; within an outer heading that it was chosen in each
    member of, one for each of them."""
    within = next((each for each in outer if each.heading == gathered.each), None)
    size = len(members)
    if within is None:
        members = (*members, gathered.others(codes))
        moved_to: NDArray[np.integer] | int = size
    else:
        members = (*members, *gathered.others_by(codes, within.codes, len(within.members)))
        moved_to = size + within.codes.astype(np.int64)
    recoded = np.where(gathered.moved, moved_to, codes.astype(np.int64))
    return members, recoded.astype(smallest_code_type(len(members)))


def _with_empty(axis: RawAxis, cells: Cells, kept: Kept, every_member: bool) -> RawAxis:
    """The axis with members that have no cells: every member, or the bands between those that occur. Of members that
    keeping has chosen, those kept."""
    in_play = kept.mask if kept.mask is not None else np.ones(cells.size, dtype=np.bool_)
    live = np.zeros(axis.nodes, dtype=np.bool_)
    live[axis.node_of_cell[in_play]] = True
    if not every_member and not live.any():
        return axis
    paths = np.zeros((1, 0), dtype=np.int64)
    codes = axis.codes[live]
    path_of = np.zeros(len(codes), dtype=np.intp)  # of each node with rows, the path that leads to it
    for depth, heading in enumerate(axis.headings):
        encoded = cells.encoded(heading)
        size = max(len(axis.members[depth]), encoded.size)
        present = different_values(path_of * size + codes[:, depth])
        below = _Below(paths, codes, depth, size, encoded.size - 1, present)
        if every_member and heading in kept.limited:
            wanted = below.chosen(_place_of(kept.limited[heading], axis.headings[:depth]))
        elif every_member:
            wanted = below.every(_members_in_table(heading, encoded))
        elif heading.bands is not None and heading not in kept.limited:
            wanted = below.between()
        else:
            wanted = present
        wanted = below.filled(wanted)
        if len(wanted) > MOST_NODES:
            raise Refusal(*_TOO_MANY)
        paths = np.column_stack([paths[wanted // size], wanted % size])
        path_of = np.searchsorted(wanted, path_of * size + codes[:, depth])
    return widened(axis, paths)


_TOO_MANY = "every member of every heading together is too many to lay out", "remove a heading"


def _place_of(heading: Heading | None, among: Sequence[Heading]) -> int | None:
    return among.index(heading) if heading is not None and heading in among else None


def _members_in_table(heading: Heading, encoded: Encoded) -> NDArray[np.int64]:
    """The codes of the members that the table has, ascending: of bands all from the first to the last, of a flag only
    those that occur."""
    if heading.bands is not None:
        return np.arange(len(encoded.members), dtype=np.int64)
    occurs = np.bincount(encoded.codes, minlength=encoded.size)[: len(encoded.members)] > 0
    return np.flatnonzero(occurs).astype(np.int64)


class _Below(NamedTuple):
    """What may stand one heading further down. What stands there is told as `path * size + code`, ascending."""

    paths: NDArray[np.int64]  # (p, depth): those that lead to the heading
    codes: NDArray[np.int64]  # (n, headings): the nodes that have rows
    depth: int
    size: int  # more than any code of the heading
    blank: int  # the code of its blank member; gathered ones come after it
    present: NDArray[np.int64]  # what has rows

    def chosen(self, within: int | None) -> NDArray[np.int64]:
        """The members that keeping has chosen, in each member of the heading at the place `within` or in all."""
        codes, size = self.codes[:, self.depth], self.size
        of_path = np.zeros(len(self.paths), dtype=np.int64) if within is None else self.paths[:, within]
        of_code = np.zeros(len(codes), dtype=np.int64) if within is None else self.codes[:, within]
        chosen: NDArray[np.int64] = different_values((of_code * size + codes)[codes < self.blank])
        first, last = np.searchsorted(chosen // size, of_path), np.searchsorted(chosen // size, of_path, side="right")
        owner, at = _spread(first, last)
        return owner * size + chosen[at] % size

    def every(self, members: NDArray[np.int64]) -> NDArray[np.int64]:
        """All of these members below each path."""
        owner, at = _spread(np.zeros(len(self.paths), dtype=np.int64), np.full(len(self.paths), len(members)))
        return owner * self.size + members[at]

    def between(self) -> NDArray[np.int64]:
        """All bands from the first that has rows below a path to the last."""
        banded = self.present[self.present % self.size != self.blank]
        low, high = _reaches(banded // self.size, banded % self.size, len(self.paths))
        owner, code = _spread(np.minimum(low, high + 1), high + 1)
        return owner * self.size + code

    def filled(self, wanted: NDArray[np.int64]) -> NDArray[np.int64]:
        """With what has rows; and every path needs something below it, which stays hidden where nothing is wanted."""
        found = different_values(np.concatenate([wanted, self.present]))
        bare = np.ones(len(self.paths), dtype=np.bool_)
        bare[found // self.size] = False
        return different_values(np.concatenate([found, np.flatnonzero(bare) * self.size]))


def _spread(first: NDArray[np.int64], end: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Every whole number from `first` to below `end`, and the place of the pair that it is of. Raises Refusal where
    they would be too many."""
    lengths = end - first
    if int(lengths.sum()) > MOST_NODES:
        raise Refusal(*_TOO_MANY)
    owner = np.repeat(np.arange(len(first), dtype=np.int64), lengths)
    begins = np.cumsum(lengths) - lengths
    return owner, np.arange(len(owner), dtype=np.int64) - begins[owner] + first[owner]


def finish(
    axis: RawAxis, folded: Fold, phrase: Phrase, by_measure: dict[LevelPair, Block] | None, *, on_rows: bool
) -> tuple[Axis, Nodes]:
    """Leave out what no row stands behind, and put the rest in order."""
    if axis.depth == 0:
        return _total_alone()
    if by_measure is not None and phrase.order is not None:
        ranks = _ranks_by_figure(axis, by_measure, phrase.order, on_rows=on_rows)
        return _without_same(axis, *finished(axis, _shown(axis, folded, phrase, on_rows=on_rows), ranks))
    # In its own order an axis depends only on what has rows: slicing back and forth finds it again.
    memo = folded.cells.memo
    lasting = AXES.get(memo, axis.headings) is axis
    key: tuple[object, ...] = ()
    if lasting:
        occurs = folded.row_counts[(axis.depth, 0) if on_rows else (0, axis.depth)] > 0
        key = (axis.headings, phrase.order, phrase.every_member, occurs.tobytes())
    found = _FINISHED.get(memo, key) if lasting else None
    if found is None:
        if lasting and axis.depth == 1 and phrase.order is None and occurs.all():
            found = (plain(axis), [None, None])
        else:
            shown = _shown(axis, folded, phrase, on_rows=on_rows)
            found = _without_same(axis, *finished(axis, shown, _own_ranks_of(axis, phrase.order)))
        if lasting:
            _FINISHED.put(memo, key, found)
    return found


@lru_cache(maxsize=1)
def _total_alone() -> tuple[Axis, Nodes]:
    return Axis((), (), (Level(np.zeros((1, 0), dtype=np.int64), np.zeros(1, dtype=np.intp)),)), [None]


def _without_same(raw: RawAxis, axis: Axis, nodes: Sequence[NDArray[np.intp]]) -> tuple[Axis, Nodes]:
    sizes = [len(starts) for starts in raw.starts]
    return axis, [
        None if len(each) == size and np.array_equal(each, np.arange(size)) else each
        for each, size in zip(nodes, sizes, strict=True)
    ]


def _shown(axis: RawAxis, folded: Fold, phrase: Phrase, *, on_rows: bool) -> list[NDArray[np.bool_]]:
    """Which nodes of each level are shown: none without the node above it."""
    shown: list[NDArray[np.bool_]] = []
    keeps_empty = phrase.every_member or axis.banded
    limited = {each.heading: each.each for each in phrase.keeping}
    for level in range(axis.depth + 1):
        counts = folded.row_counts[(level, 0) if on_rows else (0, level)].reshape(-1)
        if keeps_empty and level:
            here = _shown_empty(axis, level, counts, phrase.every_member, limited)
            parents = axis.node_of_finest(level - 1)[axis.starts[level]]
            shown.append(here & shown[-1][parents])
        else:
            shown.append(counts > 0 if level else np.ones(len(counts), dtype=np.bool_))
    return shown


def _ranks_by_figure(
    axis: RawAxis, by_measure: dict[LevelPair, Block], order: Order, *, on_rows: bool
) -> list[NDArray[np.float64]]:
    ranks = [np.zeros(1)]
    for level in range(1, axis.depth + 1):
        figures = by_measure[(level, 0) if on_rows else (0, level)].reshape(-1)
        codes = level_codes(axis, level)[:, -1]
        ranks.append(_figure_ranks(figures, codes, axis.members[level - 1], order.largest))
    return ranks


def _own_ranks_of(axis: RawAxis, order: Order | None) -> list[NDArray[np.float64]]:
    ranks = [np.zeros(1)]
    for level in range(1, axis.depth + 1):
        codes = level_codes(axis, level)[:, -1]
        ranks.append(_own_ranks(codes, axis.headings[level - 1], axis.members[level - 1], order))
    return ranks


def _shown_empty(
    axis: RawAxis, level: int, counts: Block, every_member: bool, limited: Mapping[Heading, Heading | None]
) -> NDArray[np.bool_]:
    heading, members = axis.headings[level - 1], axis.members[level - 1]
    codes = level_codes(axis, level)
    shown = np.asarray(counts > 0)
    if every_member:
        # A blank is no member: it is shown only with rows of its own; so are members that are gathered.
        plain = np.array([member is not None and not isinstance(member, Others) for member in members], dtype=np.bool_)
        empty = plain[codes[:, -1]]
        if heading in limited:  # of members that keeping has chosen, those kept: they have rows somewhere
            among = limited[heading]
            keys = codes[:, -1]
            if among in axis.headings[: level - 1]:
                keys = keys + codes[:, axis.headings.index(among)] * len(members)
            empty &= np.isin(keys, keys[shown])
        return np.asarray(shown | empty)
    # Bands: an empty one is shown only between its own siblings that have rows; one that keeping left out never.
    if heading.bands is None or heading in limited:
        return shown
    blank = len(members) - 1
    parents, bands = axis.node_of_finest(level - 1)[axis.starts[level]], codes[:, -1]
    live = shown & (bands != blank)
    low, high = _reaches(parents[live], bands[live], len(axis.starts[level - 1]))
    return np.asarray(shown | ((bands >= low[parents]) & (bands <= high[parents])))


def _reaches(
    parents: NDArray[np.intp], bands: NDArray[np.int64], size: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The first and the last band of each of `size` parents; of one that has none, none lies between."""
    low, high = np.full(size, np.iinfo(np.int64).max), np.full(size, -1)
    np.minimum.at(low, parents, bands)
    np.maximum.at(high, parents, bands)
    return low, high


def _figure_ranks(
    figures: Block, codes: NDArray[np.int64], members: tuple[Member, ...], largest: bool
) -> NDArray[np.float64]:
    keys = np.where(np.isnan(figures), np.inf, -figures if largest else figures)
    gathered = np.array([isinstance(member, Others) for member in members], dtype=np.bool_)[codes]
    order = np.lexsort((codes, keys, gathered))
    ranks = np.empty(len(order))
    ranks[order] = np.arange(len(order))
    return ranks


def _own_ranks(
    codes: NDArray[np.int64], heading: Heading, members: tuple[Member, ...], order: Order | None
) -> NDArray[np.float64]:
    ranks = codes.astype(np.float64)
    if order is None or order.heading != heading:
        return ranks
    last = np.array([member is None or isinstance(member, Others) for member in members], dtype=np.bool_)[codes]
    if order.backwards:
        return np.where(last, ranks, -ranks - 1)
    place: dict[int, float] = {}
    for at, value in enumerate(order.sequence):
        code = comparisons.code_of_value(heading, members, value)
        if code >= 0:
            place[code] = at - len(order.sequence)
    return np.array([place.get(int(code), float(code)) for code in codes], dtype=np.float64)
