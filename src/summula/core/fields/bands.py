"""Number ranges: equal bands with open ends, or bands at chosen limits. A band holds [lower, upper)."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

import msgspec

from summula.core.arrays import np
from summula.core.refusal import Refusal
from summula.core.tables.column import Codes, NumberColumn, smallest_code_type

if TYPE_CHECKING:
    from fractions import Fraction

MOST_BANDS = 10_000
LARGEST = 1e300  # of numbers in a phrase: their sums and products are numbers still


class Bands(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, gc=False):
    """Bands of `width` from `lowest` (0 unless said) to `highest`, or bands at the limits `at`."""

    width: float | None = None
    lowest: float | None = None
    highest: float | None = None
    at: tuple[float, ...] = ()


class Band(NamedTuple):
    """[lower, upper); None where the band is open. `pattern` is how the field's numbers are written."""

    lower: float | None
    upper: float | None
    pattern: str = ""

    def __str__(self) -> str:
        return f"Band(lower={self.lower!r}, upper={self.upper!r})"  # by which slicers keep it


def encode_bands(column: NumberColumn, bands: Bands, pattern: str = "") -> tuple[Codes, list[Band]]:
    """Codes (one a row, blanks last) and the bands between the first and the last that occur (empty ones among them
    shown). Limits are decimals as they were written, and compared as such: 0.3 begins the band from 0.3."""
    values = column.values
    present = values if column.blank is None else values[~column.blank]
    if len(present) == 0:
        return np.zeros(len(values), dtype=np.uint8), []
    limits = _limits(_exact(float(present.min()), column), _exact(float(present.max()), column), checked(bands))
    # In the column's own whole units: a value reaches a limit between two units when it reaches the next one.
    unit = int(column.unit)
    edges = np.array(
        [float(math.ceil(limit * unit)) if unit != 1 else float(limit) for limit in limits], dtype=np.float64
    )
    # edges [e0, e1, …]: band 0 is below e0, band i is [e(i-1), e(i)), the last is from the last edge on.
    places = np.searchsorted(edges, values, side="right")
    inside = places if column.blank is None else places[~column.blank]
    first, last = int(inside.min()), int(inside.max())
    members = [
        Band(float(limits[at - 1]) if at > 0 else None, float(limits[at]) if at < len(limits) else None, pattern)
        for at in range(first, last + 1)
    ]
    codes = np.clip(places - first, 0, len(members) - 1).astype(smallest_code_type(len(members)))
    if column.blank is not None:
        codes[column.blank] = len(members)
    return codes, members


def checked(bands: Bands) -> Bands:
    """The bands, where they can be; refuses limits that do not rise, and widths that are none."""
    given = [each for each in (bands.width, bands.lowest, bands.highest, *bands.at) if each is not None]
    if not all(math.isfinite(each) and abs(each) <= LARGEST for each in given):
        raise Refusal("the limits of bands are too large", f"enter at most {LARGEST:g}")
    if bands.at:
        if list(bands.at) != sorted(set(bands.at)):
            raise Refusal("the limits of bands must increase", "enter them from smallest to largest")
        if len(bands.at) > MOST_BANDS:
            raise Refusal(f"{len(bands.at):,} bands are too many", f"enter at most {MOST_BANDS:,} limits")
        return bands
    if bands.width is None or bands.width <= 0:
        raise Refusal("the width of bands must be more than 0", "enter a positive width")
    if bands.highest is not None and bands.highest <= (bands.lowest or 0.0):
        raise Refusal("bands must end above their start", "enter a larger 'to'")
    return bands


def _decimal(number: float) -> Fraction:
    """A number as it was written: the shortest decimal that means it."""
    from fractions import Fraction  # not needed where a window opens

    return Fraction(repr(number))


def _exact(held: float, column: NumberColumn) -> Fraction:
    from fractions import Fraction

    return Fraction(held) / int(column.unit) if column.unit != 1 else _decimal(held)


def _limits(low: Fraction, high: Fraction, bands: Bands) -> list[Fraction]:
    """The limits between bands that hold values from `low` to `high`, all of them decimals."""
    if bands.at:
        return [_decimal(limit) for limit in bands.at]
    assert bands.width is not None
    width = _decimal(bands.width)
    start = _decimal(bands.lowest or 0.0)
    end = None if bands.highest is None else _decimal(bands.highest)
    first = 0 if bands.lowest is not None else (low - start) // width
    last = math.ceil((end - start) / width) if end is not None else (high - start) // width + 1
    first, last = min(first, last), max(first, last) if end is None else last
    if last - first > MOST_BANDS:
        raise Refusal(f"bands of {bands.width:g} would make {last - first:,} bands", "enter a larger width")
    limits = [start + at * width for at in range(first, last + 1)]
    if bands.lowest is not None:
        limits = [limit for limit in limits if limit >= start]
    if end is not None:
        limits[-1] = end  # the last full band may be narrower than the others
    if max(abs(limits[0]), abs(limits[-1])) > LARGEST:
        raise Refusal("the limits of bands are too large", f"keep them under {LARGEST:g}")
    return limits
