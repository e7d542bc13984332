"""The readers for Parquet and JSON lines: fields are typed in the file."""

from __future__ import annotations

import mmap
import os
import re
from contextlib import suppress
from typing import TYPE_CHECKING

import polars as pl

from summula.core.reading.heads import MOST_FIELDS, clear_names
from summula.core.reading.memory import most_memory
from summula.core.reading.parquetsize import measured
from summula.core.reading.raw import Raw, signs_of
from summula.core.reading.textfile import opened_text
from summula.core.refusal import Refusal
from summula.core.tables.column import Refused
from summula.core.tables.encoding import beyond_calendar, written_dates

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    from summula.core.reading.readas import ReadAs
    from summula.core.tables.field import Kind
    from summula.core.watch import Watch

_BLOCK = 16 * 1024**2
_MOST_NESTED = 48
_LOOKED_AT = 256 * 1024  # bytes, by which too many fields are found early


def read_parquet(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """All fields of a Parquet file; what is nested becomes JSON text."""
    with path.open("rb") as file:
        if os.fstat(file.fileno()).st_size == 0:
            raise Refusal(f"'{path.name}' is empty", "download or export it again")
        with mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as data:
            measured(data, path.name)
    try:
        schema = pl.read_parquet_schema(path)
        if len(schema) > MOST_FIELDS:
            raise Refusal(f"'{path.name}' says that it holds {len(schema):,} fields", "choose a smaller file")
        frame = pl.read_parquet(path)
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException, ValueError) as fault:
        raise Refusal(
            f"'{path.name}' is damaged or not a Parquet file ({_first_line(fault)})", "download or export it again"
        ) from None
    check_texts(frame, f"what '{path.name}' holds")
    watch(frame.height)
    return raw_of(frame, read_as)


def read_json_lines(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """One JSON object a line; a field that a line lacks is blank there."""
    frames: list[pl.DataFrame] = []
    rows = 0
    with opened_text(path, read_as.encoding) as text:
        for lines in _whole_lines(text.chunks(_BLOCK)):
            frames.append(_objects(lines, path))
            rows += frames[-1].height
            watch(rows)
    if rows == 0:
        raise Refusal(f"'{path.name}' is empty", "choose a file with a JSON object in each line")
    if not _go_together(frames):
        frames.clear()
        with opened_text(path, read_as.encoding) as text:
            frames = [_objects(b"".join(text.chunks(_BLOCK)), path)]
    return raw_of(pl.concat(frames, how="diagonal_relaxed"), read_as)


def _whole_lines(pieces: Iterator[bytes]) -> Iterator[bytes]:
    """The pieces cut anew where a line ends; blank ones left out."""
    rest = b""
    for piece in pieces:
        end = piece.rfind(b"\n") + 1
        lines, rest = (rest + piece[:end], piece[end:]) if end else (b"", rest + piece)
        if lines.strip():
            yield lines
    if rest.strip():
        yield rest


def _objects(lines: bytes, path: Path) -> pl.DataFrame:
    _refuse_deep(lines, path)
    _refuse_wide(lines, path)
    try:
        return pl.read_ndjson(lines, infer_schema_length=None)
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException, ValueError) as fault:
        raise Refusal(
            f"'{path.name}' does not hold a JSON object in each line ({_first_line(fault)})",
            "see that every line is one object, in braces",
        ) from None


def _refuse_deep(lines: bytes, path: Path) -> None:
    """Refuse objects in objects so deep that the reader would not come back from them."""
    opened = lines.count(b"{") + lines.count(b"[")
    if opened - lines.count(b"\n") <= _MOST_NESTED:  # an object a line, and few others in all
        return
    for line in lines.splitlines():
        if line.count(b"{") + line.count(b"[") > _MOST_NESTED and _depth(line) > _MOST_NESTED:
            raise Refusal(
                f"'{path.name}' holds objects more than {_MOST_NESTED} deep", "use one flat object for each line"
            )


def _depth(line: bytes) -> int:
    """How deep brackets stand within each other, apart from those in texts."""
    depth = deepest = 0
    for sign in re.findall(rb'"(?:[^"\\]|\\.)*"|[][{}]', line):
        depth += (sign in b"[{") - (sign in b"]}")
        deepest = max(deepest, depth)
    return deepest


def _refuse_wide(lines: bytes, path: Path) -> None:
    """Refuse objects of so many names that no table could hold them, before the reader makes a field of each."""
    import msgspec

    names: set[str] = set()
    for line in lines[:_LOOKED_AT].splitlines()[:-1]:
        with suppress(msgspec.MsgspecError, RecursionError, UnicodeDecodeError):
            found = msgspec.json.decode(line)
            names.update(found if isinstance(found, dict) else ())
    if len(names) > MOST_FIELDS:
        raise Refusal(
            f"'{path.name}' has {len(names):,} fields, more than the {MOST_FIELDS:,} a table can hold", "choose a part"
        )


def _go_together(frames: list[pl.DataFrame]) -> bool:
    """Whether each field is of one type in all blocks, or of numbers, or blank. Else they are read at one go: only so
    the reader finds a type for all."""
    types: dict[str, set[pl.DataType]] = {}
    for frame in frames:
        for name, kind in frame.schema.items():
            types.setdefault(name, set()).add(kind)
    for kinds in types.values():
        known = {kind for kind in kinds if kind != pl.Null}
        if len(known) > 1 and not all(kind.is_numeric() for kind in known):
            return False
    return True


# Those that numpy has, too; what is larger is read from its digits.
_INTEGERS = (pl.Int8, pl.Int16, pl.Int32, pl.Int64, pl.UInt8, pl.UInt16, pl.UInt32, pl.UInt64)


def raw_of(frame: pl.DataFrame, read_as: ReadAs) -> Raw:
    if frame.width > MOST_FIELDS:
        notice = f"the table has {frame.width:,} fields, more than the {MOST_FIELDS:,} that can be held"
        raise Refusal(notice, "choose a part of it")
    series: list[pl.Series] = []
    names, errors = clear_names(frame.columns), []
    for each in frame:
        if each.dtype in (pl.Date, pl.Datetime) and (beyond := beyond_calendar(each)).any():
            rows = beyond.arg_true()
            texts = written_dates(each.gather(rows)).to_list()
            errors += [(names[len(series)], Refused(*pair)) for pair in zip(rows.to_list(), texts, strict=True)]
            each = each.set(beyond, None)
        if each.dtype.is_nested():
            each = pl.Series(
                each.name, [None if value is None else _plain(value) for value in each.to_list()], dtype=pl.String
            )
        elif each.dtype == pl.Binary:
            each = pl.Series(each.name, [_letters(value) for value in each.to_list()], dtype=pl.String)
        elif each.dtype in (pl.Time, pl.Null, pl.Object) or (each.dtype.is_integer() and each.dtype not in _INTEGERS):
            each = each.cast(pl.String, strict=False)
        elif each.dtype == pl.Datetime and getattr(each.dtype, "time_zone", None):
            each = each.dt.replace_time_zone(None)
        series.append(each)
    return Raw(names, series, frame.height, signs=signs_of(read_as), errors=tuple(errors))


def _letters(value: bytes | None) -> str | None:
    """Bytes as the letters that they are, or where they are none in hexadecimal."""
    if value is None:
        return None
    try:
        return value.decode("utf-8")
    except UnicodeDecodeError:
        return value.hex()


def _plain(value: object) -> str:
    import msgspec

    return msgspec.json.encode(value, enc_hook=str).decode()


def _first_line(fault: BaseException) -> str:
    return (str(fault).splitlines() or [type(fault).__name__])[0][:160]


def check_texts(frame: pl.DataFrame, what: str) -> None:
    """Refuses text that a few bytes repeat until no memory would hold it."""
    letters = [int(each.str.len_bytes().sum()) for each in frame if each.dtype == pl.String]
    if sum(letters) > most_memory():
        raise Refusal(f"{what} would take {sum(letters):,} bytes of text", "it may be malicious")
