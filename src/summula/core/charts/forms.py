"""Which form draws what. To add a form: a module of its own, a line here, and its word in phrase.py."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from summula.core.charts.bars import draw_bars
from summula.core.charts.boxplot import draw_boxes
from summula.core.charts.columns import draw_columns
from summula.core.charts.gridform import draw_grid
from summula.core.charts.histogram import draw_histogram
from summula.core.charts.lines import draw_lines
from summula.core.charts.look import Look
from summula.core.charts.scatter import draw_scatter
from summula.core.charts.scene import Scene, TextWidth, message
from summula.core.summaries.grid import Grid
from summula.core.summaries.phrase import Form, Phrase, figures_shown
from summula.core.summaries.samples import is_each_row

_MOST_MARKS, _MOST_POINTS = 3_000, 6_000  # that can be told apart; points of lines, which need not be
_FORMS: dict[Form, Callable[[Grid, Look, tuple[float, float], TextWidth], Scene]] = {
    "grid": draw_grid,
    "columns": partial(draw_columns, stacked=False),
    "stacked columns": partial(draw_columns, stacked=True),
    "bars": draw_bars,
    "lines": draw_lines,
    "scatter": draw_scatter,
    "histogram": draw_histogram,
    "box plot": draw_boxes,
}


def draw(grid: Grid, form: Form, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """The scene of a grid in a form, `size` (width, height) in pixels."""
    if size[0] < 40 or size[1] < 30:
        return Scene(size[0], size[1], ())
    why = why_not(grid.phrase, form)
    if why:
        return message(why, size)
    finest = grid.values[grid.finest]
    most = _MOST_POINTS if form == "lines" else _MOST_MARKS
    if form not in ("grid", "bars", "histogram") and finest.size > most:
        return message(f"{finest.size:,} marks are too many to read: keep the top few, or use a coarser heading", size)
    return _FORMS[form](grid, look, size, width)


def why_not(phrase: Phrase, form: Form) -> str:
    """Why a phrase cannot be drawn in a form; empty when it can."""
    figures = figures_shown(phrase)
    by_row = [is_each_row(measure.calculation) for measure in figures]
    if form == "scatter":
        if len(figures) != 2:
            return "A scatter sets one figure against another: show two, or one 'against' one"
        if any(by_row) and not all(by_row):
            return "A scatter of rows needs 'each row' in both figures"
        if any(by_row) and phrase.by:
            return "A scatter of rows has no place for 'by': put the heading after 'across', where it is told by colour"
        if not any(by_row) and not (phrase.by or phrase.across):
            return "A scatter needs a heading after 'by', for a point each member; or 'each row' of both figures"
        return ""
    if form in ("histogram", "box plot"):
        if by_row != [True]:
            return f"A {form} shows the values themselves: show one figure, 'each row' of a number"
        if form == "histogram" and phrase.by:
            return "A histogram has no place for 'by': put the heading after 'across', where it is told by colour"
        return ""
    if any(by_row):
        return "'each row' is many values: draw a histogram, a box plot or a scatter, or use median of it"
    if form == "grid":
        return ""
    if not phrase.by:
        return f"To draw {form}, add a heading after 'by'"
    if form == "stacked columns":
        if not phrase.across and len(phrase.measures) < 2:
            return "To stack columns, add a heading after 'across' or a second measure"
        if any(
            m.comparison is None and getattr(m.calculation, "function", "sum") in ("mean", "median", "min", "max")
            for m in phrase.measures
        ):
            return "Means, medians and extremes do not add up, so they cannot be stacked"
    return ""
