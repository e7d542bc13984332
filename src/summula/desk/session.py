"""The one thing the desk listens to: the present folio, its history, its tables, and the page in view."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from threading import Lock
from typing import TYPE_CHECKING, TypeVar

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from summula.core.boards.board import Board
from summula.core.boards.boardstate import BoardState
from summula.core.boards.panelanswer import Asked
from summula.core.boards.panelkinds import is_known, kind_of
from summula.core.folio.basefile import Base
from summula.core.folio.change import Change, change_between
from summula.core.folio.history import History
from summula.core.folio.model import (
    SUFFIX,
    AnyPage,
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
from summula.core.grids.measurestyle import carried
from summula.core.phrases.phrase import Aggregate, Measure, Phrase
from summula.core.reading.readas import ReadAs
from summula.core.refusal import sentence
from summula.core.slicing.linking import linked_ids
from summula.core.watch import Watch, unwatched
from summula.desk.warming import warm_parser
from summula.desk.work import QUICK_ROWS

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from summula.core.boards.linkedtables import LinkedTables
    from summula.core.boards.reckoning import Reckoning
    from summula.core.folio.model import Source
    from summula.core.folio.opened import Opened
    from summula.core.folio.openlock import OpenLock
    from summula.core.folio.preparing import Preparing
    from summula.core.folio.snapshot import Snapshot
    from summula.core.language.vocabulary import Vocabulary
    from summula.core.preparation.prepare import Prepared
    from summula.core.preparation.steps import AnyStep
    from summula.core.refusal import Refusal
    from summula.core.tables.table import Table
    from summula.desk.tablework import TableWork

P = TypeVar("P", TableEntry, Summary, Board)


def describe(table: Table) -> None:
    """Describe a table's fields (call this in a worker), so that nothing waits for it when they are shown."""
    from summula.core.statistics.distribution import describe as described

    described(table)


class Session(QObject):
    """Edits go through `edit`; everything else follows from the folio it holds."""

    changed = pyqtSignal(Change)  # the folio, while the page stays
    adopted = pyqtSignal()  # another folio: what pages hold of the one before can go
    page_changed = pyqtSignal()  # the page in view, and perhaps the folio with it
    notice = pyqtSignal(str, bool)  # a sentence for the status line; whether it is a refusal
    reread = pyqtSignal(list)  # sentences on what new readings brought
    totalled = pyqtSignal(object, str)  # a table just taken in whose last row adds up the others, and why it seems so
    picked = pyqtSignal(object)  # what is selected on the page, for the margin

    def __init__(self) -> None:
        super().__init__()
        self.history = History.begun(Folio("New folio"))
        self._numbering = Lock()  # of readings: workers keep what they have read
        self.readings: dict[tuple[str, int], Table] = {}  # the rows as they were read, by source id and reading
        self.path: Path | None = None
        self.page_id = ""
        self.board_state = BoardState()
        self._saved = self.folio
        self.base = Base()  # the file as it was opened or saved
        self._lock: OpenLock | None = None  # on that file
        self.elsewhere = ""  # the name of a folio that another window has open, of which this one is a copy
        self._reckonings: dict[str, Reckoning] = {}
        self._vocabularies: dict[tuple[tuple[int, ...], tuple[str, ...]], Vocabulary] = {}
        self.problems: dict[str, list[str]] = {}  # what was set aside when the folio was opened, by page ("": of none)
        self.named: frozenset[str] = frozenset()  # full paths of files that may be read for this folio unasked
        self.snapshot: Snapshot | None = None  # what the board showed last, until its rows are there

    @cached_property
    def preparing(self) -> Preparing:
        """The folio's tables, prepared as its steps say."""
        from summula.core.folio.preparing import Preparing

        return Preparing(lambda source: self.readings[source.id, source.reading])

    @cached_property
    def tables(self) -> TableWork:
        """What is done to tables in a worker; not needed to start."""
        from summula.desk.tablework import TableWork

        return TableWork(self)

    @property
    def folio(self) -> Folio:
        return self.history.folio

    @property
    def unsaved(self) -> bool:
        return self.folio != self._saved

    # -- what is open -------------------------------------------------------------------------------

    @property
    def overtaken(self) -> bool:
        """Whether the folio's file is another than was opened or saved last: somebody else has written it."""
        return self.path is not None and self.path.exists() and Base.of(self.path) != self.base

    @property
    def untouched(self) -> bool:
        """Whether nothing is open, and nothing has been done."""
        return self.path is None and not self.folio.tables and not self.unsaved and self.snapshot is None

    def show_snapshot(self, seen: Snapshot | None) -> None:
        """Show a folio's board as it was seen last, while its rows are being read (`adopt` then takes its place); or
        (None) nothing again, where they cannot be read."""
        self.snapshot = seen
        folio, self.page_id = (seen.folio, seen.board.id) if seen is not None else (Folio("New folio"), "")
        self.history = History.begun(folio)
        self._saved = folio
        self.page_changed.emit()

    def adopt(self, opened: Opened, path: Path | None = None) -> None:
        """Make this folio the present one, with a fresh history."""
        self.snapshot = None
        self.named = self._named_for(path)
        self.history = History.begun(opened.folio)
        sources = [source for entry in opened.folio.tables for source in entry.sources()]
        self.readings = {(source.id, source.reading): opened.tables[source.id] for source in sources}
        # What was set aside would be lost by saving over the file, and so would another window's: a new name is asked.
        held = self.hold(path)
        self.elsewhere = "" if held or path is None else path.name
        self.path = None if opened.problems or self.elsewhere else path
        self.problems = {}
        for problem in opened.problems:
            self.problems.setdefault(problem.page, []).append(problem.sentence)
        self._saved = opened.folio
        self.base = Base.of(self.path)
        self._forget()
        first = next((page.id for _, page in opened.folio.pages()), "")
        self.page_id = opened.folio.boards[0].id if opened.folio.boards else first
        self.board_state = BoardState()
        self.adopted.emit()
        self.page_changed.emit()

    def _named_for(self, path: Path | None) -> frozenset[str]:
        if path is None:
            return frozenset()
        from summula.core.folio.named import named_for

        return named_for(path)

    def name_files(self, *paths: Path | str) -> None:
        """A person has named these files for the folio: they may be read again."""
        from summula.core.folio.named import full_path, keep_named

        self.named |= {full_path(Path(path)) for path in paths}
        if self.path is not None:
            keep_named(self.path, self.named)

    def unnamed_files(self, entries: Iterable[TableEntry]) -> list[str]:
        """The files that these tables come from and that nobody here has named: a folio from elsewhere does."""
        from summula.core.folio.named import places_read

        found = [place for entry in entries for place in places_read(entry, self.path)]
        return [place for place in dict.fromkeys(found) if place not in self.named]

    def hold(self, path: Path | None) -> bool:
        """Hold a folio's file instead of the one before; False where another window holds it."""
        from summula.core.folio.openlock import lock_folio

        before = self.path.resolve() if self.path is not None and self._lock is not None else None
        if path is not None and path.resolve() == before:
            return True
        found = lock_folio(path) if path is not None else None
        if path is not None and found is None:
            return False
        if self._lock is not None:
            self._lock.release()
        self._lock = found
        return True

    def take_up(self, opened: Opened, base: Base) -> None:
        """Go on with what was not saved: as it was, and not saved yet. `base`: the file it was saved to, as that was
        then; a file that has changed since is asked about before it is saved over."""
        path = Path(base.path) if base.path else None
        self.adopt(opened, path)
        self.path = None if self.elsewhere else path  # what is told is of what was kept, not of the file
        self.base = base if self.path is not None else Base()
        self._saved = Folio("")
        self.page_changed.emit()

    def _forget(self) -> None:
        self._reckonings.clear()
        self._vocabularies.clear()
        self.__dict__.pop("preparing", None)

    def opening(self, path: Path, watch: Watch = unwatched) -> Callable[[], None]:
        """Read a folio (call this in a worker); returns what takes it onto the desk (call that here)."""
        from summula.core.folio.file import open_folio, sweep  # what starting does not need

        sweep(path)  # what a desk that was killed while saving has left beside it
        opened = open_folio(path, watch)
        for table in opened.prepared().values():
            describe(table)
        warm_parser()
        return lambda: self.adopt(opened, path)

    def load(
        self,
        path: Path,
        read_as: ReadAs | None = None,
        watch: Watch = unwatched,
        name: str = "",
        *,
        shown: bool = False,
    ) -> Callable[[], None]:
        """Read a table (call this in a worker); returns what takes it in (call that here). With a name, the file is a
        passing one: the table is called so, the folio does not remember the place, and the file goes. `shown`: a person
        has seen all its rows, and decided on those that are none of the table's."""
        from summula.core.folio.merging import with_merged_as_steps
        from summula.core.reading.sandboxed import read_found

        read, settings = read_found(path, read_as, watch=watch)
        read, as_read, steps = with_merged_as_steps(path, read_as or ReadAs(), read, settings, watch)
        left_in = not name and not shown and not (read_as and read_as.leave_totals)
        why = next((each.why for each in settings if each.name == "leave_totals"), "") if left_in else ""
        if name:
            read = replace(read, name=name, source="")
            path.unlink(missing_ok=True)
        describe(read)
        warm_parser()

        def take() -> None:
            if not name:
                self.name_files(path)
            self.take_table(read, as_read, steps)
            if why:
                self.totalled.emit(self.folio.tables[-1], why)

        return take

    def take_table(self, table: Table, read_as: ReadAs | None = None, steps: tuple[AnyStep, ...] = ()) -> None:
        """Add a table that has been read, with the first steps of its preparation, and turn to its page."""
        from summula.core.folio.opened import entry_of
        from summula.desk.tablework import now

        folio, table_id = taken_id(self.folio, "t")
        name = free_name(folio, table.name)
        entry = entry_of(table_id, table, now(), read_as)
        entry = replace(entry, name=name, steps=steps)
        if not folio.tables and not folio.summaries and folio.name == "New folio":
            folio = replace(folio, name=name)
        with self._numbering:
            self.readings[table_id, 0] = table
        self.edit(with_table(folio, entry), f"Read {name}")
        self.turn_to(table_id)

    def prepared(self, table_id: str) -> Prepared:
        """The table's preparation: each step's effect, and the table after each."""
        return self.preparing.prepared(self.folio, self.folio.table(table_id))

    def keep_reading(self, source: Source, table: Table) -> Source:
        """Keep newly read rows (any thread may); returns the source under the number that it has from now on. Numbers
        that were undone are not given again."""
        with self._numbering:
            number = 1 + max((reading for known, reading in self.readings if known == source.id), default=-1)
            self.readings[source.id, number] = table
        return replace(source, reading=number)

    def files_read(self) -> tuple[Path, ...]:
        """The folio's file and those that its rows were read from: nothing else is written over them."""
        return (*((self.path,) if self.path is not None else ()), *self.folio.places())

    def writing(self, path: Path) -> Callable[[], Callable[[], None]]:
        """Writes the present folio (call this in a worker); that returns what marks it saved (call that here)."""
        path = path if path.suffix.lower() == SUFFIX else path.with_name(path.name + SUFFIX)
        folio = self.folio
        sources = [source for entry in folio.tables for source in entry.sources()]
        tables = {source.id: self.readings[source.id, source.reading] for source in sources}

        def write() -> Callable[[], None]:
            from summula.core.folio.file import save_folio
            from summula.core.folio.versions import keep_version
            from summula.core.handout.place import check_not_read

            check_not_read(path, folio.places())
            keep_version(path)
            save_folio(path, folio, tables)
            return lambda: self._wrote(path, folio)

        return write

    def save(self, path: Path) -> None:
        """Write the present folio now."""
        self.writing(path)()()

    def _wrote(self, path: Path, folio: Folio) -> None:
        self.path, self._saved = path, folio
        self.base = Base.of(path)
        self.name_files()  # in the place of what another folio there may have named
        self.notice.emit(f"Saved as {path.name}", False)
        self.changed.emit(Change())

    # -- edits --------------------------------------------------------------------------------------

    def edit(self, folio: Folio, edit_name: str, *, going_on: bool = False) -> None:
        """The present folio becomes `folio`; `edit_name` says what was done, for undo. One that is `going_on` is
        undone together with the same edit before it."""
        before = self.history
        self.history = before.did(folio, edit_name, going_on=going_on)
        if self.history is not before:
            self._settle(before.folio)

    def undo(self) -> None:
        self.go_to(self.history.undo())

    def redo(self) -> None:
        self.go_to(self.history.redo())

    def preparing_for(self, history: History) -> Callable[[], Callable[[], None]] | None:
        """Prepares the tables of an earlier or undone folio (call this in a worker), and returns what goes there (call
        that here); None where it takes no time."""
        before, folio = self.history, history.folio
        slow = [
            entry.id
            for entry in folio.tables
            if max(entry.rows, entry.source.rows) > QUICK_ROWS and not self.preparing.knows(folio, entry)
        ]
        if not slow:
            return None

        def prepare() -> Callable[[], None]:
            for table_id in slow:
                describe(self.preparing.table(folio, table_id))
            return lambda: self.go_to(history) if self.history is before else None

        return prepare

    def go_to(self, history: History) -> None:
        before, self.history = self.folio, history
        self._settle(before)

    def _settle(self, before: Folio) -> None:
        known = {page.id for _, page in self.folio.pages()}
        if self.page_id not in known:
            self.page_id = next((page.id for _, page in self.folio.pages()), "")
            self.page_changed.emit()
            return
        self.changed.emit(change_between(before, self.folio))

    def turn_to(self, page_id: str) -> None:
        if page_id != self.page_id:
            self.page_id = page_id
            self.board_state = BoardState()
            self.page_changed.emit()

    def set_board_state(self, state: BoardState) -> None:
        """Stand before the board otherwise; the page is shown anew."""
        self.board_state = state
        self.page_changed.emit()

    def page(self) -> tuple[str, AnyPage] | None:
        """The page in view as (kind, value), or None in an empty folio."""
        for kind, page in self.folio.pages():
            if page.id == self.page_id:
                return kind, page
        return None

    def page_of(self, kind: type[P]) -> P | None:
        """The page in view, where it is of a kind."""
        page = self.page()
        return page[1] if page is not None and isinstance(page[1], kind) else None

    def set_phrase(self, summary: Summary, phrase: Phrase, edit_name: str) -> None:
        measures = carried(summary.measures, summary.phrase, phrase)
        self.edit(with_summary(self.folio, replace(summary, phrase=phrase, measures=measures)), edit_name)

    def set_board(self, board: Board, edit_name: str, *, going_on: bool = False) -> None:
        self.edit(with_board(self.folio, board), edit_name, going_on=going_on)

    def new_summary(self, table_id: str, phrase: Phrase | None = None, name: str = "New summary") -> Summary:
        folio, summary_id = taken_id(self.folio, "s")
        phrase = phrase or Phrase((Measure(Aggregate("rows")),))
        summary = Summary(summary_id, free_name(folio, name), table_id, phrase, style=folio.style)
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
        others = tuple(self.table(each) for each in linked_ids(self.folio.links, table_id))
        key = (id(table), *(id(each) for each in others)), levers
        found = self._vocabularies.get(key)
        if found is None:
            from summula.core.language.vocabulary import Vocabulary

            found = Vocabulary(table, levers, others=others)
            self._vocabularies = {key: found, **dict(list(self._vocabularies.items())[:7])}
        return found

    def others(self, table_id: str) -> LinkedTables:
        """The tables that figures beside those of a table may be of."""
        from summula.core.boards.linkedtables import LinkedTables

        tables = {each: self.table(each) for each in linked_ids(self.folio.links, table_id)}
        return LinkedTables(table_id, tables, self.folio.links)

    def reckoning(self, board: Board) -> Reckoning:
        """The board's answers; kept from one folio to the next so that only what changed is worked out."""
        phrases, levers = self.folio.phrases(), self.folio.levers
        shown = {slicer.table for slicer in board.slicers}
        shown |= {
            kind_of(each).table_of(each, Asked(phrases)) for each in board.panels if is_known(each, Asked(phrases))
        }
        shown |= {other for each in list(shown) for other in linked_ids(self.folio.links, each)}
        tables = {entry.id: self.table(entry.id) for entry in self.folio.tables if entry.id in shown}
        before = self._reckonings.get(board.id)
        looks = self.folio.looks()
        if before is None:
            from summula.core.boards.reckoning import Reckoning

            found = Reckoning(
                tables, phrases, looks, levers, self.folio.read_at(), self.folio.links, self.folio.pictures
            )
        else:
            found = replace(
                before, tables=tables, phrases=phrases, looks=looks, levers=levers,
                read_at=self.folio.read_at(), links=self.folio.links, pictures=self.folio.pictures,
            )  # fmt: skip
        self._reckonings[board.id] = found
        return found

    def default_table(self) -> str:
        """The table that the page in view is about."""
        page = self.page()
        match page[1] if page is not None else None:
            case TableEntry(id=found) | Summary(table=found):
                return found
            case Board() as board:
                reckoning, asked = self.reckoning(board), Asked(self.folio.phrases())
                shown = [reckoning.table_of(panel) for panel in board.panels if is_known(panel, asked)]
                about = [each for each in (*(slicer.table for slicer in board.slicers), *shown) if each]
                if about:
                    return about[0]
            case None:
                pass
        return self.folio.tables[0].id if self.folio.tables else ""

    def refuse(self, refusal: Refusal) -> None:
        self.notice.emit(sentence(refusal), True)
