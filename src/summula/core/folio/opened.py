"""A folio together with its tables, as it stands open."""

from __future__ import annotations

from dataclasses import dataclass

from summula.core.folio.model import Folio, TableEntry
from summula.core.tables.field import Field
from summula.core.tables.table import Table


@dataclass(frozen=True, eq=False)
class Opened:
    folio: Folio
    tables: dict[str, Table]


def entry_of(table_id: str, table: Table, read_at: str = "") -> TableEntry:
    """What the folio remembers of a table that has been read."""
    return TableEntry(table_id, table.name, table.fields, table.rows, table.source, read_at)


def with_fields(table: Table, fields: tuple[Field, ...]) -> Table:
    """The same rows under these fields: their kinds, patterns, descriptions."""
    if table.fields == fields:
        return table
    if [field.kind for field in fields] == [field.kind for field in table.fields]:
        return table.with_fields(fields)
    from summula.core.tables.rekind import with_kinds  # reading anew needs polars

    return with_kinds(table, fields)
