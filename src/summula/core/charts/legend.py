"""What tells marks apart: the names of series with a little of their marks, the key of inks; the note at the foot."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from summula.core.charts.inks import graded_around
from summula.core.charts.lettering import EDGE, LABEL, LINE
from summula.core.charts.scene import Box, Ink, Line, Mark, Text, fitted
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
    marks.append(Text(0, canvas.height - 4, text, Ink("muted"), LABEL, full=note, part="Words"))
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
    x, y, line = 0.0, 12.0, 1
    for at, each in enumerate(entries):
        label = fitted(each.label, min(150.0, room - 16), LABEL, 400, text_width)
        needed = 14 + text_width(label, LABEL, 400) + 14
        last_line = line == most
        more = f"+ {len(entries) - at}"
        spare = text_width(more, LABEL, 400) + 8 if last_line and at < len(entries) - 1 else 0.0
        if x and x + needed - 14 + spare > room:
            if last_line:
                marks.append(
                    Text(x, y, more, Ink("muted"), LABEL, full=", ".join(e.label for e in entries[at:]), part="Legend")
                )
                break
            x, y, line = 0.0, y + LINE, line + 1
        marks.append(_sample(each, x, y))
        marks.append(Text(x + 14, y, label, Ink("text"), LABEL, full=each.label, part=LEGEND))
        x += needed
    return y + 10, canvas.width


def _sample(each: Series, x: float, y: float) -> Mark:
    """A little of a series' mark, before its name."""
    if each.as_line:
        return Line(((x, y - 4), (x + 10, y - 4)), each.ink, 2.4, part="Legend")
    return Box(x, y - 9, 9, 9, each.ink, part="Legend")


def _legend_right(marks: list[Mark], canvas: Canvas, entries: Sequence[Series]) -> tuple[float, float]:
    widest = max(canvas.text_width(each.label, LABEL, 400) for each in entries)
    room = min(widest + 14, canvas.width * _LEGEND_SHARE)
    left, most = canvas.width - room, max(1, int((canvas.height - 8) / LINE))
    shown = entries if len(entries) <= most else entries[: most - 1]
    for at, each in enumerate(shown):
        y = 14 + at * LINE
        marks.append(_sample(each, left, y))
        text = fitted(each.label, room - 14, LABEL, 400, canvas.text_width)
        marks.append(Text(left + 14, y, text, Ink("text"), LABEL, full=each.label, part=LEGEND))
    if len(shown) < len(entries):
        full = ", ".join(each.label for each in entries[len(shown) :])
        marks.append(
            Text(left, 14 + len(shown) * LINE, f"+ {len(entries) - len(shown)}", Ink("muted"), LABEL, full=full)
        )
    return 4.0, left - 10
