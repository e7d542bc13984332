"""How a measure's figures are dressed in a grid: their pattern and scale, sign marks, bars or shades behind them."""

from collections.abc import Iterable
from typing import Literal

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.summaries.figures import FigureStyle, split_unit
from summula.core.summaries.grid import Grid
from summula.core.summaries.lever import LeverSetting
from summula.core.summaries.phrase import Phrase, Struct, figures_shown

Scale = Literal["", "thousand", "million", "billion"]
Fill = Literal["", "bars", "shade"]
Status = Literal["", "reached", "near", "missed"]
SCALES: dict[Scale, float] = {"": 1.0, "thousand": 1e3, "million": 1e6, "billion": 1e9}


class Dress(Struct, frozen=True):
    """`pattern` is a CLDR number pattern, empty for the measure's own; `signs` puts ▲ and ▼ to the left edge, in the
    colours of gain and loss; `fill` draws bars from nothing, or a shade the stronger the larger. With a `goal`, a mark
    tells whether each member reaches it, comes near (nine tenths), or stays below; `under` says that less is better.
    The goal may be a lever's, by its name. `course` draws a small line over the across axis, beside the figures."""

    pattern: str = ""
    scale: Scale = ""
    signs: bool = False
    fill: Fill = ""
    goal: float | None = None
    under: bool = False
    goal_lever: str = ""
    course: bool = False


PLAIN = Dress()


def dressed(style: FigureStyle, dress: Dress) -> FigureStyle:
    """The style of a measure as its dress wants it."""
    if dress.pattern:
        unit, pattern = split_unit(dress.pattern)
        percent = "%" in pattern
        style = replace(style, pattern=pattern, unit=unit or ("" if percent else style.unit), percent=percent)
    return replace(style, scale=SCALES[dress.scale]) if dress.scale and not style.percent else style


_NEAR = 0.9


def status(dress: Dress, value: float) -> Status:
    """How a figure stands to its goal."""
    if dress.goal is None or not np.isfinite(value):
        return ""
    if dress.under:
        room = abs(dress.goal) * (1 / _NEAR - 1)
        return "reached" if value <= dress.goal else "near" if value <= dress.goal + room else "missed"
    room = abs(dress.goal) * (1 - _NEAR)
    return "reached" if value >= dress.goal else "near" if value >= dress.goal - room else "missed"


def with_goals(dresses: tuple[Dress, ...], levers: Iterable[LeverSetting]) -> tuple[Dress, ...]:
    """The dresses with the goals that levers set; no goal where the folio lacks the lever."""
    values = {lever.name: lever.value for lever in levers}
    return tuple(replace(each, goal=values.get(each.goal_lever)) if each.goal_lever else each for each in dresses)


def dress_of(dresses: tuple[Dress, ...], measure: int) -> Dress:
    return dresses[measure] if measure < len(dresses) else PLAIN


def with_dress(dresses: tuple[Dress, ...], measure: int, dress: Dress) -> tuple[Dress, ...]:
    """The dresses with this one in its place."""
    padded = [*dresses, *[PLAIN] * (measure + 1 - len(dresses))]
    padded[measure] = dress
    return tuple(padded)


def carried_dresses(dresses: tuple[Dress, ...], before: Phrase, after: Phrase) -> tuple[Dress, ...]:
    """The dresses after an edit of the phrase: each stays with its measure. One that was changed in its place keeps the
    dress of that place."""
    were, are = figures_shown(before), figures_shown(after)
    if not dresses or were == are:
        return dresses
    kept = []
    for at, measure in enumerate(are):
        if measure in were:
            kept.append(dress_of(dresses, were.index(measure)))
        elif at < len(were) and were[at] not in are:
            kept.append(dress_of(dresses, at))
        else:
            kept.append(PLAIN)
    return tuple(kept) if any(each != PLAIN for each in kept) else ()


def reach_of(grid: Grid, measure: int) -> tuple[float, float]:
    """The least and greatest figure of a measure at the finest level, nothing included: what bars are measured by."""
    figures = grid.values[grid.finest][measure]
    present = figures[np.isfinite(figures)]
    if present.size == 0:
        return 0.0, 0.0
    return min(float(present.min()), 0.0), max(float(present.max()), 0.0)
