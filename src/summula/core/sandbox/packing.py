"""Tables as arrays one after the other in a file of shared memory: one process writes it, another uses it where it is.

What comes from a process that read strangers' bytes is not believed: every array is checked against what a table may
hold before anything is worked out from it.
"""

from __future__ import annotations

import fcntl
import mmap
import os
from typing import TYPE_CHECKING, Any

import msgspec

from summula.core.arrays import np
from summula.core.decoding import unpacked
from summula.core.refusal import Refusal
from summula.core.tables.column import MOST_DECIMALS, CodedColumn, Column, DateColumn, NumberColumn, Refused
from summula.core.tables.field import Field, Sensed
from summula.core.tables.table import Ragged, Table

if TYPE_CHECKING:
    from numpy.typing import NDArray

_ALIGNED = 64  # bytes: where an array may begin
_PIECE = 1 << 26  # bytes written at a time
_FIRST_DAY, _LAST_DAY = -719_162, 2_932_896  # 0001-01-01 and 9999-12-31, from 1970-01-01
_SECONDS = 86_400
_MOST_PER = 10**9


class Span(msgspec.Struct, frozen=True, array_like=True):
    """Bytes of the shared memory, from `start` up to `stop`."""

    start: int
    stop: int


class _Array(msgspec.Struct, frozen=True, array_like=True):
    kind: str  # as numpy spells it: "<f8"
    span: Span


class _Coded(msgspec.Struct, frozen=True, tag=True):
    codes: _Array
    members: Span  # MessagePack
    refused: tuple[Refused, ...]


class _Numbers(msgspec.Struct, frozen=True, tag=True):
    values: _Array
    blank: _Array | None
    refused: tuple[Refused, ...]
    decimals: int
    per: int


class _Dates(msgspec.Struct, frozen=True, tag=True):
    days: _Array
    blank: _Array | None
    seconds: _Array | None
    refused: tuple[Refused, ...]


class _Packed(msgspec.Struct, frozen=True):
    """A table but for its arrays. Its name and its place are known to whoever asked."""

    fields: tuple[Field, ...]
    columns: tuple[_Coded | _Numbers | _Dates, ...]
    rows: int
    sensed: tuple[Sensed, ...]
    ragged: tuple[Ragged, ...]
    year_begins: int


class Packing:
    """A file of shared memory that is being written."""

    def __init__(self) -> None:
        self.file = os.memfd_create("tables", os.MFD_CLOEXEC | os.MFD_ALLOW_SEALING)
        self._end = 0

    def add(self, data: bytes | memoryview) -> Span:
        """Put bytes at the end. Raises OSError where there is no room."""
        start = -(-self._end // _ALIGNED) * _ALIGNED
        at = 0
        while at < len(data):
            at += os.pwrite(self.file, data[at : at + _PIECE], start + at)
        self._end = start + len(data)
        os.ftruncate(self.file, max(self._end, 1))
        return Span(start, self._end)

    def add_tables(self, tables: list[Table]) -> Span:
        """Put tables at the end; what tells of them is in the span. The list is emptied: each column is let go once it
        is written, where nobody else holds it, so that the two are never there whole."""
        packed = []
        while tables:
            table = tables.pop(0)
            fields, rows, sensed, ragged = table.fields, table.rows, table.sensed, table.ragged
            year_begins, columns = table.year_begins, list(table.columns)
            del table
            written = []
            while columns:
                written.append(self._column(columns.pop(0)))
            packed.append(_Packed(fields, tuple(written), rows, sensed, ragged, year_begins))
        return self.add(msgspec.msgpack.encode(packed))

    def _array(self, array: NDArray[Any]) -> _Array:
        if not len(array):
            return _Array(array.dtype.str, Span(0, 0))
        return _Array(array.dtype.str, self.add(np.ascontiguousarray(array).view(np.uint8).data))

    def _column(self, column: Column) -> _Coded | _Numbers | _Dates:
        if isinstance(column, CodedColumn):
            members = self.add(msgspec.msgpack.encode(column.members))
            return _Coded(self._array(column.codes), members, column.refused)
        blank = None if column.blank is None else self._array(column.blank)
        if isinstance(column, NumberColumn):
            return _Numbers(self._array(column.values), blank, column.refused, column.decimals, column.per)
        seconds = None if column.seconds is None else self._array(column.seconds)
        return _Dates(self._array(column.days), blank, seconds, column.refused)


class Unpacking:
    """A file of shared memory that another process has written, and does not write any more."""

    def __init__(self, file: int) -> None:
        """Takes over the file. Raises OSError where somebody may still change it."""
        try:
            seals = fcntl.F_SEAL_SHRINK | fcntl.F_SEAL_GROW | fcntl.F_SEAL_WRITE | fcntl.F_SEAL_SEAL
            fcntl.fcntl(file, fcntl.F_ADD_SEALS, seals)
            size = os.fstat(file).st_size
            self._map = mmap.mmap(file, size, mmap.MAP_PRIVATE | mmap.MAP_POPULATE, mmap.PROT_READ)
            self._size = size
        finally:
            os.close(file)

    def bytes_at(self, span: Span) -> memoryview:
        if not 0 <= span.start <= span.stop <= self._size:
            raise nonsense()
        return memoryview(self._map)[span.start : span.stop]

    def tables_at(self, span: Span) -> tuple[Table, ...]:
        """The tables, their arrays where they lie. Raises Refusal for what no table is."""
        try:
            found = unpacked(self.bytes_at(span), tuple[_Packed, ...])
        except msgspec.MsgspecError:
            raise nonsense() from None
        return tuple(self._table(each) for each in found)

    def _table(self, packed: _Packed) -> Table:
        fields, rows = packed.fields, packed.rows
        if rows < 0 or len(fields) != len(packed.columns) or not 1 <= packed.year_begins <= 12:
            raise nonsense()
        columns = tuple(self._column(each, rows) for each in packed.columns)
        return Table("", fields, columns, rows, "", packed.sensed, packed.ragged, packed.year_begins)

    def _array(self, array: _Array, kinds: tuple[str, ...], rows: int) -> NDArray[Any]:
        if array.kind not in kinds:
            raise nonsense()
        found: NDArray[Any] = np.frombuffer(self.bytes_at(array.span), dtype=np.uint8)
        if len(found) != rows * np.dtype(array.kind).itemsize or array.span.start % 8:
            raise nonsense()
        return found.view(array.kind)

    def _blank(self, array: _Array | None, rows: int) -> NDArray[np.bool_] | None:
        if array is None:
            return None
        found = self._array(array, ("|b1",), rows)
        if rows and found.view(np.uint8).max() > 1:
            raise nonsense()
        return found

    def _column(self, packed: _Coded | _Numbers | _Dates, rows: int) -> Column:
        refused = packed.refused
        if any(not 0 <= each.row < max(rows, 1) for each in refused):
            raise nonsense()
        if isinstance(packed, _Coded):
            members = unpacked(self.bytes_at(packed.members), tuple[str, ...])
            codes = self._array(packed.codes, ("|u1", "<u2", "<u4", "<u8"), rows)
            if rows and codes.max() > len(members):
                raise nonsense()
            return CodedColumn(codes, members, refused)
        blank = self._blank(packed.blank, rows)
        if isinstance(packed, _Numbers):
            values = self._array(packed.values, ("<f8",), rows)
            if rows and np.isnan(values.min()):
                raise nonsense()
            if not 0 <= packed.decimals <= MOST_DECIMALS or not 1 <= packed.per <= _MOST_PER:
                raise nonsense()
            return NumberColumn(values, packed.decimals, blank, refused, packed.per)
        days = self._array(packed.days, ("<i4",), rows)
        _check(days, _FIRST_DAY, _LAST_DAY)
        seconds = None if packed.seconds is None else self._array(packed.seconds, ("<i4",), rows)
        if seconds is not None:
            _check(seconds, 0, _SECONDS - 1)
        return DateColumn(days, blank, seconds, refused)


def _check(array: NDArray[Any], least: int, most: int) -> None:
    """Refuses values outside."""
    if len(array) and not (least <= array.min() and array.max() <= most):
        raise nonsense()


def nonsense() -> Refusal:
    return Refusal("what was read makes no sense", "the file may be malicious; check where it comes from")
