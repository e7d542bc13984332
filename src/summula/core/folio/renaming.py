"""A field called otherwise: everything made from it follows."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, TypeVar

import msgspec
from msgspec.structs import replace

from summula.core.preparation.steps import AddLookup, Key, Rename

if TYPE_CHECKING:
    from summula.core.folio.model import Folio, TableEntry
    from summula.core.slicing.linking import FieldOf

_NAMING = ("field", "dated")
_T = TypeVar("_T")


def renamed(folio: Folio, entry: TableEntry, old: str, new: str) -> Folio:
    """The folio in which the field `old` of the table is called `new`: a step of its preparation says so, and
    summaries, panels, slicers and look-ups that name it follow."""
    steps = entry.steps
    last = steps[-1] if steps else None
    if isinstance(last, Rename) and last.name == old:  # called otherwise twice is called otherwise once
        steps, source = steps[:-1], last.field
    else:
        source = old
    if source != new:
        steps = (*steps, Rename(source, new))
    fields = tuple(replace(each, name=new) if each.name == old else each for each in entry.fields)
    changed = replace(entry, steps=steps, fields=fields)
    tables = tuple(
        changed if each.id == entry.id else replace(each, steps=_looked_up(each, entry.id, old, new))
        for each in folio.tables
    )

    def end(field: FieldOf) -> FieldOf:
        return replace(field, field=new) if (field.table, field.field) == (entry.id, old) else field

    summaries = tuple(_follow(each, old, new) if each.table == entry.id else each for each in folio.summaries)
    boards = tuple(
        replace(
            board,
            panels=tuple(
                _follow(panel, old, new) if getattr(panel, "table", "") == entry.id else panel for panel in board.panels
            ),
            slicers=tuple(
                _follow(slicer, old, new) if slicer.table == entry.id else slicer for slicer in board.slicers
            ),
        )
        for board in folio.boards
    )
    links = tuple(replace(each, first=end(each.first), second=end(each.second)) for each in folio.links)
    return replace(folio, tables=tables, summaries=summaries, boards=boards, links=links)


def _looked_up(entry: TableEntry, table_id: str, old: str, new: str) -> tuple[Any, ...]:
    def step(each: Any) -> Any:
        if not isinstance(each, AddLookup) or each.table != table_id:
            return each
        keys = tuple(Key(key.mine, new if key.theirs == old else key.theirs) for key in each.keys)
        fields = tuple(new if field == old else field for field in each.fields)
        return replace(each, keys=keys, fields=fields, called=each.names if fields != each.fields else each.called)

    return tuple(step(each) for each in entry.steps)


def _follow(value: _T, old: str, new: str) -> _T:
    """A value in which every name of the field is the new one."""
    if isinstance(value, tuple):
        return type(value)(_follow(each, old, new) for each in value)
    if not isinstance(value, msgspec.Struct):
        return value
    changed = {}
    for name in value.__struct_fields__:
        now = getattr(value, name)
        after = new if name in _NAMING and now == old else _follow(now, old, new)
        if after is not now:
            changed[name] = after
    return replace(value, **changed) if changed else value
