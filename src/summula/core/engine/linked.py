"""Figures of other tables, laid beside a table's own: by the members that both know."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol, TypeAlias

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.engine.aligning import same_nodes
from summula.core.engine.axis import Axis, Level, level_codes
from summula.core.phrases.phrase import Aggregate, Condition, Linked, Measure, Phrase
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.axis import RawAxis
    from summula.core.engine.fold import Fold
    from summula.core.engine.grid import Block, Grid, LevelPair
    from summula.core.fields.heading import Heading
    from summula.core.tables.table import Table

Nodes: TypeAlias = "NDArray[np.intp]"


class OtherTables(Protocol):
    """What is known of the tables linked to one, under the slicers that move them."""

    def table(self, name: str) -> Table | None:
        """The table of that name; None where it is not linked."""

    def heading(self, name: str, heading: Heading) -> Heading | None:
        """The heading of that table that has the same members as this one's."""

    def answer(self, name: str, phrase: Phrase) -> Grid:
        """A phrase of that table."""


def other_table(linked: Linked, others: OtherTables | None) -> Table:
    found = others.table(linked.table) if others is not None else None
    if found is None:
        raise Refusal(f"no linked table '{linked.table}'", "link it to this one first: its fields and this table's")
    return found


def linked_figures(linked: Linked, phrase: Phrase, fold: Fold, others: OtherTables | None) -> dict[LevelPair, Block]:
    """The figure at every level of the fold; blank where the other table does not know a heading or a condition. Of
    what is kept, only the members that are shown have one: all of them together are more than those."""
    other_table(linked, others)
    assert others is not None
    found = {level: np.full(fold.shape(level), np.nan) for level in fold.levels}
    asked = linked_phrase(linked, phrase, others)
    if asked is None:
        return found
    by, across = asked.by, asked.across
    grid = others.answer(linked.table, asked)
    along_rows, along_columns = _nodes(fold.rows, grid.rows), _nodes(fold.columns, grid.columns)
    for row, column in fold.levels:
        kept = bool(phrase.keeping) and (row < fold.rows.depth or column < fold.columns.depth)
        if row > len(by) or column > len(across) or kept:
            continue
        rows, columns = along_rows[row], along_columns[column]
        block = grid.values[row, column][0]
        there = np.ix_(rows >= 0, columns >= 0)
        if block.size:
            found[row, column][there] = block[np.ix_(rows[rows >= 0], columns[columns >= 0])]
    return found


def linked_phrase(linked: Linked, phrase: Phrase, others: OtherTables) -> Phrase | None:
    """What is asked of the other table: by the outer headings that it knows. None where it does not know what a
    condition is about."""
    where = [others.heading(linked.table, each.heading) for each in phrase.where]
    if any(each is None for each in where):
        return None
    conditions = tuple(
        replace(condition, heading=heading)
        for condition, heading in zip(phrase.where, where, strict=True)
        if heading is not None
    )
    by = _known(linked.table, phrase.by, others)
    across = _known(linked.table, phrase.across, others)
    return _asked(linked.aggregate, by, across, conditions)


def _known(table: str, headings: tuple[Heading, ...], others: OtherTables) -> tuple[Heading, ...]:
    """The outer headings that the other table knows, as it calls them."""
    found: list[Heading] = []
    for each in headings:
        heading = others.heading(table, each)
        if heading is None:
            break
        found.append(heading)
    return tuple(found)


def _asked(
    aggregate: Aggregate, by: tuple[Heading, ...], across: tuple[Heading, ...], where: tuple[Condition, ...]
) -> Phrase:
    return Phrase((Measure(aggregate),), by=by, across=across, where=where)


def _nodes(raw: RawAxis, axis: Axis) -> list[Nodes]:
    """For each level that both have and each node of the fold on it, the other grid's node with the same members, or
    -1."""
    levels = [Level(level_codes(raw, 0), np.zeros(1, dtype=np.intp))]
    for level in range(1, raw.depth + 1):
        levels.append(Level(level_codes(raw, level), raw.node_of_finest(level - 1)[raw.starts[level]]))
    members = tuple((*each, None) for each in raw.members)  # a blank may have the code behind them all
    return same_nodes(axis, Axis(raw.headings, members, tuple(levels)))
