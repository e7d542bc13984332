"""What did not fit the kinds and the width of a table, as a folio's file keeps it beside the rows."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec

if TYPE_CHECKING:
    from summula.core.tables.table import Table


class Misfits(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Beside the rows of a source: values that did not fit their field's kind, and ragged rows. Rows count from 0."""

    refused: dict[str, tuple[tuple[int, str], ...]]
    ragged: tuple[tuple[int, int, int, tuple[str, ...]], ...] = ()


def misfits_of(table: Table) -> Misfits:
    refused = {
        field.name: tuple((each.row, each.text) for each in column.refused)
        for field, column in zip(table.fields, table.columns, strict=True)
        if column.refused
    }
    return Misfits(refused, tuple((each.row, each.wanted, each.held, each.extra) for each in table.ragged))
