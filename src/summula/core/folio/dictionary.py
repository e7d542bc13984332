"""Descriptions of fields from a data dictionary: a file that names each field and says what it means."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.refusal import Refusal
from summula.core.tables.texts import texts_of

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.folio.model import TableEntry


def described_by(entry: TableEntry, path: Path) -> tuple[TableEntry, str]:
    """The entry with the descriptions in the file, and a sentence that tells what was found.

    The column that holds most of the entry's field names tells them; of the others the one with the longest texts
    tells what they mean.
    """
    from summula.core.reading.sandboxed import read_table

    table = read_table(path)
    if len(table.fields) < 2:
        raise Refusal(f"'{path.name}' has one column", "a data dictionary has two: the field and what it means")
    # Where there is no row of heads, what was taken for it is a pair as well.
    columns = [
        [field.name, *(text or "" for text in texts_of(field.name, column).to_list())]
        for field, column in zip(table.fields, table.columns, strict=True)
    ]
    wanted = {_plain(field.name) for field in entry.fields}
    named = max(range(len(columns)), key=lambda at: len(wanted.intersection(map(_plain, columns[at]))))
    meaning = max((at for at in range(len(columns)) if at != named), key=lambda at: sum(map(len, columns[at])))
    meant = {_plain(name): " ".join(text.split()) for name, text in zip(columns[named], columns[meaning], strict=True)}
    found = 0
    fields = []
    for field in entry.fields:
        text = meant.get(_plain(field.name), "")
        found += bool(text)
        fields.append(replace(field, description=text) if text else field)
    if not found:
        raise Refusal(f"'{path.name}' describes none of the fields", "one of its columns should hold their names")
    notice = f"{found} of {len(entry.fields)} fields are described now"
    return replace(entry, fields=tuple(fields)), (
        f"{notice}, by the column '{table.fields[meaning].name}'" if len(columns) > 2 else notice
    )


def _plain(name: str) -> str:
    return " ".join(name.split()).casefold()
