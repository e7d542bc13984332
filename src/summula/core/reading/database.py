"""The reader for SQLite: a table or view, opened to be read only."""

from __future__ import annotations

import sqlite3
from time import monotonic
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

import polars as pl

from summula.core.reading.heads import MOST_FIELDS, clear_names
from summula.core.reading.memory import most_memory
from summula.core.reading.raw import Raw, signs_of
from summula.core.reading.readas import ReadAs, Setting
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.tables.field import Kind
    from summula.core.watch import Watch

_FIRST, _AT_ONCE = 8, 50_000  # rows; many at once where they are small
_BYTES_AT_ONCE = 64 * 1024**2
_LONGEST = 50_000_000  # bytes of a value
_LONGEST_THOUGHT = 60.0  # seconds
_STEPS = 200_000  # of the database's own, between two chances to stop


def read_database(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """One table or view (the first unless said). Values of mixed types in a field become text."""
    try:
        connection = sqlite3.connect(f"file:{quote(str(path.resolve()))}?mode=ro", uri=True)
        try:
            connection.execute("pragma trusted_schema = off")
            connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _LONGEST)
            patience = _Patience(path.name, watch)
            connection.set_progress_handler(patience, _STEPS)
            try:
                return _read(connection, path, read_as, watch, patience)
            except sqlite3.OperationalError:
                if patience.stop is not None:
                    raise patience.stop from None
                raise
        finally:
            connection.close()
    except (sqlite3.Error, UnicodeError) as fault:  # what it says of itself may be no text
        raise Refusal(
            f"'{path.name}' could not be read as a database ({fault})", "see that it is an SQLite file"
        ) from None


class _Patience:
    """Asked by the database while it works: a view may think for ever about one row. A stop comes meanwhile, and in the
    end it is refused."""

    def __init__(self, name: str, watch: Watch) -> None:
        self.name, self.watch = name, watch
        self.stop: BaseException | None = None
        self.came(0)

    def came(self, rows: int) -> None:
        self.rows, self.since = rows, monotonic()

    def __call__(self) -> int:
        try:
            self.watch(self.rows)
            if monotonic() - self.since > _LONGEST_THOUGHT:
                raise Refusal(
                    f"'{self.name}' has worked for {_LONGEST_THOUGHT:.0f} s on one row", "choose another table of it"
                )
        except BaseException as stop:
            self.stop = stop
            return 1
        return 0


def _read(connection: sqlite3.Connection, path: Path, read_as: ReadAs, watch: Watch, patience: _Patience) -> Raw:
    found = connection.execute(
        "select name, type from sqlite_master where type in ('table', 'view') "
        "and name not like 'sqlite_%' order by type, name"
    ).fetchall()
    names = [str(name) for name, _ in found]
    if not names:
        raise Refusal(f"'{path.name}' holds no table", "choose another file")
    wanted = read_as.sheet or names[0]
    if wanted not in names:
        raise Refusal(f"no table '{wanted}' in '{path.name}'", "its tables are " + ", ".join(names[:20]))
    quoted = '"' + wanted.replace('"', '""') + '"'
    cursor = connection.execute(f"select * from {quoted}")
    heads = [each[0] for each in cursor.description]
    if len(heads) > MOST_FIELDS:
        notice = f"the table has {len(heads):,} fields, more than the {MOST_FIELDS:,} that can be held"
        raise Refusal(notice, "choose a part of it")
    parts: list[list[pl.Series]] = [[] for _ in heads]
    rows, size, most, at_once = 0, 0.0, most_memory(), _FIRST
    while some := cursor.fetchmany(at_once):
        before = size
        for at, column in enumerate(zip(*some, strict=True)):
            parts[at].append(_series(column))
            size += parts[at][-1].estimated_size()
        rows += len(some)
        watch(rows)
        patience.came(rows)
        at_once = max(1, min(_AT_ONCE, 4 * at_once, int(at_once * _BYTES_AT_ONCE / max(size - before, 1))))
        if size > most:
            raise Refusal(
                f"'{wanted}' in '{path.name}' has more rows than there is room for", "choose another table of it"
            )
    series = [_joined(part) for part in parts]
    kinds_of = dict(found)
    choices = tuple((f"{name} ({kinds_of[name]})" if kinds_of[name] == "view" else name, name) for name in names)
    setting = Setting(
        "sheet", wanted, f"one of {len(names)} in the file" if len(names) > 1 else "the only one", choices
    )
    return Raw(clear_names(heads), series, rows, settings=(setting,), signs=signs_of(read_as))


def _series(values: tuple[Any, ...]) -> pl.Series:
    """Whole numbers, numbers or text: the narrowest that holds them all."""
    types = set(map(type, values)) - {type(None)}
    if types <= {int}:  # of 64 bits, as the file holds them
        return pl.Series(values, dtype=pl.Int64)
    if types <= {int, float}:
        return pl.Series(values, dtype=pl.Float64, strict=False)
    if types == {str}:
        return pl.Series(values, dtype=pl.String)
    return pl.Series([None if value is None else _text(value) for value in values], dtype=pl.String)


def _text(value: Any) -> str:
    return value.hex() if isinstance(value, bytes) else str(value)


def _joined(parts: list[pl.Series]) -> pl.Series:
    if not parts:
        return pl.Series([], dtype=pl.String)
    types = {part.dtype for part in parts if part.null_count() < len(part)}
    widest = pl.String if pl.String in types else pl.Float64 if pl.Float64 in types else pl.Int64
    return pl.concat([part.cast(widest) for part in parts])
