"""The journal: what was done since a folio was saved last, on disk within a second, so that no end of the program takes
it along.

Each desk has a folder of its own in the person's state folder. It holds a lock (let go by the system when the process
ends, however it ends), a log that each edit is appended to, and the rows that no saved folio has yet, a file a reading.
A record names only what is on disk before it.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.folio.basefile import Base
from summula.core.folio.file import folio_json, open_described, save_folio
from summula.core.folio.journallog import JournalLog, Record, private
from summula.core.folio.model import Folio, Source, TableEntry
from summula.core.folio.snapshot import own_folder
from summula.core.folio.wholefile import sync_folder
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.tables.table import Table

LOG, LOCK, BASE, SEEN = "log", "lock", "base.summula", "seen"
ROWS, PICTURE, MAKING = ".rows", ".picture", "making."  # endings, and how a folder's name begins until it has a lock
MAX_SPARE_ROWS = 512 * 1024**2  # bytes of rows that only earlier records need; then the log begins anew

Reading = tuple[str, int]  # a source's id, and which reading of it
RowsKey = tuple[str, int, str, int]  # a reading with the time it was read and its rows: no other has all four


def journals_folder() -> Path:
    return own_folder("XDG_STATE_HOME", ".local/state") / "journal"


def rows_key(source: Source) -> RowsKey:
    return source.id, source.reading, source.read_at, source.rows


class Journal:
    """Written by one thread at a time. Raises OSError or Refusal where the disk takes nothing."""

    def __init__(self, root: Path | None = None) -> None:
        root = root or journals_folder()
        name = f"{datetime.now(UTC):%Y%m%dT%H%M%S}-{os.urandom(4).hex()}"
        making = root / (MAKING + name.partition("-")[2])
        making.mkdir(parents=True, mode=0o700)
        self._lock = (making / LOCK).open("wb")
        fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        self.folder = making.replace(root / name)  # with its lock: nobody takes it for one whose desk has ended
        self._log = JournalLog(self.folder / LOG)
        self._written: set[str] = set()  # names of files of rows and pictures
        self._edits = 0
        self._base: Base | None = None
        self._held: frozenset[RowsKey] = frozenset()  # rows that the base holds

    def write(self, folio: Folio, rows: dict[Reading, Table], base: Base, edit: str) -> None:
        """Append what the folio is now. `rows`: of its sources; those `base` does not hold are written first, once."""
        if base != self._base:
            self._edits, self._base, self._held = 0, base, self._keep_base(base)
        names = []
        for entry in folio.tables:
            for source in entry.sources():
                table = rows.get((source.id, source.reading))
                if table is not None and rows_key(source) not in self._held:
                    names.append(self._keep_rows(entry, source, table))
        pictures = tuple(self._keep_picture(each.data) for each in folio.pictures)
        sync_folder(self.folder)
        self._edits += 1
        needed = {*names, *pictures}
        anew = self._spare(needed) > MAX_SPARE_ROWS
        self._log.append(self._record(folio, edit, pictures, tuple(names)), anew=anew)
        if self._log.records == 1:
            self._prune(needed)

    def saved(self, folio: Folio, base: Base) -> None:
        """The folio is saved (or given up): nothing has to be restored any more."""
        self._base, self._edits, self._held = None, 0, frozenset()
        if self._log.path.exists():
            self._log.append(replace(self._record(folio, "", (), ()), base=base, saved=True))
            self._log.remove()
        self._prune(set())
        (self.folder / BASE).unlink(missing_ok=True)

    def _record(self, folio: Folio, edit: str, pictures: tuple[str, ...], rows: tuple[str, ...]) -> Record:
        bare = replace(folio, pictures=tuple(replace(each, data=b"") for each in folio.pictures))
        at = datetime.now(UTC).isoformat(timespec="milliseconds")
        base = self._base or Base()
        return Record(at, edit, self._edits, base, msgspec.Raw(folio_json(bare)), pictures, rows)

    def _keep_base(self, base: Base) -> frozenset[RowsKey]:
        """The rows that the saved folio holds. Where the disk can, its file gets a second name here, so that its rows
        stay when somebody replaces it."""
        link = self.folder / BASE
        link.unlink(missing_ok=True)
        if not base.stands:
            return frozenset()
        with contextlib.suppress(OSError):
            os.link(base.path, link)
        try:
            folio = open_described(Path(base.path))
        except Refusal:
            return frozenset()
        return frozenset(rows_key(source) for entry in folio.tables for source in entry.sources())

    def _keep_rows(self, entry: TableEntry, source: Source, table: Table) -> str:
        name = sha256(msgspec.json.encode(rows_key(source))).hexdigest()[:32] + ROWS
        if name not in self._written or not (self.folder / name).exists():
            bare = TableEntry(entry.id, entry.name, source, source.fields, source.rows)
            save_folio(self.folder / name, Folio(entry.name, (bare,)), {source.id: table})
            self._written.add(name)
        return name

    def _keep_picture(self, data: bytes) -> str:
        name = sha256(data).hexdigest()
        file = name + PICTURE
        if file not in self._written or not (self.folder / file).exists():
            with open(self.folder / file, "wb", opener=private) as stream:
                stream.write(data)
                stream.flush()
                os.fsync(stream.fileno())
            self._written.add(file)
        return file

    def _spare(self, needed: set[str]) -> int:
        """Bytes of what was written and is not needed now."""
        spare = [self.folder / name for name in self._written - needed]
        return sum(each.stat().st_size for each in spare if each.exists())

    def _prune(self, needed: set[str]) -> None:
        """Take away what no record in the log names any more."""
        for name in self._written - needed:
            (self.folder / name).unlink(missing_ok=True)
        self._written &= needed

    def end(self) -> None:
        """The desk ends in order, with nothing left to restore."""
        with contextlib.suppress(OSError):
            self._lock.close()
        shutil.rmtree(self.folder, ignore_errors=True)
