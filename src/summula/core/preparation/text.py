"""Steps on values: kinds, tidying, replacing, filling, splitting, joining. Text is worked on once a distinct value."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import polars as pl
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.preparation.outcome import Done, Tables, places_of, with_added, with_column
from summula.core.refusal import Refusal
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn, Refused, smallest_code_type
from summula.core.tables.dictionary import encode_repeating
from summula.core.tables.encoding import clean_text, encode, encode_coded, reading_for
from summula.core.tables.field import Field, Kind
from summula.core.tables.natural import natural_sorted
from summula.core.tables.sensing import Signs
from summula.core.tables.table import Table, blanks
from summula.core.tables.texts import texts_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.preparation.steps import FillBlanks, Join, Replace, SetKind, Split, Tidy

_MOST_PARTS = 20
_LONGEST = 100_000  # letters of one value
MOST_TEXT = 256 * 1024**2  # letters that a step may make anew


def set_kind(table: Table, step: SetKind, others: Tables) -> Done:
    """The field's values read anew; those that do not fit are kept as refused."""
    old = table.field(step.field)
    column = table.column(step.field)
    if old.kind == step.kind and not step.reading:
        return Done(table)
    if isinstance(column, DateColumn) and step.kind == "date":
        # Its values have been read already: the other order means that day and month change places.
        sensed = {field.name: each.reading for field, each in zip(table.fields, table.sensed, strict=False)}
        new: Column = column if sensed.get(step.field) == step.reading else _day_and_month_changed(column, step.reading)
    else:
        new = encoded_as(step.field, texts_of(step.field, column), step.kind, step.reading)
    lost = len(new.refused)
    notice = f"{lost:,} values do not fit" if lost > 1 else "1 value does not fit" if lost else ""
    field = Field(old.name, step.kind, old.description, old.pattern, old.total, old.hidden)
    return Done(with_column(table, step.field, new, field), table.rows - blanks(column), notice, doubt=bool(lost))


def _day_and_month_changed(column: DateColumn, reading: str) -> DateColumn:
    """Dates whose day and month were taken for each other. A day above 12 is no month: that value does not fit."""
    days = column.days.astype("datetime64[D]")
    months = days.astype("datetime64[M]")
    day, month = (days - months).astype(np.int64) + 1, months.astype(np.int64) % 12 + 1
    first = days.astype("datetime64[Y]").astype("datetime64[M]") + (np.minimum(day, 12) - 1)
    blank = np.zeros(column.rows, np.bool_) if column.blank is None else column.blank
    unfit = (day > 12) & ~blank
    changed = (first.astype("datetime64[D]") + (month - 1)).astype(np.int64).astype(np.int32)
    written = texts_of("", replace(column, refused=()))
    refused = {each.row: each for each in column.refused}
    refused |= {int(row): Refused(int(row), str(written[int(row)])) for row in np.flatnonzero(unfit)}
    blank = blank | unfit
    back = encoded_as("", pl.Series([each.text for each in column.refused], dtype=pl.String), "date", reading)
    if isinstance(back, DateColumn):
        for at, each in enumerate(column.refused):
            if back.blank is None or not back.blank[at]:
                changed[each.row], blank[each.row] = back.days[at], False
                del refused[each.row]
    changed[blank] = 0
    kept = tuple(refused[row] for row in sorted(refused))
    return DateColumn(changed, blank if blank.any() else None, column.seconds, kept)


def encoded_as(name: str, texts: pl.Series, kind: Kind, reading: str = "") -> Column:
    """A column of this kind from texts."""
    signs = Signs(
        reading if reading in ("point", "comma") else "", reading if reading in ("day first", "month first") else ""
    )
    found = encode_repeating(name, texts, kind, signs)
    if found is not None:
        return found[0]
    texts = clean_text(texts)
    return encode(texts, reading_for(kind, name, texts, signs))


def tidy(table: Table, step: Tidy, others: Tables) -> Done:
    names = step.fields or tuple(field.name for field in table.fields if field.kind == "category")
    functions: dict[str, Callable[[str], str]] = {
        "spaces": lambda text: " ".join(text.split()),
        "lower": str.lower,
        "upper": str.upper,
        "title": lambda text: " ".join(word[:1].upper() + word[1:].lower() for word in text.split(" ")),
    }
    cells = 0
    for name in names:
        column, changed = _changed(_text_column(table, name), functions[step.how])
        if changed:
            table = with_column(table, name, column)
            cells += changed
    return Done(table, cells)


def replace_text(table: Table, step: Replace, others: Tables) -> Done:
    if not step.find:
        raise Refusal("nothing to replace", "enter the text to find; use the step “Fill blanks” for blanks")

    def put(text: str) -> str:
        if step.whole:
            return step.put if text == step.find else text
        return text.replace(step.find, step.put)

    old = _text_column(table, step.field)
    if not step.whole and len(step.put) > len(step.find):
        before = sum(map(len, old.members))
        found = sum(member.count(step.find) for member in old.members)
        after = before + found * (len(step.put) - len(step.find))
        if after > max(MOST_TEXT, 4 * before):
            raise Refusal(f"this would make {after:,} letters of {before:,}", "use a shorter replacement")
    column, cells = _changed(old, put)
    return Done(with_column(table, step.field, column), cells)


def _text_column(table: Table, name: str) -> CodedColumn:
    column = table.column(name)
    if not isinstance(column, CodedColumn) or table.field(name).kind == "flag":
        raise Refusal(f"'{name}' does not hold text", "change it to a category first")
    return column


def _changed(column: CodedColumn, change: Callable[[str], str]) -> tuple[CodedColumn, int]:
    """The column with every member changed, members that have become alike made one; and the cells that differ."""
    new = [change(member) for member in column.members]
    members = tuple(natural_sorted(sorted({text for text in new if text})))
    place = {member: at for at, member in enumerate(members)}
    lookup = np.array([*(place.get(text, len(members)) for text in new), len(members)], dtype=np.int64)
    counts = np.bincount(column.codes, minlength=len(column.members) + 1)
    cells = sum(int(counts[at]) for at, (old, now) in enumerate(zip(column.members, new, strict=True)) if old != now)
    codes = lookup.astype(smallest_code_type(len(members)))[column.codes]
    return replace(column, codes=codes, members=members), cells


def fill_blanks(table: Table, step: FillBlanks, others: Tables) -> Done:
    column, field = table.column(step.field), table.field(step.field)
    blank = column.blank
    if blank is None:
        return Done(table)
    if step.above:
        return _filled_from_above(table, step.field, blank)
    if len(step.value) > _LONGEST:
        raise Refusal("the text is too long", "enter a shorter one")
    if not step.value:
        raise Refusal("no value to fill blanks with", "enter a value, or use the row above")
    one = encoded_as(step.field, pl.Series([step.value]), field.kind)
    if one.blank is not None:
        raise Refusal(f"'{step.value}' does not fit '{step.field}', which holds {field.kind}s", "enter another value")
    texts = texts_of(step.field, replace(column, refused=()))
    written = texts_of(step.field, one)[0]
    if isinstance(column, CodedColumn) and field.kind != "flag":
        members = natural_sorted([*column.members, written]) if written not in column.members else list(column.members)
        place = {member: at for at, member in enumerate(members)}
        lookup = np.array([*(place[each] for each in column.members), place[written]], dtype=np.int64)
        codes = lookup.astype(smallest_code_type(len(members)))[column.codes]
        filled: Column = CodedColumn(codes, tuple(members))
    else:
        filled = encoded_as(step.field, texts.fill_null(written), field.kind)
    return Done(with_column(table, step.field, filled), int(blank.sum()))


def _filled_from_above(table: Table, name: str, blank: NDArray[np.bool_]) -> Done:
    column = table.column(name)
    places = np.where(blank, -1, np.arange(table.rows))
    source = np.maximum.accumulate(places)
    still = source < 0
    source = np.maximum(source, 0)
    if isinstance(column, CodedColumn):
        codes = column.codes[source].copy()
        codes[still] = len(column.members)
        filled: Column = replace(column, codes=codes, refused=())
    else:
        left = still if still.any() else None
        if isinstance(column, NumberColumn):
            filled = replace(column, values=column.values[source], blank=left, refused=())
        else:
            filled = DateColumn(column.days[source], left, None if column.seconds is None else column.seconds[source])
    cells = int(blank.sum()) - int(still.sum())
    left_over = int(still.sum())
    notice = f"{left_over:,} at the top have nothing above them" if left_over else ""
    return Done(with_column(table, name, filled), cells, notice)


def split(table: Table, step: Split, others: Tables) -> Done:
    if not step.at:
        raise Refusal("no separator given", "enter the separator")
    if not 1 < len(step.names) <= _MOST_PARTS:
        raise Refusal("a split makes 2 to 20 fields", "enter their names, separated by commas")
    column = _text_column(table, step.field)
    parts = [member.split(step.at, len(step.names) - 1) for member in column.members]
    cells = 0
    for at, name in enumerate(step.names):
        texts = pl.Series(
            [(part[at].strip() or None) if at < len(part) else None for part in parts] + [None], dtype=pl.String
        )
        of_members = encode_coded(texts)
        new = CodedColumn(of_members.codes[column.codes], of_members.members)
        table = with_added(table, Field(name, "category"), new)
        cells += table.rows - blanks(new)
    return Done(table, cells)


def join(table: Table, step: Join, others: Tables) -> Done:
    if len(step.fields) < 2:
        raise Refusal("at least two fields are needed to join", "select more")
    places_of(table, step.fields)
    if len(step.between) * (len(step.fields) - 1) * table.rows > MOST_TEXT:
        raise Refusal("the separator is too long", "enter a shorter one")
    frame = pl.DataFrame([texts_of(name, table.column(name)) for name in step.fields])
    joined = frame.select(pl.concat_str(pl.all(), separator=step.between, ignore_nulls=True).alias(step.name))[
        step.name
    ]
    column = encode_coded(clean_text(joined))
    return Done(with_added(table, Field(step.name, "category"), column), table.rows)
