"""Reading a table's source again: what is taken over, and what is told."""

from __future__ import annotations

from pathlib import Path

import msgspec

from summula.core.folio.model import TableEntry
from summula.core.refusal import Refusal
from summula.core.tables.table import Table


def source_of(entry: TableEntry, folio_path: Path | None) -> Path:
    """Where the table came from: where it was, or beside the folio that has moved with it."""
    if not entry.source:
        raise Refusal(f"'{entry.name}' did not come from a file", "open the file it should be read from")
    was = Path(entry.source)
    beside = folio_path.parent / was.name if folio_path is not None else was
    return was if was.exists() or not beside.exists() else beside


def read_again(entry: TableEntry, source: Path) -> Table:
    """The source read with the kinds its fields have; what does not fit them any more is kept as refused."""
    from summula.core.reading.readers import read_table

    return read_table(source, kinds={field.name: field.kind for field in entry.fields})


def refreshed(entry: TableEntry, table: Table, read_at: str) -> TableEntry:
    """The entry for a new reading: fields keep what was said of them."""
    said = {field.name: field for field in entry.fields}
    fields = tuple(
        msgspec.structs.replace(said[field.name], kind=field.kind) if field.name in said else field
        for field in table.fields
    )
    return msgspec.structs.replace(
        entry, fields=fields, rows=table.rows, read_at=read_at, source=table.source, reading=entry.reading + 1
    )


def told(before: TableEntry, after: TableEntry) -> str:
    """What a new reading changed, in one sentence."""
    old, new = [field.name for field in before.fields], [field.name for field in after.fields]
    gained = after.rows - before.rows
    parts = [f"{gained:+,} rows" if gained else "as many rows as before"]
    added, missing = [name for name in new if name not in old], [name for name in old if name not in new]
    if added:
        parts.append("new: " + ", ".join(added[:4]))
    if missing:
        parts.append("missing: " + ", ".join(missing[:4]))
    return f"{after.name} was read again: {' · '.join(parts)}"
