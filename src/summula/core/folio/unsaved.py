"""What desks that have ended have left unsaved: found, restored, dismissed. Nothing goes because of its age."""

from __future__ import annotations

import contextlib
import fcntl
import shutil
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from msgspec.structs import replace

from summula.core.folio.basefile import Base
from summula.core.folio.file import folio_from_json, open_folio
from summula.core.folio.journal import BASE, LOCK, LOG, MAKING, ROWS, SEEN, RowsKey, journals_folder, rows_key
from summula.core.folio.journallog import last_record
from summula.core.folio.opened import Opened, Problem
from summula.core.folio.soundness import sound
from summula.core.folio.versions import versions_of
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.tables.table import Table

MAX_BYTES = 2 * 1024**3  # of all that is kept together; the oldest go first, the dismissed ones before others
MAX_WORDS = f"{MAX_BYTES // 1024**3} GB"
_OLD_ROWS = "rows.summula"  # all rows in one file, as they were written once


class Unsaved(NamedTuple):
    """What a desk that ended has left: where, of which folio, when its last edit was and what, and how many there
    were; `harmed` where a part of the log is damaged. Of a log without a whole record the name is empty."""

    folder: Path
    name: str
    at: datetime
    edit: str
    edits: int
    harmed: bool = False

    @property
    def words(self) -> str:
        when = self.at.astimezone().strftime("%-d %b at %H:%M")
        if not self.name:
            return f"Unsaved work of {when} is damaged and cannot be read. It is still in {self.folder}."
        count = f"{self.edits} changes, the last" if self.edits > 1 else "One change,"
        harmed = " Changes after it are damaged and cannot be read." if self.harmed else ""
        last = f"{count} “{self.edit or 'opened'}”."
        return f"“{self.name}” was not saved when the program ended ({when}). {last}{harmed}"


def unsaved(root: Path | None = None) -> list[Unsaved]:
    """What desks that have ended have left, the newest first. What holds nothing goes; nothing else does."""
    root = root or journals_folder()
    found = []
    for folder in root.iterdir() if root.is_dir() else ():
        if not folder.is_dir() or folder.is_symlink() or not _ended(folder):
            continue
        left = _left_in(folder)
        if left is not None:
            found.append(left)
        elif folder.name.startswith(MAKING) or (folder / LOCK).exists():
            shutil.rmtree(folder, ignore_errors=True)
    return sorted(found, key=lambda each: each.at, reverse=True)


def over_limit(found: list[Unsaved], most: int = MAX_BYTES) -> list[Unsaved]:
    """What has to go so that the rest takes at most so many bytes; never the newest."""
    sizes = {each.folder: _size(each.folder) for each in found}
    total, over = sum(sizes.values()), []
    for each in sorted(found[1:], key=lambda each: (not was_offered(each), each.at)):
        if total <= most:
            break
        over.append(each)
        total -= sizes[each.folder]
    return over


def _size(folder: Path) -> int:
    with contextlib.suppress(OSError):
        return sum(each.stat().st_size for each in folder.iterdir() if each.name != BASE)  # that is the folio's own
    return 0


def _ended(folder: Path) -> bool:
    """Whether the desk of a journal has ended: then its lock is free."""
    try:
        with (folder / LOCK).open("rb") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except FileNotFoundError:
        return not folder.name.startswith(MAKING)  # another desk is just making it
    except OSError:
        return False
    return True


def _left_in(folder: Path) -> Unsaved | None:
    """What a folder has to restore. Of one that cannot be read it is told that it is there."""
    try:
        record, harmed = last_record(folder / LOG)
        if record is None and not harmed:
            return None
        touched = datetime.fromtimestamp(folder.stat().st_mtime, UTC)
    except OSError:
        return Unsaved(folder, "", datetime.now(UTC), "", 0, harmed=True)
    if record is None:
        return Unsaved(folder, "", touched, "", 0, harmed=True)
    if record.saved:
        return Unsaved(folder, "", touched, "", 0, harmed=True) if harmed else None
    try:
        at = datetime.fromisoformat(record.at)
        name = folio_from_json(bytes(record.folio), "").name or "Folio"
    except (ValueError, Refusal):
        return Unsaved(folder, "", touched, "", 0, harmed=True)
    return Unsaved(folder, name, at if at.tzinfo else at.replace(tzinfo=UTC), record.edit, record.edits, harmed)


def was_offered(left: Unsaved) -> bool:
    """Whether it was offered before, and dismissed or restored."""
    return (left.folder / SEEN).exists()


def put_aside(left: Unsaved) -> None:
    """It is not offered again by itself; it stays, to be found."""
    with contextlib.suppress(OSError):
        (left.folder / SEEN).touch()


def remove(left: Unsaved) -> None:
    """It goes for good: its person has said so, or there is too much of it."""
    shutil.rmtree(left.folder, ignore_errors=True)


def take_up(left: Unsaved) -> tuple[Opened, Base]:
    """The folio as it was, with its rows, and the saved file it goes on from, as that was then. Rows that are nowhere
    any more are told among its problems. Raises Refusal."""
    try:
        record = last_record(left.folder / LOG).record
    except OSError:
        record = None
    if record is None:
        raise Refusal(f"what was kept in {left.folder} is damaged", "open the folio as it was saved")
    folio = folio_from_json(bytes(record.folio), left.name)
    pictures, missing = [], 0
    for each, name in zip(folio.pictures, record.pictures, strict=False):
        try:
            file = name if Path(name).suffix else f"{name}.picture"
            pictures.append(replace(each, data=(left.folder / Path(file).name).read_bytes()))
        except OSError:
            missing += 1
    folio, problems = sound(replace(folio, pictures=tuple(pictures)))
    if missing:
        problems += (Problem("", f"{missing} of its pictures could not be read: add them again."),)
    rows: dict[RowsKey, Table] = {}
    for path in _files_with_rows(left.folder, record.base, record.rows):
        rows = _rows_in(path) | rows
    tables: dict[str, Table] = {}
    for entry in folio.tables:
        for source in entry.sources():
            table = rows.get(rows_key(source))
            if table is None:
                from summula.core.folio.rowsfile import no_rows  # polars, which most restores do not need

                table = no_rows(entry.name, source)
                told = f"The rows of “{entry.name}” are not here any more: read them again from their source."
                problems += (Problem(entry.id, told),)
            tables[source.id] = table
    return Opened(folio, tables, problems), record.base


def _files_with_rows(folder: Path, base: Base, names: tuple[str, ...]) -> list[Path]:
    """Where rows may be: the journal's own, the saved folio as it was, and what stands in its place now."""
    found = [folder / name for name in names if Path(name).name == name and name.endswith(ROWS)]
    found += [folder / _OLD_ROWS, folder / BASE]
    if base.path:
        path = Path(base.path)
        found += [path, *(each.path for each in versions_of(path) if Base.of(each.path).modified == base.modified)]
    return [path for path in found if path.exists()]


def _rows_in(path: Path) -> dict[RowsKey, Table]:
    try:
        opened = open_folio(path)
    except Refusal:
        return {}
    lost = {each.page for each in opened.problems}
    return {
        rows_key(source): opened.tables[source.id]
        for entry in opened.folio.tables if entry.id not in lost for source in entry.sources()
    }  # fmt: skip
