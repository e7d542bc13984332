"""The journal: what was done since a folio was saved last, on disk within a second, so that no end of the program takes
it along.

Each desk has a folder of its own in the person's state folder. It holds a lock (let go by the system when the process
ends, however it ends), a log that each edit is appended to, and the rows that no saved folio has yet, written once.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
import time
import zlib
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import msgspec
from msgspec.structs import replace

from summula.core.decoding import decoded
from summula.core.folio.basefile import Base
from summula.core.folio.file import folio_from_json, folio_json, open_folio, save_folio
from summula.core.folio.model import Folio
from summula.core.folio.opened import Opened, Problem
from summula.core.folio.snapshot import own_folder
from summula.core.folio.soundness import sound
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.tables.table import Table

KEPT_DAYS = 31  # what was declined, or taken up, is kept so long
_MOST_LOG = 16 * 1024**2  # bytes, then it begins anew with the newest record
_MOST_RECORD = 64 * 1024**2
_MARK = b"SmJ1"
_LOG, _LOCK, _ROWS, _SEEN = "log", "lock", "rows.summula", "seen"

Reading = tuple[str, int]  # a source's id, and which reading of it


class _Record(msgspec.Struct, frozen=True):
    at: str
    edit: str
    edits: int
    base: Base
    folio: msgspec.Raw
    pictures: tuple[str, ...] = ()
    saved: bool = False  # nothing has to be taken up


class Unsaved(NamedTuple):
    """What a desk that ended has left: where, of which folio, when its last edit was and what, and how many there
    were."""

    folder: Path
    name: str
    at: datetime
    edit: str
    edits: int

    @property
    def words(self) -> str:
        when = self.at.astimezone().strftime("%-d %b at %H:%M")
        count = f"{self.edits} changes, the last" if self.edits > 1 else "One change,"
        return f"“{self.name}” was not saved when its desk ended ({when}). {count} “{self.edit or 'opened'}”."


def journals_folder() -> Path:
    return own_folder("XDG_STATE_HOME", ".local/state") / "journal"


class Journal:
    """Written by one thread at a time. Raises OSError where the disk takes nothing."""

    def __init__(self, root: Path | None = None) -> None:
        root = root or journals_folder()
        self.folder = root / f"{datetime.now(UTC):%Y%m%dT%H%M%S}-{os.urandom(4).hex()}"
        self.folder.mkdir(parents=True, mode=0o700)
        self._lock = (self.folder / _LOCK).open("wb")
        fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        self._rows: frozenset[Reading] = frozenset()
        self._pictures: set[str] = set()
        self._edits = 0
        self._base: Base | None = None

    def write(self, folio: Folio, rows: dict[Reading, Table], base: Base, edit: str) -> None:
        """Append what the folio is now. `rows`: of its sources; those `base` does not hold are written, once."""
        if base != self._base:
            self._base, self._edits, self._rows = base, 0, frozenset()
        self._edits += 1
        self._append(folio, edit, saved=False)  # first: rows may take their time
        needed = frozenset(rows) - _held_by(base)
        if needed - self._rows:
            self._keep_rows(folio, rows, needed)
            self._rows = needed

    def _keep_rows(self, folio: Folio, rows: dict[Reading, Table], needed: frozenset[Reading]) -> None:
        """The tables with rows that no saved folio holds."""
        tables = {source: table for (source, _), table in rows.items()}
        entries = tuple(e for e in folio.tables if any((s.id, s.reading) in needed for s in e.sources()))
        bare = Folio(folio.name, entries, next_id=folio.next_id)
        save_folio(self.folder / _ROWS, bare, tables)

    def saved(self, folio: Folio, base: Base) -> None:
        """The folio is saved (or given up): nothing has to be taken up any more."""
        self._base, self._edits, self._rows = base, 0, frozenset()
        log = self.folder / _LOG
        if log.exists():
            self._append(folio, "", saved=True)
            log.unlink(missing_ok=True)
        (self.folder / _ROWS).unlink(missing_ok=True)

    def _append(self, folio: Folio, edit: str, *, saved: bool) -> None:
        assert self._base is not None
        names = tuple(self._picture(each.data) for each in folio.pictures)
        bare = replace(folio, pictures=tuple(replace(each, data=b"") for each in folio.pictures))
        at = datetime.now(UTC).isoformat(timespec="milliseconds")
        record = _Record(at, edit, self._edits, self._base, msgspec.Raw(folio_json(bare)), names, saved)
        packed = zlib.compress(msgspec.json.encode(record), 1)
        framed = _MARK + len(packed).to_bytes(4, "big") + zlib.crc32(packed).to_bytes(4, "big") + packed
        log = self.folder / _LOG
        anew = log.exists() and log.stat().st_size + len(framed) > _MOST_LOG
        place = log.with_suffix(".new") if anew else log
        with open(place, "wb" if anew else "ab", opener=_private) as stream:
            stream.write(framed)
            stream.flush()
            os.fsync(stream.fileno())
        if anew:
            place.replace(log)

    def _picture(self, data: bytes) -> str:
        name = sha256(data).hexdigest()
        if name not in self._pictures:
            with open(self.folder / f"{name}.picture", "wb", opener=_private) as stream:
                stream.write(data)
                os.fsync(stream.fileno())
            self._pictures.add(name)
        return name

    def end(self) -> None:
        """The desk ends in order, with nothing left to take up."""
        with contextlib.suppress(OSError):
            self._lock.close()
        shutil.rmtree(self.folder, ignore_errors=True)


def _private(name: str, flags: int) -> int:
    return os.open(name, flags, 0o600)


def _held_by(base: Base) -> frozenset[Reading]:
    """The readings that a saved folio holds rows of."""
    if not base.stands:
        return frozenset()
    key = (base.path, base.size, base.modified)
    if key not in _HELD:
        _HELD.clear()
        try:
            folio = open_described(Path(base.path))
        except Refusal:
            return frozenset()
        _HELD[key] = frozenset((s.id, s.reading) for entry in folio.tables for s in entry.sources())
    return _HELD[key]


_HELD: dict[tuple[str, int, int], frozenset[Reading]] = {}


def open_described(path: Path) -> Folio:
    """What a folio's file says, without its rows. Raises Refusal."""
    import zipfile

    from summula.core.folio.file import check_directory, read_described

    try:
        check_directory(path)
        with zipfile.ZipFile(path) as archive:
            return read_described(archive, path.name)
    except (OSError, zipfile.BadZipFile, ValueError) as fault:
        raise Refusal(f"'{path.name}' could not be read ({fault})", "open an earlier copy of it") from None


def unsaved(root: Path | None = None) -> list[Unsaved]:
    """What desks that have ended have left, the newest first. What is older than a month goes."""
    root = root or journals_folder()
    found = []
    for folder in sorted(root.glob("*-*")) if root.is_dir() else []:
        if not _ended(folder):
            continue
        record = _last(folder)
        old = time.time() - folder.stat().st_mtime > KEPT_DAYS * 86_400
        if record is None or record.saved or old:
            shutil.rmtree(folder, ignore_errors=True)
            continue
        try:
            name = str(msgspec.json.decode(record.folio)["folio"]["name"])
            at = datetime.fromisoformat(record.at)
        except (msgspec.MsgspecError, KeyError, TypeError, ValueError):
            continue
        found.append(Unsaved(folder, name, at, record.edit, record.edits))
    return sorted(found, key=lambda each: each.at, reverse=True)


def _ended(folder: Path) -> bool:
    """Whether the desk of a journal has ended: then its lock is free."""
    try:
        with (folder / _LOCK).open("rb") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except FileNotFoundError:
        return True
    except OSError:
        return False
    return True


def _last(folder: Path) -> _Record | None:
    """The last record that is whole."""
    try:
        log = (folder / _LOG).read_bytes()
    except OSError:
        return None
    found, at = None, 0
    while at + 12 <= len(log):
        size, check = int.from_bytes(log[at + 4 : at + 8], "big"), int.from_bytes(log[at + 8 : at + 12], "big")
        packed = log[at + 12 : at + 12 + size]
        if log[at : at + 4] != _MARK or size > _MOST_RECORD or len(packed) < size or zlib.crc32(packed) != check:
            break
        found = packed
        at += 12 + size
    if found is None:
        return None
    try:
        plain = zlib.decompressobj().decompress(found, _MOST_RECORD)
        return decoded(plain, _Record)
    except (zlib.error, msgspec.MsgspecError):
        return None


def was_offered(left: Unsaved) -> bool:
    """Whether it was offered before, and declined or taken up."""
    return (left.folder / _SEEN).exists()


def put_aside(left: Unsaved) -> None:
    """It is not offered again by itself; it stays for a month, to be found."""
    with contextlib.suppress(OSError):
        (left.folder / _SEEN).touch()


def take_up(left: Unsaved) -> tuple[Opened, Path | None]:
    """The folio as it was, with its rows, and the file it goes on from. Rows that are nowhere any more are told among
    its problems. Raises Refusal."""
    record = _last(left.folder)
    if record is None:
        raise Refusal("what was kept of it is damaged", "open the folio as it was saved")
    folio = folio_from_json(bytes(record.folio), left.name)
    pictures = []
    for each, name in zip(folio.pictures, record.pictures, strict=False):
        with contextlib.suppress(OSError):
            pictures.append(replace(each, data=(left.folder / f"{name}.picture").read_bytes()))
    folio, problems = sound(replace(folio, pictures=tuple(pictures)))
    rows = _rows_kept(left.folder / _ROWS)
    path = Path(record.base.path) if record.base.path else None
    if path is not None and path.exists():
        rows = _rows_kept(path) | rows
    tables: dict[str, Table] = {}
    for entry in folio.tables:
        for source in entry.sources():
            table = rows.get((source.id, source.reading))
            if table is None:
                from summula.core.folio.file import without_rows

                table = without_rows(entry, source)
                told = f"The rows of “{entry.name}” are not here any more: read them again from their source."
                problems += (Problem(entry.id, told),)
            tables[source.id] = table
    return Opened(folio, tables, problems), path


def _rows_kept(path: Path) -> dict[Reading, Table]:
    if not path.exists():
        return {}
    try:
        opened = open_folio(path)
    except Refusal:
        return {}
    lost = {each.page for each in opened.problems}
    return {
        (source.id, source.reading): opened.tables[source.id]
        for entry in opened.folio.tables if entry.id not in lost for source in entry.sources()
    }  # fmt: skip
