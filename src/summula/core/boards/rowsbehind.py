"""The rows behind a figure, of whichever table it is: its own, or another that is linked to it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from summula.core.engine.axis import GridPlace, place_of
from summula.core.engine.behind import explanation, rows_behind
from summula.core.engine.linked import linked_phrase
from summula.core.phrases.phrase import Linked, figures_shown
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicerkinds import needs_of
from summula.core.tables.table import Table

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from summula.core.boards.linkedtables import LinkedTables
    from summula.core.engine.axis import Axis
    from summula.core.engine.cells import Cells, Dimension
    from summula.core.engine.grid import Grid
    from summula.core.engine.samples import Limits
    from summula.core.tables.column import Mask

Behind = tuple[Table, "NDArray[np.int64]", list[str]]
"""A table, the numbers of its rows, and the words that explain the figure."""


def behind(
    grid: Grid,
    table: Table,
    measure: int,
    row: GridPlace,
    column: GridPlace,
    others: LinkedTables | None = None,
    sliced: Sequence[Dimension] = (),
    narrow: Callable[[Cells], Mask | None] = lambda cells: None,
    within: Sequence[Limits] = (),
) -> Behind:
    """As `rows_behind`; where the measure is a figure of a linked table, that table's rows. One that is worked out of
    figures of both tables has the rows of the table that asks."""
    found = None
    calculation = figures_shown(grid.phrase)[measure].calculation
    if isinstance(calculation, Linked) and others is not None and not within:
        found = _linked(calculation, grid, row, column, others)
    if found is not None:
        return found
    rows = rows_behind(grid, table, measure, row, column, sliced, narrow, within)
    return table, rows, explanation(grid, table, measure, row, column, rows, within)


def _linked(linked: Linked, grid: Grid, row: GridPlace, column: GridPlace, others: LinkedTables) -> Behind | None:
    """None where the other table knows nothing of the figure: it is blank then."""
    asked = linked_phrase(linked, grid.phrase, others)
    if asked is None or others.table(linked.table) is None:
        return None
    answered = others.answer(linked.table, asked)
    place, across = _place(grid.rows, row, answered.rows), _place(grid.columns, column, answered.columns)
    if place is None or across is None:
        return None
    table, slicers = others.moving(linked.table)
    sliced = [need for each in slicers for need in needs_of(each, table)]
    rows = rows_behind(answered, table, 0, place, across, sliced, lambda cells: joined_mask(slicers, cells))
    return table, rows, explanation(answered, table, 0, place, across, rows)


def _place(axis: Axis, node: GridPlace, other: Axis) -> GridPlace | None:
    return place_of(other, axis.path(*node))
