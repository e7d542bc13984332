"""Columns and lines: the first measure as columns, every other one as a line with points, over the same members."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.charts.columns import NOTHING, base_line, column_box
from summula.core.charts.extents import extents_of, scales_of
from summula.core.charts.frame import Frame, framed, trend_room
from summula.core.charts.labelling import figure_text, ink_on, labelled, shares_of
from summula.core.charts.lettering import LABEL
from summula.core.charts.lines import line_through, part_way_series, run
from summula.core.charts.pictures import pictured
from summula.core.charts.plotted import Plotted, inks, plotted
from summula.core.charts.scene import Ink, Scene, Text, message
from summula.core.charts.series import tag
from summula.core.charts.trend import trends_over_members

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_WIDE = 0.68  # of a step that a column takes


def draw_columns_and_lines(chart: Chart, canvas: Canvas) -> Scene:
    """Measures of two units stand on two scales. A last period that is not over: its lines end dashed."""
    shown = plotted(chart)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size, canvas.text_width)
    which = scales_of(chart)
    entries = [replace(each, as_line=at > 0) for at, each in enumerate(shown.series)]
    frame = framed(
        chart, canvas, extents_of(shown, which), which=which, cats=shown.cats, entries=entries,
        above=10.0 + trend_room(chart, len(shown.series)),
        figures=[line[0] for line in shown.figures],
    )  # fmt: skip
    strong = shown.strong(by_first=True)
    colours = inks(shown)
    step = frame.step
    upright = frame.y(0)
    for at, cat in enumerate(shown.cats):
        figure, before = shown.figures[at][0], shown.before[at][0]
        x, wide = frame.left + (at + (1 - _WIDE) / 2) * step, step * _WIDE
        if not math.isnan(before):
            frame.marks.append(column_box(x, wide, before, upright, Ink("ghost"), ghost=True))
        if math.isnan(figure):
            continue
        ink = colours[at][0].pale() if cat.gathered or at not in strong else colours[at][0]
        box = column_box(x, wide, figure, upright, ink)
        frame.marks.append(replace(box, tag=tag(chart, cat, shown.series[0], figure, before)))
        frame.marks += pictured(chart, box, frame.plot, upright=True)
    base_line(frame, chart)

    def middle(at: int) -> float:
        return frame.middle(at)

    open_ended = part_way_series(shown)
    for nth in range(1, len(shown.series)):
        each = shown.series[nth]
        if shown.has_ghost:
            before_line = [(middle(at), line[nth]) for at, line in enumerate(shown.before)]
            run(frame.marks, before_line, frame.y(each.measure), Ink("ghost"), 3)
        points = [(at, line[nth]) for at, line in enumerate(shown.figures) if not math.isnan(line[nth])]
        if points:
            line_through(frame, shown, nth, points, middle, each.ink, dashed_last=nth in open_ended, strong=True)
    trends_over_members(frame, shown, middle, range(len(shown.series)))
    return frame.scene(_figures(frame, shown, colours, step))


def _figures(frame: Frame, shown: Plotted, colours: list[list[Ink]], step: float) -> int:
    """Figures over the columns and points that carry them; how many had no room. By themselves, none do: the marks
    stand in each other's way."""
    if shown.chart.style.labels.show == "best":
        return 0
    share, left_out = shares_of(shown, stacked=False), 0
    for at, which in sorted(labelled(shown)):
        each, figure = shown.series[which], shown.figures[at][which]
        upright = frame.y(each.measure)
        if not upright.holds(figure):  # a blank is held by none
            continue
        room, name = max(step, 44), shown.mark_name(at, which)
        text = figure_text(shown.chart, each.measure, figure, share[at][which], room, frame.canvas, LABEL, name=name)
        x, y, ink = frame.left + (at + 0.5) * step, upright.within(figure) - (8 if which else 5), Ink("text")
        column = shown.figures[at][0]
        if which and not math.isnan(column) and y - LABEL < frame.y(0).base and y > frame.y(0).within(column):
            # Upon the column: in an ink that is read there, and only where it does not run over its sides.
            ink = ink_on(colours[at][0], frame.canvas)
            if frame.canvas.text_width(text, LABEL, 500) > step * _WIDE - 2 or y - LABEL < frame.y(0).within(column):
                text = ""
        left_out += not text
        if text:
            frame.marks.append(Text(x, y, text, ink, LABEL, 500, "centre", optional=True, part="Value labels"))
    return left_out
