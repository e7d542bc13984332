"""An ODS sheet cut into pieces. Rows have no numbers there: they are counted, those that are said to repeat as well."""

from __future__ import annotations

import html
import re
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO

import msgspec

from summula.core.reading.sheet import (
    LONGEST_ROW,
    LOOK,
    MARK,
    PIECE,
    ErrorCell,
    Merged,
    NotCut,
    Piece,
    packed,
    refuse_size,
)
from summula.core.refusal import Refusal

_CONTENT = "content.xml"
_TABLE = re.compile(rb'<table:table\s(?:[^>]*\s)?table:name="([^"]*)"[^>]*>')
_STYLE = re.compile(rb'<style:style\b(?=[^>]*style:family="table")[^>]*>.*?</style:style>', re.DOTALL)
_STYLE_NAME = re.compile(rb'<style:style\b[^>]*?style:name="([^"]*)"')
_STYLED = re.compile(rb'<table:table\b(?=[^>]*table:style-name="([^"]*)")(?=[^>]*table:name="([^"]*)")')
_ROW = re.compile(rb"<table:table-row(?=[\s>/])[^>]*>")
_ROW_END, _TABLE_END = b"</table:table-row>", b"</table:table>"
_AROUND = re.compile(rb"</?table:(?:table-header-rows|table-row-group|table-rows)\b[^>]*>")
_GROUPS = (b"table:table-header-rows", b"table:table-row-group", b"table:table-rows")
_ROWS = re.compile(rb"""\stable:number-rows-repeated\s*=\s*["']\+?(\d{1,9})""")
_CELLS = re.compile(rb"""\stable:number-columns-repeated\s*=\s*["']\+?(\d{1,9})""")
_CELL = re.compile(rb"<table:(?:covered-)?table-cell(?=[\s>/])[^>]*>")
_SPANS = re.compile(rb"""\stable:number-rows-spanned\s*=\s*["'](\d{1,7})""")
_SPANS_ACROSS = re.compile(rb"""\stable:number-columns-spanned\s*=\s*["'](\d{1,5})""")
_FORMULA = re.compile(rb'''\stable:formula\s*=\s*"(?:\w+:)?([^"]*)"''')
_SPACES = re.compile(rb"""text:c\s*=\s*["']\s*\+?(\d{1,30})""")
_MOST_SPACES = 10_000_000  # of a piece
_MOST_REPEATED = 1024**3  # bytes of a piece, when what repeats is written out
_FLAG = b'office:value-type="boolean"'
_ERROR = re.compile(rb"<text:p>([^<]{1,40})</text:p>")
_DURATION = re.compile(rb'office:value-type="time"([^>]*?)office:time-value="(-?)P(?:(\d+)D)?T(\d+)H(\d+)M(\d+)[^"]*"')
_TYPE = b"application/vnd.oasis.opendocument.spreadsheet"
_MANIFEST = (
    b'<?xml version="1.0"?><manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>'
)
_BEGIN = (
    b'<?xml version="1.0" encoding="UTF-8"?><office:document-content><office:body><office:spreadsheet>'
    b'<table:table table:name="S">'
)
_MARK = b'<table:table-row><table:table-cell office:value-type="string"><text:p>%b</text:p></table:table-cell>' % (
    MARK.encode()
)
_END = b"</table:table></office:spreadsheet></office:body></office:document-content>"


class OdsCut(msgspec.Struct, frozen=True):
    """Whole rows as they stand in the XML; the first one is the sheet's row `start` (from 0)."""

    sheet: OdsSheet
    rows: bytes
    start: int

    def piece(self) -> Piece:
        rows = self.rows
        if any(each in rows for each in _GROUPS):
            rows = _AROUND.sub(b"", rows)
        self._refuse_spaces(rows)
        self._refuse_size(rows)
        if b'"time"' in rows:  # a length of time has no kind of its own here: it is read as it is written
            rows = _DURATION.sub(_as_text, rows)
        if b"number-rows-spanned" in rows:
            self._find_merged(rows)
        book = packed(self.sheet.entries, _CONTENT, (_BEGIN, _MARK, _ROW_END, rows, _END))
        return Piece(self.start, _height(rows), book, self._errors(rows), self._flags(rows))

    def _flags(self, rows: bytes) -> frozenset[int]:
        if _FLAG not in rows:
            return frozenset()
        found: set[int] = set()
        for row in rows.split(_ROW_END):
            if _FLAG in row:
                column = 0
                for cell in _CELL.findall(row):
                    times = _times(_CELLS, cell)
                    if _FLAG in cell:
                        found.update(range(column, column + times))
                    column += times
        return frozenset(found)

    def _find_merged(self, rows: bytes) -> None:
        number = self.start
        for row in rows.split(_ROW_END):
            column = 0
            for cell in _CELL.findall(row) if b"number-rows-spanned" in row else ():
                spans, wide = _SPANS.search(cell), _SPANS_ACROSS.search(cell)
                if spans and int(spans[1]) > 1:
                    across = int(wide[1]) if wide else 1
                    self.sheet.merged.add(Merged(number, column, number + int(spans[1]) - 1, column + across - 1))
                column += _times(_CELLS, cell)
            number += _height(row)

    def _refuse_spaces(self, rows: bytes) -> None:
        """Spaces take no room in the file either: they are counted there."""
        if b"text:c" in rows and sum(map(int, _SPACES.findall(rows))) > _MOST_SPACES:
            raise Refusal(
                f"a cell of '{self.sheet.name}' holds more spaces than any text does",
                "it may be malicious; check where it comes from",
            )

    def _refuse_size(self, rows: bytes) -> None:
        """Cells and rows that repeat take no room in the file, but all the more once they are read."""
        if b"-repeated" not in rows:
            return
        height = width = gap = weight = 0
        for row in rows.split(_ROW_END):
            if b"-repeated" in row:
                weight += _height(row) * _weight(row)
            cells = _filled_cells(row) if b"-repeated" in row else row.count(b"<table:table-cell")
            width, gap = max(width, cells), gap + _height(row)
            if cells:  # blank rows matter where others follow
                height, gap = height + gap, 0
        refuse_size(height, width, self.sheet.name, "remove that cell from the sheet")
        if weight > _MOST_REPEATED:
            raise Refusal(
                f"'{self.sheet.name}' says that one text fills {weight // 1024**2:,} MB",
                "it may be malicious; check where it comes from",
            )

    def _errors(self, rows: bytes) -> tuple[ErrorCell, ...]:
        if b'calcext:value-type="error"' not in rows and b"table:formula" not in rows:
            return ()
        errors, number = [], self.start
        for row in rows.split(_ROW_END):
            if b'calcext:value-type="error"' in row or b"table:formula" in row:
                column = 0
                for cell in _CELL.finditer(row):
                    found = _ERROR.search(row, cell.end()) if b'calcext:value-type="error"' in cell[0] else None
                    formula = _FORMULA.search(cell[0]) if b"office:value-type" not in cell[0] else None
                    if found:
                        text = html.unescape(found[1].decode("utf-8", "replace"))
                        errors.append(ErrorCell(number, column, text))
                    elif formula:  # without a value: not worked out yet
                        text = html.unescape(formula[1].decode("utf-8", "replace"))
                        errors.append(ErrorCell(number, column, "=" + text.lstrip("=")[:200]))
                    column += _times(_CELLS, cell[0])
            number += _height(row)
        return tuple(errors)


def _height(rows: bytes) -> int:
    if b"rows-repeated" not in rows:
        return rows.count(b"<table:table-row>") + rows.count(b"<table:table-row ") + rows.count(b"<table:table-row/>")
    return sum(_times(_ROWS, tag) for tag in _ROW.findall(rows))


def _filled_cells(row: bytes) -> int:
    """How many cells a row has up to the last one that may hold something."""
    cells = filled = 0
    for cell in _CELL.findall(row):
        cells += _times(_CELLS, cell)
        if not cell.endswith(b"/>") or b"office:" in cell:
            filled = cells
    return filled


def _weight(row: bytes) -> int:
    """The bytes of a row's cells when those that repeat are written out; blank ones weigh nothing."""
    cells = [(found.start(), found[0]) for found in _CELL.finditer(row)]
    ends = [start for start, _ in cells[1:]] + [len(row)]
    return sum(
        _times(_CELLS, tag) * (end - start)
        for (start, tag), end in zip(cells, ends, strict=True)
        if not tag.endswith(b"/>") or b"office:" in tag
    )


class OdsSheet:
    """One sheet of an open archive."""

    def __init__(self, path: Path, sheet: str, archive: zipfile.ZipFile) -> None:
        self.name, self._archive, self._sheet = path.name, archive, sheet
        self.merged: set[Merged] = set()
        self.entries = {"mimetype": _TYPE, "META-INF/manifest.xml": _MANIFEST}
        archive.getinfo(_CONTENT)

    def cuts(self, first: int = 0) -> Iterator[OdsCut]:
        """The sheet from the row `first` (from 0) on, cut where a row ends."""
        with self._archive.open(_CONTENT) as stream:
            rest = self._begun(stream)
            size, ended, number = LOOK, False, 0
            while not ended:
                more = b"" if len(rest) >= size else stream.read(size - len(rest))
                ended = not more and len(rest) < size
                rest += more
                done = rest.find(_TABLE_END)
                ended = ended or done >= 0
                end = done if done >= 0 else len(rest) if ended else rest.rfind(_ROW_END) + len(_ROW_END)
                if end < len(_ROW_END) and not ended:
                    if len(rest) > LONGEST_ROW:
                        raise NotCut
                    size += PIECE
                    continue
                begin, number_after = self._place(rest[:end], number, first)
                if begin is not None:
                    yield OdsCut(self, rest[begin[0] : end], begin[1])
                rest, number, size = rest[end:], number_after, PIECE

    def _begun(self, stream: IO[bytes]) -> bytes:
        """What stands after the beginning of the sheet's table."""
        for name, rest in _tables(stream):
            if name == self._sheet:
                return rest
        raise NotCut

    def _place(self, rows: bytes, number: int, first: int) -> tuple[tuple[int, int] | None, int]:
        """Where the rows from `first` on begin and the number of the first of them; the number after the last."""
        height = _height(rows)
        if number >= first:
            begun = _ROW.search(rows)
            return ((begun.start(), number) if begun else None), number + height
        if number + height <= first:
            return None, number + height
        at = number
        for each in _ROW.finditer(rows):
            times = _times(_ROWS, each[0])
            if at + times > first:  # a row that repeats may begin before it
                return (each.start(), at), number + height
            at += times
        return None, number + height


def _times(repeated: re.Pattern[bytes], tag: bytes) -> int:
    found = repeated.search(tag) if b"-repeated" in tag else None
    return int(found[1]) if found else 1


def _as_text(found: re.Match[bytes]) -> bytes:
    """A length of time as text, "27:05:00"."""
    hours = int(found[3] or 0) * 24 + int(found[4])
    text = b"%b%d:%02d:%02d" % (found[2], hours, int(found[5]), int(found[6]))
    return b'office:value-type="string"%boffice:string-value="%b"' % (found[1], text)


def table_names(archive: zipfile.ZipFile) -> list[tuple[str, bool]]:
    """The sheets of a workbook in their order, and whether each is hidden."""
    with archive.open(_CONTENT) as stream:
        beginning = stream.read(LOOK)
    styles = {
        name
        for style in _STYLE.findall(beginning)
        if b'table:display="false"' in style
        for name in _STYLE_NAME.findall(style)
    }
    with archive.open(_CONTENT) as stream:
        names = list(dict.fromkeys(name for name, _ in _tables(stream)))
    if not names:
        raise NotCut
    hidden = (
        {
            html.unescape(name.decode("utf-8", "replace"))
            for style, name in _STYLED.findall(beginning)
            if style in styles
        }
        if styles
        else set()
    )
    return [(name, name in hidden) for name in names]


def _tables(stream: IO[bytes]) -> Iterator[tuple[str, bytes]]:
    """The names of the tables, each with what has been read after its beginning."""
    rest = stream.read(PIECE)
    while rest:
        end = 0
        while (begun := rest.find(b"<table:table ", end)) >= 0:
            found = _TABLE.match(rest, begun)
            end = found.end() if found else begun + 1
            if found:
                yield html.unescape(found[1].decode("utf-8", "replace")), rest[end:]
        begun = rest.rfind(b"<table:table ", max(end - 1, len(rest) - LOOK))
        more = stream.read(PIECE)
        rest = (rest[begun:] if begun >= 0 else rest[-16:]) + more if more else b""
