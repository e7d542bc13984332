"""Lines over ordered members, named at their ends. A last period that is not over is dashed."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from summula.core.charts.columns import NOTHING
from summula.core.charts.extents import extents_of, scales_of
from summula.core.charts.frame import Frame, framed, trend_room
from summula.core.charts.labelling import figure_text, ink_for_text, labelled, shares_of
from summula.core.charts.lettering import LABEL
from summula.core.charts.places import clipped
from summula.core.charts.plotted import Plotted, plotted, strong_ones
from summula.core.charts.scene import XY, Ink, Line, Mark, Point, Scene, Text, fitted_name, message
from summula.core.charts.series import tagged
from summula.core.charts.style import LinesStyle
from summula.core.charts.trend import trends_over_members
from summula.core.tables.periodnumbers import called_year

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.scale import Scale
    from summula.core.fields.heading import Heading

_NAME = 11.5
_APART = 5.0  # pixels between points that are shown
_ASKED_APART = 2.0  # pixels between points that can be asked: a hand aims no finer
_MANY, _MANY_IN_ALL = 400, 1_500  # points, of a line and of all, which thick lines would run together
_FINE = 1.0  # pixels: the width of a line through many
_NAMES = 0.28  # of the width, at most


def draw_lines(chart: Chart, canvas: Canvas) -> Scene:
    """A line each series; its name at its end, moved apart where two would overlap."""
    shown = plotted(chart)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size)
    which = scales_of(chart)
    extents = extents_of(shown, which)
    latest, open_ended = latest_series(shown), part_way_series(shown)
    names = [
        each.label + (f" to {chart.until}" if at in latest and at in open_ended and chart.until else "")
        for at, each in enumerate(shown.series)
    ]
    place = chart.style.legend.place
    at_ends = shown.named and place == "best" and len(extents) == 1
    widest = max(canvas.text_width(name, _NAME, 600) for name in names)
    room = min(widest + 12, canvas.width * _NAMES) if at_ends else 12.0 if len(extents) == 1 else 0.0
    entries = shown.series if shown.named and not at_ends and place != "none" else ()
    frame = framed(
        chart, canvas, extents, which=which, cats=shown.cats, entries=entries,
        above=(4.0 if chart.style.labels.show in ("best", "none") else 12.0) + trend_room(chart, len(shown.series)),
        beside=room,
        figures=[line[at] for line in shown.figures for at, each in enumerate(shown.series) if each.measure == 0],
    )  # fmt: skip

    def x(at: int) -> float:
        return frame.middle(at)

    totals = [
        math.fsum(line[at] for line in shown.figures if not math.isnan(line[at])) for at in range(len(shown.series))
    ]
    strong = strong_ones(chart.style.emphasis, totals, [each.label for each in shown.series])
    emphasised = len(strong) < len(shown.series)
    ends: list[tuple[float, float, str, Ink, str]] = []
    for at, (each, name) in enumerate(zip(shown.series, names, strict=True)):
        upright = frame.y(each.measure)
        if shown.has_ghost:
            before = [(x(place), line[at]) for place, line in enumerate(shown.before)]
            run(frame.marks, before, upright, Ink("ghost"), _FINE if _crowded(shown) else 3.0)
        points = [(place, line[at]) for place, line in enumerate(shown.figures) if not math.isnan(line[at])]
        if not points:
            continue
        ink = each.ink if at in strong else each.ink.pale()
        leads = at in strong if emphasised else at in latest or len(shown.series) == 1
        line_through(frame, shown, at, points, x, ink, dashed_last=at in open_ended, strong=leads)
        last_place, last_figure = points[-1]
        ends.append((upright.within(last_figure), x(last_place), name, ink_for_text(ink, canvas), each.label))
    if at_ends:
        _name_ends(frame, ends, ghost=shown.has_ghost)
    trends_over_members(frame, shown, x, range(len(shown.series)))
    left_out = _figures(frame, shown, x)
    return frame.scene(left_out)


def latest_series(shown: Plotted) -> frozenset[int]:
    """The places of the series that are of the last year, where years stand across; they lead."""
    headings = shown.chart.grid.columns.headings
    across = next((at for at, h in enumerate(headings) if h.carries_year or _of_years(h)), None)
    if across is None:
        return frozenset()
    members = [each.path[across] for each in shown.series]
    years = [str(each) if isinstance(each, int | float | str) else "" for each in members]
    last = max(years, default="")
    return frozenset(at for at, year in enumerate(years) if year and year == last)


def _of_years(heading: Heading) -> bool:
    """Whether its members are the years of a field that is called so."""
    return heading.part is None and heading.bands is None and called_year(heading.field)


def part_way_series(shown: Plotted) -> frozenset[int]:
    """The places of the series that end in a period that is not over: all that reach the last one along the bottom, or
    those of the last year across."""
    if not shown.chart.part_way:
        return frozenset()
    if any(heading.carries_year for heading in shown.chart.grid.rows.headings):
        last = shown.figures[len(shown.cats) - shown.has_total - 1]
        return frozenset(at for at in range(len(shown.series)) if not math.isnan(last[at]))
    return latest_series(shown)


def run(marks: list[Mark], points: list[XY], upright: Scale, ink: Ink, width: float) -> None:
    """A line through figures (of x in pixels), blanks passed over."""
    known = [(px, upright(figure)) for px, figure in points if not math.isnan(figure)]
    for piece in clipped(known, upright.start, upright.end):
        marks.append(Line(piece, ink, width))


def _crowded(shown: Plotted) -> bool:
    count = len(shown.cats)
    return count > _MANY or count * len(shown.series) > _MANY_IN_ALL


def line_through(
    frame: Frame,
    shown: Plotted,
    at: int,
    points: Sequence[tuple[int, float]],
    x: Callable[[int], float],
    ink: Ink,
    *,
    dashed_last: bool,
    strong: bool,
) -> None:
    """The line of a series through its figures (`points`: category and figure), and the points that can be asked."""
    chart, each = shown.chart, shown.series[at]
    own = chart.style.own_of(LinesStyle)
    upright, marks = frame.y(each.measure), frame.marks
    placed = [(x(place), upright(figure)) for place, figure in points]
    weight = own.width or (_FINE if _crowded(shown) else 2.4 if strong else 1.8)
    solid = placed[:-1] if dashed_last and len(placed) > 1 else placed
    marks += [Line(piece, ink, weight) for piece in clipped(solid, upright.start, upright.end)]
    if dashed_last and len(placed) > 1:
        last = clipped(placed[-2:], upright.start, upright.end)
        marks += [Line(piece, ink, weight, dashed=True) for piece in last]
    # Points nearer to each other than they are wide would only thicken the line: they are there to be asked, unseen.
    dense = len(placed) > 1 and abs(placed[-1][0] - placed[0][0]) < _APART * (len(placed) - 1)
    unseen = own.marks == "none" or ((dense or _crowded(shown)) and own.marks != "all")
    radius = 0.0 if unseen and len(placed) > 1 else 3.6 if strong and len(points) <= 40 else 2.2
    last_asked = -math.inf
    tag_of = tagged(chart, each)
    for (place, figure), (px, py) in zip(points, placed, strict=True):
        if not upright.holds(figure) or (
            dense and px - last_asked < _ASKED_APART
        ):  # of those that share two pixels the first is asked
            continue
        last_asked = px
        before = shown.before[place][at]
        marks.append(Point(px, py, radius, ink, tag=tag_of(shown.cats[place], figure, before)))


def _figures(frame: Frame, shown: Plotted, x: Callable[[int], float]) -> int:
    """Figures over the points that carry them; how many had no room."""
    if shown.chart.style.labels.show == "best":
        return 0
    share, left_out = shares_of(shown, stacked=False), 0
    step = frame.step
    for at, which in sorted(labelled(shown)):
        each, figure = shown.series[which], shown.figures[at][which]
        if not frame.y(each.measure).holds(figure):  # a blank is held by none
            continue
        room, name = max(step, 60), shown.mark_name(at, which)
        text = figure_text(shown.chart, each.measure, figure, share[at][which], room, frame.canvas, LABEL, name=name)
        y = frame.y(each.measure).within(figure) - 8
        left_out += not text
        if text:
            frame.marks.append(
                Text(x(at), y, text, Ink("text"), LABEL, 500, "centre", optional=True, part="Value labels")
            )
    return left_out


def _name_ends(frame: Frame, ends: list[tuple[float, float, str, Ink, str]], *, ghost: bool) -> None:
    """Names beside the ends of their lines, at least a line's height apart, inside the drawing; the shorter of a line's
    two names where the longer has no room."""
    apart, right, bottom, width = 14.0, frame.right, frame.bottom, frame.canvas.text_width
    ends = sorted(ends, key=lambda end: end[0])
    places: list[float] = []
    for y, *_ in ends:
        places.append(max(y + 4, places[-1] + apart) if places else max(y + 4, 10.0))
    overrun = (places[-1] - bottom) if places else 0.0
    for at in range(len(places) - 1, -1, -1):  # push back up what ran below the drawing
        limit = bottom if at == len(places) - 1 else places[at + 1] - apart
        places[at] = min(places[at], limit) if overrun > 0 else places[at]
    crossed = [mark for mark in frame.marks if isinstance(mark, Point)]
    column = right + 6 if ghost else min(max((x_end for _, x_end, *_ in ends), default=right) + 10, right + 6)
    for place, (y_end, x_end, name, ink, shorter) in zip(places, ends, strict=True):
        beside = min(x_end + 10, column)
        # A line that ends early is named where it ends, unless the name had to move, or others lie there.
        if (
            abs(place - 4 - y_end) > apart / 2
            or ghost
            or any(beside - 4 < point.x < right and abs(point.y - place + 4) < 9 for point in crossed)
        ):
            beside = column
        room = frame.canvas.width - beside - 1
        text = name if width(name, _NAME, 600) <= room else fitted_name(shorter, room, _NAME, 600, width)
        frame.marks.append(Text(beside, place, text, ink, _NAME, 600, full=name))
