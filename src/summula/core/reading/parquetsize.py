"""What a Parquet file claims to hold, measured before anything is unpacked: its footer and the head of every page.

Both are Thrift structs in the compact protocol (the Parquet format's own specification). A count or a size that does
not fit what is there is a lie, and is refused; so is one that would fill the memory.
"""

from __future__ import annotations

from typing import Any, NamedTuple

from summula.core.reading.memory import most_memory
from summula.core.refusal import Refusal

_MAGIC = b"PAR1"
_MOST_NESTED = 40
_MOST_PAGES = 2_000_000
_PAGE_GROWTH, _SMALL_PAGE = 2_000, 64 * 1024**2  # a page may unpack to so much of what it takes, or to so many bytes
_LARGE, _FILE_GROWTH = 1024**3, 1_000  # more bytes than this must not be claimed by a file a thousand times smaller


class Claims(NamedTuple):
    """Rows, fields at the bottom of nested ones, and bytes when unpacked."""

    rows: int
    leaves: int
    unpacked: int


class _Damaged(Exception):
    """The bytes are no Thrift struct, or say what cannot be."""


def measured(data: Any, name: str) -> Claims:
    """What Parquet `data` (bytes, or a map of a file) claims. Raises Refusal where it cannot be, or is too much."""
    try:
        claims = _claims(data)
    except (_Damaged, IndexError, OverflowError, TypeError, AttributeError) as fault:
        raise Refusal(f"'{name}' is damaged or not a Parquet file ({fault})", "download or export it again") from None
    held = claims.rows * max(claims.leaves, 1) * 8 + claims.unpacked
    if held > most_memory() or (held > _LARGE and held > _FILE_GROWTH * len(data)):
        raise Refusal(
            f"'{name}' says that it holds {claims.rows:,} rows of {claims.leaves:,} fields",
            "it may be malicious; choose a smaller file",
        )
    return claims


def _claims(data: Any) -> Claims:
    size = len(data)
    if size < 12 or data[:4] != _MAGIC or data[size - 4 :] != _MAGIC:
        raise _Damaged("its signature is missing")
    footer = int.from_bytes(data[size - 8 : size - 4], "little")
    if not 0 < footer <= size - 12:
        raise _Damaged("its end is cut off")
    head = _Compact(data, size - 8 - footer, size - 8).struct()
    rows, leaves, unpacked, pages = 0, 0, 0, 0
    for group in _listed(head.get(4)):
        columns = _listed(group.get(1))
        leaves = max(leaves, len(columns))
        group_rows = _count(group.get(3))
        rows += group_rows
        for column in columns:
            about = column.get(3)
            if not isinstance(about, dict) or column.get(1):
                raise _Damaged("a field lies elsewhere")
            bytes_, seen = _pages(data, about, size)
            unpacked += bytes_
            pages += seen
            if _count(about.get(5)) < group_rows or pages > _MOST_PAGES:
                raise _Damaged("its counts do not agree")
    if rows != _count(head.get(3)):
        raise _Damaged("its counts do not agree")
    return Claims(rows, leaves, unpacked)


def _pages(data: Any, about: dict[int, Any], size: int) -> tuple[int, int]:
    """Of one field of a row group: the bytes that its pages unpack to, and how many there are."""
    starts = [each for each in (about.get(9), about.get(11)) if isinstance(each, int) and each > 0]
    at, values, wanted = min(starts, default=0), 0, _count(about.get(5))
    end = at + _count(about.get(7))
    if not 4 <= at <= end <= size:
        raise _Damaged("a field lies outside the file")
    unpacked = pages = 0
    while at < end and values < wanted:
        reader = _Compact(data, at, end)
        page = reader.struct()
        packed, plain = _count(page.get(3)), _count(page.get(2))
        if reader.at + packed > end or plain > max(_SMALL_PAGE, packed * _PAGE_GROWTH):
            raise _Damaged("a page is larger than it can be")
        for which in (5, 8):
            if isinstance(page.get(which), dict):
                values += _count(page[which].get(1))
        at, pages, unpacked = reader.at + packed, pages + 1, unpacked + plain
    if values != wanted:
        raise _Damaged("its counts do not agree")
    return unpacked, pages


def _count(value: Any) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or value < 0:
        raise _Damaged("a count is missing")
    return value


def _listed(value: Any) -> list[dict[int, Any]]:
    if value is None:
        return []
    if not isinstance(value, list) or not all(isinstance(each, dict) for each in value):
        raise _Damaged("a list is missing")
    return value


class _Compact:
    """A reader of Thrift's compact protocol from `at` to `end`: structs as dictionaries by field number."""

    def __init__(self, data: Any, at: int, end: int) -> None:
        self.data, self.at, self.end = data, at, end

    def _byte(self) -> int:
        if self.at >= self.end:
            raise _Damaged("it ends too early")
        self.at += 1
        return int(self.data[self.at - 1])

    def _varint(self) -> int:
        found = shift = 0
        while True:
            byte = self._byte()
            found |= (byte & 0x7F) << shift
            if byte < 0x80:
                return found
            shift += 7
            if shift > 63:
                raise _Damaged("a number has no end")

    def _signed(self) -> int:
        number = self._varint()
        return (number >> 1) ^ -(number & 1)

    def struct(self, nested: int = 0) -> dict[int, Any]:
        if nested > _MOST_NESTED:
            raise _Damaged("it is nested too deeply")
        found: dict[int, Any] = {}
        number = 0
        while True:
            head = self._byte()
            if head == 0:
                return found
            number = number + (head >> 4) if head >> 4 else self._signed()
            found[number] = self._value(head & 0x0F, nested, in_list=False)

    def _value(self, kind: int, nested: int, *, in_list: bool) -> Any:
        if kind in (1, 2):
            return self._byte() == 1 if in_list else kind == 1
        if kind == 3:
            return self._byte()
        if kind in (4, 5, 6):
            return self._signed()
        if kind == 7:
            return self._skip(8)
        if kind == 8:
            return self._skip(self._varint())
        if kind in (9, 10):
            head = self._byte()
            length = head >> 4 if head >> 4 < 15 else self._varint()
            if length > self.end - self.at:
                raise _Damaged("a list is longer than the file")
            return [self._value(head & 0x0F, nested + 1, in_list=True) for _ in range(length)]
        if kind == 12:
            return self.struct(nested + 1)
        raise _Damaged("it holds what Parquet does not know")

    def _skip(self, length: int) -> bytes:
        if length > self.end - self.at:
            raise _Damaged("a text is longer than the file")
        self.at += length
        return b"" if length > 4096 else bytes(self.data[self.at - length : self.at])
