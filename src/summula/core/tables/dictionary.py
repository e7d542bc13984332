"""Text that repeats itself is read once a distinct value: sensed and encoded there, then spread over the rows."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn, Refused, smallest_code_type
from summula.core.tables.encoding import clean_text, encode, reading_for
from summula.core.tables.field import Kind
from summula.core.tables.sensing import Sensed, sense

_FEW_ROWS = 4_000  # below these there is nothing to gain
_REPEATS = 3  # rows a distinct value, at least


def encode_repeating(name: str, texts: pl.Series, kind: Kind | None) -> tuple[Column, Sensed] | None:
    """The column of a text series and how it was sensed; None where its values hardly repeat."""
    if len(texts) < _FEW_ROWS:
        return None
    distinct = texts.drop_nulls().unique()
    if len(distinct) == 0 or len(distinct) * _REPEATS > len(texts):
        return None
    codes = texts.cast(pl.Enum(distinct)).to_physical().fill_null(len(distinct)).to_numpy()
    counts = np.bincount(codes, minlength=len(distinct) + 1)[: len(distinct)]
    values = clean_text(distinct)
    sensed = reading_for(kind, name, values) if kind is not None else sense(name, values, counts)
    return _spread(encode(values, sensed), codes), sensed


def _spread(column: Column, codes: NDArray[Any]) -> Column:
    """A column of distinct values as a column of rows; the code after the last value is a blank."""
    refused = _refused_rows(column.refused, codes)
    if isinstance(column, CodedColumn):
        blank = np.array([len(column.members)], dtype=smallest_code_type(len(column.members)))
        return CodedColumn(np.concatenate([column.codes, blank])[codes], column.members, refused)
    lacking = np.zeros(column.rows, dtype=np.bool_) if column.blank is None else column.blank
    blanks = np.append(lacking, True)[codes]
    known = blanks if blanks.any() else None
    if isinstance(column, NumberColumn):
        return NumberColumn(np.append(column.values, 0.0)[codes], column.decimals, known, refused)
    seconds = None if column.seconds is None else np.append(column.seconds, np.int32(0))[codes]
    return DateColumn(np.append(column.days, np.int32(0))[codes], known, seconds, refused)


def _refused_rows(refused: tuple[Refused, ...], codes: NDArray[Any]) -> tuple[Refused, ...]:
    found = [replace(each, row=int(row)) for each in refused for row in np.flatnonzero(codes == each.row)]
    return tuple(sorted(found, key=lambda each: each.row))
