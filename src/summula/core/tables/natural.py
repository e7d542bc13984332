"""Natural order of text: case and accents folded, digits read as numbers."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import polars as pl

_DIGITS = re.compile(r"(\d+)")
_MANY = 5_000  # texts; fewer are sorted one by one in less time
_RUNS = 4  # of digits in a text, at most, for it to be sorted by its parts
_LONGEST = 18  # digits of a number that 64 bits hold
_PLAIN = rf"^(0|[1-9][0-9]{{0,{_LONGEST - 1}}})$"
_PARTS = "^" + r"(\D*)([0-9]*)" * _RUNS + r"(\D*)$"


def natural_key(text: str) -> tuple[tuple[tuple[int, int, str], ...], str]:
    """A sort key: "Pier 2" before "Pier 10", "Émil" beside "Emil". The text itself breaks ties."""
    parts = _DIGITS.split(folded(text))
    # Every second part is digits; a number sorts before text in the same place.
    key = tuple((0, int(part), "") if at % 2 else (1, 0, part) for at, part in enumerate(parts) if part or at % 2)
    return key, text


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
        return _one_by_one(texts)
    if texts.str.contains(_PLAIN).all():
        return texts.cast(pl.Int64).arg_sort()
    lowered = texts.str.to_lowercase()
    strange = (texts.str.len_bytes() != texts.str.len_chars()).arg_true()
    if len(strange):
        lowered = lowered.scatter(strange, [folded(text) for text in texts.gather(strange).to_list()])
    parts = lowered.str.extract_groups(_PARTS).struct.unnest()
    if parts.to_series().null_count():  # more digits, or those of other scripts
        return _one_by_one(texts)
    keys: list[pl.Series] = []
    for at, part in enumerate(parts):
        if at % 2 == 0:
            keys.append(part)
        elif not (part.str.len_bytes() > _LONGEST).any():
            keys.append(part.cast(pl.Int64, strict=False).fill_null(-1))  # no number at all stands before nought
        else:
            return _one_by_one(texts)
    telling = [key.alias(f"{at}") for at, key in enumerate(keys) if key.n_unique() > 1]
    if len(telling) == 1 and telling[0].n_unique() == len(texts):  # the text itself need not break ties
        return telling[0].arg_sort()
    order = pl.DataFrame([*telling, texts.alias("text")])
    return order.select(pl.arg_sort_by(order.columns)).to_series()


def _one_by_one(texts: pl.Series) -> pl.Series:
    import polars as pl

    keys = [natural_key(text) for text in texts.to_list()]
    return pl.Series(sorted(range(len(keys)), key=keys.__getitem__), dtype=pl.UInt32)
