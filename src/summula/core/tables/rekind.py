"""Another kind for a field: its column read anew from the texts it came from, as near as they are kept."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import polars as pl

from summula.core.tables.column import CodedColumn, Column
from summula.core.tables.encoding import clean_text, encode, reading_for, series_of
from summula.core.tables.field import Field
from summula.core.tables.table import Table


def with_kinds(table: Table, fields: tuple[Field, ...]) -> Table:
    """The same rows under other fields. A column whose kind differs is encoded anew; values that do not fit the new
    kind are kept as refused, and fit again when the kind goes back."""
    columns = list(table.columns)
    for at, (old, new) in enumerate(zip(table.fields, fields, strict=True)):
        if old.kind != new.kind:
            texts = clean_text(texts_of(new.name, table.columns[at]))
            columns[at] = encode(texts, reading_for(new.kind, new.name, texts))
    return replace(table, fields=fields, columns=tuple(columns), memo={})


def texts_of(name: str, column: Column) -> pl.Series:
    """The column's values as text: refused ones as they were, numbers with their decimals, dates in ISO 8601."""
    if isinstance(column, CodedColumn):
        texts = pl.Series([*column.members, None], dtype=pl.String).gather(column.codes.astype(np.uint32)).alias(name)
    else:
        texts = series_of(name, column).cast(pl.String)
    if column.refused:
        rows = [each.row for each in column.refused]
        texts = texts.scatter(rows, [each.text for each in column.refused])
    return texts
