"""What doing a step needs and gives."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.memory import Memory
from summula.core.refusal import Refusal
from summula.core.tables.field import Field, Sensed
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from summula.core.tables.column import Column

Tables = Callable[[str], Table]
"""The other tables and appended parts of the folio, by id. Refuses an id that is not there, or that leads back here."""


class Done(msgspec.Struct, frozen=True):
    """The table after a step, the cells that it changed, what is worth telling, and whether one should look twice."""

    table: Table
    cells: int = 0
    notice: str = ""
    doubt: bool = False


def with_column(table: Table, name: str, column: Column, field: Field | None = None) -> Table:
    """The table with another column in the place of the one of that name."""
    at = [each.name for each in table.fields].index(name)
    fields = list(table.fields)
    if field is not None:
        fields[at] = field
    columns = (*table.columns[:at], column, *table.columns[at + 1 :])
    return replace(table, fields=tuple(fields), columns=columns, memo=Memory())


def with_added(table: Table, field: Field, column: Column) -> Table:
    """The table with one field more, at the end."""
    if not field.name.strip():
        raise Refusal("the new field has no name", "enter one")
    if table.has(field.name):
        raise Refusal(f"there is a field '{field.name}' already", "choose another name")
    sensed = (*table.sensed, Sensed(field.kind)) if len(table.sensed) == len(table.fields) else ()
    return replace(table, fields=(*table.fields, field), columns=(*table.columns, column), sensed=sensed, memo=Memory())


def with_only(table: Table, places: list[int]) -> Table:
    """The table with the fields at these places, in this order."""
    sensed = tuple(table.sensed[at] for at in places) if len(table.sensed) == len(table.fields) else ()
    return replace(
        table,
        fields=tuple(table.fields[at] for at in places),
        columns=tuple(table.columns[at] for at in places),
        sensed=sensed,
        memo=Memory(),
    )


def places_of(table: Table, names: tuple[str, ...]) -> list[int]:
    """Where the fields stand; refuses one that is not there."""
    for name in names:
        table.field(name)
    at = {field.name: place for place, field in enumerate(table.fields)}
    return [at[name] for name in names]
