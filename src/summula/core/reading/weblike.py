"""The readers for tables in HTML and in JSON documents, and for a table alone in a ZIP archive."""

from __future__ import annotations

from contextlib import suppress
from html.parser import HTMLParser
from typing import TYPE_CHECKING, Any, NamedTuple

import msgspec
import polars as pl

from summula.core.reading.columnar import raw_of
from summula.core.reading.heads import MOST_FIELDS, find_heads
from summula.core.reading.raw import Raw, signs_of
from summula.core.reading.readas import ReadAs, Setting
from summula.core.reading.textfile import opened_text
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.tables.field import Kind
    from summula.core.watch import Watch

_MOST = 512 * 1024**2  # bytes of a document that is read at one go
_MOST_SPAN = 1_000
_WIDEST = 4 * MOST_FIELDS  # cells of a row, blank ones among them
_MOST_NESTED = 6_000_000  # objects and lists of a document that is read at one go
_MOST_CELLS = 20_000_000
_SHOWN = 40


def read_html(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """The table of a page that has the most cells, unless another is chosen."""
    parser = _Tables(path.name)
    parser.feed(_closed(_whole(path, read_as)))
    parser.close()
    tables = [rows for rows in parser.tables if rows]
    if not tables:
        raise Refusal(f"'{path.name}' holds no table", "choose a page with a table in it")
    names = [f"table {at}" for at in range(1, len(tables) + 1)]
    sizes = [sum(map(len, rows)) for rows in tables]
    wanted = read_as.sheet or names[sizes.index(max(sizes))]
    if wanted not in names:
        raise Refusal(f"no '{wanted}' in '{path.name}'", "its tables are " + ", ".join(names[:_SHOWN]))
    rows = tables[names.index(wanted)]
    width = max(map(len, rows))
    if width * len(rows) > _MOST_CELLS:
        raise Refusal(f"'{path.name}' holds a table of {width * len(rows):,} cells", "choose a part of it")
    rows = [[*row, *[""] * (width - len(row))] for row in rows]
    heads = find_heads(rows[:200], read_as.head, read_as.head_rows)
    watch(len(rows))
    body = rows[heads.first :]
    fields = [
        pl.Series(name, [row[at].strip() or None if at < width else None for row in body], dtype=pl.String)
        for at, name in enumerate(heads.names)
    ]
    notice = "" if read_as.sheet or len(tables) == 1 else f"read '{wanted}' of the {len(tables)} tables on the page"
    why = f"one of {len(tables)} on the page" if len(tables) > 1 else "the only one"
    setting = Setting("sheet", wanted, why, tuple((name, name) for name in names[:_SHOWN]), notice=notice)
    return Raw(heads.names, fields, len(body), settings=(setting,), signs=signs_of(read_as))


def _closed(page: str) -> str:
    """The page without what is opened and never closed, and without sections that no page has: Python's parser would
    look for the end of each of them anew, or know no way on."""
    page = page.replace("<![", "<! [")
    end = page.rfind("-->") + 3 if "-->" in page else 0
    page = page[:end] + page[end:].replace("<!--", "")
    end = page.rfind(">") + 1
    return page[:end] + page[end:].replace("<", "&lt;")


class _Cell(NamedTuple):
    """A cell that is open: its text so far, and how many columns and rows it reaches over."""

    text: list[str]
    across: int
    down: int


class _Tables(HTMLParser):
    """The rows of all tables; cells over several rows or columns stand in each of them, in the first row at least."""

    def __init__(self, name: str) -> None:
        super().__init__(convert_charrefs=True)
        self.name = name
        self.tables: list[list[list[str]]] = []
        self._open: list[list[list[str]]] = []
        self._cell: _Cell | None = None
        self._outer: list[_Cell | None] = []  # those in which the open tables stand
        self._spans: list[dict[int, tuple[int, str]]] = []
        self._skipped = 0
        self._cells = 0

    def _count(self, cells: int) -> None:
        """A cell may say that it reaches over a thousand: what they come to is measured as they come."""
        self._cells += cells
        if self._cells > _MOST_CELLS or len(self._open[-1][-1]) + cells > _WIDEST:
            raise Refusal(f"'{self.name}' holds a table of too many cells", "choose a part of it")

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in ("script", "style"):
            self._skipped += 1
        elif tag == "table":
            table: list[list[str]] = []
            self.tables.append(table)
            self._open.append(table)
            self._spans.append({})
            self._outer.append(self._cell)
            self._cell = None
        elif tag == "tr" and self._open:
            self._end_cell()
            self._open[-1].append([])
            self._take_spans()
        elif tag in ("td", "th") and self._open:
            self._end_cell()
            if not self._open[-1]:
                self._open[-1].append([])
            stated = dict(attrs)
            self._cell = _Cell([], _span(stated.get("colspan")), _span(stated.get("rowspan")))
        elif tag in ("br", "p", "div") and self._cell is not None:
            self._cell.text.append(" ")

    def handle_endtag(self, tag: str) -> None:
        if tag in ("script", "style"):
            self._skipped = max(self._skipped - 1, 0)
        elif tag in ("td", "th", "tr") and self._open:
            self._end_cell()
        elif tag == "table" and self._open:
            self._end_cell()
            self._open.pop()
            self._spans.pop()
            self._cell = self._outer.pop()

    def handle_data(self, data: str) -> None:
        if self._cell is not None and not self._skipped:
            self._cell.text.append(data)

    def _end_cell(self) -> None:
        if self._cell is None or not self._open:
            return
        cell, self._cell = self._cell, None
        text = " ".join("".join(cell.text).split())
        row = self._open[-1][-1]
        self._count(cell.across)
        for at in range(cell.across):
            if cell.down > 1:
                self._spans[-1][len(row)] = (cell.down - 1, text)
            row.append(text if at == 0 else "")
        self._take_spans()

    def _take_spans(self) -> None:
        """What reaches down from the rows above into the place that comes next."""
        row, spans = self._open[-1][-1], self._spans[-1]
        while (held := spans.get(len(row))) is not None and held[0] > 0 and self._cell is None:
            spans[len(row)] = (held[0] - 1, held[1])
            if held[0] == 1:
                del spans[len(row)]
            self._count(1)
            row.append(held[1])


def _span(text: str | None) -> int:
    return min(max(int(text), 1), _MOST_SPAN) if text is not None and text.isascii() and text.isdigit() else 1


def _whole(path: Path, read_as: ReadAs) -> str:
    with opened_text(path, read_as.encoding) as text:
        parts, size = [], 0
        for piece in text.chunks(1 << 20):
            parts.append(piece)
            size += len(piece)
            if size > _MOST:
                raise Refusal(f"'{path.name}' is larger than {_MOST // 1024**2:,} MB", "save it as CSV or Parquet")
    return b"".join(parts).decode("utf-8", "replace")


def read_json(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """An array of objects, or of rows, or an object that has one; a field that an object lacks is blank there."""
    text = _whole(path, read_as).removeprefix("\ufeff")
    if text.count("{") + text.count("[") > _MOST_NESTED:
        raise Refusal(
            f"'{path.name}' holds more than {_MOST_NESTED:,} records", "save them as JSON lines or Parquet"
        )
    try:
        document = msgspec.json.decode(text.encode("utf-8", "surrogatepass"))
    except (msgspec.DecodeError, RecursionError, UnicodeError) as fault:
        raise Refusal(f"'{path.name}' is damaged, or no JSON ({fault})", "download or export it again") from None
    records = _records(document)
    if records is None:
        raise Refusal(f"'{path.name}' holds no list of records", "use an array of objects")
    if not records:
        raise Refusal(f"'{path.name}' is empty", "choose a file with records in it")
    names: dict[str, None] = {}
    for each in records:
        names.update(dict.fromkeys(map(str, each)))
        if len(names) > MOST_FIELDS:
            notice = f"'{path.name}' has more than {MOST_FIELDS:,} fields, the most a table can hold"
            raise Refusal(notice, "choose a part of it")
    if not names:
        raise Refusal(f"'{path.name}' holds records without fields", "choose a file with records in it")
    columns = [_series(name, [each.get(name) for each in records]) for name in names]
    watch(len(records))
    return raw_of(pl.DataFrame(columns), read_as)


def _records(document: Any) -> list[dict[str, Any]] | None:
    if isinstance(document, dict):
        lists = [
            value for value in document.values() if isinstance(value, list) and value and isinstance(value[0], dict)
        ]
        if len(lists) == 1:
            return _records(lists[0])
        columns = list(document.values())
        if columns and all(isinstance(each, list) for each in columns) and len({len(each) for each in columns}) == 1:
            return [dict(zip(document, row, strict=True)) for row in zip(*columns, strict=True)]
        return None
    if not isinstance(document, list):
        return None
    if all(isinstance(each, dict) for each in document):
        return document
    if (
        len(document) > 1
        and all(isinstance(each, list) for each in document)
        and all(isinstance(each, str) for each in document[0])
    ):
        return [dict(zip(document[0], row, strict=False)) for row in document[1:]]
    return None


def _series(name: str, values: list[Any]) -> pl.Series:
    """Values of one type as such; of several as text."""
    types = {type(each) for each in values} - {type(None)}
    if types <= {int} and all(abs(each) < 2**63 for each in values if each is not None):
        return pl.Series(name, values, dtype=pl.Int64)
    if types <= {int, float}:
        with suppress(OverflowError):  # a whole number of JSON may be longer than any float
            return pl.Series(name, [None if each is None else float(each) for each in values], dtype=pl.Float64)
    if types == {bool}:
        return pl.Series(name, values, dtype=pl.Boolean)
    return pl.Series(name, [None if each is None else _text(each) for each in values], dtype=pl.String)


def _text(value: Any) -> str:
    return value if isinstance(value, str) else msgspec.json.encode(value).decode()
