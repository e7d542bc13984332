"""Cells already made that can answer a new phrase: what a board has folded serves what is typed beside it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from summula.core.engine.cells import COARSER, FOLDED, LIMBS, PARTS_KNOWN, Cells, Dimension, exact_splitting, tells
from summula.core.fields.heading import Heading
from summula.core.tables.column import NumberColumn

if TYPE_CHECKING:
    from summula.core.phrases.phrase import Aggregate
    from summula.core.tables.table import Table

_FEWER = 8  # times fewer cells than rows: else the rows are folded anew as soon


def covering(table: Table, dimensions: Sequence[Dimension], aggregates: Sequence[Aggregate]) -> Cells | None:
    """The fewest cells already made that tell these dimensions apart and hold what these aggregates add up.

    None where there are none, or hardly fewer than there are rows. Their answer is the one that the rows would give,
    to the last unit.
    """
    found: Cells | None = None
    for cells in _made(table):
        if (found is not None and found.size <= cells.size) or cells.size * _FEWER > table.rows:
            continue
        if all(_told(cells, each) for each in dimensions) and all(_held(cells, each) for each in aggregates):
            found = cells
    return found


def _made(table: Table) -> Iterator[Cells]:
    for cells in FOLDED.all(table.memo):
        if cells.folded:
            yield cells
            yield from COARSER.all(cells.memo)


def _told(cells: Cells, dimension: Dimension) -> bool:
    """Whether the cells know a heading's members, or a condition's being met."""
    if dimension in cells.bases:
        return True
    if isinstance(dimension, Heading):
        return any(tells(base, dimension) for base in cells.bases)
    heading = dimension.heading
    if heading.bands is None and isinstance(cells.table.column(heading.field), NumberColumn):
        return False  # a number's condition is met by values, not by members
    return _told(cells, heading)


def _held(cells: Cells, aggregate: Aggregate) -> bool:
    if aggregate.function == "rows":
        return True
    if aggregate.field is None or aggregate.function not in ("sum", "mean"):
        return False
    known = PARTS_KNOWN.has(cells.memo, (aggregate.field, "count")) or cells.table.number(aggregate.field).blank is None
    splitting = exact_splitting(cells.table, aggregate.field)
    parts = ("sum",) if splitting is None else LIMBS[: splitting.limbs]
    return known and all(PARTS_KNOWN.has(cells.memo, (aggregate.field, part)) for part in parts)
