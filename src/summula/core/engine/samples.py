"""The values themselves, put together as histograms, box plots and scatters of rows draw them. That is done where the
rows are asked (`sampling.py`), so that drawing need not look at a million of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.trends import Moments

MOST_MULTIPLES = 24


class Limits(msgspec.Struct, frozen=True, gc=False):
    """A part of a field's values: from `low` on, up to `high` (that one too where `closed`); `words` say it."""

    field: str
    low: float
    high: float
    words: str
    closed: bool = False


class Ranges(msgspec.Struct, frozen=True, eq=False):
    """How many values lie in equal ranges of round width: `counts` (column nodes, ranges), between `edges`; a range
    holds its lower limit, not its upper. The first or last may be open, since a long tail would leave all other values
    in one range. `blank` rows have no value."""

    edges: NDArray[np.float64]
    below: bool
    above: bool
    counts: NDArray[np.float64]
    blank: int


class Spread(msgspec.Struct, frozen=True):
    """Six figures of some values; quartiles by linear interpolation, as percentiles are. `beyond` lie outside the
    whiskers, ascending."""

    count: int
    low: float
    quarter: float
    median: float
    three_quarters: float
    high: float
    mean: float
    beyond: NDArray[np.float64]


class Boxes(msgspec.Struct, frozen=True, eq=False):
    """The spread of each finest figure, row by row; None where it has no values."""

    spreads: tuple[Spread | None, ...]


class Points(msgspec.Struct, frozen=True, eq=False):
    """A point a row that has both values, with the column node it belongs to."""

    column: NDArray[np.intp]
    x: NDArray[np.float64]
    y: NDArray[np.float64]


class Density(msgspec.Struct, frozen=True, eq=False):
    """Too many points to draw: `counts` (upward, along) of the rows in small equal parts of both extents."""

    counts: NDArray[np.float64]
    x: tuple[float, float]
    y: tuple[float, float]
    moments: Moments | None = None  # of the values themselves, for a trend


class Several(msgspec.Struct, frozen=True, eq=False):
    """The values of each of small multiples, in ranges or squares of the same limits; None where one has none. Of the
    first two dozen: no more are drawn."""

    parts: tuple[Ranges | Boxes | Points | Density | Records | None, ...]


class Records(msgspec.Struct, frozen=True, eq=False):
    """The first rows in play, one by one: `values` (measures, rows), NaN where blank; `rows` are their places in the
    table; `count` how many there are in all."""

    values: NDArray[np.float64]
    rows: NDArray[np.intp]
    count: int


Samples = Ranges | Boxes | Points | Density | Records | Several
