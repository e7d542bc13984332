"""Encoded columns: what every calculation runs on. All arrays have one entry a row."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterator, Sequence
from datetime import date
from functools import lru_cache
from typing import TYPE_CHECKING, Any, TypeAlias, TypeVar

import msgspec

from summula.core.arrays import np

if TYPE_CHECKING:
    from concurrent.futures import ThreadPoolExecutor

    from numpy.typing import NDArray

Codes: TypeAlias = "NDArray[np.unsignedinteger]"
Mask: TypeAlias = "NDArray[np.bool_]"


EPOCH = 719_163  # the ordinal of 1970-01-01
EXACT = 2.0**53  # units: below it a float64 holds every whole number
MOST_DECIMALS = 6  # of numbers that are held as whole units


class Refused(msgspec.Struct, frozen=True):
    """A value that did not fit its field's kind: kept as it was, counted as blank."""

    row: int  # 0-based
    text: str


class CodedColumn(msgspec.Struct, frozen=True, eq=False):
    """Categories, codes (identifiers) and flags: small integers into sorted members.

    `members` stand in the field's own order (natural order; false before true), so codes sort as
    members do. The code `len(members)` is a blank, which therefore sorts last.
    """

    codes: Codes
    members: tuple[str, ...]
    refused: tuple[Refused, ...] = ()

    @property
    def rows(self) -> int:
        return len(self.codes)

    @property
    def blank(self) -> Mask | None:
        mask = self.codes == len(self.members)
        return mask if mask.any() else None


class NumberColumn(msgspec.Struct, frozen=True, eq=False):
    """Numbers, held as whole units of 10**-decimals where all values allow it.

    Takings of 12.50 with two decimals are held as 1250.0, so that sums are exact up to 2**53 units.
    `values` is 0 where `blank` is set; `blank` is None when nothing is blank. `per` of what is held make one of what is
    meant: lengths of time are held in seconds, and count in hours.
    """

    values: NDArray[np.float64]
    decimals: int = 0
    blank: Mask | None = None
    refused: tuple[Refused, ...] = ()
    per: int = 1

    @property
    def rows(self) -> int:
        return len(self.values)

    @property
    def unit(self) -> float:
        """Divide held values by this to get the true figure."""
        return float(10**self.decimals * self.per)

    def present(self) -> NDArray[np.float64]:
        """The true values of the rows that are not blank, in row order."""
        values = self.values if self.blank is None else self.values[~self.blank]
        return values / self.unit if self.unit != 1.0 else values


class DateColumn(msgspec.Struct, frozen=True, eq=False):
    """Days since 1970-01-01; 0 where blank. `seconds` of the day when the source had a time."""

    days: NDArray[np.int32]
    blank: Mask | None = None
    seconds: NDArray[np.int32] | None = None
    refused: tuple[Refused, ...] = ()

    @property
    def rows(self) -> int:
        return len(self.days)


Column = CodedColumn | NumberColumn | DateColumn


STRETCH = 1 << 16


def stretches(rows: int, length: int = STRETCH) -> Iterator[slice]:
    """Slices that cover so many rows. Work on one stretch after another stays in the cache, and needs no room for
    halfway results as long as the table."""
    for start in range(0, rows, length):
        yield slice(start, min(start + length, rows))


_FEW_MARKS = 4  # so many comparisons take less time than looking up
WORTH_THREADS = 1 << 22  # rows; with fewer, waiting for each other takes longer than quick steps save
_WORTH_PAIRS = 1 << 18  # rows
PIECE = 1 << 20  # rows taken at a time, so that a processor that is held up does not hold up the others
_Result = TypeVar("_Result")


def processors_for(rows: int, worth: int = WORTH_THREADS) -> int:
    """How many processors are put to work on so many rows, where that is worth it from `worth` rows on."""
    return min(os.cpu_count() or 1, 4) if rows >= worth else 1


def in_parallel(
    rows: int, work: Callable[[int, int], _Result], piece: int = PIECE, worth: int = WORTH_THREADS
) -> list[_Result]:
    """`work(start, stop)` of so many rows: of all, or for many of one piece after another by each processor, at once.
    The results are in the order of the rows. numpy lets others run while it adds, counts and looks up."""
    processors = 1 if getattr(_here, "shares", False) else processors_for(rows, worth)
    if processors == 1:
        return [work(0, rows)]
    if piece == PIECE:
        piece = min(PIECE, -(-rows // (2 * processors)))
    piece = -(-piece // STRETCH) * STRETCH
    starts = iter(range(0, rows, piece))

    def take() -> list[tuple[int, _Result]]:
        _here.shares = True  # what a piece of work asks for is not shared again: the others are busy
        try:
            return [(start, work(start, min(start + piece, rows))) for start in starts]
        finally:
            _here.shares = False

    others = [_others().submit(take) for _ in range(processors - 1)]
    found = take()
    for other in others:
        found += other.result()
    return [result for _, result in sorted(found, key=lambda each: each[0])]


_here = threading.local()


@lru_cache(maxsize=1)
def _others() -> ThreadPoolExecutor:
    """The threads beside the one that asks; kept, since starting them takes as long as a hundred thousand rows."""
    from concurrent.futures import ThreadPoolExecutor  # only large tables need it

    return ThreadPoolExecutor(3, thread_name_prefix="rows")


def different_values(values: NDArray[Any]) -> NDArray[Any]:
    """The different values, ascending; NaN once, at the end. By sorting: `numpy.unique` looks whole numbers up in a
    table of its own, which takes ten to fifty times as long where most of them differ."""
    ordered = np.sort(values, axis=None)
    if not len(ordered):
        return ordered
    first = np.empty(len(ordered), dtype=np.bool_)
    first[0] = True
    np.not_equal(ordered[1:], ordered[:-1], out=first[1:])
    if ordered.dtype.kind == "f" and np.isnan(ordered[-1]):
        first[int(np.argmax(np.isnan(ordered))) + 1 :] = False
    found: NDArray[Any] = ordered[first]
    return found


def take_at(known: NDArray[Any], places: NDArray[Any]) -> NDArray[Any]:
    """`known[places]`, a stretch at a time: numpy widens the places to 64 bits first. Raises IndexError for a place
    that is none; negative places are none."""
    found = np.empty(len(places), dtype=known.dtype)
    look = _way_to_look_up(known, places)

    checks = np.iinfo(places.dtype).max >= len(known) if places.dtype.kind in "ui" else False

    def look_up(start: int, stop: int) -> None:
        for part in stretches(stop - start):
            here = slice(start + part.start, start + part.stop)
            if checks:
                check_places(places[here], len(known))
            look(places[here], found[here])

    in_parallel(len(places), look_up)
    return found


def check_places(places: NDArray[Any], size: int) -> None:
    """Raises IndexError where a place is none of `size`: what looks up quickly would take another in its stead."""
    if len(places) and (int(places.max()) >= size or (places.dtype.kind == "i" and int(places.min()) < 0)):
        raise IndexError(f"place {int(places.max())} of {size}")


def _way_to_look_up(known: NDArray[Any], places: NDArray[Any]) -> Callable[[NDArray[Any], NDArray[Any]], object]:
    """The quickest way to put `known[places]` somewhere: bytes and few marks need not be widened."""
    if known.dtype == np.bool_:
        marked = np.flatnonzero(known).tolist()
        if len(marked) <= _FEW_MARKS:
            return lambda here, into: _mark(here, marked, into)
        unmarked = np.flatnonzero(~known).tolist()
        if len(unmarked) <= _FEW_MARKS:
            return lambda here, into: np.logical_not(_mark(here, unmarked, into), out=into)
    if known.dtype.itemsize == 1 and places.dtype == np.uint8 and len(known) <= 256:
        table, kind = known.tobytes().ljust(256), known.dtype
        return lambda here, into: np.copyto(into, np.frombuffer(here.tobytes().translate(table), kind))
    # With its own mode numpy takes everything twice: aside first, lest a wrong place leave half of it done.
    return lambda here, into: np.take(known, here, out=into, mode="clip")


def _mark(places: NDArray[Any], marked: Sequence[int], into: Mask) -> Mask:
    into[:] = False
    for each in marked:
        into |= places == each
    return into


def tallied(codes: NDArray[Any], size: int) -> NDArray[np.int64]:
    """How many rows hold each of `size` codes."""
    if codes.dtype == np.uint8 and len(codes) >= _WORTH_PAIRS and codes.flags.c_contiguous:
        return _tallied_by_pairs(codes)[:size]
    tally = np.zeros(size, dtype=np.int64)
    for part in stretches(len(codes), max(STRETCH, size)):
        tally += np.bincount(codes[part], minlength=size)
    return tally


def _tallied_by_pairs(codes: NDArray[np.uint8]) -> NDArray[np.int64]:
    """How many rows hold each of 256 codes: two rows are counted at once."""
    even = len(codes) // 2 * 2
    both = np.bincount(codes[:even].view(np.uint16), minlength=1 << 16).reshape(256, 256)
    tally: NDArray[np.int64] = both.sum(axis=0) + both.sum(axis=1)
    tally[codes[even:]] += 1
    return tally


def smallest_code_type(size: int) -> np.dtype[np.unsignedinteger]:
    """The narrowest unsigned type that holds the codes 0 … size (size itself is the blank)."""
    for kind in (np.uint8, np.uint16, np.uint32):
        if size <= np.iinfo(kind).max:
            return np.dtype(kind)
    return np.dtype(np.uint64)


def date_of(day: int) -> date:
    """The calendar date of a day number (days since 1970-01-01)."""
    return date.fromordinal(EPOCH + int(day))
