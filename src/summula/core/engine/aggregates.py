"""The aggregates: what each figure is, worked out from additive parts or from the rows themselves.

To add an aggregate: its word in phrase.py and words.py, and its function in `_ADDITIVE` or `_BY_ROW`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import cast

from summula.core.arrays import np
from summula.core.engine.cells import LIMBS, SumPart, exact_splitting
from summula.core.engine.distinct import distinct_count
from summula.core.engine.fold import Block, Fold, Groups, Levels
from summula.core.engine.percentiles import percentile
from summula.core.memory import Remembered
from summula.core.phrases.phrase import Aggregate, Condition
from summula.core.tables.column import STRETCH, NumberColumn, stretches
from summula.core.tables.exact import joined

_FIGURES: Remembered[Aggregate, Levels] = Remembered("figures", most=500)
_SPREADS: Remembered[tuple[str | None, tuple[Condition, ...]], tuple[Block, Block, Block]] = Remembered("spreads")


def figures(fold: Fold, aggregate: Aggregate) -> Levels:
    """The aggregate at every level pair, in true units; NaN where blank. Remembered by the fold."""
    work = _ADDITIVE.get(aggregate.function) or _BY_ROW[aggregate.function]
    return _FIGURES.of(fold.memo, aggregate, lambda: work(fold, aggregate))


def _number(fold: Fold, aggregate: Aggregate) -> NumberColumn:
    assert aggregate.field is not None
    return fold.cells.table.number(aggregate.field)


def _rows(fold: Fold, aggregate: Aggregate) -> Levels:
    return fold.added(aggregate, None)


def _count(fold: Fold, aggregate: Aggregate) -> Levels:
    return fold.added(aggregate, "count")


def _totals(fold: Fold, aggregate: Aggregate) -> tuple[Levels, float]:
    """The sums in whole units, exact at every level, and the unit to divide them by."""
    assert aggregate.field is not None
    splitting = exact_splitting(fold.cells.table, aggregate.field)
    if splitting is None:
        return fold.added(aggregate, "sum"), _number(fold, aggregate).unit
    limbs = [fold.added(aggregate, part) for part in LIMBS[: splitting.limbs]]
    return {level: joined([each[level] for each in limbs]) for level in fold.levels}, splitting.unit


def _sum(fold: Fold, aggregate: Aggregate) -> Levels:
    counts, (totals, unit) = _count(fold, aggregate), _totals(fold, aggregate)
    found = {level: total / unit for level, total in totals.items()}
    finest = counts[fold.levels[-1]]
    if np.count_nonzero(finest) < finest.size or not fold.cells.size:  # else every figure has values
        for level, sums in found.items():
            np.copyto(sums, np.nan, where=counts[level] == 0)
    return found


def _mean(fold: Fold, aggregate: Aggregate) -> Levels:
    counts, (totals, unit) = _count(fold, aggregate), _totals(fold, aggregate)
    with np.errstate(invalid="ignore"):  # of no values: 0 / 0
        return {level: total / (counts[level] * unit) for level, total in totals.items()}


def _min(fold: Fold, aggregate: Aggregate) -> Levels:
    unit = _number(fold, aggregate).unit
    return {level: least / unit for level, least in fold.extreme(aggregate, "min").items()}


def _max(fold: Fold, aggregate: Aggregate) -> Levels:
    unit = _number(fold, aggregate).unit
    return {level: greatest / unit for level, greatest in fold.extreme(aggregate, "max").items()}


def _range(fold: Fold, aggregate: Aggregate) -> Levels:
    column = _number(fold, aggregate)
    least, most = fold.extreme(aggregate, "min"), fold.extreme(aggregate, "max")
    found = {level: (greatest - least[level]) / column.unit for level, greatest in most.items()}
    assert aggregate.field is not None
    splitting = exact_splitting(fold.cells.table, aggregate.field)
    if splitting is None or splitting.decimals is None or splitting.decimals == column.decimals or column.per != 1:
        return found
    # Decimals that the column does not hold as whole units: their difference has no more of them.
    return {level: np.round(block, splitting.decimals) for level, block in found.items()}


def _edge(fold: Fold, aggregate: Aggregate) -> Levels:
    """The first or last value, in the order of the file."""
    column = _number(fold, aggregate)
    found = {}
    for level, rows in fold.extreme(aggregate, cast(SumPart, aggregate.function)).items():
        at = np.where(np.isnan(rows), 0, rows).astype(np.intp)
        found[level] = np.where(np.isnan(rows), np.nan, column.values[at] / column.unit)
    return found


def _variance(fold: Fold, aggregate: Aggregate) -> Levels:
    """Divided by n-1. The finest figures' means and squares about them come from the rows, in two passes, so that large
    figures lose nothing; coarser ones are put together from them (Chan, Golub and LeVeque, 1979). All is measured from
    one of the values themselves: where they are all alike, the variance is 0 and not a hair above."""
    column = _number(fold, aggregate)
    count, mean, squares = _spread(fold, aggregate, column)
    counts, origins = fold.rolled(np.add, count), fold.rolled(np.fmax, np.where(count > 0, mean, np.nan))
    found = {}
    for level in fold.levels:
        with np.errstate(invalid="ignore", divide="ignore"):
            rows, columns = fold.rows.node_of_finest(level[0]), fold.columns.node_of_finest(level[1])
            if mean.size:
                apart = np.where(count > 0, mean - origins[level][rows[:, None], columns], 0.0)
                shift = fold.rolled_to(np.add, count * apart, level) / np.maximum(counts[level], 1)
                apart = apart - shift[rows[:, None], columns]
            else:
                apart = mean
            whole = fold.rolled_to(np.add, squares + count * apart**2, level)
            found[level] = np.where(counts[level] > 1, whole / np.maximum(counts[level] - 1, 1), np.nan)
            found[level] /= column.unit**2
    return found


def _spread(fold: Fold, aggregate: Aggregate, column: NumberColumn) -> tuple[Block, Block, Block]:
    """Of each finest figure: how many values, their mean, and the sum of their squares about it; remembered."""
    key = (aggregate.field, aggregate.where)
    found = _SPREADS.get(fold.memo, key)
    if found is None:
        groups, shape = fold.row_groups(aggregate, (fold.rows.depth, fold.columns.depth))
        size = shape[0] * shape[1]
        count, total, squares, origin = np.zeros(size), np.zeros(size), np.zeros(size), np.zeros(size)

        def parts() -> Iterator[tuple[Groups, Block]]:
            for part in stretches(len(groups), max(STRETCH, size)):
                here, values = groups[part], column.values[part]
                inside = here >= 0 if column.blank is None else (here >= 0) & ~column.blank[part]
                yield (here, values) if inside.all() else (here[inside], values[inside])

        for here, values in parts():
            origin[here] = values  # any of a figure's values, from which the others are measured
        for here, values in parts():
            count += np.bincount(here, minlength=size)
            total += np.bincount(here, weights=values - origin[here], minlength=size)
        mean = total / np.maximum(count, 1)
        for here, values in parts():
            squares += np.bincount(here, weights=(values - origin[here] - mean[here]) ** 2, minlength=size)
        found = (count.reshape(shape), (origin + mean).reshape(shape), squares.reshape(shape))
        _SPREADS.put(fold.memo, key, found)
    return found


def _standard_deviation(fold: Fold, aggregate: Aggregate) -> Levels:
    return {level: np.sqrt(variance) for level, variance in _variance(fold, aggregate).items()}


def _percentile(fold: Fold, aggregate: Aggregate) -> Levels:
    return {level: percentile(fold, aggregate, level) for level in fold.levels}


def _each_row(fold: Fold, aggregate: Aggregate) -> Levels:
    """No figure stands for many values: they are in the grid's samples."""
    return {level: np.full(fold.shape(level), np.nan) for level in fold.levels}


_Figures = Callable[[Fold, Aggregate], Levels]
_ADDITIVE: dict[str, _Figures] = {
    "rows": _rows,
    "count": _count,
    "sum": _sum,
    "mean": _mean,
    "min": _min,
    "max": _max,
    "range": _range,
    "first": _edge,
    "last": _edge,
}
ADDITIVE = frozenset(_ADDITIVE)  # worked out from cells alone
_BY_ROW: dict[str, _Figures] = {
    "median": _percentile,
    "percentile": _percentile,
    "distinct count": distinct_count,
    "variance": _variance,
    "standard deviation": _standard_deviation,
    "each row": _each_row,
}
