"""What tells marks apart: the names of series with a little of their marks, the key of inks; the note at the foot."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from summula.core.charts.inks import graded_around
from summula.core.charts.lettering import EDGE, LABEL, LINE
from summula.core.charts.scene import Box, Ink, Line, Mark, Text, fitted, fitted_name
from summula.core.charts.series import Series, column_name

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.fields.figures import FigureStyle

LEGEND_KEY = "Colour"  # the part of a key of inks
LEGEND = "Legend"  # the part of an entry's name
_LEGEND_SHARE = 0.34  # of the canvas, at most


def measure_key(marks: list[Mark], chart: Chart, canvas: Canvas, top: float) -> float:
    """Which ink is which figure of the last measure, at the right on top; where the drawing may begin below it."""
    last = len(chart.grid.phrase.measures) - 1
    block = chart.grid.values[chart.grid.finest][last]
    known = [each for each in block.ravel().tolist() if math.isfinite(each)]
    if not known:
        return top
    ink = graded_around([known], chart.style.colour.around)
    y = top + 2 if top > 4 else 3.0
    ink_key(marks, canvas, y, (min(known), max(known)), chart.styles[last], ink, column_name(chart.grid, last))
    return y + 15


_KEY, _KEY_STEPS = 96.0, 8  # pixels, and squares


def ink_key(
    marks: list[Mark],
    canvas: Canvas,
    y: float,
    ends: tuple[float, float],
    style: FigureStyle,
    ink: Callable[[float], Ink],
    name: str,
) -> None:
    """From which figure to which the inks go, at the right; before it what the figures are."""
    low, high = ends
    least, most = style.tick(low), style.tick(high)
    x = canvas.width - canvas.text_width(most, LABEL, 400) - _KEY - 6
    for at in range(_KEY_STEPS):
        figure = low + (high - low) * (at + 0.5) / _KEY_STEPS
        marks.append(Box(x + at * _KEY / _KEY_STEPS, y, _KEY / _KEY_STEPS + 0.3, 8, ink(figure), part=LEGEND_KEY))
    marks.append(Text(canvas.width, y + 8, most, Ink("muted"), LABEL, align="right", part=LEGEND_KEY))
    marks.append(Text(x - 6, y + 8, least, Ink("muted"), LABEL, align="right", part=LEGEND_KEY))
    room = x - 14 - canvas.text_width(least, LABEL, 400)
    text = fitted(name, room, LABEL, 500, canvas.text_width)
    if text != "…":
        x -= 14 + canvas.text_width(least, LABEL, 400)
        marks.append(Text(x, y + 8, text, Ink("text"), LABEL, 500, "right", full=name, part=LEGEND_KEY))


def note_at_foot(marks: list[Mark], chart: Chart, canvas: Canvas) -> float:
    """The note below a chart without scales; how many pixels it takes."""
    note = chart.style.words.note
    if not note:
        return 0.0
    text = fitted(note, canvas.width - EDGE, LABEL, 400, canvas.text_width)
    marks.append(Text(0, canvas.height - 4, text, Ink("muted"), LABEL, full=note, part="Titles"))
    return LINE + 2


def legend(marks: list[Mark], chart: Chart, canvas: Canvas, entries: Sequence[Series]) -> tuple[float, float]:
    """The names of the series along the top, or down the right; returns where the drawing may begin, and end."""
    place = chart.style.legend.place
    if not entries or place == "none":
        return 4.0, canvas.width
    if place == "right":
        return _legend_right(marks, canvas, entries)
    text_width, room = canvas.text_width, canvas.width
    most = max(1, int(canvas.height * _LEGEND_SHARE / LINE))
    lines, left_out = _in_lines(entries, canvas, most)
    y = 12.0
    for line in lines:
        # What is free at the end of a line goes to the names that were cut.
        more = f"+ {left_out}" if left_out and line is lines[-1] else ""
        free = room - sum(taken for _, taken in line) + _GAP
        free -= text_width(more, LABEL, 400) + _GAP if more else 0.0
        x = 0.0
        for each, taken in line:
            label = fitted_name(each.label, taken - _SAMPLE - _GAP + max(free, 0.0), LABEL, 400, text_width)
            wide = text_width(label, LABEL, 400)
            free -= _SAMPLE + wide + _GAP - taken
            marks.append(_sample(each, x, y))
            marks.append(Text(x + _SAMPLE, y, label, Ink("text"), LABEL, full=each.label, part=LEGEND))
            x += _SAMPLE + wide + _GAP
        if more:
            names = ", ".join(each.label for each in entries[len(entries) - left_out :])
            marks.append(Text(x, y, more, Ink("muted"), LABEL, full=names, part=LEGEND))
        y += LINE
    return y - LINE + 10, canvas.width


_SAMPLE, _GAP = 14.0, 14.0  # pixels: a sample with the room behind it, and between one entry and the next
_NAME = 150.0  # pixels of a name, where others want the rest of the line


def _taken(each: Series, canvas: Canvas) -> float:
    """The pixels along a line for an entry and the gap behind it."""
    label = fitted_name(each.label, min(_NAME, canvas.width - _SAMPLE - 2), LABEL, 400, canvas.text_width)
    return _SAMPLE + canvas.text_width(label, LABEL, 400) + _GAP


def _in_lines(entries: Sequence[Series], canvas: Canvas, most: int) -> tuple[list[list[tuple[Series, float]]], int]:
    """The entries in at most so many lines, each with the pixels that it takes; and how many are left out."""
    lines: list[list[tuple[Series, float]]] = [[]]
    x = 0.0
    for at, each in enumerate(entries):
        taken, more = _taken(each, canvas), len(entries) - at
        last_line = len(lines) == most
        spare = canvas.text_width(f"+ {more}", LABEL, 400) + 8 if last_line and more > 1 else 0.0
        if x and x + taken - _GAP + spare > canvas.width:
            if last_line:
                return lines, more
            x = 0.0
            lines.append([])
        lines[-1].append((each, taken))
        x += taken
    return lines, 0


def _sample(each: Series, x: float, y: float) -> Mark:
    """A little of a series' mark, before its name."""
    if each.as_line:
        return Line(((x, y - 4), (x + 10, y - 4)), each.ink, 2.4, part=LEGEND)
    return Box(x, y - 9, 9, 9, each.ink, part=LEGEND)


def _legend_right(marks: list[Mark], canvas: Canvas, entries: Sequence[Series]) -> tuple[float, float]:
    widest = max(canvas.text_width(each.label, LABEL, 400) for each in entries)
    room = min(widest + 14, canvas.width * _LEGEND_SHARE)
    left, most = canvas.width - room, max(1, int((canvas.height - 8) / LINE))
    shown = entries if len(entries) <= most else entries[: most - 1]
    for at, each in enumerate(shown):
        y = 14 + at * LINE
        marks.append(_sample(each, left, y))
        text = fitted_name(each.label, room - 14, LABEL, 400, canvas.text_width)
        marks.append(Text(left + 14, y, text, Ink("text"), LABEL, full=each.label, part=LEGEND))
    if len(shown) < len(entries):
        full = ", ".join(each.label for each in entries[len(shown) :])
        marks.append(
            Text(left, 14 + len(shown) * LINE, f"+ {len(entries) - len(shown)}", Ink("muted"), LABEL, full=full)
        )
    return 4.0, left - 10
