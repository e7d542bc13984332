"""Histogram: how many rows lie in each range of a figure, colours telling the members across."""

from __future__ import annotations

from math import inf
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.charts.axes import FOOT, NAME_ROOM, axis_name, bottom_axis, field_of, figure_name, fit, left_axis
from summula.core.charts.columns import legend
from summula.core.charts.look import Look
from summula.core.charts.scale import Scale, scale
from summula.core.charts.scene import Box, Ink, Mark, Scene, Tag, Text, TextWidth, message
from summula.core.charts.series import series_of
from summula.core.summaries.figures import FigureStyle, said
from summula.core.summaries.grid import Grid
from summula.core.summaries.samples import Limits, Ranges

if TYPE_CHECKING:
    from numpy.typing import NDArray


def draw_histogram(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """The values of the first measure. Ranges hold their lower limit, not their upper."""
    held = grid.samples
    if not isinstance(held, Ranges):
        return message("Nothing to draw: no values are in play", size)
    edges, below, above, counts = held.edges, held.below, held.above, held.counts
    last = len(edges) - 2
    series = series_of(grid)
    marks: list[Mark] = []
    top = legend(marks, series, size[0], width) if grid.columns.depth else 0.0
    bottom = size[1] - FOOT
    counting = FigureStyle()
    vertical = scale(0, float(counts.sum(axis=0).max()), bottom, top + NAME_ROOM + 4)
    left = left_axis(marks, counting, vertical, size[0] - 4, width)
    axis_name(marks, "rows", 0, top + 11, size[0] / 2, width, right=False)
    style, field = grid.styles[0], field_of(grid, 0)
    ticks = fit(float(edges[0]), float(edges[-1]), left, size[0] - 24).ticks
    shown = tuple(tick for tick in ticks if edges[0] <= tick <= edges[-1])
    horizontal = Scale(float(edges[0]), float(edges[-1]), left, size[0] - 24, shown)
    for at in range(last + 1):
        x0, x1 = horizontal(edges[at]), horizontal(edges[at + 1])
        base = 0.0
        for which, each in enumerate(series):
            count = float(counts[which, at])
            if count == 0:
                continue
            y0, y1 = vertical(base), vertical(base + count)
            base += count
            open_range = (below and at == 0) or (above and at == last)
            ink = each.ink if grid.columns.depth else Ink("series 0")
            title = _range(style, edges, at, below, above)
            if grid.columns.depth:
                title = f"{each.label} · {title}"
            words = f"{field} {_range(style, edges, at, below, above)}"
            low, high = float(edges[at]) if at else -inf, float(edges[at + 1]) if at < last else inf
            limits = Limits(field, low, high, words)
            tag = Tag((), each.path, -1, count, title, said(int(count), "row"), (limits,))
            marks.append(Box(x0 + 0.5, y1, max(x1 - x0 - 1, 0.5), y0 - y1, ink.pale() if open_range else ink, tag))
    bottom_axis(marks, style, horizontal, bottom, width)
    blank = held.blank
    name = figure_name(grid, 0) + (f" · {said(blank, 'blank')} left out" if blank else "")
    axis_name(marks, name, size[0] - 4, size[1] - 6, size[0] * 0.7, width, right=True)
    _say_tails(marks, style, edges, below, above, size[1] - 6, left)
    return Scene(size[0], size[1], tuple(marks))


def _range(style: FigureStyle, edges: NDArray[np.float64], at: int, below: bool, above: bool) -> str:
    if below and at == 0:
        return f"under {style.text(edges[1], unit=True)}"
    if above and at == len(edges) - 2:
        return f"{style.text(edges[at], unit=True)} and above"
    return f"{style.text(edges[at], unit=True)} to under {style.text(edges[at + 1], unit=True)}"


def _say_tails(
    marks: list[Mark], style: FigureStyle, edges: NDArray[np.float64], below: bool, above: bool, y: float, left: float
) -> None:
    """The paler outer columns are open: that is said, since they stand for more than their width."""
    open_ranges = [
        _range(style, edges, at, below, above) for at in ([0] if below else []) + ([len(edges) - 2] if above else [])
    ]
    if open_ranges:
        marks.append(Text(left, y, "paler: " + ", ".join(open_ranges), Ink("muted"), 11.0))
