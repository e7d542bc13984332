"""A folio together with the rows of its sources, as it stands open."""

from __future__ import annotations

from typing import NamedTuple

import msgspec

from summula.core.folio.model import Folio, Source, TableEntry
from summula.core.folio.preparing import Preparing
from summula.core.reading.readas import ReadAs
from summula.core.tables.table import Table


class Problem(NamedTuple):
    """Something set aside, and the page that it belongs to ("" for the folio)."""

    page: str
    sentence: str


class Opened(msgspec.Struct, frozen=True, eq=False):
    """`tables` are the rows as they were read, by the id of their source. `problems` say what was set aside."""

    folio: Folio
    tables: dict[str, Table]
    problems: tuple[Problem, ...] = ()

    def prepared(self) -> dict[str, Table]:
        """Every table of the folio, its preparation done, by table id."""
        preparing = Preparing(lambda source: self.tables[source.id])
        return {entry.id: preparing.table(self.folio, entry.id) for entry in self.folio.tables}


def entry_of(table_id: str, table: Table, read_at: str = "", read_as: ReadAs | None = None) -> TableEntry:
    """What the folio remembers of a table that has been read."""
    source = source_of(table_id, table, read_at, read_as or ReadAs())
    return TableEntry(table_id, table.name, source, table.fields, table.rows)


def source_of(source_id: str, table: Table, read_at: str, read_as: ReadAs, reading: int = 0) -> Source:
    return Source(source_id, table.source, read_as, table.fields, table.sensed, table.rows, read_at, reading)
