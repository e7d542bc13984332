"""What the workbook reader does not tell of an XLS sheet: in which column its cells begin, and its error cells."""

from __future__ import annotations

import io
import struct
from typing import TYPE_CHECKING

from summula.core.reading.contents import content_of
from summula.core.reading.sheet import ErrorCell
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.watch import Watch

_MOST_COLUMNS = 256
_CELLS = (0x0006, 0x00BD, 0x00BE, 0x00D6, 0x00FD, 0x0201, 0x0203, 0x0204, 0x0205, 0x027E)  # records of cells
_TOLD = 4096  # rows after which they are told
_LOCKED = 0x002F  # the record after which all is encrypted


def refuse_far_old_cells(path: Path, watch: Watch) -> None:
    """Refuse a file whose cells stand in columns that no sheet has: the reader would ask for room for all before them.
    It takes longer than reading them, and tells the rows it has come to.

    Records are an identifier, a length and so many bytes; those of cells begin with row and column (two bytes each).
    """
    import xlrd.compdoc

    whole = path.read_bytes()
    if not whole.startswith(xlrd.compdoc.SIGNATURE):
        return  # nothing that the reader takes for such a file
    try:
        document = xlrd.compdoc.CompDoc(whole, logfile=io.StringIO(), ignore_workbook_corruption=True)
        streams = [document.locate_named_stream(name) for name in ("Workbook", "Book")]
    except Exception:  # whatever a damaged file makes it stumble over: what cannot be measured is not read
        raise Refusal(f"'{path.name}' is damaged", "open it in the program that made it and save it again") from None
    pair, cells = struct.Struct("<HH").unpack_from, frozenset(_CELLS)
    rows, now = 0, -1
    for stream, at, size in streams:
        end = min(at + size, len(stream)) if stream is not None else 0
        while at + 8 <= end:
            kind, length = pair(stream, at)
            if kind == _LOCKED:
                return  # what follows is not what it says; the reader does not go on either
            if kind in cells:
                row, column = pair(stream, at + 4)
                if column >= _MOST_COLUMNS:
                    notice = f"a cell of '{path.name}' stands in column {column + 1:,}; there are {_MOST_COLUMNS}"
                    raise Refusal(notice, "open it in the program that made it and save it again")
                if row != now:
                    now, rows = row, rows + 1
                    if rows % _TOLD == 0:
                        watch(rows)
            at += 4 + length


def old_sheet_cells(path: Path, sheet: str) -> tuple[int, tuple[ErrorCell, ...]]:
    """The first column that holds anything, and the error cells.

    Read by a second library, which is slow but tells every cell; nothing where it cannot read the file.
    """
    if content_of(path) != "xls":
        return 0, ()
    import xlrd

    try:
        quiet = io.StringIO()
        with xlrd.open_workbook(str(path), quiet, on_demand=True, ignore_workbook_corruption=True) as book:
            cells = book.sheet_by_name(sheet)
            blank = (xlrd.XL_CELL_EMPTY, xlrd.XL_CELL_BLANK)
            errors: list[ErrorCell] = []
            left = cells.ncols
            for row in range(cells.nrows):
                kinds = cells.row_types(row)
                filled = next((at for at, kind in enumerate(kinds) if kind not in blank), None)
                if filled is None:
                    continue
                left = min(left, filled)
                if xlrd.XL_CELL_ERROR in kinds:
                    values = cells.row_values(row)
                    errors += [
                        ErrorCell(row, at, xlrd.error_text_from_code.get(values[at], "#ERROR"))
                        for at, kind in enumerate(kinds)
                        if kind == xlrd.XL_CELL_ERROR
                    ]
            return left if left < cells.ncols else 0, tuple(errors)
    except Exception:  # whatever a damaged file makes it stumble over: the values have been read without it
        return 0, ()
