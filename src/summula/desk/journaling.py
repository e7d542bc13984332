"""Keeping every edit on disk within a second, in a worker of its own."""

from __future__ import annotations

import time
from collections.abc import Callable
from threading import Lock
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

    from summula.core.folio.basefile import Base
    from summula.core.folio.change import Change
    from summula.core.folio.journal import Journal
    from summula.core.folio.model import Folio
    from summula.desk.session import Session

_SOON = 0.12  # seconds after an edit; those that come until then are written with it
_AGAIN = 4_000  # ms after the disk took nothing: then the newest is tried again


class Journaling(QObject):
    """Works for one window. The window's own thread only hands over the folio, which never changes."""

    failed = pyqtSignal(str)
    written = pyqtSignal()

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self._worker: ThreadPoolExecutor | None = None  # made when there is something to write
        self._journal: Journal | None = None
        self._written: tuple[Folio, bool, Base] | None = None  # what was handed over last, and whether it was unsaved
        self._handing = Lock()
        self._next: Callable[[], None] | None = None  # what the worker writes next
        self._begun = False  # whether anything was handed over that is unsaved
        self._told = False
        session.changed.connect(self._changed)
        session.page_changed.connect(self._changed)
        self.failed.connect(self._tell)
        self.written.connect(self._went_well)
        self._again = QTimer(self)
        self._again.setSingleShot(True)
        self._again.setInterval(_AGAIN)
        self._again.timeout.connect(self.write)

    def _changed(self, change: Change | None = None) -> None:
        if self.session.snapshot is None:
            self.write()

    def write(self) -> None:
        """Hand over what the folio is now. Of what comes while the worker is at it, the newest is written."""
        session, folio = self.session, self.session.folio
        base, unsaved, last = session.base, session.unsaved, self._written
        same = last is not None and last[0] is folio and last[1:] == (unsaved, base)
        if same or session.snapshot is not None:
            return
        self._written = (folio, unsaved, base)
        if not unsaved and not self._begun:
            return  # nothing has been done yet
        self._begun = True
        rows = {
            (source.id, source.reading): session.readings[source.id, source.reading]
            for entry in folio.tables for source in entry.sources()
            if (source.id, source.reading) in session.readings
        }  # fmt: skip
        edit = session.history.undo_name

        def write() -> None:
            from summula.core.folio.journal import Journal

            if self._journal is None or not self._journal.folder.is_dir():
                self._journal = Journal()
            if unsaved:
                self._journal.write(folio, rows, base, edit)
            else:
                self._journal.saved(folio, base)

        with self._handing:
            queued, self._next = self._next is not None, write
        if not queued:
            self._working().submit(self._write_next).add_done_callback(self._done)

    def _working(self) -> ThreadPoolExecutor:
        if self._worker is None:
            from concurrent.futures import ThreadPoolExecutor  # what starting does not need

            self._worker = ThreadPoolExecutor(1, thread_name_prefix="journal")
        return self._worker

    def _write_next(self) -> None:
        """In the worker: a moment later, so that a run of edits is written once."""
        time.sleep(_SOON)
        with self._handing:
            write, self._next = self._next, None
        if write is not None:
            write()

    def _done(self, future: Future[None]) -> None:
        """In the worker: what went wrong is told by the window's own thread."""
        fault = future.exception()
        if fault is not None:
            self.failed.emit(getattr(fault, "strerror", None) or str(fault))
        else:
            self.written.emit()

    def _went_well(self) -> None:
        self._told = False

    def _tell(self, reason: str) -> None:
        self._written = None  # whatever is newest then is handed over again
        if self._worker is not None:
            self._again.start()
        if not self._told:
            self._told = True
            self.session.refuse(
                Refusal(f"changes cannot be kept between saves ({reason})", "save the folio more often")
            )

    def afterwards(self, work: Callable[[], None]) -> None:
        """Do something in the worker once what was handed over is on disk."""
        self._working().submit(work)

    def settle(self) -> None:
        """Wait until what was handed over is on disk."""
        self._working().submit(lambda: None).result()

    def end(self) -> None:
        """The window closes, and the person has decided: nothing is left to take up."""
        worker = self._worker
        self._again.stop()
        with self._handing:
            self._next = None  # what is not written yet need not be
        self._worker, self._written, self._begun = None, None, False
        if worker is None:
            return

        def end() -> None:
            ended, self._journal = self._journal, None
            if ended is not None:
                ended.end()

        worker.submit(end)
        worker.shutdown(wait=True)
