"""The form "key figure": the one figure of a summary, as large as its room lets it be."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from summula.core.charts.columns import NOTHING
from summula.core.charts.legend import note_at_foot
from summula.core.charts.scene import Ink, Mark, Saying, Scene, Tag, Text, fitted, message
from summula.core.charts.series import short_name
from summula.core.fields.figures import percent_text

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_SIZE = (15.0, 64.0)  # pixels: the figure, least and most
_NAME = 13.0


def draw_key_figure_form(chart: Chart, canvas: Canvas) -> Scene:
    """With a ghost the whole stands below in small type, and the figure's share of it."""
    figure, style = chart.grid.bottom_line(), chart.styles[0]
    if math.isnan(figure):
        return message(NOTHING, canvas.size, canvas.text_width)
    before = chart.ghost.bottom_line() if chart.ghost is not None else math.nan
    marks: list[Mark] = []
    foot = note_at_foot(marks, chart, canvas)
    name = chart.style.words.figures or short_name(chart.grid.phrase.measures[0], chart.grid.names[0])
    room, width = canvas.height - foot, canvas.text_width
    whole = not math.isnan(before)
    size = min(_SIZE[1], max(_SIZE[0], (room - 24 - (22 if whole else 0)) * 0.62))
    text = style.short(figure)
    for digits in (3, 2):
        text = style.short(figure, digits=digits)
        while size > _SIZE[0] and width(text, size * 1.12, 600) > canvas.width - 4 and digits == 2:
            size -= 1.0
        if width(text, size * 1.12, 600) <= canvas.width - 4:
            break
    tag = Tag((), (), 0, figure, name, Saying(name, style, figure, before))
    high = _NAME + 8 + size + (22 if whole else 0)
    top = max(0.0, (room - high) / 2)
    marks.append(
        Text(2, top + _NAME, fitted(name, canvas.width - 4, _NAME, 400, width), Ink("muted"), _NAME, full=name)
    )
    y = top + _NAME + 6 + size * 0.86
    marks.append(
        Text(2, y, fitted(text, canvas.width, size * 1.12, 600, width), Ink("ink"), size, 600, serif=True, tag=tag)
    )
    if whole:
        said = f"of {style.short(before)}"
        if before and 0 <= figure / before <= 1:
            said += f", {percent_text(figure / before)}"
        below = fitted(f"{said} {chart.ghost_words}", canvas.width - 4, 12, 400, width)
        marks.append(Text(2, y + 21, below, Ink("muted"), 12, full=said, optional=True))
    return Scene(canvas.width, canvas.height, tuple(marks))
