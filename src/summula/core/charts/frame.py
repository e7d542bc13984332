"""What stands around the marks of a chart, once for all forms: legend, scales with their names, members along an axis,
the note at the foot; and the plot area that is left for the marks."""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
from msgspec.structs import replace

from summula.core.charts.chart import Canvas, Chart
from summula.core.charts.extents import Extent, widened
from summula.core.charts.legend import legend, measure_key
from summula.core.charts.lettering import EDGE, LABEL, LINE
from summula.core.charts.membernames import NAME_LINE, in_two_lines, name_members
from summula.core.charts.places import text_bounds
from summula.core.charts.plotted import colours_by_measure
from summula.core.charts.references import Reference, crossed_on_slips, reference_line, reference_name, references
from summula.core.charts.scale import Scale, fit, scale, tied
from summula.core.charts.scene import Box, Ink, Line, Mark, Scene, Text, fitted
from summula.core.charts.series import Category, Series, column_name
from summula.core.fields.figures import FigureStyle

_LEAST_PLOT = (60.0, 44.0)  # below this the axes give way to the marks
FOOT = 38.0  # below a plot: ticks and the name of the figures along the bottom
TREND_LINE = 14.0
MOST_TRENDS_SAID = 4  # in the picture; all do in their tooltips


class Frame(msgspec.Struct, eq=False):
    """The plot area, and the marks so far. `scales` stand upright: one a unit, the first at the left, the second at the
    right; `which` tells a measure's."""

    canvas: Canvas
    left: float
    top: float
    right: float
    bottom: float
    scales: tuple[Scale, ...]
    which: tuple[int, ...]
    marks: list[Mark]
    along: Scale | None = None  # of figures along the bottom
    after: list[Mark] = msgspec.field(default_factory=list)  # lines of reference, upon the marks
    step: float = 0.0  # pixels from one member to the next
    members: int = 0  # how many stand along the bottom, without one for the total

    @property
    def x(self) -> Scale:
        assert self.along is not None
        return self.along

    def y(self, measure: int) -> Scale:
        return self.scales[self.which[measure] if measure < len(self.which) else 0]

    def middle(self, at: int) -> float:
        """Where a member stands along the bottom; one for the total half a step further."""
        return self.left + (at + (0.5 if at < self.members else 1.0)) * self.step

    @property
    def plot(self) -> Box:
        """The room of the marks."""
        return Box(self.left, self.top, self.width, self.bottom - self.top, Ink("sheet"))

    @property
    def width(self) -> float:
        return self.right - self.left

    def hairline_through(self, baseline: float) -> bool:
        """Whether a tick's line would run through a text that is written there."""
        upright = self.scales[0]
        return any(-2 < baseline - upright(tick) < LABEL for tick in upright.ticks)

    def scene(self, left_out: int = 0) -> Scene:
        scales = (*self.scales, *([self.along] if self.along is not None else []))
        reach = tuple((each.low, each.high) for each in scales)
        trends = [mark for mark in self.marks if isinstance(mark, Line) and mark.part == "Trend"]
        marks, lines = self.marks, [*self.after, *trends]
        if lines:
            marks = crossed_on_slips(marks, lines, self.canvas.text_width)
        return Scene(self.canvas.width, self.canvas.height, (*marks, *self.after), left_out, reach)


class Along(msgspec.Struct, frozen=True):
    """Figures along the bottom, their name, and what else is said there at the left. `exact`: the scale ends where the
    figures do. `inset`: pixels that marks take beyond their figures, left free at either end."""

    extent: Extent
    style: FigureStyle
    name: str
    exact: bool = False
    note: str = ""
    inset: float = 0.0


def framed(
    chart: Chart,
    canvas: Canvas,
    extents: Sequence[Extent],
    *,
    which: tuple[int, ...] = (0,),
    cats: Sequence[Category] = (),
    along: Along | None = None,
    entries: Sequence[Series] = (),
    zero: bool = True,
    names: Sequence[str] = (),
    style: FigureStyle | None = None,
    above: float = 0.0,
    below: float = 0.0,
    beside: float = 0.0,
    foot: float = 0.0,
    figures: Sequence[float] | None = None,
) -> Frame:
    """The frame of a chart over these extents, one a scale. `cats` stand along the bottom; `entries` are told apart in
    a legend; `names` are the scales', which are told where there is more than one, or a person has named it. `above`,
    `below` the marks, `beside` them at the right, and at the `foot` the form asks for pixels of its own. `style` writes
    the first scale's figures where they are none of the measures'. `figures`: those on the first scale, where lines of
    reference have a place."""
    marks: list[Mark] = []
    lines = references(chart, figures) if figures is not None else []
    for each in lines:
        extents = widened(extents, [(each.figure, each.figure)])
    extents = widened(extents, chart.reach)
    if along is not None and len(chart.reach) > len(extents):
        along = replace(along, extent=widened([along.extent], chart.reach[len(extents) :])[0])
    look, text_width = chart.style, canvas.text_width
    top, right = legend(marks, chart, canvas, entries)
    if colours_by_measure(chart) and chart.style.legend.place != "none":
        top = max(top, measure_key(marks, chart, canvas, top))
    bottom = canvas.height - foot
    if look.words.note:
        text = fitted(look.words.note, canvas.width - EDGE, LABEL, 400, text_width)
        marks.append(Text(0, bottom - 3, text, Ink("muted"), LABEL, full=look.words.note, part="Titles"))
        bottom -= LINE
    if look.words.members and cats:
        text = fitted(look.words.members, right - EDGE, LABEL, 500, text_width)
        full = look.words.members
        mark = Text(right - EDGE, bottom - 3, text, Ink("text"), LABEL, 500, "right", full=full, part="Titles")
        marks.append(mark)
        bottom -= LINE
    grouped = any(cat.group for cat in cats)
    tight = canvas.height - top < _LEAST_PLOT[1] + 40
    if along is not None:
        bottom -= FOOT if not tight else 22.0
    if cats:
        bottom -= 38.0 if grouped and not tight else 20.0
        step = (right - beside - 50) / len(cats)
        name_lines = 2 if not grouped and not tight and in_two_lines(cats, step, canvas) else 1
        bottom -= NAME_LINE * (name_lines - 1)
    right -= beside
    stated = _names(chart, names, len(extents), which)
    if any(stated):
        top += LINE + 3.0
    top = max(top, 8.0) + above
    plots = [
        scale(each.low, each.high, bottom - below, top, style=look.scale if at == 0 else None, zero=zero)
        for at, each in enumerate(extents)
    ]
    if len(plots) > 1 and look.scale.second == "tied":
        plots[1] = tied(extents[1].low, extents[1].high, plots[0])
    styles = [style or chart.styles[which.index(0)], *(chart.styles[which.index(at)] for at in range(1, len(extents)))]
    hidden = look.scale.hidden or canvas.width < 2 * _LEAST_PLOT[0] + 30
    left = 2.0
    if not hidden:
        left = _tick_room(styles[0], plots[0], canvas)
        if len(plots) > 1:
            right -= _tick_room(styles[1], plots[1], canvas)
    right = max(right - EDGE, left + 20.0)
    if not hidden:
        _ticks(marks, styles[0], plots[0], left, right, at_right=False, hairlines=look.frame.grid_lines)
        if len(plots) > 1:
            _ticks(marks, styles[1], plots[1], left, right, at_right=True)
    for at, name in enumerate(stated):
        x, align = (0.0, "left") if at == 0 else (canvas.width, "right")
        text = fitted(name, canvas.width / max(1, len([each for each in stated if each])) - 8, LABEL, 500, text_width)
        if name:
            mark = Text(x, top - above - 10, text, Ink("text"), LABEL, 500, align, full=name, part="Titles")  # type: ignore[arg-type]
            marks.append(mark)
    frame = Frame(canvas, left, top, right, bottom, tuple(plots), which, marks)
    if along is not None:
        frame = replace(frame, along=bottom_axis(frame, along, named=not tight))
    if cats:
        has_total = cats[-1].total
        units = len(cats) + (0.5 if has_total else 0.0)
        frame = replace(frame, step=frame.width / units, members=len(cats) - has_total)
        name_members(frame, cats[: frame.members], grouped=grouped and not tight, lines=name_lines)
        if has_total:
            _total(frame, cats[-1])
    _reference_lines(frame, chart, lines)
    return frame


def trend_room(chart: Chart, count: int) -> float:
    """Pixels above the plot for what trends say of themselves; `count` of them, if each member has its own."""
    style = chart.style.trend
    if not style.kind or not (style.says or style.kind == "moving mean"):
        return 0.0
    several = style.each == "member" and style.kind != "moving mean"
    return TREND_LINE * min(MOST_TRENDS_SAID, count if several else 1)


_LEAST_TOTAL = 44.0  # pixels: for the name of the total


def _total(frame: Frame, cat: Category) -> None:
    """The name of the column for all members, and the rule that sets it apart."""
    x = frame.left + (frame.members + 0.25) * frame.step
    place, width = frame.middle(frame.members), frame.canvas.text_width
    below = [text_bounds(mark, width).right for mark in frame.marks if isinstance(mark, Text) and mark.y > frame.bottom]
    # Beside the names of the members; where that is next to nothing, the last of them gives way.
    room = 2 * min(frame.canvas.width - place, place - max(below, default=0.0) - 5)
    label = fitted(cat.label, max(room, frame.step * 1.2, _LEAST_TOTAL), LABEL, 600, width)
    beside = place - width(label, LABEL, 600) / 2 > x + 2  # else the rule would run through it
    frame.marks.append(Line(((x, frame.top), (x, frame.bottom + (16 if beside else 2))), Ink("faint"), 1))
    frame.marks.append(Text(place, frame.bottom + 15, label, Ink("text"), LABEL, 600, "centre", full=cat.label))


def _reference_lines(frame: Frame, chart: Chart, lines: Sequence[Reference]) -> None:
    """Lines across the plot, each named at its right end; the room that they shade lies below the marks."""
    if not lines:
        return
    upright = frame.scales[0]
    heights = [upright.within(each.figure) for each in lines]
    bands = []
    if chart.style.reference.band:
        bands.append((upright.base, heights[0]))
    if chart.style.second_reference.band and len(lines) > 1:
        bands.append((heights[0], heights[1]))
    for one, other in bands:
        frame.marks.append(Box(frame.left, min(one, other), frame.width, abs(one - other), Ink("series 0", 0.09)))
    whole = not frame.step or frame.middle(frame.members - 1) + frame.step > frame.right - 1
    right = frame.right if whole else frame.left + (frame.members + 0.25) * frame.step
    before = -math.inf  # the baseline of the name above
    parts = zip(heights, lines, ("Reference line", "Second reference line"), strict=False)
    for y, each, part in sorted(parts, key=lambda line: line[0]):
        frame.after += reference_line((frame.left, y), (frame.right, y), part)
        baseline = y - 5 if y - frame.top > LABEL + 4 and y - 5 - before > LABEL + 4 else y + LABEL + 3
        before = baseline
        room = right - frame.left - 10
        frame.after.append(reference_name((right - 5, baseline), "right", each, part, room, frame.canvas.text_width))


def bottom_axis(frame: Frame, along: Along, *, named: bool) -> Scale:
    """Ticks along the bottom; those that would touch are left out. Below them the name, and what else is said."""
    marks, canvas, bottom = frame.marks, frame.canvas, frame.bottom
    inset = min(along.inset, (frame.right - frame.left) / 4)
    begin, end = frame.left + inset, frame.right - inset
    made = fit(along.extent.low, along.extent.high, begin, end, every=80)
    if along.exact:
        ticks = tuple(tick for tick in made.ticks if along.extent.low <= tick <= along.extent.high)
        made = Scale(along.extent.low, along.extent.high, begin, end, ticks)
    marks.append(Line(((frame.left, bottom), (frame.right, bottom)), Ink("ink", 0.8), 1))
    end = -math.inf
    for tick, label in zip(made.ticks, along.style.ticks(made.ticks), strict=True):
        x = made(tick)
        room = canvas.text_width(label, LABEL, 400) / 2
        if x - room < end + 8 or x + room > canvas.width:
            continue
        end = x + room
        marks.append(Line(((x, bottom), (x, bottom + 4)), Ink("muted"), 1))
        marks.append(Text(x, bottom + 16, label, Ink("muted"), LABEL, align="centre", part="Axis"))
    if not named:
        return made
    name = fitted(
        along.name, (canvas.width - frame.left) * (0.5 if along.note else 1.0) - 8, LABEL, 500, canvas.text_width
    )
    mark = Text(frame.right, bottom + 33, name, Ink("text"), LABEL, 500, "right", full=along.name, part="Titles")
    marks.append(mark)
    if along.note:
        room = frame.right - frame.left - canvas.text_width(name, LABEL, 500) - 14
        text = fitted(along.note, room, LABEL, 400, canvas.text_width)
        if text != "…":
            marks.append(Text(frame.left, bottom + 33, text, Ink("muted"), LABEL, full=along.note))
    return made


def _names(chart: Chart, names: Sequence[str], scales: int, which: tuple[int, ...]) -> list[str]:
    """The name of each scale; empty where it goes without saying."""
    said = (chart.style.words.figures, chart.style.words.second)
    if names:
        return [said[0] or names[0], *names[1:]]
    if scales == 1:
        own = chart.styles[0]
        unit = f"{own.unit} {_SCALE_WORDS.get(own.scale, '')}".strip() if own.scale != 1.0 else ""
        return [said[0] or unit]
    return [said[at] or _measures_on(chart, at, which) for at in range(scales)]


_SCALE_WORDS = {1e3: "thousand", 1e6: "million", 1e9: "billion"}


def _measures_on(chart: Chart, at: int, which: tuple[int, ...]) -> str:
    return ", ".join(column_name(chart.grid, measure) for measure, each in enumerate(which) if each == at)


def _tick_room(style: FigureStyle, plot: Scale, canvas: Canvas) -> float:
    return max((canvas.text_width(each, LABEL, 400) for each in style.ticks(plot.ticks)), default=0.0) + 8.0


def _ticks(
    marks: list[Mark],
    style: FigureStyle,
    plot: Scale,
    left: float,
    right: float,
    *,
    at_right: bool,
    hairlines: bool = True,
) -> None:
    """Ticks along a side; hairlines only from the first scale, so that they tell of one."""
    written = -math.inf
    for tick, label in zip(plot.ticks, style.ticks(plot.ticks), strict=True):
        y = plot(tick)
        if not at_right and hairlines:
            marks.append(Line(((left, y), (right, y)), Ink("hairline"), 1))
        if abs(y - written) < LABEL + 2:
            continue
        written = y
        if at_right:
            marks.append(Text(right + 8, y + 4, label, Ink("muted"), LABEL, part="Axis"))
        else:
            marks.append(Text(left - 8, y + 4, label, Ink("muted"), LABEL, align="right", part="Axis"))
