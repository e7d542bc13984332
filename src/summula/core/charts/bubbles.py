"""Bubbles: one figure against another, a circle a member, whose area is a third figure."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.charts.extents import Extent
from summula.core.charts.frame import Along, framed, trend_room
from summula.core.charts.scatter import MOST_PALE, across_series, groups_of, member_tag, named_points, pale_squares
from summula.core.charts.scene import Ink, Line, Point, Scene, message
from summula.core.charts.series import categories, figure_name
from summula.core.charts.trail import draw_trail
from summula.core.charts.trend import trends_of_points

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.frame import Frame
    from summula.core.engine.grid import Grid

_LARGEST = 0.07  # of the shorter side: the radius of the greatest figure
_RADII = (9.0, 40.0)  # pixels, of the greatest
_LEAST = 1.5
_NAMED = 60  # the most bubbles that are named


def draw_bubbles(chart: Chart, canvas: Canvas) -> Scene:
    """The first figure upward, the last along the bottom, the one between as the area; small ones lie upon large."""
    grid = chart.grid
    block = grid.values[grid.finest]
    y, size, x = block[0], block[1], block[2]
    known = ~(np.isnan(x) | np.isnan(y) | np.isnan(size))
    if not known.any():
        return message("No data: no member has all three values", canvas.size, canvas.text_width)
    if bool((size[known] < 0).any()):
        why = f"An area cannot be negative, as some values of {figure_name(grid, 1)} is: put another measure second"
        return message(why, canvas.size, canvas.text_width)
    most = float(size[known].max())
    ends = [(float(each[known].min()), float(each[known].max())) for each in (x, y)]
    if chart.ghost is not None:
        before = chart.ghost.values[chart.ghost.finest]
        most = max(most, float(np.nanmax(before[1])))
        ends = [
            (min(low, float(np.nanmin(each))), max(high, float(np.nanmax(each))))
            for (low, high), each in zip(ends, (before[2], before[0]), strict=True)
        ]
    if chart.course is not None:
        most = chart.course.extent(1, 0.0, most)[1]
        ends = [chart.course.extent(n, *own) for n, own in ((2, ends[0]), (0, ends[1]))]
    largest = min(max(min(canvas.size) * _LARGEST, _RADII[0]), _RADII[1])
    per_radius = largest / math.sqrt(most) if most > 0 else 0.0
    across = across_series(grid, chart.look.inks)
    along = Along(
        Extent(*ends[0]), chart.styles[2],
        chart.style.words.members or figure_name(grid, 2), note=f"area: {figure_name(grid, 1)}",
        inset=largest,
    )  # fmt: skip
    frame = framed(
        chart, canvas, [Extent(*ends[1])], along=along, entries=across if grid.columns.depth else (), zero=False,
        names=[figure_name(grid, 0)], beside=6.0,
        above=largest + trend_room(chart, len(across)), below=largest, figures=y[known].tolist(),
    )  # fmt: skip
    upright = frame.scales[0]
    found = []
    for cat in categories(grid):
        for each in across:
            place = cat.node, each.node
            up, along_figure, area = (float(figures[place]) for figures in (y, x, size))
            if known[place] and upright.holds(up):
                radius = max(_LEAST, per_radius * math.sqrt(area))
                found.append((radius, frame.x(along_figure), upright.within(up), cat, each, (up, area, along_figure)))
    if upright.low < 0 < upright.high:
        frame.marks.append(Line(((frame.left, upright(0)), (frame.right, upright(0))), Ink("muted"), 1))
    if chart.ghost is not None:
        _bubbles_before(frame, chart.ghost, per_radius)
    found.sort(key=lambda each: -each[0])
    for _, _, _, cat, each, (up, _, along_figure) in found:
        draw_trail(frame, chart.course, cat, each, (up, along_figure), (0, 2))
    points = []
    for radius, px, py, cat, each, figures in found:
        frame.marks.append(Point(px, py, radius + 1.0, Ink("sheet"), hollow=False))
        frame.marks.append(Point(px, py, radius, each.ink.soft(), False, member_tag(chart, cat, each, figures)))
        points.append((px, py, cat.name if grid.rows.depth else each.label, radius))
    if chart.style.labels.show != "none" and (len(points) <= _NAMED or chart.style.labels.show == "all"):
        named_points(frame, points)
    values = [(x[:, each.node], y[:, each.node]) for each in across]
    trends_of_points(frame, chart, groups_of(chart, across, values), along_measure=2)
    return frame.scene()


def _bubbles_before(frame: Frame, ghost: Grid, per_radius: float) -> None:
    """What stood there before slicing; of very many, where their middles stood."""
    upright = frame.scales[0]
    up, area, along = (each.ravel() for each in ghost.values[ghost.finest][:3])
    there = ~np.isnan(along + area) & (up >= upright.low) & (up <= upright.high)
    x, y = frame.x.places(along[there]), upright.places(up[there])
    if len(x) > MOST_PALE:
        frame.marks.append(pale_squares(x, y))
        return
    radii = np.maximum(per_radius * np.sqrt(np.maximum(area[there], 0.0)), _LEAST)
    ink = Ink("ghost")
    for each in zip(x.tolist(), y.tolist(), radii.tolist(), strict=True):
        frame.marks.append(Point(*each, ink, hollow=False))
