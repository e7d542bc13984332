"""What a reader hands on: fields by name, encoded or still as series, and what was found out about the source."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec

from summula.core.reading.readas import ReadAs, Setting
from summula.core.tables.sensing import SENSE_ALL, Signs
from summula.core.tables.table import Ragged

if TYPE_CHECKING:
    from collections.abc import Sequence

    import polars as pl

    from summula.core.tables.column import Column, Refused
    from summula.core.tables.field import Sensed


def signs_of(read_as: ReadAs) -> Signs:
    """What a person has said that sensing goes by."""
    return Signs(read_as.decimal, read_as.dates, read_as.century, read_as.markers != "text")


class Raw(msgspec.Struct, frozen=True):
    """`fields` are series still to be sensed, or columns that have been encoded as they were read. `errors` are cells
    that hold a fault of the sheet's own ("#N/A"), by field. `units` are the fields', where the source says them.
    """

    names: Sequence[str]
    fields: Sequence[pl.Series | tuple[Column, Sensed]]
    rows: int = 0
    ragged: tuple[Ragged, ...] = ()
    settings: tuple[Setting, ...] = ()
    signs: Signs = SENSE_ALL
    errors: tuple[tuple[str, Refused], ...] = ()
    units: Sequence[str] = ()
