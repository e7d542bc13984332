"""What a mark says when it is asked, beside its figure: its share, its rank, its change on the one before, its rows."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, TypeAlias

from summula.core.arrays import np
from summula.core.engine.axis import place_of
from summula.core.fields.figures import MINUS, percent_text, plural
from summula.core.fields.heading import Heading, Others
from summula.core.phrases.additivity import adds_up

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.charts.chart import Chart
    from summula.core.charts.scene import Tag

Figures: TypeAlias = "NDArray[np.float64]"


def mark_words(chart: Chart, tag: Tag) -> str:
    """Lines for a mark that stands for a figure of the grid, among the members that share its column and its outer
    members; empty for any other."""
    grid = chart.grid
    if tag.measure < 0 or tag.measure >= len(grid.phrase.measures):
        return ""
    row, column = place_of(grid.rows, tag.members), place_of(grid.columns, tag.members_across)
    if row is None or column is None:
        return ""
    said = []
    level, node = row
    figure = grid.figure(tag.measure, row, column)
    if level and not math.isnan(figure):
        axis = grid.rows
        parent = axis.levels[level].parent
        siblings = np.flatnonzero(parent == parent[node])
        figures = grid.values[level, column[0]][tag.measure, siblings, column[1]]
        known = figures[~np.isnan(figures)]
        total = math.fsum(known.tolist())
        if adds_up(grid.phrase.measures[tag.measure]) and total > 0 and not (known < 0).any() and len(known) > 1:
            said.append(f"{percent_text(figure / total)} of {_whole(chart, level)}")
        if len(known) > 1 and not isinstance(tag.members[-1], Others):
            rank = int((known > figure).sum()) + 1
            said.append(f"rank {rank:,} of {len(known):,}")
        before = _before(axis.headings[level - 1], figures, int(np.flatnonzero(siblings == node)[0]))
        if before is not None and before:
            change = (figure - before) / abs(before)
            sign = "+" if change > 0 else MINUS if change < 0 else ""
            said.append(f"{sign}{percent_text(abs(change))} on the one before")
    rows = float(grid.cell_rows[level, column[0]][node, column[1]])
    said.append(plural(int(rows), "row"))
    return " · ".join(said)


def _whole(chart: Chart, level: int) -> str:
    """What a share is a share of."""
    return "all" if level == 1 else "its group"


def _before(heading: Heading, figures: Figures, at: int) -> float | None:
    """The figure of the period before; None of members that have no order of time."""
    if heading.part is None or at == 0 or math.isnan(float(figures[at - 1])):
        return None
    return float(figures[at - 1])
