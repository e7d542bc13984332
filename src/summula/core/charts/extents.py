"""From where to where figures go, and which measures share a scale: those of one unit do."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec

from summula.core.charts.plotted import Plotted, keeps_last_measure

if TYPE_CHECKING:
    from summula.core.charts.chart import Chart


class Extent(msgspec.Struct, frozen=True):
    """The least and greatest figure on a scale."""

    low: float
    high: float

    @classmethod
    def of(cls, figures: Sequence[float]) -> Extent:
        known = [each for each in figures if math.isfinite(each)]
        return cls(min(known, default=0.0), max(known, default=0.0))


def widened(extents: Sequence[Extent], reach: Sequence[tuple[float, float]]) -> list[Extent]:
    """The extents, at least as wide as those beside them ask for."""
    found = list(extents)
    for at, (low, high) in enumerate(reach[: len(found)]):
        found[at] = Extent(min(found[at].low, low), max(found[at].high, high))
    return found


def units_of(chart: Chart) -> tuple[int, ...]:
    """Which scale each measure stands on: measures of one unit share one."""
    seen: dict[tuple[str, bool, bool, float], int] = {}
    styles = chart.styles[: len(chart.grid.phrase.measures) - keeps_last_measure(chart)]
    return tuple(seen.setdefault((s.unit, s.percent, s.clock, s.scale), len(seen)) for s in styles)


def scales_of(chart: Chart) -> tuple[int, ...]:
    """Which upright scale each measure stands on, as the style says: those of one unit share one, unless all but the
    first are to have their own."""
    which = units_of(chart)
    if chart.style.scale.second != "own":
        return which
    seen: dict[int, int] = {}
    return (0, *(1 + seen.setdefault(unit, len(seen)) for unit in which[1:]))


def extents_of(shown: Plotted, which: tuple[int, ...]) -> list[Extent]:
    """The extent of each scale, over all figures that stand on it."""
    return [
        Extent.of([v for at, scale in enumerate(which) if scale == one for v in shown.known(at)])
        for one in range(max(which) + 1)
    ]
