"""Sheets by the file they are in: an XLSX or ODS archive is opened by what it holds."""

from __future__ import annotations

import zipfile
from pathlib import Path

from summula.core.reading.odssheet import OdsSheet, table_names
from summula.core.reading.sheet import NotCut, Sheet
from summula.core.reading.xlsxsheet import XlsxSheet, worksheet_names


def opened_sheet(path: Path, sheet: str, archive: zipfile.ZipFile, *, chosen: bool) -> Sheet:
    """The sheet of an XLSX or ODS file that is open as an archive, `chosen` where a block of its cells is wanted.
    NotCut where it is of another make."""
    try:
        if "content.xml" in archive.namelist():
            return OdsSheet(path, sheet, archive)
        return XlsxSheet(path, sheet, archive, chosen=chosen)
    except (KeyError, ValueError, NotImplementedError):
        raise NotCut from None


def sheet_names(path: Path, archive: zipfile.ZipFile) -> list[tuple[str, bool]]:
    """The sheets of an XLSX or ODS file that hold cells, in their order, and whether each is hidden."""
    return table_names(archive) if "content.xml" in archive.namelist() else worksheet_names(archive)
