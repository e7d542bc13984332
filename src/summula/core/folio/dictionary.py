"""Descriptions of fields from a data dictionary: a file of two columns, the field and what it means."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace

from summula.core.folio.model import TableEntry
from summula.core.refusal import Refusal
from summula.core.tables.texts import texts_of


def described_by(entry: TableEntry, path: Path) -> tuple[TableEntry, str]:
    """The entry with the descriptions in the file, and a sentence that tells what was found."""
    from summula.core.reading.readers import read_table

    table = read_table(path)
    if len(table.fields) < 2:
        raise Refusal(f"'{path.name}' has one column", "a data dictionary has two: the field and what it means")
    pairs = [texts_of(table.fields[at].name, table.columns[at]).to_list() for at in (0, 1)]
    # Where there is no row of heads, what was taken for it is a pair as well.
    meant = {table.fields[0].name.casefold(): table.fields[1].name}
    meant |= {" ".join(name.split()).casefold(): text for name, text in zip(*pairs, strict=True) if name and text}
    found = 0
    fields = []
    for field in entry.fields:
        text = meant.get(field.name.casefold())
        found += text is not None
        fields.append(field if text is None else replace(field, description=" ".join(text.split())))
    if not found:
        raise Refusal(f"'{path.name}' describes none of the fields", "its first column should hold their names")
    return replace(entry, fields=tuple(fields)), (f"{found} of {len(entry.fields)} fields are described now")
