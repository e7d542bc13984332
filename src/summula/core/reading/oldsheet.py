"""What the workbook reader does not tell of an XLS sheet: in which column its cells begin, and its error cells."""

from __future__ import annotations

import io
from pathlib import Path

from summula.core.reading.sheet import ErrorCell


def old_sheet_cells(path: Path, sheet: str) -> tuple[int, tuple[ErrorCell, ...]]:
    """The first column that holds anything, and the error cells.

    Read by a second library, which is slow but tells every cell; nothing where it cannot read the file.
    """
    if path.suffix.lower() != ".xls":
        return 0, ()
    import xlrd

    try:
        with xlrd.open_workbook(str(path), on_demand=True, logfile=io.StringIO()) as book:
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
    except Exception:
        return 0, ()
