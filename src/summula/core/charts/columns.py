"""Columns, side by side or stacked. Both signs in a single series are told by gain and loss inks."""

from __future__ import annotations

import math
from collections.abc import Sequence

from summula.core.charts.axes import left_axis
from summula.core.charts.look import Look
from summula.core.charts.scale import Scale, scale
from summula.core.charts.scene import Box, Ink, Line, Mark, Scene, Text, TextWidth, message
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

_LABEL = 11.0
_NARROWEST = 14.0  # of a group that is named below its members


def draw_columns(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth, *, stacked: bool) -> Scene:
    """Categories along the bottom; a column each series, or one column with the series stacked on it."""
    cats, series = categories(grid), series_of(grid)
    ghost = Ghost.of(look.ghost)
    if not cats or not series:
        return message("Nothing to draw: no rows are in play", size)
    stacked = stacked and len(series) > 1
    marks: list[Mark] = []
    top = legend(marks, series, size[0], width) if len(series) > 1 or series[0].path else 14.0
    grouped = any(cat.group for cat in cats)
    bottom = size[1] - (38.0 if grouped else 22.0)
    lowest, highest = _extent(grid, ghost, cats, series, stacked)
    below = 16.0 if lowest < 0 and len(series) == 1 else 0.0  # room for the figures under negative columns
    vertical = scale(lowest, highest, bottom - below, top + 8)
    left = left_axis(marks, grid.styles[0], vertical, size[0] - 4, width)
    step = (size[0] - left - 4) / len(cats)
    signed = len(series) == 1 and float(min(0.0, *_finite(grid))) < 0 < float(max(0.0, *_finite(grid)))
    for place, cat in enumerate(cats):
        x = left + place * step
        if stacked:
            _stack(marks, grid, cat, series, x + step * 0.16, step * 0.68, vertical)
        else:
            _side_by_side(marks, grid, ghost, cat, series, x, step, vertical, width, signed=signed)
    marks.append(Line(((left, vertical(0)), (size[0] - 4, vertical(0))), Ink("ink", 0.8), 1))
    category_axis(marks, cats, left, step, bottom, width, grouped)
    return Scene(size[0], size[1], tuple(marks))


def legend(marks: list[Mark], series: Sequence[Series], room: float, width: TextWidth) -> float:
    """Names of the series along the top, wrapped; returns where the drawing may begin."""
    x, y = 0.0, 12.0
    for each in series:
        label = fitted(each.label, 150, _LABEL, 400, width)
        needed = 14 + width(label, _LABEL, 400) + 14
        if x and x + needed > room:
            x, y = 0.0, y + 16
        marks.append(Box(x, y - 9, 9, 9, each.ink))
        marks.append(Text(x + 14, y, label, Ink("text"), _LABEL, full=each.label))
        x += needed
    return y + 10


def _extent(
    grid: Grid, ghost: Ghost | None, cats: Sequence[Category], series: Sequence[Series], stacked: bool
) -> tuple[float, float]:
    lows, highs = [0.0], [0.0]
    for cat in cats:
        figures = [value(grid, cat, each) for each in series]
        if stacked:
            lows.append(sum(v for v in figures if v < 0))
            highs.append(sum(v for v in figures if v > 0))
        else:
            figures += [ghost_value(ghost, cat, each) for each in series]
            known = [v for v in figures if not math.isnan(v)]
            lows.extend(known)
            highs.extend(known)
    return min(lows), max(highs)


def _side_by_side(
    marks: list[Mark],
    grid: Grid,
    ghost: Ghost | None,
    cat: Category,
    series: Sequence[Series],
    x: float,
    step: float,
    vertical: Scale,
    width: TextWidth,
    *,
    signed: bool,
) -> None:
    each_width = step * 0.72 / len(series)
    for at, each in enumerate(series):
        figure = value(grid, cat, each)
        left = x + step * 0.14 + at * each_width
        before = ghost_value(ghost, cat, each)
        if not math.isnan(before):
            marks.append(_column(left, each_width, before, vertical, Ink("ghost"), ghost=True))
        if math.isnan(figure):
            continue
        ink = Ink("gain" if figure >= 0 else "loss") if signed else each.ink
        if cat.gathered:
            ink = ink.pale()
        mark = _column(left, each_width, figure, vertical, ink)
        marks.append(Box(mark.x, mark.y, mark.width, mark.height, ink, tag(grid, cat, each, figure, before)))
        style = grid.styles[each.measure]
        label = style.short(figure, unit=False, signed=signed)
        if width(label, _LABEL, 500) > step - 5:
            label = style.short(figure, unit=False, signed=signed, digits=1)
        if len(series) == 1 and width(label, _LABEL, 500) <= step - 5 and math.isnan(before):
            y = mark.y - 5 if figure >= 0 else mark.y + mark.height + 13
            marks.append(Text(left + each_width / 2, y, label, Ink("text"), _LABEL, 500, "centre"))


def _finite(grid: Grid) -> list[float]:
    return [float(v) for v in grid.values[grid.finest].ravel() if not math.isnan(v)] or [0.0]


def _column(x: float, width: float, figure: float, vertical: Scale, ink: Ink, *, ghost: bool = False) -> Box:
    y, zero = vertical(figure), vertical(0)
    gap = min(1.0, width * 0.1)
    return Box(x + gap, min(y, zero), max(width - 2 * gap, 0.5), abs(zero - y), ink, ghost=ghost)


def _stack(
    marks: list[Mark],
    grid: Grid,
    cat: Category,
    series: Sequence[Series],
    x: float,
    width: float,
    vertical: Scale,
) -> None:
    above = below = 0.0
    for each in series:
        figure = value(grid, cat, each)
        if math.isnan(figure) or figure == 0:
            continue
        start = above if figure > 0 else below
        end = start + figure
        y0, y1 = vertical(start), vertical(end)
        # A hairline of paper between slices, so that neighbours of close inks stay apart.
        box = Box(x, min(y0, y1), width, max(abs(y1 - y0) - 0.8, 0.3), each.ink, tag(grid, cat, each, figure))
        marks.append(box)
        if figure > 0:
            above = end
        else:
            below = end


def category_axis(
    marks: list[Mark],
    cats: Sequence[Category],
    left: float,
    step: float,
    bottom: float,
    width: TextWidth,
    grouped: bool,
) -> None:
    widest = max(width(cat.label, _LABEL, 400) for cat in cats)
    every = 1
    if widest > step - 4:
        short = all(len(cat.label) > 3 for cat in cats) and step >= 26
        every = 1 if short else max(1, math.ceil((min(widest, 90) + 6) / step))
    for place, cat in enumerate(cats):
        if place % every == 0:
            label = fitted(cat.label, step * every - 4, _LABEL, 400, width)
            marks.append(
                Text(
                    left + (place + 0.5) * step,
                    bottom + 15,
                    label,
                    Ink("muted"),
                    _LABEL,
                    align="centre",
                    full=cat.label,
                )
            )
    if not grouped:
        return
    start = 0
    for place in range(1, len(cats) + 1):
        if place == len(cats) or cats[place].group != cats[start].group:
            x0, x1 = left + start * step, left + place * step
            if start:
                marks.append(Line(((x0, bottom + 4), (x0, bottom + 34)), Ink("hairline"), 1))
            if x1 - x0 >= _NARROWEST:
                label = fitted(cats[start].group, x1 - x0 - 6, _LABEL, 600, width)
                full = cats[start].group
                marks.append(Text((x0 + x1) / 2, bottom + 31, label, Ink("text"), _LABEL, 600, "centre", full=full))
            start = place
