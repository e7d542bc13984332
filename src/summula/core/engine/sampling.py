"""Putting the values of the rows in play together, as the phrase's form draws them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, TypeAlias

from summula.core.arrays import np
from summula.core.engine.runs import SortedValues, sorted_values
from summula.core.engine.samples import (
    MOST_MULTIPLES,
    Boxes,
    Density,
    Points,
    Ranges,
    Records,
    Samples,
    Several,
)
from summula.core.engine.spreads import Edges, boxes, counted, edges_of
from summula.core.engine.trends import moments, moments_between
from summula.core.phrases.forms import BY_ROW_FORMS, FORMS
from summula.core.phrases.phrase import Aggregate, Calculation, Phrase, aggregates_of, figures_shown, is_each_row
from summula.core.refusal import Refusal
from summula.core.tables.column import stretches

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.axis import Axis
    from summula.core.engine.fold import Fold, Groups

Nodes: TypeAlias = "NDArray[np.intp] | None"

_MOST_POINTS = 3000
_FINE = (240, 480)  # the squares, upward and along, that more rows are counted in


def check(phrase: Phrase) -> None:
    """Refuse `each row` where one figure is needed."""
    figures = figures_shown(phrase)
    others = [each.measure for each in phrase.keeping]
    if phrase.order is not None and phrase.order.measure is not None:
        others.append(phrase.order.measure)
    for measure in (*figures, *others):
        if all(aggregate.function != "each row" for aggregate in aggregates_of(measure.calculation)):
            continue
        if not is_each_row(measure.calculation) or measure.comparison is not None or measure in others:
            raise Refusal(
                "'each row' is many values, and no single figure to reckon, compare or order with",
                "use mean or median of it",
            )
        if phrase.form not in BY_ROW_FORMS:
            raise Refusal(
                f"'each row' is many values, which drawn as {phrase.form} have no place",
                f"draw it as {' or '.join(BY_ROW_FORMS)}, or use median of it",
            )


def samples(
    fold: Fold,
    phrase: Phrase,
    row_nodes: Nodes,
    column_nodes: Nodes,
    several: Axis | None = None,
    before: Samples | None = None,
) -> Samples | None:
    """The values of the rows in play, as the phrase's form draws them; None when it asks for none, or has no values.
    `row_nodes` and `column_nodes` tell which raw node each node shown is (None: the same). `several`: the rows' axis,
    where its first heading makes small multiples. `before`: those of the same rows and more, whose ranges are taken."""
    sampled = FORMS[phrase.form].sampled
    if not sampled:
        return None
    asked = [measure.calculation for measure in figures_shown(phrase)]
    if not asked or not all(is_each_row(each) for each in asked):
        return None
    if sampled != "records" and len(asked) != FORMS[phrase.form].figures[0]:
        return None
    places, shape = fold.row_groups(Aggregate("rows"), (fold.rows.depth, fold.columns.depth))
    down = shape[0] if row_nodes is None else len(row_nodes)
    across = shape[1] if column_nodes is None else len(column_nodes)
    if sampled == "spreads" and several is None and down * across > FORMS[phrase.form].most_marks:
        return None  # more than are drawn
    in_play = places >= 0
    rows = None if in_play.all() else np.flatnonzero(in_play)  # None: all of them, which need not be picked
    if sampled == "records":
        return _records(fold, asked, places, shape, row_nodes, several)
    if sampled in ("ranges", "spreads") and several is None:
        ordered = _sorted(fold, asked[0], places, shape)
        if ordered is not None:
            nodes = np.arange(shape[0] * shape[1]).reshape(shape)
            nodes = nodes if row_nodes is None else nodes[row_nodes]
            groups = (nodes if column_nodes is None else nodes[:, column_nodes]).ravel().tolist()
            if not len(ordered.runs.keys):
                return None
            if sampled == "spreads":
                return ordered.boxes(groups)
            return ordered.ranges(groups, _edges_like(before) or ordered.edges(groups))
    values = [_values(fold, each, rows) for each in asked]
    known = ~np.isnan(values[0])
    for each in values[1:]:
        known &= ~np.isnan(each)
    if not known.any():
        return None
    raw_rows, raw_columns = _parted(places if rows is None else places[rows], shape)
    whole = bool(known.all())
    row = _shown(raw_rows if whole else raw_rows[known], row_nodes, shape[0])
    column = _shown(raw_columns if whole else raw_columns[known], column_nodes, shape[1])
    y = values[0] if whole else values[0][known]
    if sampled == "spreads":
        if several is not None:  # of those alone that are drawn
            down = int(np.searchsorted(first_nodes(several), MOST_MULTIPLES))
            drawn = row < down
            y, row, column = y[drawn], row[drawn], column[drawn]
        every = boxes(y, row * across + column, down * across)
        if several is None:
            return every
        ends = np.searchsorted(first_nodes(several), np.arange(several.levels[1].size + 1)) * across
        count = min(len(ends) - 1, MOST_MULTIPLES)
        return Several(tuple(Boxes(every.spreads[ends[at] : ends[at + 1]]) for at in range(count)))
    x = y if sampled != "points" else values[1] if whole else values[1][known]
    if several is None:
        if sampled == "ranges":
            return counted(y, column, across, _edges_like(before) or edges_of(y), len(known) - len(y))
        return Points(column, x, y) if len(x) <= _MOST_POINTS else _density(x, y, _reach_like(before))
    part_of = first_nodes(several)
    part = part_of[row]
    blank_row = _shown(raw_rows[~known], row_nodes, shape[0])
    blanks = np.bincount(part_of[blank_row], minlength=several.levels[1].size)
    found: list[Ranges | Points | Density | None] = []
    edges = (_edges_like(before) or edges_of(y)) if sampled == "ranges" else None
    reach = _reach_like(before) or (_extent(x), _extent(y))
    for at in range(min(several.levels[1].size, MOST_MULTIPLES)):
        own = part == at
        if not own.any():
            found.append(None)
        elif edges is not None:
            found.append(counted(y[own], column[own], across, edges, int(blanks[at])))
        elif len(x) <= _MOST_POINTS:
            found.append(Points(column[own], x[own], y[own]))
        else:
            found.append(_density(x[own], y[own], reach))
    return Several(tuple(found))


def _sorted(fold: Fold, asked: Calculation, places: Groups, shape: tuple[int, int]) -> SortedValues | None:
    assert isinstance(asked, Aggregate) and asked.field is not None
    return sorted_values(fold, asked.field, places, shape[0] * shape[1])


def _parts(samples: Samples | None) -> tuple[Ranges | Boxes | Points | Density | Records | None, ...]:
    return samples.parts if isinstance(samples, Several) else (samples,)


def _edges_like(before: Samples | None) -> Edges | None:
    """The ranges that others are counted in."""
    for each in _parts(before):
        if isinstance(each, Ranges):
            return Edges(each.edges, each.below, each.above)
    return None


def _reach_like(before: Samples | None) -> tuple[tuple[float, float], tuple[float, float]] | None:
    """From where to where the squares of others go, along and upward."""
    for each in _parts(before):
        if isinstance(each, Density):
            return each.x, each.y
    return None


_MOST_RECORDS = 500


def _records(
    fold: Fold,
    asked: Sequence[Calculation],
    places: Groups,
    shape: tuple[int, int],
    row_nodes: Nodes,
    several: Axis | None,
) -> Samples:
    """The first rows in play, or the first of each of small multiples."""
    rows = np.flatnonzero(places >= 0)

    def record(own: NDArray[np.intp]) -> Records:
        first = own[:_MOST_RECORDS]
        return Records(np.array([_values(fold, each, first) for each in asked]), first, len(own))

    if several is None:
        return record(rows)
    raw, _ = _parted(places[rows], shape)
    part = first_nodes(several)[_shown(raw, row_nodes, shape[0])]
    return Several(tuple(record(rows[part == at]) for at in range(min(several.levels[1].size, MOST_MULTIPLES))))


def _parted(places: NDArray[np.integer], shape: tuple[int, int]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """The row and the column of each place."""
    wide = places.astype(np.intp, copy=False)
    if shape[1] == 1:
        return wide, np.zeros(len(wide), dtype=np.intp)
    if shape[0] == 1:
        return np.zeros(len(wide), dtype=np.intp), wide
    row = wide // shape[1]
    return row, wide - row * shape[1]


def first_nodes(axis: Axis) -> NDArray[np.intp]:
    """Of each finest node, the node of the first heading that it belongs to."""
    found = np.arange(axis.levels[axis.depth].size)
    for level in range(axis.depth, 1, -1):
        found = axis.levels[level].parent[found]
    return found


def _values(fold: Fold, calculation: Calculation, rows: NDArray[np.intp] | None) -> NDArray[np.float64]:
    """A field's values in true units, NaN where blank; of all rows with None."""
    assert isinstance(calculation, Aggregate) and calculation.field is not None
    source = fold.cells.table.number(calculation.field)
    found = (source.values if rows is None else source.values[rows]) / source.unit
    if source.blank is not None:
        found[source.blank if rows is None else source.blank[rows]] = np.nan
    return found


def _extent(values: NDArray[np.float64]) -> tuple[float, float]:
    return _widened(float(values.min()), float(values.max()))


def _widened(low: float, high: float) -> tuple[float, float]:
    """The ends of a scale, apart from each other where all values are alike."""
    if high - low < max(1e-300, 1e-12 * abs(high)):
        low, high = low - 0.5 * (abs(low) or 1.0), high + 0.5 * (abs(high) or 1.0)
    return low, high


def _density(
    x: NDArray[np.float64], y: NDArray[np.float64], reach: tuple[tuple[float, float], tuple[float, float]] | None = None
) -> Density:
    """Counted a value at a time in whole parts of the extents (`reach`: of x and y, where they are wider); the greatest
    value lies in the last part."""
    own_x, own_y = (float(x.min()), float(x.max())), (float(y.min()), float(y.max()))
    along, up = reach or (_widened(*own_x), _widened(*own_y))
    keys = np.empty(len(x), dtype=np.int32)
    for part in stretches(len(x), 1 << 14):
        row = ((y[part] - up[0]) * (_FINE[0] / (up[1] - up[0]))).astype(np.int32)
        column = ((x[part] - along[0]) * (_FINE[1] / (along[1] - along[0]))).astype(np.int32)
        np.minimum(row, _FINE[0] - 1, out=row)
        row *= _FINE[1]
        row += np.minimum(column, _FINE[1] - 1, out=column)
        keys[part] = row
    counts = np.bincount(keys, minlength=_FINE[0] * _FINE[1]).astype(np.float64)
    all_finite = all(map(math.isfinite, (*own_x, *own_y)))
    sums = moments_between(x, y, *own_x) if all_finite else moments(x, y)
    return Density(counts.reshape(_FINE), along, up, sums)


def _shown(raw: NDArray[np.intp], nodes: Nodes, size: int) -> NDArray[np.intp]:
    """From raw nodes to their places among those shown."""
    if nodes is None:
        return raw
    place = np.full(size, -1, dtype=np.intp)
    place[nodes] = np.arange(len(nodes))
    return place[raw]
