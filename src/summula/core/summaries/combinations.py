"""Combinations of code columns: which occur, how often, and which one each record has."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from summula.core.tables.column import STRETCH, looked_up, shared, smallest_code_type, stretches
from summula.core.tables.table import Table

Figures = NDArray[np.float64]
_DENSE = 1 << 22  # the most combinations counted in one dense pass


def counted(places: NDArray[Any], size: int, weights: Figures | None = None) -> Figures:
    """How many (or how much weight) fall on each of `size` places.

    Counted a stretch at a time: numpy widens the places to 64 bits first, and a stretch stays in the cache.
    """
    if len(places) <= STRETCH:
        return np.bincount(places, weights=weights, minlength=size).astype(np.float64, copy=False)

    def count(start: int, stop: int) -> Figures:
        total, here = np.zeros(size), places[start:stop]
        weigh = None if weights is None else weights[start:stop]
        for part in stretches(len(here), max(STRETCH, size)):
            total += np.bincount(here[part], weights=None if weigh is None else weigh[part], minlength=size)
        return total

    return sum(shared(len(places), count), np.zeros(size))


class Combined(NamedTuple):
    """For n records and k columns: the combination each record has (n), the combinations in lexicographic
    order (m, k), the records of each (m), and their sums (m) where they came along."""

    ids: NDArray[np.unsignedinteger]
    codes: NDArray[np.int64]
    counts: Figures
    sums: Figures | None
    renumbered: NDArray[np.unsignedinteger] | None = None  # where given, `ids` are places in it, not yet looked up


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
        key = ("greatest", name)
        if key not in table.memo:
            table.memo[key] = _greatest_whole(column.values)
        greatest = table.memo[key]
        if not greatest < 2.0**28:
            return None
        power = min(16, int((49 - math.log2(max(greatest, 1.0))) // 2))
        return cls(column.values, 1 << power, 51 - power)

    def counted(self, places: NDArray[Any], size: int) -> tuple[Figures, Figures]:
        """How many fall on each of `size` places, and the sums of their weights."""
        one = 2.0**self.bits

        def count(start: int, stop: int) -> Figures:
            found, here, weights = np.zeros((2, size)), places[start:stop], self.weights[start:stop]
            for part in stretches(len(here), self.stretch):
                both = np.bincount(here[part], weights=weights[part] + one, minlength=size)
                counts = np.rint(both / one)
                found[0] += counts
                found[1] += both - counts * one
            return found

        counts, sums = sum(shared(len(places), count), np.zeros((2, size)))
        return counts, sums


def _greatest_whole(values: Figures) -> float:
    """The greatest size among whole numbers; infinite where one is not whole."""
    greatest = 0.0
    for part in stretches(len(values)):
        here = values[part]
        if not np.array_equal(here, np.rint(here)):
            return math.inf
        greatest = max(greatest, float(here.max()), -float(here.min()))
    return greatest


def combine(
    columns: Sequence[NDArray[Any]],
    sizes: Sequence[int],
    *,
    most: int | None = None,
    packed: Packed | None = None,
    tally: bool = True,
    lazily: bool = False,
) -> Combined | None:
    """Distinct combinations of code columns; None as soon as there are over `most`.

    With `packed` weights, their sums too, where they can be had in the same pass. Without `tally` it is told which
    combinations occur, but not how often (their counts are 1). `lazily` leaves the ids to be looked up
    by who needs them.
    """
    records = len(columns[0])
    dense = max(_DENSE, 4 * records)
    if len(columns) > 1 and math.prod(sizes) <= min(dense, 1 << 31):
        combined = _dense_pass(columns, sizes, packed, tally, lazily)
        return None if most is not None and len(combined.codes) > most else combined
    ids: NDArray[Any] = columns[0]
    size = sizes[0]
    settled = np.zeros((1, 0), dtype=np.int64)  # codes of the ids before the pending columns
    pending = [sizes[0]]
    for column, column_size in zip(columns[1:], sizes[1:], strict=True):
        if size * column_size > dense:
            ids, settled, *_ = _settle(ids, size, settled, pending, None, tally=False)
            size, pending = len(settled), []
            if most is not None and size > most:
                return None
            if size * column_size > (1 << 60):
                return None
        kind = smallest_code_type(size * column_size)
        ids = ids.astype(kind, copy=False) * kind.type(column_size)
        ids += column
        size *= column_size
        pending.append(column_size)
    combined = _settle(ids, size, settled, pending, packed, tally=tally, lazily=lazily)
    return None if most is not None and len(combined.codes) > most else combined


def _dense_pass(
    columns: Sequence[NDArray[Any]], sizes: Sequence[int], packed: Packed | None, tally: bool, lazily: bool
) -> Combined:
    """All columns combined and counted in one pass, a stretch at a time."""
    size = math.prod(sizes)
    kind = smallest_code_type(size)
    ids = np.empty(len(columns[0]), dtype=kind)

    def join(start: int, stop: int) -> None:
        for part in stretches(stop - start):
            rows = slice(start + part.start, start + part.stop)
            here = ids[rows]
            here[:] = columns[0][rows]
            for column, column_size in zip(columns[1:], sizes[1:], strict=True):
                here *= kind.type(column_size)
                here += column[rows].astype(kind, copy=False)

    shared(len(ids), join)
    return _settle(ids, size, np.zeros((1, 0), dtype=np.int64), list(sizes), packed, tally=tally, lazily=lazily)


def occurring(ids: NDArray[Any], size: int) -> NDArray[np.bool_]:
    """Which of `size` numbers occur. A few thousand of them show most; the others are looked for."""
    occurs = np.zeros(size, dtype=np.bool_)
    occurs[ids[:: max(1, len(ids) // 4096)]] = True
    missing = np.flatnonzero(~occurs)
    if len(missing) > 8:
        occurs[ids] = True
    else:
        for each in missing.tolist():
            occurs[each] = bool((ids == each).any())
    return occurs


def _settle(
    ids: NDArray[Any],
    size: int,
    settled: NDArray[np.int64],
    pending: list[int],
    packed: Packed | None,
    *,
    tally: bool,
    lazily: bool = False,
) -> Combined:
    """Renumber the combinations that occur from 0, in order."""
    renumbered = None
    if size <= max(_DENSE, 4 * len(ids)):
        if packed is not None and size <= packed.stretch:
            counts, sums = packed.counted(ids, size)
        elif tally:
            counts, sums = counted(ids, size), None
        else:
            counts, sums = occurring(ids, size).astype(np.float64), None
        present = np.flatnonzero(counts)
        counts, sums = counts[present], None if sums is None else sums[present]
        kind = smallest_code_type(len(present))
        if len(present) == size:
            compact = ids.astype(kind, copy=False)
        else:
            renumbered = np.zeros(size, dtype=kind)
            renumbered[present] = np.arange(len(present), dtype=kind)
            compact = ids if lazily else looked_up(renumbered, ids)
    else:
        present, inverse, whole = np.unique(ids, return_inverse=True, return_counts=True)
        counts, sums = whole.astype(np.float64), None
        compact = inverse.astype(smallest_code_type(len(present)))
    rest = present.astype(np.int64)
    codes = []
    for pending_size in reversed(pending):
        rest, code = np.divmod(rest, pending_size)
        codes.append(code)
    before = settled[rest]
    combined = Combined(compact, np.column_stack([before, *reversed(codes)]), counts, sums)
    return combined._replace(renumbered=renumbered) if lazily else combined
