"""Trends: a straight line or a curve by least squares, from sums that can be taken of any number of points; the moving
mean. No value is predicted: a trend is known from the least to the greatest point only."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, TypeAlias

import msgspec

from summula.core.arrays import np
from summula.core.tables.column import stretches

if TYPE_CHECKING:
    from numpy.typing import NDArray

Values: TypeAlias = "NDArray[np.float64]"
_LEAST_POINTS = {1: 2, 2: 3}  # by degree
_PARTS = 24  # of a curve, as it is drawn
_STRETCH = 1 << 13  # points whose sums are taken at once: they stay in the cache, and no threads are called for


class Moments(msgspec.Struct, frozen=True):
    """Sums over `count` points, of u = (x - `centre`) / `width`, which lies from -1 to 1, and v = y - `middle`:
    `powers` of u to the fourth, `crossed` v·u to the second, and v². `low` and `high` of x."""

    count: int
    centre: float
    width: float
    middle: float
    powers: tuple[float, float, float, float]
    crossed: tuple[float, float, float]
    squares: float
    low: float
    high: float


def moments(x: Values, y: Values) -> Moments | None:
    """The sums of the points that have both values; None of no points."""
    known = np.isfinite(x) & np.isfinite(y)
    if not known.all():
        x, y = x[known], y[known]
    return moments_between(x, y, float(x.min()), float(x.max())) if len(x) else None


def moments_between(x: Values, y: Values, low: float, high: float) -> Moments:
    """The sums of points that all have both values, x from `low` to `high`; there is at least one."""
    centre, width = low / 2 + high / 2, (high / 2 - low / 2) or 1.0
    middle = float(y.mean())
    sums = [[_sums(x[part], y[part], centre, width, middle)] for part in stretches(len(x), _STRETCH)]
    one, two, three, four, v, vu, vu2, squares = np.concatenate(sums).sum(axis=0).tolist()
    return Moments(len(x), centre, width, middle, (one, two, three, four), (v, vu, vu2), squares, low, high)


def _sums(x: Values, y: Values, centre: float, width: float, middle: float) -> list[float]:
    """Of a stretch that stays in the cache: the powers of u, v times them, and v squared."""
    u, v = (x - centre) / width, y - middle
    u2 = u * u
    return [float(each) for each in (u.sum(), u @ u, u2 @ u, u2 @ u2, v.sum(), v @ u, v @ u2, v @ v)]


class Fit(msgspec.Struct, frozen=True):
    """A polynomial in u = (x - `centre`) / `width`, its constant first. `r_squared`: how much of the variation of y it
    explains (1 - residual sum of squares / total; the square of Pearson's r for a line), NaN where y does not vary."""

    coefficients: tuple[float, ...]
    centre: float
    width: float
    r_squared: float
    count: int
    low: float
    high: float

    def at(self, x: float) -> float:
        u, found = (x - self.centre) / self.width, 0.0
        for each in reversed(self.coefficients):
            found = found * u + each
        return found

    def in_x(self) -> tuple[float, ...]:
        """The coefficients of x itself, the constant first."""
        a, b, *rest = self.coefficients
        c = rest[0] if rest else 0.0
        shift, size = self.centre / self.width, self.width
        plain = (a - b * shift + c * shift * shift, b / size - 2 * c * shift / size)
        return (*plain, c / size / size) if rest else plain

    def points(self) -> list[tuple[float, float]]:
        """From the least to the greatest x: two points of a line, more of a curve."""
        parts = 1 if len(self.coefficients) == 2 else _PARTS
        return [(x, self.at(x)) for x in (self.low + (self.high - self.low) * at / parts for at in range(parts + 1))]


def fitted_line(sums: Moments | None, degree: int = 1) -> Fit | None:
    """The polynomial (of degree 1 or 2) nearest to the points by least squares; None where they do not tell one."""
    if sums is None or sums.count < _LEAST_POINTS[degree] or not sums.high > sums.low:
        return None
    one, two, three, four = sums.powers
    rows = [[sums.count, one, two], [one, two, three], [two, three, four]]
    matrix = np.array(rows)[: degree + 1, : degree + 1]
    right = np.array(sums.crossed[: degree + 1])
    if np.linalg.cond(matrix) > 1e12:  # as of three points at two places
        return None
    found = np.linalg.solve(matrix, right)
    # The residuals' sum of squares, from the normal equations.
    rest = sums.squares - float(found @ right)
    about_mean = sums.squares - sums.crossed[0] ** 2 / sums.count
    scale = max(abs(sums.middle), math.sqrt(sums.squares / sums.count))
    varies = about_mean > 1e-20 * sums.count * scale * scale
    r_squared = min(1.0, max(0.0, 1 - rest / about_mean)) if varies else math.nan
    coefficients = (float(found[0]) + sums.middle, *(float(each) for each in found[1:]))
    return Fit(coefficients, sums.centre, sums.width, r_squared, sums.count, sums.low, sums.high)


def moving_mean(figures: Sequence[float], length: int) -> list[float]:
    """At each place the mean of it and those before, `length` in all; NaN before there are so many, and where one of
    them is blank."""
    found = []
    for at in range(len(figures)):
        window = figures[at + 1 - length : at + 1] if at + 1 >= length else []
        found.append(math.fsum(window) / length if len(window) == length else math.nan)
    return found
