"""Histogram: how many rows lie in each range of a figure, colours telling the members across."""

from __future__ import annotations

from math import inf
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.charts.chart import Canvas, Chart
from summula.core.charts.frame import Along, Extent, framed
from summula.core.charts.scene import Box, Ink, Scene, Tag, message
from summula.core.charts.series import field_of, figure_name, pairs, series_of
from summula.core.charts.stacking import stacked
from summula.core.engine.samples import Limits, Ranges
from summula.core.fields.figures import FigureStyle, plural

if TYPE_CHECKING:
    from numpy.typing import NDArray


def draw_histogram(chart: Chart, canvas: Canvas) -> Scene:
    """The values of the first measure. Ranges hold their lower limit, not their upper."""
    grid, held = chart.grid, chart.grid.samples
    if not isinstance(held, Ranges):
        return message("Nothing to draw: no values are in play", canvas.size, canvas.text_width)
    edges, below, above, counts = held.edges, held.below, held.above, held.counts
    last = len(edges) - 2
    series, style, field = series_of(grid, chart.look.inks), chart.styles[0], field_of(grid, 0)
    name = figure_name(grid, 0) + (f" · {plural(held.blank, 'blank')} left out" if held.blank else "")
    along = Along(
        Extent(float(edges[0]), float(edges[-1])), style, chart.style.words.members or name, exact=True,
        note=_tails(style, edges, below, above),
    )  # fmt: skip
    frame = framed(
        chart, canvas, [Extent(0.0, float(counts.sum(axis=0).max()))], along=along,
        entries=series if grid.columns.depth else (), names=["rows"], style=FigureStyle(), beside=18.0,
    )  # fmt: skip
    upright = frame.scales[0]
    for at in range(last + 1):
        x0, x1 = frame.x(float(edges[at])), frame.x(float(edges[at + 1]))
        open_range = (below and at == 0) or (above and at == last)
        words = _range(style, edges, at, below, above)
        for each, (start, end) in zip(series, stacked(counts[:, at].tolist()), strict=True):
            if start == end:
                continue
            y0, y1 = upright.within(start), upright.within(end)
            ink = each.ink if grid.columns.depth else Ink("series 0")
            title = f"{each.label} · {words}" if grid.columns.depth else words
            low, high = float(edges[at]) if at else -inf, float(edges[at + 1]) if at < last else inf
            limits = Limits(field, low, high, f"{field} {words}")
            count = end - start
            tag = Tag((), pairs(grid.columns, each.path), -1, count, title, plural(int(count), "row"), (limits,))
            ink = ink.pale() if open_range else ink
            frame.marks.append(Box(x0 + 0.5, min(y0, y1), max(x1 - x0 - 1, 0.5), abs(y0 - y1), ink, tag))
    return frame.scene()


def _range(style: FigureStyle, edges: NDArray[np.float64], at: int, below: bool, above: bool) -> str:
    if below and at == 0:
        return f"under {style.text(edges[1], unit=True)}"
    if above and at == len(edges) - 2:
        return f"{style.text(edges[at], unit=True)} and above"
    return f"{style.text(edges[at], unit=True)} to under {style.text(edges[at + 1], unit=True)}"


def _tails(style: FigureStyle, edges: NDArray[np.float64], below: bool, above: bool) -> str:
    """The paler outer columns are open: that is said, since they stand for more than their width."""
    ends = ([0] if below else []) + ([len(edges) - 2] if above else [])
    return "paler: " + ", ".join(_range(style, edges, at, below, above) for at in ends) if ends else ""
