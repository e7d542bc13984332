"""What stands along a chart when slicing has left some members without rows: those before slicing among the others."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

from summula.core.arrays import np
from summula.core.charts.series import Category, Series, categories, named_members, series_of
from summula.core.engine.aligning import same_nodes
from summula.core.fields.heading import Others
from summula.core.memory import Remembered
from summula.core.phrases.forms import FORMS

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from summula.core.charts.chart import Chart
    from summula.core.engine.axis import Axis
    from summula.core.engine.grid import Grid

SeriesFigures = list[list[float]]  # of each category, of each series; NaN for a blank


class MembersShown(NamedTuple):
    """The members along and the series, those that only the picture before slicing has with a node of -1; `every`: how
    many members there are in all. `rows` and `columns`: where each stands in the picture before slicing, -1 for one
    that it does not have."""

    cats: list[Category]
    series: list[Series]
    every: int
    rows: list[int]
    columns: list[int]


class _Joined(NamedTuple):
    """Where each member along stands now and before slicing; -1 where it does not."""

    now: NDArray[np.intp]
    before: NDArray[np.intp]


# Of an axis, with the one before slicing.
_JOINED: Remembered[tuple[Axis, bool], _Joined] = Remembered("joined", most=1)


def members_shown(chart: Chart, most: int | None = None) -> MembersShown:
    """What stands along a chart, the first `most` members of it. Members that slicing has left without rows stay where
    the form has room for so many: their ghosts tell most."""
    grid, ghost = chart.grid, chart.ghost
    series = series_of(grid, chart.look.inks)
    if ghost is None:
        every = grid.rows.levels[grid.rows.depth].size
        cats = categories(grid, most)
        return MembersShown(cats, series, every, [-1] * len(cats), [-1] * len(series))
    joined = _joined(grid, ghost)
    needs = FORMS[chart.form]
    block = ghost.values[ghost.finest]
    if needs.most_marks and len(joined.now) * block.shape[0] * block.shape[2] > needs.most_marks:
        there = joined.now >= 0
        joined = _Joined(joined.now[there], joined.before[there])
    now, before = joined.now[:most], joined.before[:most]
    present, gone = named_members(grid.rows, now[now >= 0]), named_members(ghost.rows, before[now < 0])
    cats = [Category(node, *next(present if node >= 0 else gone)) for node in now.tolist()]
    if series:
        place = same_nodes(ghost.columns, grid.columns)[-1]
        columns = [int(place[each.node]) for each in series]
    else:
        earlier = series_of(ghost, chart.look.inks)
        columns = [each.node for each in earlier]
        series = [Series(-1, each.measure, each.path, each.label, each.ink, each.pairs) for each in earlier]
    return MembersShown(cats, series, len(joined.now), before.tolist(), columns)


def _joined(grid: Grid, ghost: Grid) -> _Joined:
    """The members of the picture before slicing: in that picture's order where it is the heading's own, after all
    others where the figures order them."""
    phrase = grid.phrase
    by_figures = phrase.order is not None and phrase.order.measure is not None
    in_its_order = not by_figures and not any(keep.heading in phrase.by for keep in phrase.keeping)
    if grid.rows is ghost.rows:  # what remembers itself is only let go when garbage is looked through
        return _join(grid.rows, ghost.rows, in_its_order)
    return _JOINED.of(grid.rows.memo, (ghost.rows, in_its_order), lambda: _join(grid.rows, ghost.rows, in_its_order))


def _join(now: Axis, before: Axis, in_its_order: bool) -> _Joined:
    place = same_nodes(before, now)[-1]
    left_out = np.ones(before.levels[before.depth].size, dtype=np.bool_)
    left_out[place[place >= 0]] = False
    for members, codes in zip(before.members, before.levels[before.depth].codes.T, strict=True):
        left_out &= ~np.array([isinstance(each, Others) for each in members], dtype=np.bool_)[codes]
    gone = np.flatnonzero(left_out)
    joined = _Joined(np.append(np.arange(len(place)), np.full(len(gone), -1)), np.append(place, gone))
    if not in_its_order:
        return joined
    order = np.argsort(np.where(joined.before < 0, len(left_out), joined.before), kind="stable")
    return _Joined(joined.now[order], joined.before[order])


def figures_at(grid: Grid, rows: Sequence[int], columns: Sequence[int], series: Sequence[Series]) -> SeriesFigures:
    """The figures at these finest rows and, for each of the series, at its column; NaN where either is -1."""
    block = grid.values[grid.finest]
    if not block.size or not series or not rows:
        return [[math.nan] * len(series) for _ in rows]
    row, column = np.array(rows, dtype=np.intp)[:, None], np.array(columns, dtype=np.intp)[None, :]
    found = block[np.array([each.measure for each in series])[None, :], row, column]
    found[np.broadcast_to((row < 0) | (column < 0), found.shape)] = math.nan
    return found.tolist()  # type: ignore[no-any-return]
