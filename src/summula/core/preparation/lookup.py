"""Looking up fields of another table by one or more key fields."""

from __future__ import annotations

from typing import TYPE_CHECKING

import polars as pl
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.preparation.outcome import Done, Tables, places_of, with_added
from summula.core.refusal import Refusal
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn
from summula.core.tables.field import Field
from summula.core.tables.rows import compact
from summula.core.tables.texts import texts_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.preparation.steps import AddLookup
    from summula.core.tables.table import Table


def add_lookup(table: Table, step: AddLookup, others: Tables) -> Done:
    """The chosen fields of the first row of the other table that has the same keys; blank where none has."""
    if not step.keys or not step.fields:
        raise Refusal("a look-up needs a key and a field to add", "choose both")
    other = others(step.table)
    mine = places_of(table, tuple(key.mine for key in step.keys))
    theirs = places_of(other, tuple(key.theirs for key in step.keys))
    rows, several = _partners(
        pl.DataFrame([_key(table, at, f"{n}") for n, at in enumerate(mine)]),
        pl.DataFrame([_key(other, at, f"{n}") for n, at in enumerate(theirs)]),
    )
    if len(step.names) != len(step.fields):
        raise Refusal(f"{len(step.fields)} fields are brought, but {len(step.names)} are named", "name each of them")
    for name, called in zip(step.fields, step.names, strict=True):
        field = other.field(name)
        new = Field(_free(called, table, other), field.kind, field.description, field.pattern, field.total)
        table = with_added(table, new, _gathered(other.column(name), rows))
    alone = int(np.count_nonzero(rows < 0))
    notice = [f"{table.rows - alone:,} rows found a partner"]
    if alone:
        notice.append(f"{alone:,} found none")
    if several:
        notice.append(f"{several:,} found several, and took the first")
    return Done(table, (table.rows - alone) * len(step.fields), " · ".join(notice), doubt=bool(alone or several))


def named(step: AddLookup, table: Table, other: Table, before: AddLookup | None = None) -> AddLookup:
    """The look-up with what its fields are called in `table`: as they were in the same look-up `before`, else as in
    the other table."""
    known = dict(zip(before.fields, before.names, strict=False)) if before and before.table == step.table else {}
    return replace(step, called=tuple(known.get(name) or _free(name, table, other) for name in step.fields))


def _free(name: str, table: Table, other: Table) -> str:
    return f"{name} ({other.name})" if table.has(name) else name


def _key(table: Table, at: int, name: str) -> pl.Series:
    """Keys are compared as they are written: 7 is 7 whether number or code; spaces around do not count."""
    return texts_of(name, table.columns[at]).str.strip_chars().alias(name)


def _partners(mine: pl.DataFrame, theirs: pl.DataFrame) -> tuple[NDArray[np.int64], int]:
    """For each row the first row of the other table with its keys (-1: none), and how many rows have several."""
    keys = mine.columns
    known = theirs.with_row_index("row").drop_nulls(keys)
    first = known.group_by(keys, maintain_order=True).agg(pl.col("row").first(), pl.len().alias("held"))
    found = mine.join(first, on=keys, how="left", maintain_order="left")
    rows = found["row"].cast(pl.Int64).fill_null(-1).to_numpy()
    return rows, int((found["held"].fill_null(0) > 1).sum())


def _gathered(column: Column, rows: NDArray[np.int64]) -> Column:
    """The column's values at these rows; blank where the row is -1."""
    alone = rows < 0
    at = np.maximum(rows, 0)
    if column.rows == 0:
        at, column = np.zeros(len(rows), dtype=np.int64), _one_blank(column)
        alone = np.ones(len(rows), dtype=np.bool_)
    if isinstance(column, CodedColumn):
        codes = column.codes[at].copy()
        codes[alone] = len(column.members)
        taken = CodedColumn(codes, column.members)
        return taken if column.members == ("false", "true") else compact(taken)
    blank = alone if column.blank is None else alone | column.blank[at]
    known = blank if blank.any() else None
    if isinstance(column, NumberColumn):
        return replace(column, values=np.where(blank, 0.0, column.values[at]), blank=known, refused=())
    seconds = None if column.seconds is None else column.seconds[at]
    return DateColumn(np.where(blank, np.int32(0), column.days[at]), known, seconds)


def _one_blank(column: Column) -> Column:
    if isinstance(column, CodedColumn):
        return CodedColumn(np.array([len(column.members)], dtype=column.codes.dtype), column.members)
    if isinstance(column, NumberColumn):
        return replace(column, values=np.zeros(1), blank=None, refused=())
    return DateColumn(np.zeros(1, dtype=np.int32))
