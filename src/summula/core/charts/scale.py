"""Number scales: ticks at round figures, and the way from a figure to a place."""

from __future__ import annotations

import math

import msgspec

from summula.core.summaries.figures import round_step


class Scale(msgspec.Struct, frozen=True):
    """Figures low … high laid from `start` to `end` (pixels); `ticks` are round figures within."""

    low: float
    high: float
    start: float
    end: float
    ticks: tuple[float, ...]

    def __call__(self, value: float) -> float:
        return self.start + (value - self.low) / (self.high - self.low) * (self.end - self.start)


def scale(lowest: float, highest: float, start: float, end: float, *, every: float = 40) -> Scale:
    """A scale that holds both figures and zero, with about one tick for every `every` pixels."""
    low, high = min(lowest, 0.0), max(highest, 0.0)
    if not (math.isfinite(low) and math.isfinite(high)) or high - low < 1e-300:  # too near for a step between them
        low, high = min(low, 0.0) if math.isfinite(low) else 0.0, 1.0
    wanted = max(2, int(abs(end - start) / every))
    step = round_step((high - low) / wanted)
    first, last = math.floor(low / step + 1e-9), math.ceil(high / step - 1e-9)
    # A scale ends on a tick when that is near; a little over a tick does not ask for a whole step more.
    floor = _end(low, first * step, step, 0.05 * (low - high))
    ceiling = _end(high, last * step, step, 0.05 * (high - low))
    ticks = tuple(at * step for at in range(first, last + 1) if floor <= at * step <= ceiling)
    return Scale(floor, ceiling, start, end, ticks)


def _end(figure: float, tick: float, step: float, slack: float) -> float:
    """Where a scale ends beyond its outermost figure: on the tick, or a little beyond the figure."""
    if figure == 0 or abs(tick - figure) < 0.4 * step:
        return tick
    return figure + slack
