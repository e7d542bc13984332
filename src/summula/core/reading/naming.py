"""What a table is called by the file that it was read from, and the endings of files that can be read."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.reading.contents import ENDINGS

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.reading.readas import ReadAs

_PACKED = (".csv.gz", ".tsv.gz", ".txt.gz", ".tab.gz", ".psv.gz")
READABLE = (*ENDINGS, ".zip", *_PACKED)


def name_of(path: Path, read_as: ReadAs) -> str:
    """What the table is called: as the file, less its endings; a chosen sheet is added."""
    name = path.name
    for ending in sorted(READABLE, key=len, reverse=True):
        if name.lower().endswith(ending):
            name = name[: -len(ending)]
            break
    return f"{name} – {read_as.sheet}" if read_as.sheet else name
