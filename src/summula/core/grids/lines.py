"""How a grid is laid out: which lines and columns stand in it, in which order, under which names."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, NamedTuple, overload

import msgspec

from summula.core.arrays import np
from summula.core.fields.labels import all_name, heading_name, label_of
from summula.core.grids.layout import PLAIN, Labels, Layout
from summula.core.memory import Remembered

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.axis import Axis
    from summula.core.engine.grid import Grid
    from summula.core.phrases.phrase import Phrase


class Row(msgspec.Struct, frozen=True):
    """A line of a grid. `measure` is None where the columns tell it. A line without `figures` is a head over members
    whose total stands below them, or nowhere. `first` of the lines of its node; `path`: the labels that lead to it."""

    level: int
    node: int
    path: Labels
    label: str
    measure: int | None = None
    figures: bool = True
    first: bool = True
    foldable: bool = False
    folded: bool = False


class Column(msgspec.Struct, frozen=True):
    """A column of a grid; `measure` is None where the lines tell it."""

    level: int
    node: int
    path: Labels
    measure: int | None = None
    folded: bool = False

    @property
    def place(self) -> tuple[int, int]:
        return self.level, self.node


class Rows(Sequence[Row]):
    """The lines of a grid in the order they are shown. Each is made when it is asked for: a grid may have very many."""

    def __init__(self, grid: Grid, layout: Layout, folded: frozenset[Labels], heads: bool) -> None:
        self._grid, self._layout = grid, layout
        self._known: dict[tuple[int, int], str] = {}  # labels by depth and code
        self.nodes = _ordered(
            grid.rows, grid.phrase, folded, layout.subtotals == "above", layout.bottom == "above", heads
        )
        self._each = len(grid.names) if as_rows(grid, layout) else 1
        lines = np.where(self.nodes.kinds == _HEAD, 1, self._each)
        self._ends = np.cumsum(lines)

    def __len__(self) -> int:
        return int(self._ends[-1]) if len(self._ends) else 0

    @overload
    def __getitem__(self, at: int) -> Row: ...
    @overload
    def __getitem__(self, at: slice) -> Sequence[Row]: ...
    def __getitem__(self, at: int | slice) -> Row | Sequence[Row]:
        if isinstance(at, slice):
            lines = range(*at.indices(len(self)))
            places = np.searchsorted(self._ends, np.asarray(lines, dtype=np.int64), side="right").tolist()
            return [self._row(each, place) for each, place in zip(lines, places, strict=True)]
        at = at + len(self) if at < 0 else at
        if not 0 <= at < len(self):
            raise IndexError(at)
        return self._row(at, int(np.searchsorted(self._ends, at, side="right")))

    def _row(self, at: int, place: int) -> Row:
        kind = int(self.nodes.kinds[place])
        level, node = int(self.nodes.levels[place]), int(self.nodes.nodes[place])
        path = self._path(level, node)
        of_node = at - int(self._ends[place - 1] if place else 0)
        return Row(
            level,
            node,
            path,
            _row_label(self._grid, self._layout, path, kind),
            None if self._each == 1 or kind == _HEAD else of_node,
            kind != _HEAD,
            of_node == 0,
            0 < level < self._grid.rows.depth and kind != _BEHIND,
            kind == _FOLDED,
        )

    def _path(self, level: int, node: int) -> Labels:
        """The labels that lead to a node; a member's is asked for on every line within it."""
        codes = self._grid.rows.levels[level].codes[node].tolist()
        return tuple(self._label(depth, code) for depth, code in enumerate(codes))

    def _label(self, depth: int, code: int) -> str:
        label = self._known.get((depth, code))
        if label is None:
            axis = self._grid.rows
            label = self._known[depth, code] = label_of(axis.headings[depth], axis.members[depth][code])
        return label

    def heads(self, most: int) -> set[tuple[str, int]]:
        """What the first `most` lines are called, each with its level."""
        axis = self._grid.rows
        among = np.unique(np.searchsorted(self._ends, np.arange(min(most, len(self))), side="right"))
        levels, nodes, kinds = self.nodes.levels[among], self.nodes.nodes[among], self.nodes.kinds[among]
        found = set()
        for level, kind in {*zip(levels.tolist(), kinds.tolist(), strict=True)}:
            own = nodes[(levels == level) & (kinds == kind)]
            codes = np.unique(axis.levels[level].codes[own, level - 1]).tolist() if level else []
            paths = [(self._label(level - 1, code),) for code in codes] if level else [()]
            found |= {(_row_label(self._grid, self._layout, path, kind), level) for path in paths}
        return found

    def places(self, start: int, stop: int) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
        """The levels, nodes and measures (-1: the columns tell them) of the lines start … stop-1 that have figures."""
        lines = np.arange(start, stop)
        at = np.searchsorted(self._ends, lines, side="right")
        kinds, levels, nodes = self.nodes.kinds[at], self.nodes.levels[at], self.nodes.nodes[at]
        measures = lines - np.append(0, self._ends)[at] if self._each > 1 else np.full(len(lines), -1)
        figures = kinds != _HEAD
        return levels[figures], nodes[figures], measures[figures]


def rows_of(
    grid: Grid, layout: Layout = PLAIN, folded: frozenset[Labels] = frozenset(), *, heads: bool = False
) -> Rows:
    """The lines in the order they are shown. With `heads`, members whose total stands elsewhere have a head."""
    return Rows(grid, layout, folded, heads)


class Columns(Sequence[Column]):
    """The columns of a grid in the order they are shown, each made when it is asked for."""

    def __init__(self, grid: Grid, layout: Layout, folded: frozenset[Labels]) -> None:
        self._axis = grid.columns
        self._own: list[int | None] = [None] if as_rows(grid, layout) else list(range(len(grid.names)))
        before = layout.across == "before"
        self._nodes = _ordered(grid.columns, grid.phrase, folded, before, before, heads=False)

    def __len__(self) -> int:
        return len(self._nodes.nodes) * len(self._own)

    @overload
    def __getitem__(self, at: int) -> Column: ...
    @overload
    def __getitem__(self, at: slice) -> list[Column]: ...
    def __getitem__(self, at: int | slice) -> Column | list[Column]:
        if isinstance(at, slice):
            return [self._column(each) for each in range(*at.indices(len(self)))]
        at = at + len(self) if at < 0 else at
        if not 0 <= at < len(self):
            raise IndexError(at)
        return self._column(at)

    def __iter__(self) -> Iterator[Column]:
        nodes = self._nodes
        places = zip(nodes.levels.tolist(), nodes.nodes.tolist(), nodes.kinds.tolist(), strict=True)
        labels = {level: labels_of_level(self._axis, level) for level in set(nodes.levels.tolist())}
        for level, node, kind in places:
            path = labels[level][node]
            for own in self._own:
                yield Column(level, node, path, own, kind == _FOLDED)

    def _column(self, at: int) -> Column:
        place, own = divmod(at, len(self._own))
        level, node = int(self._nodes.levels[place]), int(self._nodes.nodes[place])
        path = path_labels(self._axis, level, node)
        return Column(level, node, path, self._own[own], int(self._nodes.kinds[place]) == _FOLDED)


def columns_of(grid: Grid, layout: Layout = PLAIN, folded: frozenset[Labels] = frozenset()) -> Columns:
    """The columns in the order they are shown."""
    return Columns(grid, layout, folded)


def as_rows(grid: Grid, layout: Layout) -> bool:
    """Whether the measures are lines below each other: a single one needs no telling."""
    return layout.measures == "rows" and len(grid.names) > 1


def path_labels(axis: Axis, level: int, node: int) -> Labels:
    """The labels that lead to a node."""
    return tuple(label_of(h, m) for h, m in zip(axis.headings, axis.path(level, node), strict=False))


_LABELS: Remembered[int, list[Labels]] = Remembered("labels", most=3)  # of an axis, by level


def labels_of_level(axis: Axis, level: int) -> list[Labels]:
    """The labels that lead to each node of a level, not to be changed: each member's is made once."""
    return _LABELS.of(axis.memo, level, lambda: _labels_of_level(axis, level))


def _labels_of_level(axis: Axis, level: int) -> list[Labels]:
    headings = zip(axis.headings[:level], axis.members, axis.levels[level].codes.T.tolist(), strict=False)
    along: list[list[str]] = []
    for heading, members, codes in headings:
        labels = {code: label_of(heading, members[code]) for code in set(codes)}
        along.append([labels[code] for code in codes])
    return list(zip(*along, strict=True)) if along else [()] * axis.levels[level].size


_AHEAD, _HEAD, _BEHIND, _FOLDED = range(4)
"""How a node stands: with its figures at or before its members, as their head only, after them, or in their place."""


class _Ordered(NamedTuple):
    """The nodes of an axis in the order they are shown, and how each stands."""

    levels: "NDArray[np.int64]"
    nodes: "NDArray[np.int64]"
    kinds: "NDArray[np.int64]"


def _ordered(
    axis: Axis, phrase: Phrase, folded: frozenset[Labels], above: bool, bottom_first: bool, heads: bool
) -> _Ordered:
    depth, shown = axis.depth, set(shown_levels(axis, phrase))
    wide = 2 * depth + 2  # the places around a finest member: its heads, itself, the totals behind it
    keys, levels, nodes, kinds = [], [], [], []

    def put(level: int, chosen: NDArray[np.intp], at: NDArray[np.int64], kind: int) -> None:
        keys.append(at[chosen])
        levels.append(np.full(len(chosen), level))
        nodes.append(chosen)
        kinds.append(np.full(len(chosen), kind))

    if depth == 0 or 0 in shown:
        last = axis.levels[depth].size * wide + wide
        put(0, np.array([0]), np.array([-1 if bottom_first else last]), _BEHIND if depth else _AHEAD)
    closed = _folded_nodes(axis, folded)
    hidden: NDArray[np.bool_] = np.zeros(1, dtype=np.bool_)
    for level in range(1, depth + 1):
        parent = axis.levels[level].parent
        hidden = hidden[parent] | closed[level - 1][parent] if len(parent) else np.zeros(0, dtype=np.bool_)
        first, last_one = _finest_of(axis, level)
        if level == depth:
            put(level, np.flatnonzero(~hidden), first * wide + depth, _AHEAD)
            continue
        ahead = first * wide + level
        put(level, np.flatnonzero(~hidden & closed[level]), ahead, _FOLDED)
        unfolded = np.flatnonzero(~hidden & ~closed[level])
        if level in shown and above:
            put(level, unfolded, ahead, _AHEAD)
        elif heads:
            put(level, unfolded, ahead, _HEAD)
        if level in shown and not above:
            put(level, unfolded, last_one * wide + 2 * depth - level, _BEHIND)
    order = np.argsort(np.concatenate(keys), kind="stable") if keys else np.zeros(0, dtype=np.intp)
    if not keys:
        return _Ordered(order, order, order)
    return _Ordered(np.concatenate(levels)[order], np.concatenate(nodes)[order], np.concatenate(kinds)[order])


def _finest_of(axis: Axis, level: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The first and the last finest node below each node of a level; one without any stands before the next."""
    size = axis.levels[axis.depth].size
    first = last = np.arange(size, dtype=np.int64)
    for deeper in range(axis.depth, level, -1):
        parent = axis.levels[deeper].parent
        starts = np.searchsorted(parent, np.arange(axis.levels[deeper - 1].size + 1))
        holds = starts[1:] > starts[:-1]
        first = np.append(first, size)[starts[:-1]]
        last = np.where(holds, np.append(last, size)[starts[1:] - 1], first - 1)
    return first, last


def _folded_nodes(axis: Axis, folded: frozenset[Labels]) -> list[NDArray[np.bool_]]:
    """For each level, which of its nodes are folded."""
    found = [np.zeros(level.size, dtype=np.bool_) for level in axis.levels]
    for level in range(1, axis.depth):
        wanted = {path for path in folded if len(path) == level}
        if wanted:
            found[level] = np.array([path in wanted for path in labels_of_level(axis, level)], dtype=np.bool_)
    return found


def shown_levels(axis: Axis, phrase: Phrase) -> list[int]:
    """The levels a phrase shows: the finest always, subtotals and the total unless taken away."""
    middle = range(1, axis.depth) if phrase.subtotals else range(0)
    total = [0] if phrase.totals and axis.depth else []
    return sorted({axis.depth, *middle, *total})


def _row_label(grid: Grid, layout: Layout, path: Labels, kind: int) -> str:
    """What a line is called: its member, or the total of one."""
    if path:
        return f"{layout.subtotal_name or 'All'} {path[-1]}" if kind == _BEHIND else path[-1]
    if layout.bottom_name:
        return layout.bottom_name
    if not grid.rows.depth:
        return "All rows"
    return "All" if grid.rows.depth > 1 else all_name(grid.rows.headings[0])


def column_label(grid: Grid, layout: Layout, column: Column, level: int) -> str:
    """What stands over a column in the line of heads of a level; empty below a total's own name."""
    if level < len(column.path):
        return column.path[level]
    if level > len(column.path):
        return ""
    return (layout.subtotal_name if column.path else layout.across_name) or "All"


def row_titles(grid: Grid) -> list[str]:
    """The names of the headings by which the lines stand."""
    return [heading_name(heading) for heading in grid.rows.headings]


def figure_at(grid: Grid, row: Row, column: Column) -> float:
    """The figure of a line in a column; NaN for a head."""
    if not row.figures:
        return float("nan")
    return grid.figure(measure_at(row, column), (row.level, row.node), column.place)


def measure_at(row: Row, column: Column) -> int:
    """The measure that stands where a line and a column meet."""
    return row.measure if row.measure is not None else column.measure or 0
