"""Natural order of text: case and accents folded, digits read as numbers.

Each text has a key of bytes, and keys are compared byte by byte: a run of digits is told by how many there are, then by
themselves, and stands before all letters in its place.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from typing import TYPE_CHECKING

from summula.core.arrays import np

if TYPE_CHECKING:
    import polars as pl
    from numpy.typing import NDArray

_DIGITS = re.compile(r"\d+")
_MANY = 5_000  # texts; fewer are given their keys one by one in less time
_AT_ONCE = 50_000  # texts that are given their keys at once: of millions the halfway results would fill the memory
_TELLING = 1_000  # letters that have a say in the order; texts alike so far are ordered as they stand
_RUN = b"\x01"  # begins a number in a key
_MOST_DIGITS = 127  # whose count fits into one byte of UTF-8; longer numbers count as such
_LONGEST = 18  # digits of a number that 64 bits hold
_PLAIN = rf"^(0|[1-9][0-9]{{0,{_LONGEST - 1}}})$"


def natural_key(text: str) -> tuple[bytes, str]:
    """A sort key: "Pier 2" before "Pier 10", "Émil" beside "Emil". The text itself breaks ties."""
    return _key(text), text


def _key(text: str) -> bytes:
    return _DIGITS.sub(_counted, folded(text[:_TELLING])).encode("utf-8", "surrogatepass")


def _counted(run: re.Match[str]) -> str:
    digits = run[0] if run[0].isascii() else "".join(str(unicodedata.decimal(each)) for each in run[0])
    digits = digits.lstrip("0")
    return f"{_RUN.decode()}{chr(min(len(digits), _MOST_DIGITS))}{digits}"


def folded(text: str) -> str:
    """The text without case and accents."""
    small = text.casefold()
    if small.isascii():
        return small
    decomposed = unicodedata.normalize("NFKD", small)
    return "".join(letter for letter in decomposed if not unicodedata.combining(letter))


def natural_sorted(texts: Iterable[str]) -> list[str]:
    return sorted(texts, key=natural_key)


def natural_order(texts: pl.Series) -> pl.Series:
    """The places of texts, none of them blank, in natural order; of as many as a column may hold."""
    import polars as pl

    if len(texts) <= _MANY:
        keys = [natural_key(text) for text in texts.to_list()]
        return pl.Series(sorted(range(len(keys)), key=keys.__getitem__), dtype=pl.UInt32)
    if texts.str.contains(_PLAIN).all():
        return texts.cast(pl.Int64).arg_sort()
    strange = (texts.str.len_bytes() != texts.str.len_chars()) | texts.str.contains(rf"[0-9]{{{_MOST_DIGITS},}}")
    lowered = texts.str.slice(0, _TELLING).str.to_lowercase()
    lowered = lowered.set(strange, "")
    found: list[bytes] = []
    for start in range(0, len(lowered), _AT_ONCE):
        some = lowered.slice(start, _AT_ONCE)
        found += _ascii_keys("".join(some.to_list()).encode("ascii"), some.str.len_bytes().to_numpy())
    for at in strange.arg_true().to_list():
        found[at] = _key(texts[at])
    return pl.DataFrame({"key": pl.Series(found, dtype=pl.Binary), "text": texts}).select(
        pl.arg_sort_by("key", "text")
    ).to_series()  # fmt: skip


def _ascii_keys(letters: bytes, lengths: NDArray[np.unsignedinteger]) -> list[bytes]:
    """The keys of many texts at once: small letters one text after the other, and how many each has."""
    ends = np.cumsum(lengths, dtype=np.int64)
    starts = ends - lengths
    text = np.frombuffer(letters, np.uint8)
    digit = (text >= 48) & (text <= 57)
    begins = np.zeros(len(text) + 1, dtype=np.bool_)  # where a text begins
    begins[starts] = True
    first = digit & ~np.concatenate([[False], digit[:-1]]) | (digit & begins[:-1])
    # Noughts that lead a number: those with no other digit of the run before them.
    run = np.cumsum(first) * digit
    telling = digit & (text != 48)
    seen = np.maximum.accumulate(np.where(telling, run, 0))
    dropped = digit & (seen != run)
    counts = np.bincount(run[digit & ~dropped], minlength=int(run.max(initial=0)) + 1)
    room = (~dropped).astype(np.int64) + 2 * first
    after = np.cumsum(room)
    key = np.empty(int(after[-1]) if len(after) else 0, dtype=np.uint8)
    at = after - room
    key[at[first]] = 1
    key[at[first] + 1] = counts[run[first]]
    key[(after - 1)[~dropped]] = text[~dropped]
    whole = np.concatenate([[0], after])
    flat, low, high = key.tobytes(), whole[starts].tolist(), whole[ends].tolist()
    return [flat[a:b] for a, b in zip(low, high, strict=True)]
