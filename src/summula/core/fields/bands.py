"""Number ranges: equal bands with open ends, or bands at chosen limits. A band holds [lower, upper)."""

import math
from typing import TYPE_CHECKING, NamedTuple, TypeAlias

import msgspec

from summula.core.arrays import np
from summula.core.refusal import Refusal
from summula.core.tables.column import Codes, NumberColumn, smallest_code_type

if TYPE_CHECKING:
    from numpy.typing import NDArray

Edges: TypeAlias = "NDArray[np.float64]"
_MOST_BANDS = 10_000


class Bands(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Bands of `width` from `lowest` (0 unless said) to `highest`, or bands at the limits `at`."""

    width: float | None = None
    lowest: float | None = None
    highest: float | None = None
    at: tuple[float, ...] = ()


class Band(NamedTuple):
    """[lower, upper); None where the band is open."""

    lower: float | None
    upper: float | None


def encode_bands(column: NumberColumn, bands: Bands) -> tuple[Codes, list[Band]]:
    """Codes and the bands between the first and the last that occur (empty ones among them shown)."""
    values = column.values / column.unit
    present = values if column.blank is None else values[~column.blank]
    edges = _edges(present, bands)
    # edges [e0, e1, …]: band 0 is below e0, band i is [e(i-1), e(i)), the last is from the last edge on.
    places = np.searchsorted(edges, values, side="right")
    inside = places if column.blank is None else places[~column.blank]
    if len(inside) == 0:
        return np.zeros(len(values), dtype=np.uint8), []
    first, last = int(inside.min()), int(inside.max())
    members = [
        Band(float(edges[at - 1]) if at > 0 else None, float(edges[at]) if at < len(edges) else None)
        for at in range(first, last + 1)
    ]
    codes = np.clip(places - first, 0, len(members) - 1).astype(smallest_code_type(len(members)))
    if column.blank is not None:
        codes[column.blank] = len(members)
    return codes, members


def checked(bands: Bands) -> Bands:
    """The bands, where they can be; refuses limits that do not rise, and widths that are none."""
    if bands.at:
        if list(bands.at) != sorted(set(bands.at)):
            raise Refusal("the limits of bands must rise", "write them from the smallest to the largest")
        return bands
    if bands.width is None or not math.isfinite(bands.width) or bands.width <= 0:
        raise Refusal("the width of bands must be more than 0", "write a positive width")
    if bands.highest is not None and bands.highest <= (bands.lowest or 0.0):
        raise Refusal("bands must end above where they start", "write a larger 'to'")
    return bands


def _edges(present: Edges, bands: Bands) -> Edges:
    if checked(bands).at:
        return np.array(bands.at, dtype=np.float64)
    width = bands.width or 1.0
    start = bands.lowest if bands.lowest is not None else 0.0
    low = float(present.min()) if len(present) else start
    high = float(present.max()) if len(present) else start
    first = 0 if bands.lowest is not None else math.floor((low - start) / width)
    if bands.highest is not None:
        last = math.ceil((bands.highest - start) / width - 1e-9)
    else:
        last = math.floor((high - start) / width) + 1
    if last - first > _MOST_BANDS:
        raise Refusal(f"bands of {width:g} would make {last - first:,} bands", "write a larger width")
    edges: Edges = start + np.arange(min(first, last), max(first, last) + 1, dtype=np.float64) * width
    if bands.highest is not None:
        edges[-1] = bands.highest  # the last full band may be narrower than the others
    return edges
