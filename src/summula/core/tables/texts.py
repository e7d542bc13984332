"""The texts that a column came from, as near as they are kept: what another kind for its field is read from."""

from __future__ import annotations

import polars as pl

from summula.core.arrays import np
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn
from summula.core.tables.durations import SECONDS, written
from summula.core.tables.encoding import series_of


def texts_of(name: str, column: Column) -> pl.Series:
    """The column's values as text: refused ones as they were, numbers with their decimals, dates in ISO 8601,
    lengths of time in hours, minutes and seconds."""
    if isinstance(column, CodedColumn):
        texts = pl.Series([*column.members, None], dtype=pl.String).gather(column.codes.astype(np.uint32)).alias(name)
    elif isinstance(column, DateColumn) and column.seconds is not None:
        texts = series_of(name, column).dt.to_string("%Y-%m-%d %H:%M:%S")
    elif isinstance(column, NumberColumn) and column.per == SECONDS:
        texts = written(series_of(name, column))
    else:
        texts = series_of(name, column).cast(pl.String)
    if column.refused:
        rows = [each.row for each in column.refused]
        texts = texts.scatter(rows, [each.text for each in column.refused])
    return texts
