"""A text file as a stream of UTF-8: plain or gzip'd, in whatever encoding it was written."""

from __future__ import annotations

import codecs
import gzip
import os
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, BinaryIO, cast

from summula.core.reading.encodings import CODECS, sense_8_bit
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.reading.readas import Encoding

_SHORT = 64 * 1024  # bytes in the first piece
LOOK = 256 * 1024  # bytes looked at to sense encoding, delimiter and heads
_MOST_UNPACKED = 64 * 1024**3
_MOST_RATIO = 200
_SMALL = 64 * 1024**2
_MARKS: tuple[tuple[bytes, Encoding], ...] = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32"),
    (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)


_SELDOM = 100  # bytes for each that is 0, at least, in a text
_CONTROLS = bytes(each for each in range(1, 32) if each not in (9, 10, 12, 13, 27))


def _binary(first: bytes) -> bool:
    """Whether so many bytes are no letters that this is no text."""
    return (len(first) - len(first.translate(None, _CONTROLS))) * _SELDOM > len(first)


class NotUtf8(Exception):
    """A file begun as UTF-8 turned out, further down, to be something else."""


class TextFile:
    """An open text file. `encoding` is how it is read, `why` what tells so."""

    def __init__(self, path: Path, stream: BinaryIO, encoding: Encoding, why: str) -> None:
        self.path, self.stream = path, stream
        self.packed = path.stat().st_size
        self.unpacked = 0
        first = self._read(LOOK)
        self.short = len(first) < LOOK  # all of it is looked at
        self.encoding, self.why = (encoding, why or "as you chose") if encoding else _sense_encoding(first)
        if self.encoding == "utf-8":  # whatever says so
            try:
                codecs.getincrementaldecoder("utf-8")().decode(first, self.short)
            except UnicodeDecodeError as fault:
                self.encoding = sense_8_bit(first)
                self.why = f"byte {fault.start + 1:,} is not UTF-8; letters look so"
        zeros = 0 if self.encoding in ("utf-16", "utf-32") else first.count(b"\x00")
        if zeros * _SELDOM > len(first) or (zeros and _binary(first)):
            raise Refusal(f"'{path.name}' is not a text file", "choose a CSV or TSV file")
        # Old files end their lines with a return alone.
        self._returns_alone = b"\r" in first and b"\n" not in first
        self._decoder = codecs.getincrementaldecoder(_codec(self.encoding, first))("replace")
        self._first = self._as_utf8(first.removeprefix(codecs.BOM_UTF8), last=self.short)

    @property
    def look(self) -> str:
        """The beginning of the file, as far as it is looked at to sense how to read it."""
        return self._first.decode("utf-8", "ignore").removeprefix("\ufeff")

    def chunks(self, size: int) -> Iterator[bytes]:
        """The whole file as UTF-8, in pieces that grow to about `size` bytes, and shrink again towards its end: where
        several work on them, none is left with a large one at last."""
        first = self._first.removeprefix(codecs.BOM_UTF8)
        yield first[:_SHORT]
        if len(first) > _SHORT:
            yield first[_SHORT:]
        now = min(LOOK, size)
        while piece := self._read(now):
            yield self._as_utf8(piece, last=False)
            left = self.packed - self.unpacked  # of a packed file more: then nothing shrinks
            now = min(4 * now, size, max(2 * LOOK, left // 4) if left > 0 else size)
        if self.encoding != "utf-8":
            yield self._as_utf8(b"", last=True)

    def _read(self, size: int) -> bytes:
        parts = []
        while size > 0 and (part := self.stream.read(size)):
            parts.append(part)
            size -= len(part)
        whole = b"".join(parts)
        self.unpacked += len(whole)
        if self.unpacked > _MOST_UNPACKED or self.unpacked > max(_SMALL, self.packed * _MOST_RATIO):
            raise Refusal(
                f"'{self.path.name}' unpacks to more than {self.unpacked // 1024**2:,} MB",
                "it may be malicious; check where it comes from",
            )
        return whole

    def _as_utf8(self, piece: bytes, *, last: bool) -> bytes:
        text = piece if self.encoding == "utf-8" else self._decoder.decode(piece, last).encode("utf-8")
        return text.replace(b"\r", b"\n") if self._returns_alone else text


def _codec(encoding: Encoding, first: bytes) -> str:
    if encoding == "utf-32":
        if first.startswith((codecs.BOM_UTF32_LE, codecs.BOM_UTF32_BE)):
            return "utf-32"
        return "utf-32-be" if first[:1] == b"\x00" else "utf-32-le"
    if encoding != "utf-16":
        return CODECS[encoding]
    if first.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "utf-16"
    return "utf-16-be" if first[:LOOK:2].count(0) > first[1:LOOK:2].count(0) else "utf-16-le"


@contextmanager
def opened_text(path: Path, encoding: Encoding = "", why: str = "") -> Iterator[TextFile]:
    """The text file at `path`. A file that changes while it is read is refused at the end."""
    before = path.stat()
    try:
        with path.open("rb") as raw:
            packed = raw.peek(2)[:2] == b"\x1f\x8b" or path.suffix.lower() == ".gz"
            stream = cast(BinaryIO, gzip.GzipFile(fileobj=raw) if packed else raw)
            yield TextFile(path, stream, encoding, why)
    except (gzip.BadGzipFile, EOFError, zlib.error):
        raise Refusal(f"'{path.name}' is damaged: it does not unpack", "download or copy the file again") from None
    after = os.stat(path) if path.exists() else None  # noqa: PTH116  the same call, for a file that may be gone
    if after is None or (after.st_size, after.st_mtime_ns) != (before.st_size, before.st_mtime_ns):
        raise Refusal(f"'{path.name}' changed while it was being read", "read it again when it has been written")


def _sense_encoding(first: bytes) -> tuple[Encoding, str]:
    for mark, encoding in _MARKS:
        if first.startswith(mark):
            return encoding, "byte order mark"
    some = len(first) >= 8 and len(first) - first.count(0) >= len(first) // 8
    if some and first[1::4].strip(b"\0") == b"" == first[2::4].strip(b"\0"):
        return "utf-32", "three of four bytes are 0"
    even, odd = first[::2].count(0), first[1::2].count(0)
    if min(even, odd) * 20 < max(even, odd) > len(first) // 5:  # Latin letters in two bytes each: one of them is 0
        return "utf-16", "every second byte is 0"
    return "utf-8", "all text is UTF-8"
