"""Heat grid: a square for each pair of members, its ink by the figure; the totals of rows and columns as bars on its
sides. Over two banded numbers it is a two-way histogram, the first rising upward."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.charts.columns import NOTHING
from summula.core.charts.labelling import figure_text, ink_on
from summula.core.charts.legend import ink_key, note_at_foot
from summula.core.charts.lettering import LABEL
from summula.core.charts.membernames import LEAST_CUT, are_words
from summula.core.charts.plotted import Plotted, plotted
from summula.core.charts.scene import Box, Ink, Mark, Scene, Text, fitted, message
from summula.core.charts.series import Category, Series, band_label, short_label, short_name, tag
from summula.core.charts.style import HeatStyle

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_PALEST = 0.1  # of the ink, for a figure next to nothing
_NOTHING = 0.04
_GAP = 1.5  # pixels of paper between squares
_NAMES = 0.3  # of the width, at most
_LEAST = 5.0  # pixels a square
_LEAST_NAMED = 12.0  # pixels between names
_KEY = 96.0  # pixels: the key of the inks
_EDGE = 0.14  # of the room, for the totals on a side
_LEAST_EDGED = (300.0, 180.0)  # a smaller chart has none


class _Place(msgspec.Struct, frozen=True):
    """Where squares lie: `step` from one to the next, along and down; `upward`: the first row is at the bottom."""

    left: float
    top: float
    step: tuple[float, float]
    rows: int
    columns: int
    upward: bool

    @property
    def right(self) -> float:
        return self.left + self.step[0] * self.columns

    @property
    def bottom(self) -> float:
        return self.top + self.step[1] * self.rows

    def y(self, row: int) -> float:
        return self.top + self.step[1] * (self.rows - 1 - row if self.upward else row)

    def x(self, column: int) -> float:
        return self.left + self.step[0] * column


def draw_heat_grid(chart: Chart, canvas: Canvas) -> Scene:
    shown = plotted(chart)
    known = [each for line in shown.figures for each in line if not math.isnan(each)]
    if not known:
        return message(NOTHING, canvas.size, canvas.text_width)
    marks: list[Mark] = []
    foot = note_at_foot(marks, chart, canvas)
    place = _laid_out(shown, canvas, foot)
    if min(place.step) < _LEAST:
        many = f"{place.rows} by {place.columns} squares do not fit"
        return message(f"{many}: make the chart larger, or keep the top few", canvas.size, canvas.text_width)
    beside = [end for each in chart.reach for end in each]
    low, high = min([0.0, *known, *beside]), max([0.0, *known, *beside])
    reach = max(high, -low) or 1.0
    before = max((abs(each) for line in shown.before for each in line if not math.isnan(each)), default=0.0) or 1.0
    left_out = 0
    for at, cat in enumerate(shown.cats):
        for which, each in enumerate(shown.series):
            left_out += _square(marks, shown, place, (at, which), (cat, each), (reach, before), canvas)
    if _edged(chart, canvas):
        _totals(marks, shown, place, canvas)
    left_out += _names(marks, shown, place, canvas)
    if chart.style.legend.place != "none" and canvas.width - place.left >= _KEY + 60:
        name = chart.style.words.figures or short_name(chart.grid.phrase.measures[0], chart.grid.names[0])
        ink_key(marks, canvas, 3, (low, high), chart.styles[0], lambda each: heat_ink(each, reach), name)
    return Scene(canvas.width, canvas.height, tuple(marks), left_out, ((low, high),))


def _edged(chart: Chart, canvas: Canvas) -> bool:
    large = canvas.width >= _LEAST_EDGED[0] and canvas.height >= _LEAST_EDGED[1]
    return large and chart.style.own_of(HeatStyle).edges and chart.grid.columns.depth == 1


def _laid_out(shown: Plotted, canvas: Canvas, foot: float) -> _Place:
    chart = shown.chart
    widest = max(canvas.text_width(short_label(cat), LABEL, 400) for cat in shown.cats)
    left = min(widest + 8, canvas.width * _NAMES)
    top = 6.0 if chart.style.legend.place == "none" else 20.0
    bottom, right = canvas.height - foot - 18, canvas.width - 2
    if chart.style.words.members:
        bottom -= 16
    if chart.style.words.figures:
        top += 0.0 if top > 10 else 16.0
    if _edged(chart, canvas):
        right -= (canvas.width - left) * _EDGE
        top += (canvas.height - top) * _EDGE
    step = ((right - left) / len(shown.series), (bottom - top) / len(shown.cats))
    upward = chart.grid.rows.headings[-1].bands is not None
    return _Place(left, top, step, len(shown.cats), len(shown.series), upward)


def heat_ink(figure: float, reach: float) -> Ink:
    """One hue graded by the figure, another for those below nothing."""
    token = "loss" if figure < 0 else "series 0"
    return Ink(token, _NOTHING if figure == 0 else _PALEST + (1 - _PALEST) * min(1.0, abs(figure) / reach))


def _square(
    marks: list[Mark],
    shown: Plotted,
    place: _Place,
    at: tuple[int, int],
    what: tuple[Category, Series],
    reach: tuple[float, float],
    canvas: Canvas,
) -> int:
    """A pair's square, its frame by the figure before slicing; 1 where its figure had no room."""
    figure, before = shown.figures[at[0]][at[1]], shown.before[at[0]][at[1]]
    x, y = place.x(at[1]), place.y(at[0])
    gap = min(_GAP, min(place.step) * 0.12)
    wide, high = place.step[0] - gap, place.step[1] - gap
    if not math.isnan(before):
        marks.append(Box(x, y, wide, high, Ink("muted", heat_ink(before, reach[1]).strength * 0.5), ghost=True))
        inset = min(3.0, min(wide, high) / 4)
        x, y, wide, high = x + inset, y + inset, wide - 2 * inset, high - 2 * inset
    if math.isnan(figure):
        return 0
    ink = heat_ink(figure, reach[0])
    marks.append(Box(x, y, wide, high, ink, tag(shown.chart, *what, figure, before)))
    show = shown.chart.style.labels.show
    if show == "none" or high < LABEL + 3:
        return 0
    text = figure_text(shown.chart, 0, figure, math.nan, wide - 4, canvas, LABEL, says="value")
    if text:
        marks.append(
            Text(
                x + wide / 2,
                y + high / 2 + 4,
                text,
                ink_on(ink, canvas),
                LABEL,
                400,
                "centre",
                optional=True,
                part="Value labels",
            )
        )
    return int(not text and show == "all")


def _totals(marks: list[Mark], shown: Plotted, place: _Place, canvas: Canvas) -> None:
    """Bars on the right for the rows' totals, columns on top for the columns'; their figures where there is room."""
    chart, grid, series = shown.chart, shown.chart.grid, shown.series[0]
    across = replace(series, node=0, path=(), pairs=(), label="")
    rows = []
    for cat in shown.cats:
        figure = math.nan if cat.node < 0 else float(grid.values[grid.rows.depth, 0][0, cat.node, 0])
        rows.append((cat, across, figure))
    columns = []
    whole = Category(0, (), "", "")
    for each in shown.series:
        figure = math.nan if each.node < 0 else float(grid.values[0, grid.columns.depth][0, 0, each.node])
        columns.append((whole, each, figure))
    reach = max((abs(figure) for _, _, figure in rows if not math.isnan(figure)), default=0.0) or 1.0
    room = canvas.width - place.right - 8
    widest = max((canvas.text_width(_short(chart, figure), LABEL, 400) for *_, figure in rows), default=0.0)
    written = room - widest - 4 >= 18 and place.step[1] >= _LEAST_NAMED
    bars = room - widest - 4 if written else room
    for at, (cat, total, figure) in enumerate(rows):
        if math.isnan(figure):
            continue
        high = min(place.step[1] - 2, max(3.0, place.step[1] * 0.56))
        y = place.y(at) + (place.step[1] - _GAP - high) / 2
        long = max(0.5, abs(figure) / reach * bars)
        marks.append(Box(place.right + 6, y, long, high, _total_ink(figure), tag(chart, cat, total, figure)))
        if written:
            text = _short(chart, figure)
            marks.append(Text(place.right + 10 + long, y + high / 2 + 4, text, Ink("muted"), LABEL, optional=True))
    reach = max((abs(figure) for *_, figure in columns if not math.isnan(figure)), default=0.0) or 1.0
    above = place.top - 24 - (LABEL + 3)
    for at, (total_row, each, figure) in enumerate(columns):
        if math.isnan(figure):
            continue
        wide = min(place.step[0] - 2, max(3.0, place.step[0] * 0.56))
        high = max(0.5, abs(figure) / reach * max(above, 6.0))
        x = place.x(at) + (place.step[0] - _GAP - wide) / 2
        marks.append(Box(x, place.top - 5 - high, wide, high, _total_ink(figure), tag(chart, total_row, each, figure)))
        text = _short(chart, figure)
        if canvas.text_width(text, LABEL, 400) > place.step[0] - 4:
            text = chart.styles[0].short(figure, unit=False, digits=2)
        if canvas.text_width(text, LABEL, 400) <= place.step[0] - 2:
            y = place.top - 9 - high
            marks.append(Text(x + wide / 2, y, text, Ink("muted"), LABEL, align="centre", optional=True))


def _total_ink(figure: float) -> Ink:
    return Ink("loss", 0.55) if figure < 0 else Ink("shape")


def _short(chart: Chart, figure: float) -> str:
    return chart.styles[0].short(figure, unit=False, digits=3)


def _names(marks: list[Mark], shown: Plotted, place: _Place, canvas: Canvas) -> int:
    """Members at the left and along the bottom, as many as can be read; how many could not."""
    left_out = 0
    every = max(1, math.ceil(_LEAST_NAMED / place.step[1]))
    for at, cat in enumerate(shown.cats):
        if at % every:
            left_out += 1
            continue
        text = fitted(short_label(cat), place.left - 6, LABEL, 400, canvas.text_width)
        y = place.y(at) + place.step[1] / 2 + 3
        marks.append(Text(place.left - 6, y, text, Ink("text"), LABEL, align="right", full=cat.label))
    names = [band_label(each.label, each.pairs) for each in shown.series]
    widest = max(canvas.text_width(name, LABEL, 400) for name in names)
    cut = place.step[0] >= LEAST_CUT and are_words(shown.series)
    every = 1 if cut else max(1, math.ceil((min(widest, 60.0) + 4) / place.step[0]))
    for at, each in enumerate(shown.series):
        if at % every:
            left_out += 1
            continue
        text = fitted(names[at], place.step[0] * every - 4, LABEL, 400, canvas.text_width)
        x = place.x(at) + (place.step[0] - _GAP) / 2
        if text != "…":
            marks.append(Text(x, place.bottom + 14, text, Ink("text"), LABEL, align="centre", full=each.label))
    words = shown.chart.style.words
    if words.members:
        text = fitted(words.members, canvas.width - place.left, LABEL, 500, canvas.text_width)
        marks.append(Text(place.right, place.bottom + 30, text, Ink("text"), LABEL, 500, "right", full=words.members))
    return left_out
