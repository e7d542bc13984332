"""Plain numbers read from the bytes of a laid out block, eight digits at a time."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from summula.core.tables.column import EXACT, MOST_DECIMALS

if TYPE_CHECKING:
    from summula.core.reading.recognising import Laid, Places, Words

_MINUS, _ZERO = 45, 48
_LONGEST = 15  # letters: digits that a float64 holds exactly
_ONE, _BYTE = np.uint64(1), np.uint64(8)
_ZEROS, _POINTS = np.uint64(0x3030303030303030), np.uint64(0x1E1E1E1E1E1E1E1E)  # "." is 0x1E above "0"
_ONES, _HIGH = np.uint64(0x0101010101010101), np.uint64(0x8080808080808080)
_KEEP_LAST = np.array([((1 << 64) - 1) ^ ((1 << 8 * (8 - min(n, 8))) - 1) for n in range(24)], dtype=np.uint64)
# What digits are multiplied by, to be whole units of so many decimals, where so many of eight letters stand before a
# point. Eight are none behind it.
_FACTORS = [np.array([10.0 ** (most - (7 - before)) for before in range(8)] + [10.0**most]) for most in range(8)]
_SCALES = np.array([10.0 ** (7 - before) for before in range(8)] + [1.0])  # what they are too large by


class Plain(NamedTuple):
    """Each row's number, as whole units of 10**-decimals where `decimals` is known, and the rows that hold something
    else than a plain number."""

    values: NDArray[np.float64]
    decimals: int | None
    other: NDArray[np.intp]


def plain_numbers(laid: Laid, field: int, *, whole: bool) -> Plain:
    """The numbers of a field. Plain ones are digits, perhaps a minus before them and (unless `whole`) a point among the
    last of them. Whole numbers with needless zeros are something else."""
    start, end = laid.starts[field], laid.ends[field]
    first = laid.letters[start]
    lengths, longest = laid.lengths[field], laid.longest[field]
    minus = first == _MINUS
    negative = bool(minus.any())
    if negative:
        start = start + minus
        first = laid.letters[start]
        lengths = end - start
    odd = lengths <= 0
    if longest > _LONGEST:
        odd |= lengths > _LONGEST
    digits = _last_eight(laid, end, lengths)
    above = _last_eight(laid, end - 8, lengths - 8) if longest > 8 else None
    before: NDArray[np.uint8] | None = None
    if whole:
        odd |= (first == _ZERO) & (lengths > 1)
    else:
        point = _points(digits)
        if point.any():
            odd |= (point & (point - _ONE)) != 0  # two of them
            odd |= lengths <= (point != 0)  # nothing else
            digits, above, before = _closed_up(digits, above, point)
    odd |= _not_digits(digits)
    values = eight_digits(digits).astype(np.float64)
    if above is not None:
        odd |= _not_digits(above)
        values += eight_digits(above) * 1e8
    other = np.flatnonzero(odd)
    values[other] = 0.0
    decimals: int | None = 0
    if before is not None:
        decimals = _as_units(values, before)
    if negative:
        np.negative(values, out=values, where=minus)
    return Plain(values, decimals, other)


def _as_units(values: NDArray[np.float64], before: NDArray[np.uint8]) -> int | None:
    """Make digits with so many letters `before` a point whole units of as many decimals as any has. Where units would
    not be exact, make them the numbers themselves."""
    most = 7 - int(before.min())
    if most <= MOST_DECIMALS and values.max() * 10.0**most < EXACT:
        values *= _FACTORS[most].take(before, mode="clip")
        return most
    values /= _SCALES.take(before, mode="clip")  # both are exact: the nearest float64
    return None


def _last_eight(laid: Laid, end: Places, lengths: Places) -> Words:
    """The last eight letters before each end, as what they are above "0"; 0 before the value begins."""
    digits = laid.word(end - 8)
    digits ^= _ZEROS
    digits &= _KEEP_LAST.take(lengths, mode="clip")
    return digits


def _points(digits: Words) -> Words:
    """The lowest bit of each byte that is a point. A "/" behind a point may show as another one."""
    other = digits ^ _POINTS
    found = other - _ONES
    found &= ~other
    found &= _HIGH
    found >>= np.uint64(7)
    return found


def _closed_up(digits: Words, above: Words | None, point: Words) -> tuple[Words, Words | None, NDArray[np.uint8]]:
    """Digits without the point between them, and how many letters stood before it; eight where there is none."""
    before = point - _ONE  # the letters before the point; all of them where there is none
    lacking = point == 0
    moved = digits & before
    moved <<= _BYTE
    if above is not None:
        moved |= above >> np.uint64(56)
        above = np.where(lacking, above, above << _BYTE)
    moved |= digits & ~(before | (point * np.uint64(0xFF)))
    return np.where(lacking, digits, moved), above, np.bitwise_count(before) >> 3


def _not_digits(digits: Words) -> NDArray[np.bool_]:
    past_nine = digits + np.uint64(0x7676767676767676)
    past_nine |= digits
    past_nine &= _HIGH
    found: NDArray[np.bool_] = past_nine != 0
    return found


def eight_digits(digits: Words) -> Words:
    """Eight digits, the first in the lowest byte, as a number: by pairs, then fours, then all."""
    found = digits * np.uint64(10)
    found += digits >> _BYTE
    found &= np.uint64(0x00FF00FF00FF00FF)
    four = found * np.uint64(100)
    four += found >> np.uint64(16)
    four &= np.uint64(0x0000FFFF0000FFFF)
    eight = four * np.uint64(10_000)
    eight += four >> np.uint64(32)
    eight &= np.uint64(0xFFFFFFFF)
    return eight
