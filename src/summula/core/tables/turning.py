"""Wide fields turned into rows: their names go into one field, their values into another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.memory import Memory
from summula.core.tables.column import CodedColumn, Column, NumberColumn, smallest_code_type
from summula.core.tables.field import Field, Sensed
from summula.core.tables.rows import with_rows

if TYPE_CHECKING:
    import polars as pl

    from summula.core.tables.table import Table


def turned(table: Table, wide: Sequence[int], name: str, value: str, *, blanks: bool = False) -> Table:
    """The table with as many rows of each as there are `wide` fields. Heads that are days or periods become dates;
    values are numbers where all are. Blank ones are left out unless wanted."""
    count, chosen = len(wide), set(wide)
    stay = [at for at in range(len(table.fields)) if at not in chosen]
    values, value_field = _interleaved(table, wide, value)
    heads, head_sensed = _heads_of(name, [table.fields[at].name for at in wide], table.rows)
    kept = replace(
        table,
        fields=tuple(table.fields[at] for at in stay),
        columns=tuple(table.columns[at] for at in stay),
        sensed=(),
        ragged=(),
        memo=Memory(),
    )
    base = with_rows(kept, np.repeat(np.arange(table.rows), count)) if stay else None
    fields = (*(base.fields if base else ()), Field(name, head_sensed.kind), value_field)
    columns = (*(base.columns if base else ()), heads, values)
    known = len(table.sensed) == len(table.fields)
    sensed = (*(table.sensed[at] for at in stay), head_sensed, table.sensed[wide[0]]) if known else ()
    tall = replace(kept, fields=fields, columns=columns, rows=table.rows * count, sensed=sensed)
    if not blanks and values.blank is not None:
        tall = with_rows(tall, np.flatnonzero(~values.blank))
    return tall


def _heads_of(name: str, heads: list[str], rows: int) -> tuple[Column, Sensed]:
    """The names of the wide fields as a field: a date where all are days or periods, else words in their order."""
    import polars as pl

    from summula.core.tables.encoding import encode
    from summula.core.tables.sensing import sense

    texts = pl.Series(name, heads, dtype=pl.String)
    sensed = sense(name, texts)
    years = sensed.kind == "number" and all(head.isdigit() and len(head) == 4 for head in heads)
    if sensed.kind != "date" and not years:
        codes = np.tile(np.arange(len(heads), dtype=smallest_code_type(len(heads))), rows)
        return CodedColumn(codes, tuple(heads)), Sensed("category")
    return encode(pl.concat([texts] * rows) if rows else texts.clear(), sensed), sensed


def _interleaved(table: Table, wide: Sequence[int], name: str) -> tuple[Column, Field]:
    """The wide fields' values, row by row; numbers where all are numbers, else text."""
    columns = [table.columns[at] for at in wide]
    numbers = [column for column in columns if isinstance(column, NumberColumn)]
    if len(numbers) == len(columns) and len({column.per for column in numbers}) == 1:
        decimals = max(column.decimals for column in numbers)
        values = np.column_stack([column.values * 10.0 ** (decimals - column.decimals) for column in numbers]).ravel()
        blank = np.column_stack([
            np.zeros(table.rows, np.bool_) if column.blank is None else column.blank for column in numbers
        ]).ravel()  # fmt: skip
        first = table.fields[wide[0]]
        column = NumberColumn(values, decimals, blank if blank.any() else None, (), numbers[0].per)
        pattern = first.pattern if len({table.fields[at].pattern for at in wide}) == 1 else ""
        return column, Field(name, first.kind, pattern=pattern)
    return _as_text(table, wide, name), Field(name, "category")


def _as_text(table: Table, wide: Sequence[int], name: str) -> Column:
    import polars as pl

    from summula.core.tables.encoding import clean_text, encode_coded
    from summula.core.tables.texts import texts_of

    texts: list[pl.Series] = [texts_of(name, table.columns[at]) for at in wide]
    order = np.arange(table.rows * len(wide)).reshape(len(wide), table.rows).T.ravel()
    return encode_coded(clean_text(pl.concat(texts).gather(order)))
