"""What is done to tables in a worker: their sources read again, rows added, their preparation changed.

Each method returns work for another thread; what that returns takes the outcome in, in the window's own thread.
"""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.fields.heading import Heading
from summula.core.folio.model import (
    Folio,
    Source,
    Summary,
    TableEntry,
    with_summary,
    with_table,
)
from summula.core.folio.opened import source_of
from summula.core.folio.renaming import renamed
from summula.core.folio.rereading import Reread, read_again, read_like, reading_account, settled
from summula.core.phrases.members import exchanged
from summula.core.preparation.editing import bundled
from summula.core.preparation.steps import AnyStep, Append
from summula.core.refusal import Refusal
from summula.core.statistics.distribution import describe
from summula.core.watch import Watch, unwatched

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence
    from pathlib import Path

    from summula.core.reading.readas import ReadAs
    from summula.core.tables.table import Table
    from summula.desk.session import Session


def now() -> str:
    """The present minute, as a folio remembers when it was read."""
    return datetime.now().strftime("%Y-%m-%d %H:%M")


def _after_appends(steps: tuple[AnyStep, ...], new: Append) -> tuple[AnyStep, ...]:
    """Added rows come before the steps that work on rows, so that they go through them as well."""
    at = next((place for place, step in enumerate(steps) if not isinstance(step, Append)), len(steps))
    return (*steps[:at], new, *steps[at:])


class TableWork:
    """Works for one session."""

    def __init__(self, session: Session) -> None:
        self.session = session

    def rereading(
        self, table_id: str, watch: Watch = unwatched, place: Path | None = None, read_as: ReadAs | None = None
    ) -> Callable[[], Callable[[], None]]:
        """Reads a table's sources again (call this in a worker), the first from `place` where one is given; that
        returns what takes them in (call that here). With other settings, kinds are sensed anew."""
        entry, path = self.session.folio.table(table_id), self.session.path
        if read_as is not None:
            source = replace(entry.source, read_as=read_as, fields=())
            entry = replace(entry, source=source)

        def read() -> Callable[[], None]:
            reread = read_again(entry, path, now(), watch, place)
            return self._keeping([reread], f"Read {entry.name} again")

        return read

    def refreshing(
        self, watch: Watch = unwatched, only: Sequence[str] | None = None
    ) -> Callable[[], Callable[[], None]]:
        """Reads the sources of all tables (or only of these) again, as far as they come from files; one that cannot be
        read is told, and keeps the rows it has."""
        folio, path = self.session.folio, self.session.path
        entries = [entry for entry in folio.tables if entry.source.place and (only is None or entry.id in only)]
        if not entries:
            raise Refusal("no table of this folio came from a file", "open the file it should be read from")

        def read() -> Callable[[], None]:
            reread, refused = [], []
            for entry in entries:
                try:
                    reread.append(read_again(entry, path, now(), watch))
                except Refusal as refusal:
                    refused.append(f"{entry.name}: {refusal}")
            if not reread:
                raise Refusal("nothing could be read again: " + "; ".join(refused), "check where the files are")
            which = ", ".join(each.entry.name for each in reread[:3]) if only is not None else "all tables"
            return self._keeping(reread, f"Read {which} again", refused)

        return read

    def _changing(self, change: Callable[[Folio], Folio], edit_name: str) -> Callable[[], None]:
        """A change of tables prepared (in a worker); returns what does it. It is done to the folio of that moment: what
        has been edited meanwhile stays, and the preparations made here are at hand then."""
        before = self.session.folio
        after = self._settled(change(before))
        for entry in after.tables:
            if entry not in before.tables:
                describe(self.session.preparing.table(after, entry.id))
        return lambda: self.session.edit(self._settled(change(self.session.folio)), edit_name)

    def _settled(self, folio: Folio) -> Folio:
        """The folio with the rows and fields that its preparations come to: of all tables, as one may look up in
        another."""
        for entry in folio.tables:
            folio = with_table(folio, settled(folio, entry, self.session.preparing))
        return folio

    def _keeping(
        self, reread: list[Reread], edit_name: str, refused: Sequence[str] = (), steps: Sequence[Append] = ()
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

        do = self._changing(change, edit_name)

        def take() -> None:
            def present() -> list[tuple[TableEntry, Table]]:
                return [(self.session.folio.table(entry.id), self.session.table(entry.id)) for entry in entries]

            before = present()
            do()
            sentences = [reading_account(was, now) for was, now in zip(before, present(), strict=True)]
            self.session.notice.emit(" · ".join(sentences), False)
            self.session.reread.emit([f"{sentence}." for sentence in [*sentences, *refused]])

        return take

    def _numbered(self, source: Source, tables: dict[str, Table]) -> Source:
        """A newly read source under a number of its own, and its rows kept under it: numbers that were undone are not
        given again."""
        if source.id not in tables:
            return source
        return self.session.keep_reading(source, tables[source.id])

    def appending(self, table_id: str, paths: list[Path], watch: Watch = unwatched) -> Callable[[], Callable[[], None]]:
        """Reads files and appends their rows to a table (call this in a worker); returns what takes them in."""
        entry = self.session.folio.table(table_id)

        def read() -> Callable[[], None]:
            tables: dict[str, Table] = {}
            sources, steps = [], []
            first = 1 + max((int(each.id.rpartition("-")[2]) for each in entry.appended), default=0)
            for number, path in enumerate(paths, start=first):
                table = read_like(entry.source, path, watch)
                source = source_of(f"{entry.id}-{number}", table, now(), entry.source.read_as)
                tables[source.id] = table
                sources.append(source)
                steps.append(Append(source.id, path.name))
            grown = replace(entry, appended=(*entry.appended, *sources))
            names = ", ".join(path.name for path in paths[:3])
            return self._keeping([Reread(grown, tables)], f"Add rows of {names}", steps=steps)

        return read

    def stepping(self, table_id: str, steps: tuple[AnyStep, ...], edit_name: str) -> Callable[[], Callable[[], None]]:
        """Does a table's preparation with other steps (call this in a worker); returns what takes it in."""
        used = {step.part for step in steps if isinstance(step, Append)}

        def change(folio: Folio) -> Folio:
            entry = folio.table(table_id)
            appended = tuple(each for each in entry.appended if each.id in used)
            return with_table(folio, replace(entry, steps=steps, appended=appended))

        return lambda: self._changing(change, edit_name)

    def bundling(
        self, summary: Summary, heading: Heading, name: str, members: Sequence[str]
    ) -> Callable[[], Callable[[], None]]:
        """Bundles some members of a summary's heading (call this in a worker); returns what takes it in: the bundles'
        field then stands in the heading's place."""
        taken = {field.name for field in self.session.table(summary.table).fields}

        def change(folio: Folio) -> Folio:
            entry = folio.table(summary.table)
            steps, called = bundled(entry.steps, heading.field, name, members, taken)
            folio = with_table(folio, replace(entry, steps=steps))
            now = folio.summary(summary.id)
            phrase = exchanged(now.phrase, heading, Heading(called))
            return with_summary(folio, replace(now, phrase=phrase))

        return lambda: self._changing(change, f"Group {name}")

    def renaming(self, table_id: str, old: str, new: str) -> Callable[[], Callable[[], None]]:
        """Calls a field otherwise (call this in a worker); returns what takes it in. What names the field follows."""
        if self.session.table(table_id).has(new):
            raise Refusal(f"there is a field '{new}' already", "choose another name")

        def change(folio: Folio) -> Folio:
            return renamed(folio, folio.table(table_id), old, new)

        return lambda: self._changing(change, f"{old} is called {new}")
