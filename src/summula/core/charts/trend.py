"""Trends over a chart's points: drawn from the least to the greatest of them, with what they say of themselves."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.charts.frame import MOST_TRENDS_SAID, TREND_LINE, Frame
from summula.core.charts.labelling import ink_for_text
from summula.core.charts.lettering import LABEL
from summula.core.charts.places import clipped
from summula.core.charts.scene import Ink, Line, Tag, Text
from summula.core.engine.trends import Fit, Moments, fitted_line, moments, moving_mean
from summula.core.fields.figures import MINUS

if TYPE_CHECKING:
    from summula.core.charts.chart import Chart
    from summula.core.charts.plotted import Plotted
    from summula.core.charts.scale import Scale

_MOST_DASHED = 200  # points of a dashed line: a longer one takes painters long, and its dashes are not seen
_DEGREES = {"line": 1, "curve": 2}


def trends_over_members(frame: Frame, shown: Plotted, x: Callable[[int], float], which: Sequence[int]) -> None:
    """Over categories: x counts the members from 1. `which` series; the last one that is not over counts as it is."""
    style = shown.chart.style.trend
    if not style.kind:
        return
    count = len(shown.cats) - shown.has_total
    lines = [[line[at] for line in shown.figures[:count]] for at in which]
    inks = [shown.series[at].ink for at in which]
    measures = [shown.series[at].measure for at in which]
    if style.kind == "moving mean":
        for figures, ink, measure in zip(lines, inks, measures, strict=True):
            upright = frame.y(measure)
            runs: list[list[tuple[float, float]]] = [[]]
            for at, each in enumerate(moving_mean(figures, style.length)):
                if math.isnan(each):
                    runs.append([])
                else:
                    runs[-1].append((x(at), upright(each)))
            words = f"moving mean of {style.length}"
            tag = Tag((), (), -1, math.nan, "Trend", words)
            for run in runs:
                for piece in clipped(run, upright.start, upright.end):
                    dashed = len(piece) <= _MOST_DASHED
                    frame.marks.append(Line(piece, _over(ink, len(lines)), 2.0, dashed, tag, "Trend"))
        _say(frame, [(f"moving mean of {style.length}", Ink("muted"))])
        return
    places = np.arange(1, count + 1, dtype=np.float64)

    def place(at: float) -> float:
        return x(0) + (at - 1) * (x(1) - x(0))

    groups = [[at] for at in range(len(lines))] if style.each == "member" else [list(range(len(lines)))]
    found = []
    for group in groups:
        together = np.array([lines[at] for at in group], dtype=np.float64)
        sums = moments(np.tile(places, len(group)), together.ravel())
        found.append((sums, inks[group[0]] if style.each == "member" else Ink("ink"), frame.y(measures[group[0]])))
    _draw(frame, shown.chart, found, place, lambda each: f"{each:g}")


def trends_of_points(
    frame: Frame, chart: Chart, groups: Sequence[tuple[Moments | None, Ink]], along_measure: int = 1
) -> None:
    """Over points of two figures: `groups` are told apart by their ink."""
    if chart.style.trend.kind in _DEGREES:
        words = chart.styles[along_measure].tick
        _draw(frame, chart, [(sums, ink, frame.scales[0]) for sums, ink in groups], frame.x, words)


def _draw(
    frame: Frame,
    chart: Chart,
    groups: Sequence[tuple[Moments | None, Ink, Scale]],
    place: Callable[[float], float],
    along: Callable[[float], str],
) -> None:
    degree = _DEGREES[chart.style.trend.kind]
    said = []
    for sums, ink, upright in groups:
        fit = fitted_line(sums, degree)
        if fit is None:
            continue
        points = [(place(at), upright(figure)) for at, figure in fit.points()]
        words = in_words(fit, along)
        tag = Tag((), (), -1, math.nan, "Trend", words)
        for piece in clipped(points, upright.start, upright.end):
            frame.marks.append(Line(piece, _over(ink, len(groups)), 1.8, dashed=True, tag=tag, part="Trend"))
        said.append((words, Ink("text") if len(groups) == 1 else ink))
    if chart.style.trend.says:
        _say(frame, said or [("too few points for a trend line", Ink("muted"))])


def _over(ink: Ink, count: int) -> Ink:
    return Ink("ink", 0.85) if count == 1 else ink


def _say(frame: Frame, said: Sequence[tuple[str, Ink]]) -> None:
    """What trends say, above the plot, as far as it does not run over its side."""
    for at, (words, ink) in enumerate(said[:MOST_TRENDS_SAID]):
        parts = words.split(" · ")
        while len(parts) > 1 and frame.canvas.text_width(" · ".join(parts), LABEL, 400) > frame.width - 4:
            parts.pop()
        y = frame.top - 8 - TREND_LINE * (len(said[:MOST_TRENDS_SAID]) - 1 - at)
        frame.marks.append(
            Text(
                frame.left + 2,
                y,
                " · ".join(parts),
                ink_for_text(ink, frame.canvas),
                LABEL,
                full=words,
                optional=True,
                part="Trend",
            )
        )


def in_words(fit: Fit, along: Callable[[float], str]) -> str:
    """The equation, R², how many points, and from where to where they lie."""
    terms = fit.in_x()
    text = f"y = {_number(terms[-1])} x{'²' if len(terms) == 3 else ''}"
    if len(terms) == 3:
        text += _signed(terms[1]) + " x"
    text += _signed(terms[0])
    if not math.isnan(fit.r_squared):
        text += f" · R² {fit.r_squared:.2f}"
    return f"{text} · n {fit.count:,} · x from {along(fit.low)} to {along(fit.high)}"


def _signed(figure: float) -> str:
    return f" {MINUS if figure < 0 else '+'} {_number(abs(figure))}"


def _number(figure: float) -> str:
    """In three digits, without an exponent where it is of a usual size."""
    size = abs(figure)
    text = f"{figure:,.0f}" if 1000 <= size < 1e12 else f"{figure:.3g}"
    return text.replace("-", MINUS)
