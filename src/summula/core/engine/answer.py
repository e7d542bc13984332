"""Answering a phrase: rows in play + phrase -> Grid."""

from __future__ import annotations

import operator
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.engine import comparisons
from summula.core.engine.aggregates import ADDITIVE, figures
from summula.core.engine.axis import (
    raw_axis,
)
from summula.core.engine.cells import Cells, Dimension, fold
from summula.core.engine.covering import covering
from summula.core.engine.figurestyle import style_of
from summula.core.engine.fold import Fold, Levels
from summula.core.engine.grid import Block, Grid, LevelPair
from summula.core.engine.keeping import Kept, check_keep, keep
from summula.core.engine.linked import OtherTables, linked_figures, other_table
from summula.core.engine.placing import Nodes, axis_of, finish
from summula.core.engine.sampling import check, samples
from summula.core.fields.heading import encode_heading
from summula.core.memory import Remembered
from summula.core.phrases.forms import FORMS
from summula.core.phrases.lever import value_of
from summula.core.phrases.phrase import (
    Aggregate,
    Arithmetic,
    Calculation,
    Condition,
    Lever,
    Linked,
    Measure,
    Number,
    Order,
    Phrase,
    aggregates_of,
    figures_shown,
    headings_of,
)
from summula.core.phrases.printing import print_measure
from summula.core.phrases.wellformed import checked_phrase
from summula.core.refusal import Refusal
from summula.core.tables.column import Mask, NumberColumn
from summula.core.tables.field import MEASURED

if TYPE_CHECKING:
    from summula.core.fields.figures import FigureStyle
    from summula.core.tables.table import Table

_WIDE = 64  # a condition on a heading with more members is folded as met / not met


def most_figures(phrase: Phrase, table: Table) -> int:
    """About how many figures an answer takes at most, each weighed by its work: known from the phrase alone, before it
    is worked out. 0 where a heading is refused, which the answer will tell."""
    sizes = []
    multiples = () if phrase.multiples is None else (phrase.multiples,)
    for headings in ((*multiples, *phrase.by), phrase.across):
        size = 1
        for heading in headings:
            try:
                members = len(encode_heading(table, heading).members)
            except Refusal:
                return 0
            size = min(size * max(members, 1), max(table.rows, 1))
        sizes.append(size)
    work = sum(_work_of(measure.calculation) for measure in phrase.measures)
    return sizes[0] * sizes[1] * max(work, 1) * max(len(headings_of(phrase)), 1)


_BY_ROW = 8  # sums, for a figure that goes back to the rows at each level


def _work_of(calculation: Calculation) -> int:
    """How many sums a calculation is worth."""
    return sum(1 if each.function in ADDITIVE else _BY_ROW for each in aggregates_of(calculation))


_IN_FULL: Remembered[Phrase, Phrase] = Remembered("phrases in full")


def answer(
    phrase: Phrase,
    table: Table,
    cells: Cells | None = None,
    mask: Mask | None = None,
    before: Grid | None = None,
    within: Mask | None = None,
    others: OtherTables | None = None,
) -> Grid:
    """The grid a phrase asks for. `mask` (one entry a cell) narrows the rows further, as slicers do; `before` is the
    answer without it: values are put together in the same ranges, so that both can be compared. `within`: of what is
    kept then, only these cells. `others`: the tables that figures beside its own are of."""
    if cells is None:
        phrase = _full(phrase, table)
        cells = _cells_for(phrase, table)
    else:  # a board asks its cells the same again and again
        asked = phrase
        phrase = _IN_FULL.of(cells.memo, asked, lambda: _full(asked, table))
    return _answer(phrase, cells, mask, before, within, others)


def _full(phrase: Phrase, table: Table) -> Phrase:
    """The phrase said in full. Refuses what no answer can be worked out for, whatever the rows."""
    full = with_defaults(checked_phrase(phrase), table)
    check(full)
    for each in full.keeping:
        check_keep(each)
    dates = {field.name for field in table.fields if field.kind == "date"}
    for measure in figures_shown(full):
        comparisons.check_along(measure.comparison, headings_of(full), dates)
    return full


def _cells_for(phrase: Phrase, table: Table) -> Cells:
    """The fewest cells there are that can answer a phrase; else the rows are folded."""
    aggregates = [each for measure in _measures_of(phrase) for each in aggregates_of(measure.calculation)]
    dimensions = dimensions_of(phrase, table)
    found = covering(table, dimensions, aggregates)
    if found is not None:
        return found
    summed = next((each.field for each in aggregates if each.function in ("sum", "mean")), None)
    return fold(table, dimensions, summed=summed)


def _measures_of(phrase: Phrase) -> list[Measure]:
    """Every measure a phrase works out, shown or not."""
    measures = [*figures_shown(phrase), *(each.measure for each in phrase.keeping)]
    if phrase.order is not None and phrase.order.measure is not None:
        measures.append(phrase.order.measure)
    return measures


def with_defaults(phrase: Phrase, table: Table) -> Phrase:
    """The phrase with every bare field said in full: a number's own total, the count of anything else."""

    def full(calculation: Calculation) -> Calculation:
        if isinstance(calculation, Aggregate):
            if calculation.function != "default":
                return calculation
            assert calculation.field is not None
            field = table.field(calculation.field)
            return Aggregate(field.total if field.kind in MEASURED else "count", calculation.field)
        if isinstance(calculation, Number | Lever | Linked):
            return calculation
        return Arithmetic(calculation.operator, full(calculation.left), full(calculation.right))

    def measure(each: Measure) -> Measure:
        return Measure(full(each.calculation), each.comparison, each.name)

    order = phrase.order
    if order is not None and order.measure is not None:
        order = Order(measure(order.measure), order.largest)
    keeping = tuple(replace(each, measure=measure(each.measure)) for each in phrase.keeping)
    measures = tuple(measure(each) for each in phrase.measures)
    against = None if phrase.against is None else measure(phrase.against)
    return replace(phrase, measures=measures, against=against, order=order, keeping=keeping)


def dimensions_of(phrase: Phrase, table: Table) -> list[Dimension]:
    """What the rows must be folded by so that this phrase can be answered from cells."""
    found: list[Dimension] = [*headings_of(phrase)]
    conditions = list(phrase.where)
    for each in phrase.keeping:
        found.append(each.heading)
        if each.each is not None:
            found.append(each.each)
    for each_measure in _measures_of(phrase):
        for aggregate in aggregates_of(each_measure.calculation):
            conditions.extend(aggregate.where)
    found.extend(condition_dimension(condition, table, found) for condition in conditions)
    return list(dict.fromkeys(found))


def condition_dimension(condition: Condition, table: Table, found: Sequence[Dimension]) -> Dimension:
    """What rows are folded by so that cells can tell a condition: its heading, or the condition itself where that has
    too many members."""
    heading = condition.heading
    column = table.column(heading.field)
    plain_number = isinstance(column, NumberColumn) and heading.bands is None
    if heading in found and not plain_number:
        return heading
    narrow = getattr(column, "members", None)
    if heading.part is None and heading.bands is None and narrow is not None and len(narrow) <= _WIDE:
        return heading
    return condition


def laid(phrase: Phrase, cells: Cells, mask: Mask | None, within: Mask | None = None) -> tuple[Fold, Mask | None]:
    """The cells laid on the phrase's axes, and what its conditions (and `mask`) leave before keeping."""
    for condition in phrase.where:
        passes = cells.passes(condition)
        mask = passes if mask is None else mask & passes
    kept = keep(phrase.keeping, cells, mask, _answer) if phrase.keeping else Kept(mask, {}, {})
    rows = axis_of(phrase.by, cells, kept, phrase.every_member)
    columns = axis_of(phrase.across, cells, kept, phrase.every_member)
    left = kept.mask if within is None else within if kept.mask is None else kept.mask & within
    return Fold(cells, left, rows, columns), mask


def _answer(
    phrase: Phrase,
    cells: Cells,
    mask: Mask | None,
    before: Grid | None = None,
    within: Mask | None = None,
    others: OtherTables | None = None,
) -> Grid:
    if phrase.against is not None:
        phrase = replace(phrase, measures=figures_shown(phrase), against=None)
    several = phrase.multiples is not None and FORMS[phrase.form].multiples
    if phrase.multiples is not None:  # they are the first heading of the rows; what draws them takes them apart
        phrase = replace(phrase, by=(phrase.multiples, *phrase.by), multiples=None)
    folded, mask = laid(phrase, cells, mask, within)
    rows, columns = folded.rows, folded.columns
    by_measure = _order_figures(phrase, folded, mask)
    row_axis, row_nodes = finish(rows, folded, phrase, by_measure, on_rows=True)
    column_axis, column_nodes = finish(columns, folded, phrase, by_measure if not phrase.by else None, on_rows=False)
    per_measure = []
    for measure in phrase.measures:
        blocks = _picked(_calculate(measure.calculation, folded, phrase, others), row_nodes, column_nodes)
        if measure.comparison is not None:
            whole = _before_keeping(measure, cells, mask)
            blocks = comparisons.compared(blocks, measure.comparison, row_axis, column_axis, whole)
        per_measure.append(blocks)
    if len(per_measure) == 1:
        values = {level: block[None] for level, block in per_measure[0].items()}
    else:
        values = {level: np.stack([blocks[level] for blocks in per_measure]) for level in folded.levels}
    counts = folded.row_counts
    return Grid(
        phrase=phrase,
        names=tuple([measure.name or print_measure(measure) for measure in phrase.measures]),
        styles=tuple(
            [
                _style_of(measure, cells.table, blocks, others)
                for measure, blocks in zip(phrase.measures, per_measure, strict=True)
            ]
        ),
        rows=row_axis,
        columns=column_axis,
        values=values,
        cell_rows=_picked(counts, row_nodes, column_nodes),
        rows_read=cells.table.rows,
        rows_used=int(counts[0, 0][0, 0]) if cells.size else 0,
        samples=samples(
            folded,
            phrase,
            row_nodes[-1],
            column_nodes[-1],
            row_axis if several else None,
            before.samples if before is not None else None,
        ),
        several=several,
    )


def _style_of(measure: Measure, table: Table, blocks: Levels, others: OtherTables | None) -> FigureStyle:
    """How a measure is written: one of another table alone as that table writes it."""
    calculation = measure.calculation
    if isinstance(calculation, Linked):
        return style_of(
            replace(measure, calculation=calculation.aggregate), other_table(calculation, others), blocks.values()
        )
    return style_of(measure, table, blocks.values())


def _before_keeping(measure: Measure, cells: Cells, mask: Mask | None) -> float:
    """A measure's figure of all rows after `where`, whatever is kept of them."""
    everything = Fold(cells, mask, raw_axis((), cells.size), raw_axis((), cells.size))
    return float(_calculate(measure.calculation, everything)[0, 0][0, 0])


def _order_figures(phrase: Phrase, folded: Fold, mask: Mask | None) -> dict[LevelPair, Block] | None:
    """The figures by which the phrase orders its members, of all nodes; None where it orders by none."""
    if phrase.order is None or phrase.order.measure is None:
        return None
    measure = phrase.order.measure
    figures = _calculate(measure.calculation, folded)
    if measure.comparison is None:
        return figures
    # A comparison is of the members shown, in their own order.
    own = replace(phrase, order=None)
    rows, row_nodes = finish(folded.rows, folded, own, None, on_rows=True)
    columns, column_nodes = finish(folded.columns, folded, own, None, on_rows=False)
    whole = _before_keeping(measure, folded.cells, mask)
    blocks = comparisons.compared(_picked(figures, row_nodes, column_nodes), measure.comparison, rows, columns, whole)
    found: dict[LevelPair, Block] = {}
    for (i, j), block in blocks.items():
        at_row, at_column = row_nodes[i], column_nodes[j]
        spread = np.full(folded.shape((i, j)), np.nan)
        spread[np.ix_(
            np.arange(spread.shape[0]) if at_row is None else at_row,
            np.arange(spread.shape[1]) if at_column is None else at_column,
        )] = block  # fmt: skip
        found[i, j] = spread
    return found


def _picked(levels: Levels, row_nodes: Nodes, column_nodes: Nodes) -> Levels:
    """The nodes shown, in their order."""
    found = {}
    for (i, j), block in levels.items():
        on_rows, on_columns = row_nodes[i], column_nodes[j]
        if on_rows is not None:
            block = block.take(on_rows, axis=0)
        found[i, j] = block if on_columns is None else block.take(on_columns, axis=1)
    return found


def _calculate(
    calculation: Calculation, folded: Fold, phrase: Phrase | None = None, others: OtherTables | None = None
) -> Levels:
    if isinstance(calculation, Aggregate):
        return figures(folded, calculation)
    if isinstance(calculation, Number | Lever):
        value = calculation.value if isinstance(calculation, Number) else value_of(calculation)
        return {level: np.full(folded.shape(level), value) for level in folded.levels}
    if isinstance(calculation, Linked):
        if phrase is None:
            raise Refusal("members cannot be kept or ordered by another table's measures", "use one of this table")
        return linked_figures(calculation, phrase, folded, others)
    left = _calculate(calculation.left, folded, phrase, others)
    right = _calculate(calculation.right, folded, phrase, others)
    work = _OPERATIONS[calculation.operator]
    with np.errstate(over="ignore", invalid="ignore"):
        return {level: np.asarray(work(block, right[level]), dtype=np.float64) for level, block in left.items()}


_OPERATIONS: dict[str, Callable[[Block, Block], Block]] = {
    "+": operator.add,
    "-": operator.sub,
    "*": operator.mul,
    "/": comparisons.divided,
}
