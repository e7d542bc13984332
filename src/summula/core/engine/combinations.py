"""Combinations of code columns: which occur, how often, and which one each record has."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, NamedTuple, TypeAlias

from summula.core.arrays import np
from summula.core.tables.column import PIECE, STRETCH, in_parallel, smallest_code_type, stretches, take_at

if TYPE_CHECKING:
    from numpy.typing import NDArray

Figures: TypeAlias = "NDArray[np.float64]"


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

    return sum(in_parallel(len(places), count, max(PIECE, size)), np.zeros(size))


class Combined(NamedTuple):
    """For n records and k columns: the combination each record has (n), the combinations in lexicographic
    order (m, k), and the records of each (m)."""

    ids: NDArray[np.unsignedinteger]
    codes: NDArray[np.int64]
    counts: Figures


def dense_for(records: int) -> int:
    """The most combinations that so many records are counted by in one dense pass; where there are more, sorting the
    records takes less than going over all that could occur (measured from a thousand records to four million)."""
    return min(max(1 << 14, records), 1 << 31)


def codes_of(places: NDArray[np.integer], sizes: Sequence[int]) -> NDArray[np.int64]:
    """The codes (m, k) of places among all combinations of columns of these sizes."""
    return np.column_stack(np.unravel_index(places.astype(np.int64), tuple(sizes))).astype(np.int64, copy=False)


def combine(
    columns: Sequence[NDArray[Any]], sizes: Sequence[int], *, most: int | None = None, tally: bool = True
) -> Combined | None:
    """Distinct combinations of code columns; None as soon as there are over `most`.

    Without `tally` it is told which combinations occur, but not how often (their counts are 1).
    """
    dense = dense_for(len(columns[0]))
    ids: NDArray[Any] = columns[0]
    size = sizes[0]
    settled = np.zeros((1, 0), dtype=np.int64)  # codes of the ids before the pending columns
    pending = [sizes[0]]
    for column, column_size in zip(columns[1:], sizes[1:], strict=True):
        if size * column_size > dense:
            ids, settled, _ = _settle(ids, size, settled, pending, tally=False)
            size, pending = len(settled), []
            if most is not None and size > most:
                return None
            if size * column_size > (1 << 60):
                return None
        kind = smallest_code_type(size * column_size)
        ids = ids.astype(kind, copy=False) * kind.type(column_size)
        np.add(ids, column, out=ids, casting="unsafe")  # codes of a wider type: their values fit all the same
        size *= column_size
        pending.append(column_size)
    combined = _settle(ids, size, settled, pending, tally=tally)
    return None if most is not None and len(combined.codes) > most else combined


def numbered(rows: NDArray[np.integer]) -> NDArray[np.unsignedinteger]:
    """A number for each of n rows of k >= 1 codes, none negative: alike where they are, in lexicographic order."""
    if not len(rows):
        return np.zeros(0, dtype=np.uint8)
    columns = [rows[:, at] for at in range(rows.shape[1])]
    combined = combine(columns, [int(column.max()) + 1 for column in columns], tally=False)
    assert combined is not None  # fewer than 2 ** 30 rows: no two columns have more combinations than fit
    return combined.ids


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


def _settle(ids: NDArray[Any], size: int, settled: NDArray[np.int64], pending: list[int], *, tally: bool) -> Combined:
    """Renumber the combinations that occur from 0, in order."""
    if size <= dense_for(len(ids)):
        counts = counted(ids, size) if tally else occurring(ids, size).astype(np.float64)
        present = np.flatnonzero(counts)
        counts = counts[present]
        kind = smallest_code_type(len(present))
        if len(present) == size:
            compact = ids.astype(kind, copy=False)
        else:
            renumbered = np.zeros(size, dtype=kind)
            renumbered[present] = np.arange(len(present), dtype=kind)
            compact = take_at(renumbered, ids)
    else:
        found, compact, counts = _sorted_out(ids, size)
        present = found.astype(np.int64)
    codes = codes_of(present, [len(settled), *pending])
    return Combined(compact, np.hstack([settled[codes[:, 0]], codes[:, 1:]]), counts)


def _sorted_out(ids: NDArray[Any], size: int) -> tuple[NDArray[np.integer], NDArray[Any], Figures]:
    """The different ids below `size`, ascending (m), which of them each record has (n), and how often each occurs (m).

    Where an id and the number of its record fit into 64 bits, both are sorted as one number: that takes about a third
    of the time of `numpy.unique`, which sorts record numbers by what they point at.
    """
    records = len(ids)
    bits = max(records - 1, 1).bit_length()
    if size << bits > 1 << 64:
        present, inverse, whole = np.unique(ids, return_inverse=True, return_counts=True)
        return present, inverse.astype(smallest_code_type(len(present))), whole.astype(np.float64)
    both = ids.astype(np.uint64)
    both <<= np.uint64(bits)
    both |= np.arange(records, dtype=np.uint64)
    both.sort()
    rows = (both & np.uint64((1 << bits) - 1)).astype(np.intp)
    both >>= np.uint64(bits)
    first = np.ones(records, dtype=np.bool_)
    np.not_equal(both[1:], both[:-1], out=first[1:])
    starts = np.flatnonzero(first)
    kind = smallest_code_type(len(starts))
    compact = np.empty(records, dtype=kind)
    compact[rows] = np.cumsum(first) - 1
    return both[starts], compact, np.diff(starts, append=records).astype(np.float64)
