"""A folio together with its tables, as it stands open."""

from __future__ import annotations

from dataclasses import dataclass

from summula.core.folio.model import Folio, TableEntry
from summula.core.tables.table import Table


@dataclass(frozen=True, eq=False)
class Opened:
    folio: Folio
    tables: dict[str, Table]


def entry_of(table_id: str, table: Table, read_at: str = "") -> TableEntry:
    """What the folio remembers of a table that has been read."""
    return TableEntry(table_id, table.name, table.fields, table.rows, table.source, read_at)


def with_fields(table: Table, entry: TableEntry) -> Table:
    """The table under the folio's present fields (names of patterns, descriptions): same rows."""
    return table if table.fields == entry.fields else table.with_fields(entry.fields)
