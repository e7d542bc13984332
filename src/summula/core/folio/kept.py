"""A folio kept as plain arrays: what opens in a blink, for caches. Never the document itself.

Beside a `folio.json`, each table is an uncompressed `.npz` of its columns (read without pickle).
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from summula.core.folio.model import Folio
from summula.core.folio.opened import Opened
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn
from summula.core.tables.table import Table


def keep(folder: Path, opened: Opened) -> None:
    """Write a folio and its tables into `folder`. Refused values are not kept: they need none here."""
    folder.mkdir(parents=True, exist_ok=True)
    for source_id, table in opened.tables.items():
        arrays: dict[str, Any] = {}
        for at, column in enumerate(table.columns):
            arrays.update({f"{at}.{name}": array for name, array in _parts(column).items()})
        np.savez(folder / f"{source_id}.npz", **arrays)
    (folder / "folio.json").write_bytes(msgspec.json.encode(opened.folio))  # last: its being there says all is


def open_kept(folder: Path) -> Opened:
    """What `keep` wrote; OSError, ValueError or KeyError when it is not all there."""
    folio = msgspec.json.decode((folder / "folio.json").read_bytes(), type=Folio)
    tables = {}
    for entry in folio.tables:
        for source in entry.sources():
            with np.load(folder / f"{source.id}.npz", allow_pickle=False) as arrays:
                columns = tuple(_column(arrays, at) for at in range(len(source.fields)))
            tables[source.id] = Table(entry.name, source.fields, columns, source.rows, source.place, source.sensed)
    return Opened(folio, tables)


def _parts(column: Column) -> dict[str, Any]:
    if isinstance(column, CodedColumn):
        return {"codes": column.codes, "members": np.frombuffer(msgspec.json.encode(column.members), dtype=np.uint8)}
    parts: dict[str, Any] = {} if column.blank is None else {"blank": column.blank}
    if isinstance(column, NumberColumn):
        return parts | {"values": column.values, "decimals": np.array(column.decimals)}
    return parts | {"days": column.days} | ({} if column.seconds is None else {"seconds": column.seconds})


def _column(arrays: Any, at: int) -> Column:
    def part(name: str) -> Any:
        return arrays.get(f"{at}.{name}")

    codes, values = part("codes"), part("values")
    if codes is not None:
        return CodedColumn(codes, msgspec.json.decode(part("members").tobytes(), type=tuple[str, ...]))
    if values is not None:
        return NumberColumn(values, int(part("decimals")), part("blank"))
    return DateColumn(part("days"), part("blank"), part("seconds"))
