"""Number axes that need not begin at nothing, and their names."""

from __future__ import annotations

import math

from summula.core.charts.scale import Scale
from summula.core.charts.scene import Ink, Line, Mark, Text, TextWidth
from summula.core.charts.series import column_name, fitted
from summula.core.summaries.figures import FigureStyle, round_step
from summula.core.summaries.grid import Grid
from summula.core.summaries.phrase import Aggregate, figures_shown

_LABEL = 11.0
NAME_ROOM = 18.0  # above a drawing, for the name of its vertical axis
FOOT = 40.0  # below a drawing, for the ticks and the name of its horizontal axis


def fit(lowest: float, highest: float, start: float, end: float, *, every: float = 60) -> Scale:
    """A scale of what occurs, on round figures; it begins at nothing only where that is near."""
    if not (math.isfinite(lowest) and math.isfinite(highest)):
        lowest, highest = 0.0, 1.0
    if highest - lowest < max(1e-300, 1e-12 * abs(highest)):  # one lone figure stands in the middle
        slack = abs(lowest) * 0.1 or 1.0
        lowest, highest = lowest - slack, highest + slack
    if 0 < lowest < 0.25 * (highest - lowest):
        lowest = 0.0
    step = round_step((highest - lowest) / max(2, int(abs(end - start) / every)))
    first, last = math.floor(lowest / step + 1e-9), math.ceil(highest / step - 1e-9)
    return Scale(first * step, last * step, start, end, tuple(at * step for at in range(first, last + 1)))


def left_axis(marks: list[Mark], style: FigureStyle, vertical: Scale, right: float, width: TextWidth) -> float:
    """Ticks along the left with hairlines; returns where the drawing begins."""
    labels = [style.tick(tick) for tick in vertical.ticks]
    left = max(width(label, _LABEL, 400) for label in labels) + 8
    for tick, label in zip(vertical.ticks, labels, strict=True):
        y = vertical(tick)
        marks.append(Line(((left, y), (right, y)), Ink("hairline"), 1))
        marks.append(Text(left - 8, y + 4, label, Ink("muted"), _LABEL, align="right"))
    return left


def bottom_axis(marks: list[Mark], style: FigureStyle, horizontal: Scale, bottom: float, width: TextWidth) -> None:
    """Ticks along the bottom; those that would touch are left out."""
    marks.append(Line(((horizontal.start, bottom), (horizontal.end, bottom)), Ink("ink", 0.8), 1))
    end = -math.inf
    for tick in horizontal.ticks:
        label, x = style.tick(tick), horizontal(tick)
        room = width(label, _LABEL, 400) / 2
        if x - room < end + 8:
            continue
        end = x + room
        marks.append(Line(((x, bottom), (x, bottom + 4)), Ink("muted"), 1))
        marks.append(Text(x, bottom + 16, label, Ink("muted"), _LABEL, align="centre"))


def axis_name(marks: list[Mark], name: str, x: float, y: float, room: float, width: TextWidth, *, right: bool) -> None:
    text = fitted(name, room, _LABEL, 500, width)
    marks.append(Text(x, y, text, Ink("text"), _LABEL, 500, "right" if right else "left", full=name))


def field_of(grid: Grid, measure: int) -> str:
    """The field whose values themselves a measure shows."""
    calculation = figures_shown(grid.phrase)[measure].calculation
    return (calculation.field or "") if isinstance(calculation, Aggregate) else ""


def figure_name(grid: Grid, measure: int) -> str:
    """A measure as an axis is named: "each row" goes without saying."""
    return column_name(grid, measure).removeprefix("each row ")
