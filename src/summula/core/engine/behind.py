"""From a figure back to the rows it was worked out from, and to the words that explain it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.engine.answer import dimensions_of, laid, with_defaults
from summula.core.engine.axis import Axis, GridPlace, RawAxis, level_codes
from summula.core.engine.cells import Cells, Dimension, fold
from summula.core.fields.figures import plural
from summula.core.fields.heading import Heading, Member, Others
from summula.core.fields.labels import heading_name, label_of
from summula.core.phrases.phrase import Condition, Phrase, aggregates_of
from summula.core.phrases.printing import print_condition, print_keep, print_measure
from summula.core.tables.table import Table, blanks

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.grid import Grid
    from summula.core.engine.samples import Limits
    from summula.core.tables.column import Mask

"""A node of a grid's axis: its level and its number there."""


def rows_behind(
    grid: Grid,
    table: Table,
    measure: int,
    row: GridPlace,
    column: GridPlace,
    sliced: Sequence[Dimension] = (),
    narrow: Callable[[Cells], Mask | None] = lambda cells: None,
    within: Sequence[Limits] = (),
) -> NDArray[np.int64]:
    """The rows (0-based) that a figure was worked out from: those of its members that the phrase's conditions, its
    keeping and the measure's own conditions leave. Blanks of the measured field are among them. `narrow` tells which
    cells slicers of the headings `sliced` let through. Only those with values `within` limits, where there are any."""
    phrase = with_defaults(grid.phrase, table)
    cells = fold(table, [*dimensions_of(phrase, table), *sliced])
    folded, _ = laid(phrase, cells, narrow(cells))
    chosen = _cells_at(folded.rows, grid.rows, row) & _cells_at(folded.columns, grid.columns, column)
    if folded.mask is not None:
        chosen &= folded.mask
    for condition in own_conditions(phrase, measure):
        chosen &= cells.passes(condition)
    by_row = chosen if cells.cell_of_row is None else chosen[cells.cell_of_row]
    rows = np.flatnonzero(by_row).astype(np.int64)
    for limits in within:
        number = table.number(limits.field)
        values = number.values[rows] / number.unit
        inside = (values >= limits.low) & ((values <= limits.high) if limits.closed else (values < limits.high))
        if number.blank is not None:
            inside &= ~number.blank[rows]
        rows = rows[inside]
    return rows


def own_conditions(phrase: Phrase, measure: int) -> tuple[Condition, ...]:
    """The conditions that hold for this measure alone: those that all its aggregates share."""
    aggregates = aggregates_of(phrase.measures[measure].calculation)
    if not aggregates:
        return ()
    return tuple(each for each in aggregates[0].where if all(each in other.where for other in aggregates))


def _cells_at(raw: RawAxis, axis: Axis, place: GridPlace) -> Mask:
    """The cells that lie at a node of the finished axis."""
    level, node = place
    if level == 0:
        return np.ones(len(raw.node_of_cell), dtype=np.bool_)
    wanted = axis.levels[level].codes[node]
    found = np.flatnonzero(np.all(level_codes(raw, level) == wanted, axis=1))
    nodes = raw.node_of_finest(level)[raw.node_of_cell]
    return np.isin(nodes, found)


def explanation(
    grid: Grid,
    table: Table,
    measure: int,
    row: GridPlace,
    column: GridPlace,
    rows: NDArray[np.int64],
    within: Sequence[Limits] = (),
) -> list[str]:
    """A figure (or the values `within` limits) in words: what it is, whose, under which conditions, of how many rows,
    how many blanks left out."""
    phrase = grid.phrase
    if within:
        said_so = [" and ".join(limits.words for limits in within)]
    else:
        figure = grid.styles[measure].text(grid.figure(measure, row, column), unit=True)
        said_so = [f"{print_measure(phrase.measures[measure])} is {figure}"]
    members = [
        *_members(grid.rows.headings, grid.rows.path(*row)),
        *_members(grid.columns.headings, grid.columns.path(*column)),
    ]  # fmt: skip
    said_so.append("of " + ", ".join(members) if members else "of all members together")
    said_so += [f"where {print_condition(each)}" for each in phrase.where]
    said_so += [f"keeping {print_keep(each)}" for each in phrase.keeping]
    said_so.append(f"worked out from {plural(len(rows), 'row')} of {table.rows:,}")
    for name in dict.fromkeys(a.field for a in aggregates_of(phrase.measures[measure].calculation) if a.field):
        blank = table.column(name).blank
        lost = int(np.count_nonzero(blank[rows])) if blank is not None and blanks(table.column(name)) else 0
        if lost:
            said_so.append(f"{plural(lost, 'blank')} of {name} left out")
    return said_so


def _members(headings: tuple[Heading, ...], path: tuple[Member, ...]) -> list[str]:
    return [
        f"{heading_name(heading)} {'among the ' if isinstance(member, Others) else ''}{label_of(heading, member)}"
        for heading, member in zip(headings, path, strict=False)
    ]
