"""Which reader takes which file, and the way from what was read to a table.

To add a reader: a module with a function `(path, ReadAs, kinds, watch) -> Raw`, a line in `_READERS`, and what tells
such a file in `contents.py`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from itertools import chain, count
from pathlib import Path
from typing import TYPE_CHECKING

import polars as pl
from msgspec.structs import replace

from summula.core.memory import Memory
from summula.core.reading.columnar import read_json_lines, read_parquet
from summula.core.reading.contents import Content, content_of, is_delimited_text
from summula.core.reading.database import read_database
from summula.core.reading.delimited import read_delimited
from summula.core.reading.growing import encode_texts
from summula.core.reading.naming import READABLE, name_of
from summula.core.reading.periodheads import period_fields, period_word
from summula.core.reading.raw import Raw, signs_of
from summula.core.reading.readas import ReadAs, Setting
from summula.core.reading.totals import rows_apart, told_of
from summula.core.reading.unpacking import unpacked
from summula.core.reading.weblike import read_html, read_json
from summula.core.reading.workbook import read_workbook
from summula.core.refusal import Refusal
from summula.core.tables.describing import field_for
from summula.core.tables.field import Kind, Sensed, check_known
from summula.core.tables.periodnumbers import period_unit
from summula.core.tables.rows import without_rows
from summula.core.tables.sensing import Signs, lists_among
from summula.core.tables.table import Table, check_kinds
from summula.core.tables.texts import texts_of
from summula.core.tables.turning import turned
from summula.core.watch import Watch, unwatched

if TYPE_CHECKING:
    from summula.core.tables.column import Column

Reader = Callable[[Path, ReadAs, dict[str, Kind], Watch], Raw]

_READERS: dict[Content, Reader] = {
    "text": read_delimited,
    "xlsx": read_workbook,
    "xls": read_workbook,
    "ods": read_workbook,
    "parquet": read_parquet,
    "json lines": read_json_lines,
    "json": read_json,
    "html": read_html,
    "database": read_database,
}


def read_table(
    path: Path, read_as: ReadAs | None = None, kinds: Mapping[str, Kind] | None = None, watch: Watch = unwatched
) -> Table:
    """The table in a file. Refuses, in one sentence, what cannot be read. `kinds` overrides what is sensed; names that
    the file does not have are refused by `check_kinds`, not here."""
    return read_found(path, read_as, kinds, watch)[0]


def read_found(
    path: Path, read_as: ReadAs | None = None, kinds: Mapping[str, Kind] | None = None, watch: Watch = unwatched
) -> tuple[Table, tuple[Setting, ...]]:
    """The table, and every setting as it was used or found."""
    read_as = read_as or ReadAs()
    stated = dict(kinds or {})
    check_known(stated)
    raw = reading(path, lambda reader, inner: reader(inner, read_as, stated, watch))
    return finish(name_of(path, read_as), raw, stated, read_as, str(path), watch)


def reading(path: Path, read: Callable[[Reader, Path], Raw]) -> Raw:
    """What its reader makes of a file (of the one in it, where it is packed); whatever goes wrong in a sentence."""
    if not path.exists():
        raise Refusal(f"there is no file '{path}'", "check the name and the folder")
    if path.is_dir():
        raise Refusal(f"'{path}' is a folder", "choose a file in it")
    if not path.is_file():
        raise Refusal(f"'{path}' is not a file that can be read", "choose an ordinary file")
    try:
        with unpacked(path) as inner:
            content = content_of(inner)
            if content == "zip" or (content == "text" and not _may_be_text(inner)):
                known = ", ".join(READABLE)
                raise Refusal(f"'{path.name}' is not a kind of file that can be read", f"choose one of {known}")
            return read(_READERS[content], inner)
    except PermissionError:
        raise Refusal(f"'{path}' cannot be read: no permission", "ask for permission to read it") from None
    except OSError as fault:
        raise Refusal(
            f"'{path}' could not be read ({fault.strerror or fault})", "try again, or copy it first"
        ) from None


def _may_be_text(path: Path) -> bool:
    """Whether a file that nothing else is may hold delimited text: by its name, or by its letters."""
    return path.name.lower().endswith(READABLE) or is_delimited_text(path)


def finish(
    name: str,
    raw: Raw,
    kinds: Mapping[str, Kind],
    read_as: ReadAs,
    source: str = "",
    watch: Watch = unwatched,
) -> tuple[Table, tuple[Setting, ...]]:
    """Every field of what was read sensed and encoded; its settings with those that the values tell. A stop comes
    between two fields."""
    check_known(kinds)

    def encoded(each: pl.Series | tuple[Column, Sensed], called: str) -> tuple[Column, Sensed]:
        return encode_texts(each.alias(called), kinds.get(called), raw.signs) if isinstance(each, pl.Series) else each

    with ThreadPoolExecutor(2) as threads:
        under_way = [threads.submit(encoded, *each) for each in zip(raw.fields, raw.names, strict=True)]
        found = []
        try:
            for each in under_way:
                found.append(each.result())
                watch(raw.rows)
        finally:
            for each in under_way:
                each.cancel()
    for at, unit in enumerate(raw.units):
        column, sensed_as = found[at]
        if unit and sensed_as.kind == "number" and not sensed_as.unit:
            found[at] = (column, replace(sensed_as, unit=unit))
    for at in lists_among([each for _, each in found], raw.signs):
        series = raw.fields[at]
        if isinstance(series, pl.Series) and raw.names[at] not in kinds:
            found[at] = encode_texts(series.alias(raw.names[at]), "category", raw.signs)
    for at, called in enumerate(raw.names):
        faults = tuple(each for name, each in raw.errors if name == called)
        if faults:
            column, sensed_as = found[at]
            refused = tuple(sorted((*column.refused, *faults), key=lambda each: each.row))
            found[at] = (replace(column, refused=refused), sensed_as)
    fields = tuple(field_for(called, sensed, column) for called, (column, sensed) in zip(raw.names, found, strict=True))
    rows = found[0][0].rows if found else 0
    sensed = tuple(each for _, each in found)
    table = Table(name, fields, tuple(column for column, _ in found), rows, source, sensed, raw.ragged)
    table = _with_plain_periods(_without_blank_fields(table, raw.names))
    apart = rows_apart(table)
    left_out = [each.row for each in apart if read_as.leave_totals]
    if left_out:
        table = _with_plain_periods(_sensed_anew(without_rows(table, left_out), raw.signs, kinds))
    settings = [*raw.settings, *_signs_found(table, signs_of(read_as)), *_values_found(table, read_as)]
    if apart:
        words = "left out" if read_as.leave_totals else "kept"
        why = told_of(apart)
        notice = f"{'left out' if read_as.leave_totals else 'kept as rows'}: {why}"
        offer = "Keep them" if read_as.leave_totals else "Leave out"
        shown = () if read_as.leave_totals else tuple(each.row for each in apart)
        choices = (("kept", False), ("left out", True))
        settings.append(Setting("leave_totals", words, why, choices, True, notice, offer, shown))
    wide = period_fields(table)
    if wide:
        settings.append(_periods_setting(table, wide, read_as))
        if read_as.periods:
            table = _turned(table, wide)
    return table, tuple(settings)


def _sensed_anew(table: Table, signs: Signs, kinds: Mapping[str, Kind]) -> Table:
    """Categories that were such only for what stood in the totals row, as what they are without it."""
    columns, sensed, fields = list(table.columns), list(table.sensed), list(table.fields)
    for at, field in enumerate(table.fields):
        if field.kind == "category" and field.name not in kinds:
            columns[at], sensed[at] = encode_texts(texts_of(field.name, columns[at]), None, signs)
            fields[at] = field_for(field.name, sensed[at], columns[at])
    return replace(table, fields=tuple(fields), columns=tuple(columns), sensed=tuple(sensed), memo=Memory())


def _with_plain_periods(table: Table) -> Table:
    """Years, months and the like are written without thousands marks, and never totalled by themselves."""
    fields = tuple(
        replace(field, pattern="0", total="mean")
        if field.kind == "number" and period_unit(table, field.name)
        else field
        for field in table.fields
    )
    return table if fields == table.fields else replace(table, fields=fields)


def _without_blank_fields(table: Table, names: object) -> Table:
    """Columns without a head and without a value are gaps between columns, not fields."""
    kept = [
        at
        for at, (field, column) in enumerate(zip(table.fields, table.columns, strict=True))
        if not (field.name == f"Field {at + 1}" and getattr(column, "members", None) == () and not column.refused)
    ]
    if len(kept) == len(table.fields) or not kept:
        return table
    return replace(
        table,
        fields=tuple(table.fields[at] for at in kept),
        columns=tuple(table.columns[at] for at in kept),
        sensed=tuple(table.sensed[at] for at in kept),
        memo=Memory(),
    )


def _signs_found(table: Table, signs: Signs) -> list[Setting]:
    """Decimal sign and date order, where fields depend on them."""
    settings = []
    pairs = list(zip(table.fields, table.sensed, strict=True))
    numbers = [(field, sensed) for field, sensed in pairs if sensed.kind == "number" and sensed.why]
    if numbers or signs.decimal:
        field, sensed = min(numbers, key=lambda each: each[1].doubt) if numbers else (None, None)
        sign = signs.decimal or (sensed.reading if sensed else "point")
        doubt = bool(sensed and sensed.doubt and not signs.decimal)
        why = "as you chose" if signs.decimal else f"{field.name}: {sensed.why}" if field and sensed else ""
        settings.append(Setting("decimal", sign, why, (("point", "point"), ("comma", "comma")), doubt))
    dates = [(field, sensed) for field, sensed in pairs if sensed.reading in ("day first", "month first")]
    if dates:
        field, sensed = max(dates, key=lambda each: each[1].doubt)
        orders = (("day first", "day first"), ("month first", "month first"))
        settings.append(Setting("dates", sensed.reading, f"{field.name}: {sensed.why}", orders, sensed.doubt))
    return settings


def _periods_setting(table: Table, wide: list[int], read_as: ReadAs) -> Setting:
    """Fields called by periods are better read as rows; a person decides."""
    names = [table.fields[at].name for at in wide]
    what = f"{len(names)} fields are called by {period_word(names)}s, from {names[0]} to {names[-1]}"
    value = "rows" if read_as.periods else "fields"
    offer = "Keep columns" if read_as.periods else "Turn into rows"
    notice = f"{what}: turned into rows" if read_as.periods else f"{what}; the preview can turn them into rows"
    return Setting("periods", value, what, (("fields", False), ("rows", True)), notice=notice, offer=offer)


def _turned(table: Table, wide: list[int]) -> Table:
    names = [table.fields[at].name for at in wide]
    taken = {field.name.casefold() for at, field in enumerate(table.fields) if at not in set(wide)}
    word = period_word(names)
    called = _free((word.title(), "Period", "Period of time"), taken)
    return turned(table, wide, called, _free(("Value", "Figure", "Amount"), taken))


def _free(names: tuple[str, ...], taken: set[str]) -> str:
    """The first of these names that no field has."""
    numbered = (f"{names[0]} {at}" for at in count(2))
    return next(name for name in chain(names, numbered) if name.casefold() not in taken)


_CENTURIES = (1900, 1920, 1930, 1950, 1970, 2000)


def _values_found(table: Table, read_as: ReadAs) -> list[Setting]:
    """What two-figure years were taken for, and what was taken for nothing."""
    settings = []
    short = [(field, each) for field, each in zip(table.fields, table.sensed, strict=True) if each.century]
    if short:
        centuries = sorted({each.century for _, each in short} | set(_CENTURIES))
        field, sensed = short[0]
        notice = f"{sensed.century} to {sensed.century + 99}"
        why = "as you chose" if read_as.century else f"{field.name}: two-digit years"
        choices = tuple((f"{each} to {each + 99}", each) for each in centuries)
        stated = f"two-digit years, as in '{field.name}', are read as {notice}"
        settings.append(Setting("century", notice, why, choices, notice=stated))
    marked = [(field, each) for field, each in zip(table.fields, table.sensed, strict=True) if each.markers]
    if marked or read_as.markers:
        kept = read_as.markers == "text"
        seen = sorted({marker for _, each in marked for marker in each.markers})
        where = ", ".join(field.name for field, _ in marked[:3]) + (" and more" if len(marked) > 3 else "")
        why = f"{', '.join(f'“{each}”' for each in seen[:4])} in {where}" if marked else "as you chose"
        marker_choices = (("blank", "blank"), ("kept as text", "text"))
        offer = "Treat as blank" if kept else "Keep as text"
        stated = "" if kept else f"{why} {'are' if len(seen) > 1 else 'is'} treated as blank"
        settings.append(
            Setting("markers", "kept as text" if kept else "blank", why, marker_choices, notice=stated, offer=offer)
        )
    return settings


def table_from_frame(
    name: str, frame: pl.DataFrame, kinds: dict[str, Kind] | None = None, *, source: str = ""
) -> Table:
    """Sense and encode every series of a frame; `kinds` overrides sensing for the fields it names."""
    table, _ = finish(name, Raw(frame.columns, frame.get_columns()), kinds or {}, ReadAs(), source)
    check_kinds(table, kinds or {})
    return table
