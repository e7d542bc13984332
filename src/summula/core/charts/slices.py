"""Pie and ring: the parts of one whole as slices, from twelve o'clock on, the largest first unless they have an order.

With a ghost the slices are those of the whole before slicing, pale; of each the part in play is filled from within, its
area the part's share of the slice's.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Literal

import msgspec

from summula.core.charts.columns import NOTHING
from summula.core.charts.labelling import figure_text, ink_on, labelled
from summula.core.charts.legend import legend, note_at_foot
from summula.core.charts.lettering import LABEL
from summula.core.charts.places import on_circle, room_in_slice
from summula.core.charts.plotted import Plotted, inks, plotted
from summula.core.charts.scene import Ink, Line, Mark, Scene, Text, Wedge, fitted, message
from summula.core.charts.series import Category, Series, short_name, tag
from summula.core.charts.stacking import shares
from summula.core.charts.style import RingStyle
from summula.core.fields.figures import percent_text

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_NAME, _FIGURE = 12.0, 11.5  # pixels: what is written beside a slice
_LINES = 31.0  # pixels that a name with its figure below takes
_LEAST_RADIUS = 44.0  # of a pie with names beside it
_BESIDE = 0.34  # of the width that names take on a side, at most
_OUT = 0.09  # of the radius that a slice is pulled out
_ELBOW = 10.0  # pixels from a slice to its name
_FIGURE_AT = 0.64  # of the radius of a full slice, where it is wide and not yet at its rim
_ASIDE = 4.0  # pixels kept free beside a figure on a slice, both sides together


class Slice(msgspec.Struct, frozen=True):
    """A part of the whole: from `start` to `stop`, in turns. `filled`: how much of its area is in play."""

    at: int
    start: float
    stop: float
    share: float
    filled: float
    ink: Ink
    out: bool

    @property
    def middle(self) -> float:
        return (self.start + self.stop) / 2


def draw_pie(chart: Chart, canvas: Canvas) -> Scene:
    return _drawn(chart, canvas, 0.0)


def draw_ring(chart: Chart, canvas: Canvas) -> Scene:
    """A pie with a hole that says the total."""
    return _drawn(chart, canvas, chart.style.own_of(RingStyle).hole)


def parts_in_order(shown: Plotted) -> list[int]:
    """The members that make up the whole: largest first, what was gathered and the blank last; in their own order where
    they have one. By the whole before slicing where that is known, so that slicing moves none."""
    weights = wholes(shown)
    known = [at for at, weight in enumerate(weights) if weight > 0]
    heading = shown.chart.grid.rows.headings[0]
    if shown.chart.grid.phrase.order is not None or heading.part is not None or heading.bands is not None:
        return known

    def last(cat: Category) -> bool:
        return cat.gathered or cat.path[-1] is None

    return sorted(known, key=lambda at: (last(shown.cats[at]), -weights[at]))


def wholes(shown: Plotted) -> list[float]:
    """Of each member the figure before slicing, or the present one where there is no ghost; blanks are nothing."""
    lines = shown.before if shown.has_ghost else shown.figures
    return [0.0 if math.isnan(line[0]) else max(line[0], 0.0) for line in lines]


def _slices(shown: Plotted) -> list[Slice]:
    order, weights = parts_in_order(shown), wholes(shown)
    now = shares([line[0] for line in shown.figures])
    total = math.fsum(weights[at] for at in order)
    colours, strong = inks(shown, "member"), shown.strong()
    pulled, own = shown.chart.style.slices.pulled, [at for at in order if not shown.cats[at].gathered]
    ends = sorted(own, key=lambda at: weights[at])
    wanted = shown.chart.style.slices.member.strip().casefold()
    chosen = next((at for at in order if shown.cats[at].label.casefold() == wanted), -1)
    out = {"": -1, "member": chosen, "largest": ends[-1], "smallest": ends[0]}[pulled] if ends else -1
    found, turn = [], 0.0
    for at in order:
        stop = turn + weights[at] / total
        ink = colours[at][0] if at in strong else colours[at][0].pale()
        figure = shown.figures[at][0]
        filled = 0.0 if math.isnan(figure) else min(1.0, max(0.0, figure) / weights[at])
        found.append(Slice(at, turn, stop, now[at], filled, ink, at == out))
        turn = stop
    return found


def _drawn(chart: Chart, canvas: Canvas, hole: float) -> Scene:
    shown = plotted(chart)
    if not shown.cats or not shown.series or not any(wholes(shown)):
        return message(NOTHING, canvas.size, canvas.text_width)
    slices = _slices(shown)
    marks: list[Mark] = []
    foot = note_at_foot(marks, chart, canvas)
    labels = _labels(shown, slices, canvas)
    place = chart.style.legend.place
    widths = [max(canvas.text_width(a, _NAME, 600), canvas.text_width(b, _FIGURE, 400)) for _, a, b in labels]
    widest = max(widths, default=0.0)
    beside = min(widest + _ELBOW + 18, canvas.width * _BESIDE)
    outer = min(canvas.width / 2 - beside, (canvas.height - foot) / 2 - 6)
    named = place == "best" and chart.style.labels.place != "inside" and bool(labels) and outer >= _LEAST_RADIUS
    top, right = 4.0, canvas.width
    if not named:
        top, right = legend(marks, chart, canvas, _entries(shown, slices))
        outer = min(right / 2, (canvas.height - foot - top) / 2) - 6
    radius = outer / (1 + _OUT) if any(each.out for each in slices) else outer
    if radius < 8:
        return message(
            "Too small for this chart: make the panel larger", canvas.size, canvas.text_width
        )
    x, y = right / 2, top + (canvas.height - foot - top) / 2
    left_out = 0
    for each in slices:
        _slice(marks, shown, each, (x, y), radius, hole)
    _parted(marks, slices, (x, y), radius, hole)
    if named:
        left_out += _beside(marks, slices, labels, canvas, (x, y), radius, foot)
    elif chart.style.labels.show != "none":
        left_out += _inside(marks, shown, slices, canvas, (x, y), radius, hole)
    if hole:
        _total(marks, shown, canvas, (x, y), radius * hole)
    return Scene(canvas.width, canvas.height, tuple(marks), left_out)


def _entries(shown: Plotted, slices: list[Slice]) -> list[Series]:
    """The slices as a legend tells them."""
    return [Series(0, 0, (), shown.cats[each.at].label, each.ink) for each in slices]


def _slice(
    marks: list[Mark], shown: Plotted, each: Slice, centre: tuple[float, float], radius: float, hole: float
) -> None:
    cat, series = shown.cats[each.at], shown.series[0]
    x, y = on_circle(*centre, radius * _OUT, each.middle) if each.out else centre
    figure, before = shown.figures[each.at][0], shown.before[each.at][0]
    inner = radius * hole
    if shown.has_ghost:
        marks.append(Wedge(x, y, inner, radius, each.start, each.stop, Ink("ghost"), ghost=True))
    if math.isnan(figure) or each.filled <= 0:
        return
    reach = _reach(each, inner, radius) if shown.has_ghost else radius
    said = tag(shown.chart, cat, series, figure, before)
    share = figure_share(each.share)
    said = msgspec.structs.replace(said, said=f"{said.text} · {share}") if share else said
    marks.append(Wedge(x, y, inner, reach, each.start, each.stop, each.ink, said))


def _reach(each: Slice, inner: float, radius: float) -> float:
    """To where a slice is filled. Areas grow with the square of the radius."""
    return math.sqrt(inner**2 + each.filled * (radius**2 - inner**2))


def figure_share(share: float) -> str:
    """A share in words, for a tooltip."""
    return "" if math.isnan(share) else f"{percent_text(share)} of all"


def _parted(marks: list[Mark], slices: list[Slice], centre: tuple[float, float], radius: float, hole: float) -> None:
    """A line of paper between slices, so that neighbours of close inks stay apart."""
    if len(slices) > 1:
        for each in slices:
            ends = (on_circle(*centre, radius * hole, each.start), on_circle(*centre, radius + 0.5, each.start))
            marks.append(Line(ends, Ink("sheet"), 1.4))


def _labels(shown: Plotted, slices: list[Slice], canvas: Canvas) -> list[tuple[Slice, str, str]]:
    """What stands beside each slice that carries a label: its name, and below it the figure."""
    chosen = labelled(shown)
    says = shown.chart.style.labels.says
    found = []
    for each in slices:
        if (each.at, 0) not in chosen:
            continue
        label, figure = shown.cats[each.at].label, shown.figures[each.at][0]
        rest = " ".join(part for part in (says or "name share").split() if part != "name")
        text = ""
        if rest and not math.isnan(figure):
            chart = shown.chart
            text = figure_text(
                chart, 0, figure, each.share, canvas.width, canvas, _FIGURE, unit=True, best="share", says=rest
            )
        name = label if not says or "name" in says.split() else ""
        found.append((each, name, text))
    return found


def _beside(
    marks: list[Mark],
    slices: list[Slice],
    labels: list[tuple[Slice, str, str]],
    canvas: Canvas,
    centre: tuple[float, float],
    radius: float,
    foot: float,
) -> int:
    """Names at the slices' sides, the largest first where not all have room; how many had none."""
    left_out = 0
    for right_side in (True, False):
        side = [each for each in labels if (each[0].middle % 1.0 < 0.5) == right_side]
        most = max(1, int((canvas.height - foot - 8) / _LINES))
        largest = sorted(side, key=lambda each: each[0].stop - each[0].start, reverse=True)[:most]
        left_out += len(side) - len(largest)
        chosen = [each for each in side if each in largest]
        chosen.sort(key=lambda each: on_circle(*centre, radius, each[0].middle)[1])
        wanted = [on_circle(*centre, radius + _ELBOW, each[0].middle)[1] for each in chosen]
        around = radius * (1 + _OUT) if any(each.out for each, _, _ in chosen) else radius
        for (each, name, figure), y in zip(chosen, apart(wanted, _LINES, 16.0, canvas.height - foot - 16), strict=True):
            edge = on_circle(*centre, radius + 2 + (radius * _OUT if each.out else 0), each.middle)
            turn_x, turn_y = on_circle(*centre, radius + _ELBOW * 0.8, each.middle)
            # As far out as the whole reaches beside these two lines.
            beyond = max(0.0, abs(y - centre[1]) - _LINES / 2)
            out = max(math.sqrt(max(0.0, (around + _ELBOW) ** 2 - beyond**2)), abs(turn_x - centre[0])) + 2
            x = centre[0] + (out if right_side else -out)
            x = min(x, canvas.width - 24) if right_side else max(x, 24.0)
            room = (canvas.width - x - 4) if right_side else x - 4
            align: Literal["left", "right"] = "left" if right_side else "right"
            text = fitted(name, room - 4, _NAME, 600, canvas.text_width)
            if abs(y - turn_y) > 4:
                marks.append(Line((edge, (x - 2 if right_side else x + 2, y)), Ink("faint"), 0.8))
            at = x + (3 if right_side else -3)
            if name:
                marks.append(
                    Text(
                        at,
                        y + (-2 if figure else 4),
                        text,
                        Ink("text"),
                        _NAME,
                        600,
                        align,
                        full=name,
                        part="Value labels",
                    )
                )
            if figure:
                written = fitted(figure, room - 4, _FIGURE, 400, canvas.text_width)
                below = y + (12 if name else 4)
                marks.append(
                    Text(at, below, written, Ink("muted"), _FIGURE, 400, align, full=figure, part="Value labels")
                )
    return left_out


def apart(wanted: list[float], step: float, low: float, high: float) -> list[float]:
    """Places near the wanted ones (ascending), at least a step apart, between two limits where that can be."""
    found: list[float] = []
    for each in wanted:
        found.append(max(each, low, found[-1] + step if found else low))
    limit = high
    for at in range(len(found) - 1, -1, -1):
        found[at] = min(found[at], limit)
        limit = found[at] - step
    return found


def _inside(
    marks: list[Mark],
    shown: Plotted,
    slices: list[Slice],
    canvas: Canvas,
    centre: tuple[float, float],
    radius: float,
    hole: float,
) -> int:
    """Figures on the slices that are wide enough for them; how many were not."""
    chosen, left_out = labelled(shown), 0
    for each in slices:
        figure = shown.figures[each.at][0]
        if (each.at, 0) not in chosen or math.isnan(figure):
            continue
        of_slice = on_circle(*centre, radius * _OUT, each.middle) if each.out else centre
        for inner, outer, ink in _grounds(each, shown, radius, hole, canvas):
            middle = (inner + outer) / 2 if inner else outer * _FIGURE_AT
            room = room_in_slice(each.start, each.stop, inner, outer, middle, LABEL * 0.5) - _ASIDE
            text = figure_text(
                shown.chart, 0, figure, each.share, room, canvas, LABEL, name=shown.cats[each.at].label, best="share"
            )
            if text:
                x, y = on_circle(*of_slice, middle, each.middle)
                marks.append(Text(x, y + 4, text, ink, LABEL, 500, "centre", optional=True, part="Value labels"))
                break
        else:
            left_out += 1
    return left_out


def _grounds(each: Slice, shown: Plotted, radius: float, hole: float, canvas: Canvas) -> list[tuple[float, float, Ink]]:
    """What a figure can stand on in a slice: from which radius to which, and in what ink it is read there."""
    inner = radius * hole
    on_slice = ink_on(each.ink, canvas)
    if not shown.has_ghost:
        return [(inner, radius, on_slice)]
    reach = _reach(each, inner, radius)
    return [(inner, reach, on_slice), (reach, radius, Ink("ink"))] if each.filled > 0 else [(inner, radius, Ink("ink"))]


def _total(marks: list[Mark], shown: Plotted, canvas: Canvas, centre: tuple[float, float], radius: float) -> None:
    """The whole, in the hole: its figure, and what it is."""
    chart = shown.chart
    known = [line[0] for line in shown.figures if not math.isnan(line[0])]
    style, room = chart.styles[0], radius * 1.7
    size = min(26.0, radius * 0.5)
    if size < 9 or not known:
        return
    for digits in (3, 2):
        text = style.short(math.fsum(known), unit=True, digits=digits)
        if canvas.text_width(text, size * 1.12, 600) <= room:
            break
    else:
        return
    name = short_name(chart.grid.phrase.measures[0], chart.grid.names[0])
    named = radius > 34 and canvas.text_width(name, LABEL, 400) <= radius * 1.6
    said = f"{name} {style.text(math.fsum(known), unit=True)}"
    y = centre[1] + size * (0.16 if named else 0.34)
    marks.append(Text(centre[0], y, text, Ink("ink"), size, 600, "centre", serif=True, full=said))
    if named:
        marks.append(
            Text(centre[0], centre[1] + size * 0.16 + 17, name, Ink("muted"), LABEL, align="centre", full=name)
        )
