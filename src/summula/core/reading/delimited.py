"""The reader for delimited text: comma, tab, semicolon, pipe. Read in blocks, so that memory stays bounded."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from itertools import islice
from pathlib import Path

import msgspec
import polars as pl
from msgspec.structs import replace

from summula.core.reading.blocks import Block, Shape, Unclosed, cut, parse
from summula.core.reading.growing import Growing, Plan, PlanFailed, plan_for
from summula.core.reading.heads import Heads, find_heads
from summula.core.reading.raw import Raw, signs_of
from summula.core.reading.readas import ReadAs, Setting, Watch
from summula.core.reading.room import keep_room
from summula.core.reading.textfile import NotUtf8, TextFile, opened_text
from summula.core.refusal import Refusal
from summula.core.tables.encoding import sense_series
from summula.core.tables.field import Kind, Sensed
from summula.core.tables.sensing import Signs, lists_among

DELIMITERS = {",": "comma", "\t": "tab", ";": "semicolon", "|": "pipe"}
_BLOCK = 2 * 1024**2  # bytes: few enough to stay in the processor's cache, enough to be worth a thread
_THREADS = 2
_FIRST = 1  # piece, a small one, by which most values that repeat have been seen
_LINES = 200
_ALIKE = 10.0  # more than any sign can come to that parts some lines otherwise
_LONGEST_VALUE = 64 * 1024**2  # letters; the csv module's own limit is 128 KB
_CHOICES = 8  # rows that may be said to hold the heads


_A_LIST: Kind = "category"


class Layout(msgspec.Struct, frozen=True):
    """How the text of a file is laid out, and the rows by which that was found; `whole` says that there are no more."""

    shape: Shape
    heads: Heads
    lines: tuple[list[str], ...]
    settings: tuple[Setting, ...]
    whole: bool


def read_delimited(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """Every field sensed and encoded. A block that is not what its beginning promised starts the reading afresh."""
    plans: dict[str, Plan] = {}
    encoding, why = read_as.encoding, ""
    while True:
        try:
            with opened_text(path, encoding, why) as text:
                return _read(text, read_as, kinds, watch, plans)
        except NotUtf8:
            encoding, why = "windows-1252", "further down are letters that are not UTF-8"
        except PlanFailed as failed:
            plans[failed.name] = failed.plan
        except Unclosed as unclosed:
            with opened_text(path, encoding, why) as text:
                before = b"".join(text.chunks(_BLOCK))[: unclosed.place]
            line = before.count(b"\n") + 1
            told = f"a quotation mark in line {line:,} of '{path.name}' is never closed"
            raise Refusal(told, "close it, or take it out") from None


def preview_delimited(path: Path, read_as: ReadAs) -> tuple[Raw, bool]:
    """The first rows, with the settings that were found, and whether they are all the rows."""
    with opened_text(path, read_as.encoding) as text:
        layout = layout_of(text, read_as)
        columns = _sample(layout)
        signs = signs_of(read_as)
        return Raw(layout.heads.names, columns, settings=layout.settings, signs=signs), layout.whole


def layout_of(text: TextFile, read_as: ReadAs) -> Layout:
    """The delimiter and the heads, from the beginning of a file."""
    csv.field_size_limit(_LONGEST_VALUE)
    look = text.look
    if not look.strip():
        raise Refusal(f"'{text.path.name}' is empty", "choose a file with a row of heads")
    delimiter, why = (read_as.delimiter, "as you said") if read_as.delimiter else _sense_delimiter(look)
    if len(delimiter) != 1 or delimiter in '"\r\n':
        raise Refusal(f"{delimiter!r} cannot part values", "choose one sign, such as a comma or a tab")
    parsed, whole = _parsed(look, delimiter, whole=text.short)
    numbers, filled = [number for number, _ in parsed], [line for _, line in parsed]
    head = read_as.head
    if head:  # of the lines that hold something; a blank one means the next
        head = next((at for at, number in enumerate(numbers, start=1) if number >= head), None)
        if head is None:
            told = f"there is no row {read_as.head:,} among the first {numbers[-1]:,}"
            raise Refusal(told, "choose another row for the heads")
    heads = find_heads(filled, head, read_as.head_rows, even=False)
    settings = (
        Setting(
            "encoding",
            text.encoding.upper(),
            text.why,
            tuple((e.upper(), e) for e in ("utf-8", "windows-1252", "utf-16")),
        ),
        Setting("delimiter", DELIMITERS.get(delimiter, delimiter), why, tuple((n, d) for d, n in DELIMITERS.items())),
        head_setting(heads, numbers),
    )
    shape = Shape(delimiter, len(heads.names), heads.first)
    return Layout(shape, heads, tuple(filled), settings, whole)


def head_setting(heads: Heads, numbers: Sequence[int]) -> Setting:
    """The setting that says where the heads are; `numbers` are those of the rows that were looked at (from 1)."""
    rows = "none" if heads.row is None else f"row {numbers[heads.row]:,}"
    if heads.row is not None and heads.first - heads.row == 2:
        rows = " and ".join(f"{number:,}" for number in numbers[heads.row : heads.first])
        rows = f"rows {rows}"
    choices = (("none", 0), *((f"row {number:,}", number) for number in numbers[:_CHOICES]))
    titles = "; ".join(heads.titles)
    told = f"above the heads stands “{titles[:80]}{'…' if len(titles) > 80 else ''}”" if titles else ""
    return Setting("head", rows, heads.why, choices, told=told)


def _parsed(look: str, delimiter: str, *, whole: bool) -> tuple[list[tuple[int, list[str]]], bool]:
    """The rows that hold something with the numbers of the lines that they begin in, and whether they are all: `look`
    may end in the middle of one, which is left out."""
    rows = []
    number = 1
    reader = csv.reader(io.StringIO(look, newline=""), delimiter=delimiter)
    for row in reader:
        if any(cell.strip() for cell in row):
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
        widths = [len(row) for row in csv.reader(lines, delimiter=candidate)]
        usual = max(set(widths), key=lambda width: (widths.count(width), width)) if widths else 1
        if usual < 2:
            continue
        score = widths.count(usual) / len(widths) * min(usual, 6)
        if len(widths) > 1 and set(widths) == {usual}:
            score += _ALIKE  # a comma may stand in every address, but seldom as often in each, and in the heads
        if score > best_score:
            best, best_score, most = candidate, score, usual
    why = f"it parts most lines into {most} values" if most else "no line holds another sign that parts values"
    return best, why


def _sample(layout: Layout) -> list[pl.Series]:
    """The rows looked at as text without spaces around it, a series a field."""
    rows = layout.lines[layout.heads.first :]
    return [
        pl.Series(name, [(row[at].strip() or None) if at < len(row) else None for row in rows], dtype=pl.String)
        for at, name in enumerate(layout.heads.names)
    ]


def _read(text: TextFile, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch, plans: dict[str, Plan]) -> Raw:
    layout = layout_of(text, read_as)
    sample, signs = _sample(layout), signs_of(read_as)
    sensed = _sensed(sample, signs, layout.shape.delimiter)
    lists = {layout.heads.names[at]: _A_LIST for at in lists_among(sensed, signs)}
    kinds = lists | kinds
    growing = [
        Growing(series.name, plans.get(series.name) or plan_for(series, kinds.get(series.name), each), each)
        for series, each in zip(sample, sensed, strict=True)
    ]
    rows = 0
    ragged = []
    for block in _blocks(text, layout.shape, growing):
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
    return Raw(layout.heads.names, fields, rows, tuple(ragged), layout.settings, signs)


def _sensed(sample: list[pl.Series], said: Signs, delimiter: str) -> list[Sensed]:
    """How the fields look from the first rows. A decimal comma that some field proves holds for those that leave it
    open; where none does, so does a semicolon between values, which people use because they write decimal commas."""
    sensed = [sense_series(series.name, series, said) for series in sample]
    numbers = [each for each in sensed if each.kind == "number" and each.why]
    proved = {each.reading for each in numbers if not each.doubt}
    if not said.decimal and (proved == {"comma"} or (not proved and numbers and delimiter == ";")):
        sensed = [replace(each, reading="comma") if each.kind == "number" and each.doubt else each for each in sensed]
    return sensed


def _blocks(text: TextFile, shape: Shape, growing: list[Growing]) -> Iterator[Block]:
    """The parsed blocks in their order, a few of them under way in other threads."""
    keep_room()
    pieces = cut(text.chunks(_BLOCK), shape.delimiter, text.path.name)
    skip = shape.skip
    for first in islice(pieces, _FIRST):  # they tell the others which values to expect
        yield parse(first, shape, skip, growing)
        skip = 0
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
