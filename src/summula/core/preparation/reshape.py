"""Steps on rows and fields: which, in what order, from where."""

from __future__ import annotations

from typing import TYPE_CHECKING

import polars as pl
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.engine.conditions import rows_meeting
from summula.core.memory import Memory
from summula.core.preparation.outcome import Done, Tables, places_of, with_only
from summula.core.preparation.text import encoded_as
from summula.core.refusal import Refusal
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn, Refused, smallest_code_type
from summula.core.tables.field import Field
from summula.core.tables.natural import natural_sorted
from summula.core.tables.rows import with_rows
from summula.core.tables.texts import texts_of
from summula.core.tables.turning import turned

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.preparation.steps import Append, DropDuplicates, DropFields, KeepFields, Rename, Rows, Unpivot
    from summula.core.tables.table import Table

_MOST_CELLS = 2_000_000_000


def rename(table: Table, step: Rename, others: Tables) -> Done:
    at = places_of(table, (step.field,))[0]
    name = " ".join(step.name.split())
    if not name:
        raise Refusal(f"'{step.field}' needs a name", "enter one")
    if name != step.field and table.has(name):
        raise Refusal(f"there is a field '{name}' already", "choose another name")
    old = table.fields[at]
    new = Field(name, old.kind, old.description, old.pattern, old.total, old.hidden)
    return Done(replace(table, fields=(*table.fields[:at], new, *table.fields[at + 1 :]), memo=Memory()))


def drop_fields(table: Table, step: DropFields, others: Tables) -> Done:
    """A field that is gone already is no reason to refuse."""
    kept = [at for at, field in enumerate(table.fields) if field.name not in step.fields]
    if not kept:
        raise Refusal("a table needs at least one field", "keep at least one")
    return Done(with_only(table, kept))


def keep_fields(table: Table, step: KeepFields, others: Tables) -> Done:
    return Done(with_only(table, places_of(table, step.fields)))


def rows(table: Table, step: Rows, others: Tables) -> Done:
    met = rows_meeting(step.where, table)
    return Done(with_rows(table, np.flatnonzero(met if step.keep else ~met)))


def drop_duplicates(table: Table, step: DropDuplicates, others: Tables) -> Done:
    names = step.fields or tuple(field.name for field in table.fields)
    places = places_of(table, names)
    keys = {f"{at}": key for at, place in enumerate(places) for key in [_key(table.columns[place])]}
    for at, place in enumerate(places):
        column = table.columns[place]
        if column.refused:  # what does not fit is not alike for being counted as blank
            notice = np.zeros(table.rows, dtype=np.int64)
            marks = {text: mark for mark, text in enumerate(sorted({each.text for each in column.refused}), start=1)}
            for each in column.refused:
                notice[each.row] = marks[each.text]
            keys[f"{at} refused"] = notice
    frame = pl.DataFrame(keys).with_row_index("row")
    first = frame.unique(subset=list(keys), keep="first", maintain_order=True)["row"].to_numpy().astype(np.int64)
    return Done(with_rows(table, first))


def _key(column: Column) -> NDArray[np.generic]:
    """Numbers by which equal values are equal and a blank is like no value."""
    if isinstance(column, CodedColumn):
        return column.codes
    if isinstance(column, NumberColumn):
        return column.values if column.blank is None else np.where(column.blank, np.inf, column.values)
    days = column.days.astype(np.int64) * 86_400
    if column.seconds is not None:
        days = days + column.seconds
    return days if column.blank is None else np.where(column.blank, np.iinfo(np.int64).max, days)


def append(table: Table, step: Append, others: Tables) -> Done:
    """The other rows below these, by field name. Fields that one side lacks are blank there, and told."""
    other = others(step.part)
    if (table.rows + other.rows) * max(len(table.fields), 1) > _MOST_CELLS:
        raise Refusal(f"this would make {table.rows + other.rows:,} rows", "append fewer files")
    mine, theirs = [field.name for field in table.fields], [field.name for field in other.fields]
    extra = [name for name in theirs if name not in mine]
    missing = [name for name in mine if name not in theirs]
    fields: list[Field] = list(table.fields)
    columns: list[Column] = []
    for field, column in zip(table.fields, table.columns, strict=True):
        below = other.column(field.name) if field.name in theirs else None
        if below is not None and other.field(field.name).kind != field.kind:
            below = encoded_as(field.name, texts_of(field.name, below), field.kind)
        columns.append(_below(column, below, other.rows))
    for name in extra:
        fields.append(other.field(name))
        columns.append(_above(table.rows, other.column(name)))
    notice = [f"{other.rows:,} rows added"]
    if extra:
        notice.append("only there: " + ", ".join(extra[:4]))
    if missing:
        notice.append("not there: " + ", ".join(missing[:4]))
    ragged = table.ragged + tuple(replace(each, row=each.row + table.rows) for each in other.ragged)
    grown = replace(
        table,
        fields=tuple(fields),
        columns=tuple(columns),
        rows=table.rows + other.rows,
        sensed=(),
        ragged=ragged,
        memo=Memory(),
    )
    return Done(grown, other.rows * len(mine), " · ".join(notice))


def _above(rows: int, column: Column) -> Column:
    """A column with so many blanks above it."""
    if isinstance(column, CodedColumn):
        blank: Column = CodedColumn(np.full(rows, len(column.members), column.codes.dtype), column.members)
    elif isinstance(column, NumberColumn):
        blank = replace(column, values=np.zeros(rows), blank=np.ones(rows, dtype=np.bool_), refused=())
    else:
        blank = DateColumn(np.zeros(rows, dtype=np.int32), np.ones(rows, dtype=np.bool_))
    return _below(blank, column, column.rows)


def _below(upper: Column, lower: Column | None, rows: int) -> Column:
    """Two columns of one kind, one below the other; None is so many blanks."""
    refused = upper.refused
    if lower is not None:
        refused += tuple(Refused(each.row + upper.rows, each.text) for each in lower.refused)
    if isinstance(upper, CodedColumn):
        return _coded_below(upper, lower if isinstance(lower, CodedColumn) else None, rows, refused)
    blank = np.concatenate([
        np.zeros(upper.rows, np.bool_) if upper.blank is None else upper.blank,
        np.ones(rows, np.bool_) if lower is None else np.zeros(rows, np.bool_) if lower.blank is None else lower.blank,
    ])  # fmt: skip
    known = blank if blank.any() else None
    if isinstance(upper, NumberColumn):
        assert lower is None or isinstance(lower, NumberColumn)
        decimals = max(upper.decimals, lower.decimals if lower is not None else 0)
        values = [
            upper.values * 10.0 ** (decimals - upper.decimals),
            np.zeros(rows) if lower is None else lower.values * 10.0 ** (decimals - lower.decimals),
        ]
        return NumberColumn(np.concatenate(values), decimals, known, refused, upper.per)
    assert lower is None or isinstance(lower, DateColumn)
    days = np.concatenate([upper.days, np.zeros(rows, np.int32) if lower is None else lower.days])
    seconds = None
    if upper.seconds is not None or (lower is not None and lower.seconds is not None):
        parts = [
            np.zeros(upper.rows, np.int32) if upper.seconds is None else upper.seconds,
            np.zeros(rows, np.int32) if lower is None or lower.seconds is None else lower.seconds,
        ]
        seconds = np.concatenate(parts)
    return DateColumn(days, known, seconds, refused)


def _coded_below(upper: CodedColumn, lower: CodedColumn | None, rows: int, refused: tuple[Refused, ...]) -> CodedColumn:
    if lower is None:
        kind = smallest_code_type(len(upper.members))
        codes = np.concatenate([upper.codes.astype(kind), np.full(rows, len(upper.members), kind)])
        return CodedColumn(codes, upper.members, refused)
    new = [member for member in lower.members if member not in set(upper.members)]
    members = upper.members if not new else tuple(natural_sorted([*upper.members, *new]))
    place = {member: at for at, member in enumerate(members)}
    kind = smallest_code_type(len(members))
    halves = [
        np.array([*(place[member] for member in each.members), len(members)]).astype(kind)[each.codes]
        for each in (upper, lower)
    ]
    return CodedColumn(np.concatenate(halves), members, refused)


def unpivot(table: Table, step: Unpivot, others: Tables) -> Done:
    """Each row becomes as many as there are wide fields; blanks among them are left out unless wanted."""
    wide = places_of(table, step.fields)
    if not wide:
        raise Refusal("no fields selected to turn into rows", "select the fields that belong in rows")
    count = len(wide)
    if table.rows * count * max(len(table.fields), 1) > _MOST_CELLS:
        raise Refusal(f"this would make {table.rows * count:,} rows", "select fewer fields")
    stay = [at for at in range(len(table.fields)) if at not in set(wide)]
    for name in (step.name, step.value):
        if any(table.fields[at].name == name for at in stay):
            raise Refusal(f"there is a field '{name}' already", "choose another name")
    tall = turned(table, wide, step.name, step.value, blanks=step.blanks)
    tall = replace(tall, sensed=())
    return Done(tall, tall.rows)
