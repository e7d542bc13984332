"""Some of a table's rows, in an order: every column taken along, members nobody holds any more left behind."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.memory import Memory
from summula.core.tables.column import CodedColumn, Column, NumberColumn, Refused, smallest_code_type

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.tables.table import Table


def with_rows(table: Table, rows: NDArray[np.int64]) -> Table:
    """The table of these rows (0-based), in the order given. Rows may repeat."""
    place = _places(table.rows, rows)
    ragged = tuple(replace(each, row=int(place[each.row])) for each in table.ragged if place[each.row] >= 0)
    columns = tuple(_taken(column, rows, place) for column in table.columns)
    return replace(table, columns=columns, rows=len(rows), ragged=ragged, memo=Memory())


def without_rows(table: Table, left_out: Sequence[int]) -> Table:
    """The table without these rows."""
    return with_rows(table, np.delete(np.arange(table.rows), list(left_out)))


def _places(rows: int, taken: NDArray[np.int64]) -> NDArray[np.int64]:
    """For each old row its new place; -1 where it is not taken."""
    place = np.full(rows, -1, dtype=np.int64)
    place[taken[::-1]] = np.arange(len(taken))[::-1]
    return place


def _taken(column: Column, rows: NDArray[np.int64], place: NDArray[np.int64]) -> Column:
    refused = tuple(
        sorted(
            (Refused(int(place[each.row]), each.text) for each in column.refused if place[each.row] >= 0),
            key=lambda each: each.row,
        )
    )
    if isinstance(column, CodedColumn):
        flag = column.members == ("false", "true")
        taken = replace(column, codes=column.codes[rows], refused=refused)
        return taken if flag else compact(taken)
    blank = None if column.blank is None else column.blank[rows]
    blank = blank if blank is not None and blank.any() else None
    if isinstance(column, NumberColumn):
        return replace(column, values=column.values[rows], blank=blank, refused=refused)
    seconds = None if column.seconds is None else column.seconds[rows]
    return replace(column, days=column.days[rows], blank=blank, seconds=seconds, refused=refused)


def compact(column: CodedColumn) -> CodedColumn:
    """The column without members that no row holds."""
    size = len(column.members)
    held = np.bincount(column.codes, minlength=size + 1)[:size] > 0
    if held.all():
        return column
    members = tuple(member for member, there in zip(column.members, held.tolist(), strict=True) if there)
    lookup: NDArray[Any] = np.append(np.cumsum(held) - 1, len(members)).astype(smallest_code_type(len(members)))
    return replace(column, codes=lookup[column.codes], members=members)
