"""The reader for delimited text: comma, tab, semicolon, pipe. Read in blocks, so that memory stays bounded."""

from __future__ import annotations

import csv
import io
import math
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TYPE_CHECKING

import msgspec
import polars as pl
from msgspec.structs import replace

from summula.core.reading.blocks import Block, Shape, Unclosed, cut, is_blank, parse, parse_whole
from summula.core.reading.encodings import CODECS
from summula.core.reading.growing import Growing, Plan, PlanFailed, encode_texts, plan_for
from summula.core.reading.heads import Heads, find_heads, is_valued
from summula.core.reading.mending import Mend, mended, mended_text, mends_for
from summula.core.reading.raw import Raw, signs_of
from summula.core.reading.readas import ReadAs, Setting
from summula.core.reading.room import keep_room
from summula.core.reading.textfile import NotUtf8, TextFile, opened_text
from summula.core.refusal import Refusal
from summula.core.tables.encoding import sense_series
from summula.core.tables.sensing import Signs, lists_among

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence
    from pathlib import Path

    from summula.core.tables.field import Kind, Sensed
    from summula.core.watch import Watch

DELIMITERS = {",": "comma", "\t": "tab", ";": "semicolon", "|": "pipe", "^": "caret", "~": "tilde", " ": "spaces"}
_BLOCK = 2 * 1024**2  # bytes: few enough to stay in the processor's cache, enough to be worth a thread
_THREADS = 2
_LINES = 200
_ALIKE = 10.0  # more than any sign can come to that parts some lines otherwise
_LONGEST_VALUE = 64 * 1024**2  # letters; the csv module's own limit is 128 KB
_WIDE, _FEW_VALUES = 100, 4_000_000  # fields; values of a file that is read at one go
_UNEVEN = 1.5  # what a sign comes to that parts few lines
_FEW_LINES = 3
_CHOICES = 8  # rows that may be said to hold the heads


_A_LIST: Kind = "category"


class Layout(msgspec.Struct, frozen=True):
    """How the text of a file is laid out, and the rows by which that was found; `whole` says that there are no more."""

    shape: Shape
    heads: Heads
    lines: tuple[list[str], ...]
    settings: tuple[Setting, ...]
    whole: bool
    mends: tuple[Mend, ...] = ()


def read_delimited(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """Every field sensed and encoded. A block that is not what its beginning promised starts the reading afresh."""
    plans: dict[str, Plan] = {}
    encoding, why = read_as.encoding, ""
    while True:
        try:
            with opened_text(path, encoding, why) as text:
                return _read(text, read_as, kinds, watch, plans)
        except NotUtf8:
            encoding, why = "windows-1252", "later text is not UTF-8"
        except PlanFailed as failed:
            plans[failed.name] = failed.plan
        except Unclosed as unclosed:
            with opened_text(path, encoding, why) as text:
                before = b"".join(text.chunks(_BLOCK))[: unclosed.place]
            line = before.count(b"\n") + 1
            notice = f"a quotation mark in line {line:,} of '{path.name}' is never closed"
            raise Refusal(notice, "close it, or remove it") from None


def preview_delimited(path: Path, read_as: ReadAs) -> tuple[Raw, bool]:
    """The first rows, with the settings that were found, and whether they are all the rows."""
    with opened_text(path, read_as.encoding) as text:
        layout = layout_of(text, read_as)
        columns = _sample(layout)
        signs = signs_of(read_as)
        raw = Raw(layout.heads.names, columns, settings=layout.settings, signs=signs, units=layout.heads.units)
        return raw, layout.whole


def layout_of(text: TextFile, read_as: ReadAs) -> Layout:
    """The delimiter and the heads, from the beginning of a file."""
    csv.field_size_limit(_LONGEST_VALUE)
    look = text.look
    if not look.strip():
        raise Refusal(f"'{text.path.name}' is empty", "choose a file with a header row")
    delimiter, why = (read_as.delimiter, "as you chose") if read_as.delimiter else _sense_delimiter(look)
    if len(delimiter) != 1 or delimiter in '"\r\n':
        raise Refusal(f"{delimiter!r} cannot be a delimiter", "choose one character, such as a comma or a tab")
    mends = mends_for(look, delimiter)
    parsed, whole = _parsed(mended_text(look, mends), delimiter, whole=text.short)
    if delimiter == " ":
        parsed = _with_row_names(parsed)
    numbers, filled = [number for number, _ in parsed], [line for _, line in parsed]
    head = read_as.head
    if head:  # of the lines that hold something; a blank one means the next
        head = next((at for at, number in enumerate(numbers, start=1) if number >= head), None)
        if head is None:
            notice = f"there is no row {read_as.head:,} among the first {numbers[-1]:,}"
            raise Refusal(notice, "choose another header row")
    heads = find_heads(filled, head, read_as.head_rows, even=False)
    settings = (
        Setting(
            "encoding",
            text.encoding.upper(),
            text.why,
            tuple((each.upper(), each) for each in CODECS),
            notice=_zeros_told(text),
        ),
        Setting("delimiter", DELIMITERS.get(delimiter, delimiter), why, tuple((n, d) for d, n in DELIMITERS.items())),
        head_setting(heads, numbers),
    )
    shape = Shape(delimiter, len(heads.names), heads.first)
    return Layout(shape, heads, tuple(filled), settings, whole, mends)


def _zeros_told(text: TextFile) -> str:
    return f"'{text.path.name}' contains NUL characters, which are kept" if "\0" in text.look else ""


def _with_row_names(rows: list[tuple[int, list[str]]]) -> list[tuple[int, list[str]]]:
    """Heads that leave out the column of the rows' own names, with a place for it."""
    if len(rows) > 1 and len(rows[0][1]) + 1 == len(rows[1][1]):
        return [(rows[0][0], ["", *rows[0][1]]), *rows[1:]]
    return rows


def head_setting(heads: Heads, numbers: Sequence[int]) -> Setting:
    """The setting that says where the heads are; `numbers` are those of the rows that were looked at (from 1)."""
    rows = "none" if heads.row is None else f"row {numbers[heads.row]:,}"
    last = heads.first - bool(heads.units)
    if heads.row is not None and last - heads.row > 1:
        rows = " and ".join(f"{number:,}" for number in numbers[heads.row : last])
        rows = f"rows {rows}"
    choices = (("none", 0), *((f"row {number:,}", number) for number in numbers[:_CHOICES]))
    titles = "; ".join(heads.titles)
    notice = f"text above the header: “{titles[:80]}{'…' if len(titles) > 80 else ''}”" if titles else ""
    return Setting("head", rows, heads.why, choices, notice=notice)


def _parsed(look: str, delimiter: str, *, whole: bool) -> tuple[list[tuple[int, list[str]]], bool]:
    """The rows that hold something with the numbers of the lines that they begin in, and whether they are all: `look`
    may end in the middle of one, which is left out."""
    rows = []
    number = 1
    reader = csv.reader(io.StringIO(look, newline=""), delimiter=delimiter)
    for row in reader:
        if not is_blank(row):
            rows.append((number, row))
        number = reader.line_num + 1
        if len(rows) > _LINES:
            return rows[:-1], False
    return rows[:-1] if not whole and len(rows) > 1 else rows, whole


def _sense_delimiter(look: str) -> tuple[str, str]:
    """The candidate that parts all of the first lines alike, the very first among them; else the one that parts them
    most often and most evenly."""
    lines = [line for line in look.splitlines()[:60] if line.strip()]
    best, best_score, most = ",", 0.0, 0
    for candidate in DELIMITERS:
        if candidate == " ":
            continue
        widths = [len(row) for row in csv.reader(lines, delimiter=candidate, skipinitialspace=True)]
        usual = max(set(widths), key=lambda width: (widths.count(width), width)) if widths else 1
        if usual < 2:
            continue
        score = widths.count(usual) / len(widths) * min(usual, 6)
        if len(widths) > 1 and set(widths) == {usual}:
            score += _ALIKE  # a comma may stand in every address, but seldom as often in each, and in the heads
        if score > best_score:
            best, best_score, most = candidate, score, usual
    if most <= 1 or best_score < _UNEVEN:
        spaced = _parted_by_spaces(lines)
        if spaced:
            return " ", f"spaces split every line into {spaced} values"
    why = f"it splits most lines into {most} values" if most else "no other delimiter found"
    return best, why


def _parted_by_spaces(lines: list[str]) -> int:
    """Into how many values spaces part all lines alike, as columns set out in a row; the first may leave out one."""
    if len(lines) < _FEW_LINES:
        return 0
    mends = mends_for("\n".join(lines), " ")
    rows = list(csv.reader(mended_text("\n".join(lines), mends).splitlines(), delimiter=" "))
    if len(rows) < _FEW_LINES:
        return 0
    usual = len(rows[1])
    named = len(rows[0]) == usual - 1 and usual > 2  # the column of the rows' own names may have no head
    if usual < 2 or any(len(row) != usual for row in rows[1:]) or not (len(rows[0]) == usual or named):
        return 0
    # Names of two words are no columns: some are set out by more spaces than one, or hold numbers.
    set_out = sum("  " in line.strip() or '"' in line for line in lines) * 2 > len(lines)
    numbers = any(all(is_valued(row[at]) for row in rows[1:]) for at in range(usual))
    return usual if set_out or numbers else 0


def _sample(layout: Layout) -> list[pl.Series]:
    """The rows looked at as text without spaces around it, a series a field."""
    rows = layout.lines[layout.heads.first :]
    return [
        pl.Series(name, [(row[at].strip() or None) if at < len(row) else None for row in rows], dtype=pl.String)
        for at, name in enumerate(layout.heads.names)
    ]


def _read(text: TextFile, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch, plans: dict[str, Plan]) -> Raw:
    layout, signs = layout_of(text, read_as), signs_of(read_as)
    if layout.shape.width >= _WIDE and _values_in(text, layout) <= _FEW_VALUES:
        return _read_whole(text, layout, kinds, signs)
    sample = _sample(layout)
    sensed = _sensed(sample, signs, layout.shape.delimiter)
    lists = {layout.heads.names[at]: _A_LIST for at in lists_among(sensed, signs)}
    kinds = lists | kinds
    growing = [
        Growing(series.name, plans.get(series.name) or plan_for(series, kinds.get(series.name), each), each)
        for series, each in zip(sample, sensed, strict=True)
    ]
    rows = 0
    ragged = []
    for block in _blocks(text, layout, growing):
        for field, part in zip(growing, block.parts, strict=True):
            field.add(part, rows)
        ragged += block.ragged_from(rows)
        rows += block.rows
        watch(rows)
    # What takes longest first, so that nobody waits for it at the end.
    order = sorted(range(len(growing)), key=lambda at: growing[at].sampled.kind not in ("number", "date"))
    with ThreadPoolExecutor(2) as threads:
        finished = threads.map(lambda at: growing[at].finish(kinds.get(growing[at].name), signs), order)
        found = dict(zip(order, finished, strict=True))
    fields = [found[at] for at in range(len(growing))]
    units = layout.heads.units
    return Raw(layout.heads.names, fields, rows, tuple(ragged), layout.settings, signs, units=units)


def _values_in(text: TextFile, layout: Layout) -> float:
    """About how many values a file holds; of a packed one, more than are few."""
    lines = layout.lines[layout.heads.first :]
    size = sum(len(value) + 1 for row in lines for value in row) / max(len(lines), 1)
    rows = text.path.stat().st_size / max(size, 1.0) if text.packed == text.path.stat().st_size else math.inf
    return rows * layout.shape.width


def _read_whole(text: TextFile, layout: Layout, kinds: dict[str, Kind], signs: Signs) -> Raw:
    """A wide file of few rows at one go: cut into blocks, each of its many fields would be set out again and again."""
    whole = b"".join(mended(text.chunks(_BLOCK), layout.mends))
    quotes = whole.count(b'"')
    if quotes % 2:
        list(cut(iter([whole]), layout.shape.delimiter, text.path.name))  # finds the one that is never closed
    frame, ragged = parse_whole(whole, layout.shape)
    texts = [series.alias(name) for name, series in zip(layout.heads.names, frame.get_columns(), strict=True)]
    fields = [encode_texts(each, kinds.get(each.name), signs) for each in texts]
    sensed = [each for _, each in fields]
    lists = set(lists_among(sensed, signs))
    commas = _settled_comma(sensed, signs, layout.shape.delimiter)
    for at, each in enumerate(texts):
        if at in lists and each.name not in kinds:
            fields[at] = encode_texts(each, _A_LIST, signs)
        elif commas and sensed[at].kind == "number" and sensed[at].doubt:
            fields[at] = encode_texts(each, kinds.get(each.name), signs._replace(decimal="comma"))
    units = layout.heads.units
    return Raw(layout.heads.names, fields, frame.height, tuple(ragged), layout.settings, signs, units=units)


def _sensed(sample: list[pl.Series], stated: Signs, delimiter: str) -> list[Sensed]:
    """How the fields look from the first rows. A decimal comma that some field proves holds for those that leave it
    open; where none does, so does a semicolon between values, which people use because they write decimal commas."""
    sensed = [sense_series(series.name, series, stated) for series in sample]
    if _settled_comma(sensed, stated, delimiter):
        sensed = [replace(each, reading="comma") if each.kind == "number" and each.doubt else each for each in sensed]
    return sensed


def _settled_comma(sensed: Sequence[Sensed], stated: Signs, delimiter: str) -> bool:
    """Whether the fields that leave their decimal sign open have a comma."""
    numbers = [each for each in sensed if each.kind == "number" and each.why]
    proved = {each.reading for each in numbers if not each.doubt}
    return not stated.decimal and (proved == {"comma"} or (not proved and bool(numbers) and delimiter == ";"))


def _blocks(text: TextFile, layout: Layout, growing: list[Growing]) -> Iterator[Block]:
    """The parsed blocks in their order, a few of them under way in other threads."""
    keep_room()
    shape = layout.shape
    pieces = cut(mended(text.chunks(_BLOCK), layout.mends), shape.delimiter, text.path.name)
    skip = shape.skip
    for first in pieces:  # a small piece: it tells the others which values to expect
        block = parse(first, shape, skip, growing)
        yield block
        skip = block.skip
        if not skip:  # else titles and heads were all that it held
            break
    with ThreadPoolExecutor(_THREADS) as threads:
        under_way: list[Future[Block]] = []
        try:
            for piece in pieces:
                under_way.append(threads.submit(parse, piece, shape, 0, growing))
                if len(under_way) > _THREADS:
                    yield under_way.pop(0).result()
            while under_way:
                yield under_way.pop(0).result()
        finally:
            for each in under_way:
                each.cancel()
