"""Columns: side by side, stacked, or as shares of their whole. Both signs in a single series are told by gain and loss
inks."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.charts.extents import Extent, extents_of, scales_of
from summula.core.charts.frame import Frame, framed, trend_room
from summula.core.charts.labelling import figure_text, ink_on, labelled, shares_of
from summula.core.charts.lettering import LABEL
from summula.core.charts.pictures import pictured
from summula.core.charts.plotted import Plotted, entries_of, inks, plotted
from summula.core.charts.scene import Box, Ink, Line, Scene, Tag, Text, message
from summula.core.charts.series import ghost_tag, tag, tagged
from summula.core.charts.stacking import shares, side_by_side, stacked
from summula.core.charts.trend import trends_over_members
from summula.core.fields.figures import FigureStyle

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.scale import Scale

_STACK = 0.68  # of a step that a stack takes
_MOST_OF = 0.7  # of the columns have room for their figure, or none says it by itself
_LEAST_INSIDE = 13.0  # pixels: a box less high holds no figure
SHARES = FigureStyle("0%", percent=True)
NOTHING = "No data: no rows match the filters and slicers"


def draw_columns(chart: Chart, canvas: Canvas) -> Scene:
    """Categories along the bottom, a column each series; measures of two units stand on two scales."""
    shown = plotted(chart, total=True)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size)
    which = scales_of(chart)
    extents = extents_of(shown, which)
    negative = len(shown.series) == 1 and extents[0].low < 0
    frame = framed(
        chart, canvas, extents, which=which, cats=shown.cats, entries=entries_of(shown),
        above=10.0 + trend_room(chart, len(shown.series)), below=14.0 if negative else 0.0, figures=_drawn(shown),
    )  # fmt: skip
    step = frame.step
    strong, strong_series = shown.strong(), shown.strong_series()
    colours, marked = inks(shown), labelled(shown)
    share = shares_of(shown, stacked=False)
    room = step - 5 if len(shown.series) == 1 else side_by_side(len(shown.series), step)[1] + 6
    texts = {
        (at, one): figure_text(
            chart,
            shown.series[one].measure,
            shown.figures[at][one],
            share[at][one],
            room,
            canvas,
            LABEL,
            name=shown.mark_name(at, one),
        )
        for at, one in marked
        if not math.isnan(shown.figures[at][one])
    }
    if (
        chart.style.labels.show == "best"
        and chart.style.labels.least is None
        and sum(map(bool, texts.values())) < _MOST_OF * len(texts)
    ):
        texts = {}  # a few figures here and there would look chosen
    left_out = 0
    first, wide = side_by_side(len(shown.series), step, _filled(chart, 0.72))
    uprights = [frame.y(each.measure) for each in shown.series]
    tags = [tagged(chart, each) for each in shown.series]
    dressed, plot = bool(chart.style.picture.id), frame.plot
    for at, cat in enumerate(shown.cats):
        begin = frame.middle(at) - step / 2 + first
        member_pale = cat.gathered or at not in strong
        for which_series, each in enumerate(shown.series):
            x = begin + which_series * wide
            figure, before = shown.figures[at][which_series], shown.before[at][which_series]
            upright = uprights[which_series]
            if not math.isnan(before):
                alone = ghost_tag(chart, cat, each, before) if math.isnan(figure) else None
                frame.marks.append(column_box(x, wide, before, upright, Ink("ghost"), alone, ghost=True))
            if math.isnan(figure):
                continue
            ink = colours[at][which_series]
            ink = ink.pale() if member_pale or which_series not in strong_series else ink
            box = column_box(x, wide, figure, upright, ink, tags[which_series](cat, figure, before))
            frame.marks.append(box)
            if dressed:
                frame.marks += pictured(chart, box, plot, upright=True)
            if shown.ticks is not None and shown.ticked is not None and not math.isnan(shown.ticks[at][which_series]):
                goal = shown.ticks[at][which_series]
                y = upright.within(goal)
                over = replace(shown.ticked, node=each.node, path=each.path, pairs=each.pairs, label=each.label)
                told = tag(chart, cat, over, goal)
                ends = ((x - 2, y), (x + wide + 2, y))
                frame.marks += [Line(ends, Ink("sheet"), 5), Line(ends, Ink("ink"), 2.2, tag=told)]
            if (at, which_series) in texts:
                text = texts[at, which_series]
                left_out += not text
                if text:
                    stands = (figure, before, shown.ticks[at][which_series] if shown.ticks is not None else math.nan)
                    tips = [upright.within(v) for v in stands if not math.isnan(v)]
                    rises = upright.within(figure) <= upright.base
                    y = min(tips) - 5 if rises else max(tips) + 13
                    frame.marks.append(
                        Text(
                            x + wide / 2,
                            y,
                            text,
                            Ink("text"),
                            LABEL,
                            500,
                            "centre",
                            optional=True,
                            part="Value labels",
                            slip=chart.style.frame.grid_lines and frame.hairline_through(y),
                        )
                    )
    base_line(frame, chart)
    trends_over_members(frame, shown, frame.middle, range(len(shown.series)))
    return frame.scene(left_out)


def draw_stacked_columns(chart: Chart, canvas: Canvas) -> Scene:
    """A column each category, its series stacked on it, those below nothing downward."""
    return _stacks(chart, canvas, as_shares=False)


def draw_share_columns(chart: Chart, canvas: Canvas) -> Scene:
    """Columns of one height: each is all there is of its category."""
    return _stacks(chart, canvas, as_shares=True)


def _stacks(chart: Chart, canvas: Canvas, *, as_shares: bool) -> Scene:
    shown = plotted(chart, total=True)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size)
    heights = [shares(line) if as_shares else line for line in shown.figures]
    places = [stacked(line) for line in heights]
    before = shown.wholes_before()
    extent = Extent.of([*(end for line in places for _, end in line), *before])
    frame = framed(
        chart, canvas, [Extent(0.0, 1.0) if as_shares else extent], cats=shown.cats,
        entries=shown.series if shown.named else (), style=SHARES if as_shares else None,
        figures=None if as_shares else shown.totals()[: len(shown.cats) - shown.has_total],
    )  # fmt: skip
    upright = frame.scales[0]
    step = frame.step
    strong, strong_series = shown.strong(), shown.strong_series()
    colours, marked = inks(shown), labelled(shown)
    share = shares_of(shown, stacked=True)
    left_out = 0
    wide = step * _filled(chart, _STACK)
    tags = [tagged(chart, each) for each in shown.series]
    for at, cat in enumerate(shown.cats):
        member_pale = cat.gathered or at not in strong
        x = frame.middle(at) - wide / 2
        if not as_shares and not math.isnan(before[at]):
            frame.marks.append(column_box(x, wide, before[at], upright, Ink("ghost"), ghost=True))
        for which, each in enumerate(shown.series):
            figure = shown.figures[at][which]
            start, end = places[at][which]
            if math.isnan(figure) or start == end:
                continue
            y0, y1 = upright.within(start), upright.within(end)
            ink = colours[at][which]
            ink = ink.pale() if member_pale or which not in strong_series else ink
            # A hairline of paper between slices, so that neighbours of close inks stay apart.
            high = max(abs(y1 - y0) - 0.8, 0.3)
            frame.marks.append(Box(x, min(y0, y1), wide, high, ink, tags[which](cat, figure, math.nan)))
            if (at, which) in marked and len(shown.series) > 1:
                name = shown.mark_name(at, which)
                text = figure_text(chart, each.measure, figure, share[at][which], wide, canvas, LABEL, name=name)
                if text and high >= _LEAST_INSIDE:
                    y = min(y0, y1) + high / 2 + 4
                    on = ink_on(ink, canvas)
                    frame.marks.append(
                        Text(x + wide / 2, y, text, on, LABEL, 500, "centre", optional=True, part="Value labels")
                    )
                else:
                    left_out += 1
        if as_shares and shown.has_ghost:
            for _, end in stacked(shares(shown.before[at]))[:-1]:
                y = upright.within(end)
                frame.marks.append(Line(((x - 3, y), (x + wide + 3, y)), Ink("ink", 0.75), 1))
    base_line(frame, chart)
    return frame.scene(left_out)


def column_box(
    x: float, width: float, figure: float, upright: Scale, ink: Ink, said: Tag | None = None, *, ghost: bool = False
) -> Box:
    y, base = upright.within(figure), upright.base
    gap = min(1.0, width * 0.1)
    return Box(x + gap, min(y, base), max(width - 2 * gap, 0.5), abs(base - y), ink, said, ghost)


def _filled(chart: Chart, suits: float) -> float:
    """How much of a step its columns take."""
    gap = chart.style.frame.gap
    return suits if gap is None else 1 - gap


def _drawn(shown: Plotted) -> list[float]:
    """The figures on the first scale, without those of the total."""
    count = len(shown.cats) - shown.has_total
    return [line[at] for line in shown.figures[:count] for at, each in enumerate(shown.series) if each.measure == 0]


def base_line(frame: Frame, chart: Chart) -> None:
    """The line that columns stand on."""
    if not chart.style.frame.base_line:
        return
    base = frame.scales[0].base
    frame.marks.append(Line(((frame.left, base), (frame.right, base)), Ink("ink", 0.8), 1))
