"""Answering a phrase: rows in play + phrase -> Grid."""

from __future__ import annotations

import operator
from collections.abc import Callable, Collection, Mapping, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, TypeAlias, cast

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.fields.heading import Heading, Member, Others
from summula.core.refusal import Refusal
from summula.core.summaries import comparisons
from summula.core.summaries.aggregates import figures
from summula.core.summaries.axis import (
    MOST_NODES,
    Axis,
    Level,
    Placed,
    RawAxis,
    finished,
    level_codes,
    plain,
    raw_axis,
    widened,
)
from summula.core.summaries.cells import Cells, Dimension, fold, forget_oldest
from summula.core.summaries.covering import covering
from summula.core.summaries.figures import FigureStyle, decimals_for, plain_pattern, split_unit
from summula.core.summaries.fold import Fold, Levels
from summula.core.summaries.grid import Block, Grid, LevelPair
from summula.core.summaries.keeping import Gathered, Kept, check_keep, keep
from summula.core.summaries.language.printing import print_measure
from summula.core.summaries.lever import value_of
from summula.core.summaries.phrase import (
    Aggregate,
    Arithmetic,
    Calculation,
    Condition,
    Lever,
    Measure,
    Number,
    Order,
    Phrase,
    aggregates_of,
    figures_shown,
)
from summula.core.summaries.samples import check, samples
from summula.core.summaries.wellformed import checked_phrase
from summula.core.tables.column import Mask, NumberColumn, smallest_code_type
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from numpy.typing import NDArray

# Of each level's shown nodes, which raw node each is; None: the same ones.
Nodes: TypeAlias = "list[NDArray[np.intp] | None]"
_WIDE = 64  # a condition on a heading with more members is folded as met / not met


def answer(phrase: Phrase, table: Table, cells: Cells | None = None, mask: Mask | None = None) -> Grid:
    """The grid a phrase asks for. `mask` (one entry a cell) narrows the rows further, as slicers do."""
    if cells is None:
        phrase = _full(phrase, table)
        cells = _cells_for(phrase, table)
    else:  # a board asks its cells the same again and again
        full: Phrase | None = cells.memo.get(("full", phrase))
        if full is None:
            forget_oldest(cells.memo, "full")
            full = cells.memo["full", phrase] = _full(phrase, table)
        phrase = full
    return _answer(phrase, cells, mask)


def _full(phrase: Phrase, table: Table) -> Phrase:
    """The phrase said in full. Refuses what no answer can be worked out for, whatever the rows."""
    full = with_defaults(checked_phrase(phrase), table)
    check(full)
    for each in full.keeping:
        check_keep(each)
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
            return Aggregate(field.total if field.kind == "number" else "count", calculation.field)
        if isinstance(calculation, Number | Lever):
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
    found: list[Dimension] = [*phrase.by, *phrase.across]
    conditions = list(phrase.where)
    for each in phrase.keeping:
        found.append(each.heading)
        if each.each is not None:
            found.append(each.each)
    for each_measure in _measures_of(phrase):
        for aggregate in aggregates_of(each_measure.calculation):
            conditions.extend(aggregate.where)
    found.extend(_condition_dimension(condition, table, found) for condition in conditions)
    return list(dict.fromkeys(found))


def _condition_dimension(condition: Condition, table: Table, found: Sequence[Dimension]) -> Dimension:
    heading = condition.heading
    column = table.column(heading.field)
    plain_number = isinstance(column, NumberColumn) and heading.bands is None
    if heading in found and not plain_number:
        return heading
    narrow = getattr(column, "members", None)
    if heading.part is None and heading.bands is None and narrow is not None and len(narrow) <= _WIDE:
        return heading
    return condition


def laid(phrase: Phrase, cells: Cells, mask: Mask | None) -> tuple[Fold, Mask | None]:
    """The cells laid on the phrase's axes, and what its conditions (and `mask`) leave before keeping."""
    for condition in phrase.where:
        passes = cells.passes(condition)
        mask = passes if mask is None else mask & passes
    kept = keep(phrase.keeping, cells, mask, _answer) if phrase.keeping else Kept(mask, {}, {})
    rows = _axis(phrase.by, cells, kept, phrase.every_member)
    columns = _axis(phrase.across, cells, kept, phrase.every_member)
    return Fold(cells, kept.mask, rows, columns), mask


def _answer(phrase: Phrase, cells: Cells, mask: Mask | None) -> Grid:
    if phrase.against is not None:
        phrase = replace(phrase, measures=figures_shown(phrase), against=None)
    folded, mask = laid(phrase, cells, mask)
    rows, columns = folded.rows, folded.columns
    by_measure = _order_figures(phrase, folded, mask)
    row_axis, row_nodes = _finish(rows, folded, phrase, by_measure, on_rows=True)
    column_axis, column_nodes = _finish(columns, folded, phrase, by_measure if not phrase.by else None, on_rows=False)
    per_measure = []
    for measure in phrase.measures:
        blocks = _picked(_calculate(measure.calculation, folded), row_nodes, column_nodes)
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
                style_of(measure, cells.table, blocks.values())
                for measure, blocks in zip(phrase.measures, per_measure, strict=True)
            ]
        ),
        rows=row_axis,
        columns=column_axis,
        values=values,
        cell_rows=_picked(counts, row_nodes, column_nodes),
        rows_read=cells.table.rows,
        rows_used=int(counts[0, 0][0, 0]) if cells.size else 0,
        samples=samples(folded, phrase, row_nodes[-1], column_nodes[-1]),
    )


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
    rows, row_nodes = _finish(folded.rows, folded, own, None, on_rows=True)
    columns, column_nodes = _finish(folded.columns, folded, own, None, on_rows=False)
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


def _calculate(calculation: Calculation, folded: Fold) -> Levels:
    if isinstance(calculation, Aggregate):
        return figures(folded, calculation)
    if isinstance(calculation, Number | Lever):
        value = calculation.value if isinstance(calculation, Number) else value_of(calculation)
        return {level: np.full(folded.shape(level), value) for level in folded.levels}
    left, right = _calculate(calculation.left, folded), _calculate(calculation.right, folded)
    work = _OPERATIONS[calculation.operator]
    with np.errstate(over="ignore", invalid="ignore"):
        return {level: np.asarray(work(block, right[level]), dtype=np.float64) for level, block in left.items()}


_OPERATIONS: dict[str, Callable[[Block, Block], Block]] = {
    "+": operator.add,
    "-": operator.sub,
    "*": operator.mul,
    "/": comparisons.divided,
}


def _axis(headings: tuple[Heading, ...], cells: Cells, kept: Kept, every_member: bool) -> RawAxis:
    recoded = bool(kept.gathered) and any(heading in kept.gathered for heading in headings)
    key = ("axis", headings)
    axis: RawAxis | None = None if recoded else cells.memo.get(key)
    if axis is None:
        placed: list[Placed] = []
        for heading in headings:
            encoded = cells.encoded(heading)
            members: tuple[Member, ...] = (*encoded.members, None)
            codes: NDArray[np.integer] = encoded.codes
            gathered = kept.gathered.get(heading)
            if gathered is not None:
                members, codes = _gathered(gathered, members, codes, placed)
            placed.append(Placed(heading, codes, members))
        axis = raw_axis(placed, cells.size)
        if not recoded:
            cells.memo[key] = axis
    if every_member or axis.banded:
        axis = _with_empty(axis, cells, kept, every_member)
    return axis


def _gathered(
    gathered: Gathered, members: tuple[Member, ...], codes: NDArray[np.integer], outer: Sequence[Placed]
) -> tuple[tuple[Member, ...], NDArray[np.integer]]:
    """A heading's members and codes with the gathered member last; within an outer heading that it was chosen in each
    member of, one for each of them."""
    within = next((each for each in outer if each.heading == gathered.each), None)
    size = len(members)
    if within is None:
        members = (*members, gathered.others(codes))
        moved_to: NDArray[np.integer] | int = size
    else:
        members = (*members, *gathered.others_by(codes, within.codes, len(within.members)))
        moved_to = size + within.codes.astype(np.int64)
    recoded = np.where(gathered.moved, moved_to, codes.astype(np.int64))
    return members, recoded.astype(smallest_code_type(len(members)))


def _with_empty(axis: RawAxis, cells: Cells, kept: Kept, every_member: bool) -> RawAxis:
    """The axis with members that have no cells: every member, or the bands between those that occur. Of members that
    keeping has chosen, those kept."""
    in_play = kept.mask if kept.mask is not None else np.ones(cells.size, dtype=np.bool_)
    live = np.zeros(axis.nodes, dtype=np.bool_)
    live[axis.node_of_cell[in_play]] = True
    if not every_member and not live.any():
        return axis
    paths: list[tuple[int, ...]] = [()]
    for depth, heading in enumerate(axis.headings):
        blank = cells.encoded(heading).size - 1
        within = kept.limited.get(heading)
        among = axis.headings.index(within) if within in axis.headings[:depth] else None
        longer: list[tuple[int, ...]] = []
        for path in paths:
            here = live & np.all(axis.codes[:, :depth] == np.array(path, dtype=np.int64), axis=1)
            present = set(axis.codes[here, depth].tolist())
            if every_member and heading in kept.limited:
                chosen = live if among is None else live & (axis.codes[:, among] == path[among])
                wanted = {code for code in axis.codes[chosen, depth].tolist() if code < blank} | present
            elif every_member:
                wanted = set(range(len(cells.encoded(heading).members))) | present
            elif heading.bands is not None and heading not in kept.limited and present - {blank}:
                bands = sorted(present - {blank})
                wanted = set(range(bands[0], bands[-1] + 1)) | present
            else:
                wanted = present or {0}  # every node needs a finest one below it; it stays hidden
            longer.extend((*path, code) for code in sorted(wanted or {0}))
        if len(longer) > MOST_NODES:
            raise Refusal("every member of every heading together is too many to lay out", "take a heading away")
        paths = longer
    return widened(axis, np.array(paths, dtype=np.int64).reshape(len(paths), axis.depth))


def _finish(
    axis: RawAxis, folded: Fold, phrase: Phrase, by_measure: dict[LevelPair, Block] | None, *, on_rows: bool
) -> tuple[Axis, Nodes]:
    """Leave out what no row stands behind, and put the rest in order."""
    if axis.depth == 0:
        return _total_alone()
    if by_measure is not None and phrase.order is not None:
        ranks = _ranks_by_figure(axis, by_measure, phrase.order, on_rows=on_rows)
        return _without_same(axis, *finished(axis, _shown(axis, folded, phrase, on_rows=on_rows), ranks))
    # In its own order an axis depends only on what has rows: slicing back and forth finds it again.
    memo = folded.cells.memo
    lasting = memo.get(("axis", axis.headings)) is axis
    key: tuple[object, ...] = ()
    if lasting:
        occurs = folded.row_counts[(axis.depth, 0) if on_rows else (0, axis.depth)] > 0
        key = ("finished", axis.headings, phrase.order, phrase.every_member, occurs.tobytes())
    found: tuple[Axis, Nodes] | None = memo.get(key) if lasting else None
    if found is None:
        if lasting and axis.depth == 1 and phrase.order is None and occurs.all():
            found = (plain(axis), [None, None])
        else:
            shown = _shown(axis, folded, phrase, on_rows=on_rows)
            found = _without_same(axis, *finished(axis, shown, _own_ranks_of(axis, phrase.order)))
        if lasting:
            forget_oldest(memo, "finished")
            memo[key] = found
    return found


@lru_cache(maxsize=1)
def _total_alone() -> tuple[Axis, Nodes]:
    return Axis((), (), (Level(np.zeros((1, 0), dtype=np.int64), np.zeros(1, dtype=np.intp)),)), [None]


def _without_same(raw: RawAxis, axis: Axis, nodes: Sequence[NDArray[np.intp]]) -> tuple[Axis, Nodes]:
    sizes = [len(starts) for starts in raw.starts]
    return axis, [
        None if len(each) == size and np.array_equal(each, np.arange(size)) else each
        for each, size in zip(nodes, sizes, strict=True)
    ]


def _shown(axis: RawAxis, folded: Fold, phrase: Phrase, *, on_rows: bool) -> list[NDArray[np.bool_]]:
    """Which nodes of each level are shown: none without the node above it."""
    shown: list[NDArray[np.bool_]] = []
    keeps_empty = phrase.every_member or axis.banded
    limited = {each.heading: each.each for each in phrase.keeping}
    for level in range(axis.depth + 1):
        counts = folded.row_counts[(level, 0) if on_rows else (0, level)].reshape(-1)
        if keeps_empty and level:
            here = _shown_empty(axis, level, counts, phrase.every_member, limited)
            parents = axis.node_of_finest(level - 1)[axis.starts[level]]
            shown.append(here & shown[-1][parents])
        else:
            shown.append(counts > 0 if level else np.ones(len(counts), dtype=np.bool_))
    return shown


def _ranks_by_figure(
    axis: RawAxis, by_measure: dict[LevelPair, Block], order: Order, *, on_rows: bool
) -> list[NDArray[np.float64]]:
    ranks = [np.zeros(1)]
    for level in range(1, axis.depth + 1):
        figures = by_measure[(level, 0) if on_rows else (0, level)].reshape(-1)
        codes = level_codes(axis, level)[:, -1]
        ranks.append(_figure_ranks(figures, codes, axis.members[level - 1], order.largest))
    return ranks


def _own_ranks_of(axis: RawAxis, order: Order | None) -> list[NDArray[np.float64]]:
    ranks = [np.zeros(1)]
    for level in range(1, axis.depth + 1):
        codes = level_codes(axis, level)[:, -1]
        ranks.append(_own_ranks(codes, axis.headings[level - 1], axis.members[level - 1], order))
    return ranks


def _shown_empty(
    axis: RawAxis, level: int, counts: Block, every_member: bool, limited: Mapping[Heading, Heading | None]
) -> NDArray[np.bool_]:
    heading, members = axis.headings[level - 1], axis.members[level - 1]
    codes = level_codes(axis, level)
    shown = np.asarray(counts > 0)
    if every_member:
        # A blank is no member: it is shown only with rows of its own; so are members that are gathered.
        plain = np.array([member is not None and not isinstance(member, Others) for member in members], dtype=np.bool_)
        empty = plain[codes[:, -1]]
        if heading in limited:  # of members that keeping has chosen, those kept: they have rows somewhere
            among = limited[heading]
            keys = codes[:, -1]
            if among in axis.headings[: level - 1]:
                keys = keys + codes[:, axis.headings.index(among)] * len(members)
            empty &= np.isin(keys, keys[shown])
        return np.asarray(shown | empty)
    # Bands: an empty one is shown only between its own siblings that have rows; one that keeping left out never.
    if heading.bands is None or heading in limited:
        return shown
    blank = len(members) - 1
    parents = axis.node_of_finest(level - 1)[axis.starts[level]]
    for parent in np.unique(parents[shown]):
        siblings = parents == parent
        live = codes[siblings & shown & (codes[:, -1] != blank), -1]
        if len(live):
            shown |= siblings & (codes[:, -1] >= live.min()) & (codes[:, -1] <= live.max())
    return shown


def _figure_ranks(
    figures: Block, codes: NDArray[np.int64], members: tuple[Member, ...], largest: bool
) -> NDArray[np.float64]:
    keys = np.where(np.isnan(figures), np.inf, -figures if largest else figures)
    gathered = np.array([isinstance(members[code], Others) for code in codes], dtype=np.bool_)
    order = np.lexsort((codes, keys, gathered))
    ranks = np.empty(len(order))
    ranks[order] = np.arange(len(order))
    return ranks


def _own_ranks(
    codes: NDArray[np.int64], heading: Heading, members: tuple[Member, ...], order: Order | None
) -> NDArray[np.float64]:
    ranks = codes.astype(np.float64)
    if order is None or order.heading != heading:
        return ranks
    last = np.array([members[code] is None or isinstance(members[code], Others) for code in codes], dtype=np.bool_)
    if order.backwards:
        return np.where(last, ranks, -ranks - 1)
    place: dict[int, float] = {}
    for at, value in enumerate(order.sequence):
        code = comparisons.code_of_value(heading, members, value)
        if code >= 0:
            place[code] = at - len(order.sequence)
    return np.array([place.get(int(code), float(code)) for code in codes], dtype=np.float64)


def style_of(measure: Measure, table: Table, blocks: Collection[Block]) -> FigureStyle:
    """How a measure's figures are written: from its field's pattern, and from their size."""
    key = ("style", measure)
    if key not in table.memo:
        forget_oldest(table.memo, "style")
        table.memo[key] = _style_by_nature(measure, table)
    unit, style, like = table.memo[key]
    if style is not None:
        return cast(FigureStyle, style)
    largest = 0.0
    for block in blocks:
        if not decimals_for(largest):
            break
        if block.size:
            largest = max(largest, float(np.fmax.reduce(np.abs(block), axis=None)))
    return FigureStyle(plain_pattern(decimals_for(largest), like), unit)


def _style_by_nature(measure: Measure, table: Table) -> tuple[str, FigureStyle | None, str]:
    """A measure's unit, its style where the figures' size has no say in it, and the pattern that it is like."""
    kind = measure.comparison.kind if measure.comparison is not None else ""
    if kind.startswith(("share", "percent")):
        return "", FigureStyle("0.0%", percent=True), ""
    if kind == "rank":
        return "", FigureStyle(), ""
    calculation = measure.calculation
    if not isinstance(calculation, Aggregate):
        return _common_unit(calculation, table), None, ""
    if calculation.field is None or calculation.function in ("rows", "count", "distinct count"):
        return "", FigureStyle(), ""
    unit, pattern = split_unit(table.field(calculation.field).pattern)
    if calculation.function not in ("sum", "min", "max", "range", "first", "last", "each row"):
        return unit, None, pattern
    column = table.column(calculation.field)
    if not pattern and isinstance(column, NumberColumn) and column.decimals == 0:
        pattern = "#,##0"
    return unit, FigureStyle(pattern, unit) if pattern else None, pattern


def _common_unit(calculation: Calculation, table: Table) -> str:
    """The unit of a calculation of figures that share one: sums and differences keep it, as does a
    ratio to a bare count."""
    if isinstance(calculation, Number | Lever):
        return ""
    if isinstance(calculation, Aggregate):
        if calculation.field is None or calculation.function in ("count", "distinct count"):
            return ""
        return split_unit(table.field(calculation.field).pattern)[0]
    left, right = _common_unit(calculation.left, table), _common_unit(calculation.right, table)
    if calculation.operator == "/":
        return left if not right else ""
    return left if left == right or (calculation.operator == "*" and not right) else ""
