"""Opening files and folios for one window: asked for by name, the demo, and a board as it was seen last until its
rows are there."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QFileDialog, QWidget

from summula.core.folio.model import SUFFIX
from summula.core.folio.snapshot import Snapshot, keep_snapshot, place_for, snapshot_at
from summula.core.refusal import Refusal
from summula.desk.work import Work

if TYPE_CHECKING:
    from collections.abc import Callable

    from summula.desk.frame.statusline import StatusLine
    from summula.desk.importing import Importing
    from summula.desk.session import Session

_SEEN_AFTER = 1200  # ms: then a board that has been opened is kept as it is seen
_FILES_AFTER = 3000


class Opening(QObject):
    """Works for one window: folios are read here, tables by `importing`. `may_leave` asks whether the present folio
    may be left; `sight` gives what the board in view shows, None where that is not worth keeping."""

    def __init__(
        self,
        window: QWidget,
        session: Session,
        reading: Work,
        importing: Importing,
        status: StatusLine,
        may_leave: Callable[[], bool],
        sight: Callable[[], Snapshot | None],
    ) -> None:
        super().__init__(window)
        self.window, self.session, self.reading, self.importing, self.status = (
            window, session, reading, importing, status
        )  # fmt: skip
        self._may_leave, self._sight = may_leave, sight
        self._beside = Work(self)  # what nobody waits for
        self._once_painted: Callable[[], None] | None = None

    # -- files -----------------------------------------------------------------------------------------

    def ask(self) -> None:
        from summula.core.reading.naming import READABLE

        kinds = " ".join(f"*{ending}" for ending in (SUFFIX, *READABLE))
        names, _ = QFileDialog.getOpenFileNames(
            self.window, "Open tables or a folio", "", f"Tables and folios ({kinds})"
        )
        if names:
            self.open_paths([Path(name) for name in names])

    def open_paths(self, paths: list[Path]) -> None:
        """One file or several: a folio first, then the tables, looked at one after the other."""
        folios = [each for each in paths if each.suffix.lower() == SUFFIX]
        if len(folios) > 1:
            more = ", ".join(each.name for each in folios[1:])
            wrong = f"one folio is open at a time ({more} not opened)"
            self.session.refuse(Refusal(wrong, "open it in another window"))
        if folios:
            self.open_path(folios[0])
        self.importing.preview_all([each for each in paths if each.suffix.lower() != SUFFIX])

    def open_path(self, path: Path) -> None:
        """A folio is opened in a worker, asking first if the present one is unsaved; a table is previewed."""
        if path.suffix.lower() == SUFFIX:
            if self._may_leave():
                seen = snapshot_at(place_for(path)) if self.session.untouched else None
                opening = partial(self.session.opening, path, self.reading.progressed)
                read = partial(self.read_folio, opening, f"reading {path.name} …")
                self._show_until(seen, read)
            return
        self.importing.preview(path)

    def open_demo(self) -> None:
        """The demo's folio; at the start its board is there at once, as it was seen last."""
        from summula.demo.ready import ready_folio, snapshot_left

        def read() -> Callable[[], None]:
            opened = ready_folio()

            def adopt() -> None:
                self.session.adopt(opened)
                self.session.name_files(*opened.folio.places())  # the demo's own, made here
                self.importing.freshness.refresh()  # which may watch them from now on

            return adopt

        seen = snapshot_at(snapshot_left()) if self.session.untouched else None
        self._show_until(seen, partial(self.read_folio, read, "reading the demo …"))
        QTimer.singleShot(_FILES_AFTER, self._put_demo_files)

    def read_folio(self, opening: Callable[[], Callable[[], None]], notice: str) -> None:
        """Read a folio in a worker; what `opening` gives takes it onto the desk."""

        def taken(take: Callable[[], None]) -> None:
            take()
            QTimer.singleShot(_SEEN_AFTER, self.keep_snapshot_now)

        def refused(refusal: Refusal) -> None:
            if self.session.snapshot is not None:
                self.session.show_snapshot(None)
            self.session.refuse(refusal)

        self.status.begin(notice)
        self.reading.ask(opening, taken, refused)

    # -- a board as it was seen last ------------------------------------------------------------------------

    def _show_until(self, seen: Snapshot | None, read: Callable[[], None]) -> None:
        """Show what was seen last, if anything, and `read` the rows then."""
        if seen is None:
            read()
        elif self.window.isVisible():
            self.session.show_snapshot(seen)
            self.window.repaint()
            read()
        else:
            self._once_painted = read
            self.session.show_snapshot(seen)

    def painted(self) -> None:
        """The window is being painted, with all that is in it: then what waited for that is read."""
        if self._once_painted is not None:
            QTimer.singleShot(0, self._once_painted)
            self._once_painted = None

    def keep_snapshot_now(self) -> None:
        """Keep what the board shows for the next start, in a worker; nothing of a folio with unsaved changes."""
        if self.session.unsaved:
            return
        sight = self._sight()
        place = place_for(self.session.path) if self.session.path is not None else self._demo_place()
        if sight is not None and place is not None:
            self._beside.ask(lambda: keep_snapshot(place, sight), lambda _: None, lambda _: None)

    def _demo_place(self) -> Path | None:
        """Where the sight of the demo is kept; None for another folio that has not been saved."""
        from summula.demo.ready import is_ready, snapshot_place

        return snapshot_place() if is_ready(self.session.folio) else None

    # -- in quiet ------------------------------------------------------------------------------------------

    def warm_up(self) -> None:
        """Read in what the first deeds will need, in a worker."""
        from summula.desk.warming import warm

        self._beside.ask(warm, lambda _: None, self.session.refuse)

    def _put_demo_files(self) -> None:
        """The demo's tables as files, so that they can be read again; in a worker."""
        from summula.demo.ready import put_files

        self._beside.ask(put_files, lambda _: None, self.session.refuse)
