"""Names of months and of weekdays among a field's members: they have an order that their letters do not tell."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

from summula.core.memory import Remembered
from summula.core.tables.column import CodedColumn
from summula.core.tables.monthnames import MONTH_OF, WEEKDAY_OF
from summula.core.tables.natural import folded

if TYPE_CHECKING:
    from summula.core.tables.table import Table

_FEWEST, _MOST = 3, 40  # members: of fewer, names may mean something else ("May", "Sun")
_NAMES: Remembered[str, CalendarNames | None] = Remembered("calendar names")


class CalendarNames(NamedTuple):
    """What the members are names of, and the members in its order."""

    unit: str  # "months" or "weekdays"
    members: tuple[str, ...]


def calendar_names(table: Table, name: str) -> CalendarNames | None:
    """What a field's members are names of; None where not all of them are names of months, or of weekdays (from Monday
    on), in one of the common languages. Remembered by the table."""
    return _NAMES.of(table.memo, name, lambda: _calendar_names(table, name))


def _calendar_names(table: Table, name: str) -> CalendarNames | None:
    column = table.column(name)
    if table.field(name).kind != "category" or not isinstance(column, CodedColumn):
        return None
    return names_among(column.members)


def names_among(members: Sequence[str]) -> CalendarNames | None:
    if not _FEWEST <= len(members) <= _MOST:
        return None
    texts = [folded(each).strip().rstrip(".") for each in members]
    for unit, known in (("months", MONTH_OF), ("weekdays", WEEKDAY_OF)):
        places = [known.get(text, 0) for text in texts]
        if all(places) and len(set(places)) >= _FEWEST:
            return CalendarNames(unit, tuple(sorted(members, key=lambda each: places[members.index(each)])))
    return None
