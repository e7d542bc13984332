"""The one thing the desk listens to: the present folio, its history, its tables, and the page in view."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from summula.core.boards.board import Board
from summula.core.boards.reckoning import Reckoning
from summula.core.fields.heading import Heading
from summula.core.folio.history import History
from summula.core.folio.model import (
    SUFFIX,
    Folio,
    Source,
    Summary,
    free_name,
    taken_id,
    with_board,
    with_summary,
    with_table,
    without_page,
)
from summula.core.folio.opened import Opened, entry_of, source_of
from summula.core.folio.preparing import Preparing
from summula.core.folio.renaming import renamed
from summula.core.folio.rereading import Reread, read_again, settled, told
from summula.core.folio.seen import Seen
from summula.core.preparation import Prepared
from summula.core.preparation.editing import bundled
from summula.core.preparation.steps import AnyStep, Append
from summula.core.reading.readas import ReadAs, Watch, unwatched
from summula.core.refusal import Refusal
from summula.core.statistics.distribution import describe
from summula.core.summaries.dress import carried_dresses
from summula.core.summaries.language.vocabulary import Vocabulary
from summula.core.summaries.members import exchanged
from summula.core.summaries.phrase import Aggregate, Measure, Phrase
from summula.core.tables.table import Table


def warm_up() -> None:
    """Make the parser ready (call this in a worker): the first phrase then need not wait for it."""
    from summula.core.summaries.language.parsetable import parser

    parser()


def _now() -> str:
    return datetime.now().strftime("%Y-%m-%d %H:%M")


def _after_appends(steps: tuple[AnyStep, ...], new: Append) -> tuple[AnyStep, ...]:
    """Added rows come before the steps that work on rows, so that they go through them as well."""
    at = next((place for place, step in enumerate(steps) if not isinstance(step, Append)), len(steps))
    return (*steps[:at], new, *steps[at:])


class Session(QObject):
    """Edits go through `edit`; everything else follows from the folio it holds."""

    changed = pyqtSignal()  # the folio, while the page stays
    page_changed = pyqtSignal()  # the page in view, and perhaps the folio with it
    told = pyqtSignal(str, bool)  # a sentence for the status line; whether it is a refusal
    reread = pyqtSignal(list)  # sentences on what new readings brought
    picked = pyqtSignal(object)  # what is selected on the page, for the margin

    def __init__(self) -> None:
        super().__init__()
        self.history = History.begun(Folio("New folio"))
        self._read: dict[tuple[str, int], Table] = {}  # the rows as they were read, by source id and reading
        self.preparing = self._fresh_preparing()
        self.path: Path | None = None
        self.page_id = ""
        self.arranging = False
        self._saved = self.folio
        self._reckonings: dict[str, Reckoning] = {}
        self._vocabularies: dict[tuple[int, tuple[str, ...]], Vocabulary] = {}
        self.seen: Seen | None = None  # what the board showed last, until its rows are there

    def _fresh_preparing(self) -> Preparing:
        return Preparing(lambda source: self._read[source.id, source.reading])

    @property
    def folio(self) -> Folio:
        return self.history.folio

    @property
    def unsaved(self) -> bool:
        return self.folio != self._saved

    # -- what is open -------------------------------------------------------------------------------

    @property
    def untouched(self) -> bool:
        """Whether nothing is open, and nothing has been done."""
        return self.path is None and not self.folio.tables and not self.unsaved and self.seen is None

    def foresee(self, seen: Seen | None) -> None:
        """Show a folio's board as it was seen last, while its rows are being read (`adopt` then takes its place); or
        (None) nothing again, where they cannot be read."""
        self.seen = seen
        folio, self.page_id = (seen.folio, seen.board) if seen is not None else (Folio("New folio"), "")
        self.history = History.begun(folio)
        self._saved = folio
        self.page_changed.emit()

    def adopt(self, opened: Opened, path: Path | None = None) -> None:
        """Make this folio the present one, with a fresh history."""
        self.seen = None
        self.history = History.begun(opened.folio)
        sources = [source for entry in opened.folio.tables for source in entry.sources()]
        self._read = {(source.id, source.reading): opened.tables[source.id] for source in sources}
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
        self.preparing = self._fresh_preparing()

    def opening(self, path: Path) -> Callable[[], None]:
        """Read a folio (call this in a worker); returns what takes it onto the desk (call that here)."""
        from summula.core.folio.file import open_folio  # what starting does not need

        opened = open_folio(path)
        for table in opened.prepared().values():
            describe(table)
        warm_up()
        return lambda: self.adopt(opened, path)

    def load(
        self, path: Path, read_as: ReadAs | None = None, watch: Watch = unwatched, name: str = ""
    ) -> Callable[[], None]:
        """Read a table (call this in a worker); returns what takes it in (call that here). With a name, the file is a
        passing one: the table is called so, the folio does not remember the place, and the file goes."""
        from summula.core.reading.readers import read_table

        read = read_table(path, read_as, watch=watch)
        if name:
            read = replace(read, name=name, source="")
            path.unlink(missing_ok=True)
        describe(read)
        warm_up()
        return lambda: self.take_table(read, read_as)

    def take_table(self, table: Table, read_as: ReadAs | None = None) -> None:
        """Add a table that has been read, and turn to its page."""
        folio, table_id = taken_id(self.folio, "t")
        name = free_name(folio, table.name)
        entry = entry_of(table_id, table, _now(), read_as)
        entry = replace(entry, name=name)
        if not folio.tables and not folio.summaries and folio.name == "New folio":
            folio = replace(folio, name=name)
        self._read[table_id, 0] = table
        self.edit(with_table(folio, entry), f"Read {name}")
        self.turn_to(table_id)

    def rereading(
        self, table_id: str, watch: Watch = unwatched, place: Path | None = None, read_as: ReadAs | None = None
    ) -> Callable[[], Callable[[], None]]:
        """Reads a table's sources again (call this in a worker), the first from `place` where one is given; that
        returns what takes them in (call that here). With other settings, kinds are sensed anew."""
        entry, path = self.folio.table(table_id), self.path
        if read_as is not None:
            source = replace(entry.source, read_as=read_as, fields=())
            entry = replace(entry, source=source)

        def read() -> Callable[[], None]:
            reread = read_again(entry, path, _now(), watch, place)
            return self._keeping([reread], f"Read {entry.name} again")

        return read

    def refreshing(
        self, watch: Watch = unwatched, only: Sequence[str] | None = None
    ) -> Callable[[], Callable[[], None]]:
        """Reads the sources of all tables (or only of these) again, as far as they come from files; one that cannot be
        read is told, and keeps the rows it has."""
        folio, path = self.folio, self.path
        entries = [entry for entry in folio.tables if entry.source.place and (only is None or entry.id in only)]
        if not entries:
            raise Refusal("no table of this folio came from a file", "open the file it should be read from")

        def read() -> Callable[[], None]:
            reread, refused = [], []
            for entry in entries:
                try:
                    reread.append(read_again(entry, path, _now(), watch))
                except Refusal as refusal:
                    refused.append(f"{entry.name}: {refusal}")
            if not reread:
                raise Refusal("nothing could be read again: " + "; ".join(refused), "see where the files are")
            which = ", ".join(each.entry.name for each in reread[:3]) if only is not None else "all tables"
            return self._keeping(reread, f"Read {which} again", refused)

        return read

    def _changing(self, change: Callable[[Folio], Folio], deed: str) -> Callable[[], None]:
        """A change of tables prepared (in a worker); returns what does it. It is done to the folio of that moment: what
        has been edited meanwhile stays, and the preparations made here are at hand then."""
        before = self.folio
        after = self._settled(change(before))
        for entry in after.tables:
            if entry not in before.tables:
                describe(self.preparing.table(after, entry.id))
        return lambda: self.edit(self._settled(change(self.folio)), deed)

    def _settled(self, folio: Folio) -> Folio:
        """The folio with the rows and fields that its preparations come to: of all tables, as one may look up in
        another."""
        for entry in folio.tables:
            folio = with_table(folio, settled(folio, entry, self.preparing))
        return folio

    def _keeping(
        self, reread: list[Reread], deed: str, refused: Sequence[str] = (), steps: Sequence[Append] = ()
    ) -> Callable[[], None]:
        """The rows of newly read sources kept and prepared (in a worker); returns what makes them the tables. `steps`
        are put in as well, where they append sources that are new."""
        entries = [each.entry for each in reread]
        fresh = {
            source.id: self._numbered(source, each.tables)
            for each in reread
            for source in each.entry.sources()
            if source.id in each.tables
        }

        def change(folio: Folio) -> Folio:
            for entry in entries:
                now = folio.table(entry.id)
                known = {source.id for source in now.sources()}
                added = tuple(fresh[each.id] for each in entry.appended if each.id in fresh and each.id not in known)
                appended = tuple(fresh.get(each.id, each) for each in now.appended) + added
                prepared = now.steps
                for step in steps:
                    prepared = _after_appends(prepared, step)
                source = fresh.get(now.source.id, now.source)
                changed = replace(now, source=source, appended=appended, steps=prepared)
                folio = with_table(folio, changed)
            return folio

        do = self._changing(change, deed)

        def take() -> None:
            before = {entry.id: self.table(entry.id) for entry in entries}
            do()
            sentences = [told(before[entry.id], self.table(entry.id), entry.name) for entry in entries]
            self.told.emit(" · ".join(sentences), False)
            self.reread.emit([f"{sentence}." for sentence in [*sentences, *refused]])

        return take

    def _numbered(self, source: Source, tables: dict[str, Table]) -> Source:
        """A newly read source under a number of its own, and its rows kept under it: numbers that were undone are not
        given again."""
        if source.id not in tables:
            return source
        number = 1 + max((reading for known, reading in self._read if known == source.id), default=-1)
        self._read[source.id, number] = tables[source.id]
        return replace(source, reading=number)

    def appending(self, table_id: str, paths: list[Path], watch: Watch = unwatched) -> Callable[[], Callable[[], None]]:
        """Reads files and appends their rows to a table (call this in a worker); returns what takes them in."""
        entry = self.folio.table(table_id)

        def read() -> Callable[[], None]:
            from summula.core.reading.readers import read_table

            tables: dict[str, Table] = {}
            sources, steps = [], []
            kinds = {field.name: field.kind for field in entry.source.fields}
            first = 1 + max((int(each.id.rpartition("-")[2]) for each in entry.appended), default=0)
            for number, path in enumerate(paths, start=first):
                table = read_table(path, entry.source.read_as, kinds, watch)
                source = source_of(f"{entry.id}-{number}", table, _now(), entry.source.read_as)
                tables[source.id] = table
                sources.append(source)
                steps.append(Append(source.id, path.name))
            grown = replace(entry, appended=(*entry.appended, *sources))
            names = ", ".join(path.name for path in paths[:3])
            return self._keeping([Reread(grown, tables)], f"Add rows of {names}", steps=steps)

        return read

    def stepping(self, table_id: str, steps: tuple[AnyStep, ...], deed: str) -> Callable[[], Callable[[], None]]:
        """Does a table's preparation with other steps (call this in a worker); returns what takes it in."""
        used = {step.part for step in steps if isinstance(step, Append)}

        def change(folio: Folio) -> Folio:
            entry = folio.table(table_id)
            appended = tuple(each for each in entry.appended if each.id in used)
            return with_table(folio, replace(entry, steps=steps, appended=appended))

        return lambda: self._changing(change, deed)

    def bundling(
        self, summary: Summary, heading: Heading, name: str, members: Sequence[str]
    ) -> Callable[[], Callable[[], None]]:
        """Bundles some members of a summary's heading (call this in a worker); returns what takes it in: the bundles'
        field then stands in the heading's place."""
        taken = {field.name for field in self.table(summary.table).fields}

        def change(folio: Folio) -> Folio:
            entry = folio.table(summary.table)
            steps, called = bundled(entry.steps, heading.field, name, members, taken)
            folio = with_table(folio, replace(entry, steps=steps))
            now = folio.summary(summary.id)
            phrase = exchanged(now.phrase, heading, Heading(called))
            return with_summary(folio, replace(now, phrase=phrase))

        return lambda: self._changing(change, f"Bundle {name}")

    def renaming(self, table_id: str, old: str, new: str) -> Callable[[], Callable[[], None]]:
        """Calls a field otherwise (call this in a worker); returns what takes it in. What names the field follows."""
        if self.table(table_id).has(new):
            raise Refusal(f"there is a field '{new}' already", "choose another name")

        def change(folio: Folio) -> Folio:
            return renamed(folio, folio.table(table_id), old, new)

        return lambda: self._changing(change, f"{old} is called {new}")

    def prepared(self, table_id: str) -> Prepared:
        """The table's preparation: each step's effect, and the table after each."""
        return self.preparing.prepared(self.folio, self.folio.table(table_id))

    def writing(self, path: Path) -> Callable[[], Callable[[], None]]:
        """Writes the present folio (call this in a worker); that returns what marks it saved (call that here)."""
        path = path if path.suffix.lower() == SUFFIX else path.with_name(path.name + SUFFIX)
        folio = self.folio
        sources = [source for entry in folio.tables for source in entry.sources()]
        tables = {source.id: self._read[source.id, source.reading] for source in sources}

        def write() -> Callable[[], None]:
            from summula.core.folio.file import save_folio

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

    def edit(self, folio: Folio, deed: str, *, going_on: bool = False) -> None:
        """The present folio becomes `folio`; `deed` says what was done, for undo. One that is `going_on` is undone
        together with the same deed before it."""
        before = self.history
        self.history = before.did(folio, deed, going_on=going_on)
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
        dresses = carried_dresses(summary.dresses, summary.phrase, phrase)
        self.edit(with_summary(self.folio, replace(summary, phrase=phrase, dresses=dresses)), deed)

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
                renamed = replace(page, name=name)
                put = {"table": with_table, "summary": with_summary, "board": with_board}[kind]
                self.edit(put(self.folio, renamed), f"Rename to {name}")  # type: ignore[operator]

    # -- what follows from it ---------------------------------------------------------------------

    def table(self, table_id: str) -> Table:
        """The table: its preparation done, its fields described as the present folio says."""
        return self.preparing.table(self.folio, table_id)

    def vocabulary(self, table_id: str) -> Vocabulary:
        table, levers = self.table(table_id), tuple(each.name for each in self.folio.levers)
        found = self._vocabularies.get((id(table), levers))
        if found is None:
            found = Vocabulary(table, levers)
            self._vocabularies = {(id(table), levers): found, **dict(list(self._vocabularies.items())[:7])}
        return found

    def reckoning(self, board: Board) -> Reckoning:
        """The board's answers; kept from one folio to the next so that only what changed is worked out."""
        found = self._reckonings.get(board.id)
        tables = {entry.id: self.table(entry.id) for entry in self.folio.tables}
        if found is None:
            found = Reckoning(tables, self.folio.phrases(), self.folio.worn())
            self._reckonings[board.id] = found
        found.tables, found.phrases, found.worn = tables, self.folio.phrases(), self.folio.worn()
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
