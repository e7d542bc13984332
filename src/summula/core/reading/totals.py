"""Recognising a last row that adds up the others."""

from __future__ import annotations

import re

import numpy as np

from summula.core.tables.column import CodedColumn, NumberColumn
from summula.core.tables.table import Table

_WORD = re.compile(
    r"^\W*(grand |sub)?(totals?|totale|totaal|sum|summe|gesamt|insgesamt|somme|suma|overall)\b", re.IGNORECASE
)
_LEAST_ROWS = 3
_CHANCE = 8


def totals_row(table: Table) -> str:
    """Why the last row is a totals row: by its name, or since its numbers are the sums of all above; else empty."""
    if table.rows < _LEAST_ROWS:
        return ""
    for column in table.columns:
        if isinstance(column, CodedColumn):
            code = int(column.codes[-1])
            if code < len(column.members):
                name = column.members[code]
                if _WORD.match(name) and int(np.count_nonzero(column.codes == code)) == 1:
                    return f"the last row is called “{name}”"
                break
    numbers = [column for column in table.columns if isinstance(column, NumberColumn)]
    sums = 0
    for column in numbers:
        if column.blank is not None and column.blank[-1]:
            continue
        above = column.values[:-1].sum()
        if above == 0 or not np.isclose(column.values[-1], above, rtol=1e-9):
            return ""
        sums += 1
    # One small field could add up by chance (1, 2, 3).
    return "its numbers are the sums of all rows above" if sums > 1 or (sums and table.rows >= _CHANCE) else ""
