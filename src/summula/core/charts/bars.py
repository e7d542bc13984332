"""Bars: members down the side, first at the top, each figure at the end of its bar; side by side, stacked, or as shares
of their whole."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.charts.columns import NOTHING
from summula.core.charts.extents import Extent, units_of, widened
from summula.core.charts.labelling import figure_text, ink_on, labelled, shares_of
from summula.core.charts.legend import legend, measure_key, note_at_foot
from summula.core.charts.pictures import pictured
from summula.core.charts.places import text_bounds
from summula.core.charts.plotted import Plotted, colours_by_measure, entries_of, inks, plotted
from summula.core.charts.references import crossed_on_slips, reference_line, reference_name, references
from summula.core.charts.scene import Box, Ink, Line, Mark, Scene, Text, fitted_name, message
from summula.core.charts.series import Series, ghost_tag, name_tag, tag, tagged
from summula.core.charts.stacking import shares, stacked

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_LABEL, _SMALL = 12.0, 11.5
_LEAST_ROW = 15.0
_LEAST_THICK = 9.0  # pixels: a thinner bar has no figure at its end
_NAMES = 0.38  # of the width, at most


class Side:
    """What stands around members that go down the side: names at the left, a legend on top, what was left out and a
    note below; between those and the members `below` pixels of the form's own."""

    def __init__(self, shown: Plotted, canvas: Canvas, per_row: float, below: float = 0.0) -> None:
        chart, self.below = shown.chart, below
        self.shown, self.canvas, self.marks = shown, canvas, list[Mark]()
        self.top, self.right = _legend(self.marks, chart, canvas, entries_of(shown))
        if colours_by_measure(chart) and chart.style.legend.place != "none":
            self.top = measure_key(self.marks, chart, canvas, self.top)
        foot = note_at_foot(self.marks, chart, canvas) + below
        self.rows = len(shown.cats) + (1 if shown.left_out else 0) + (0.5 if shown.has_total else 0)
        self.row = min((canvas.height - self.top - 4 - foot) / max(self.rows, 1), 40.0 * max(1.0, per_row * 0.6))
        widest = max(canvas.text_width(cat.name, _LABEL, 500) for cat in shown.cats)
        self.names = min(widest + 10, canvas.width * _NAMES)
        self.strong = shown.strong()
        first = [at for at, each in enumerate(shown.series) if each.measure == 0]
        asked = chart.style.reference.at or chart.style.second_reference.at
        self.lines = references(chart, [line[at] for line in shown.of_all() for at in first]) if asked else []
        if self.lines:
            self.row = min(self.row, (canvas.height - self.top - 4 - foot - 16) / max(self.rows, 1))

    def name(self, at: int) -> None:
        cat, emphasised = self.shown.cats[at], at in self.strong
        text = fitted_name(cat.name, self.names - 10, _LABEL, 500, self.canvas.text_width)
        ink, weight = (Ink("text"), 500) if emphasised else (Ink("muted"), 400)
        y = self.y(at) + self.row / 2 + 4
        self.marks.append(
            Text(
                self.names - 10, y, text, ink, _LABEL, weight, "right", full=cat.name, tag=name_tag(cat), part="Members"
            )
        )

    def y(self, at: int) -> float:
        """Where a member's row begins; one for the total stands half a row further down."""
        apart = 0.5 if self.shown.has_total and at >= len(self.shown.cats) - 1 else 0.0
        return self.top + 2 + (at + apart) * self.row

    def scene(self, left_out: int, base: float | None) -> Scene:
        end = self.y(len(self.shown.cats))
        if base is not None:
            self.marks.append(Line(((base, self.top + 2), (base, end)), Ink("ink", 0.8)))
        if self.shown.has_total:
            rule = self.y(len(self.shown.cats) - 1) - self.row * 0.25
            self.marks.append(Line(((0, rule), (self.right, rule)), Ink("faint"), 1))
        if self.shown.left_out:
            short = f"and {self.shown.left_out:,} more"
            full = f"{short}: make the chart taller, or keep the top few"
            text = full if self.canvas.text_width(full, 11, 400) <= self.canvas.width - 4 else short
            self.marks.append(Text(4, end + self.below + 13, text, Ink("muted"), 11, full=full))
        return Scene(self.canvas.width, self.canvas.height, tuple(self.marks), left_out)

    def references(self, place: Callable[[float], float]) -> None:
        """Lines of reference down all bars, named below."""
        end, width, room = self.y(len(self.shown.cats)), self.canvas.text_width, self.canvas.width / 2
        names, lines = list[Text](), list[Mark]()
        for each, part in zip(self.lines, ("Reference line", "Second reference line"), strict=False):
            x = place(each.figure)
            lines += reference_line((x, self.top + 2), (x, end), part)
            names.append(reference_name((x, end + self.below + 12), "centre", each, part, room, width))
        if len(names) == 2:  # side by side where they would touch, each as near to its line as it can be
            left, right = sorted(names, key=lambda name: name.x)
            if text_bounds(left, width).right + 6 > text_bounds(right, width).left:
                middle = (left.x + right.x) / 2
                names = [replace(left, x=middle - 3, align="right"), replace(right, x=middle + 3, align="left")]
        self.marks = [*crossed_on_slips(self.marks, lines, width), *lines, *names]


def _legend(marks: list[Mark], chart: Chart, canvas: Canvas, entries: list[Series]) -> tuple[float, float]:
    top, right = legend(marks, chart, canvas, entries)
    return (top if entries and right == canvas.width else 0.0), right


def fitting_members(chart: Chart, canvas: Canvas, per_row: Callable[[int], float], below: float = 0.0) -> Plotted:
    """As many members as have room; the others are told."""
    every = plotted(chart, 0)
    need = _LEAST_ROW * max(1.0, per_row(len(every.series)) * 0.7)
    room = int((canvas.height - (26 if every.named else 4) - below) / need - (1.5 if chart.style.total.shown else 0))
    count = every.left_out
    return plotted(chart, None if count <= room else max(1, room - 1), total=True)


def draw_bars(chart: Chart, canvas: Canvas) -> Scene:
    """One bar a member (a group of bars with several series), its figure at its end, its ghost behind. Measures of two
    units are each to their own scale, since every figure is said."""
    shown = fitting_members(chart, canvas, float)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size)
    side = Side(shown, canvas, len(shown.series))
    which = units_of(chart)
    share, colours, marked = shares_of(shown, stacked=False), inks(shown), labelled(shown)
    marked = marked or (frozenset() if chart.style.labels.show == "none" else all_marks(shown))
    texts = {
        (at, one): figure_text(
            chart,
            shown.series[one].measure,
            shown.figures[at][one],
            share[at][one],
            side.right,
            canvas,
            _SMALL,
            unit=True,
            name=shown.mark_name(at, one, beside=True),
        )
        for at, one in marked
        if not math.isnan(shown.figures[at][one])
    }
    widest = max((canvas.text_width(text, _SMALL, 500) for text in texts.values()), default=0.0)
    widest = min(widest, (side.right - side.names) * 0.5)
    places, reach = [], list[tuple[float, float]]()
    for one in range(max(which) + 1):
        known = [v for at, unit in enumerate(which) if unit == one for v in shown.known(at)]
        lines = [each.figure for each in side.lines] if one == 0 else []
        extent = widened([Extent.of([0.0, *known, *lines])], chart.reach[one:])[0]
        reach.append((extent.low, extent.high))
        low = chart.style.scale.low if chart.style.scale.low is not None else extent.low
        high = chart.style.scale.high if chart.style.scale.high is not None else extent.high
        start = side.names + (widest + 6 if low < 0 else 0.0)
        places.append(_place(low, high, start, max(side.right - widest - 10, start + 8)))
    left_out = 0
    strong_series = shown.strong_series()
    tags, dressed = [tagged(chart, each) for each in shown.series], bool(chart.style.picture.id)
    for at, cat in enumerate(shown.cats):
        member_pale = cat.gathered or at not in side.strong
        side.name(at)
        thick = side.row * 0.72 / len(shown.series)
        for which_series, each in enumerate(shown.series):
            top = side.y(at) + side.row * 0.14 + which_series * thick
            figure, before = shown.figures[at][which_series], shown.before[at][which_series]
            place = places[which[each.measure]]
            if not math.isnan(before):
                ghost = _bar(place(0), place(before), top, thick, Ink("ghost"), ghost=True)
                alone = ghost_tag(chart, cat, each, before) if math.isnan(figure) else None
                side.marks.append(replace(ghost, tag=alone))
            if math.isnan(figure):
                continue
            ink = colours[at][which_series]
            ink = ink.pale() if member_pale or which_series not in strong_series else ink
            box = _bar(place(0), place(figure), top, thick, ink)
            told = tags[which_series](cat, figure, before)
            side.marks.append(Box(box.x, box.y, box.width, box.height, ink, told))
            if dressed:
                room = Box(side.names, side.top, side.right - side.names, side.y(len(shown.cats)) - side.top, ink)
                side.marks += pictured(chart, box, room, upright=False)
            if shown.ticks is not None and shown.ticked is not None and not math.isnan(shown.ticks[at][which_series]):
                goal = shown.ticks[at][which_series]
                over = replace(shown.ticked, node=each.node, path=each.path, pairs=each.pairs, label=each.label)
                end = place(goal)
                told = tag(chart, cat, over, goal)
                ends_of = ((end, top - 2), (end, top + thick + 1))
                side.marks += [Line(ends_of, Ink("sheet"), 5), Line(ends_of, Ink("ink"), 2.2, tag=told)]
            text = texts.get((at, which_series), "")
            if not text:
                continue
            left_out += thick < _LEAST_THICK
            if thick >= _LEAST_THICK:
                reaches = [place(figure), *([] if math.isnan(before) else [place(before)])]
                if shown.ticks is not None and not math.isnan(shown.ticks[at][which_series]):
                    reaches.append(place(shown.ticks[at][which_series]))
                x, align = (min(reaches) - 5, "right") if figure < 0 else (max(reaches) + 6, "left")
                on = Ink("text") if at in side.strong else Ink("muted")
                y = top + thick / 2 + 4
                side.marks.append(Text(x, y, text, on, _SMALL, 400, align, optional=True, part="Value labels"))  # type: ignore[arg-type]
    negative = any(v < 0 for v in shown.known())
    side.references(places[0])
    return replace(side.scene(left_out, places[0](0) if negative else None), reach=tuple(reach))


def all_marks(shown: Plotted) -> frozenset[tuple[int, int]]:
    if shown.chart.style.labels.show != "best":
        return frozenset()
    return frozenset((at, which) for at in range(len(shown.cats)) for which in range(len(shown.series)))


def draw_stacked_bars(chart: Chart, canvas: Canvas) -> Scene:
    """A bar each member, its series one after the other, those below nothing to the left."""
    return _stacks(chart, canvas, as_shares=False)


def draw_share_bars(chart: Chart, canvas: Canvas) -> Scene:
    """Bars of one length: each is all there is of its member."""
    return _stacks(chart, canvas, as_shares=True)


def _stacks(chart: Chart, canvas: Canvas, *, as_shares: bool) -> Scene:
    shown = fitting_members(chart, canvas, lambda _: 1.0)
    if not shown.cats or not shown.series:
        return message(NOTHING, canvas.size)
    side = Side(shown, canvas, 1.0)
    lengths = [stacked(shares(line) if as_shares else line) for line in shown.figures]
    before = [math.nan] * len(shown.cats) if as_shares else shown.wholes_before()
    all_ends = [end for line in lengths for _, end in line]
    extent = widened([Extent.of([0.0, *all_ends, *before])], chart.reach)[0]
    totals = shown.totals()
    ends = ["" if as_shares or math.isnan(each) else chart.styles[0].short(each) for each in totals]
    if chart.style.labels.show == "none":
        ends = [""] * len(totals)
    widest = max(canvas.text_width(text, _SMALL, 400) for text in ends)
    place = _place(
        extent.low, extent.high, side.names, max(side.right - (widest + 10 if widest else 4), side.names + 8)
    )
    share, colours = shares_of(shown, stacked=True), inks(shown)
    inside = labelled(shown)
    left_out = 0
    strong_series = shown.strong_series()
    tags = [tagged(chart, each) for each in shown.series]
    for at, cat in enumerate(shown.cats):
        member_pale = cat.gathered or at not in side.strong
        side.name(at)
        top, thick = side.y(at) + side.row * 0.14, side.row * 0.72
        if not math.isnan(before[at]):
            side.marks.append(_bar(place(0.0), place(before[at]), top, thick, Ink("ghost"), ghost=True))
        for which, each in enumerate(shown.series):
            figure = shown.figures[at][which]
            start, stop = lengths[at][which]
            if math.isnan(figure) or start == stop:
                continue
            ink = colours[at][which]
            ink = ink.pale() if member_pale or which not in strong_series else ink
            x0, x1 = sorted((place(start), place(stop)))
            wide = max(x1 - x0 - 0.8, 0.3)
            side.marks.append(Box(x0, top, wide, max(thick - 1, 1), ink, tags[which](cat, figure, math.nan)))
            if (at, which) in inside and len(shown.series) > 1:
                name = shown.mark_name(at, which)
                text = figure_text(chart, each.measure, figure, share[at][which], wide - 4, canvas, 11.0, name=name)
                left_out += not text or thick < 13
                if text and thick >= 13:
                    on = ink_on(ink, canvas)
                    mark = Text(x0 + wide / 2, top + thick / 2 + 4, text, on, 11, 500, "centre", optional=True)
                    side.marks.append(mark)
        if as_shares and shown.has_ghost:
            for _, stop in stacked(shares(shown.before[at]))[:-1]:
                x = place(stop)
                side.marks.append(Line(((x, top - 2), (x, top + thick + 1)), Ink("ink", 0.75), 1))
        if ends[at] and thick >= _LEAST_THICK:
            reached = [] if math.isnan(before[at]) else [place(before[at])]
            x = max([place(0.0), *reached, *(place(stop) for _, stop in lengths[at])]) + 6
            on = Ink("text") if at in side.strong else Ink("muted")
            side.marks.append(Text(x, top + thick / 2 + 4, ends[at], on, _SMALL, optional=True))
    scene = side.scene(left_out, place(0) if extent.low < 0 else None)
    return replace(scene, reach=((extent.low, extent.high),))


def _place(low: float, high: float, start: float, end: float) -> Callable[[float], float]:
    """From a figure to a place. The longest bar reaches the end of its room: no axis asks for a round last tick."""
    low, high = min(low, high), max(low, high)
    span = (high - low) or 1.0
    return lambda figure: start + (min(max(figure, low), high) - low) / span * (end - start)


def _bar(base: float, end: float, y: float, height: float, ink: Ink, *, ghost: bool = False) -> Box:
    return Box(min(base, end), y, max(abs(end - base), 0.5), max(height - 1, 1), ink, ghost=ghost)
