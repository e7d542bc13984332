"""A sheet in pieces: some of its rows at a time, each piece a small workbook that the workbook reader reads alone.

So a sheet is read by several processors, tells its rows as they come, can be stopped between them, and needs no more
memory than its pieces do. What the reader leaves out, the error cells ("#N/A"), is found in the piece's own XML.
"""

from __future__ import annotations

import contextlib
import io
import re
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import NamedTuple, Protocol

import msgspec

from summula.core.reading.heads import MOST_FIELDS
from summula.core.refusal import Refusal

LOOK = 256 * 1024  # bytes of XML in the first piece, by which heads are found
PIECE = 2 * 1024**2  # bytes of XML in every other one: some six thousand rows
LONGEST_ROW = 64 * 1024**2
MOST_CELLS = 40_000_000  # of one piece, blank ones between its corners among them
_FAR = re.compile(rb"""\sr\s*=\s*["']([A-Za-z]{1,3})(\d{1,7})["']""")
STRANGE_PLACE = re.compile(rb"""\sr\s*=\s*["'](?![A-Za-z]{0,3}\d{1,7}["'])""")
MARK = "·"  # stands in the first column above (or below) a piece's rows, so that all pieces begin at the same column


class ErrorCell(NamedTuple):
    """Row and column of the sheet, counted from 0."""

    row: int
    column: int
    text: str


class Merged(NamedTuple):
    """Cells made one, over more than a row: the first and last row and column, counted from 0."""

    top: int
    left: int
    bottom: int
    right: int


class Piece(msgspec.Struct, frozen=True):
    """So many rows of a sheet as a workbook of its own, from the sheet's `row` (from 0) on; `flags` are the columns
    in which some cell is true or false. The mark stands in a row above the others, or below where none can be above."""

    row: int
    rows: int
    book: bytes
    errors: tuple[ErrorCell, ...]
    flags: frozenset[int]
    below: bool = False


class Cut(Protocol):
    """Rows as they were cut out, from the sheet's row `start` (from 0) on; the way to a piece takes time, and is for
    other threads."""

    @property
    def start(self) -> int: ...

    def piece(self) -> Piece: ...


class Sheet(Protocol):
    """A sheet that can be cut. `merged` are its merged cells, known when all of it has been read."""

    merged: set[Merged]

    def cuts(self, first: int = 0) -> Iterator[Cut]:
        """The sheet from the row `first` (from 0) on, a few rows and then many at a time."""
        ...


class NotCut(Exception):
    """The sheet is made in a way that cannot be cut: it is read at one go."""


def packed(entries: Mapping[str, bytes], name: str, parts: tuple[bytes, ...]) -> bytes:
    """A workbook, as a file in memory: its entries, and one more that is made of parts."""
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as archive:
        for each, content in entries.items():
            archive.writestr(each, content)
        with archive.open(name, "w") as stream:
            for part in parts:
                stream.write(part)
    return file.getvalue()


def refuse_size(rows: int, width: int, name: str, remedy: str) -> None:
    """Refuse what would not fit into memory, though its file may be small."""
    if width > MOST_FIELDS:
        raise Refusal(
            f"a cell of '{name}' stands in column {width:,}; no more than {MOST_FIELDS:,} fields can be held", remedy
        )
    if rows * width > MOST_CELLS:
        raise Refusal(
            f"'{name}' says that one value fills {rows * width:,} cells",
            "it may be malicious; check where it comes from",
        )


def refuse_strange(name: str) -> None:
    """Refuse a sheet with cells beyond all sheets: a reader would ask for the room up to there."""
    raise Refusal(
        f"a cell of '{name}' says that it stands where no sheet has cells",
        "it may be malicious; check where it comes from",
    )


def column_number(letters: str) -> int:
    """A is 1, AA is 27."""
    number = 0
    for letter in letters:
        number = number * 26 + ord(letter) - 64
    return number


def refuse_far_cells(path: Path) -> None:
    """Refuse an archive whose sheets have cells so far apart that the room between them would not fit into memory."""
    broken = (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError)
    with contextlib.suppress(*broken), zipfile.ZipFile(path) as archive:
        for entry in archive.namelist():
            row = column = 0
            rest = b""
            with archive.open(entry) as stream:
                while chunk := stream.read(PIECE):
                    if STRANGE_PLACE.search(rest + chunk) and b"<row" in rest + chunk:
                        refuse_strange(path.name)
                    for letters, number in _FAR.findall(rest + chunk):
                        row, column = max(row, int(number)), max(column, column_number(letters.decode().upper()))
                    rest = chunk[-32:]
                    refuse_size(row, column, path.name, "choose the block of cells that holds the table")
