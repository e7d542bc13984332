"""Tables whose fields mean the same: what narrows one narrows the other, by the members that both know."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal, assert_never

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.fields.heading import PARTS, Heading
from summula.core.phrases.phrase import Condition, Struct
from summula.core.slicing.slicer import Echo, ListSlicer, Narrowing, NumberSlicer, PeriodSlicer, TextSlicer
from summula.core.tables.column import CodedColumn, DateColumn

if TYPE_CHECKING:
    from summula.core.tables.table import Table

BY_MONTH = frozenset(
    part for part in PARTS if part.startswith("fiscal ") or part in (
        "year", "half", "quarter", "month", "year-half", "year-quarter", "year-month",
    )
)  # fmt: skip
_ALIKE = 0.5  # of the members of the table with fewer: so many must be known to the other
_MOST_COMPARED = 20_000  # members


class FieldOf(Struct, frozen=True):
    """A field of a table, by the table's id."""

    table: str
    field: str


class Link(Struct, frozen=True):
    """Two fields that mean the same ("Route is Route"). Dates may agree by their `months` alone: one of them is then
    known by the month only."""

    first: FieldOf
    second: FieldOf
    by: Literal["member", "month"] = "member"

    def other_end(self, table: str, field: str, wanted: str) -> str | None:
        """The field of the `wanted` table that means the same as this one."""
        for one, other in ((self.first, self.second), (self.second, self.first)):
            if (one.table, one.field) == (table, field) and other.table == wanted:
                return other.field
        return None


def linked_heading(links: Sequence[Link], table: str, heading: Heading, wanted: str) -> Heading | None:
    """The heading of another table that has the same members; None where no link tells it."""
    if table == wanted:
        return heading
    for link in links:
        field = link.other_end(table, heading.field, wanted)
        if field is not None and (link.by == "member" or heading.part in BY_MONTH):
            return Heading(field, heading.part, heading.bands)
    return None


def linked_slicer(links: Sequence[Link], slicer: Narrowing, wanted: str) -> Any:
    """The slicer as it narrows another table; None where it does not. Of an echo each part is narrowed by what that
    table knows."""
    if slicer.table == wanted:
        return slicer
    if isinstance(slicer, Echo):
        parts = [_linked_part(links, slicer.table, part, wanted) for part in slicer.parts]
        return replace(slicer, table=wanted, parts=tuple(parts)) if parts and all(parts) else None
    heading = linked_heading(links, slicer.table, slicer.dimension, wanted)
    if heading is None:
        return None
    match slicer:
        case ListSlicer():
            return replace(slicer, table=wanted, heading=heading)
        case PeriodSlicer() | NumberSlicer() | TextSlicer():
            return replace(slicer, table=wanted, field=heading.field)
        case _:
            assert_never(slicer)


def heard_by(links: Sequence[Link], slicer: Narrowing, wanted: str, table: Table) -> Any:
    """The slicer as it narrows the table of that id; None where it does not, or where a field is missing that it goes
    by (a new file may lack it): it waits, and narrows nothing."""
    found = linked_slicer(links, slicer, wanted)
    if found is None:
        return None
    if isinstance(found, Echo):
        known = all(table.has(condition.heading.field) for part in found.parts for condition in part)
    else:
        known = table.has(found.dimension.field)
    return found if known else None


def _linked_part(links: Sequence[Link], table: str, part: tuple[Condition, ...], wanted: str) -> tuple[Condition, ...]:
    found = []
    for condition in part:
        heading = linked_heading(links, table, condition.heading, wanted)
        if heading is not None:
            found.append(replace(condition, heading=heading))
    return tuple(found)


def offered_links(first: tuple[str, Table], second: tuple[str, Table], known: Sequence[Link] = ()) -> list[Link]:
    """The links that two tables (each with its id) seem to have: fields of one name whose members agree, and dates.
    Not those that are `known`."""
    found: list[Link] = []
    dates: list[list[str]] = [[], []]
    for at, (_, table) in enumerate((first, second)):
        dates[at] = [f.name for f in table.fields if f.kind == "date" and isinstance(table.column(f.name), DateColumn)]
    for field in first[1].fields:
        twin = next((f for f in second[1].fields if f.name.casefold() == field.name.casefold()), None)
        if twin is not None and _members_agree(first[1], field.name, second[1], twin.name):
            found.append(Link(FieldOf(first[0], field.name), FieldOf(second[0], twin.name)))
    if dates[0] and dates[1]:
        monthly = any(_is_monthly(table, names[0]) for (_, table), names in zip((first, second), dates, strict=True))
        ends = FieldOf(first[0], dates[0][0]), FieldOf(second[0], dates[1][0])
        found.append(Link(*ends, by="month" if monthly else "member"))
    return [each for each in found if not any(_same_ends(each, other) for other in known)]


def _same_ends(one: Link, other: Link) -> bool:
    return {one.first, one.second} == {other.first, other.second}


def _members_agree(one: Table, field: str, other: Table, twin: str) -> bool:
    first, second = one.column(field), other.column(twin)
    if not (isinstance(first, CodedColumn) and isinstance(second, CodedColumn)):
        return False
    fewer, more = sorted((first.members, second.members), key=len)
    if not fewer or len(more) > _MOST_COMPARED:
        return False
    return len(set(fewer) & set(more)) >= _ALIKE * len(fewer)


def _is_monthly(table: Table, field: str) -> bool:
    """Whether every date is the first of its month."""
    column = table.column(field)
    assert isinstance(column, DateColumn)
    days = column.days if column.blank is None else column.days[~column.blank]
    if not len(days):
        return False
    months = days.astype("datetime64[D]").astype("datetime64[M]").astype("datetime64[D]")
    return bool(np.array_equal(months.astype(np.int64), days))


def linked_ids(links: Sequence[Link], home: str) -> list[str]:
    """The tables that a table is linked to."""
    found = []
    for link in links:
        if home in (link.first.table, link.second.table):
            found.append(link.second.table if link.first.table == home else link.first.table)
    return list(dict.fromkeys(found))
