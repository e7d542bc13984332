"""Cards: one a member, or one a row; its first figure large, every other one as a line below. A picture of the folio
that has a member's name stands on its card."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.charts.columns import NOTHING
from summula.core.charts.inks import member_ink
from summula.core.charts.legend import note_at_foot
from summula.core.charts.lettering import LABEL
from summula.core.charts.pictures import inside, picture_called
from summula.core.charts.plotted import Plotted, plotted
from summula.core.charts.scene import Box, Ink, Line, Mark, Scene, Tag, Text, fitted, fitted_name, message
from summula.core.charts.series import Category, Series, figure_name, series_of, short_name, tag
from summula.core.engine.samples import Records

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_WIDTH = (132.0, 230.0)  # pixels a card: the least, and what suits
_GAP = 10.0
_MOST = 400  # cards: no page has room for more
_PAD = 10.0
_NAME, _FIGURE, _LINE = 12.0, 22.0, 17.0
_TOP = 18.0 + 28.0  # a name and a figure below it


def draw_cards(chart: Chart, canvas: Canvas) -> Scene:
    """A card a member, or a row. With a ghost each figure is told as a part of what it was before slicing."""
    shown = _of_rows(chart, chart.grid.samples) if isinstance(chart.grid.samples, Records) else plotted(chart, _MOST)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size, canvas.text_width)
    marks: list[Mark] = []
    foot = note_at_foot(marks, chart, canvas)
    columns = max(1, int((canvas.width + _GAP) // (_WIDTH[0] + _GAP)))
    wanted = max(1, math.ceil((canvas.width + _GAP) / (_WIDTH[1] + _GAP)))
    columns = min(columns, max(wanted, 1), len(shown.cats))
    wide = min((canvas.width - _GAP * (columns - 1)) / columns, _WIDTH[1] * 1.4)
    high = 2 * _PAD + _TOP + _LINE * (len(shown.series) - 1) + (17 if shown.has_ghost else 0)
    rows = max(1, int((canvas.height - foot + _GAP) // (high + _GAP)))
    if rows * columns < len(shown.cats):  # a line for what is not shown
        rows = max(1, int((canvas.height - foot - 18 + _GAP) // (high + _GAP)))
    if high > canvas.height - foot + 1 or wide < 60:
        return message("Too small for a card: make the panel larger", canvas.size, canvas.text_width)
    count = min(len(shown.cats), rows * columns)
    strong = shown.strong(by_first=True)
    for at in range(count):
        x, y = (at % columns) * (wide + _GAP), (at // columns) * (high + _GAP)
        _card(marks, shown, at, (x, y, wide, high), canvas, strong=at in strong)
    left = len(shown.cats) + shown.left_out - count
    if left:
        y = math.ceil(count / columns) * (high + _GAP) + 8
        marks.append(Text(0, min(y, canvas.height - foot - 4), f"and {left:,} more", Ink("muted"), LABEL))
    return Scene(canvas.width, canvas.height, tuple(marks), left)


def _of_rows(chart: Chart, held: Records) -> Plotted:
    """Rows as what cards are drawn of: each under its number in the table."""
    cats = [Category(0, (), f"row {row + 1:,}", "") for row in held.rows.tolist()]
    series = [each for each in series_of(chart.grid) if not each.path]
    figures = held.values.T.tolist()
    nothing = [[math.nan] * len(series)] * len(cats)
    return Plotted(chart, cats, series, figures, nothing, held.count - len(cats))


def _card(
    marks: list[Mark],
    shown: Plotted,
    at: int,
    area: tuple[float, float, float, float],
    canvas: Canvas,
    *,
    strong: bool,
) -> None:
    chart, cat = shown.chart, shown.cats[at]
    x, y, wide, high = area
    room = wide - 2 * _PAD
    marks.append(Box(x + 0.5, y + 0.5, wide - 1, high - 1, Ink("sheet"), radius=5, edge=Ink("hairline")))
    axis, start = chart.grid.rows, x + _PAD
    found = picture_called(chart, cat.label)
    if found is not None:  # beside its name and its figure
        side = min(_TOP, room * 0.4)
        marks.append(inside(found, x + wide - _PAD - side, y + _PAD, side))
        wide, room = wide - side - 6, room - side - 6
    if cat.path:
        ink = member_ink(axis, cat.path[-1], chart.look.inks)
        marks.append(Box(start, y + _PAD + 2, 8, 8, ink if strong else ink.pale()))
        start += 13
    name = fitted_name(cat.name, x + wide - _PAD - start, _NAME, 600, canvas.text_width)
    marks.append(Text(start, y + _PAD + 10, name, Ink("text"), _NAME, 600, full=cat.name))
    first = shown.series[0]
    figure, before = shown.figures[at][0], shown.before[at][0]
    style = chart.styles[first.measure]
    if math.isnan(figure):
        marks.append(Text(x + _PAD, y + _PAD + 38, "no rows" if cat.node < 0 else "–", Ink("muted"), 13))
    else:
        text = style.short(figure)
        if canvas.text_width(text, _FIGURE * 1.12, 600) > room:
            text = fitted(style.short(figure, digits=2), room, _FIGURE * 1.12, 600, canvas.text_width)
        told = _tag(shown, at, first, figure, before)
        colour = Ink("ink") if strong else Ink("muted")
        marks.append(Text(x + _PAD, y + _PAD + 40, text, colour, _FIGURE, 600, serif=True, tag=told))
        after = x + _PAD + canvas.text_width(text, _FIGURE * 1.12, 600) + 8
        label = short_name(chart.grid.phrase.measures[first.measure], chart.grid.names[first.measure])
        label = label.removeprefix("each row ")
        if len(shown.series) == 1 or canvas.text_width(label, LABEL, 400) <= x + wide - _PAD - after:
            label = fitted(label, x + wide - _PAD - after, LABEL, 400, canvas.text_width)
            if label != "…":
                marks.append(Text(after, y + _PAD + 40, label, Ink("muted"), LABEL))
    wide, room = area[2], area[2] - 2 * _PAD
    line = y + _PAD + _TOP
    if shown.has_ghost:
        if not math.isnan(before):
            of = fitted(f"of {style.short(before)}", room, LABEL, 400, canvas.text_width)
            marks.append(Text(x + _PAD, line + 10, of, Ink("muted"), LABEL))
        line += 17
    for nth, each in enumerate(shown.series[1:], start=1):
        top = line + (nth - 1) * _LINE
        marks.append(Line(((x + _PAD, top), (x + wide - _PAD, top)), Ink("hairline"), 1))
        figure, before = shown.figures[at][nth], shown.before[at][nth]
        own = chart.styles[each.measure]
        written = "–" if math.isnan(figure) else own.short(figure)
        if shown.has_ghost and not math.isnan(before) and not math.isnan(figure):
            both = f"{written} / {own.short(before)}"
            written = both if canvas.text_width(both, _NAME, 500) <= room * 0.6 else written
        written = fitted(written, room, _NAME, 500, canvas.text_width)
        left = room - canvas.text_width(written, _NAME, 500) - 6
        name = fitted(figure_name(chart.grid, each.measure), left, LABEL, 400, canvas.text_width)
        if name != "…":
            full = figure_name(chart.grid, each.measure)
            marks.append(Text(x + _PAD, top + 13, name, Ink("muted"), LABEL, full=full))
        said = None if math.isnan(figure) else _tag(shown, at, each, figure, before)
        marks.append(Text(x + wide - _PAD, top + 13, written, Ink("text"), _NAME, 500, "right", tag=said))


def _tag(shown: Plotted, at: int, series: Series, figure: float, before: float) -> Tag:
    """What a figure stands for: a cell of the grid; of a row it is the row's own value."""
    told = tag(shown.chart, shown.cats[at], series, figure, before)
    return told if shown.chart.grid.samples is None else replace(told, measure=-1)
