"""The one thing the desk listens to: the present folio, its history, its tables, and the page in view."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal

from summula.core.boards.board import Board
from summula.core.boards.reckoning import Reckoning
from summula.core.folio.file import open_folio, save_folio
from summula.core.folio.history import History
from summula.core.folio.model import (
    SUFFIX,
    Folio,
    Summary,
    TableEntry,
    free_name,
    taken_id,
    with_board,
    with_summary,
    with_table,
    without_page,
)
from summula.core.folio.opened import Opened, entry_of, with_fields
from summula.core.folio.rereading import read_again, refreshed, source_of, told
from summula.core.refusal import Refusal
from summula.core.statistics.distribution import describe
from summula.core.summaries.phrase import Aggregate, Measure, Phrase
from summula.core.summaries.vocabulary import Vocabulary
from summula.core.tables.field import Field
from summula.core.tables.table import Table


def warm_up() -> None:
    """Make the parser ready (call this in a worker): the first phrase then need not wait for it."""
    from summula.core.summaries.parsetable import parser

    parser()


class Session(QObject):
    """Edits go through `edit`; everything else follows from the folio it holds."""

    changed = pyqtSignal()  # the folio, while the page stays
    page_changed = pyqtSignal()  # the page in view, and perhaps the folio with it
    told = pyqtSignal(str, bool)  # a sentence for the status line; whether it is a refusal
    picked = pyqtSignal(object)  # what is selected on the page, for the margin

    def __init__(self) -> None:
        super().__init__()
        self.history = History.begun(Folio("New folio"))
        self._read: dict[tuple[str, int], Table] = {}  # by table id and reading
        self.path: Path | None = None
        self.page_id = ""
        self.arranging = False
        self._saved = self.folio
        self._reckonings: dict[str, Reckoning] = {}
        self._vocabularies: dict[int, Vocabulary] = {}
        self._views: dict[tuple[str, int, tuple[Field, ...]], Table] = {}

    @property
    def folio(self) -> Folio:
        return self.history.folio

    @property
    def unsaved(self) -> bool:
        return self.folio != self._saved

    # -- what is open -------------------------------------------------------------------------------

    def adopt(self, opened: Opened, path: Path | None = None) -> None:
        """Make this folio the present one, with a fresh history."""
        self.history = History.begun(opened.folio)
        self._read = {(entry.id, entry.reading): opened.tables[entry.id] for entry in opened.folio.tables}
        self.path = path
        self._saved = opened.folio
        self._forget()
        first = next((page.id for _, page in opened.folio.pages()), "")
        self.page_id = opened.folio.boards[0].id if opened.folio.boards else first
        self.arranging = False
        self.page_changed.emit()

    def _forget(self) -> None:
        self._reckonings.clear()
        self._vocabularies.clear()
        self._views.clear()

    def load(self, path: Path) -> Callable[[], None]:
        """Read a file (call this in a worker); returns what takes it into the desk (call that here)."""
        if path.suffix.lower() == SUFFIX:
            opened = open_folio(path)
            for table in opened.tables.values():
                describe(table)
            warm_up()
            return lambda: self.adopt(opened, path)
        from summula.core.reading.readers import read_table

        read = read_table(path)
        describe(read)
        warm_up()
        return lambda: self.take_table(read)

    def take_table(self, table: Table) -> None:
        """Add a table that has been read, and turn to its page."""
        folio, table_id = taken_id(self.folio, "t")
        name = free_name(folio, table.name)
        entry = entry_of(table_id, table, datetime.now().strftime("%H:%M"))
        entry = msgspec.structs.replace(entry, name=name)
        if not folio.tables and not folio.summaries and folio.name == "New folio":
            folio = msgspec.structs.replace(folio, name=name)
        self._read[table_id, entry.reading] = table
        self.edit(with_table(folio, entry), f"Read {name}")
        self.turn_to(table_id)

    def rereading(self, table_id: str) -> Callable[[], Callable[[], None]]:
        """Reads a table's source again (call this in a worker); that returns what takes it in (call that here)."""
        entry = self.folio.table(table_id)
        source = source_of(entry, self.path)

        def read() -> Callable[[], None]:
            table = read_again(entry, source)
            describe(table)
            return lambda: self._take_reading(table_id, table)

        return read

    def _take_reading(self, table_id: str, table: Table) -> None:
        before = self.folio.table(table_id)
        after = refreshed(before, table, datetime.now().strftime("%H:%M"))
        self._read[table_id, after.reading] = table
        self.edit(with_table(self.folio, after), f"Read {after.name} again")
        self.told.emit(told(before, after), False)

    def writing(self, path: Path) -> Callable[[], Callable[[], None]]:
        """Writes the present folio (call this in a worker); that returns what marks it saved (call that here)."""
        path = path if path.suffix.lower() == SUFFIX else path.with_name(path.name + SUFFIX)
        folio = self.folio
        tables = {entry.id: self.table(entry.id) for entry in folio.tables}

        def write() -> Callable[[], None]:
            save_folio(path, folio, tables)
            return lambda: self._wrote(path, folio)

        return write

    def save(self, path: Path) -> None:
        """Write the present folio now."""
        self.writing(path)()()

    def _wrote(self, path: Path, folio: Folio) -> None:
        self.path, self._saved = path, folio
        self.told.emit(f"Saved as {path.name}", False)
        self.changed.emit()

    # -- edits --------------------------------------------------------------------------------------

    def edit(self, folio: Folio, deed: str) -> None:
        """The present folio becomes `folio`; `deed` says what was done, for undo."""
        before = self.history
        self.history = before.did(folio, deed)
        if self.history is not before:
            self._settle()

    def undo(self) -> None:
        self.history = self.history.undo()
        self._settle()

    def redo(self) -> None:
        self.history = self.history.redo()
        self._settle()

    def _settle(self) -> None:
        known = {page.id for _, page in self.folio.pages()}
        if self.page_id not in known:
            self.page_id = next((page.id for _, page in self.folio.pages()), "")
            self.page_changed.emit()
            return
        self.changed.emit()

    def turn_to(self, page_id: str) -> None:
        if page_id != self.page_id:
            self.page_id = page_id
            self.arranging = False
            self.page_changed.emit()

    def page(self) -> tuple[str, Any] | None:
        """The page in view as (kind, value), or None in an empty folio."""
        for kind, page in self.folio.pages():
            if page.id == self.page_id:
                return kind, page
        return None

    def set_phrase(self, summary: Summary, phrase: Phrase, deed: str) -> None:
        self.edit(with_summary(self.folio, msgspec.structs.replace(summary, phrase=phrase)), deed)

    def set_board(self, board: Board, deed: str) -> None:
        self.edit(with_board(self.folio, board), deed)

    def new_summary(self, table_id: str, phrase: Phrase | None = None, name: str = "New summary") -> Summary:
        folio, summary_id = taken_id(self.folio, "s")
        phrase = phrase or Phrase((Measure(Aggregate("rows")),))
        summary = Summary(summary_id, free_name(folio, name), table_id, phrase)
        self.edit(with_summary(folio, summary), f"New summary {summary.name}")
        self.turn_to(summary_id)
        return summary

    def new_board(self, name: str = "New board") -> Board:
        folio, board_id = taken_id(self.folio, "b")
        board = Board(board_id, free_name(folio, name))
        self.edit(with_board(folio, board), f"New board {board.name}")
        self.turn_to(board_id)
        return board

    def remove_page(self, page_id: str) -> None:
        name = next((page.name for _, page in self.folio.pages() if page.id == page_id), "")
        self.edit(without_page(self.folio, page_id), f"Remove {name}")

    def rename(self, page_id: str, name: str) -> None:
        name = " ".join(name.split())
        for kind, page in self.folio.pages():
            if page.id == page_id and name and page.name != name:
                renamed = msgspec.structs.replace(page, name=name)
                put = {"table": with_table, "summary": with_summary, "board": with_board}[kind]
                self.edit(put(self.folio, renamed), f"Rename to {name}")  # type: ignore[operator]

    # -- what follows from it ---------------------------------------------------------------------

    def table(self, table_id: str) -> Table:
        """The table, as it was read, under the folio's present kinds and descriptions of its fields."""
        entry = self.folio.table(table_id)
        return self.view(entry, entry.fields)

    def view(self, entry: TableEntry, fields: tuple[Field, ...]) -> Table:
        """A table under some fields; the latest few are kept, since undo comes back to them."""
        key = (entry.id, entry.reading, fields)
        found = self._views.get(key)
        if found is None:
            found = with_fields(self._read[entry.id, entry.reading], fields)
            self._views = {**dict(list(self._views.items())[-7:]), key: found}
        return found

    def vocabulary(self, table_id: str) -> Vocabulary:
        table = self.table(table_id)
        found = self._vocabularies.get(id(table))
        if found is None:
            found = Vocabulary(table)
            self._vocabularies = {id(table): found, **dict(list(self._vocabularies.items())[:7])}
        return found

    def reckoning(self, board: Board) -> Reckoning:
        """The board's answers; kept from one folio to the next so that only what changed is worked out."""
        found = self._reckonings.get(board.id)
        tables = {entry.id: self.table(entry.id) for entry in self.folio.tables}
        if found is None:
            found = Reckoning(tables, self.folio.phrases())
            self._reckonings[board.id] = found
        found.tables, found.phrases = tables, self.folio.phrases()
        return found

    def default_table(self) -> str:
        """The table that the page in view is about."""
        page = self.page()
        if page is not None:
            kind, value = page
            if kind == "table":
                return str(value.id)
            if kind == "summary":
                return str(value.table)
            for slicer in value.slicers:
                return str(slicer.table)
            for panel in value.panels:
                found = self.reckoning(value)
                try:
                    return found.table_of(panel)
                except KeyError:
                    continue
        return self.folio.tables[0].id if self.folio.tables else ""

    def refuse(self, refusal: Refusal) -> None:
        sentence = str(refusal)
        self.told.emit(sentence[:1].upper() + sentence[1:] + ".", True)
