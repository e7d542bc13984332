"""Reference lines: at a figure, a lever, the mean or the median of what is drawn, each named at its end; the room
between two of them can be shaded."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec

if TYPE_CHECKING:
    from summula.core.charts.chart import Chart
    from summula.core.charts.style import ReferenceLine

_WORDS = {"mean": "mean", "median": "median"}


class Reference(msgspec.Struct, frozen=True):
    """A figure of the first scale, and its name."""

    figure: float
    name: str


def references(chart: Chart, figures: Sequence[float]) -> list[Reference]:
    """The lines that a style asks for, the first and the second; `figures` are those that are drawn."""
    known = sorted(each for each in figures if math.isfinite(each))
    found = []
    for line in (chart.style.reference, chart.style.second_reference):
        figure = _figure(line, known)
        if math.isfinite(figure):
            written = chart.styles[0].short(figure)
            name = line.name or _WORDS.get(line.at, "")
            found.append(Reference(figure, f"{name} {written}".strip()))
    return found


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
