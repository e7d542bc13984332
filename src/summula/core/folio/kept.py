"""A folio kept as plain arrays: what opens in a blink, for caches. Never the document itself.

Beside a `folio.json`, each table is its columns' arrays one after the other, and a list of which stands where.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec

from summula.core.arrays import np
from summula.core.decoding import decoded
from summula.core.folio.model import Folio
from summula.core.folio.opened import Opened
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from numpy.typing import NDArray

_ALIGNED = 64  # bytes: where an array may begin


class _Stored(msgspec.Struct, frozen=True, array_like=True):
    """One array of a table's file."""

    name: str
    kind: str  # as numpy spells it: "<f8"
    start: int
    stop: int


def keep(folder: Path, opened: Opened) -> None:
    """Write a folio and its tables into `folder`. Refused values are not kept: they need none here."""
    folder.mkdir(parents=True, exist_ok=True)
    for source_id, table in opened.tables.items():
        stored: list[_Stored] = []
        with (folder / f"{source_id}.arrays").open("wb") as file:
            for at, column in enumerate(table.columns):
                for name, array in _parts(column).items():
                    file.write(b"\0" * (-file.tell() % _ALIGNED))
                    start = file.tell()
                    file.write(np.ascontiguousarray(array).tobytes())
                    stored.append(_Stored(f"{at}.{name}", array.dtype.str, start, file.tell()))
        (folder / f"{source_id}.json").write_bytes(msgspec.json.encode(stored))
    (folder / "folio.json").write_bytes(msgspec.json.encode(opened.folio))  # last: its being there says all is


def open_kept(folder: Path) -> Opened:
    """What `keep` wrote; OSError, ValueError or KeyError when it is not all there."""
    folio = decoded((folder / "folio.json").read_bytes(), Folio)
    tables = {}
    for entry in folio.tables:
        for source in entry.sources():
            stored = decoded((folder / f"{source.id}.json").read_bytes(), list[_Stored])
            whole = np.fromfile(folder / f"{source.id}.arrays", dtype=np.uint8)
            if stored and stored[-1].stop != len(whole):
                raise ValueError("cut short")
            arrays = {each.name: whole[each.start : each.stop].view(each.kind) for each in stored}
            columns = tuple(_column(arrays, at) for at in range(len(source.fields)))
            tables[source.id] = Table(entry.name, source.fields, columns, source.rows, source.place, source.sensed)
    return Opened(folio, tables)


def _parts(column: Column) -> dict[str, Any]:
    if isinstance(column, CodedColumn):
        return {"codes": column.codes, "members": np.frombuffer(msgspec.json.encode(column.members), dtype=np.uint8)}
    parts: dict[str, Any] = {} if column.blank is None else {"blank": column.blank}
    if isinstance(column, NumberColumn):
        return parts | {"values": column.values, "decimals": np.array([column.decimals, column.per])}
    return parts | {"days": column.days} | ({} if column.seconds is None else {"seconds": column.seconds})


def _column(arrays: dict[str, NDArray[Any]], at: int) -> Column:
    def part(name: str) -> Any:
        return arrays.get(f"{at}.{name}")

    codes, values = part("codes"), part("values")
    if codes is not None:
        return CodedColumn(codes, decoded(part("members").tobytes(), tuple[str, ...]))
    if values is not None:
        decimals, per = part("decimals").tolist()
        return NumberColumn(values, decimals, part("blank"), (), per)
    return DateColumn(part("days"), part("blank"), part("seconds"))
