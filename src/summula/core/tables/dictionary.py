"""Text that repeats itself is read once a distinct value: sensed and encoded there, then spread over the rows."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Any

import polars as pl
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.tables.column import (
    EPOCH,
    CodedColumn,
    Column,
    DateColumn,
    NumberColumn,
    Refused,
    smallest_code_type,
    take_at,
    tallied,
)
from summula.core.tables.encoding import clean_text, encode, reading_for
from summula.core.tables.field import Kind, Sensed
from summula.core.tables.script import told_of_unseen
from summula.core.tables.sensing import ISO_WHY, SENSE_ALL, Signs, sense

if TYPE_CHECKING:
    from numpy.typing import NDArray

_FEW_ROWS = 4_000  # below these there is nothing to gain
_MOST_DAYS = 40_000  # more than a century
_REPEATS = 3  # rows a distinct value, at least


def encode_repeating(
    name: str, texts: pl.Series, kind: Kind | None, signs: Signs = SENSE_ALL
) -> tuple[Column, Sensed] | None:
    """The column of a text series and how it was sensed; None where its values hardly repeat."""
    if len(texts) < _FEW_ROWS:
        return None
    gaps = texts.null_count() > 0
    distinct = (texts.drop_nulls() if gaps else texts).unique()
    if len(distinct) == 0 or len(distinct) * _REPEATS > len(texts):
        return None
    places = texts.cast(pl.Enum(distinct)).to_physical()
    codes = (places.cast(pl.UInt32) + 1).fill_null(0) if gaps else places
    held: NDArray[Any] = codes.to_numpy().astype(smallest_code_type(len(distinct)), copy=False)
    return encode_distinct(name, distinct, held if gaps else held + held.dtype.type(1), kind, signs)


def encode_distinct(
    name: str, distinct: pl.Series, codes: NDArray[Any], kind: Kind | None, signs: Signs = SENSE_ALL
) -> tuple[Column, Sensed]:
    """The column of `codes` (from 1 into `distinct`; 0 is a blank), and how it was sensed."""
    days = _plain_days(distinct) if kind in (None, "date") else None
    if days is not None:
        return _spread(DateColumn(days), codes), Sensed("date", "iso", ISO_WHY)
    repeating = len(distinct) * _REPEATS <= len(codes)
    values = clean_text(distinct)
    tally: NDArray[np.int64] | None = None

    def counts() -> NDArray[np.int64]:
        nonlocal tally
        if tally is None:
            tally = tallied(codes, len(distinct) + 1)[1:]
        return tally

    if kind is not None:
        sensed = reading_for(kind, name, values, signs, counts)
    else:
        # Values that hardly repeat are sensed in the order of their rows, which tells a running number.
        sensed = sense(name, values, counts, signs, repeating=repeating, gaps=not bool(codes.all()))
    column = encode(values, sensed, markers=signs.markers)
    spread = _spread(column, codes)
    if sensed.reading == "marked" and isinstance(spread, CodedColumn):
        spread = replace(spread, codes=np.where(spread.codes == len(spread.members), 0, spread.codes).astype(np.uint8))
    return spread, told_of_unseen(sensed, distinct)


def _plain_days(distinct: pl.Series) -> NDArray[np.int32] | None:
    """The days that texts stand for, where every one is plainly written as 2024-05-31; sensing would come to the same,
    in many more steps."""
    texts = distinct.head(max(_MOST_DAYS + 1, 0)).to_list()
    if not 0 < len(texts) <= _MOST_DAYS or not all(len(text) == 10 and text[4] == "-" == text[7] for text in texts):
        return None
    try:
        return np.array([date.fromisoformat(text).toordinal() - EPOCH for text in texts], dtype=np.int32)
    except ValueError:
        return None


def _spread(column: Column, codes: NDArray[Any]) -> Column:
    """A column of distinct values as a column of rows; the code 0 is a blank."""
    refused = _refused_rows(column.refused, codes)
    if isinstance(column, CodedColumn):
        blank = np.array([len(column.members)], dtype=smallest_code_type(len(column.members)))
        return CodedColumn(take_at(np.concatenate([blank, column.codes]), codes), column.members, refused)
    known = None
    if column.blank is not None or not codes.all():
        lacking = np.zeros(column.rows, dtype=np.bool_) if column.blank is None else column.blank
        blanks = take_at(np.append(True, lacking), codes)
        known = blanks if blanks.any() else None
    if isinstance(column, NumberColumn):
        values = take_at(np.append(0.0, column.values), codes)
        return NumberColumn(values, column.decimals, known, refused, column.per)
    seconds = None if column.seconds is None else take_at(np.append(np.int32(0), column.seconds), codes)
    return DateColumn(take_at(np.append(np.int32(0), column.days), codes), known, seconds, refused)


def _refused_rows(refused: tuple[Refused, ...], codes: NDArray[Any]) -> tuple[Refused, ...]:
    found = [replace(each, row=int(row)) for each in refused for row in np.flatnonzero(codes == each.row + 1)]
    return tuple(sorted(found, key=lambda each: each.row))
