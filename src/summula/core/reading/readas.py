"""What a person says about how to read a file, and what was found."""

from typing import Literal

import msgspec

from summula.core.tables.table import Ragged

Encoding = Literal[
    "", "utf-8", "utf-16", "utf-32", "windows-1252", "windows-1250", "windows-1251", "windows-1253", "windows-1254",
    "mac-roman", "shift-jis", "gb18030", "big5", "euc-kr",
]  # fmt: skip
Markers = Literal["", "blank", "text"]
Decimal = Literal["", "point", "comma"]
DateOrder = Literal["", "day first", "month first"]


class ReadAs(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """Settings for one source. What is empty (or None) is sensed.

    `sheet` is a sheet of a workbook, or a table or view of a database. `head` is the line (or row of the sheet) that
    holds the heads, counted from 1; 0 says that there is none. `head_rows` is 2 where two rows make up the heads.
    `area` is a block of cells, "B3:H200". `leave_totals` leaves out the rows that are none of the table's: totals,
    subtotals, balances, notes. `markers` says whether "n/a" and its like are blanks; `century` is the first of the
    hundred years that years of two figures mean; `merged` fills cells that were merged downwards;
    `periods` turns fields that are called by days, months, quarters or years into rows.
    """

    sheet: str = ""
    encoding: Encoding = ""
    delimiter: str = ""
    head: int | None = None
    head_rows: int | None = None
    decimal: Decimal = ""
    dates: DateOrder = ""
    area: str = ""
    leave_totals: bool = False
    markers: Markers = ""
    century: int = 0
    merged: bool = True
    periods: bool = False


class Setting(msgspec.Struct, frozen=True):
    """One setting as it was used: its name in `ReadAs`, how its value reads, the others to choose, and why this one.

    `doubt` says that nothing in the file decides it, so that a person should. `told` is what a person should know of it
    even so, as a sentence. Where there are two choices, `offer` names the other as a deed. `rows` (from 0) of the table
    and `fields` are those it is about.
    """

    name: str
    value: str
    why: str = ""
    choices: tuple[tuple[str, object], ...] = ()
    doubt: bool = False
    notice: str = ""
    offer: str = ""
    rows: tuple[int, ...] = ()
    fields: tuple[str, ...] = ()


__all__ = ["DateOrder", "Decimal", "Encoding", "Ragged", "ReadAs", "Setting"]
