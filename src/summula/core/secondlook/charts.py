"""Second looks at a chart: a rule a function. Some are mended in the phrase, some in the style."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.charts.extents import scales_of
from summula.core.charts.style import ChartStyle, ScaleStyle, Trend
from summula.core.engine.samples import Density, Points
from summula.core.engine.trends import Moments, fitted_line, moments
from summula.core.fields.figures import plural
from summula.core.phrases.editing import gathering_all_but
from summula.core.phrases.forms import FORMS
from summula.core.secondlook.look import SecondLook
from summula.core.tables.calendarnames import calendar_names

if TYPE_CHECKING:
    from summula.core.charts.chart import Chart
    from summula.core.phrases.phrase import Phrase
    from summula.core.tables.table import Table

_SLICES = 7  # more are hard to tell apart
_KEPT = 5
_ALIKE = 1.25  # the largest slice to the smallest
_INKS = 8
_WEAK = 0.3  # R² of a trend
_RISING = ("columns", "stacked columns", "columns and lines")
_WHOLES = ("pie", "ring", "waffle")


def chart_looks(chart: Chart, table: Table) -> list[SecondLook]:
    """What is worth a second look in a chart."""
    if chart.form == "grid" or chart.grid.empty:
        return []
    return [look for look in (rule(chart, table) for rule in _OF_CHARTS) if look is not None]


def _many_slices(chart: Chart, table: Table) -> SecondLook | None:
    count = chart.grid.rows.levels[-1].size
    if chart.form not in _WHOLES or count <= _SLICES or chart.grid.several:
        return None
    return SecondLook(
        f"{count} slices are hard to tell apart.", "A few large slices and one for the rest are easier to read.",
        f"Keep {_KEPT}, group the rest", "gather slices",
    )  # fmt: skip


def _slices_alike(chart: Chart, table: Table) -> SecondLook | None:
    figures = chart.grid.values[chart.grid.finest].ravel()
    known = figures[~np.isnan(figures)]
    if chart.form not in _WHOLES or len(known) < 4 or known.min() <= 0 or chart.grid.several:
        return None
    if known.max() > _ALIKE * known.min():
        return None
    return SecondLook(
        "The slices are nearly equal.", "Lengths are easier to compare than angles.", "Draw bars", "draw bars"
    )


def _many_inks(chart: Chart, table: Table) -> SecondLook | None:
    count = chart.grid.columns.levels[-1].size * len(chart.grid.phrase.measures)
    if count <= _INKS or chart.form in ("heat grid", *_WHOLES) or not chart.grid.columns.depth:
        return None
    return SecondLook(
        f"{plural(count, 'ink')} are hard to tell apart.", "From the ninth on, colours repeat in other shades.",
        f"Keep {_KEPT} across, group the rest", "fewer inks",
    )  # fmt: skip


def _cut_scale(chart: Chart, table: Table) -> SecondLook | None:
    scale = chart.style.scale
    cut = scale.begin == "fit" or (scale.low is not None and scale.low > 0)
    if chart.form not in _RISING or not cut or scale.log:
        return None
    return SecondLook(
        "The axis does not start at zero.", "Columns are compared by length, which is cut here.",
        "Start at zero", "scale from nothing",
    )  # fmt: skip


def _scales_apart(chart: Chart, table: Table) -> SecondLook | None:
    if chart.form not in ("lines", "columns", "columns and lines") or chart.style.scale.second == "tied":
        return None
    if max(scales_of(chart), default=0) != 1:
        return None
    return SecondLook(
        "The chart has two axes.", "Where the lines cross means nothing unless the ticks agree.",
        "Align the ticks", "tie scales",
    )  # fmt: skip


def _weak_trend(chart: Chart, table: Table) -> SecondLook | None:
    kind = chart.style.trend.kind
    if kind not in ("line", "curve") or "Trend" not in _heeded_groups(chart):
        return None
    fit = fitted_line(_moments(chart), 1 if kind == "line" else 2)
    if fit is None or math.isnan(fit.r_squared) or fit.r_squared >= _WEAK:
        return None
    return SecondLook(
        f"The trend line explains little (R² {fit.r_squared:.2f}).", "The points are scattered widely around it.",
        "Remove the trend line", "no trend",
    )  # fmt: skip


def _heeded_groups(chart: Chart) -> set[str]:
    from summula.core.charts.settings import heeded

    return {each.group for each in heeded(chart.form)}


def _moments(chart: Chart) -> Moments | None:
    """The sums of all points that a trend for all is drawn through."""
    grid, held = chart.grid, chart.grid.samples
    if isinstance(held, Density):
        return held.moments
    if isinstance(held, Points):
        return moments(held.x, held.y)
    block = grid.values[grid.finest]
    if FORMS[chart.form].purpose == "two figures":
        return moments(block[-1].ravel(), block[0].ravel())
    places = np.arange(1, block.shape[1] + 1, dtype=np.float64)
    y = np.concatenate([block[measure].T.ravel() for measure in range(block.shape[0])])
    return moments(np.tile(places, len(y) // max(len(places), 1)), y)


def _unordered_line(chart: Chart, table: Table) -> SecondLook | None:
    headings = chart.grid.rows.headings
    if chart.form not in ("lines", "areas", "share areas") or not headings:
        return None
    last = headings[-1]
    if last.part is not None or last.bands is not None or not table.has(last.field):
        return None
    if table.field(last.field).kind not in ("category", "code", "flag") or calendar_names(table, last.field):
        return None
    return SecondLook(
        f"The members of {last.field} have no order.", "A line between them suggests a trend that does not exist.",
        "Use columns", "draw columns",
    )  # fmt: skip


_OF_CHARTS: tuple[Callable[[Chart, Table], SecondLook | None], ...] = (
    _many_slices, _slices_alike, _many_inks, _cut_scale, _scales_apart, _weak_trend, _unordered_line,
)  # fmt: skip

PHRASE_REMEDIES: dict[str, Callable[[Phrase], Phrase]] = {
    "gather slices": lambda phrase: gathering_all_but(phrase, _KEPT),
    "fewer inks": lambda phrase: gathering_all_but(phrase, _KEPT, across=True),
    "draw bars": lambda phrase: replace(phrase, form="bars"),
    "draw columns": lambda phrase: replace(phrase, form="columns"),
}
STYLE_REMEDIES: dict[str, Callable[[ChartStyle], ChartStyle]] = {
    "scale from nothing": lambda style: replace(
        style, scale=replace(style.scale, begin="", low=None) if style.scale.high is not None else ScaleStyle()
    ),
    "tie scales": lambda style: replace(style, scale=replace(style.scale, second="tied")),
    "no trend": lambda style: replace(style, trend=Trend()),
}
