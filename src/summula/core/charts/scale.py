"""Number scales: ticks at round figures, and the way from a figure to a place."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.charts.style import ScaleStyle
from summula.core.fields.figures import round_step

if TYPE_CHECKING:
    from numpy.typing import NDArray

_MOST_TICKS = 60
_LEAST = 1e-300


class Scale(msgspec.Struct, frozen=True):
    """Figures low … high laid from `start` to `end` (pixels), by their logarithms with `log`; `ticks` are round figures
    within."""

    low: float
    high: float
    start: float
    end: float
    ticks: tuple[float, ...]
    log: bool = False

    def __call__(self, value: float) -> float:
        if self.log:
            value, low, high = math.log10(max(value, self.low)), math.log10(self.low), math.log10(self.high)
            return self.start + (value - low) / (high - low) * (self.end - self.start)
        return self.start + (value - self.low) / (self.high - self.low) * (self.end - self.start)

    def places(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """The places of many figures at once."""
        low, high = self.low, self.high
        if self.log:
            values, low, high = np.log10(np.maximum(values, low)), math.log10(low), math.log10(high)
        found: NDArray[np.float64] = self.start + (values - low) / (high - low) * (self.end - self.start)
        return found

    def within(self, value: float) -> float:
        """The place of a figure, of one beyond the scale its edge."""
        low, high = self.low, self.high
        value = low if value < low else high if value > high else value
        if self.log:
            return self(value)
        return self.start + (value - low) / (high - low) * (self.end - self.start)

    def holds(self, value: float) -> bool:
        return self.low <= value <= self.high

    @property
    def base(self) -> float:
        """The place from which columns rise: nothing, or the scale's end that is nearest to it."""
        return self.within(self.low if self.log else 0.0)


def scale(
    lowest: float,
    highest: float,
    start: float,
    end: float,
    *,
    every: float = 40,
    style: ScaleStyle | None = None,
    zero: bool = True,
) -> Scale:
    """A scale that holds both figures, with about one tick for every `every` pixels; nothing is on it with `zero`,
    unless the style says otherwise."""
    style = style or ScaleStyle()
    if style.reversed:
        start, end = end, start
    if not (math.isfinite(lowest) and math.isfinite(highest)):
        lowest, highest = 0.0, 1.0
    if style.log and lowest > 0:
        return _logarithmic(lowest, highest, start, end, style)
    if style.span is not None and highest - lowest < style.span and not style.log:
        # One lone point, or points close together, stand in the middle of what the scale spans at least.
        spare = style.span - (highest - lowest)
        lowest, highest = lowest - spare / 2, highest + spare / 2
        if lowest < 0 <= lowest + spare / 2:
            lowest, highest = 0.0, highest - lowest
    zero = style.begin == "zero" or (zero and style.begin != "fit")
    made = _from_nothing(lowest, highest, start, end, every) if zero else _fitted(lowest, highest, start, end, every)
    return _as_said(made, style, every)


def tied(lowest: float, highest: float, first: Scale) -> Scale:
    """A second scale with nothing, and every tick, where the first has them; the first itself where that is too narrow
    to have a step."""
    if len(first.ticks) < 2 or first.log or not first.low <= 0 <= first.high:
        return first
    step = first.ticks[1] - first.ticks[0]
    below, above = first.low / step, first.high / step
    least = max(highest / above if above > 0 else 0.0, lowest / below if below < 0 else 0.0, _LEAST)
    own = round_step(least)
    own = own if own >= least * (1 - 1e-9) else round_step(least * 1.5)
    while own < least * (1 - 1e-9):
        own = round_step(own * 1.9)
    ticks = tuple(tick / step * own for tick in first.ticks)
    return Scale(below * own, above * own, first.start, first.end, ticks)


def _as_said(made: Scale, style: ScaleStyle, every: float) -> Scale:
    """The scale with the ends and the step that a person has given."""
    low = made.low if style.low is None else style.low
    high = made.high if style.high is None else style.high
    if (low, high) == (made.low, made.high) and not style.step:
        return made
    if high - low < _LEAST:
        return made
    step = style.step or round_step((high - low) / max(2, int(abs(made.end - made.start) / every)))
    if (high - low) / step > _MOST_TICKS:
        step = round_step((high - low) / _MOST_TICKS)
    first, last = math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9)
    return Scale(low, high, made.start, made.end, tuple(at * step for at in range(first, last + 1)))


def _from_nothing(lowest: float, highest: float, start: float, end: float, every: float) -> Scale:
    low, high = min(lowest, 0.0), max(highest, 0.0)
    if high - low < _LEAST:  # too near for a step between them
        low, high = min(low, 0.0), 1.0
    step = round_step((high - low) / max(2, int(abs(end - start) / every)))
    first, last = math.floor(low / step + 1e-9), math.ceil(high / step - 1e-9)
    # A scale ends on a tick when that is near; a little over a tick does not ask for a whole step more.
    floor = _end(low, first * step, step, 0.05 * (low - high))
    ceiling = _end(high, last * step, step, 0.05 * (high - low))
    ticks = tuple(at * step for at in range(first, last + 1) if floor <= at * step <= ceiling)
    return Scale(min(floor, low), max(ceiling, high), start, end, ticks)  # 3 * 0.05 is a hair above 0.15


def _end(figure: float, tick: float, step: float, slack: float) -> float:
    """Where a scale ends beyond its outermost figure: on the tick, or a little beyond the figure."""
    if figure == 0 or abs(tick - figure) < 0.4 * step:
        return tick
    return figure + slack


def _fitted(lowest: float, highest: float, start: float, end: float, every: float) -> Scale:
    """A scale of what occurs, on round figures; it begins at nothing only where that is near."""
    if highest - lowest < max(_LEAST, 1e-12 * abs(highest)):  # one lone figure stands in the middle
        slack = abs(lowest) * 0.1 or 1.0
        lowest, highest = lowest - slack, highest + slack
    if 0 < lowest < 0.25 * (highest - lowest):
        lowest = 0.0
    step = round_step((highest - lowest) / max(2, int(abs(end - start) / every)))
    first, last = math.floor(lowest / step + 1e-9), math.ceil(highest / step - 1e-9)
    ticks = tuple(at * step for at in range(first, last + 1))
    return Scale(min(first * step, lowest), max(last * step, highest), start, end, ticks)


def _logarithmic(lowest: float, highest: float, start: float, end: float, style: ScaleStyle) -> Scale:
    low = (
        style.low
        if style.low is not None and style.low > 0
        else min(10.0 ** math.floor(math.log10(lowest) + 1e-9), lowest)
    )
    high = (
        style.high
        if style.high is not None and style.high > low
        else max(10.0 ** math.ceil(math.log10(highest) - 1e-9), highest)
    )
    if high <= low:
        high = low * 10
    decades = range(math.floor(math.log10(low)), math.ceil(math.log10(high)) + 1)
    steps = (1, 2, 5) if len(decades) <= 3 else (1,)
    ticks = tuple(
        tick
        for power in decades
        for each in steps
        if low * (1 - 1e-9) <= (tick := each * 10.0**power) <= high * (1 + 1e-9)
    )
    return Scale(low, high, start, end, ticks, log=True)


def fit(lowest: float, highest: float, start: float, end: float, *, every: float = 60) -> Scale:
    """A scale of what occurs; see `scale`."""
    return scale(lowest, highest, start, end, every=every, zero=False)
