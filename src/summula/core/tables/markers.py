"""What people write where there is nothing: "n/a", a dash, a question mark.

Where the other values of a field are all of one kind (numbers, dates, codes, flags), such a marker is a blank. In a
category it may be a value like any other, and stays.
"""

from __future__ import annotations

from collections.abc import Iterable

import polars as pl

MARKERS = frozenset(
    (
        *("na", "n/a", "n.a.", "n. a.", "#n/a", "nil", "null", "none", "nan", "not available"),
        *("-", "–", "—", "--", ".", "..", "...", "…", "?", "*"),
    )
)
_LONGEST = max(map(len, MARKERS))


def is_marker(text: str) -> bool:
    """Whether a text says that there is nothing."""
    return len(text) <= _LONGEST and text.strip().lower() in MARKERS


_MOST_TOLD = 4


def markers_in(texts: Iterable[str | None]) -> tuple[str, ...]:
    """Some of the markers among texts."""
    return tuple(sorted({text.strip() for text in texts if text is not None and is_marker(text)})[:_MOST_TOLD])


def without_markers(texts: pl.Series) -> pl.Series:
    """The texts with their markers blank; the same series where there are none."""
    marked = texts.str.to_lowercase().is_in(list(MARKERS))
    return texts.set(marked.fill_null(False), None) if bool(marked.any()) else texts
