"""Areas: series stacked over ordered members, so that none hides another; or their shares of the whole."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from summula.core.charts.columns import NOTHING, SHARES
from summula.core.charts.extents import Extent
from summula.core.charts.frame import framed
from summula.core.charts.plotted import inks, plotted
from summula.core.charts.scene import XY, Area, Ink, Line, Point, Scene, message
from summula.core.charts.series import tag
from summula.core.charts.stacking import shares, stacked

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_FILL = 0.78  # of full strength
_PIXELS = 2.0  # members nearer to each other share a place of the outline
_ASKED_APART = 2.0  # pixels between points that can be asked: a hand aims no finer


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
    before = [math.nan] * len(shown.cats) if as_shares else shown.wholes_before()
    borders = [stacked(shares(line)) for line in shown.before] if as_shares and shown.has_ghost else []
    extent = Extent.of([*(end for line in places for _, end in line), *before])
    frame = framed(
        chart, canvas, [Extent(0.0, 1.0) if as_shares else extent], cats=shown.cats,
        entries=shown.series if shown.named else (), style=SHARES if as_shares else None,
        figures=None if as_shares else shown.totals(),
    )  # fmt: skip
    upright, step = frame.scales[0], frame.step
    xs = middles = [frame.middle(at) for at in range(len(shown.cats))]
    if len(xs) == 1:  # one lone member is drawn as wide as its place
        xs, places = [frame.left + step * 0.16, frame.left + step * 0.84], [places[0], places[0]]
    colours = inks(shown)[0]
    drawn = _worth_drawing(xs, [line[-1][1] for line in places])
    base = upright.within(0.0)
    heights = [[upright.within(end) for _, end in line] for line in places]
    lower = [(xs[place], base) for place in drawn]
    if not all(map(math.isnan, before)) and len(xs) == len(before):
        whole = [(xs[place], upright.within(0.0 if math.isnan(before[place]) else before[place])) for place in drawn]
        frame.marks.append(Area((*whole, *reversed(lower)), Ink("ghost"), ghost=True))
    for at, each in enumerate(shown.series):
        ink = Ink(colours[at].token, colours[at].strength * _FILL)
        upper = [(xs[place], heights[place][at]) for place in drawn]
        frame.marks.append(Area((*upper, *reversed(lower)), ink))
        frame.marks.append(Line(tuple(upper), each.ink, 1.0))
        lower = upper  # the next one stands on it
    for at, each in enumerate(shown.series):
        asked = -math.inf
        for place, cat in enumerate(shown.cats):
            figure, x = shown.figures[place][at], middles[place]
            if math.isnan(figure) or x - asked < min(_ASKED_APART, step):
                continue
            asked = x
            frame.marks.append(Point(x, heights[place][at], 0.0, each.ink, tag=tag(chart, cat, each, figure)))
    for at in range(len(shown.series) - 1 if borders else 0):  # the whole's own shares
        line = [(x, upright.within(ends[at][1])) for x, ends in zip(middles, borders, strict=True)]
        frame.marks += [
            Line(piece, Ink("ink", 0.75), 1, dashed=True) for piece in _runs(line, shown.before) if len(piece) > 1
        ]
    frame.marks.append(Line(((frame.left, base), (frame.right, base)), Ink("ink", 0.8), 1))
    return frame.scene()


def _runs(line: list[XY], before: list[list[float]]) -> list[tuple[XY, ...]]:
    """The parts of a line over members that had any figure at all."""
    runs: list[list[XY]] = [[]]
    for point, figures in zip(line, before, strict=True):
        if all(map(math.isnan, figures)):
            runs.append([])
        else:
            runs[-1].append(point)
    return [tuple(run) for run in runs]


def _worth_drawing(xs: list[float], totals: list[float]) -> list[int]:
    """The places that are drawn: of those that share two pixels, the one with the greatest total."""
    chosen: dict[int, int] = {}
    for place, x in enumerate(xs):
        column = int(x // _PIXELS)
        if column not in chosen or totals[place] > totals[chosen[column]]:
            chosen[column] = place
    ends = {0, len(xs) - 1}  # as far as the members go
    return sorted(ends | set(chosen.values()))
