"""What a window keeps beside the folio's file: the journal, what was not saved, versions, recent folios, its place."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QByteArray, QObject
from PyQt6.QtWidgets import QMainWindow, QWidget

from summula.desk.journaling import Journaling
from summula.desk.work import Work

if TYPE_CHECKING:
    from summula.core.folio.unsaved import Unsaved
    from summula.desk.frame.newsbar import NewsBar
    from summula.desk.session import Session

Reading = Callable[[Callable[[], Callable[[], None]], str], None]  # of a folio, and what is said meanwhile


_WIDE = 380  # pixels


class Keeping(QObject):
    """Works for one window. `read` reads a folio in a worker and takes it onto the desk; `may_leave` asks first;
    `open_beside` opens another window, and gives what works for that one."""

    def __init__(
        self,
        window: QMainWindow,
        session: Session,
        news: NewsBar,
        read: Reading,
        may_leave: Callable[[], bool],
        open_beside: Callable[[], Keeping],
    ) -> None:
        super().__init__(window)
        self.window, self.session, self.news = window, session, news
        self._read, self._may_leave, self._open_beside = read, may_leave, open_beside
        self._looking = Work(self)
        self._remembered: Path | None = None
        self.journal = Journaling(session, self)
        session.changed.connect(lambda _: self._remember())
        session.page_changed.connect(self._remember)

    # -- what was not saved --------------------------------------------------------------------------------

    def offer_unsaved(self) -> None:
        """Offer what an earlier desk has left; it is looked for in a worker."""

        def look() -> tuple[list[Unsaved], int]:
            from summula.core.folio.unsaved import over_limit, remove, unsaved, was_offered

            found = unsaved()
            over = over_limit(found)
            for each in over:
                remove(each)
            return [each for each in found if each not in over and not was_offered(each)], len(over)

        self._looking.ask(look, self._offer, lambda _: None)

    def _offer(self, looked: tuple[list[Unsaved], int]) -> None:
        from summula.core.folio.unsaved import MAX_WORDS

        left, removed = looked
        gone = f"Unsaved work takes at most {MAX_WORDS}: the oldest ({removed}) was removed." if removed else ""
        if not left:
            if gone:
                self.news.tell(gone)
            return
        more = f" {len(left) - 1} more: find “Unsaved work”." if len(left) > 1 else ""
        first = left[0]
        words = f"{first.words}{more} {gone}".rstrip()
        if first.name:
            self.news.tell(words, "Restore", lambda: self.take_up(first))
        else:
            self.news.tell(words)
        self.news.declined = lambda: self._decline(left)

    def _decline(self, left: list[Unsaved]) -> None:
        from summula.core.folio.unsaved import MAX_WORDS, put_aside

        for each in left:
            put_aside(each)
        told = f"It is kept until you remove it, up to {MAX_WORDS} in all: find “Unsaved work”"
        self.session.notice.emit(told, False)

    def choose_unsaved(self, anchor: QWidget) -> None:
        """All that earlier desks have left, until it is removed."""
        from summula.core.folio.unsaved import MAX_WORDS

        self._choose(anchor, f"Unsaved work (kept up to {MAX_WORDS})", self.take_up)

    def choose_removed(self, anchor: QWidget) -> None:
        """Choose what an earlier desk has left, to remove it for good."""
        self._choose(anchor, "Remove for good", self._remove)

    def _choose(self, anchor: QWidget, title: str, pick: Callable[[Unsaved], object]) -> None:
        from summula.core.folio.unsaved import unsaved

        found = unsaved()
        if not found:
            self.session.notice.emit("No unsaved work", False)
            return
        from summula.desk.widgets.picklist import Pick
        from summula.desk.widgets.pickpopover import open_picks

        picks = [
            Pick(each.name or "Damaged", each, each.at.astimezone().strftime("%-d %b, %H:%M"), each.words)
            for each in found
        ]
        open_picks(anchor, title, picks, pick, _WIDE)

    def _remove(self, left: Unsaved) -> None:
        from summula.core.folio.unsaved import remove

        remove(left)
        self.session.notice.emit(f"Removed for good: {left.name or 'unsaved work that was damaged'}", False)

    def take_up(self, left: Unsaved) -> None:
        """Go on where an earlier desk ended."""
        from summula.core.folio.unsaved import put_aside, take_up

        if not self._may_leave():
            return

        def read() -> Callable[[], None]:
            opened, base = take_up(left)

            def taken() -> None:
                self.session.take_up(opened, base)
                # It is in this desk's own journal before the other is put aside.
                self.journal.afterwards(lambda: put_aside(left))

            return taken

        self._read(read, f"restoring {left.name} …")

    # -- beside it -----------------------------------------------------------------------------------------

    def open_copy(self, path: Path, words: str) -> None:
        """An earlier version in a window of its own: a copy without a name."""
        self._open_beside().read_copy(path, words)

    def read_copy(self, path: Path, words: str) -> None:
        """Take a folio onto this desk as a copy without a name of its own; it is read in a worker."""

        def read() -> Callable[[], None]:
            from summula.core.folio.file import open_folio

            opened = open_folio(path)
            name = f"{opened.folio.name} (until {words})"
            return lambda: self.session.adopt(replace(opened, folio=replace(opened.folio, name=name)))

        self._read(read, "reading an earlier version …")

    # -- recent folios ---------------------------------------------------------------------------------------

    def _remember(self) -> None:
        path = self.session.path
        if path is not None and path != self._remembered:
            from summula.core.folio.recent import desk_state, keep_desk_state, with_folio

            self._remembered = path
            keep_desk_state(with_folio(desk_state(), path))
        if self.session.elsewhere:
            words = f"“{self.session.elsewhere}” is open in another window. This is a copy: saving it asks for a name."
            self.session.elsewhere = ""
            self.news.tell(words)

    def choose_recent(self, anchor: QWidget, open_path: Callable[[Path], None]) -> None:
        from summula.core.folio.recent import recent_folios

        found = recent_folios()
        if not found:
            self.session.notice.emit("No recent folios", False)
            return
        from summula.desk.widgets.picklist import Pick
        from summula.desk.widgets.pickpopover import open_picks

        picks = [Pick(each.stem, each, str(each.parent)) for each in found]
        open_picks(anchor, "Recent folios", picks, open_path, _WIDE)

    # -- the window ------------------------------------------------------------------------------------------

    def restore(self) -> None:
        """The window as it was left."""
        from base64 import b64decode

        from summula.core.folio.recent import desk_state

        kept = desk_state().geometry
        if kept:
            self.window.restoreGeometry(QByteArray(b64decode(kept, validate=False)))

    def end(self) -> None:
        """The window closes."""
        from base64 import b64encode

        from summula.core.folio.recent import desk_state, keep_desk_state

        geometry = b64encode(self.window.saveGeometry().data()).decode("ascii")
        keep_desk_state(replace(desk_state(), geometry=geometry))
        self.journal.end()
        self.session.hold(None)
