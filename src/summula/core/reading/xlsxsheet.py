"""An XLSX sheet cut into pieces. Its XML is searched as bytes in passing, never built into a tree: nothing in it is
expanded."""

from __future__ import annotations

import html
import re
import zipfile
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import IO

import msgspec
import numpy as np
from numpy.typing import NDArray

from summula.core.reading.digits import eight_digits
from summula.core.reading.heads import MOST_FIELDS
from summula.core.reading.sheet import (
    LONGEST_ROW,
    LOOK,
    MARK,
    PIECE,
    STRANGE_PLACE,
    ErrorCell,
    Merged,
    NotCut,
    Piece,
    column_number,
    packed,
    refuse_size,
    refuse_strange,
)
from summula.core.refusal import Refusal

_BOOK, _RELATIONS = "xl/workbook.xml", "xl/_rels/workbook.xml.rels"
_SHEET = re.compile(rb'<(?:\w+:)?sheet\b[^>]*?\bname="([^"]*)"[^>]*?\b\w+:id="([^"]*)"')
_HIDDEN = re.compile(rb'<(?:\w+:)?sheet\b(?=[^>]*?\bstate="(?:hidden|veryHidden)")[^>]*?\bname="([^"]*)"')
_RELATION = re.compile(rb"<(?:\w+:)?Relationship\b[^>]*>")
_DATA = re.compile(rb"<((?:\w+:)?)sheetData\s*>")
_OLD_DAYS = re.compile(rb'\bdate1904="(?:1|true)"')
_PLACE = re.compile(rb"""\sr\s*=\s*["']([A-Za-z]{1,3})(\d{1,7})["']""")
_TEXT = re.compile(rb"<(?:\w+:)?si[\s>/]")
_TEXT_CELL = re.compile(rb"""\st=["']s["'][^>]*>\s*<(?:\w+:)?v>\s*(\d{1,9})""")
_MOST_TEXTS = 256 * 1024**2  # bytes in one piece
_COLUMN = re.compile(rb'r="([A-Z]{3})\d')
# A formula without a value: nobody has worked it out. One that gives no text says so itself.
_FORMULA = rb"""(?![^>]*\st="str")[^>]*>\s*<%bf\b[^>]*?(?:/>|>([^<]*)</%bf>)\s*(?:<%bv\s*/>|<%bv></%bv>)?\s*</%bc>"""
_WITHOUT_VALUE = (b"</%bc>", b"<%bv/></%bc>", b"<%bv /></%bc>", b"<%bv></%bv></%bc>")
_MERGED = re.compile(rb'<(?:\w+:)?mergeCell\b[^>]*?\bref="([A-Z]{1,3})(\d{1,7}):([A-Z]{1,3})(\d{1,7})"')
_MOST_AFTER = 64 * 1024**2  # bytes behind the rows
_TAGS, _GAP = 200_000, 50_000  # rows
_MOST_ERRORS = 10_000
_BOOK_TYPES = (
    b'<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    b'<Default Extension="xml" ContentType="application/xml"/></Types>'
)
_OFFICE = b"http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_MAIN = b"http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_PACKAGE = b"http://schemas.openxmlformats.org/package/2006/relationships"


class Tags(msgspec.Struct, frozen=True):
    """The names of a sheet's elements, which may come with a prefix."""

    prefix: bytes
    row: re.Pattern[bytes]
    numbered: re.Pattern[bytes]
    error: re.Pattern[bytes]
    flag: re.Pattern[bytes]
    formula: re.Pattern[bytes]
    row_end: bytes
    data_end: bytes

    @classmethod
    def of(cls, prefix: bytes) -> Tags:
        p = re.escape(prefix)
        cell = rb'<%bc(?=[^>]*\sr="([A-Z]{1,3})(\d{1,7})")' % p
        error = rb'(?=[^>]*\st="e")[^>]*>(?:<%bf[^>]*/>|<%bf[^>]*>[^<]*</%bf>)?<%bv>([^<]{1,40})</%bv>'
        return cls(
            prefix,
            re.compile(rb"<%brow(?=[\s>/])[^>]*>" % p),
            re.compile(rb'<%brow\b[^>]*?\sr="(\d{1,7})"' % p),
            re.compile(cell + error % ((p,) * 5)),
            re.compile(cell + rb'(?=[^>]*\st="b")'),
            re.compile(cell + _FORMULA % ((p,) * 6)),
            b"</%brow>" % prefix,
            b"</%bsheetData>" % prefix,
        )


class XlsxCut(msgspec.Struct, frozen=True):
    """Whole rows as they stand in the XML; `first` and `last` are their numbers (from 1)."""

    sheet: XlsxSheet
    tags: Tags
    rows: bytes
    first: int
    last: int

    @property
    def start(self) -> int:
        return self.first - 1

    def piece(self) -> Piece:
        name, p = self.sheet.name, self.tags.prefix
        rows = self.rows
        if _may_reach_beyond(rows, self.last):
            if STRANGE_PLACE.search(rows):
                refuse_strange(name)
            places = [(column_number(letters.decode().upper()), int(row)) for letters, row in _PLACE.findall(rows)]
            if any(not self.first <= row <= self.last for _, row in places):
                raise NotCut  # cells that stand in other rows than they say
            width = max((column for column, _ in places), default=1)
            if width > MOST_FIELDS and self.sheet.chosen:
                rows, width = self._without_far_cells(), MOST_FIELDS
            refuse_size(self.last - self.first + 1, width, name, "choose the block of cells that holds the table")
        self.sheet.refuse_texts(rows)
        below = self.first == 1
        at = self.last + 1 if below else self.first - 1
        mark = b'<%brow r="%d"><%bc r="A%d" t="str"><%bv>%b</%bv></%bc></%brow>'
        mark %= (p, at, p, at, p, MARK.encode(), p, p, p)
        spaces = b'xmlns="%b"' % _MAIN if not p else b'xmlns:%b="%b"' % (p[:-1], _MAIN)
        begin = b"<%bworksheet %b><%bsheetData>" % (p, spaces, p)
        end = b"</%bsheetData></%bworksheet>" % (p, p)
        parts = (begin, rows, mark, end) if below else (begin, mark, rows, end)
        book = packed(self.sheet.entries, "xl/worksheets/sheet1.xml", parts)
        return Piece(self.start, self.last - self.start, book, self._errors(), self._flags(), below)

    def _errors(self) -> tuple[ErrorCell, ...]:
        found: list[tuple[bytes, bytes, bytes]] = []
        if b"e" in self.rows and b't="e"' in self.rows:  # a single letter is sought much faster
            found += self.tags.error.findall(self.rows)[:_MOST_ERRORS]
        p = self.tags.prefix
        endings = [b"</%bf>" % p + each % ((p,) * each.count(b"%b")) for each in _WITHOUT_VALUE]
        if b"</%bf>" % p in self.rows and any(each in self.rows for each in endings):
            formulas = self.tags.formula.findall(self.rows)[:_MOST_ERRORS]
            found += [(letters, row, b"=" + text[:200]) for letters, row, text in formulas]
        return tuple(
            ErrorCell(int(row) - 1, column_number(letters.decode()) - 1, html.unescape(text.decode("utf-8", "replace")))
            for letters, row, text in found
        )

    def _flags(self) -> frozenset[int]:
        if b"b" not in self.rows or b't="b"' not in self.rows:
            return frozenset()
        letters = {found[0] for found in self.tags.flag.findall(self.rows)}
        if not letters:  # cells that do not say where they are
            return frozenset(range(MOST_FIELDS))
        return frozenset(column_number(each.decode()) - 1 for each in letters)

    def _without_far_cells(self) -> bytes:
        before, *cells = self.rows.split(b"<%bc " % self.tags.prefix)
        kept = [before]
        for cell in cells:
            found = _COLUMN.match(cell)
            if found is None or column_number(found[1].decode()) <= MOST_FIELDS:
                kept.append(b"<%bc " % self.tags.prefix + cell)
            elif (end := cell.find(self.tags.row_end)) >= 0:
                kept.append(cell[end:])
        return b"".join(kept)


def _may_reach_beyond(rows: bytes, last: int) -> bool:
    """Whether a cell may stand in a row after the last one, or in a column of three letters. Two such cells are enough
    to make the reader ask for room for all cells between them. Formulas and texts may look so, too."""
    text = np.frombuffer(rows, np.uint8)
    folded = text | np.uint8(32)
    folded -= np.uint8(97)
    letter = folded < 26
    np.subtract(text, np.uint8(48), out=folded)
    digit = folded < 10
    before = np.flatnonzero(np.logical_and(letter[:-1], digit[1:], out=digit[1:]))
    before = before[(before >= 2) & (before < len(text) - 9)]
    if len(before) == 0:
        return False
    if (letter[before - 1] & letter[before - 2]).any():
        return True
    words = np.ndarray((len(text) - 7,), "<u8", rows, 0, (1,))[before + 1]
    return bool((_leading_number(words) > last).any())


def _leading_number(words: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """The number that eight letters begin with, the first of them in the lowest byte."""
    digits = words ^ np.uint64(0x3030303030303030)
    other = ((digits + np.uint64(0x7676767676767676)) | digits) & np.uint64(0x8080808080808080)
    count = np.bitwise_count((other & (~other + np.uint64(1))) - np.uint64(1)) >> 3  # of digits at the beginning
    shift = (np.uint64(8) - np.minimum(count, 8).astype(np.uint64)) * np.uint64(8)
    return eight_digits(np.where(count > 0, digits << np.minimum(shift, np.uint64(63)), np.uint64(0)))


class XlsxSheet:
    """One sheet of an open archive. `chosen` says that a block of its cells was: what stands beyond does not matter."""

    def __init__(self, path: Path, sheet: str, archive: zipfile.ZipFile, *, chosen: bool) -> None:
        self.name, self.chosen, self._archive = path.name, chosen, archive
        self.merged: set[Merged] = set()
        self._place = self._found(sheet)
        self.entries = self._entries()
        texts = len(self.entries.get("xl/sharedStrings.xml", b""))
        self._size = max(PIECE, 3 * texts)  # every piece reads all texts anew

    def _found(self, sheet: str) -> str:
        """The archive's entry that holds the sheet."""
        entry = dict(_worksheets(self._archive)).get(sheet)
        if entry is None:
            raise NotCut
        self._archive.getinfo(entry)
        return entry

    def _entries(self) -> dict[str, bytes]:
        return dict(_entries_of(self._archive))

    def refuse_texts(self, rows: bytes) -> None:
        """One long text may be named by a million cells: what they come to is measured where a text is long."""
        lengths = _lengths_of(self._archive)
        if len(lengths) == 0 or int(lengths.max()) * rows.count(b'"s"') <= _MOST_TEXTS:
            return
        named = np.array([int(each) for each in _TEXT_CELL.findall(rows)], dtype=np.int64)
        letters = int(lengths[named[named < len(lengths)]].sum())
        if letters > _MOST_TEXTS:
            raise Refusal(
                f"'{self.name}' says that its texts fill {letters // 1024**2:,} MB",
                "it may be malicious; check where it comes from",
            )

    def cuts(self, first: int = 0) -> Iterator[XlsxCut]:
        """The sheet from the row `first` (from 0) on, cut where a row ends."""
        with self._archive.open(self._place) as stream:
            rest = b""
            while (begin := _DATA.search(rest)) is None:
                more = stream.read(LOOK)
                if not more or len(rest) > LONGEST_ROW:
                    if b"sheetData" in rest:  # <sheetData/>: no rows at all
                        return
                    raise NotCut
                rest += more
            tags, rest = Tags.of(begin[1]), rest[begin.end() :]
            last, size, ended = 0, LOOK, False
            while not ended:
                more = b"" if len(rest) >= size else stream.read(size - len(rest))
                ended = not more and len(rest) < size
                rest += more
                whole = rest.rfind(tags.row_end) + len(tags.row_end)
                done = rest.find(tags.data_end, whole if whole >= len(tags.row_end) else 0)
                ended = ended or done >= 0
                end = done if done >= 0 else len(rest) if ended else whole
                if end < len(tags.row_end) and not ended:
                    if len(rest) > LONGEST_ROW:
                        raise NotCut
                    size += PIECE
                    continue
                for cut in self._parted(tags, rest[:end], last):
                    last = cut.last
                    if cut.last > first:
                        yield cut if cut.first > first else self._from(cut, first)
                rest, size = rest[end:], self._size
            self._look_behind(rest, stream)

    def _look_behind(self, rest: bytes, stream: IO[bytes]) -> None:
        """Behind the rows a sheet says which cells are merged."""
        rest += stream.read(_MOST_AFTER)
        for left, top, right, bottom in _MERGED.findall(rest):
            if int(bottom) > int(top):
                first, last = column_number(left.decode()) - 1, column_number(right.decode()) - 1
                self.merged.add(Merged(int(top) - 1, first, int(bottom) - 1, last))

    def _parted(self, tags: Tags, rows: bytes, before: int) -> Iterator[XlsxCut]:
        """Rows with their numbers; parted where a gap of many rows between them would be filled with blanks."""
        found = tags.row.search(rows)
        if found is None:
            return
        numbered = tags.numbered.match(rows, found.start())
        ending = rows.rfind(b"<%brow" % tags.prefix)
        final = tags.numbered.match(rows, ending)
        if numbered and final and int(final[1]) - int(numbered[1]) < _TAGS:
            yield XlsxCut(self, tags, rows[found.start() :], int(numbered[1]), int(final[1]))
            return
        start, number, begun = found.start(), before, 0
        for each in tags.row.finditer(rows):
            stated = tags.numbered.match(rows, each.start())
            now = int(stated[1]) if stated else number + 1
            if begun and now - number > _GAP:
                yield XlsxCut(self, tags, rows[start : each.start()], begun, number)
                start, begun = each.start(), 0
            begun, number = begun or now, now
        yield XlsxCut(self, tags, rows[start:], begun, number)

    def _from(self, cut: XlsxCut, first: int) -> XlsxCut:
        """A cut without its rows before `first` (from 0)."""
        number = cut.first - 1
        for each in cut.tags.row.finditer(cut.rows):
            stated = cut.tags.numbered.match(cut.rows, each.start())
            number = int(stated[1]) if stated else number + 1
            if number > first:
                return XlsxCut(self, cut.tags, cut.rows[each.start() :], number, cut.last)
        return cut


@lru_cache(maxsize=1)
def _entries_of(archive: zipfile.ZipFile) -> dict[str, bytes]:
    """What each piece needs beside its rows: the texts, the styles that tell dates, and the way to them. The same for
    all sheets of a workbook."""
    names = set(archive.namelist())
    kept = {"[Content_Types].xml": _BOOK_TYPES}
    parts = [(b"worksheet", b"worksheets/sheet1.xml")]
    for _, kind, entry in _relations(archive):
        if kind in ("sharedStrings", "styles") and entry in names:
            kept[f"xl/{kind}.xml"] = archive.read(entry)
            parts.append((kind.encode(), f"{kind}.xml".encode()))
    relation = b'<Relationship Id="r%d" Type="%b/%b" Target="%b"/>'
    notice = b"".join(relation % (at, _OFFICE, kind, target) for at, (kind, target) in enumerate(parts, start=1))
    kept[_RELATIONS] = b'<Relationships xmlns="%b">%b</Relationships>' % (_PACKAGE, notice)
    top = b'<Relationship Id="r1" Type="%b/officeDocument" Target="xl/workbook.xml"/>' % _OFFICE
    kept["_rels/.rels"] = b'<Relationships xmlns="%b">%b</Relationships>' % (_PACKAGE, top)
    days = b'<workbookPr date1904="1"/>' if _OLD_DAYS.search(_beginning(archive, _BOOK)) else b""
    kept[_BOOK] = b'<workbook xmlns="%b" xmlns:r="%b">%b<sheets>' % (_MAIN, _OFFICE, days)
    kept[_BOOK] += b'<sheet name="S" sheetId="1" r:id="r1"/></sheets></workbook>'
    return kept


@lru_cache(maxsize=1)
def _lengths_of(archive: zipfile.ZipFile) -> NDArray[np.int64]:
    """The bytes of each text that cells of a workbook share."""
    texts = _entries_of(archive).get("xl/sharedStrings.xml", b"")
    starts = np.array([found.start() for found in _TEXT.finditer(texts)], dtype=np.int64)
    return np.diff(starts, append=len(texts))


def worksheet_names(archive: zipfile.ZipFile) -> list[tuple[str, bool]]:
    """The sheets of a workbook that hold cells, rather than a chart alone, and whether each is hidden."""
    hidden = {html.unescape(name.decode("utf-8", "replace")) for name in _HIDDEN.findall(_beginning(archive, _BOOK))}
    names = [(name, name in hidden) for name, _ in _worksheets(archive)]
    if not names:
        raise NotCut
    return names


@lru_cache(maxsize=1)
def _worksheets(archive: zipfile.ZipFile) -> list[tuple[str, str]]:
    """Each sheet's name and the entry that holds it."""
    entries = {called: entry for called, kind, entry in _relations(archive) if kind == "worksheet"}
    named = [
        (html.unescape(name.decode("utf-8", "replace")), rid)
        for name, rid in _SHEET.findall(_beginning(archive, _BOOK))
    ]
    return [(name, entries[rid]) for name, rid in named if rid in entries]


def _beginning(archive: zipfile.ZipFile, name: str) -> bytes:
    with archive.open(name) as stream:
        return stream.read(4 * 1024**2)


def _relations(archive: zipfile.ZipFile) -> Iterator[tuple[bytes, str, str]]:
    """Each part of the workbook: what it is called there, what it is, and its entry."""
    for found in _RELATION.findall(_beginning(archive, _RELATIONS)):
        stated = dict(re.findall(rb'\b(Id|Type|Target)="([^"]*)"', found))
        target = stated.get(b"Target", b"").decode("utf-8", "replace")
        entry = target.lstrip("/") if target.startswith("/") else f"xl/{target}"
        yield stated.get(b"Id", b""), stated.get(b"Type", b"").decode("utf-8", "replace").rpartition("/")[2], entry
