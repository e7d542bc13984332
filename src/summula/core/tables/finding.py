"""Finding rows: by text, by value, in an order. Nothing of the table changes."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.tables.column import CodedColumn, Column, DateColumn, Mask, NumberColumn, take_at

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.tables.table import Table

_NUMBER = re.compile(r"^[-+]?[\d, ]*\.?\d+$")
_DATE_PART = re.compile(r"^\d{4}(-\d{2}(-\d{2})?)?$")
_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")


def rows_with(table: Table, text: str) -> Mask:
    """The rows in which every word of `text` stands in some field: in text, as a number, or as a day, month or year
    ("2024-05", "may", "12.50"). Values that do not fit their field's kind are searched as they were written."""
    found = np.ones(table.rows, dtype=np.bool_)
    for word in text.casefold().split():
        here = np.zeros(table.rows, dtype=np.bool_)
        for column in table.columns:
            here |= _with_word(column, word)
            for each in column.refused:
                if word in each.text.casefold():
                    here[each.row] = True
        found &= here
    return found


def _with_word(column: Column, word: str) -> Mask:
    if isinstance(column, CodedColumn):
        met = np.array([*(word in member.casefold() for member in column.members), False], dtype=np.bool_)
        return take_at(met, column.codes)
    none = np.zeros(column.rows, dtype=np.bool_)
    present = none if column.blank is None else column.blank
    if isinstance(column, NumberColumn):
        if not _NUMBER.match(word):
            return none
        units = float(word.replace(",", "").replace(" ", "")) * column.unit
        return np.isclose(column.values, units, rtol=1e-12, atol=1e-6) & ~present
    return _with_date(column, word) & ~present


def _with_date(column: DateColumn, word: str) -> Mask:
    days = column.days.astype("datetime64[D]")
    if _DATE_PART.match(word):
        unit = {4: "Y", 7: "M", 10: "D"}[len(word)]
        try:
            wanted = np.array([word], dtype=f"datetime64[{unit}]")
        except ValueError:
            return np.zeros(column.rows, dtype=np.bool_)
        return np.asarray(days.astype(wanted.dtype) == wanted[0])
    if word[:3] in _MONTHS and len(word) == 3:
        return np.asarray(days.astype("datetime64[M]").astype(np.int64) % 12 == _MONTHS.index(word[:3]))
    return np.zeros(column.rows, dtype=np.bool_)


def in_order(table: Table, name: str, *, largest: bool) -> NDArray[np.int64]:
    """The rows in the order of a field's values; blanks last, equal ones as they came."""
    column = table.column(name)
    if isinstance(column, CodedColumn):
        keys, blank = column.codes.astype(np.int64), column.codes == len(column.members)
    elif isinstance(column, NumberColumn):
        keys, blank = column.values, column.blank  # type: ignore[assignment]
    else:
        seconds = 0 if column.seconds is None else column.seconds
        keys, blank = column.days.astype(np.int64) * 86_400 + seconds, column.blank
    order = np.argsort(-keys if largest else keys, kind="stable")
    if blank is not None and blank.any():
        order = np.concatenate([order[~blank[order]], np.flatnonzero(blank)])
    return order.astype(np.int64)


def blank_rows(table: Table, name: str) -> Mask:
    blank = table.column(name).blank
    return np.zeros(table.rows, dtype=np.bool_) if blank is None else blank


def refused_rows(table: Table, name: str) -> Mask:
    found = np.zeros(table.rows, dtype=np.bool_)
    found[[each.row for each in table.column(name).refused]] = True
    return found


def ragged_rows(table: Table) -> Mask:
    found = np.zeros(table.rows, dtype=np.bool_)
    found[[each.row for each in table.ragged]] = True
    return found


def first_row(table: Table, name: str, *, greatest: bool) -> int:
    """Where the least or the greatest number of a field stands first; -1 where there is none."""
    column = table.number(name)
    if column.rows == 0 or (column.blank is not None and column.blank.all()):
        return -1
    hole = -np.inf if greatest else np.inf
    values = column.values if column.blank is None else np.where(column.blank, hole, column.values)
    return int(np.argmax(values) if greatest else np.argmin(values))
