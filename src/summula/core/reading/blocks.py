"""Delimited text in blocks: cut where a row ends, parsed, its ragged rows mended and told."""

from __future__ import annotations

import contextlib
import csv
import io
import re
from array import array
from collections.abc import Iterator, Sequence
from typing import Any

import msgspec
import numpy as np
import polars as pl
from msgspec.structs import replace
from numpy.typing import NDArray

from summula.core.reading.growing import Growing, Piece, parts_of, parts_told
from summula.core.reading.recognising import Lines, laid_out
from summula.core.reading.textfile import NotUtf8
from summula.core.refusal import Refusal
from summula.core.tables.column import stretches
from summula.core.tables.table import Ragged

_NEWLINE, _RETURN, _QUOTE = 10, 13, 34
_LONGEST_ROW = 32 * 1024**2
_SPACES = " \t\v\f\r\n"

Bytes = NDArray[np.uint8]


class Unclosed(Exception):
    """A quotation mark that is never closed, so many bytes into the text (as UTF-8)."""

    def __init__(self, place: int) -> None:
        super().__init__(place)
        self.place = place


class Shape(msgspec.Struct, frozen=True):
    """One sign parts the values, `width` of them a row, after `skip` filled rows of titles and heads."""

    delimiter: str
    width: int
    skip: int


class Block(msgspec.Struct, frozen=True):
    """What a stretch of the text holds. `skip`: how many filled rows are no values yet in what follows."""

    rows: int
    parts: list[Piece]
    ragged: list[Ragged]
    skip: int = 0

    def ragged_from(self, start: int) -> list[Ragged]:
        return [replace(each, row=each.row + start) for each in self.ragged]


def cut(pieces: Iterator[bytes], delimiter: str, name: str) -> Iterator[Lines]:
    """The pieces cut anew so that each ends with a row."""
    rest, done, enough = b"", 0, 0
    for piece in pieces:
        end = 0 if b'"' in piece or b'"' in rest else piece.rfind(b"\n") + 1
        if end:
            yield Lines(rest, piece, end, quoted=False)
            done += len(rest) + end
            rest = piece[end:]
            continue
        rest = rest + piece if rest else piece
        if len(rest) < enough:
            continue
        end = _last_row_end(rest, ord(delimiter))
        if end:
            whole, rest = rest[:end], rest[end:]
            yield Lines.of(whole)
            done += end
        elif len(rest) > _LONGEST_ROW:
            raise Refusal(
                f"a row of '{name}' is longer than {_LONGEST_ROW // 1024**2} MB",
                "see that every quotation mark is closed",
            )
        enough = 0 if end else min(2 * len(rest), _LONGEST_ROW + 1)  # a long row is not looked through at every piece
    if rest:
        quotes = _structural_quotes(np.frombuffer(rest, np.uint8), ord(delimiter))
        if len(quotes) % 2:
            raise Unclosed(done + int(quotes[-1]))
        yield Lines.of(rest)


def is_blank(row: Sequence[str]) -> bool:
    """Whether no cell of a row holds anything: it is a gap, not a row."""
    return not any(cell.strip(_SPACES) for cell in row)


def _last_row_end(text: bytes, delimiter: int) -> int:
    """Just past the last line end that is not inside quotation marks; 0 where there is none."""
    end = text.rfind(b"\n") + 1
    if b'"' not in text:
        return end
    letters = np.frombuffer(text, np.uint8)
    quotes = _structural_quotes(letters, delimiter)
    while end:
        before = int(np.searchsorted(quotes, end))
        if before % 2 == 0:
            return end
        # inside a quoted value: look before the mark that opened it
        end = text.rfind(b"\n", 0, int(quotes[before - 1])) + 1
    return 0


def _structural_quotes(letters: Bytes, delimiter: int) -> NDArray[np.int64]:
    """Where quotation marks open and close values, by turns (a doubled one may count as both), rather than stand for
    themselves: behind an opened value, or as inches do behind a number. The text begins with a row."""
    places = np.flatnonzero(letters == _QUOTE)
    if len(places) == 0:
        return places
    edge = np.array([delimiter, _NEWLINE, _RETURN, _QUOTE], dtype=np.uint8)
    before = np.where(places > 0, letters[places - 1], _NEWLINE)
    after = np.where(places + 1 < len(letters), letters[np.minimum(places + 1, len(letters) - 1)], _NEWLINE)
    if np.isin(before[::2], edge).all() and np.isin(after[1::2], edge).all():
        return places
    return _one_by_one(places, np.isin(before, edge[:3]))


def _one_by_one(places: NDArray[np.int64], opens: NDArray[np.bool_]) -> NDArray[np.int64]:
    """The same of marks of which some stand for themselves. `opens` says which begin a value where none is open."""
    found = array("q")
    doubled = -1
    for part in stretches(len(places)):  # as lists they take much room
        behind = [*places[part.start + 1 : part.stop + 1].tolist(), -1][: part.stop - part.start]
        for place, begins, next_place in zip(places[part].tolist(), opens[part].tolist(), behind, strict=True):
            if place == doubled:
                continue
            if len(found) % 2 == 0:
                if begins:
                    found.append(place)
            elif next_place == place + 1:
                doubled = next_place
            else:
                found.append(place)
    return np.array(found, dtype=np.int64)


def parse(lines: Lines, shape: Shape, skip: int, growing: Sequence[Growing]) -> Block:
    """One block: its values as parts of the growing fields. `skip` filled rows at its start are no values."""
    if skip:
        text, skip = _without_heads(lines.text, skip, shape.delimiter)
        lines = Lines.of(text)
    laid = None if skip else laid_out(lines, shape.delimiter, shape.width)
    if laid is not None:
        with contextlib.suppress(UnicodeDecodeError):  # then it is no UTF-8, which the parser finds too
            notice = parts_told(laid, growing)
            if notice is not None:
                return Block(laid.rows, notice, [])
    frame, ragged, left = _frame(lines.text, shape, skip)
    return Block(frame.height, parts_of(frame, growing), ragged, left)


_GAPS = re.compile(rb"\n\n\n+")


def parse_whole(text: bytes, shape: Shape) -> tuple[pl.DataFrame, list[Ragged]]:
    """A whole text, its first `shape.skip` filled rows being heads."""
    text, skip = _without_heads(text, shape.skip, shape.delimiter)
    frame, ragged, _ = _frame(text, shape, skip)
    return frame, ragged


def _frame(text: bytes, shape: Shape, skip: int) -> tuple[pl.DataFrame, list[Ragged], int]:
    """The rows behind so many filled ones, those that are ragged, and how many there are still to pass over."""
    names = [f"{at}" for at in range(shape.width)]
    if b"\n\n\n" in text and b'"' not in text:
        text = _GAPS.sub(b"\n", text)  # blank lines are no rows; millions of them would be parsed one by one
    # Where some lines end with a return alone only the careful way tells which do.
    if not skip and shape.width > 1 and text and text.count(b"\r") == text.count(b"\r\n"):
        try:
            frame = pl.read_csv(
                text, separator=shape.delimiter, has_header=False, infer_schema=False, new_columns=names,
                schema=dict.fromkeys(names, pl.String),
            )  # fmt: skip
            # A row too long is refused by polars, one too short (or blank) lacks its last value.
            if b'"' not in text and frame.height and not frame.to_series(-1).null_count():
                return _without_blank_rows(frame), [], 0
            if _delimiters(text, shape.delimiter) == frame.height * (shape.width - 1):
                return _without_blank_rows(frame), [], 0
        except pl.exceptions.PolarsError:
            pass
    return _row_by_row(text, shape, skip, names)


def _without_heads(text: bytes, skip: int, delimiter: str) -> tuple[bytes, int]:
    """The text after so many filled lines, where they are plain enough to be cut off; else as it was."""
    at, left, nothing = 0, skip, (_SPACES + delimiter).encode()
    while left and at < len(text):
        end = text.find(b"\n", at) + 1 or len(text)
        line = text[at:end]
        if b'"' in line or b"\r" in line.removesuffix(b"\n").removesuffix(b"\r"):
            return text, skip
        left -= bool(line.strip(nothing))
        at = end
    return text[at:], left


def _without_blank_rows(frame: pl.DataFrame) -> pl.DataFrame:
    """A row without any value is a gap, not a row."""
    blank = np.arange(frame.height)
    for series in frame:  # most often the first one tells that there is none
        blank = blank[(series.gather(blank).fill_null("").str.strip_chars(_SPACES) == "").to_numpy()]
        if not len(blank):
            return frame
    kept = np.ones(frame.height, dtype=np.bool_)
    kept[blank] = False
    return frame.filter(pl.Series(kept))


def _delimiters(text: bytes, delimiter: str) -> int:
    """How many delimiters part values: those between quotation marks are letters. -1 where some marks stand for
    themselves, which polars takes for others now and then."""
    letters = np.frombuffer(text, np.uint8)
    parting = letters == ord(delimiter)
    if b'"' in text:
        structural = _structural_quotes(letters, ord(delimiter))
        if len(structural) != text.count(b'"'):
            return -1
        marks = np.zeros(len(letters), dtype=np.uint8)
        marks[structural] = 1
        parting &= np.bitwise_xor.accumulate(marks) == 0
    return int(np.count_nonzero(parting))


def _row_by_row(text: bytes, shape: Shape, skip: int, names: list[str]) -> tuple[pl.DataFrame, list[Ragged], int]:
    """The slow and careful way: blank lines left out, rows too long or too short brought to width and told."""
    try:
        letters = text.decode("utf-8")
    except UnicodeDecodeError:
        raise NotUtf8 from None
    rows: list[list[Any]] = []
    ragged: list[Ragged] = []
    try:
        for row in csv.reader(io.StringIO(letters, newline=""), delimiter=shape.delimiter):
            if is_blank(row):
                continue
            if skip:
                skip -= 1
                continue
            if len(row) != shape.width:
                extra = tuple(row[shape.width :])
                if len(row) < shape.width or not is_blank(extra):
                    ragged.append(Ragged(len(rows), shape.width, len(row), extra))
                row = (row + [""] * shape.width)[: shape.width]
            rows.append(row)
    except csv.Error:
        raise Refusal("a value is longer than 64 MB", "see that every quotation mark is closed") from None
    columns = list(zip(*rows, strict=True)) if rows else [()] * shape.width
    series = [
        pl.Series(name, [cell if cell else None for cell in column], dtype=pl.String)
        for name, column in zip(names, columns, strict=True)
    ]
    return pl.DataFrame(series), ragged, skip
