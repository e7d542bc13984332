"""Sums that lose nothing: numbers whose sum a float64 cannot hold are taken apart into limbs whose sums it can.

Limb k of a column is one array a row, a multiple of a power of two so large that any sum of it is exact; all limbs of
a value together are the value. Where the values are decimals, they are taken apart as whole units of their smallest
decimal, so that 0.1234567 + 0.1 - 0.2234567 is nought; else as the binary numbers that they are (the error-free split
of Rump, Ogita and Oishi, "Accurate floating-point summation", 2008).
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.tables.column import EXACT, NumberColumn, stretches

if TYPE_CHECKING:
    from numpy.typing import NDArray

MOST_LIMBS = 8
_MOST_DECIMALS = 15
_WIDE = 2.0**62


class Splitting(msgspec.Struct, frozen=True):
    """How a column is taken apart. `decimals`: values are whole units of 10**-decimals (None: binary numbers).
    `bits` of a limb; `top`: the largest limb is a multiple of 2**top; `limbs`: how many there are."""

    decimals: int | None
    bits: int
    top: int
    limbs: int
    per: int = 1  # of what is held make one of what is meant

    @property
    def unit(self) -> float:
        """Divide sums by this to get the true figure."""
        return float(self.per) if self.decimals is None else float(10**self.decimals * self.per)


def splitting_of(column: NumberColumn) -> Splitting | None:
    """How a column must be taken apart to be added up exactly; None where its own units add up exactly."""
    values = column.values
    size = total = 0.0
    whole = True
    for part in stretches(len(values)):
        here = np.abs(values[part])
        size, total = max(size, float(here.max())), total + float(here.sum())
        whole = whole and (column.decimals > 0 or bool(np.array_equal(here, np.rint(here))))
    if whole and total < EXACT / 2:
        return None
    bits = 52 - max(1, len(values)).bit_length()
    if column.decimals or whole:
        decimals: int | None = column.decimals
        largest = size
    else:
        decimals = _decimals_of(values, size)
        largest = size if decimals is None else size * 10.0**decimals
    exponent = math.frexp(largest)[1]
    if decimals is not None:
        limbs = max(1, -(-exponent // bits))
        return Splitting(decimals, bits, (limbs - 1) * bits, limbs, column.per)
    top = exponent - bits
    return Splitting(None, bits, top, MOST_LIMBS, column.per)


def _decimals_of(values: NDArray[np.float64], size: float) -> int | None:
    """The fewest decimals that hold all values, each the float64 nearest to its decimal; None where there are none."""
    wide = np.finfo(np.longdouble).nmant >= 63
    for decimals in range(1, _MOST_DECIMALS + 1):
        if size * 10.0**decimals >= (_WIDE if wide else EXACT):
            return None
        if all(_fit(values[part], decimals) for part in stretches(len(values))):
            return decimals
    return None


def _fit(values: NDArray[np.float64], decimals: int) -> bool:
    scale = np.longdouble(10**decimals)
    return bool(np.array_equal((_units(values, decimals) / scale).astype(np.float64), values))


def _units(values: NDArray[np.float64], decimals: int) -> NDArray[np.longdouble]:
    units: NDArray[np.longdouble] = np.rint(values.astype(np.longdouble) * np.longdouble(10**decimals))
    return units


def limb(column: NumberColumn, splitting: Splitting, which: int) -> NDArray[np.float64]:
    """One limb of each row, the largest first."""
    found = np.empty(len(column.values))
    for part in stretches(len(column.values)):
        values = column.values[part]
        if splitting.decimals is not None:
            in_units = column.decimals == splitting.decimals
            units = values.astype(np.int64) if in_units else _units(values, splitting.decimals).astype(np.int64)
            found[part] = _whole_limb(units, splitting, which)
        else:
            found[part] = _binary_limb(values, splitting, which)
    return found


def _whole_limb(units: NDArray[np.int64], splitting: Splitting, which: int) -> NDArray[np.float64]:
    shift = splitting.top - which * splitting.bits
    limbs = units >> shift if which == 0 else (units >> shift) & ((1 << splitting.bits) - 1)
    return np.asarray(limbs.astype(np.float64) * 2.0**shift)


def _binary_limb(values: NDArray[np.float64], splitting: Splitting, which: int) -> NDArray[np.float64]:
    rest = values
    for at in range(which + 1):
        exponent = splitting.top - at * splitting.bits
        if at == splitting.limbs - 1 or exponent < -1000:
            return rest if at == which else np.zeros_like(rest)
        step = 2.0**exponent
        here = np.rint(rest / step) * step
        rest = rest - here
    return np.asarray(here)


def joined(limbs: list[NDArray[np.float64]]) -> NDArray[np.float64]:
    """The sum of sums of limbs, the largest first, rounded once (Knuth's two-sum keeps what each addition loses)."""
    total, lost = limbs[0], np.zeros_like(limbs[0])
    for each in limbs[1:]:
        added = total + each
        back = added - total
        lost = lost + ((total - (added - back)) + (each - back))
        total = added
    return np.asarray(total + lost)
