"""Areas: series stacked over ordered members, so that none hides another; or their shares of the whole."""

from __future__ import annotations

import math

from summula.core.charts.chart import Canvas, Chart
from summula.core.charts.columns import NOTHING, SHARES
from summula.core.charts.frame import Extent, framed
from summula.core.charts.plotted import inks, plotted
from summula.core.charts.scene import Area, Ink, Line, Point, Scene, message
from summula.core.charts.series import tag
from summula.core.charts.stacking import shares, stacked

_FILL = 0.78  # of full strength


def draw_areas(chart: Chart, canvas: Canvas) -> Scene:
    """The first series lies at the bottom. A blank counts as nothing: the areas above it go on."""
    return _drawn(chart, canvas, as_shares=False)


def draw_share_areas(chart: Chart, canvas: Canvas) -> Scene:
    """All series of a member fill the height."""
    return _drawn(chart, canvas, as_shares=True)


def _drawn(chart: Chart, canvas: Canvas, *, as_shares: bool) -> Scene:
    shown = plotted(chart)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size)
    lines = [shares(line) if as_shares else line for line in shown.figures]
    places = [stacked([0.0 if math.isnan(each) else each for each in line]) for line in lines]
    extent = Extent.of([end for line in places for _, end in line])
    frame = framed(
        chart, canvas, [Extent(0.0, 1.0) if as_shares else extent], cats=shown.cats,
        entries=shown.series if shown.named else (), style=SHARES if as_shares else None,
    )  # fmt: skip
    upright, step = frame.scales[0], frame.width / len(shown.cats)
    xs = [frame.left + (at + 0.5) * step for at in range(len(shown.cats))]
    if len(xs) == 1:  # one lone member is drawn as wide as its place
        xs, places = [frame.left + step * 0.16, frame.left + step * 0.84], [places[0], places[0]]
    colours = inks(shown)[0]
    for at, each in enumerate(shown.series):
        ink = Ink(colours[at].token, colours[at].strength * _FILL)
        upper = [(x, upright.within(line[at][1])) for x, line in zip(xs, places, strict=True)]
        lower = [(x, upright.within(line[at][0])) for x, line in zip(xs, places, strict=True)]
        frame.marks.append(Area((*upper, *reversed(lower)), ink))
        frame.marks.append(Line(tuple(upper), each.ink, 1.4))
    for at, each in enumerate(shown.series):
        for place, cat in enumerate(shown.cats):
            figure = shown.figures[place][at]
            if not math.isnan(figure):
                y = upright.within(places[place][at][1])
                x = frame.left + (place + 0.5) * step
                frame.marks.append(Point(x, y, 0.0, each.ink, tag=tag(chart, cat, each, figure)))
    base = upright.base
    frame.marks.append(Line(((frame.left, base), (frame.right, base)), Ink("ink", 0.8), 1))
    return frame.scene()
