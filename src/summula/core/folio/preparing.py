"""The preparations of a folio's tables, kept from one folio to the next so that only what changed is done again."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from summula.core.preparation.prepare import Prepared, described, prepare
from summula.core.preparation.steps import AddLookup
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.folio.model import Folio, Source, TableEntry
    from summula.core.tables.table import Table

_KEPT = 24  # preparations remembered, so that undo comes back to them at once


class Preparing:
    """`raw` gives the rows of a source as they were read. Asking from several threads at once costs time, not truth."""

    def __init__(self, raw: Callable[[Source], Table]) -> None:
        self._raw = raw
        self._prepared: dict[Any, Prepared] = {}
        self._described: dict[Any, Table] = {}
        self._dated: dict[Any, Table] = {}

    def table(self, folio: Folio, table_id: str) -> Table:
        """The table, its preparation done and its fields described."""
        entry = folio.table(table_id)
        rows = (self._key(folio, entry), folio.year_begins)
        key = (rows, entry.name, entry.fields)
        found = self._described.get(key)
        if found is None:
            dated = self._dated.get(rows)
            if dated is None:
                dated = self.prepared(folio, entry).table.with_year(folio.year_begins)
                self._dated = _remembered(self._dated, rows, dated)
            found = described(dated, entry.fields)
            if found.name != entry.name:
                found = found.called(entry.name)
            self._described = _remembered(self._described, key, found)
        return found

    def knows(self, folio: Folio, entry: TableEntry) -> bool:
        """Whether the entry's preparation is remembered."""
        return self._key(folio, entry) in self._prepared

    def prepared(self, folio: Folio, entry: TableEntry, trail: tuple[str, ...] = ()) -> Prepared:
        """The entry's preparation with the effect of each step. `entry` need not be in the folio yet."""
        key = self._key(folio, entry)
        found = self._prepared.get(key)
        if found is None:
            others = self.others(folio, entry, trail)
            found = prepare(self._raw(entry.source), entry.steps, others, self._nearest(entry))
            self._prepared = _remembered(self._prepared, key, found)
        return found

    def others(self, folio: Folio, entry: TableEntry, trail: tuple[str, ...] = ()) -> Callable[[str], Table]:
        """What a step of the entry may ask for: the parts appended to it, and other tables of the folio."""
        appended = {source.id: source for source in entry.appended}

        def other(wanted: str) -> Table:
            if wanted in appended:
                return self._raw(appended[wanted])
            if wanted == entry.id or wanted in trail:
                raise Refusal(f"'{entry.name}' cannot look up in itself", "choose another table")
            asked = folio.table(wanted)
            return described(self.prepared(folio, asked, (*trail, entry.id)).table, asked.fields).called(asked.name)

        return other

    def _key(self, folio: Folio, entry: TableEntry, trail: tuple[str, ...] = ()) -> Any:
        """All that the prepared rows depend on."""
        sources = tuple((source.id, source.reading) for source in entry.sources())
        asked = [step.table for step in entry.steps if isinstance(step, AddLookup)]
        known = {each.id: each for each in folio.tables}
        others = tuple(
            (self._key(folio, known[each], (*trail, entry.id)), known[each].fields, known[each].name)
            for each in asked
            if each in known and each not in trail and each != entry.id
        )
        return (entry.id, sources, entry.steps, others)

    def _nearest(self, entry: TableEntry) -> Prepared | None:
        """The latest preparation of the same rows, where its steps begin alike; none where another table has a part in
        it, since that may have changed."""
        if any(isinstance(step, AddLookup) for step in entry.steps):
            return None
        raw = self._raw(entry.source)
        alike = [each for each in self._prepared.values() if each.raw is raw]
        return max(alike, key=lambda each: _common(each.steps, entry.steps), default=None)


def _common(first: tuple[Any, ...], second: tuple[Any, ...]) -> int:
    return next(
        (at for at, (a, b) in enumerate(zip(first, second, strict=False)) if a != b), min(len(first), len(second))
    )


def _remembered(known: dict[Any, Any], key: Any, new: Any) -> dict[Any, Any]:
    return {**dict(list(known.items())[-_KEPT + 1 :]), key: new}
