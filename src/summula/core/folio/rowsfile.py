"""The rows of a folio's sources: a Parquet of each in its file, and beside it what did not fit."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import msgspec
import polars as pl
from msgspec.structs import replace

from summula.core.decoding import decoded
from summula.core.folio.members import MOST_JSON, MOST_TABLE, member
from summula.core.folio.misfits import Misfits
from summula.core.reading.columnar import check_texts
from summula.core.reading.parquetsize import measured
from summula.core.refusal import Refusal
from summula.core.tables.column import Refused
from summula.core.tables.encoding import encode
from summula.core.tables.field import Sensed
from summula.core.tables.table import Ragged, Table

if TYPE_CHECKING:
    import zipfile

    from summula.core.folio.model import Source


def read_rows(archive: zipfile.ZipFile, called: str, source: Source, name: str) -> Table:
    """The rows of a source of the table `called`, in the folio `name`. Raises Refusal for what is none."""
    what = f"the rows of '{called}' in '{name}'"
    try:
        info = archive.getinfo(f"tables/{source.id}.parquet")
    except KeyError:
        raise Refusal(f"'{name}' lacks the rows of '{called}'", "open an earlier copy") from None
    packed = member(archive, info, MOST_TABLE, what)
    claims = measured(packed, f"{called}.parquet")
    if source.rows and claims.rows != source.rows:
        raise Refusal(f"{what} are {claims.rows:,} and not {source.rows:,}", "open an earlier copy")
    misfits = _read_misfits(archive, source.id, name)
    try:
        frame = pl.read_parquet(io.BytesIO(packed))
        check_texts(frame, what)
        columns = []
        for field in source.fields:
            series = frame[field.name]
            reading = "typed" if series.dtype != pl.String else "iso" if field.kind == "date" else "point"
            column = encode(series, Sensed(field.kind, reading))
            lost = tuple(
                Refused(row, text) for row, text in misfits.refused.get(field.name, ()) if 0 <= row < frame.height
            )
            columns.append(replace(column, refused=lost) if lost else column)
        ragged = tuple(Ragged(*each) for each in misfits.ragged if 0 <= each[0] < max(frame.height, 1))
        return Table(called, source.fields, tuple(columns), frame.height, source.place, source.sensed, ragged)
    except (KeyboardInterrupt, SystemExit, Refusal):
        raise
    except BaseException as fault:  # a stranger's rows: whatever a library makes of them, its panics too
        notice = (str(fault).splitlines() or [type(fault).__name__])[0][:160]
        raise Refusal(f"{what} are damaged ({notice})", "open an earlier copy") from None


def _read_misfits(archive: zipfile.ZipFile, source_id: str, name: str) -> Misfits:
    try:
        info = archive.getinfo(f"tables/{source_id}.misfits.json")
    except KeyError:
        return Misfits({})
    raw = member(archive, info, MOST_JSON, f"what did not fit in '{name}'")
    try:
        return decoded(raw, Misfits)
    except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError) as fault:
        raise Refusal(f"'{name}' is damaged ({fault})", "open an earlier copy") from None


def no_rows(called: str, source: Source) -> Table:
    """A table that stands in for rows that could not be read."""
    empty = {"number": pl.Float64, "duration": pl.Duration, "date": pl.Date, "flag": pl.Boolean}
    columns = tuple(
        encode(pl.Series(field.name, [], dtype=empty.get(field.kind, pl.String)), Sensed(field.kind, "typed"))
        for field in source.fields
    )
    return Table(called, source.fields, columns, 0, source.place, source.sensed, ())
