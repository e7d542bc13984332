"""The reader for delimited text: comma, tab, semicolon, pipe; UTF-8, UTF-16 or Windows-1252."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import polars as pl

from summula.core.refusal import Refusal
from summula.core.tables.heads import clear_names

_DELIMITERS = ",\t;|"
_LOOK = 64 * 1024  # bytes looked at to sense the delimiter


def read_delimited(path: Path) -> pl.DataFrame:
    """Every field as text (empty is null), under clear heads from the first row."""
    raw = path.read_bytes()
    if not raw[:_LOOK].strip():
        raise Refusal(f"'{path.name}' is empty", "choose a file with a row of heads")
    data = _as_utf8(raw, path.name)
    delimiter = _delimiter(data[:_LOOK].decode("utf-8", "ignore"))
    heads = next(csv.reader(io.StringIO(_first_lines(data)), delimiter=delimiter), [])
    try:
        frame = pl.read_csv(
            data,
            separator=delimiter,
            has_header=True,
            infer_schema=False,
        )
    except pl.exceptions.NoDataError:
        raise Refusal(f"'{path.name}' is empty", "choose a file with a row of heads") from None
    except pl.exceptions.PolarsError as fault:
        where = str(fault).splitlines()[0]
        raise Refusal(
            f"'{path.name}' is not a regular table ({where})",
            "see that every row has as many values as the head",
        ) from None
    names = clear_names([*heads, *[""] * (frame.width - len(heads))][: frame.width])
    frame.columns = names
    return frame


def _as_utf8(raw: bytes, name: str) -> bytes:
    if raw.startswith((b"\xff\xfe", b"\xfe\xff")):
        return raw.decode("utf-16").encode("utf-8")
    if raw.startswith(b"\xef\xbb\xbf"):
        raw = raw[3:]
    if b"\x00" in raw[:_LOOK]:
        raise Refusal(f"'{name}' is not a text file", "choose a CSV or TSV file")
    if raw.isascii():  # a quick look that spares decoding it all
        return raw
    try:
        raw.decode("utf-8")
    except UnicodeDecodeError:
        return raw.decode("cp1252", "replace").encode("utf-8")
    return raw


def _delimiter(text: str) -> str:
    """The candidate that splits the first lines most often and most evenly."""
    lines = [line for line in text.splitlines()[:20] if line]
    best, best_score = ",", 0.0
    for candidate in _DELIMITERS:
        widths = [len(row) for row in csv.reader(lines, delimiter=candidate)]
        if not widths or widths[0] < 2:
            continue
        even = sum(width == widths[0] for width in widths) / len(widths)
        score = even * widths[0]
        if score > best_score:
            best, best_score = candidate, score
    return best


def _first_lines(data: bytes) -> str:
    return data[:_LOOK].decode("utf-8", "ignore")
