"""The values themselves, behind the finest figures: what histograms, box plots and scatters of rows are drawn from."""

from __future__ import annotations

import msgspec
import numpy as np
from numpy.typing import NDArray

from summula.core.refusal import Refusal
from summula.core.summaries.fold import Fold
from summula.core.summaries.phrase import Aggregate, Calculation, Phrase, aggregates_of, figures_shown

Nodes = NDArray[np.intp] | None
BY_ROW_FORMS = ("histogram", "box plot", "scatter")


class Samples(msgspec.Struct, frozen=True, eq=False):
    """One entry a row in play: its finest nodes, and its value in each measure of `each row` (NaN where blank; None for
    a measure of another sort), in true units."""

    row: NDArray[np.intp]
    column: NDArray[np.intp]
    values: tuple[NDArray[np.float64] | None, ...]


def is_each_row(calculation: Calculation) -> bool:
    """Whether a figure stands for the values themselves."""
    return isinstance(calculation, Aggregate) and calculation.function == "each row"


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
                "draw it as histogram, box plot or scatter, or use median of it",
            )


def samples(fold: Fold, phrase: Phrase, row_nodes: Nodes, column_nodes: Nodes) -> Samples | None:
    """The rows in play with their values; None when the phrase asks for none. `row_nodes` and `column_nodes` tell which
    raw node each node shown is (None: the same)."""
    figures = figures_shown(phrase)
    if not any(is_each_row(measure.calculation) for measure in figures):
        return None
    places, shape = fold.row_groups(Aggregate("rows"), (fold.rows.depth, fold.columns.depth))
    rows = np.flatnonzero(places >= 0)
    row, column = np.divmod(places[rows].astype(np.intp), max(shape[1], 1))
    values: list[NDArray[np.float64] | None] = []
    for measure in figures:
        aggregate = measure.calculation
        if not isinstance(aggregate, Aggregate) or aggregate.function != "each row":
            values.append(None)
            continue
        assert aggregate.field is not None
        source = fold.cells.table.number(aggregate.field)
        here = source.values[rows] / source.unit
        if source.blank is not None:
            here[source.blank[rows]] = np.nan
        values.append(here)
    return Samples(_shown(row, row_nodes, shape[0]), _shown(column, column_nodes, shape[1]), tuple(values))


def _shown(raw: NDArray[np.intp], nodes: Nodes, size: int) -> NDArray[np.intp]:
    """From raw nodes to their places among those shown."""
    if nodes is None:
        return raw
    place = np.full(size, -1, dtype=np.intp)
    place[nodes] = np.arange(len(nodes))
    return place[raw]
