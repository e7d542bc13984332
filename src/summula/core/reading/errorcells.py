"""Error cells of an XLSX sheet ("#N/A", "#REF!"). The workbook reader gives blanks for them, so they are sought here.

The sheet's XML is searched as bytes in passing, never built into a tree: nothing in it is expanded.
"""

from __future__ import annotations

import html
import re
import zipfile
from pathlib import Path
from typing import NamedTuple

_CHUNK = 1024**2
_MOST = 10_000
_HEAD = 64 * 1024
_ERROR = re.compile(
    rb'<c r="([A-Z]{1,3})(\d{1,7})"(?=[^>]*\bt="e")[^>]*>(?:<f[^>]*/>|<f[^>]*>[^<]*</f>)?<v>([^<]{1,40})</v>'
)
_DIMENSION = re.compile(rb'<dimension ref="([A-Z]{1,3})(\d{1,7})')
_SHEET = re.compile(rb'<sheet\b[^>]*?\bname="([^"]*)"[^>]*?\br:id="([^"]*)"')
_TARGETS = re.compile(rb"<Relationship\b[^>]*>")


class ErrorCell(NamedTuple):
    """Counted from 0, from the first row and column that hold anything."""

    row: int
    column: int
    text: str


class SheetCells(NamedTuple):
    """Where the filled part of a sheet begins (from 0), and its error cells."""

    top: int
    left: int
    errors: tuple[ErrorCell, ...]


NO_ERRORS = SheetCells(0, 0, ())


def sheet_cells(path: Path, sheet: str) -> SheetCells:
    """What the sheet's XML tells beyond its values; nothing where the file is of another make."""
    if path.suffix.lower() not in (".xlsx", ".xlsm"):
        return NO_ERRORS
    try:
        with zipfile.ZipFile(path) as archive:
            place = _place(archive, sheet)
            return _search(archive, place) if place else NO_ERRORS
    except (zipfile.BadZipFile, KeyError, OSError, ValueError, NotImplementedError):
        return NO_ERRORS


def _place(archive: zipfile.ZipFile, sheet: str) -> str:
    """The archive's entry that holds the sheet."""
    book = _beginning(archive, "xl/workbook.xml")
    wanted = {html.unescape(name.decode("utf-8", "replace")): rid for name, rid in _SHEET.findall(book)}.get(sheet)
    for found in _TARGETS.findall(_beginning(archive, "xl/_rels/workbook.xml.rels")):
        if wanted is not None and b'Id="' + wanted + b'"' in found:
            target = re.search(rb'Target="([^"]*)"', found)
            if target:
                name = target[1].decode("utf-8", "replace").lstrip("/")
                return name if name.startswith("xl/") else f"xl/{name}"
    return ""


def _beginning(archive: zipfile.ZipFile, name: str) -> bytes:
    with archive.open(name) as stream:
        return stream.read(4 * 1024**2)


def _search(archive: zipfile.ZipFile, place: str) -> SheetCells:
    errors: list[ErrorCell] = []
    top = left = 0
    with archive.open(place) as stream:
        rest = stream.read(_HEAD)
        dimension = _DIMENSION.search(rest)
        if dimension:
            top, left = int(dimension[2]) - 1, column_number(dimension[1].decode()) - 1
        while True:
            if b't="e"' in rest:
                errors += [
                    ErrorCell(
                        int(row) - 1 - top, column_number(letters.decode()) - 1 - left, text.decode("utf-8", "replace")
                    )
                    for letters, row, text in _ERROR.findall(rest)
                ]
            piece = stream.read(_CHUNK)
            if not piece or len(errors) > _MOST:
                return SheetCells(top, left, tuple(errors[:_MOST]))
            cell = rest.rfind(b"<c ")
            rest = (rest[cell:] if cell >= 0 and len(rest) - cell < _HEAD else b"") + piece


def column_number(letters: str) -> int:
    """A is 1, AA is 27."""
    number = 0
    for letter in letters:
        number = number * 26 + ord(letter) - 64
    return number
