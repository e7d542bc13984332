"""From files to tables: previewed, taken in, read again when they change."""

from __future__ import annotations

from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QFileDialog, QWidget

from summula.core.folio.model import TableEntry, with_table
from summula.core.reading.readas import ReadAs
from summula.core.refusal import Refusal
from summula.desk.freshness import Freshness
from summula.desk.naming import may_read

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from summula.desk.frame.margin import Margin
    from summula.desk.frame.newsbar import NewsBar
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.pages.previewpage import Pending, PreviewPage
    from summula.desk.session import Session
    from summula.desk.work import Work


class Importing:
    """Works for one window: `turn` shows a page that is no page of the folio, `refresh` the one that is; `open_path`
    opens whatever a path leads to."""

    def __init__(
        self,
        window: QWidget,
        session: Session,
        reading: Work,
        frame: tuple[Margin, StatusLine, NewsBar],
        turn: Callable[[QWidget], None],
        refresh: Callable[[], None],
        open_path: Callable[[Path], None],
    ) -> None:
        self.window, self.session, self.reading = window, session, reading
        self.margin, self.status, self.news = frame
        self.turn, self.refresh, self.open_path = turn, refresh, open_path
        self._waiting: list[Path] = []  # files that are looked at when the one before is taken in or left
        self._passing: Path | None = None  # a file of pasted cells that nobody has taken in yet
        reading.busy.connect(lambda busy: busy or QTimer.singleShot(0, self._preview_next))
        self.freshness = Freshness(session, window)
        self.freshness.stale.connect(self._sources_changed)
        session.totalled.connect(self._totals_found)
        app = QApplication.instance()
        assert app is not None
        app.aboutToQuit.connect(self._drop_passing)
        session.reread.connect(lambda sentences: self.news.tell("\n".join(sentences)))

    @cached_property
    def preview_page(self) -> PreviewPage:
        from summula.desk.pages.previewpage import PreviewPage

        page = PreviewPage(self.margin, self.status)
        page.taken.connect(self.leave_preview)
        page.left.connect(self._leave_untaken)
        return page

    def preview_all(self, paths: list[Path]) -> None:
        """Show table files one after the other, each when the one before is taken in or left."""
        self._waiting += paths
        self._preview_next()

    def _preview_next(self) -> None:
        looking = "preview_page" in self.__dict__ and self.preview_page.isVisible()
        if self._waiting and not self.reading.waits and not looking:
            self.open_path(self._waiting.pop(0))

    def preview(self, path: Path, name: str = "") -> None:
        """Show a table file before it is taken in."""
        from summula.desk.pages.previewpage import Pending

        self._preview(Pending(path, ReadAs(), partial(self.take_path, path, name=name), name=name))

    def preview_again(self, entry: TableEntry) -> None:
        """Show a table's source under the settings it was read by, to change them."""
        from summula.desk.pages.previewpage import Pending

        place = Path(entry.source.place)
        if not self._may_read([entry]):
            return
        take = partial(self._read_so, entry)
        self._preview(Pending(place, entry.source.read_as, take, entry.name))

    def _preview(self, pending: Pending) -> None:
        self.turn(self.preview_page)
        self.preview_page.show_file(pending)

    def leave_preview(self) -> None:
        self.preview_page.work.cancel()
        self.refresh()
        QTimer.singleShot(0, self._preview_next)

    def cancel(self) -> None:
        """Stop reading; a file that is only being looked at is left."""
        self.reading.cancel()
        if "preview_page" in self.__dict__ and self.preview_page.work.waits:
            self._leave_untaken()

    def _leave_untaken(self) -> None:
        self._drop_passing()
        self.leave_preview()

    def _drop_passing(self) -> None:
        if self._passing is not None:
            self._passing.unlink(missing_ok=True)
            self._passing = None

    def take_path(self, path: Path, read_as: ReadAs | None = None, shown: bool = False, name: str = "") -> None:
        """Read a table file whole, in a worker, and take it in; `shown` as in `Session.load`."""
        if path == self._passing:  # it goes once it has been read
            self._passing = None
        self.status.begin(f"reading {path.name} …")
        read = partial(self.session.load, path, read_as, self.reading.progressed, name, shown=shown)
        self.reading.ask(read, lambda take: take(), self.session.refuse)

    def _totals_found(self, entry: TableEntry, why: str) -> None:
        """The end of a long file is not previewed: what stands there is told once it has been read."""
        without = replace(entry.source.read_as, leave_totals=True)
        self.news.tell(
            f"{entry.name} has rows that are not data: {why}.",
            "Leave out",
            lambda: self._read_so(entry, without),
        )

    def _read_so(self, entry: TableEntry, read_as: ReadAs, shown: bool = True) -> None:
        if not self._may_read([entry]):
            return
        work = self.session.tables.rereading(entry.id, self.reading.progressed, read_as=read_as)
        self.reading.ask(work, lambda take: take(), self.session.refuse)

    def read_again(self) -> None:
        """Read the table behind the page in view again."""
        table_id = self.session.default_table()
        entry = self.session.folio.table(table_id)
        if not self._may_read([entry]):
            return
        self.status.begin(f"reading {entry.name} again …")
        work = self.session.tables.rereading(table_id, self.reading.progressed)
        self.reading.ask(work, lambda take: take(), self._not_read)

    def refresh_all(self) -> None:
        """Read the sources of all tables again."""
        if not self._may_read(self.session.folio.tables):
            return
        try:
            work = self.session.tables.refreshing(self.reading.progressed)
        except Refusal as refusal:
            self.session.refuse(refusal)
            return
        self.status.begin("reading …")
        self.reading.ask(work, lambda take: take(), self._not_read)

    def _may_read(self, entries: Iterable[TableEntry]) -> bool:
        return may_read(self.window, self.session, entries)

    def _not_read(self, refusal: Refusal) -> None:
        self.refresh()
        self.session.refuse(refusal)

    def _sources_changed(self, entries: list[TableEntry]) -> None:
        """Tables that want it are read again by themselves, the others offer it."""
        by_itself = [entry.id for entry in entries if entry.fresh == "again"]
        offered = [entry for entry in entries if entry.fresh != "again"]
        if by_itself:
            self._read_those(by_itself)
        if offered:
            files = " and ".join(entry.source.place.rsplit("/", 1)[-1] for entry in offered[:3])
            self.news.tell(
                f"{files} have changed on disk since they were read."
                if len(offered) > 1
                else f"{files} has changed on disk since {offered[0].name} was read from it.",
                "Refresh" if len(offered) == 1 else "Refresh all",
                lambda: self._read_those([entry.id for entry in offered]),
            )

    def _read_those(self, table_ids: list[str]) -> None:
        if not self._may_read([entry for entry in self.session.folio.tables if entry.id in table_ids]):
            return
        try:
            work = self.session.tables.refreshing(self.reading.progressed, table_ids)
        except Refusal as refusal:
            self.session.refuse(refusal)
            return
        self.reading.ask(work, lambda take: take(), self._not_read)

    def load_descriptions(self) -> None:
        """Descriptions of the table's fields from a file of two columns."""
        from summula.core.folio.dictionary import described_by
        from summula.core.reading.naming import READABLE

        kinds = " ".join(f"*{ending}" for ending in READABLE)
        name, _ = QFileDialog.getOpenFileName(
            self.window, "A data dictionary: fields and descriptions", "", f"Tables ({kinds})"
        )
        if not name:
            return
        entry = self.session.folio.table(self.session.default_table())

        def take(found: tuple[TableEntry, str]) -> None:
            self.session.edit(with_table(self.session.folio, found[0]), f"Describe the fields of {entry.name}")
            self.session.notice.emit(found[1], False)

        self.reading.ask(lambda: described_by(entry, Path(name)), take, self.session.refuse)

    def paste(self) -> None:
        """Cells from the clipboard, as a table of their own; or a copied file."""
        clipboard = QApplication.clipboard()
        mime = clipboard.mimeData() if clipboard is not None else None
        if mime is not None and mime.hasUrls() and mime.urls()[0].isLocalFile():
            self.open_path(Path(mime.urls()[0].toLocalFile()))
            return
        self.take_cells(mime.text() if mime is not None and mime.hasText() else "")

    def take_cells(self, text: str) -> None:
        """Cells as tab-separated text, previewed."""
        from summula.desk.pasting import pasted_file

        try:
            path = pasted_file(text)
        except Refusal as refusal:
            self.session.refuse(refusal)
            return
        self._drop_passing()
        self._passing = path
        self.preview(path, "Pasted cells")
