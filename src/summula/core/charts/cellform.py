"""What a dressed cell shows beside its figure, in fractions of its room: for the grid on a page and on a board."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.grids.measurestyle import MeasureStyle, status

if TYPE_CHECKING:
    from numpy.typing import NDArray

BAR, SHADE = 0.42, 0.5  # of full strength, so that figures over them are read
_STATUS = {"reached": ("gain", "●"), "near": ("amber", "◐"), "missed": ("loss", "○")}  # told apart without colours too


class CellForm(msgspec.Struct, frozen=True):
    """`bar` from and to which fraction of the width, `zero` where nothing lies when there is something on both sides;
    `shade` from -1 to 1; a `mark` at the left edge and the token of its ink; the token that the figure is written in,
    empty for the usual one."""

    bar: tuple[float, float] | None = None
    zero: float | None = None
    shade: float = 0.0
    mark: str = ""
    mark_token: str = ""
    token: str = ""

    @property
    def fill_token(self) -> str:
        """The ink of the bar or shade: of those below nothing another."""
        if self.bar is not None:
            return "loss" if self.zero is not None and self.bar[0] < self.zero else "shape"
        return "series 5" if self.shade < 0 else "series 2"


BARE = CellForm()


def cell_form(own: MeasureStyle, value: float, reach: tuple[float, float], *, finest: bool) -> CellForm:
    """How a figure is dressed. Bars, shades and goals are for members: a total, being the sum of all, would dwarf
    them. `reach` is from the least to the greatest figure of the measure, nothing included."""
    if not math.isfinite(value):
        return BARE
    low, high = reach
    bar: tuple[float, float] | None = None
    zero, shade = None, 0.0
    if finest and high > low:
        at_nothing = -low / (high - low)
        if own.fill == "bars":
            ends = sorted((at_nothing, at_nothing + value / (high - low)))
            bar, zero = (ends[0], ends[1]), at_nothing if low < 0 else None
        elif own.fill == "shade":
            shade = value / max(high, -low)
    standing = status(own, value) if finest else ""
    if standing:
        return CellForm(bar, zero, shade, _STATUS[standing][1], _STATUS[standing][0])
    if own.signs and value:
        token = "gain" if value > 0 else "loss"
        return CellForm(bar, zero, shade, "▲" if value > 0 else "▼", token, token)
    return CellForm(bar, zero, shade)


class Sparkline(msgspec.Struct, frozen=True):
    """A small line: its unbroken runs of points, and where nothing lies where figures lie on both sides of it. x from 0
    to 1 over the members, y from 0 (least) to 1 (greatest)."""

    runs: tuple[tuple[tuple[float, float], ...], ...]
    zero: float | None = None


def sparkline_of(figures: NDArray[np.float64]) -> Sparkline:
    """A line's figures from its own least to its own greatest; a gap where there is none."""
    known = np.flatnonzero(np.isfinite(figures))
    if len(known) == 0:
        return Sparkline(())
    low, high = float(figures[known].min()), float(figures[known].max())
    wide = max(len(figures) - 1, 1)
    heights = (figures - low) / (high - low) if high > low else np.full(len(figures), 0.5)
    runs = np.split(known, np.flatnonzero(np.diff(known) > 1) + 1)
    alone = len(figures) == 1
    points = tuple(tuple((0.5 if alone else at / wide, float(heights[at])) for at in run.tolist()) for run in runs)
    return Sparkline(points, -low / (high - low) if low < 0 < high else None)
