"""Which reader takes which file, and the way from series to a table.

To add a reader: a module with a function `(path, ReadAs) -> pl.DataFrame`, and a line in `_READERS`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import polars as pl

from summula.core.refusal import Refusal
from summula.core.tables.column import Column
from summula.core.tables.delimited import read_delimited
from summula.core.tables.dictionary import encode_repeating
from summula.core.tables.encoding import clean_text, encode, reading_for, sense_series
from summula.core.tables.field import KINDS, Field, Kind
from summula.core.tables.sensing import FIT, Sensed
from summula.core.tables.table import Table
from summula.core.tables.workbook import read_workbook


@dataclass(frozen=True, slots=True)
class ReadAs:
    """What a person has said about how to read a file; everything else is sensed.

    `kinds` must name fields of the file; `usual` are kinds that fields had before, where they are still there.
    """

    sheet: str | None = None
    kinds: dict[str, Kind] = field(default_factory=dict)
    usual: dict[str, Kind] = field(default_factory=dict)


_READERS: dict[str, Callable[[Path, str | None], pl.DataFrame]] = {
    ".csv": lambda path, _: read_delimited(path),
    ".tsv": lambda path, _: read_delimited(path),
    ".tab": lambda path, _: read_delimited(path),
    ".txt": lambda path, _: read_delimited(path),
    ".xlsx": read_workbook,
}
READABLE = tuple(_READERS)


def read_table(path: Path, read_as: ReadAs | None = None) -> Table:
    """The table in a file. Refuses, in one sentence, what cannot be read."""
    read_as = read_as or ReadAs()
    if not path.exists():
        raise Refusal(f"there is no file '{path}'", "check the name and the folder")
    if path.is_dir():
        raise Refusal(f"'{path}' is a folder", "choose a file in it")
    reader = _READERS.get(path.suffix.lower())
    if reader is None:
        known = ", ".join(READABLE)
        raise Refusal(f"'{path.name}' is not a kind of file that can be read", f"choose one of {known}")
    try:
        frame = reader(path, read_as.sheet)
    except PermissionError:
        raise Refusal(f"'{path}' may not be read", "ask for permission to read it") from None
    except OSError as fault:
        raise Refusal(
            f"'{path}' could not be read ({fault.strerror or fault})", "try again, or copy it first"
        ) from None
    usual = {name: kind for name, kind in read_as.usual.items() if name in frame.columns}
    return table_from_frame(path.stem, frame, {**usual, **read_as.kinds}, source=str(path))


def table_from_frame(
    name: str, frame: pl.DataFrame, kinds: dict[str, Kind] | None = None, *, source: str = ""
) -> Table:
    """Sense and encode every series of a frame; `kinds` overrides sensing for the fields it names."""
    kinds = kinds or {}
    for each, kind in kinds.items():
        if each not in frame.columns:
            raise Refusal(f"no field '{each}' to make a {kind}", "the fields are " + ", ".join(frame.columns[:12]))
        if kind not in KINDS:
            raise Refusal(f"'{kind}' is not a kind", "choose one of " + ", ".join(KINDS))
    fields: list[Field] = []
    columns = []
    for series in frame:
        column, sensed = _column(series, kinds.get(series.name))
        columns.append(column)
        fields.append(Field(series.name, sensed.kind))
    return Table(name, tuple(fields), tuple(columns), frame.height, source)


def _column(series: pl.Series, kind: Kind | None) -> tuple[Column, Sensed]:
    """A series sensed (or read as the kind that was said) and encoded."""
    if series.dtype == pl.String:
        found = encode_repeating(series.name, series, kind)
        if found is not None:
            return found
        series = clean_text(series)
    sensed = reading_for(kind, series.name, series) if kind is not None else sense_series(series.name, series)
    column = encode(series, sensed)
    # Only a part was looked at: where too much turns out not to fit after all, the field is what holds everything.
    if kind is None and len(column.refused) > (1 - FIT) * max(column.rows, 1):
        sensed = Sensed("category")
        column = encode(series, sensed)
    return column, sensed
