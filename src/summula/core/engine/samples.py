"""The values themselves, put together as histograms, box plots and scatters of rows draw them. That is done where the
rows are asked, so that drawing need not look at a million of them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, TypeAlias

import msgspec

from summula.core.arrays import np
from summula.core.engine.axis import Axis
from summula.core.engine.fold import Fold
from summula.core.engine.trends import Moments, moments
from summula.core.fields.figures import round_step
from summula.core.phrases.forms import BY_ROW_FORMS, FORMS
from summula.core.phrases.phrase import Aggregate, Calculation, Phrase, aggregates_of, figures_shown, is_each_row
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from numpy.typing import NDArray

Nodes: TypeAlias = "NDArray[np.intp] | None"


_RANGES = 24
_TAIL = 0.5  # percent of the values on either side that may share an open range
_REACH = 1.5  # whiskers end at the last value within so many lengths of the box (Tukey, 1977)
_MOST_POINTS = 3000
_NEAR = 1e-9  # of the number of ranges: nearer to a limit, a place is looked up
_FINE = (240, 480)  # the squares, upward and along, that more rows are counted in


class Limits(msgspec.Struct, frozen=True):
    """A part of a field's values: from `low` on, up to `high` (that one too where `closed`); `words` say it."""

    field: str
    low: float
    high: float
    words: str
    closed: bool = False


class Ranges(msgspec.Struct, frozen=True, eq=False):
    """How many values lie in equal ranges of round width: `counts` (column nodes, ranges), between `edges`; a range
    holds its lower limit, not its upper. The first or last may be open, since a long tail would leave all other values
    in one range. `blank` rows have no value."""

    edges: NDArray[np.float64]
    below: bool
    above: bool
    counts: NDArray[np.float64]
    blank: int


class Spread(msgspec.Struct, frozen=True):
    """Six figures of some values; quartiles by linear interpolation, as percentiles are. `beyond` lie outside the
    whiskers, ascending."""

    count: int
    low: float
    quarter: float
    median: float
    three_quarters: float
    high: float
    mean: float
    beyond: NDArray[np.float64]


class Boxes(msgspec.Struct, frozen=True, eq=False):
    """The spread of each finest figure, row by row; None where it has no values."""

    spreads: tuple[Spread | None, ...]


class Points(msgspec.Struct, frozen=True, eq=False):
    """A point a row that has both values, with the column node it belongs to."""

    column: NDArray[np.intp]
    x: NDArray[np.float64]
    y: NDArray[np.float64]


class Density(msgspec.Struct, frozen=True, eq=False):
    """Too many points to draw: `counts` (upward, along) of the rows in small equal parts of both extents."""

    counts: NDArray[np.float64]
    x: tuple[float, float]
    y: tuple[float, float]
    moments: Moments | None = None  # of the values themselves, for a trend


class Several(msgspec.Struct, frozen=True, eq=False):
    """The values of each of small multiples, in ranges or squares of the same limits; None where one has none. Of the
    first two dozen: no more are drawn."""

    parts: tuple[Ranges | Boxes | Points | Density | Records | None, ...]


class Records(msgspec.Struct, frozen=True, eq=False):
    """The first rows in play, one by one: `values` (measures, rows), NaN where blank; `rows` are their places in the
    table; `count` how many there are in all."""

    values: NDArray[np.float64]
    rows: NDArray[np.intp]
    count: int


Samples = Ranges | Boxes | Points | Density | Records | Several


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
    in_play = places >= 0
    rows = None if in_play.all() else np.flatnonzero(in_play)  # None: all of them, which need not be picked
    if sampled == "records":
        return _records(fold, asked, places, shape, row_nodes, several)
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
    across = shape[1] if column_nodes is None else len(column_nodes)
    down = shape[0] if row_nodes is None else len(row_nodes)
    if sampled == "spreads":
        if several is not None:  # of those alone that are drawn
            down = int(np.searchsorted(first_nodes(several), MOST_MULTIPLES))
            drawn = row < down
            y, row, column = y[drawn], row[drawn], column[drawn]
        boxes = _boxes(y, row * across + column, down * across)
        if several is None:
            return boxes
        ends = np.searchsorted(first_nodes(several), np.arange(several.levels[1].size + 1)) * across
        count = min(len(ends) - 1, MOST_MULTIPLES)
        return Several(tuple(Boxes(boxes.spreads[ends[at] : ends[at + 1]]) for at in range(count)))
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
MOST_MULTIPLES = 24


def _records(
    fold: Fold,
    asked: Sequence[Calculation],
    places: NDArray[np.integer],
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


class Edges(msgspec.Struct, frozen=True, eq=False):
    """The limits of ranges, and whether the first and last of them are open."""

    limits: NDArray[np.float64]
    below: bool
    above: bool


def ranges(values: NDArray[np.float64], column: NDArray[np.intp], columns: int, blank: int = 0) -> Ranges:
    """Values counted in about two dozen ranges."""
    return counted(values, column, columns, edges_of(values), blank)


def edges_of(values: NDArray[np.float64]) -> Edges:
    """About two dozen ranges of round width that hold all values; a long tail shares an open one."""
    low, high = float(values.min()), float(values.max())
    inner_low, inner_high = (float(each) for each in np.percentile(values, (_TAIL, 100 - _TAIL)))
    below = high > low and inner_low - low > 0.25 * (inner_high - inner_low)
    above = high > low and high - inner_high > 0.25 * (inner_high - inner_low)
    start, stop = inner_low if below else low, inner_high if above else high
    if stop - start < max(1e-300, 1e-12 * abs(stop)):
        start, stop = start - 0.5 * (abs(start) or 1.0), stop + 0.5 * (abs(stop) or 1.0)
    step = round_step((stop - start) / _RANGES)
    if np.array_equal(values, np.rint(values)):
        step = max(step, 1.0)
    first, last = math.floor(start / step + 1e-9), math.floor(stop / step + 1e-9) + 1
    return Edges(np.arange(first, last + 1, dtype=np.float64) * step, below, above)


def counted(values: NDArray[np.float64], column: NDArray[np.intp], columns: int, edges: Edges, blank: int) -> Ranges:
    """Values counted between limits; those beyond them in the outermost ranges."""
    size = len(edges.limits) - 1
    # Ranges are equally wide: a place is reckoned, and looked up where rounding could have taken it over a limit.
    first, step = float(edges.limits[0]), float(edges.limits[-1] - edges.limits[0]) / size
    reckoned = (values - first) * (1.0 / step)
    place = np.clip(reckoned, 0, size - 1).astype(np.int32)
    near = np.flatnonzero(np.abs(reckoned - np.rint(reckoned)) < _NEAR * (1 + abs(reckoned).max()))
    exact = np.searchsorted(edges.limits, values[near], side="right") - 1
    place[near] = np.clip(exact, 0, size - 1)
    counts = np.bincount(place if columns == 1 else column * size + place, minlength=columns * size).astype(np.float64)
    return Ranges(edges.limits, edges.below, edges.above, counts.reshape(columns, size), blank)


def _boxes(values: NDArray[np.float64], places: NDArray[np.intp], size: int) -> Boxes:
    small = places.astype(np.uint16) if size <= 1 << 16 else places  # which is sorted by counting
    order = np.argsort(small, kind="stable")
    values = values[order]
    ends = np.searchsorted(places[order], np.arange(size + 1))
    return Boxes(tuple(spread(values[ends[at] : ends[at + 1]]) for at in range(size)))


def spread(values: NDArray[np.float64]) -> Spread | None:
    """The spread of values without blanks; None of no values."""
    if len(values) == 0:
        return None
    quarter, median, three = (float(each) for each in np.percentile(values, (25, 50, 75)))
    reach = _REACH * (three - quarter)
    inside = (values >= quarter - reach) & (values <= three + reach)
    within = values[inside]
    beyond = np.sort(values[~inside])
    return Spread(
        len(values), float(within.min()), quarter, median, three, float(within.max()), float(values.mean()), beyond
    )


def _extent(values: NDArray[np.float64]) -> tuple[float, float]:
    low, high = float(values.min()), float(values.max())
    if high - low < max(1e-300, 1e-12 * abs(high)):
        low, high = low - 0.5 * (abs(low) or 1.0), high + 0.5 * (abs(high) or 1.0)
    return low, high


def _density(
    x: NDArray[np.float64], y: NDArray[np.float64], reach: tuple[tuple[float, float], tuple[float, float]] | None = None
) -> Density:
    """Counted a value at a time in whole parts of the extents (`reach`: of x and y, where they are wider); the greatest
    value lies in the last part."""
    extents = []
    parts = []
    reach = reach or (_extent(x), _extent(y))
    for values, size, (low, high) in ((y, _FINE[0], reach[1]), (x, _FINE[1], reach[0])):
        extents.append((low, high))
        parts.append(np.minimum(((values - low) * (size / (high - low))).astype(np.intp), size - 1))
    counts = np.bincount(parts[0] * _FINE[1] + parts[1], minlength=_FINE[0] * _FINE[1]).astype(np.float64)
    return Density(counts.reshape(_FINE), extents[1], extents[0], moments(x, y))


def _shown(raw: NDArray[np.intp], nodes: Nodes, size: int) -> NDArray[np.intp]:
    """From raw nodes to their places among those shown."""
    if nodes is None:
        return raw
    place = np.full(size, -1, dtype=np.intp)
    place[nodes] = np.arange(len(nodes))
    return place[raw]
