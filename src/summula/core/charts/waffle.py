"""Waffle: a whole as a hundred squares, one for each percent, shared out by the largest remainders."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from summula.core.charts.columns import NOTHING
from summula.core.charts.labelling import figure_text
from summula.core.charts.legend import legend, note_at_foot
from summula.core.charts.lettering import LABEL
from summula.core.charts.plotted import inks, plotted
from summula.core.charts.scene import Box, Ink, Mark, Scene, Text, fitted, message
from summula.core.charts.series import Series, short_label, tag
from summula.core.charts.slices import parts_in_order, wholes
from summula.core.charts.stacking import shares

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

SQUARES = 100
_SIDE = 10
_GAP = 0.12  # of a square, between neighbours
_LEAST = 4.0  # pixels a square
_ROW = 34.0  # pixels that a name with its figure below takes


def shared_out(figures: Sequence[float], squares: int = SQUARES) -> list[int]:
    """Whole squares for figures, as many in all as there are: each gets the whole part of its share, what is left goes
    to the largest remainders (Hamilton's method; of equal ones to the earlier)."""
    total = math.fsum(figures)
    if not total > 0:
        return [0] * len(figures)
    exact = [figure / total * squares for figure in figures]
    found = [math.floor(each + 1e-9) for each in exact]
    remainders = sorted(range(len(figures)), key=lambda at: found[at] - exact[at])
    for at in remainders[: squares - sum(found)]:
        found[at] += 1
    return found


def draw_waffle(chart: Chart, canvas: Canvas) -> Scene:
    """Squares from the top left, row by row, in the order of a pie's slices; names beside them. With a ghost the
    squares are those of the whole before slicing, and the part's own are strong."""
    shown = plotted(chart)
    weights = wholes(shown)
    if not shown.cats or not shown.series or not any(weights):
        return message(NOTHING, canvas.size, canvas.text_width)
    order = parts_in_order(shown)
    colours, strong = inks(shown, "member"), shown.strong()
    marks: list[Mark] = []
    foot = note_at_foot(marks, chart, canvas)
    ink_of = {at: colours[at][0] if at in strong else colours[at][0].pale() for at in order}
    beside = chart.style.legend.place == "best" and canvas.width >= canvas.height + 90
    top, right = 0.0, canvas.width
    if not beside:
        entries = [Series(0, 0, (), shown.cats[at].label, ink_of[at]) for at in order]
        top, right = legend(marks, chart, canvas, entries)
    square = min((canvas.height - foot - top - 2) / _SIDE, (canvas.width * 0.62 if beside else right) / _SIDE)
    if square < _LEAST:
        return message("Too small for a waffle: make the panel larger", canvas.size, canvas.text_width)
    left = 0.0 if beside else max(0.0, (right - square * _SIDE) / 2)
    counts = shared_out([weights[at] for at in order])
    place = 0
    for at, count in zip(order, counts, strict=True):
        figure, before = shown.figures[at][0], shown.before[at][0]
        part = 0.0 if math.isnan(figure) else min(1.0, figure / weights[at])
        filled = math.floor(count * part + 0.5) if shown.has_ghost else count
        for nth in range(count):
            row, column = divmod(place, _SIDE)
            x, y = left + column * square, top + 1 + row * square
            side = square * (1 - _GAP)
            if nth < filled:
                said = tag(chart, shown.cats[at], shown.series[0], figure, before)
                marks.append(Box(x, y, side, side, ink_of[at], said))
            else:
                marks.append(Box(x, y, side, side, Ink("ghost"), ghost=True))
            place += 1
    left_out = 0
    if beside:
        now = shares([line[0] for line in shown.figures])
        start = left + square * _SIDE + 16
        room, step = canvas.width - start, min(_ROW, max(16.0, (canvas.height - foot) / len(order)))
        for nth, at in enumerate(order):
            y = top + 12 + nth * step
            if y + (16 if step >= _ROW else 2) > canvas.height - foot:
                left_out += 1
                continue
            cat, figure = shown.cats[at], shown.figures[at][0]
            marks.append(Box(start, y - 9, 9, 9, ink_of[at]))
            says = "" if math.isnan(figure) else figure_text(
                chart, 0, figure, now[at], room, canvas, LABEL, unit=True, name="", best="share"
            )  # fmt: skip
            two = step >= _ROW
            gap = 0.0 if two else canvas.text_width(says, LABEL, 400) + 8
            whole = canvas.text_width(cat.label, 12, 600) <= room - 15 - gap
            name = fitted(cat.label if whole else short_label(cat), room - 15 - gap, 12, 600, canvas.text_width)
            marks.append(Text(start + 15, y, name, Ink("text"), 12, 600, full=cat.label))
            if two:
                marks.append(Text(start + 15, y + 14, says, Ink("muted"), LABEL))
            else:
                marks.append(Text(canvas.width - 1, y, says, Ink("muted"), LABEL, align="right"))
    return Scene(canvas.width, canvas.height, tuple(marks), left_out)
