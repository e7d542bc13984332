"""The log of a journal: records one after the other, each found again by itself, whatever stands before or behind it.

A record is a mark, the length of what follows, its CRC-32, and the packed JSON of a `Record`.
"""

from __future__ import annotations

import os
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import msgspec

from summula.core.decoding import decoded
from summula.core.folio.basefile import Base
from summula.core.folio.wholefile import sync_folder

MAX_LOG = 16 * 1024**2  # bytes, then it begins anew with the newest record
MAX_RECORD = 64 * 1024**2  # bytes, unpacked
_MARK = b"SmJ1"
_HEAD = len(_MARK) + 8


class Record(msgspec.Struct, frozen=True):
    """A folio as it was after an edit."""

    at: str  # when, in ISO 8601
    edit: str  # what was done
    edits: int  # how many there were since the folio was saved
    base: Base  # the file that the folio was saved to
    folio: msgspec.Raw  # as `folio.json` has it, its pictures without their data
    pictures: tuple[str, ...] = ()  # the names of their files, in order
    rows: tuple[str, ...] = ()  # the names of files with rows that `base` lacks
    saved: bool = False  # nothing has to be restored


class Found(NamedTuple):
    """The last record that is whole, and whether something behind it is not."""

    record: Record | None
    harmed: bool


class JournalLog:
    """Appends records. What could not be written whole is cut off again, at once or before the next record."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.records = 0  # how many it holds
        self._whole = 0  # their bytes

    def append(self, record: Record, *, anew: bool = False) -> None:
        """Append a record, or begin `anew` with it alone. Raises OSError where the disk takes nothing, or the record
        is larger than can be read again."""
        framed = _framed(record)
        if anew or not self.path.exists() or self._whole + len(framed) > MAX_LOG:
            self._begin_anew(framed)
            return
        with self.path.open("r+b") as stream:
            try:
                stream.truncate(self._whole)  # what an append that failed has left
                stream.seek(self._whole)
                stream.write(framed)
                stream.flush()
                os.fsync(stream.fileno())
            except OSError:
                os.ftruncate(stream.fileno(), self._whole)
                raise
        self._whole += len(framed)
        self.records += 1

    def _begin_anew(self, framed: bytes) -> None:
        beside = self.path.with_suffix(".new")
        try:
            with open(beside, "wb", opener=private) as stream:
                stream.write(framed)
                stream.flush()
                os.fsync(stream.fileno())
            beside.replace(self.path)
        except OSError:
            beside.unlink(missing_ok=True)
            raise
        sync_folder(self.path.parent)
        self._whole, self.records = len(framed), 1

    def remove(self) -> None:
        self.path.unlink(missing_ok=True)
        self._whole = self.records = 0


def _framed(record: Record) -> bytes:
    plain = msgspec.json.encode(record)
    if len(plain) > MAX_RECORD:
        raise OSError(f"the folio without its rows is larger than {MAX_RECORD // 1024**2} MB")
    packed = zlib.compress(plain, 1)
    return _MARK + len(packed).to_bytes(4, "big") + zlib.crc32(packed).to_bytes(4, "big") + packed


def private(name: str, flags: int) -> int:
    """Opens a file that only its owner reads (an `opener`)."""
    return os.open(name, flags, 0o600)


def last_record(path: Path) -> Found:
    """Looks from the end for a record that is whole. Raises OSError where the log cannot be read."""
    try:
        log = path.read_bytes()
    except FileNotFoundError:
        return Found(None, harmed=False)
    end = len(log)
    for start, stop, packed in _whole_ones(log):
        record = _unpacked(packed)
        if record is not None:
            return Found(record, harmed=stop < end)
        end = start
    return Found(None, harmed=bool(log))


def _whole_ones(log: bytes) -> Iterator[tuple[int, int, bytes]]:
    """Where records begin and end whose sums are right, and what they hold, the last first."""
    start = len(log)
    while (start := log.rfind(_MARK, 0, start + len(_MARK) - 1 if start else 0)) >= 0:
        size, total = (int.from_bytes(log[start + at : start + at + 4], "big") for at in (4, 8))
        stop = start + _HEAD + size
        if stop <= len(log) and zlib.crc32(packed := log[start + _HEAD : stop]) == total:
            yield start, stop, packed


def _unpacked(packed: bytes) -> Record | None:
    try:
        return decoded(zlib.decompressobj().decompress(packed, MAX_RECORD), Record)
    except (zlib.error, msgspec.MsgspecError):
        return None
