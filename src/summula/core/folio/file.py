"""The folio's file: a ZIP of one JSON and a Parquet a table. Described in docs/folio-format.md.

Saving writes a temporary file beside the target, syncs it and renames it over: a reader sees the old
folio or the new one, never half of one. Opening believes nothing: sizes are checked before unpacking,
names are looked up rather than extracted, and no code is ever run.
"""

from __future__ import annotations

import contextlib
import io
import os
import tempfile
import zipfile
from pathlib import Path
from typing import Any

import msgspec

from summula.core.folio.model import FORMAT, Folio, TableEntry
from summula.core.folio.opened import Opened
from summula.core.refusal import Refusal
from summula.core.tables.table import Table

_MOST_JSON = 64 * 1024**2
_MOST_TABLE = 16 * 1024**3


class _Envelope(msgspec.Struct, frozen=True):
    """What folio.json holds; `application` lets any program tell what the file is."""

    application: str
    format: int
    folio: Folio


def save_folio(path: Path, folio: Folio, tables: dict[str, Table]) -> None:
    """Write the folio whole, or leave what was there."""
    descriptor, name = -1, ""
    try:
        descriptor, name = tempfile.mkstemp(prefix=f".{path.stem}-", suffix=".part", dir=path.parent)
        with os.fdopen(descriptor, "wb") as stream:
            _write(stream, folio, tables)
            stream.flush()
            os.fsync(stream.fileno())
        Path(name).chmod(0o644)
        Path(name).replace(path)
        _sync_folder(path.parent)
    except OSError as fault:
        if name:
            with contextlib.suppress(OSError):
                Path(name).unlink()
        raise Refusal(
            f"'{path}' could not be saved ({fault.strerror or fault})",
            "choose another folder, or make room on the disk",
        ) from None


def _write(stream: Any, folio: Folio, tables: dict[str, Table]) -> None:
    import polars as pl  # rows are all that needs it

    from summula.core.tables.encoding import series_of

    envelope = _Envelope("Summula", FORMAT, folio)
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("folio.json", msgspec.json.format(msgspec.json.encode(envelope), indent=1))
        for entry in folio.tables:
            packed = io.BytesIO()
            table = tables[entry.id]
            pl.DataFrame(
                [series_of(f.name, c) for f, c in zip(table.fields, table.columns, strict=True)]
            ).write_parquet(packed)
            # Parquet is compressed already.
            archive.writestr(zipfile.ZipInfo(f"tables/{entry.id}.parquet"), packed.getvalue(), zipfile.ZIP_STORED)


def _sync_folder(folder: Path) -> None:
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)


def open_folio(path: Path) -> Opened:
    """The folio in a file; refuses a damaged, foreign or newer one in a sentence."""
    if not path.exists():
        raise Refusal(f"there is no file '{path}'", "check the name and the folder")
    try:
        with zipfile.ZipFile(path) as archive:
            folio = _read_json(archive, path.name)
            tables = {entry.id: _read_table(archive, entry, path.name) for entry in folio.tables}
    except zipfile.BadZipFile:
        raise Refusal(f"'{path.name}' is damaged or not a folio", "open an earlier copy of it") from None
    except (OSError, EOFError, ValueError, NotImplementedError, RuntimeError) as fault:
        reason = getattr(fault, "strerror", None) or type(fault).__name__
        raise Refusal(f"'{path.name}' could not be read ({reason})", "open an earlier copy of it") from None
    entries = tuple(msgspec.structs.replace(entry, rows=tables[entry.id].rows) for entry in folio.tables)
    return Opened(msgspec.structs.replace(folio, tables=entries), tables)


def _read_json(archive: zipfile.ZipFile, name: str) -> Folio:
    try:
        info = archive.getinfo("folio.json")
    except KeyError:
        raise Refusal(f"'{name}' is not a folio", "choose a .summula file") from None
    if info.file_size > _MOST_JSON:
        raise Refusal(f"'{name}' describes far more than a folio can hold", "it may be made to do harm")
    raw = archive.read(info)
    try:
        head = msgspec.json.decode(raw)
        version = head.get("format") if isinstance(head, dict) else None
        if not isinstance(head, dict) or head.get("application") != "Summula" or not isinstance(version, int):
            raise Refusal(f"'{name}' is not a folio", "choose a .summula file")
        if version > FORMAT:
            raise Refusal(f"'{name}' was made by a newer Summula (format {version})", "open it with that one")
        return msgspec.json.decode(raw, type=_Envelope).folio
    except msgspec.MsgspecError as fault:
        raise Refusal(f"'{name}' is damaged ({fault})", "open an earlier copy of it") from None


def _read_table(archive: zipfile.ZipFile, entry: TableEntry, name: str) -> Table:
    import polars as pl

    from summula.core.tables.encoding import encode
    from summula.core.tables.field import Sensed

    try:
        info = archive.getinfo(f"tables/{entry.id}.parquet")
    except KeyError:
        raise Refusal(f"'{name}' lacks the rows of '{entry.name}'", "open an earlier copy of it") from None
    if info.file_size > _MOST_TABLE or info.file_size > max(info.compress_size, 1) * 400:
        raise Refusal(f"the rows of '{entry.name}' in '{name}' are impossibly large", "it may be made to do harm")
    try:
        frame = pl.read_parquet(io.BytesIO(archive.read(info)))
        columns = []
        for field in entry.fields:
            series = frame[field.name]
            reading = "typed" if series.dtype != pl.String else "iso" if field.kind == "date" else "point"
            columns.append(encode(series, Sensed(field.kind, reading)))
    except pl.exceptions.PolarsError as fault:
        raise Refusal(
            f"the rows of '{entry.name}' in '{name}' are damaged ({str(fault).splitlines()[0]})",
            "open an earlier copy of it",
        ) from None
    return Table(entry.name, entry.fields, tuple(columns), frame.height, entry.source)


def json_schema() -> dict[str, Any]:
    """The JSON Schema of folio.json, generated from the structs."""
    return msgspec.json.schema(_Envelope)
