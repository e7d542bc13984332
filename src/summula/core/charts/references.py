"""Reference lines: at a figure, a lever, the mean or the median of all members, each named at its end; the room
between two of them can be shaded."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, Literal

import msgspec
from msgspec.structs import replace

from summula.core.charts.lettering import LABEL
from summula.core.charts.places import Bounds, bounds, slip_bounds, text_bounds
from summula.core.charts.scene import XY, Ink, Line, Mark, Point, Text, TextWidth, fitted

if TYPE_CHECKING:
    from summula.core.charts.chart import Chart
    from summula.core.charts.style import ReferenceLine

Align = Literal["left", "right", "centre"]
_PAPER = Ink("sheet")
_WORDS = {"mean": "mean", "median": "median"}


class Reference(msgspec.Struct, frozen=True):
    """A figure of the first scale, and its name."""

    figure: float
    name: str


def references(chart: Chart, figures: Sequence[float]) -> list[Reference]:
    """The lines that a style asks for, the first and the second; `figures` are those of all members and series."""
    known = sorted(each for each in figures if math.isfinite(each))
    found = []
    for line in (chart.style.reference, chart.style.second_reference):
        figure = _figure(line, known)
        if math.isfinite(figure):
            written = chart.styles[0].short(figure)
            name = line.name or _WORDS.get(line.at, "")
            found.append(Reference(figure, f"{name} {written}".strip()))
    return found


def reference_line(start: XY, end: XY, part: str) -> list[Mark]:
    """The marks of a line across others: between its dashes is paper, or it would be lost on marks of its own ink."""
    return [Line((start, end), _PAPER, _WIDE), Line((start, end), Ink("plum"), _WIDE, dashed=True, part=part)]


def reference_name(place: XY, align: Align, reference: Reference, part: str, room: float, width: TextWidth) -> Text:
    """What stands at its end."""
    text = fitted(reference.name, room, LABEL, 600, width)
    return Text(*place, text, Ink("plum"), LABEL, 600, align, full=reference.name, part=part, slip=True)


def crossed_on_slips(marks: Sequence[Mark], lines: Sequence[Mark], width: TextWidth) -> list[Mark]:
    """The marks, those texts on slips of paper that one of the lines runs through; not those that are written in paper
    on a dark mark, or whose slip would hide a point."""
    crossing = [(bounds(line, width), line.points) for line in lines if isinstance(line, Line)]

    def kept(mark: Mark) -> Mark:
        if not isinstance(mark, Text) or mark.slip or mark.ink.token == _PAPER.token:
            return mark
        area, slip = text_bounds(mark, width), slip_bounds(mark, width)
        area = area._replace(left=slip.left, right=slip.right)  # a line beside a letter touches it
        near = [points for around, points in crossing if _meet(around, area)]  # names below the plot are near none
        crossed = any(_runs_through(*each, area) for points in near for each in pairwise(points)) and not any(
            isinstance(each, Point) and area.holds(each.x, each.y, each.radius, each.radius) for each in marks
        )
        return replace(mark, slip=True) if crossed else mark

    return [kept(mark) for mark in marks]


def _meet(one: Bounds, other: Bounds) -> bool:
    return one.left <= other.right and other.left <= one.right and one.top <= other.bottom and other.top <= one.bottom


def _runs_through(one: XY, other: XY, area: Bounds) -> bool:
    """Whether a stretch of a line runs through a rectangle (by the clipping of Liang and Barsky)."""
    (x, y), along, down = one, other[0] - one[0], other[1] - one[1]
    enters, leaves = 0.0, 1.0
    for step, room in (
        (-along, x - area.left),
        (along, area.right - x),
        (-down, y - area.top),
        (down, area.bottom - y),
    ):
        if step == 0:
            if room < 0:
                return False
        elif step < 0:
            enters = max(enters, room / step)
        else:
            leaves = min(leaves, room / step)
    return enters < leaves


_WIDE = 1.3  # pixels


def _figure(line: ReferenceLine, known: Sequence[float]) -> float:
    match line.at:
        case "" | "measure" | "year":  # the last two are ticks over each member, and no line
            return math.nan
        case "figure" | "lever":
            return math.nan if line.figure is None else line.figure
        case "mean":
            return math.fsum(known) / len(known) if known else math.nan
        case "median":
            half = len(known) // 2
            if not known:
                return math.nan
            return known[half] if len(known) % 2 else (known[half - 1] + known[half]) / 2
