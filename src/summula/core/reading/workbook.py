"""The reader for workbooks: XLSX, XLS, ODS. A file from a stranger is measured before it is unpacked."""

from __future__ import annotations

import contextlib
import re
import zipfile
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

import fastexcel
import numpy as np
import polars as pl
from numpy.typing import NDArray

from summula.core.reading.delimited import head_setting
from summula.core.reading.errorcells import NO_ERRORS, SheetCells, column_number, sheet_cells
from summula.core.reading.heads import MOST_FIELDS, Heads, find_heads
from summula.core.reading.raw import Raw
from summula.core.reading.readas import ReadAs, Setting, Watch
from summula.core.refusal import Refusal
from summula.core.tables.column import Refused
from summula.core.tables.field import Kind
from summula.core.tables.sensing import Signs

# Beyond these a workbook is a bomb rather than a table: a sheet has at most 1,048,576 rows.
_MOST_UNPACKED = 4 * 1024**3
_MOST_RATIO = 400
_LOOKED_AT = 200
_AREA = re.compile(r"^([A-Z]{1,3})(\d{1,7}):([A-Z]{1,3})(\d{1,7})$")


def read_workbook(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """One sheet (the first with cells unless said); titles above the table and blank rows are left out."""
    _refuse_bomb(path)
    try:
        book = fastexcel.read_excel(str(path))
        names = book.sheet_names
        if read_as.sheet and read_as.sheet not in names:
            raise Refusal(f"no sheet '{read_as.sheet}' in '{path.name}'", "its sheets are " + ", ".join(names))
        sheet = read_as.sheet or names[0]
        read = None
        if read_as == ReadAs(sheet=read_as.sheet):
            with contextlib.suppress(fastexcel.FastExcelError):  # cells of a column that do not go together
                read = _typed(book, sheet)
        cells = NO_ERRORS
        if read is None:
            with ThreadPoolExecutor(1) as threads:
                searched = threads.submit(sheet_cells, path, sheet)
                read = _as_text(book, sheet, read_as, path.name, searched)
            cells = searched.result()
        elif any(series.null_count() for series in read[0]):  # an error cell is read as a blank
            cells = sheet_cells(path, sheet)
    except (fastexcel.FastExcelError, pl.exceptions.PolarsError, ValueError) as fault:
        raise Refusal(
            f"'{path.name}' could not be read as a workbook ({(str(fault).splitlines() or ['damaged'])[0]})",
            "open it where it was made and save it anew",
        ) from None
    frame, heads, rows, left = read
    watch(frame.height)
    why = f"one of {len(names)} in the file" if len(names) > 1 else "the only one"
    settings = (Setting("sheet", sheet, why, tuple((name, name) for name in names)), head_setting(heads))
    signs = Signs(read_as.decimal, read_as.dates)
    place = {int(row): at for at, row in enumerate(rows)} if cells.errors else {}
    errors = tuple(
        (heads.names[each.column - left], Refused(place[each.row], each.text))
        for each in cells.errors
        if each.row in place and 0 <= each.column - left < len(heads.names)
    )
    return Raw(heads.names, frame.get_columns(), frame.height, settings=settings, signs=signs, errors=errors)


Read = tuple[pl.DataFrame, Heads, NDArray[np.int64], int]
"""The rows, their heads, where each row stands in the filled part of the sheet, and the first column that was read."""


def _typed(book: fastexcel.ExcelReader, sheet: str) -> Read | None:
    """The quick way, for a sheet whose first row holds the heads of all its columns: cells come with their types."""
    frame: pl.DataFrame = book.load_sheet(sheet, schema_sample_rows=None).to_polars()
    if frame.width == 0 or frame.height == 0 or frame.width > MOST_FIELDS:
        return None
    if any(name.startswith("__UNNAMED__") or re.search(r"_\d+$", name) for name in frame.columns):
        return None
    first = frame.head(_LOOKED_AT).select(pl.all().cast(pl.String).fill_null(""))
    heads = find_heads([frame.columns, *[list(row) for row in first.rows()]])
    if heads.row != 0 or heads.first != 1:
        return None
    return *_without_blank_rows(frame, heads, 1), 0


def _as_text(book: fastexcel.ExcelReader, sheet: str, read_as: ReadAs, name: str, searched: Future[SheetCells]) -> Read:
    """The careful way: all cells as text, then the table within them."""
    frame: pl.DataFrame = book.load_sheet(sheet, header_row=None, dtypes="string").to_polars()
    if frame.width == 0 or frame.height == 0:
        raise Refusal(f"the sheet '{sheet}' of '{name}' is empty", "choose another sheet")
    top = left = 0
    if read_as.area:
        frame, top, left = _area(frame, read_as.area, searched.result())
    first = frame.head(_LOOKED_AT).select(pl.all().fill_null(""))
    heads = find_heads([list(row) for row in first.rows()], read_as.head, read_as.head_rows)
    frame = frame.slice(heads.first)[:, : len(heads.names)]
    return *_without_blank_rows(frame, heads, heads.first + top), left


def _without_blank_rows(frame: pl.DataFrame, heads: Heads, first: int) -> tuple[pl.DataFrame, Heads, NDArray[np.int64]]:
    filled = ~frame.select(pl.all_horizontal(pl.all().is_null())).to_series()
    rows = np.flatnonzero(filled.to_numpy()) + first
    return (frame if filled.all() else frame.filter(filled)), heads, rows


def _area(frame: pl.DataFrame, area: str, cells: SheetCells) -> tuple[pl.DataFrame, int, int]:
    """The block of cells, and where it begins in the filled part of the sheet."""
    found = _AREA.match(area.upper().replace("$", "").replace(" ", ""))
    if found is None:
        raise Refusal(f"'{area}' is not a block of cells", "write it as B3:H200")
    left, right = column_number(found[1]) - 1 - cells.left, column_number(found[3]) - 1 - cells.left
    top, bottom = int(found[2]) - 1 - cells.top, int(found[4]) - 1 - cells.top
    left, top = max(left, 0), max(top, 0)
    if left > right or top > bottom or left >= frame.width or top >= frame.height:
        last = f"{frame.height + cells.top:,} rows and {frame.width + cells.left:,} columns"
        raise Refusal(f"'{area}' holds no cells", f"the sheet has {last}")
    return frame.slice(top, bottom - top + 1)[:, left : right + 1], top, left


def _refuse_bomb(path: Path) -> None:
    if path.suffix.lower() == ".xls":  # not a ZIP: cells are stored as they are
        return
    try:
        with zipfile.ZipFile(path) as archive:
            packed = sum(info.compress_size for info in archive.infolist())
            unpacked = sum(info.file_size for info in archive.infolist())
    except zipfile.BadZipFile:
        raise Refusal(
            f"'{path.name}' is damaged or not a workbook", "open it where it was made and save it anew"
        ) from None
    if unpacked > _MOST_UNPACKED or (unpacked > 64 * 1024**2 and unpacked > packed * _MOST_RATIO):
        raise Refusal(
            f"'{path.name}' would unpack to {unpacked // 1024**2:,} MB, far more than a sheet can hold",
            "it may be made to do harm; ask where it comes from",
        )
