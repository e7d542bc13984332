"""The reader for XLSX workbooks. A file from a stranger is measured before it is unpacked."""

from __future__ import annotations

import zipfile
from pathlib import Path

import fastexcel
import polars as pl

from summula.core.refusal import Refusal
from summula.core.tables.heads import clear_names

# Beyond these a workbook is a bomb rather than a table: a sheet has at most 1,048,576 rows.
_MOST_UNPACKED = 4 * 1024**3
_MOST_RATIO = 400


def read_workbook(path: Path, sheet: str | None = None) -> pl.DataFrame:
    """One sheet (the first unless said) under clear heads; typed where the cells are."""
    _refuse_bomb(path)
    try:
        book = fastexcel.read_excel(str(path))
        names = book.sheet_names
        if sheet is not None and sheet not in names:
            raise Refusal(f"no sheet '{sheet}' in '{path.name}'", "its sheets are " + ", ".join(names))
        frame: pl.DataFrame = book.load_sheet(sheet if sheet is not None else 0).to_polars()
    except fastexcel.FastExcelError as fault:
        raise Refusal(
            f"'{path.name}' could not be read as a workbook ({str(fault).splitlines()[0]})",
            "open it where it was made and save it anew",
        ) from None
    if frame.width == 0:
        raise Refusal(f"the sheet of '{path.name}' is empty", "choose another sheet")
    unnamed = [("" if name.startswith("__UNNAMED__") else name) for name in frame.columns]
    frame.columns = clear_names(unnamed)
    return frame


def _refuse_bomb(path: Path) -> None:
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
