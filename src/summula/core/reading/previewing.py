"""A file before it is taken in: its first rows under given settings."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from summula.core.reading.delimited import preview_delimited, read_delimited
from summula.core.reading.naming import name_of
from summula.core.reading.readers import Reader, finish, reading
from summula.core.reading.workbook import preview_workbook, read_workbook
from summula.core.tables.rows import with_rows
from summula.core.watch import Watch, unwatched

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.reading.raw import Raw
    from summula.core.reading.readas import ReadAs, Setting
    from summula.core.tables.table import Table

PREVIEWED = 200


def preview(path: Path, read_as: ReadAs, watch: Watch = unwatched) -> tuple[Table, tuple[Setting, ...], bool]:
    """The first rows as a table, every setting as it was used or found, and whether these are all the rows.

    Of delimited text and sheets only the beginning is read; other files are read whole.
    """
    whole = True

    def read(reader: Reader, inner: Path) -> Raw:
        nonlocal whole
        if reader in (read_delimited, read_workbook):
            first = preview_delimited if reader is read_delimited else preview_workbook
            raw, whole = first(inner, read_as)
            return raw
        return reader(inner, read_as, {}, watch)

    raw = reading(path, read)
    table, settings = finish(name_of(path, read_as), raw, {}, read_as, str(path))
    if table.rows > PREVIEWED:
        return with_rows(table, np.arange(PREVIEWED)), settings, False
    return table, settings, whole
