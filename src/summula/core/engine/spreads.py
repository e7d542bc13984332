"""Many values in few figures: counted in ranges of round width, or as the quartiles of a box."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.engine.samples import Boxes, Ranges, Spread
from summula.core.fields.figures import round_step

if TYPE_CHECKING:
    from numpy.typing import NDArray

_RANGES = 24
TAIL = 0.5  # percent of the values on either side that may share an open range
REACH = 1.5  # whiskers end at the last value within so many lengths of the box (Tukey, 1977)
_NEAR = 1e-9  # of the number of ranges: nearer to a limit, a place is looked up


class Edges(msgspec.Struct, frozen=True, eq=False):
    """The limits of ranges, and whether the first and last of them are open."""

    limits: NDArray[np.float64]
    below: bool
    above: bool


def edges_of(values: NDArray[np.float64]) -> Edges:
    """About two dozen ranges of round width that hold all values; a long tail shares an open one."""
    inner = np.percentile(values, (TAIL, 100 - TAIL)).tolist()

    def whole() -> bool:
        return bool(np.array_equal(values, np.rint(values)))

    return edges_around(float(values.min()), float(values.max()), inner[0], inner[1], whole=whole)


def edges_around(low: float, high: float, inner_low: float, inner_high: float, *, whole: Callable[[], bool]) -> Edges:
    """Ranges of round width from the least to the greatest value; what lies beyond the inner ones may share an open
    range. Of `whole` numbers no range is narrower than one."""
    below = high > low and inner_low - low > 0.25 * (inner_high - inner_low)
    above = high > low and high - inner_high > 0.25 * (inner_high - inner_low)
    start, stop = inner_low if below else low, inner_high if above else high
    if stop - start < max(1e-300, 1e-12 * abs(stop)):
        start, stop = start - 0.5 * (abs(start) or 1.0), stop + 0.5 * (abs(stop) or 1.0)
    step = round_step((stop - start) / _RANGES)
    if step < 1 and whole():
        step = 1.0
    first, last = math.floor(start / step + 1e-9), math.floor(stop / step + 1e-9) + 1
    return Edges(np.arange(first, last + 1, dtype=np.float64) * step, below, above)


def counted(values: NDArray[np.float64], column: NDArray[np.intp], columns: int, edges: Edges, blank: int) -> Ranges:
    """Values counted between limits; those beyond them in the outermost ranges."""
    size = len(edges.limits) - 1
    # Ranges are equally wide: a place is reckoned, and looked up where rounding could have taken it over a limit.
    first, step = float(edges.limits[0]), float(edges.limits[-1] - edges.limits[0]) / size
    reckoned = (values - first) * (1.0 / step)
    place = np.clip(reckoned, 0, size - 1).astype(np.int32)
    near = np.flatnonzero(np.abs(reckoned - np.rint(reckoned)) < _NEAR * (1 + abs(reckoned).max()))
    exact = np.searchsorted(edges.limits, values[near], side="right") - 1
    place[near] = np.clip(exact, 0, size - 1)
    counts = np.bincount(place if columns == 1 else column * size + place, minlength=columns * size).astype(np.float64)
    return Ranges(edges.limits, edges.below, edges.above, counts.reshape(columns, size), blank)


def boxes(values: NDArray[np.float64], places: NDArray[np.intp], size: int) -> Boxes:
    small = places.astype(np.uint16) if size <= 1 << 16 else places  # which is sorted by counting
    order = np.argsort(small, kind="stable")
    values = values[order]
    ends = np.searchsorted(places[order], np.arange(size + 1))
    return Boxes(tuple(spread(values[ends[at] : ends[at + 1]]) for at in range(size)))


def spread(values: NDArray[np.float64]) -> Spread | None:
    """The spread of values without blanks; None of no values."""
    if len(values) == 0:
        return None
    quarter, median, three = np.percentile(values, (25, 50, 75)).tolist()
    reach = REACH * (three - quarter)
    inside = (values >= quarter - reach) & (values <= three + reach)
    within, beyond = values[inside], np.sort(values[~inside])
    low, high = float(within.min()), float(within.max())
    return Spread(len(values), low, quarter, median, three, high, float(values.mean()), beyond)
