"""What a chart over categories draws: its members, its series, their figures and those before slicing, once for all
forms that need them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.charts.chart import Chart
from summula.core.charts.ghosts import SeriesFigures, figures_at, members_shown
from summula.core.charts.inks import by_rank, by_sign, by_size, graded_around, member_ink, numbered
from summula.core.charts.scene import Ink
from summula.core.charts.series import Category, Series, short_name, total_value, value
from summula.core.engine.comparisons import nodes_a_year_earlier
from summula.core.phrases.forms import FORMS

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.arrays import np
    from summula.core.charts.style import Emphasis
    from summula.core.engine.grid import Grid


class Plotted(msgspec.Struct, frozen=True, eq=False):
    """`figures` and `before` (slicing) by category and series. `left_out` members had no room."""

    chart: Chart
    cats: list[Category]
    series: list[Series]
    figures: SeriesFigures
    before: SeriesFigures
    left_out: int = 0
    colours: SeriesFigures | None = None  # the figures that inks go by, where these are another measure's
    ticks: SeriesFigures | None = None  # those that a tick stands at over each mark, likewise
    ticked: Series | None = None  # the measure they are of
    rows_before: Sequence[int] = ()  # of each category but the total, its node in the ghost; -1 where it has none

    @property
    def has_ghost(self) -> bool:
        return self.chart.ghost is not None

    @property
    def named(self) -> bool:
        """Whether the series need telling apart."""
        return len(self.series) > 1 or bool(self.series and self.series[0].path)

    @property
    def grouped(self) -> bool:
        return any(cat.group for cat in self.cats)

    def known(self, measure: int | None = None) -> list[float]:
        """All figures of a measure (None: of all) that are there, those before slicing among them."""
        which = [at for at, each in enumerate(self.series) if measure is None or each.measure == measure]
        found = [line[at] for line in (*self.figures, *self.before) for at in which if not math.isnan(line[at])]
        if self.ticks is not None and (measure is None or measure == 0):
            found += [each for line in self.ticks for each in line if not math.isnan(each)]
        return found

    def of_all(self) -> SeriesFigures:
        """The figures of every member: of those that are shown, then of those that had no room. Without the total."""
        shown = self.figures[: len(self.cats) - self.has_total]
        if not self.left_out:
            return shown
        nodes = {cat.node for cat in self.cats if not cat.total}
        every = range(self.chart.grid.rows.levels[self.chart.grid.rows.depth].size)
        rest = [node for node in every if node not in nodes]
        return shown + figures_at(self.chart.grid, rest, [each.node for each in self.series], self.series)

    def strong(self, *, by_first: bool = False) -> frozenset[int]:
        """The places of the members that are strong among all, by all their series together, or by the first one. A
        total for all members never is less than strong."""
        count, emphasis = len(self.cats) - self.has_total, self.chart.style.emphasis
        among = self.of_all() if emphasis.end in ("top", "bottom", "latest") else self.figures[:count]
        own = [line[0] if by_first else _total(line) for line in among]
        strong = strong_ones(emphasis, own, [cat.label for cat in self.cats[:count]])
        return frozenset(at for at in strong if at < count) | (frozenset({count}) if self.has_total else frozenset())

    def wholes_before(self) -> list[float]:
        """Of each category the figure before slicing, all its series together, also those that slicing has left without
        rows; NaN where there is no ghost or no such member."""
        ghost = self.chart.ghost
        if ghost is None:
            return [math.nan] * len(self.cats)
        whole = [Series(0, measure, (), "", Ink("ghost")) for measure in range(len(ghost.phrase.measures))]
        block = ghost.values[ghost.rows.depth, 0][:, :, 0]
        found = [_total(block[:, row].tolist()) if row >= 0 else math.nan for row in self.rows_before]
        return [*found, _total([total_value(ghost, each) for each in whole])] if self.has_total else found

    def strong_series(self) -> frozenset[int]:
        """The places of the series that are strong: those that were chosen by name, or all."""
        if self.chart.style.emphasis.end != "members":
            return frozenset(range(len(self.series)))
        return strong_ones(self.chart.style.emphasis, [0.0] * len(self.series), [each.label for each in self.series])

    @property
    def has_total(self) -> bool:
        return bool(self.cats) and self.cats[-1].total

    def mark_name(self, at: int, which: int, *, beside: bool = False) -> str:
        """What a mark's label calls it: its series where these are told apart, else its member; empty where that stands
        `beside` the mark."""
        return self.series[which].label if self.named else "" if beside else self.cats[at].label

    def totals(self) -> list[float]:
        """Of each category, all its series together; NaN where it has no figure."""
        return [_total(line) for line in self.figures]


def _total(line: Sequence[float]) -> float:
    known = [figure for figure in line if not math.isnan(figure)]
    return math.fsum(known) if known else math.nan


def plotted(chart: Chart, most: int | None = None, *, total: bool = False) -> Plotted:
    """What is drawn of a chart, of the first `most` members; with `total` one more for all of them together, if the
    style asks for it. With a ghost, members that slicing has left without rows
    stay: their ghosts tell most."""
    grid, ghost = chart.grid, chart.ghost
    cats, series, every, rows, columns = members_shown(chart, most)
    by_measure: list[Series] = []
    if keeps_last_measure(chart):
        last = len(grid.phrase.measures) - 1
        by_measure = [each for each in series if each.measure == last]
        columns = [column for column, each in zip(columns, series, strict=True) if each.measure != last]
        series = [each for each in series if each.measure != last]
    figures = figures_at(grid, [cat.node for cat in cats], [each.node for each in series], series)
    before = [[math.nan] * len(series)] * len(cats)
    if ghost is not None:
        before = figures_at(ghost, rows, columns, series)
    left_out = every - len(cats)
    if total and chart.style.total.shown and len(cats) > 1:
        whole = Category(0, (), chart.style.total.name or "Total", "", (), total=True)
        cats = [*cats, whole]
        figures.append([total_value(grid, each) for each in series])
        before = [*before, [total_value(ghost, each) if ghost is not None else math.nan for each in series]]
    colours = ticks = ticked = None
    if by_measure and series:
        own = [next(each for each in by_measure if each.path == one.path) for one in series]
        last_figures = [[total_value(grid, e) if cat.total else value(grid, cat, e) for e in own] for cat in cats]
        colours = last_figures if colours_by_measure(chart) else None
        ticks, ticked = (last_figures, own[0]) if ticks_at_measure(chart) else (None, None)
    if chart.style.reference.at == "year" and FORMS[chart.form].ticked and series:
        ticks = _a_year_earlier(grid, cats, series)
        ticked = replace(series[0], label="a year earlier") if ticks is not None else None
    return Plotted(chart, cats, series, figures, before, left_out, colours, ticks, ticked, rows)


def _a_year_earlier(grid: Grid, cats: Sequence[Category], series: Sequence[Series]) -> SeriesFigures | None:
    """The figures that stand one calendar year back; None where no heading tells a year from the one before."""
    rows, columns = (nodes_a_year_earlier(axis, axis.depth) for axis in (grid.rows, grid.columns))
    if rows is None and columns is None:
        return None

    def back(nodes: NDArray[np.intp] | None, node: int) -> int:
        return node if nodes is None or node < 0 else int(nodes[node])

    block, nothing = grid.values[grid.finest], math.nan
    found = []
    for cat in cats:
        row = -1 if cat.total else back(rows, cat.node)
        nodes = [back(columns, each.node) for each in series]
        found.append([
            float(block[each.measure, row, node]) if row >= 0 and node >= 0 else nothing
            for each, node in zip(series, nodes, strict=True)
        ])  # fmt: skip
    return found


def entries_of(shown: Plotted) -> list[Series]:
    """What a legend tells apart: the series, where there are several, and the measure that ticks stand at."""
    entries = list(shown.series) if shown.named else []
    if shown.ticked is None:
        return entries
    of_year = shown.chart.style.reference.at == "year"
    name = shown.chart.style.reference.name or (
        shown.ticked.label if of_year else short_name(shown.chart.grid.phrase.measures[-1], shown.chart.grid.names[-1])
    )
    own = (
        []
        if entries
        else [
            replace(shown.series[0], label=short_name(shown.chart.grid.phrase.measures[0], shown.chart.grid.names[0]))
        ]
    )
    return [*entries, *own, replace(shown.ticked, label=name, ink=Ink("ink"), as_line=True)]


def keeps_last_measure(chart: Chart) -> bool:
    """Whether the phrase's last measure is told by inks or ticks, and not drawn itself."""
    return colours_by_measure(chart) or ticks_at_measure(chart)


def ticks_at_measure(chart: Chart) -> bool:
    """Whether a tick stands over each mark, at the phrase's last measure."""
    at = chart.style.reference.at == "measure" and FORMS[chart.form].ticked
    return at and len(chart.grid.phrase.measures) > 1


def colours_by_measure(chart: Chart) -> bool:
    """Whether the phrase's last measure is what inks go by, and not drawn itself."""
    by = chart.style.colour.by == "measure" and FORMS[chart.form].inked_by_measure
    return by and len(chart.grid.phrase.measures) > 1


def strong_ones(emphasis: Emphasis, figures: Sequence[float], labels: Sequence[str] = ()) -> frozenset[int]:
    """The places of the members that are strong, by their figures or their labels; all of them where nothing is set
    off."""
    if emphasis.end == "at least":
        return frozenset(at for at, figure in enumerate(figures) if figure >= emphasis.figure)
    if emphasis.end == "members":
        chosen = {each.strip().casefold() for each in emphasis.members.split(";")}
        found = frozenset(at for at, label in enumerate(labels) if label.casefold() in chosen)
        return found or frozenset(range(len(figures)))  # none of them is here: nothing is set off
    if not emphasis.end or emphasis.number <= 0:
        return frozenset(range(len(figures)))
    known = [at for at, figure in enumerate(figures) if not math.isnan(figure)]
    if emphasis.end == "latest":
        return frozenset(known[-emphasis.number :])
    order = sorted(known, key=lambda at: figures[at], reverse=emphasis.end == "top")
    return frozenset(order[: emphasis.number])


def inks(shown: Plotted, by: str = "") -> list[list[Ink]]:
    """The ink of each figure, by category and series, as the style colours them; else `by` what suits the form."""
    by = shown.chart.style.colour.by or by
    if by == "measure":
        if shown.colours is not None:
            ink_of = graded_around(shown.colours, shown.chart.style.colour.around)
            return [[ink_of(figure) for figure in line] for line in shown.colours]
        by = ""
    single = len(shown.series) == 1 and not shown.series[0].path
    if not by and single:
        known = shown.known()
        by = "sign" if known and min(known) < 0 < max(known) else ""
    own = [each.ink for each in shown.series]
    if by == "one":
        own = [numbered(0)] * len(own)
    plain = [list(own) for _ in shown.cats]
    if by == "sign":
        return [[by_sign(figure) for figure in line] for line in shown.figures]
    if by == "member" and single:
        axis, given = shown.chart.grid.rows, shown.chart.look.inks
        return [[Ink("muted") if cat.total else member_ink(axis, cat.path[-1], given)] for cat in shown.cats]
    if by in ("order", "size"):
        graded = by_rank if by == "order" else by_size
        columns = [graded([line[at] for line in shown.of_all()]) for at in range(len(shown.series))]
        return [[Ink("muted") if cat.total else column[at] for column in columns] for at, cat in enumerate(shown.cats)]
    return plain
