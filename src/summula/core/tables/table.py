"""A flat table, read and encoded. Frozen; derived encodings are remembered beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.memory import Memory, Remembered
from summula.core.refusal import Refusal, nearest
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn, different_values
from summula.core.tables.field import Field, Kind, Sensed

if TYPE_CHECKING:
    from collections.abc import Mapping

_PLACES: Remembered[str, dict[str, int]] = Remembered("places", most=1)


class Ragged(msgspec.Struct, frozen=True):
    """A row with too many or too few values: what was too many is kept here, what was missing is blank."""

    row: int  # 0-based
    wanted: int
    held: int
    extra: tuple[str, ...] = ()


class Table(msgspec.Struct, frozen=True, eq=False, weakref=True):
    """Fields and their columns, in the order of the source.

    `memo` remembers what has been worked out from these columns alone (encodings, sorted orders,
    folded cells). It never changes an answer, only how soon it comes; a new Table starts empty.
    `sensed` tells for each field how its kind was found, `ragged` which rows had other than a value a field.
    `year_begins` is the month (1-12) with which the fiscal year of its dates begins.
    """

    name: str
    fields: tuple[Field, ...]
    columns: tuple[Column, ...]
    rows: int
    source: str = ""
    sensed: tuple[Sensed, ...] = ()
    ragged: tuple[Ragged, ...] = ()
    year_begins: int = 1
    memo: Memory = msgspec.field(default_factory=Memory)

    def __post_init__(self) -> None:
        if len(self.fields) != len(self.columns):
            raise ValueError("a table needs one column for each field")

    def has(self, name: str) -> bool:
        return name in self._places()

    def place(self, name: str) -> int:
        """Where the field stands, from 0."""
        return self._place(name)

    def field(self, name: str) -> Field:
        return self.fields[self._place(name)]

    def column(self, name: str) -> Column:
        return self.columns[self._place(name)]

    def number(self, name: str) -> NumberColumn:
        column = self.column(name)
        if not isinstance(column, NumberColumn):
            raise Refusal(f"'{name}' does not hold numbers", "choose a number field")
        return column

    def called(self, name: str) -> Table:
        """The same table under another name."""
        return self if name == self.name else replace(self, name=name)

    def with_year(self, begins: int) -> Table:
        """The same table, its fiscal year beginning with this month."""
        return self if begins == self.year_begins else replace(self, year_begins=begins, memo=Memory())

    def refused_count(self) -> int:
        return sum(len(column.refused) for column in self.columns)

    def with_field(self, name: str, new: Field) -> Table:
        """The same rows with another description of one field (its kind unchanged)."""
        place = self._place(name)
        return self.with_fields((*self.fields[:place], new, *self.fields[place + 1 :]))

    def with_fields(self, fields: tuple[Field, ...]) -> Table:
        """The same rows under other descriptions. What was worked out from columns alone is kept."""
        if [field.kind for field in fields] != [field.kind for field in self.fields]:
            raise ValueError("a change of kind needs the field encoded anew")
        renamed = [field.name for field in fields] != [field.name for field in self.fields]
        kept = Memory() if renamed else self.memo.of_columns()
        return replace(self, fields=fields, memo=kept)

    def _places(self) -> dict[str, int]:
        return _PLACES.of(self.memo, "", lambda: {each.name: at for at, each in enumerate(self.fields)})

    def _place(self, name: str) -> int:
        try:
            return self._places()[name]
        except KeyError:
            guess = nearest(name, self._places())
            remedy = f"did you mean '{guess}'?" if guess else f"the table '{self.name}' does not have it"
            raise Refusal(f"no field '{name}'", remedy, suggestion=guess) from None


def blanks(column: Column) -> int:
    """How many rows of this column are blank."""
    mask = column.blank
    return 0 if mask is None else int(mask.sum())


def distinct(column: Column) -> int:
    """How many different values the rows hold, blanks aside."""
    import numpy as np

    if isinstance(column, CodedColumn):
        return len(column.members)
    values = column.values if isinstance(column, NumberColumn) else column.days
    if column.blank is not None:
        values = values[~column.blank]
    if isinstance(column, DateColumn) and column.seconds is not None:
        seconds = column.seconds if column.blank is None else column.seconds[~column.blank]
        values = values.astype(np.int64) * 86400 + seconds
    return len(different_values(values))


def check_kinds(table: Table, kinds: Mapping[str, Kind]) -> None:
    """Refuse a kind said of a field that is not there."""
    for each, kind in kinds.items():
        if not table.has(each):
            known = ", ".join(field.name for field in table.fields[:12])
            raise Refusal(f"no field '{each}' to make a {kind}", f"the fields are {known}")
