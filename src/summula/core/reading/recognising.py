"""Texts told by their bytes: where the values of a plain block stand, and which of the known texts each one is.

After its first rows most of a file repeats itself. A value is then compared, eight letters at a time, with the texts
that are known; no text is made.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from functools import cache
from typing import Any

import msgspec
import numpy as np
import polars as pl
from numpy.typing import NDArray

from summula.core.tables.column import smallest_code_type

Words = NDArray[np.uint64]  # eight letters each, the first in the lowest byte; 0 beyond a text's end
Places = NDArray[np.signedinteger]

_NEWLINE, _RETURN, _SPACE = 10, 13, 32
_BEFORE, _AFTER = 16, 40  # bytes of room around a block, so that words may be read past its edges
MOST_LETTERS = 32  # bytes; texts that are longer are not told here
MOST_KNOWN = 60_000  # texts; comparing with more of them takes longer than parsing
_NONE = np.zeros(0, dtype=np.intp)
_ROOM = 16  # places a text in a table: few texts share one
_TABLES = 6
_STRETCH = 1 << 18  # flags
# What to keep of each word of a text that has so many letters.
_KEEP = [
    np.array([(1 << 8 * min(max(n - 8 * at, 0), 8)) - 1 for n in range(MOST_LETTERS + 1)], dtype=np.uint64)
    for at in range(MOST_LETTERS // 8)
]


class Laid(msgspec.Struct, frozen=True, eq=False):
    """A block's bytes with room around them, and where the values of each field begin and end in it: a line a field,
    a place a row."""

    letters: NDArray[np.uint8]
    starts: Places
    ends: Places
    lengths: Places
    shortest: list[int]
    longest: list[int]

    @classmethod
    def of(cls, letters: NDArray[np.uint8], starts: Places, ends: Places) -> Laid:
        lengths = ends - starts
        return cls(letters, starts, ends, lengths, lengths.min(axis=1).tolist(), lengths.max(axis=1).tolist())

    @property
    def rows(self) -> int:
        return int(self.starts.shape[1])

    def word(self, places: Places) -> Words:
        """The eight letters from each place on."""
        every = np.ndarray((len(self.letters) - 7,), "<u8", self.letters, 0, (1,))
        found: Words = every[places]
        return found

    def words(self, field: int, count: int) -> tuple[list[Words], NDArray[np.intp]]:
        """The first 8 · `count` letters of a field's values, and the rows whose value is longer than that."""
        lengths, shortest, longest = self.lengths[field], self.shortest[field], self.longest[field]
        every = np.ndarray((len(self.letters) - 8 * count + 1,), f"V{8 * count}", self.letters, 0, (1,))
        taken = every[self.starts[field]].view("<u8").reshape(-1, count)
        found = []
        for at in range(count):
            if shortest >= 8 * at + 8:
                found.append(taken[:, at])
            elif shortest == longest:
                found.append(taken[:, at] & _KEEP[at][shortest])
            else:
                found.append(taken[:, at] & _KEEP[at].take(lengths, mode="clip"))
        return found, np.flatnonzero(lengths > 8 * count) if longest > 8 * count else _NONE

    def texts(self, field: int, rows: NDArray[np.intp]) -> list[str]:
        """The values of some rows as they stand there. Letters that are no UTF-8 are a UnicodeDecodeError."""
        if len(rows) == 0:
            return []
        starts, ends = self.starts[field][rows], self.ends[field][rows]
        first = starts[0]
        whole = self.letters[first : ends[-1]].tobytes()
        bounds = zip((starts - first).tolist(), (ends - first).tolist(), strict=True)
        return [whole[start:end].decode("utf-8") for start, end in bounds]


class Lines(msgspec.Struct, frozen=True, eq=False):
    """Lines as they were read: what a piece of the file left over, and the next piece up to `end`; put together only
    where that is asked for."""

    left: bytes
    piece: bytes
    end: int
    quoted: bool  # whether there is a quotation mark among them, perhaps beyond the end

    @classmethod
    def of(cls, text: bytes) -> Lines:
        return cls(b"", text, len(text), b'"' in text)

    @property
    def text(self) -> bytes:
        if not self.left and self.end == len(self.piece):
            return self.piece
        return b"".join((self.left, memoryview(self.piece)[: self.end]))

    def __len__(self) -> int:
        return len(self.left) + self.end

    def may_hold(self, letter: bytes) -> bool:
        """Whether a letter may be among them; beyond the end is looked, too, which is quicker than to cut."""
        return letter in self.piece or letter in self.left


def laid_out(lines: Lines, delimiter: str, width: int) -> Laid | None:
    """Where the values of a block stand; None where quotation marks, gaps or ragged rows need a closer look. It holds
    until this thread lays out the next block."""
    if not lines.end or lines.piece[lines.end - 1] != _NEWLINE or lines.quoted:
        return None
    size = len(lines) + _BEFORE + _AFTER
    letters = _desk(size)[:size]
    letters[:_BEFORE], letters[-_AFTER:] = 0, 0
    middle = _BEFORE + len(lines.left)
    letters[_BEFORE:middle] = np.frombuffer(lines.left, np.uint8)
    letters[middle:-_AFTER] = np.frombuffer(lines.piece, np.uint8, lines.end)
    looked_at = pl.Series(letters)
    line_ends = looked_at == _NEWLINE
    rows = int(line_ends.sum())
    # Where the line ends are the only signs of their sort there is no return, and no zero but those around.
    all_told = int((looked_at <= _RETURN).sum()) == rows + _BEFORE + _AFTER
    if not all_told and lines.may_hold(b"\0"):
        return None
    places = _places_of(line_ends | (looked_at == ord(delimiter)))
    if len(places) != rows * width:
        return None
    ends = np.ascontiguousarray(places.reshape(rows, width).T)
    last = ends[-1]
    if not (letters[last] == _NEWLINE).all():
        return None
    starts = np.empty_like(ends)
    starts[0, 0] = _BEFORE
    np.add(last[:-1], 1, out=starts[0, 1:])
    np.add(ends[:-1], 1, out=starts[1:])
    if not all_told and lines.may_hold(b"\r") and (returns := int(np.count_nonzero(letters == _RETURN))):
        if returns != rows or not (letters[last - 1] == _RETURN).all():
            return None
        last -= 1
    if _has_gaps(letters, starts[0], last, ord(delimiter)):
        return None
    return Laid.of(letters, starts, ends)


def _has_gaps(letters: NDArray[np.uint8], starts: NDArray[np.int32], ends: NDArray[np.int32], delimiter: int) -> bool:
    """Whether a row may hold nothing but spaces and delimiters: it would be a gap, not a row."""
    at = starts
    while len(at):  # most rows are left at their first letter
        looked = letters[at]
        nothing = (looked <= _SPACE) | (looked == delimiter)
        at, ends = at[nothing] + 1, ends[nothing]
        if (at > ends).any():
            return True
    return False


def _places_of(chosen: pl.Series) -> NDArray[np.int32]:
    """Where a series of flags is true: four times as quick as numpy's own, some thousand flags at a time, so that
    what they are taken from stays near the processor."""
    places = np.empty(int(chosen.sum()), np.int32)
    at = 0
    for start in range(0, len(chosen), _STRETCH):
        flags = chosen.slice(start, _STRETCH)
        found = _counted().head(len(flags)).filter(flags).to_numpy()
        np.add(found, np.int32(start), out=places[at : at + len(found)])
        at += len(found)
    return places


@cache
def _counted() -> pl.Series:
    return pl.Series(np.arange(_STRETCH, dtype=np.int32))


_kept = threading.local()


def _desk(size: int) -> NDArray[np.uint8]:
    """Room to lay out a block, kept for each thread: to be given memory takes longer than to fill it."""
    desk: NDArray[np.uint8] | None = getattr(_kept, "desk", None)
    if desk is None or len(desk) < size:
        desk = _kept.desk = np.empty(size, np.uint8)
    return desk


class Known(msgspec.Struct, frozen=True, eq=False):
    """Texts by which values are told. `words` are theirs, an array a word, with an empty text first: a blank.

    Each table has a text's number at the place that its words come to under the table's multipliers (of `told_by`
    alone, the words in which all texts differ). Where several texts come to the same place the next tables hold those
    that found it taken.
    """

    words: list[Words]
    told_by: list[int]
    tables: list[tuple[list[np.uint64], np.uint64, NDArray[Any]]]

    @property
    def size(self) -> int:
        """How many texts are told, beside the empty one."""
        return len(self.words[0]) - 1

    @classmethod
    def of(cls, texts: Sequence[str]) -> Known | None:
        """What tells these texts, which differ from each other; None where they are too many, or too long."""
        encoded = [text.encode("utf-8") for text in texts]
        longest = max(map(len, encoded), default=0)
        if longest > MOST_LETTERS or len(encoded) > MOST_KNOWN or b"" in encoded:
            return None
        if b"\0" in b"".join(encoded):  # it could not be told from the end of a shorter one
            return None
        count = max(-(-longest // 8), 1)
        padded = b"\0" * 8 * count + b"".join(text.ljust(8 * count, b"\0") for text in encoded)
        matrix = np.frombuffer(padded, "<u8").reshape(len(encoded) + 1, count)
        words = [np.ascontiguousarray(matrix[:, at]) for at in range(count)]
        alone = [at for at, word in enumerate(words) if len(np.unique(word)) == len(word)]
        told_by = alone[:1] or list(range(count))
        kind = smallest_code_type(len(encoded))
        tables: list[tuple[list[np.uint64], np.uint64, NDArray[Any]]] = []
        chance = np.random.default_rng(7)
        left = np.arange(len(encoded) + 1)
        while len(left):
            if len(tables) == _TABLES:
                return None
            bits = max(8, int(_ROOM * len(left)).bit_length())
            multipliers = [
                np.uint64(each | 1) for each in chance.integers(1 << 62, 1 << 63, len(told_by), dtype=np.uint64)
            ]
            shift = np.uint64(64 - bits)
            places = _places([words[at][left] for at in told_by], multipliers, shift)
            table = np.zeros(1 << bits, dtype=kind)
            table[places[::-1]] = left[::-1]  # the first of those that share a place has it
            tables.append((multipliers, shift, table))
            left = left[table[places] != left]
        return cls(words, told_by, tables)

    def codes(self, laid: Laid, field: int) -> tuple[NDArray[Any], NDArray[np.intp]]:
        """The number of each row's text, from 1 on (0 is a blank), and the rows whose text is none of them."""
        words, long = laid.words(field, len(self.words))
        found = self._told(words, 0)
        other = np.flatnonzero(self._differ(words, found))
        for table in range(1, len(self.tables)):
            if len(other) == 0:
                break
            of_other = [word[other] for word in words]
            found[other] = again = self._told(of_other, table)
            other = other[self._differ(of_other, again)]
        return found, np.union1d(other, long) if len(long) else other

    def _told(self, words: list[Words], table: int) -> NDArray[Any]:
        multipliers, shift, known = self.tables[table]
        return known.take(_places([words[at] for at in self.told_by], multipliers, shift), mode="clip")

    def _differ(self, words: list[Words], codes: NDArray[Any]) -> NDArray[np.bool_]:
        differ: NDArray[np.bool_] = self.words[0].take(codes, mode="clip") != words[0]
        for known, word in zip(self.words[1:], words[1:], strict=True):
            differ |= known.take(codes, mode="clip") != word
        return differ


def _places(words: list[Words], multipliers: list[np.uint64], shift: np.uint64) -> NDArray[np.intp]:
    """Where texts come to in a table: multiply-shift hashing (Dietzfelbinger and others, 1997)."""
    mixed = words[0] * multipliers[0]
    for word, multiplier in zip(words[1:], multipliers[1:], strict=True):
        mixed += word * multiplier
    mixed >>= shift
    return mixed.view(np.intp)
