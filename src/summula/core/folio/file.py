"""The folio's file: a ZIP of one JSON and a Parquet a source. Described in docs/folio-format.md.

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
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec
from msgspec.structs import replace

from summula.core.folio.model import FORMAT, Folio, Source, TableEntry
from summula.core.folio.opened import Opened
from summula.core.refusal import Refusal
from summula.core.tables.column import Refused
from summula.core.tables.table import Ragged, Table

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
            _write(stream, _placed(folio, lambda place: _relative(place, path)), tables)
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


def _placed(folio: Folio, place: Callable[[str], str]) -> Folio:
    """The folio with the places of its sources told otherwise."""

    def told(source: Source) -> Source:
        return replace(source, place=place(source.place))

    entries = tuple(
        replace(entry, source=told(entry.source), appended=tuple(map(told, entry.appended))) for entry in folio.tables
    )
    return replace(folio, tables=entries)


def _relative(place: str, path: Path) -> str:
    """A place as the folio's file tells it: relative where it is beside the folio or below it."""
    folder = path.parent.resolve()
    within = place and Path(place).is_absolute() and Path(place).is_relative_to(folder)
    return str(Path(place).relative_to(folder)) if within else place


def _absolute(place: str, path: Path) -> str:
    return str(path.parent.resolve() / place) if place else place


def _write(stream: Any, folio: Folio, tables: dict[str, Table]) -> None:
    import polars as pl  # rows are all that needs it

    from summula.core.tables.encoding import series_of

    envelope = _Envelope("Summula", FORMAT, folio)
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("folio.json", msgspec.json.format(msgspec.json.encode(envelope), indent=1))
        for source in [each for entry in folio.tables for each in entry.sources()]:
            packed = io.BytesIO()
            table = tables[source.id]
            pl.DataFrame(
                [series_of(f.name, c) for f, c in zip(table.fields, table.columns, strict=True)]
            ).write_parquet(packed)
            # Parquet is compressed already.
            archive.writestr(zipfile.ZipInfo(f"tables/{source.id}.parquet"), packed.getvalue(), zipfile.ZIP_STORED)
            misfits = _misfits(table)
            if misfits.refused or misfits.ragged:
                archive.writestr(f"tables/{source.id}.misfits.json", msgspec.json.encode(misfits))


class Misfits(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Beside the rows of a source: values that did not fit their field's kind, and ragged rows. Rows count from 0."""

    refused: dict[str, tuple[tuple[int, str], ...]]
    ragged: tuple[tuple[int, int, int, tuple[str, ...]], ...] = ()


def _misfits(table: Table) -> Misfits:
    refused = {
        field.name: tuple((each.row, each.text) for each in column.refused)
        for field, column in zip(table.fields, table.columns, strict=True)
        if column.refused
    }
    return Misfits(refused, tuple((each.row, each.wanted, each.held, each.extra) for each in table.ragged))


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
            folio = _placed(_read_json(archive, path.name), lambda place: _absolute(place, path))
            tables = {
                source.id: _read_table(archive, entry, source, path.name)
                for entry in folio.tables
                for source in entry.sources()
            }
    except zipfile.BadZipFile:
        raise Refusal(f"'{path.name}' is damaged or not a folio", "open an earlier copy of it") from None
    except (OSError, EOFError, ValueError, NotImplementedError, RuntimeError) as fault:
        reason = getattr(fault, "strerror", None) or type(fault).__name__
        raise Refusal(f"'{path.name}' could not be read ({reason})", "open an earlier copy of it") from None
    return Opened(folio, tables)


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


def _read_table(archive: zipfile.ZipFile, entry: TableEntry, source: Source, name: str) -> Table:
    import polars as pl

    from summula.core.tables.encoding import encode
    from summula.core.tables.field import Sensed

    member = f"tables/{source.id}.parquet"
    try:
        info = archive.getinfo(member)
    except KeyError:
        raise Refusal(f"'{name}' lacks the rows of '{entry.name}'", "open an earlier copy of it") from None
    if info.file_size > _MOST_TABLE or info.file_size > max(info.compress_size, 1) * 400:
        raise Refusal(f"the rows of '{entry.name}' in '{name}' are impossibly large", "it may be made to do harm")
    misfits = _read_misfits(archive, source.id, name)
    try:
        frame = pl.read_parquet(io.BytesIO(archive.read(info)))
        columns = []
        for field in source.fields:
            series = frame[field.name]
            reading = "typed" if series.dtype != pl.String else "iso" if field.kind == "date" else "point"
            column = encode(series, Sensed(field.kind, reading))
            lost = tuple(Refused(row, text) for row, text in misfits.refused.get(field.name, ()) if row < frame.height)
            columns.append(replace(column, refused=lost) if lost else column)
    except pl.exceptions.PolarsError as fault:
        raise Refusal(
            f"the rows of '{entry.name}' in '{name}' are damaged ({str(fault).splitlines()[0]})",
            "open an earlier copy of it",
        ) from None
    ragged = tuple(Ragged(*each) for each in misfits.ragged)
    sensed = source.sensed if len(source.sensed) == len(source.fields) else ()
    return Table(entry.name, source.fields, tuple(columns), frame.height, source.place, sensed, ragged)


def _read_misfits(archive: zipfile.ZipFile, source_id: str, name: str) -> Misfits:
    try:
        info = archive.getinfo(f"tables/{source_id}.misfits.json")
    except KeyError:
        return Misfits({})
    if info.file_size > _MOST_JSON:
        raise Refusal(f"'{name}' describes far more than a folio can hold", "it may be made to do harm")
    try:
        return msgspec.json.decode(archive.read(info), type=Misfits)
    except msgspec.MsgspecError as fault:
        raise Refusal(f"'{name}' is damaged ({fault})", "open an earlier copy of it") from None


def json_schema() -> dict[str, Any]:
    """The JSON Schema of folio.json, generated from the structs."""
    return msgspec.json.schema(_Envelope)
