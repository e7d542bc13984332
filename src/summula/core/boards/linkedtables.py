"""The tables that are linked to one, under the slicers that move them: whom its figures beside its own are asked of."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import msgspec

from summula.core.engine.answer import answer, dimensions_of, with_defaults
from summula.core.engine.cells import fold
from summula.core.slicing.linking import Link, heard_by, linked_heading, linked_ids
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicer import Narrowing
from summula.core.slicing.slicerkinds import needs_of
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid
    from summula.core.fields.heading import Heading
    from summula.core.phrases.phrase import Phrase


class LinkedTables(msgspec.Struct, frozen=True, eq=False):
    """`home`: the id of the table that asks; `tables` by id."""

    home: str
    tables: Mapping[str, Table]
    links: tuple[Link, ...]
    slicers: tuple[Narrowing, ...] = ()

    def _id(self, name: str) -> str | None:
        for key in linked_ids(self.links, self.home):
            if key in self.tables and self.tables[key].name.casefold() == name.casefold():
                return key
        return None

    def table(self, name: str) -> Table | None:
        key = self._id(name)
        return None if key is None else self.tables[key]

    def heading(self, name: str, heading: Heading) -> Heading | None:
        key = self._id(name)
        found = None if key is None else linked_heading(self.links, self.home, heading, key)
        return found if key is not None and found is not None and self.tables[key].has(found.field) else None

    def answer(self, name: str, phrase: Phrase) -> Grid:
        table, slicers = self.moving(name)
        needed = [need for each in slicers for need in needs_of(each, table)]
        cells = fold(table, [*dimensions_of(with_defaults(phrase, table), table), *needed])
        return answer(phrase, table, cells, joined_mask(slicers, cells))

    def moving(self, name: str) -> tuple[Table, list[Narrowing]]:
        """The table of that name, and the slicers that narrow it."""
        key = self._id(name)
        assert key is not None
        table = self.tables[key]
        moved = [heard_by(self.links, each, key, table) for each in self.slicers]
        return table, [each for each in moved if each is not None and each.narrows]
