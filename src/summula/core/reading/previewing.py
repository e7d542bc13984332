"""A file before it is taken in: its first rows under given settings."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from summula.core.reading.delimited import preview_delimited, read_delimited
from summula.core.reading.readas import ReadAs, Setting, unwatched
from summula.core.reading.readers import finish, name_of, reading
from summula.core.tables.rows import with_rows
from summula.core.tables.table import Table

_ROWS = 200


def preview(path: Path, read_as: ReadAs) -> tuple[Table, tuple[Setting, ...], bool]:
    """The first rows as a table, every setting as it was used or found, and whether these are all the rows.

    Of delimited text only the beginning is read; other files are read whole, since their readers can do no less.
    """
    whole = True

    def read(reader: object) -> object:
        nonlocal whole
        if reader is read_delimited:
            whole = False
            return preview_delimited(path, read_as)
        return reader(path, read_as, {}, unwatched)  # type: ignore[operator]

    raw = reading(path, read)  # type: ignore[arg-type]
    table, settings = finish(name_of(path, read_as), raw, {}, read_as, str(path))
    if whole and table.rows > _ROWS:
        return with_rows(table, np.arange(_ROWS)), settings, False
    return table, settings, whole or table.rows < _ROWS - 1
