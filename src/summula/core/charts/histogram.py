"""Histogram: how many rows lie in each range of a figure, colours telling the members across."""

from __future__ import annotations

import math
from collections.abc import Sequence
from math import inf
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.charts.extents import Extent
from summula.core.charts.frame import Along, Frame, framed
from summula.core.charts.lettering import LABEL
from summula.core.charts.plotted import plotted
from summula.core.charts.scene import Box, Ink, Line, Point, Scene, Tag, Text, message
from summula.core.charts.series import column_name, field_of, figure_name, pairs, series_of, tag
from summula.core.charts.stacking import stacked
from summula.core.charts.style import HistogramStyle
from summula.core.engine.samples import Limits, Ranges
from summula.core.fields.bands import Band
from summula.core.fields.figures import FigureStyle, percent_text, plural
from summula.core.grids.measurestyle import MeasureStyle, styled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.scale import Scale
    from summula.core.fields.heading import Heading


_SHARE_ROOM = 44.0  # pixels at the right, for the scale of a running share


def draw_histogram(chart: Chart, canvas: Canvas) -> Scene:
    """The values of the first measure, or a number in bands. Ranges hold their lower limit, not their upper."""
    grid, held = chart.grid, chart.grid.samples
    if grid.rows.depth:
        return _of_bands(chart, canvas)
    whole = chart.ghost.samples if chart.ghost is not None else None
    whole = whole if isinstance(whole, Ranges) else None
    series = series_of(grid, chart.look.inks)
    if held is None and whole is not None:
        held = replace(whole, counts=np.zeros((len(series), whole.counts.shape[1])), blank=0)
    if not isinstance(held, Ranges):
        return message("No data: no values match the filters and slicers", canvas.size, canvas.text_width)
    edges, below, above, counts = held.edges, held.below, held.above, held.counts
    last = len(edges) - 2
    style, field = chart.styles[0], field_of(grid, 0)
    name = figure_name(grid, 0) + (f" · {plural(held.blank, 'blank')} left out" if held.blank else "")
    along = Along(
        Extent(float(edges[0]), float(edges[-1])), style, chart.style.words.members or name, exact=True,
        note=_tails(style, edges, below, above),
    )  # fmt: skip
    running = chart.style.own_of(HistogramStyle).running
    frame = framed(
        chart, canvas, [Extent(0.0, float((counts if whole is None else whole.counts).sum(axis=0).max()))], along=along,
        entries=series if grid.columns.depth else (), names=["rows"], style=FigureStyle(),
        beside=_SHARE_ROOM if running else 18.0,
    )  # fmt: skip
    upright = frame.scales[0]
    before = whole.counts.sum(axis=0).tolist() if whole is not None else [0.0] * (last + 1)
    for at in range(last + 1):
        x0, x1 = frame.x(float(edges[at])), frame.x(float(edges[at + 1]))
        if before[at]:
            frame.marks.append(_ghost(x0, x1, before[at], upright))
        open_range = (below and at == 0) or (above and at == last)
        words = _range(style, edges, at, below, above)
        for each, (start, end) in zip(series, stacked(counts[:, at].tolist()), strict=True):
            if start == end:
                continue
            y0, y1 = upright.within(start), upright.within(end)
            ink = each.ink if grid.columns.depth else Ink("series 0")
            title = f"{each.label} · {words}" if grid.columns.depth else words
            low, high = float(edges[at]) if at else -inf, float(edges[at + 1]) if at < last else inf
            limits = Limits(field, low, high, f"{field} {words}")
            count = end - start
            said = plural(int(count), "row")
            said += f" · {chart.ghost_words} {before[at]:,.0f}" if before[at] and not grid.columns.depth else ""
            own = Tag((), pairs(grid.columns, each.path), -1, count, title, said, (limits,))
            ink = ink.pale() if open_range else ink
            frame.marks.append(Box(x0 + 0.5, min(y0, y1), max(x1 - x0 - 1, 0.5), abs(y0 - y1), ink, own))
    if running:
        places = [frame.x(float(edge)) for edge in edges]
        words_of = [f"up to {style.text(float(edge), unit=True)}" for edge in edges[1:]]
        _running(frame, places, counts.sum(axis=0).tolist(), words_of)
    return frame.scene()


def _ghost(x0: float, x1: float, figure: float, upright: Scale) -> Box:
    """What a range held before slicing."""
    top = upright.within(figure)
    return Box(x0 + 0.5, top, max(x1 - x0 - 1, 0.5), upright.base - top, Ink("ghost"), ghost=True)


def _running(frame: Frame, places: Sequence[float], counts: Sequence[float], words: Sequence[str]) -> None:
    """What share of all lies up to each limit, on a scale of its own at the right."""
    total = math.fsum(counts) or 1.0

    def height(share: float) -> float:
        return frame.bottom + (frame.top - frame.bottom) * share

    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        text = percent_text(share, 0)
        frame.marks.append(Text(frame.right + 8, height(share) + 4, text, Ink("muted"), LABEL, part="Axis"))
    shares = [0.0]
    for count in counts:
        shares.append(shares[-1] + count / total)
    line = tuple((x, height(min(1.0, share))) for x, share in zip(places, shares, strict=True))
    frame.marks.append(Line(line, Ink("ink", 0.8), 1.8))
    for (x, y), share, said in zip(line[1:], shares[1:], words, strict=True):
        told = Tag((), (), -1, share, said, f"{percent_text(min(1.0, share))} of all")
        frame.marks.append(Point(x, y, 0.0, Ink("ink"), tag=told))


def _of_bands(chart: Chart, canvas: Canvas) -> Scene:
    """A number in bands, each as wide as it is: its area is its figure, so that bands of other widths can be compared.
    An open band is as wide as its neighbour, and paler."""
    shown = plotted(chart)
    found = [(cat, cat.path[-1]) for cat in shown.cats]
    bands = [(at, member) for at, (_, member) in enumerate(found) if isinstance(member, Band)]
    if not bands or not shown.series:
        return message("No data: no values match the filters and slicers", canvas.size, canvas.text_width)
    known = [m.upper - m.lower for _, m in bands if m.upper is not None and m.lower is not None]
    usual = min(known, default=1.0)
    ends = [_ends(member, bands, at, usual) for at, (_, member) in enumerate(bands)]
    even = all(abs((high - low) - usual) < 1e-9 * usual for low, high in ends)
    totals = shown.totals()
    wholes = shown.wholes_before()

    def dense(figures: Sequence[float]) -> list[float]:
        """Figures of the bands as heights: of a band twice as wide, half as high."""
        return [
            (0.0 if math.isnan(figures[at]) else figures[at]) / ((high - low) / usual)
            for (at, _), (low, high) in zip(bands, ends, strict=True)
        ]

    before = dense(wholes)
    heading = chart.grid.rows.headings[-1]
    style = band_style(chart, heading)
    name = column_name(chart.grid, 0)
    upward = name if even else f"{name} per {style.tick(usual)}"
    along = Along(
        Extent(ends[0][0], ends[-1][1]), style, chart.style.words.members or heading.field, exact=True,
        note="paler: open-ended bins" if any(None in (m.lower, m.upper) for _, m in bands) else "",
    )  # fmt: skip
    running = chart.style.own_of(HistogramStyle).running
    frame = framed(
        chart, canvas, [Extent(0.0, max(*before, *dense(totals)))], along=along,
        entries=shown.series if shown.named else (), names=[upward], beside=_SHARE_ROOM if running else 18.0,
    )  # fmt: skip
    upright = frame.scales[0]
    for (at, member), (low, high), whole in zip(bands, ends, before, strict=True):
        x0, x1 = frame.x(low), frame.x(high)
        per = (high - low) / usual
        if whole:
            frame.marks.append(_ghost(x0, x1, whole, upright))
        line = shown.figures[at]
        for which, (start, end) in enumerate(stacked([each / per for each in line])):
            if start == end or math.isnan(line[which]):
                continue
            each = shown.series[which]
            y0, y1 = upright.within(start), upright.within(end)
            ink = each.ink if shown.named else Ink("series 0")
            ink = ink.pale() if None in (member.lower, member.upper) else ink
            said = tag(chart, shown.cats[at], each, line[which], shown.before[at][which])
            frame.marks.append(Box(x0 + 0.5, min(y0, y1), max(x1 - x0 - 1, 0.5), abs(y0 - y1), ink, said))
    if running:
        counts = [0.0 if math.isnan(totals[at]) else totals[at] for at, _ in bands]
        places = [frame.x(ends[0][0]), *(frame.x(high) for _, high in ends)]
        _running(frame, places, counts, [f"up to {style.text(high, unit=True)}" for _, high in ends])
    return frame.scene()


def _ends(member: Band, bands: Sequence[tuple[int, Band]], at: int, usual: float) -> tuple[float, float]:
    """From where to where a band is drawn."""
    lower, upper = member.lower, member.upper
    if lower is None and upper is None:
        return 0.0, usual
    if lower is None:
        after = bands[at + 1][1] if at + 1 < len(bands) else member
        width = after.upper - after.lower if after.upper is not None and after.lower is not None else usual
        assert upper is not None
        return upper - width, upper
    if upper is None:
        before = bands[at - 1][1] if at else member
        width = before.upper - before.lower if before.upper is not None and before.lower is not None else usual
        return lower, lower + width
    return lower, upper


def band_style(chart: Chart, heading: Heading) -> FigureStyle:
    """How limits of bands are written: by the field's own pattern."""
    pattern = next((m.pattern for m in chart.grid.rows.members[-1] if isinstance(m, Band) and m.pattern), "")
    return styled(FigureStyle(), MeasureStyle(pattern)) if pattern else FigureStyle()


def _range(style: FigureStyle, edges: NDArray[np.float64], at: int, below: bool, above: bool) -> str:
    if below and at == 0:
        return f"under {style.text(edges[1], unit=True)}"
    if above and at == len(edges) - 2:
        return f"{style.text(edges[at], unit=True)} and above"
    return f"{style.text(edges[at], unit=True)} to under {style.text(edges[at + 1], unit=True)}"


def _tails(style: FigureStyle, edges: NDArray[np.float64], below: bool, above: bool) -> str:
    """The paler outer columns are open: that is said, since they stand for more than their width."""
    ends = ([0] if below else []) + ([len(edges) - 2] if above else [])
    return "paler: " + ", ".join(_range(style, edges, at, below, above) for at in ends) if ends else ""
