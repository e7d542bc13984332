"""Reading a table's sources again: what is taken over, and what is told."""

from __future__ import annotations

from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.fields.figures import plural
from summula.core.folio.model import Folio, Source, TableEntry, with_table
from summula.core.folio.opened import source_of
from summula.core.refusal import Refusal
from summula.core.tables.column import CodedColumn
from summula.core.tables.table import Table
from summula.core.watch import Watch, unwatched

if TYPE_CHECKING:
    from summula.core.folio.preparing import Preparing
    from summula.core.reading.readas import ReadAs
    from summula.core.tables.field import Field, Sensed


class Reread(msgspec.Struct, frozen=True, eq=False):
    """A table whose sources have been read anew: the entry, and the rows by source id."""

    entry: TableEntry
    tables: dict[str, Table]


def place_of(source: Source, name: str, folio_path: Path | None) -> Path:
    """Where the source is: where it was, or beside the folio that has moved with it."""
    if not source.place:
        raise Refusal(f"'{name}' did not come from a file", "open the file it should be read from")
    was = Path(source.place)
    beside = folio_path.parent / was.name if folio_path is not None else was
    return was if was.exists() or not beside.exists() else beside


def read_again(
    entry: TableEntry, folio_path: Path | None, read_at: str, watch: Watch = unwatched, place: Path | None = None
) -> Reread:
    """Every source of the table read as before, the first from `place` where one is given. What does not fit the kinds
    of its fields any more is kept as refused."""
    tables: dict[str, Table] = {}
    sources: list[Source] = []
    for at, source in enumerate(entry.sources()):
        path = place if place is not None and at == 0 else place_of(source, entry.name, folio_path)
        table = read_like(source, path, watch)
        new = source_of(source.id, table, read_at, source.read_as, source.reading + 1)
        tables[source.id] = table
        sources.append(new)
    return Reread(replace(entry, source=sources[0], appended=tuple(sources[1:])), tables)


def read_like(source: Source, path: Path, watch: Watch = unwatched) -> Table:
    """A file read as a source was: with the kinds of its fields and, where nothing in the file decides it, its order of
    days and months and its decimal sign."""
    from summula.core.reading.sandboxed import read_table

    kinds = {field.name: field.kind for field in source.fields}
    table = read_table(path, source.read_as, kinds, watch)
    read_as = _with_signs(source, table)
    again = table if read_as == source.read_as else read_table(path, read_as, kinds, watch)
    before = {field.name: sensed for field, sensed in zip(source.fields, source.sensed, strict=False)}

    def settled_by(field: Field, open_: Sensed, read: Sensed) -> Sensed:
        was = before.get(field.name)
        if not open_.doubt or was is None or was.reading != read.reading or was.doubt:
            return read
        return replace(read, why=f"read so before; {open_.why}", doubt=False)

    return replace(again, sensed=tuple(map(settled_by, again.fields, table.sensed, again.sensed)))


_SIGNS = (("dates", ("day first", "month first")), ("decimal", ("point", "comma")))


def _with_signs(source: Source, table: Table) -> ReadAs:
    """How the source was read, with its signs as well where some field of the table leaves them open and none has them
    otherwise."""
    read_as = source.read_as
    before = _signs_of(source.fields, source.sensed)
    for sign, now in _signs_of(table.fields, table.sensed).items():
        left_open = {name: sensed.reading for name, sensed in now.items() if sensed.doubt and name in before[sign]}
        wanted = {before[sign][name].reading for name in left_open}
        proved = {sensed.reading for sensed in now.values() if not sensed.doubt}
        if len(wanted) == 1 and proved <= wanted != set(left_open.values()) and not getattr(read_as, sign):
            read_as = replace(read_as, **{sign: wanted.pop()})
    return read_as


def _signs_of(fields: tuple[Field, ...], sensed: tuple[Sensed, ...]) -> dict[str, dict[str, Sensed]]:
    """How the fields with dates or numbers that depend on a sign are read, by sign and field."""
    return {
        sign: {
            field.name: each
            for field, each in zip(fields, sensed, strict=False)
            if each.reading in readings and each.why  # plain whole numbers show no sign
        }
        for sign, readings in _SIGNS
    }


def settled(folio: Folio, entry: TableEntry, preparing: Preparing) -> TableEntry:
    """The entry with the rows and fields that its preparation comes to. Fields keep what was said of them; a field that
    is missing now is remembered, behind the others, for when it comes back."""
    table = preparing.prepared(with_table(folio, entry), entry).table
    plural = {field.name: field for field in entry.fields}
    there = {field.name for field in table.fields}
    fields = tuple(_kept(field, plural.get(field.name)) for field in table.fields)
    missing = tuple(field for field in entry.fields if field.name not in there)
    return replace(entry, fields=fields + missing, rows=table.rows)


def _kept(field: Field, plural: Field | None) -> Field:
    return field if plural is None else replace(plural, kind=field.kind)


def reading_account(was: tuple[TableEntry, Table], now: tuple[TableEntry, Table]) -> str:
    """What a new reading changed, in one sentence: of a table as it was and as it is now."""
    before, after = was[1], now[1]
    gained = after.rows - before.rows
    parts = [f"{'+' if gained > 0 else ''}{plural(gained, 'row')}" if gained else "as many rows as before"]
    old, new = [field.name for field in before.fields], [field.name for field in after.fields]
    added, missing = [each for each in new if each not in old], [each for each in old if each not in new]
    if added:
        parts.append("new: " + ", ".join(added[:4]))
    if missing:
        parts.append("missing: " + ", ".join(missing[:4]))
    both = [each for each in new if each in old]
    kinds = [
        f"{each} is a {after.field(each).kind} now"
        for each in both
        if after.field(each).kind != before.field(each).kind
    ]
    parts += kinds[:3]
    otherwise = [_other_readings(*each) for each in zip(was[0].sources(), now[0].sources(), strict=False)]
    parts += list(dict.fromkeys(chain(*otherwise)))[:3]
    parts += [words for each in both if (words := _more_refused(before, after, each))][:4]
    parts += [words for each in both if (words := _new_members(before, after, each))][:4]
    return f"{now[0].name} was read again: {' · '.join(parts)}"


def _other_readings(was: Source, now: Source) -> list[str]:
    """Fields whose dates or numbers are read otherwise: that changes what they mean."""
    before, words = _signs_of(was.fields, was.sensed), []
    for sign, found in _signs_of(now.fields, now.sensed).items():
        for name, sensed in found.items():
            old = before[sign].get(name)
            if old is not None and old.reading != sensed.reading:
                how = sensed.reading if sign == "dates" else f"with a decimal {sensed.reading}"
                words.append(f"{name} is read {how} now: {sensed.why}")
    return words


def _more_refused(before: Table, after: Table, name: str) -> str:
    more = len(after.column(name).refused) - len(before.column(name).refused)
    return f"{plural(more, 'more value')} of {name} refused" if more > 0 else ""


def _new_members(before: Table, after: Table, name: str) -> str:
    old, new = before.column(name), after.column(name)
    if not isinstance(old, CodedColumn) or not isinstance(new, CodedColumn) or after.field(name).kind != "category":
        return ""
    fresh = sorted(set(new.members) - set(old.members))
    if not fresh:
        return ""
    more = f" and {len(fresh) - 3:,} more" if len(fresh) > 3 else ""
    return f"new in {name}: {', '.join(fresh[:3])}{more}"
