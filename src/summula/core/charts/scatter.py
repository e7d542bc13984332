"""Scatter: one figure against another. A point a member or a point a row; many rows become squares, darker where
more lie."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import TYPE_CHECKING, TypeAlias

from summula.core.arrays import np
from summula.core.charts.axes import FOOT, NAME_ROOM, axis_name, bottom_axis, field_of, figure_name, fit, left_axis
from summula.core.charts.columns import legend
from summula.core.charts.look import Look, member_ink
from summula.core.charts.scale import Scale
from summula.core.charts.scene import Box, Ink, Line, Mark, Point, Scene, Tag, Text, TextWidth, message
from summula.core.charts.series import Category, Series, categories
from summula.core.fields.labels import label_of
from summula.core.summaries.figures import said
from summula.core.summaries.grid import Grid
from summula.core.summaries.samples import Density, Limits, Points

if TYPE_CHECKING:
    from numpy.typing import NDArray

Figures: TypeAlias = "NDArray[np.float64]"
_SQUARE = 5.0  # pixels
_PARTS = (1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 24, 30, 40)  # that may make a square; each divides both numbers of them
_LABELLED = 40  # the most points that are named beside them
_LABEL = 11.0


def draw_scatter(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """The first figure upward, the second along the bottom."""
    held = grid.samples
    if isinstance(held, Points):
        return _of_points(grid, held, size, width)
    if isinstance(held, Density):
        return _of_density(grid, held, size, width)
    return _of_members(grid, size, width)


def _frame(
    marks: list[Mark],
    grid: Grid,
    x: tuple[float, float],
    y: tuple[float, float],
    size: tuple[float, float],
    top: float,
    width: TextWidth,
) -> tuple[Scale, Scale]:
    """Both axes, for these extents."""
    bottom = size[1] - FOOT
    vertical = fit(*y, bottom, top + NAME_ROOM + 4, every=40)
    left = left_axis(marks, grid.styles[0], vertical, size[0] - 10, width)
    horizontal = fit(*x, left, size[0] - 10, every=80)
    bottom_axis(marks, grid.styles[1], horizontal, bottom, width)
    if vertical.low < 0 < vertical.high:
        marks.append(Line(((left, vertical(0)), (size[0] - 10, vertical(0))), Ink("muted"), 1))
    axis_name(marks, figure_name(grid, 0), 0, top + 11, size[0] - 8, width, right=False)
    axis_name(marks, figure_name(grid, 1), size[0] - 4, size[1] - 6, size[0] * 0.7, width, right=True)
    return horizontal, vertical


def _of_members(grid: Grid, size: tuple[float, float], width: TextWidth) -> Scene:
    cats = categories(grid)
    across = _across(grid)
    block = grid.values[grid.finest]
    y, x = block[0], block[1]
    known = ~(np.isnan(x) | np.isnan(y))
    if not known.any():
        return message("Nothing to draw: nothing has both figures", size)
    marks: list[Mark] = []
    top = legend(marks, across, size[0], width) if grid.columns.depth else 0.0
    horizontal, vertical = _frame(marks, grid, _ends(x[known]), _ends(y[known]), size, top, width)
    points: list[tuple[float, float, str]] = []
    for cat in cats:
        for each in across:
            if known[cat.node, each.node]:
                up, along = float(y[cat.node, each.node]), float(x[cat.node, each.node])
                place, height = horizontal(along), vertical(up)
                marks.append(Point(place, height, 4.5, each.ink, False, _tag(grid, cat, each, up, along)))
                label = " · ".join(name for name in (cat.group, cat.label) if name) if grid.rows.depth else each.label
                points.append((place, height, label))
    if len(points) <= _LABELLED:
        _name(marks, points, (horizontal.start, size[0]), width)
    return Scene(size[0], size[1], tuple(marks))


def _across(grid: Grid) -> list[Series]:
    """One series a member across, in the member's own ink; a single one in the first ink."""
    axis = grid.columns
    if not axis.depth:
        return [Series(0, 0, (), "", Ink("series 0"))]
    found = []
    for node in range(axis.levels[axis.depth].size):
        path = axis.path(axis.depth, node)
        label = " · ".join(label_of(heading, member) for heading, member in zip(axis.headings, path, strict=True))
        found.append(Series(node, 0, path, label, member_ink(axis.headings[-1], path[-1], axis.members[-1])))
    return found


def _tag(grid: Grid, cat: Category, each: Series, up: float, along: float) -> Tag:
    names = [name for name in (cat.group, cat.label if grid.rows.depth else "", each.label) if name]
    figures = [f"{grid.names[at]} {grid.styles[at].text(figure, unit=True)}" for at, figure in ((0, up), (1, along))]
    return Tag(cat.path, each.path, 0, up, " · ".join(names), "; ".join(figures))


def _name(
    marks: list[Mark], points: list[tuple[float, float, str]], room: tuple[float, float], width: TextWidth
) -> None:
    """Names beside the points, where they touch neither a point nor another name."""
    taken = [(x - 6, y - 6, x + 6, y + 6) for x, y, _ in points]
    for x, y, label in points:
        wide = width(label, _LABEL, 400)
        for start in (x + 8, x - 8 - wide):
            box = (start, y - 7, start + wide, y + 6)
            own = (x - 6, y - 6, x + 6, y + 6)
            free = all(b == own or b[2] <= box[0] or b[0] >= box[2] or b[3] <= box[1] or b[1] >= box[3] for b in taken)
            if free and start >= room[0] + 2 and start + wide <= room[1]:
                taken.append(box)
                marks.append(Text(start, y + 4, label, Ink("text"), _LABEL))
                break


def _of_points(grid: Grid, held: Points, size: tuple[float, float], width: TextWidth) -> Scene:
    across = _across(grid)
    marks: list[Mark] = []
    top = legend(marks, across, size[0], width) if grid.columns.depth else 0.0
    extents = (_ends(held.x), _ends(held.y))
    horizontal, vertical = _frame(marks, grid, *extents, size, top, width)
    for along, up, at in zip(held.x.tolist(), held.y.tolist(), held.column.tolist(), strict=True):
        each = across[at]
        figures = [f"{figure_name(grid, n)} {grid.styles[n].text(v, unit=True)}" for n, v in ((0, up), (1, along))]
        limits = tuple(Limits(field_of(grid, n), v, v, figures[n], True) for n, v in ((0, up), (1, along)))
        tag = Tag((), each.path, -1, up, each.label, "; ".join(figures), limits)
        marks.append(Point(horizontal(along), vertical(up), 3.0, each.ink, True, tag))
    return Scene(size[0], size[1], tuple(marks))


def _ends(values: Figures) -> tuple[float, float]:
    return float(values.min()), float(values.max())


def _of_density(grid: Grid, held: Density, size: tuple[float, float], width: TextWidth) -> Scene:
    """Rows counted in small squares: so many of the fine parts together that a square can be seen."""
    marks: list[Mark] = []
    horizontal, vertical = _frame(marks, grid, held.x, held.y, size, 0.0, width)
    high, wide = held.counts.shape
    joined = [
        next(n for n in _PARTS if n * abs(place(ends[1]) - place(ends[0])) / parts >= _SQUARE or n == _PARTS[-1])
        for place, ends, parts in ((vertical, held.y, high), (horizontal, held.x, wide))
    ]
    counts = held.counts.reshape(high // joined[0], joined[0], wide // joined[1], joined[1]).sum(axis=(1, 3))
    up = held.y[0] + np.arange(counts.shape[0] + 1) * joined[0] * (held.y[1] - held.y[0]) / high
    along = held.x[0] + np.arange(counts.shape[1] + 1) * joined[1] * (held.x[1] - held.x[0]) / wide
    most = counts.max()
    heights, places = [vertical(each) for each in up.tolist()], [horizontal(each) for each in along.tolist()]
    upward, beside = _parts_in_words(grid, 0, up.tolist()), _parts_in_words(grid, 1, along.tolist())
    for i, j in zip(*(each.tolist() for each in np.nonzero(counts)), strict=True):
        count = int(counts[i, j])
        strength = 0.18 + 0.82 * math.log1p(count) / math.log1p(most)
        tag = Tag((), (), -1, float(count), said(count, "row"), f"{upward[i]}; {beside[j]}")
        x, y = places[j], heights[i + 1]
        marks.append(Box(x, y, places[j + 1] - x - 0.6, heights[i] - y - 0.6, Ink("series 0", strength), tag))
    note = f"{said(int(counts.sum()), 'row')}: darker where more lie"
    marks.append(Text(horizontal.start, size[1] - 6, note, Ink("muted"), _LABEL))
    return Scene(size[0], size[1], tuple(marks))


def _parts_in_words(grid: Grid, measure: int, edges: list[float]) -> list[str]:
    name, style = figure_name(grid, measure), grid.styles[measure]
    said_edges = [style.text(edge, unit=True) for edge in edges]
    return [f"{name} {low} to {high}" for low, high in pairwise(said_edges)]
