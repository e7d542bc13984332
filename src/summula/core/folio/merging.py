"""Cells that were merged downwards, filled down as a step of the preparation, which can be switched off."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.preparation.prepare import prepare
from summula.core.preparation.steps import AnyStep, FillBlanks
from summula.core.reading.sandboxed import read_table
from summula.core.tables.encoding import series_of

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.reading.readas import ReadAs, Setting
    from summula.core.tables.table import Table
    from summula.core.watch import Watch


def with_merged_as_steps(
    path: Path, read_as: ReadAs, table: Table, settings: tuple[Setting, ...], watch: Watch
) -> tuple[Table, ReadAs, tuple[AnyStep, ...]]:
    """A table whose merged cells were filled as it was read: read again with the cells as they stand, and steps that
    fill them; as it is where there are none, or where steps would fill other blanks too."""
    names = [name for each in settings if each.name == "merged" for name in each.fields if table.has(name)]
    if not names or not read_as.merged:
        return table, read_as, ()
    apart = replace(read_as, merged=False)
    bare = read_table(path, apart, watch=watch)
    steps: tuple[AnyStep, ...] = tuple(FillBlanks(name, above=True) for name in names if bare.has(name))
    filled = prepare(bare, steps, lambda name: bare).table
    alike = [field.name for field in filled.fields] == [field.name for field in table.fields] and all(
        series_of(name, filled.column(name)).equals(series_of(name, table.column(name))) for name in names
    )
    return (bare, apart, steps) if alike else (table, read_as, ())
