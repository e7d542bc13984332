"""Rows joined by several code columns at once, counted and summed on the way, without keeping each row's place."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, NamedTuple

import msgspec
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.engine.combinations import Figures, codes_of, combine, dense_for
from summula.core.memory import Remembered
from summula.core.tables.column import (
    PIECE,
    STRETCH,
    check_places,
    in_parallel,
    processors_for,
    smallest_code_type,
    stretches,
)

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.tables.table import Table

_BLOCK = 1 << 16  # records joined at a time: their places and weights stay in the cache
_WORTH = 1 << 19  # rows that are worth several processors: joining takes several steps a row
_SHARED_BLOCK = 1 << 18  # where several processors are at it: the fewer steps, the less they wait for each other


_GREATEST: Remembered[str, float] = Remembered("greatest wholes", most=2_000)


class Packed(msgspec.Struct, frozen=True, eq=False):
    """Whole units to be summed and counted in one pass.

    Each weight is raised by 2**bits, so that a stretch's total holds the count in its upper bits and the sum in its
    lower ones. Both are exact while stretch * greatest < 2**(bits-1) and stretch * 2**bits < 2**52.
    """

    weights: Figures
    stretch: int
    bits: int

    @classmethod
    def of(cls, table: Table, name: str) -> Packed | None:
        """The packing of a number field without blanks; None where its units are too large or not whole."""
        column = table.number(name)
        if column.blank is not None or column.rows <= STRETCH:
            return None
        greatest = _GREATEST.of(table.memo, name, lambda: _greatest_whole(column.values))
        if not greatest < 2.0**28:
            return None
        power = min(16, int((49 - math.log2(max(greatest, 1.0))) // 2))
        return cls(column.values, 1 << power, 51 - power)


class Joined(msgspec.Struct, frozen=True, eq=False):
    """The place of each record among all combinations of its codes, in lexicographic order; or what is `known` of
    that place. Worked out when read: a place a row would be megabytes to write for a question that only adds."""

    columns: tuple[NDArray[Any], ...]
    sizes: tuple[int, ...]
    known: NDArray[np.unsignedinteger] | None = None

    @property
    def records(self) -> int:
        return len(self.columns[0])

    @property
    def size(self) -> int:
        """Of all combinations."""
        return math.prod(self.sizes)

    @property
    def _block(self) -> int:
        return _SHARED_BLOCK if processors_for(self.records, _WORTH) > 1 else _BLOCK

    def all(self) -> NDArray[np.unsignedinteger]:
        """What is known of every record's place; the place itself where nothing is."""
        if len(self.columns) == 1 and self.known is None:
            return self.columns[0]
        kind = smallest_code_type(self.size) if self.known is None else self.known.dtype
        found = np.empty(self.records, dtype=kind)

        def look_up(start: int, stop: int) -> None:
            room = self._room(stop - start)
            for rows in _blocks(start, stop, self._block):
                if self.known is None:
                    self._read(rows, found[rows])
                else:
                    places = self._read(rows, room)
                    check_places(places, len(self.known))
                    np.take(self.known, places, out=found[rows], mode="clip")

        in_parallel(self.records, look_up, worth=_WORTH)
        return found

    def counted(self) -> Figures:
        """How many records fall on each place."""
        size = self.size

        def count(start: int, stop: int) -> Figures:
            total, block = np.zeros(size), max(self._block, size)
            room = self._room(min(block, stop - start))
            for rows in _blocks(start, stop, block):
                total += np.bincount(self._read(rows, room), minlength=size)
            return total

        return sum(in_parallel(self.records, count, max(PIECE, size), _WORTH), np.zeros(size))

    def summed(self, packed: Packed) -> tuple[Figures, Figures]:
        """How many records fall on each place, and the sums of their weights."""
        size, one = self.size, 2.0**packed.bits

        def count(start: int, stop: int) -> Figures:
            found = np.zeros((2, size))
            room, weights = self._room(stop - start), np.empty(min(self._block, stop - start))
            totals = np.empty((-(-self._block // packed.stretch), size))
            for rows in _blocks(start, stop, self._block):
                places = self._read(rows, room)
                raised = np.add(packed.weights[rows], one, out=weights[: len(places)])
                parts = list(stretches(len(places), packed.stretch))
                for at, part in enumerate(parts):
                    totals[at] = np.bincount(places[part], raised[part], size)
                both = totals[: len(parts)]
                counts = np.rint(both / one)
                found[0] += counts.sum(axis=0)
                found[1] += (both - counts * one).sum(axis=0)
            return found

        counts, sums = sum(in_parallel(self.records, count, worth=_WORTH), np.zeros((2, size)))
        return counts, sums

    def _room(self, records: int) -> NDArray[Any]:
        return np.empty(min(records, max(self._block, self.size)), dtype=smallest_code_type(self.size))

    def _read(self, rows: slice, room: NDArray[Any]) -> NDArray[Any]:
        """The places of some records, written into `room` where they have to be worked out."""
        first, *others = self.columns
        if not others:
            return first[rows]
        places = room[: rows.stop - rows.start]
        kind = places.dtype
        before = first[rows]
        for column, size in zip(others, self.sizes[1:], strict=True):
            np.multiply(before, kind.type(size), out=places, dtype=kind, casting="unsafe")  # all places fit its kind
            np.add(places, column[rows], out=places, casting="unsafe")
            before = places
        return places


class Folded(NamedTuple):
    """The combinations of the rows, in lexicographic order (m, k), the rows of each (m), their sums (m) where they
    came along, and the combination of each row."""

    of_row: Joined | NDArray[np.unsignedinteger]
    codes: NDArray[np.int64]
    counts: Figures
    sums: Figures | None


def fold_rows(
    columns: Sequence[NDArray[Any]], sizes: Sequence[int], *, most: int, packed: Packed | None = None
) -> Folded | None:
    """Rows folded by their code columns; None where that leaves over `most` combinations."""
    joined = Joined(tuple(columns), tuple(sizes))
    if joined.size > dense_for(joined.records):
        combined = combine(columns, sizes, most=most)
        return None if combined is None else Folded(combined.ids, combined.codes, combined.counts, None)
    sums = None
    if packed is not None and joined.size <= packed.stretch:
        counts, sums = joined.summed(packed)
    else:
        counts = joined.counted()
    present = np.flatnonzero(counts)
    if len(present) > most:
        return None
    if len(present) < joined.size:
        known = np.zeros(joined.size, dtype=smallest_code_type(len(present)))
        known[present] = np.arange(len(present), dtype=known.dtype)
        joined = replace(joined, known=known)
    return Folded(joined, codes_of(present, sizes), counts[present], None if sums is None else sums[present])


def _blocks(start: int, stop: int, length: int) -> list[slice]:
    return [slice(start + part.start, start + part.stop) for part in stretches(stop - start, length)]


def _greatest_whole(values: Figures) -> float:
    """The greatest size among whole numbers; infinite where one is not whole."""

    def greatest(start: int, stop: int) -> float:
        found = 0.0
        for rows in _blocks(start, stop, STRETCH):
            here = values[rows]
            if not np.array_equal(here, np.rint(here)):
                return math.inf
            found = max(found, float(here.max()), -float(here.min()))
        return found

    return max(in_parallel(len(values), greatest))
