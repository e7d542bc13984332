"""Gauge: one figure on an arc, between limits that say what is poor, fair and good, whichever way that runs."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.charts.columns import NOTHING
from summula.core.charts.legend import note_at_foot
from summula.core.charts.lettering import LABEL
from summula.core.charts.places import on_circle
from summula.core.charts.scale import scale
from summula.core.charts.scene import Area, Ink, Line, Mark, Point, Saying, Scene, Tag, Text, Wedge, fitted, message
from summula.core.charts.series import short_name
from summula.core.charts.style import GaugeStyle

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_HALF = 0.31  # turns to either side of twelve o'clock that the arc takes
_THICK = 0.2  # of the radius
_INK = {"poor": Ink("loss", 0.62), "fair": Ink("amber", 0.5), "good": Ink("gain", 0.62)}
_SAID = {"poor": Ink("loss"), "fair": Ink("amber"), "good": Ink("gain")}
_MARK = {"poor": "○", "fair": "◐", "good": "●"}  # told apart without colours too


class Reach(msgspec.Struct, frozen=True):
    """What the arc tells: from `low` to `high`, in ranges (`upto` and what they are called), ascending."""

    low: float
    high: float
    ranges: tuple[tuple[float, str], ...]

    def turn(self, figure: float) -> float:
        """Where on the arc a figure lies; one beyond it at its end."""
        share = (figure - self.low) / (self.high - self.low)
        return _HALF * (2 * min(1.0, max(0.0, share)) - 1)

    def standing(self, figure: float) -> str:
        """Poor, fair or good; empty where no limits are set. A limit belongs to the better range."""
        if not self.ranges:
            return ""
        rising = self.ranges[0][1] == "poor"
        for upto, name in self.ranges[:-1]:
            if figure < upto or (figure == upto and not rising):
                return name
        return self.ranges[-1][1]


def reach_of(style: GaugeStyle, figures: list[float], *, percent: bool) -> Reach:
    """The arc's ends and ranges. Without `low` and `high`, from nothing to a round figure beyond all there are; a share
    to the whole."""
    said = [each for each in (style.fair, style.good, style.goal) if each is not None]
    most, least = max([*figures, *said], default=1.0), min([*figures, *said, 0.0])
    ticks = scale(least, most, 0.0, 240.0).ticks
    step = ticks[1] - ticks[0] if len(ticks) > 1 else 1.0
    low = style.low if style.low is not None else math.floor(least / step + 1e-9) * step
    high = style.high if style.high is not None else math.ceil(most / step - 1e-9) * step
    if percent and style.high is None and least >= 0 and most <= 1:
        high = 1.0
    if high <= low:
        high = low + (abs(low) or 1.0)
    fair, good = style.fair, style.good
    if fair is None and good is None:
        return Reach(low, high, ())
    names = ("poor", "fair", "good")
    if fair is None or good is None or fair == good:
        limit = good if good is not None else fair
        assert limit is not None
        return Reach(low, high, ((limit, "poor"), (high, "good")))
    if good < fair:  # the less, the better
        return Reach(low, high, ((good, "good"), (fair, "fair"), (high, "poor")))
    return Reach(low, high, tuple(zip((fair, good, high), names, strict=True)))


def draw_gauge(chart: Chart, canvas: Canvas) -> Scene:
    """With a ghost a pale pointer stands where the figure was before slicing."""
    grid, style = chart.grid, chart.styles[0]
    own = chart.style.own_of(GaugeStyle)
    if own.goal is None:  # else the measure's own
        own = replace(own, goal=chart.look.grid.style_of(0).goal)
    figure = grid.bottom_line()
    if math.isnan(figure):
        return message(NOTHING, canvas.size, canvas.text_width)
    before = chart.ghost.bottom_line() if chart.ghost is not None else math.nan
    ends_beside = [end for each in chart.reach for end in each]
    figures = [each for each in (figure, before, *ends_beside) if not math.isnan(each)]
    reach = reach_of(own, figures, percent=style.percent)
    marks: list[Mark] = []
    foot = note_at_foot(marks, chart, canvas)
    room = canvas.height - foot - 10
    # Below the middle the arc reaches less far down than up.
    below = -math.cos(2 * math.pi * _HALF)
    ends = [reach.low, *(upto for upto, _ in reach.ranges[:-1]), reach.high]
    beside = max(canvas.text_width(style.tick(each), LABEL, 400) for each in ends) + 12
    radius = min(canvas.width / 2 - min(beside, canvas.width * 0.22), (room - 16) / (1 + max(below, 0.42)))
    if radius < 24:
        return message("Too small for a gauge: make the panel larger", canvas.size, canvas.text_width)
    x, y = canvas.width / 2, 16 + radius
    inner = radius * (1 - _THICK)
    name = chart.style.words.figures or short_name(grid.phrase.measures[0], grid.names[0])
    words = Saying(name, style, figure, before).text
    standing = reach.standing(figure)
    if standing:
        words += f" · {standing}"
    told = Tag((), (), 0, figure, name, words)
    if reach.ranges:
        for (low, high), (_, range_name) in zip(pairwise(ends), reach.ranges, strict=True):
            start, stop = reach.turn(low), reach.turn(high)
            if stop > start:
                marks.append(Wedge(x, y, inner, radius, start, stop, _INK[range_name], told))
    else:
        marks.append(Wedge(x, y, inner, radius, -_HALF, _HALF, Ink("ghost"), ghost=True))
        nothing = reach.turn(0.0)
        start, stop = sorted((nothing, reach.turn(figure)))
        marks.append(Wedge(x, y, inner, radius, start, max(stop, start + 0.002), Ink("series 0"), told))
    _ticks(marks, chart, canvas, reach, ends, (x, y), radius)
    if own.goal is not None and reach.low <= own.goal <= reach.high:
        turn = reach.turn(own.goal)
        line = (on_circle(x, y, inner - 3, turn), on_circle(x, y, radius + 5, turn))
        marks.append(Line(line, Ink("ink"), 2.4))
        _text_around(marks, canvas, (x, y), radius, turn, f"goal {style.short(own.goal)}", Ink("ink"), 600)
    if not math.isnan(before):
        _pointer(marks, (x, y), inner, reach.turn(before), Ink("shape"))
    _pointer(marks, (x, y), inner, reach.turn(figure), Ink("ink"))
    _middle(marks, chart, canvas, (x, y), radius, figure, standing, name)
    return Scene(canvas.width, canvas.height, tuple(marks), reach=((reach.low, reach.high),))


def _ticks(
    marks: list[Mark],
    chart: Chart,
    canvas: Canvas,
    reach: Reach,
    ends: list[float],
    centre: tuple[float, float],
    radius: float,
) -> None:
    """The figures of the ends and limits around the arc."""
    for each in dict.fromkeys(ends):
        if reach.low <= each <= reach.high:
            text = chart.styles[0].tick(each)
            _text_around(marks, canvas, centre, radius, reach.turn(each), text, Ink("muted"), 400)


def _text_around(
    marks: list[Mark],
    canvas: Canvas,
    centre: tuple[float, float],
    radius: float,
    turn: float,
    text: str,
    ink: Ink,
    weight: int,
) -> None:
    x, y = on_circle(*centre, radius + 9, turn)
    align = "centre" if abs(turn) < 0.03 else "left" if turn > 0 else "right"
    room = canvas.width - x if align == "left" else x if align == "right" else canvas.width
    said = fitted(text, room - 1, LABEL, weight, canvas.text_width)
    marks.append(Text(x, y + 4 - 4 * math.cos(2 * math.pi * turn), said, ink, LABEL, weight, align, full=text))  # type: ignore[arg-type]


def _pointer(marks: list[Mark], centre: tuple[float, float], inner: float, turn: float, ink: Ink) -> None:
    """A slim triangle from the middle's edge to the arc, so that the figure keeps its room."""
    tip, foot = on_circle(*centre, inner - 2, turn), inner * 0.66
    half = 0.022
    marks.append(Area((tip, on_circle(*centre, foot, turn - half), on_circle(*centre, foot, turn + half)), ink))


def _middle(
    marks: list[Mark],
    chart: Chart,
    canvas: Canvas,
    centre: tuple[float, float],
    radius: float,
    figure: float,
    standing: str,
    name: str,
) -> None:
    """The figure in the middle, its name and standing below."""
    size = min(40.0, radius * 0.36)
    room = radius * 1.02
    text = chart.styles[0].short(figure)
    for digits in (3, 2):
        text = chart.styles[0].short(figure, digits=digits)
        if canvas.text_width(text, size * 1.12, 600) <= room:
            break
    while size > 11 and canvas.text_width(text, size * 1.12, 600) > room:
        size -= 1.0
    marks.append(Text(centre[0], centre[1] + size * 0.36, text, Ink("ink"), size, 600, "centre", serif=True))
    y = centre[1] + size * 0.36 + 18
    if standing and radius > 40:
        said = f"{_MARK[standing]} {standing}"
        marks.append(Text(centre[0], y, said, _SAID[standing], 12, 600, "centre"))
        y += 17
    if radius > 48:
        label = fitted(name, min(canvas.width, radius * 1.9), 12, 400, canvas.text_width)
        marks.append(Text(centre[0], y, label, Ink("muted"), 12, align="centre", full=name, optional=True))
    marks.append(Point(*centre, 0.0, Ink("ink")))
