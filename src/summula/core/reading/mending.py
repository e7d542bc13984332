"""Delimited text that is written in another way than the usual one, brought into it line by line: quotation marks told
by a backslash, spaces before quotation marks, values that stand apart by any number of spaces."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Callable, Iterator
from itertools import islice

Mend = Callable[[bytes], bytes]
_BACKSLASH = re.compile(rb'(?<!\\)\\"')
_BACKSLASHED = re.compile(r'[^\\]\\"[ \t]*[\w(]')
_ROWS = 200
_RUNS = re.compile(rb'("(?:[^"\n]|"")*")|[ \t]+(?=\n|\r|$)|(?<=\n)[ \t]+|^[ \t]+|[ \t]+')


def mends_for(look: str, delimiter: str) -> tuple[Mend, ...]:
    """What has to be done to text that begins so."""
    mends: list[Mend] = []
    if _BACKSLASHED.search(look) and not _is_even(look, delimiter):
        mends.append(_doubled)
    if delimiter == " ":
        mends.append(_one_space)
    elif re.search(rf'(?:^|{re.escape(delimiter)}) +"[^"\n]*" *(?:{re.escape(delimiter)}|$)', look, re.MULTILINE):
        mends.append(_without_space_before_quotes(delimiter))
    return tuple(mends)


def _is_even(look: str, delimiter: str) -> bool:
    """Whether all rows but perhaps the last, which may be cut, are of one length as they stand."""
    rows = list(islice(csv.reader(io.StringIO(look, newline=""), delimiter=delimiter), _ROWS))
    return len({len(row) for row in rows[:-1] if row}) <= 1


def mended(pieces: Iterator[bytes], mends: tuple[Mend, ...]) -> Iterator[bytes]:
    """The pieces with all that done, cut where lines end."""
    if not mends:
        yield from pieces
        return
    rest = b""
    for piece in pieces:
        whole = rest + piece
        end = whole.rfind(b"\n") + 1
        rest = whole[end:]
        if end:
            yield _all_of(whole[:end], mends)
    if rest:
        yield _all_of(rest, mends)


def mended_text(text: str, mends: tuple[Mend, ...]) -> str:
    return _all_of(text.encode("utf-8"), mends).decode("utf-8") if mends else text


def _all_of(text: bytes, mends: tuple[Mend, ...]) -> bytes:
    for mend in mends:
        text = mend(text)
    return text


def _doubled(text: bytes) -> bytes:
    return _BACKSLASH.sub(b'""', text)


def _one_space(text: bytes) -> bytes:
    """Any run of spaces as one, none at the ends of a line; those between quotation marks stay."""

    def put(found: re.Match[bytes]) -> bytes:
        if found[1] is not None:
            return found[1]
        start, end = found.span()
        at_end = end == len(text) or text[end : end + 1] in (b"\n", b"\r")
        at_start = start == 0 or text[start - 1 : start] == b"\n"
        return b"" if at_end or at_start else b" "

    return _RUNS.sub(put, text)


def _without_space_before_quotes(delimiter: str) -> Mend:
    sign = re.escape(delimiter.encode())
    before = re.compile(rb"(^|" + sign + rb"|\n) +(?=\")")
    behind = re.compile(rb"(?<=\") +(?=" + sign + rb"|\r?\n|$)")
    return lambda text: behind.sub(b"", before.sub(rb"\1", text))
