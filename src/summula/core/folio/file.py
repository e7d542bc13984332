"""The folio's file: a ZIP of one JSON and a Parquet a source. Described in docs/folio-format.md.

Saving writes a temporary file beside the target, syncs it and renames it over: a reader sees the old
folio or the new one, never half of one. Opening believes nothing: sizes are checked before unpacking,
names are looked up rather than extracted, and no code is ever run.
"""

from __future__ import annotations

import contextlib
import glob
import io
import os
import zipfile
import zlib
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec.structs import replace

from summula.core.decoding import converted, decoded
from summula.core.folio.members import MOST_JSON, member
from summula.core.folio.migrations import OLDEST, migrated
from summula.core.folio.misfits import misfits_of
from summula.core.folio.model import FORMAT, Folio, Source
from summula.core.folio.opened import Opened, Problem
from summula.core.folio.sandboxed import rows_of
from summula.core.folio.soundness import sound
from summula.core.folio.wholefile import sync_folder, unnamed
from summula.core.refusal import Refusal
from summula.core.watch import Watch, unwatched

if TYPE_CHECKING:
    from collections.abc import Callable

    from summula.core.tables.table import Table


class _Envelope(msgspec.Struct, frozen=True):
    """What folio.json holds; `application` lets any program tell what the file is."""

    application: str
    format: int
    folio: Folio


def save_folio(path: Path, folio: Folio, tables: dict[str, Table]) -> None:
    """Write the folio whole, or leave what was there. Until it is whole its file has no name, where the system has such
    files; so that a process that is killed leaves nothing behind. What was left where it has not is swept away."""
    name = path.parent / f".{path.stem}-{os.getpid()}{_PART}"
    try:
        sweep(path)
        with unnamed(path.parent, name) as (stream, put_name):
            _write(stream, _placed(folio, lambda place: _relative(place, path)), tables)
            stream.flush()
            os.fchmod(stream.fileno(), 0o644)
            os.fsync(stream.fileno())
            put_name()
            name.replace(path)
        sync_folder(path.parent)
    except OSError as fault:
        with contextlib.suppress(OSError):
            name.unlink()
        raise Refusal(
            f"'{path}' could not be saved ({fault.strerror or fault})",
            "choose another folder, or make room on the disk",
        ) from None


_PART = ".part"


def sweep(path: Path) -> None:
    """Take away what a killed process left beside a folio: files of ours whose process is gone."""
    for left in path.parent.glob(f".{glob.escape(path.stem)}-*{_PART}"):
        number = left.name.removeprefix(f".{path.stem}-").removesuffix(_PART)
        if number.isdecimal() and (int(number) == os.getpid() or Path(f"/proc/{number}").exists()):
            continue
        with contextlib.suppress(OSError):
            left.unlink()


def _placed(folio: Folio, place: Callable[[str], str]) -> Folio:
    """The folio with the places of its sources told otherwise."""

    def with_place(source: Source) -> Source:
        return replace(source, place=place(source.place))

    entries = tuple(
        replace(entry, source=with_place(entry.source), appended=tuple(map(with_place, entry.appended)))
        for entry in folio.tables
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
            misfits = misfits_of(table)
            if misfits.refused or misfits.ragged:
                archive.writestr(f"tables/{source.id}.misfits.json", msgspec.json.encode(misfits))


def open_folio(path: Path, watch: Watch = unwatched) -> Opened:
    """The folio in a file; refuses a damaged, foreign or newer one in a sentence. What makes no sense in it is set
    aside, with a sentence among the `problems`; so are rows that cannot be read."""
    if not path.exists():
        raise Refusal(f"there is no file '{path}'", "check the name and the folder")
    try:
        check_directory(path)
        with zipfile.ZipFile(path) as archive:
            folio, problems = sound(read_described(archive, path.name))
        sources = [(entry, source) for entry in folio.tables for source in entry.sources()]
        tables: dict[str, Table] = {}
        for (entry, source), (table, why) in zip(sources, rows_of(path, sources, watch), strict=True):
            tables[source.id] = table
            if why:
                problems += (Problem(entry.id, f"The rows of “{entry.name}” could not be read: {why}."),)
        folio = _placed(folio, lambda place: _absolute(place, path))
    except zipfile.BadZipFile:
        raise Refusal(f"'{path.name}' is damaged or not a folio", "open an earlier copy") from None
    except (OSError, EOFError, ValueError, NotImplementedError, RuntimeError, zlib.error) as fault:
        reason = getattr(fault, "strerror", None) or type(fault).__name__
        raise Refusal(f"'{path.name}' could not be read ({reason})", "open an earlier copy") from None
    return Opened(folio, tables, problems)


_END, _END_64 = b"PK\5\6", b"PK\6\6"
_MOST_DIRECTORY = 4 * 1024**2  # bytes: some tens of thousands of members


def check_directory(path: Path) -> None:
    """Refuses an archive whose list of members alone is larger than any folio's."""
    with path.open("rb") as file:
        size = file.seek(0, os.SEEK_END)
        file.seek(max(0, size - 66_000))
        tail = file.read()
    at = tail.rfind(_END)
    if at < 0 or len(tail) < at + 22:
        raise zipfile.BadZipFile
    length = int.from_bytes(tail[at + 12 : at + 16], "little")
    wide = tail.rfind(_END_64, 0, at)
    if length == 0xFFFFFFFF and wide >= 0:
        length = int.from_bytes(tail[wide + 40 : wide + 48], "little")
    if length > _MOST_DIRECTORY:
        raise Refusal(f"'{path.name}' holds far more than a folio can", "it may be malicious")


def open_described(path: Path) -> Folio:
    """What a folio's file says, without its rows; the places of sources as they stand in it. Raises Refusal."""
    try:
        check_directory(path)
        with zipfile.ZipFile(path) as archive:
            return read_described(archive, path.name)
    except (OSError, zipfile.BadZipFile, ValueError) as fault:
        raise Refusal(f"'{path.name}' could not be read ({fault})", "open an earlier copy") from None


def read_described(archive: zipfile.ZipFile, name: str) -> Folio:
    try:
        info = archive.getinfo("folio.json")
    except KeyError:
        raise Refusal(f"'{name}' is not a folio", "choose a .summula file") from None
    return folio_from_json(member(archive, info, MOST_JSON, f"what '{name}' describes"), name)


def folio_json(folio: Folio) -> bytes:
    """All of a folio but the rows, as its file tells it."""
    return msgspec.json.encode(_Envelope("Summula", FORMAT, folio))


def folio_from_json(raw: bytes, name: str) -> Folio:
    """The folio that a JSON of any format number describes. Raises Refusal."""
    try:
        head = msgspec.json.decode(raw)
        version = head.get("format") if isinstance(head, dict) else None
        if not isinstance(head, dict) or head.get("application") != "Summula" or not isinstance(version, int):
            raise Refusal(f"'{name}' is not a folio", "choose a .summula file")
        if version > FORMAT:
            raise Refusal(f"'{name}' was made by a newer Summula (format {version})", "open it with that version")
        if version < OLDEST:
            raise Refusal(f"'{name}' has an unknown folio format ({version})", "open an earlier copy")
        if version == FORMAT:
            return decoded(raw, _Envelope).folio
        return converted(migrated(head, version) | {"format": FORMAT}, _Envelope).folio
    except msgspec.ValidationError as fault:
        wrong = f"'{name}' has settings that this version does not know ({fault})"
        raise Refusal(wrong, "open it with the one that made it; it is left as it is") from None
    except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError) as fault:
        raise Refusal(f"'{name}' is damaged ({fault})", "open an earlier copy") from None


def json_schema() -> dict[str, Any]:
    """The JSON Schema of folio.json, generated from the structs."""
    return msgspec.json.schema(_Envelope)
