"""Lines over ordered members, named at their ends. A last period that is not over is dashed."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from summula.core.charts.axes import left_axis
from summula.core.charts.columns import category_axis
from summula.core.charts.look import Look
from summula.core.charts.scale import Scale, scale
from summula.core.charts.scene import Ink, Line, Mark, Point, Scene, Text, TextWidth, message
from summula.core.charts.series import (
    Category,
    Ghost,
    Series,
    categories,
    fitted,
    ghost_value,
    series_of,
    tag,
    value,
)
from summula.core.summaries.grid import Grid

_LABEL = 11.5

_APART = 5.0  # pixels between points that are shown
_MANY = 400  # points, which a thick line would run together


def draw_lines(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """A line each series; its name at its end, moved apart where two would overlap."""
    cats, series = categories(grid), series_of(grid)
    ghost = Ghost.of(look.ghost)
    if not cats or not series:
        return message("Nothing to draw: no rows are in play", size)
    known = [value(grid, cat, each) for cat in cats for each in series]
    known += [ghost_value(ghost, cat, each) for cat in cats for each in series] if ghost else []
    known = [v for v in known if not math.isnan(v)] or [0.0]
    grouped = any(cat.group for cat in cats)
    bottom = size[1] - (38.0 if grouped else 22.0)
    vertical = scale(min(known), max(known), bottom, 12.0)
    marks: list[Mark] = []
    latest = series[-1]
    names = [
        each.label + (f" to {look.until}" if look.part_way and each is latest and look.until else "") for each in series
    ]
    named = len(series) > 1 or bool(series[0].path)
    room = min(max(width(n, _LABEL, 600) for n in names) + 12, size[0] * 0.28) if named else 16.0
    right = size[0] - room
    left = left_axis(marks, grid.styles[0], vertical, right, width)
    step = (right - left) / len(cats)

    def x(place: int) -> float:
        return left + (place + 0.5) * step

    ends: list[tuple[float, float, str, Series, str]] = []
    for each, name in zip(series, names, strict=True):
        if ghost is not None:
            _run(
                marks,
                [(x(p), ghost_value(ghost, c, each)) for p, c in enumerate(cats)],
                vertical,
                Ink("ghost"),
                3,
            )
        points = [(place, value(grid, cat, each)) for place, cat in enumerate(cats)]
        points = [(place, figure) for place, figure in points if not math.isnan(figure)]
        if not points:
            continue
        dashed_last = look.part_way and each is latest
        _line(marks, grid, ghost, cats, each, points, x, vertical, dashed_last, strong=each is latest)
        last_place, last_figure = points[-1]
        ends.append((vertical(last_figure), x(last_place), name, each, fitted(name, room - 10, _LABEL, 600, width)))
    if named:
        _name_ends(marks, ends, right, bottom)
    category_axis(marks, cats, left, step, bottom, width, grouped)
    return Scene(size[0], size[1], tuple(marks))


def _run(marks: list[Mark], points: list[tuple[float, float]], vertical: Scale, ink: Ink, width: float) -> None:
    known = tuple((px, vertical(figure)) for px, figure in points if not math.isnan(figure))
    if len(known) > 1:
        marks.append(Line(known, ink, width))


def _line(
    marks: list[Mark],
    grid: Grid,
    ghost: Ghost | None,
    cats: Sequence[Category],
    each: Series,
    points: list[tuple[int, float]],
    x: Callable[[int], float],
    vertical: Scale,
    dashed_last: bool,
    *,
    strong: bool,
) -> None:
    placed = [(x(place), vertical(figure)) for place, figure in points]
    weight = 2.4 if strong else 1.8
    if len(placed) > _MANY:
        weight = 1.0
    solid = placed[:-1] if dashed_last and len(placed) > 1 else placed
    if len(solid) > 1:
        marks.append(Line(tuple(solid), each.ink, weight))
    if dashed_last and len(placed) > 1:
        marks.append(Line((placed[-2], placed[-1]), each.ink, weight, dashed=True))
    # Points nearer to each other than they are wide would only thicken the line: they are there to be asked, unseen.
    dense = len(placed) > 1 and abs(placed[-1][0] - placed[0][0]) < _APART * (len(placed) - 1)
    radius = 0.0 if dense else 3.6 if strong and len(points) <= 40 else 2.2
    told = -math.inf
    for (place, figure), (px, py) in zip(points, placed, strict=True):
        if dense and px - told < 1.0:  # of those that share a pixel the first can be asked
            continue
        told = px
        before = ghost_value(ghost, cats[place], each)
        marks.append(Point(px, py, radius, each.ink, tag=tag(grid, cats[place], each, figure, before)))


def _name_ends(
    marks: list[Mark], ends: list[tuple[float, float, str, Series, str]], right: float, bottom: float
) -> None:
    """Names beside the ends of their lines, at least a line's height apart, inside the drawing."""
    apart = 14.0
    ends = sorted(ends, key=lambda end: end[0])
    places: list[float] = []
    for y, *_ in ends:
        places.append(max(y + 4, places[-1] + apart) if places else max(y + 4, 10.0))
    overrun = (places[-1] - bottom) if places else 0.0
    for at in range(len(places) - 1, -1, -1):  # push back up what ran below the drawing
        limit = bottom if at == len(places) - 1 else places[at + 1] - apart
        places[at] = min(places[at], limit) if overrun > 0 else places[at]
    crossed = [mark for mark in marks if isinstance(mark, Point)]
    for place, (_, x_end, name, each, text) in zip(places, ends, strict=True):
        beside = min(x_end + 10, right + 4)
        # A line that ends early is named where it ends, unless points of others lie there.
        if any(beside - 4 < point.x < right and abs(point.y - place + 4) < 9 for point in crossed):
            beside = right + 4
        marks.append(Text(beside, place, text, each.ink, _LABEL, 600, full=name))
