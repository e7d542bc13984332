"""Dots: members down the side, a dot for each series where its figure stands along one scale, and a line between the
least and the greatest: how far apart they are. Nothing rises from a base, so the scale begins where the figures do."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.charts.bars import Side, all_marks, fitting_members
from summula.core.charts.columns import NOTHING
from summula.core.charts.extents import Extent, widened
from summula.core.charts.labelling import figure_text, labelled, shares_of
from summula.core.charts.lettering import LABEL
from summula.core.charts.plotted import Plotted, inks
from summula.core.charts.scale import Scale, scale
from summula.core.charts.scene import Ink, Line, Point, Scene, Text, message
from summula.core.charts.series import tag

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_AXIS = 22.0  # pixels below the members: the ticks' names
_MOST_RADIUS, _OF_ROW = 5.5, 0.3  # of a dot
_LEAST_ROW = 12.0  # pixels: in a lower one there is no room for figures
_FIGURE = 11.5


def draw_dots(chart: Chart, canvas: Canvas) -> Scene:
    """One row a member; single figures say themselves, of several the least and the greatest do."""
    shown = fitting_members(chart, canvas, lambda _: 1.0, _AXIS)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size)
    side = Side(shown, canvas, 1.0, _AXIS)
    texts = _texts(shown, canvas, side.right)
    widest = max((canvas.text_width(text, _FIGURE, 500) for text in texts.values()), default=0.0)
    radius = min(_MOST_RADIUS, side.row * _OF_ROW)
    room = min(widest, (side.right - side.names) * 0.25) + radius + 7
    extent = widened([Extent.of([*shown.known(), *(each.figure for each in side.lines)])], chart.reach)[0]
    start = side.names + (room if len(shown.series) > 1 else radius + 4)
    along = scale(
        extent.low, extent.high, start, max(side.right - room, start + 8), every=80, style=chart.style.scale, zero=False
    )
    _axis(side, along)
    colours, strong_series = inks(shown), shown.strong_series()
    left_out = 0
    for at, cat in enumerate(shown.cats):
        side.name(at)
        y = side.y(at) + side.row / 2
        _apart(side, along, shown.before[at], y, Ink("ghost"))
        _apart(side, along, shown.figures[at], y, Ink("faint"))
        for which, each in enumerate(shown.series):
            figure, before = shown.figures[at][which], shown.before[at][which]
            if along.holds(before):  # a blank is held by none
                side.marks.append(Point(along.within(before), y, radius, Ink("ghost"), hollow=False))
            if along.holds(figure):
                full = at in side.strong and which in strong_series and not cat.gathered
                ink = colours[at][which] if full else colours[at][which].pale()
                told = tag(chart, cat, each, figure, before)
                side.marks.append(Point(along.within(figure), y, radius, ink, hollow=False, tag=told))
        left_out += _figures(side, along, at, texts, radius)
    side.references(along.within)
    return replace(side.scene(left_out, None), reach=((along.low, along.high),))


def _texts(shown: Plotted, canvas: Canvas, room: float) -> dict[tuple[int, int], str]:
    """What the outermost dots of each member say, by category and series."""
    share, style = shares_of(shown, stacked=False), shown.chart.style.labels
    marked = labelled(shown) or (frozenset() if style.show == "none" else all_marks(shown))
    found = {}
    for at, line in enumerate(shown.figures):
        known = [(figure, which) for which, figure in enumerate(line) if not math.isnan(figure)]
        for figure, which in {min(known), max(known)} if known else ():
            if (at, which) in marked:
                measure = shown.series[which].measure
                name = shown.mark_name(at, which, beside=True)
                found[at, which] = figure_text(
                    shown.chart, measure, figure, share[at][which], room, canvas, _FIGURE, name=name
                )
    return found


def _axis(side: Side, along: Scale) -> None:
    """Hairlines down all rows, each named below."""
    chart, canvas = side.shown.chart, side.canvas
    top, bottom, end = side.top + 2, side.y(len(side.shown.cats)), -math.inf
    for tick, label in zip(along.ticks, chart.styles[0].ticks(along.ticks), strict=True):
        x = along(tick)
        half = canvas.text_width(label, LABEL, 400) / 2
        if chart.style.frame.grid_lines:
            side.marks.append(Line(((x, top), (x, bottom)), Ink("hairline"), 1))
        if x - half >= end + 8 and x + half <= canvas.width:
            end = x + half
            side.marks.append(Text(x, bottom + 15, label, Ink("muted"), LABEL, align="centre", part="Axis"))


def _apart(side: Side, along: Scale, figures: list[float], y: float, ink: Ink) -> None:
    """The line between the least and the greatest of a member's figures."""
    known = [along.within(each) for each in figures if not math.isnan(each)]
    if len(known) > 1:
        side.marks.append(Line(((min(known), y), (max(known), y)), ink, 2))


def _figures(side: Side, along: Scale, at: int, texts: dict[tuple[int, int], str], radius: float) -> int:
    """The outermost figures of a member beside their dots, and a hairline that leads to them; how many have no room."""
    shown = side.shown
    wanted = sum((at, which) in texts for which in range(len(shown.series)))
    placed = sorted((along.within(each), which) for which, each in enumerate(shown.figures[at]) if along.holds(each))
    if not placed:
        return wanted
    (least, first), (most, last) = placed[0], placed[-1]
    ends = [(most + radius + 5, last, "left")]
    if last != first:
        ends.append((least - radius - 5, first, "right"))
    ink, y, said, lead = (
        Ink("text") if at in side.strong else Ink("muted"),
        side.y(at) + side.row / 2,
        0,
        least - radius,
    )
    for x, which, align in ends:
        text = texts.get((at, which), "") if side.row >= _LEAST_ROW else ""
        if text:
            said += 1
            side.marks.append(
                Text(x, y + 4, text, ink, _FIGURE, 400, align, optional=True, part="Value labels")  # type: ignore[arg-type]
            )
            lead = min(lead, x - side.canvas.text_width(text, _FIGURE, 400) - 4 if align == "right" else lead)
    if lead > side.names + 4:
        side.marks.append(Line(((side.names, y), (lead, y)), Ink("hairline"), 1))
    return wanted - said
