"""What is handed out is made and written in a worker; the status line tells how it went."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QGuiApplication

from summula.core.fields.figures import plural
from summula.core.handout.place import put_in_place
from summula.desk.work import Work

if TYPE_CHECKING:
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.session import Session


class FileWriting(QObject):
    """Works for one window."""

    def __init__(self, window: QObject, session: Session, status: StatusLine) -> None:
        super().__init__(window)
        self.session = session
        self.work = Work(self)
        status.attend(self.work, "exporting …")

    def write(self, name: str, make: Callable[[], bytes | str]) -> None:
        """Write what `make` makes (it runs in the worker) to a file; text as UTF-8."""
        path, read = Path(name), self.session.files_read()

        def write() -> None:
            made = make()
            self.work.progressed(0)  # what was cancelled meanwhile is not written
            put_in_place(path, made.encode("utf-8") if isinstance(made, str) else made, read)

        self.work.ask(write, lambda _: self.session.notice.emit(f"Saved to {path.name}", False), self.session.refuse)

    def write_all(self, places: Sequence[Path], make: Callable[[], Iterator[bytes]]) -> None:
        """Write what `make` makes one after the other (in the worker) to these files."""
        read = self.session.files_read()

        def write() -> None:
            for place, made in zip(places, make(), strict=True):
                self.work.progressed(0)
                put_in_place(place, made, read)

        words = f"{plural(len(places), 'file')} written, from {places[0].name} on"
        self.work.ask(write, lambda _: self.session.notice.emit(words, False), self.session.refuse)

    def do(self, work: Callable[[], str]) -> None:
        """Do something else in the worker; it returns what is said of it."""
        self.work.ask(work, lambda words: self.session.notice.emit(words, False), self.session.refuse)

    def copy(self, make: Callable[[], str], notice: str) -> None:
        """Put what `make` makes (in the worker) on the clipboard; `told` says so."""

        def put(text: str) -> None:
            clipboard = QGuiApplication.clipboard()
            if clipboard is not None:
                clipboard.setText(text)
                self.session.notice.emit(notice, False)

        self.work.ask(make, put, self.session.refuse)
