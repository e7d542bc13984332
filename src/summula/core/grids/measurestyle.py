"""How a measure's figures look: their pattern and scale in grids and charts, sign marks, bars or shades behind them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Literal

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.fields.figures import FigureStyle, split_unit
from summula.core.phrases.phrase import Measure, Phrase, Struct, figures_shown

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid
    from summula.core.phrases.lever import LeverSetting

Magnitude = Literal["", "thousand", "million", "billion"]
Fill = Literal["", "bars", "shade"]
Status = Literal["", "reached", "near", "missed"]
SCALES: dict[Magnitude, float] = {"": 1.0, "thousand": 1e3, "million": 1e6, "billion": 1e9}


class MeasureStyle(Struct, frozen=True):
    """`pattern` is a CLDR number pattern, empty for the measure's own; `signs` puts ▲ and ▼ to the left edge, in the
    colours of gain and loss; `fill` draws bars from nothing, or a shade the stronger the larger. With a `goal`, a mark
    tells whether each member reaches it, comes near (nine tenths), or stays below; `under` says that less is better.
    The goal may be a lever's, by its name. `course` draws a small line over the across axis, beside the figures."""

    pattern: str = ""
    scale: Magnitude = ""
    signs: bool = False
    fill: Fill = ""
    goal: float | None = None
    under: bool = False
    goal_lever: str = ""
    sparkline: bool = False


PLAIN = MeasureStyle()


def styled(style: FigureStyle, own: MeasureStyle) -> FigureStyle:
    """How a measure's figures are written, with what a person has said of them."""
    if own.pattern:
        unit, pattern = split_unit(own.pattern)
        percent = "%" in pattern
        style = replace(
            style, pattern=pattern, unit=unit or ("" if percent else style.unit), percent=percent, fixed=True
        )
    return replace(style, scale=SCALES[own.scale], fixed=True) if own.scale and not style.percent else style


_NEAR = 0.9


def status(own: MeasureStyle, value: float) -> Status:
    """How a figure stands to its goal."""
    if own.goal is None or not np.isfinite(value):
        return ""
    if own.under:
        room = abs(own.goal) * (1 / _NEAR - 1)
        return "reached" if value <= own.goal else "near" if value <= own.goal + room else "missed"
    room = abs(own.goal) * (1 - _NEAR)
    return "reached" if value >= own.goal else "near" if value >= own.goal - room else "missed"


class MeasureSetting(Struct, frozen=True):
    """How one measure of a summary looks, wherever it stands."""

    measure: Measure
    style: MeasureStyle


def measure_styles(
    settings: Iterable[MeasureSetting], phrase: Phrase, levers: Iterable[LeverSetting] = ()
) -> tuple[MeasureStyle, ...]:
    """A style for each figure of the phrase, in their order, with the goals that levers set; no goal where the folio
    lacks the lever."""
    stated = {each.measure: each.style for each in settings}
    values = {lever.name: lever.value for lever in levers}
    found = (stated.get(measure, PLAIN) for measure in figures_shown(phrase))
    return tuple(replace(each, goal=values.get(each.goal_lever)) if each.goal_lever else each for each in found)


def style_at(styles: tuple[MeasureStyle, ...], measure: int) -> MeasureStyle:
    return styles[measure] if measure < len(styles) else PLAIN


def with_style(
    settings: tuple[MeasureSetting, ...], measure: Measure, style: MeasureStyle
) -> tuple[MeasureSetting, ...]:
    """The settings with this measure's; one that says nothing is not kept."""
    others = tuple(each for each in settings if each.measure != measure)
    return others if style == PLAIN else (*others, MeasureSetting(measure, style))


def carried(settings: tuple[MeasureSetting, ...], before: Phrase, after: Phrase) -> tuple[MeasureSetting, ...]:
    """The settings after an edit of the phrase. A measure that was changed in its place keeps what was said of it."""
    were, are = figures_shown(before), figures_shown(after)
    if not settings or were == are:
        return settings
    became = {old: new for old, new in zip(were, are, strict=False) if old not in are and new not in were}
    moved = (MeasureSetting(became.get(each.measure, each.measure), each.style) for each in settings)
    return tuple(each for each in moved if each.measure in are)


def reach_of(grid: Grid, measure: int) -> tuple[float, float]:
    """The least and greatest figure of a measure at the finest level, nothing included: what bars are measured by."""
    figures = grid.values[grid.finest][measure]
    present = figures[np.isfinite(figures)]
    if present.size == 0:
        return 0.0, 0.0
    return min(float(present.min()), 0.0), max(float(present.max()), 0.0)
