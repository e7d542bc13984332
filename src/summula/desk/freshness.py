"""Watching the files that tables were read from: one that changes offers itself, or is read again by itself."""

from __future__ import annotations

import contextlib
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.folio.change import Change
    from summula.core.folio.model import TableEntry
    from summula.desk.session import Session

_SETTLED = 700  # ms without a further change before a file counts as written

Stamp = tuple[int, int]


class Freshness(QObject):
    """`stale` hands on the tables whose sources are other ones than were read."""

    stale = pyqtSignal(list)  # the tables' entries

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.watcher = QFileSystemWatcher(self)
        self.watcher.fileChanged.connect(lambda _: self._settle.start(_SETTLED))
        self.watcher.directoryChanged.connect(lambda _: self._settle.start(_SETTLED))
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.timeout.connect(self.look)
        self._known: dict[str, tuple[int, Stamp | None]] = {}  # by source id: its reading, and the file as it was then
        session.changed.connect(self._changed)
        session.page_changed.connect(self.refresh)
        self._path = session.path  # from which places are told

    def _changed(self, change: Change) -> None:
        if change.tables or self.session.path != self._path:
            self.refresh()

    def refresh(self) -> None:
        """Watch the places of the present folio's sources, and the folders that they stand in (a file that is replaced
        is another file)."""
        self._path = self.session.path
        known = {}
        wanted: set[str] = set()
        for entry, path in self._places():
            before = self._known.get(entry.source.id)
            if before is not None and before[0] == entry.source.reading:
                known[entry.source.id] = before
            else:
                known[entry.source.id] = (entry.source.reading, _stamp(path))
            wanted |= {str(each) for each in (path, path.parent) if each.exists()}
        self._known = known
        watched = {*self.watcher.files(), *self.watcher.directories()}
        if watched - wanted:
            self.watcher.removePaths(sorted(watched - wanted))
        if wanted - watched:
            self.watcher.addPaths(sorted(wanted - watched))

    def look(self) -> None:
        """Tell the tables whose files are not what they were."""
        stale = []
        for entry, path in self._places():
            reading, stamp = self._known.get(entry.source.id, (entry.source.reading, None))
            now = _stamp(path)
            if now is not None and stamp is not None and now != stamp:
                self._known[entry.source.id] = (reading, now)
                stale.append(entry)
        if stale:
            self.stale.emit(stale)
        self.refresh()

    def _places(self) -> list[tuple[TableEntry, Path]]:
        tables = self.session.folio.tables
        if not tables or self.session.snapshot is not None:  # what is only seen is read again anyway
            return []
        from summula.core.folio.named import full_path
        from summula.core.folio.rereading import place_of

        found, named = [], self.session.named
        for entry in tables if named else ():
            with contextlib.suppress(Refusal):
                path = place_of(entry.source, entry.name, self.session.path)
                if full_path(path) in named:  # what nobody has named is not even looked at
                    found.append((entry, path))
        return found


def _stamp(path: Path) -> Stamp | None:
    try:
        state = path.stat()
    except OSError:
        return None
    return state.st_size, state.st_mtime_ns
