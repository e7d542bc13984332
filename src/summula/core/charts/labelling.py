"""What is written on marks: which figures, how, and in which ink they are read on the mark."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.charts.scene import Ink
from summula.core.charts.stacking import shares
from summula.core.fields.figures import FigureStyle
from summula.core.grids.measurestyle import MeasureStyle, styled
from summula.core.phrases.additivity import adds_up
from summula.core.theme.tokens import Theme, contrast

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.plotted import Plotted
    from summula.core.charts.style import Said

_SHARES = {3: FigureStyle("0.0%", percent=True), 2: FigureStyle("0%", percent=True)}
_READ = 4.5  # contrast that words need at least (WCAG 2.2, AA)


def figure_text(
    chart: Chart,
    measure: int,
    figure: float,
    share: float,
    room: float,
    canvas: Canvas,
    size: float,
    *,
    unit: bool = False,
    name: str = "",
    best: Said = "value",
    says: str = "",
) -> str:
    """What a mark says of its `name`, figure and share, in less figures where the room is small; empty where even that
    is too wide, or the share smaller than the style asks for. `best`: what suits the form; `says` overrules what the
    style says."""
    style, labels = chart.styles[measure], chart.style.labels
    if labels.least is not None and abs(share) * 100 < labels.least:  # one that is not known is not smaller
        return ""
    if labels.pattern:
        style = styled(style, MeasureStyle(labels.pattern))
    asked = says or labels.says or best
    for digits in (3, 2):
        stated = written = style.short(figure, unit=unit or bool(labels.pattern), digits=digits)
        if asked != "value":
            share_text = "" if math.isnan(share) else _SHARES[digits].text(share)
            parts = {"name": name, "value": written, "share": share_text}
            stated = labels.joined.join(parts[each] for each in asked.split() if parts[each])
            stated = stated or ("" if asked == "name" else written)
        if canvas.text_width(stated, size, 500) <= room:
            return stated
    return ""


def labelled(shown: Plotted) -> frozenset[tuple[int, int]]:
    """The marks (category, series) that carry their figure. By themselves, those of a single series do."""
    show = shown.chart.style.labels.show
    every = [(at, which) for at in range(len(shown.cats)) for which in range(len(shown.series))]
    of_members = len(shown.cats) - shown.has_total
    if show == "none":
        return frozenset()
    if show == "all":
        return frozenset(every)
    if show == "members":
        chosen = {each.strip().casefold() for each in shown.chart.style.labels.members.split(";")}
        named = [cat.label.casefold() in chosen for cat in shown.cats]
        across = [each.label.casefold() in chosen for each in shown.series]
        return frozenset((at, which) for at, which in every if named[at] or across[which])
    if show == "strong":
        strong = shown.strong()
        return frozenset((at, which) for at, which in every if at in strong)
    if show == "ends":
        found: set[tuple[int, int]] = set()
        for which in range(len(shown.series)):
            known = [at for at, line in enumerate(shown.figures[:of_members]) if not math.isnan(line[which])]
            if known:
                least = min(known, key=lambda at: shown.figures[at][which])
                most = max(known, key=lambda at: shown.figures[at][which])
                found |= {(at, which) for at in (known[0], known[-1], least, most)}
        return frozenset(found)
    return frozenset(every if len(shown.series) == 1 else ())


def shares_of(shown: Plotted, *, stacked: bool) -> list[list[float]]:
    """Each figure's share: of its stack, or of all members' figures of its series, those that had no room among them.
    NaN where figures do not add up to a whole."""
    if stacked:
        return [shares(line) for line in shown.figures]
    grid = shown.chart.grid
    block, measures = grid.values[grid.finest], grid.phrase.measures
    wholes = [
        float(np.nansum(block[each.measure, :, each.node]))
        if each.node >= 0 and adds_up(measures[each.measure])
        else math.nan
        for each in shown.series
    ]
    return [
        [figure / whole if whole > 0 else math.nan for figure, whole in zip(line, wholes, strict=True)]
        for line in shown.figures
    ]


def ink_on(ink: Ink, canvas: Canvas) -> Ink:
    """The ink in which a figure is read on a mark of another: that of the paper, of words, or black."""
    return _on(canvas.theme, ink)


@lru_cache(maxsize=1024)
def _on(theme: Theme, ink: Ink) -> Ink:
    ground = theme.colour(ink.token, ink.strength)
    for token in ("sheet", "ink"):
        if contrast(theme.colour(token), ground) >= _READ:
            return Ink(token)
    return Ink("black")


def ink_for_text(ink: Ink, canvas: Canvas) -> Ink:
    """The ink of a mark for words on the paper: as dark as it must be to be read."""
    return _for_text(canvas.theme, ink)


@lru_cache(maxsize=1024)
def _for_text(theme: Theme, ink: Ink) -> Ink:
    colour, paper = theme.colour(ink.token, ink.strength), theme.colour("sheet")
    if contrast(colour, paper) >= _READ:
        return ink
    for share in range(95, 0, -5):
        red, green, blue = (round(each * share / 100) for each in colour)
        if contrast((red, green, blue), paper) >= _READ:
            return Ink(f"#{red:02x}{green:02x}{blue:02x}")
    return Ink("black")


def extremes(figures: Sequence[float]) -> tuple[float, float]:
    """The least and greatest of those that are there; nothing for both where none is."""
    known = [each for each in figures if not math.isnan(each)]
    return min(known, default=0.0), max(known, default=0.0)
