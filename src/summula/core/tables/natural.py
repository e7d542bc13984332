"""Natural order of text: case and accents folded, digits read as numbers."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable

_DIGITS = re.compile(r"(\d+)")


def natural_key(text: str) -> tuple[tuple[tuple[int, int, str], ...], str]:
    """A sort key: "Pier 2" before "Pier 10", "Émil" beside "Emil". The text itself breaks ties."""
    folded = text.casefold()
    if not folded.isascii():
        decomposed = unicodedata.normalize("NFKD", folded)
        folded = "".join(letter for letter in decomposed if not unicodedata.combining(letter))
    parts = _DIGITS.split(folded)
    # Every second part is digits; a number sorts before text in the same place.
    key = tuple((0, int(part), "") if at % 2 else (1, 0, part) for at, part in enumerate(parts) if part or at % 2)
    return key, text


def natural_sorted(texts: Iterable[str]) -> list[str]:
    return sorted(texts, key=natural_key)
