"""Numbers that are years: they order and group rows, but a total of them means nothing."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.memory import Remembered
from summula.core.tables.column import Column, NumberColumn, different_values

if TYPE_CHECKING:
    from summula.core.tables.table import Table

_EARLIEST, _LATEST = 1800, 2100
_NAMED = re.compile(r"(^|[\s_.\-/])(year|years|yr|jahr|année|annee|año|ano|anno)([\s_.\-/]|$)", re.IGNORECASE)
_TELLING = 20  # values that tell it without the name
_HOLDS_YEARS: Remembered[str, bool] = Remembered("holds years", most=2_000)
_REPEATS = 3  # rows a distinct one, at least


def called_year(name: str) -> bool:
    """Whether a name says that its values are years."""
    return _NAMED.search(name) is not None


def holds_years(table: Table, name: str) -> bool:
    """Whether a number field holds nothing but years: whole numbers from 1800 to 2100 that come again and again, or
    that its name calls so. Remembered by the table."""
    return _HOLDS_YEARS.of(table.memo, name, lambda: _holds_years(table.column(name), name))


def _holds_years(column: Column, name: str) -> bool:
    return isinstance(column, NumberColumn) and column.decimals == 0 and _are_years(column, name)


def _are_years(column: NumberColumn, name: str) -> bool:
    present = column.present()
    if len(present) == 0 or present.min() < _EARLIEST or present.max() > _LATEST:
        return False
    if not np.array_equal(present, np.rint(present)):
        return False
    if called_year(name):
        return True
    return len(present) >= max(_TELLING, _REPEATS * len(different_values(present)))
