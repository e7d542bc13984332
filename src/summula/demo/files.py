"""The demo's tables as files: CSV and XLSX."""

from __future__ import annotations

from pathlib import Path

from summula.demo.company import sailings, targets


def write_files(folder: Path) -> list[Path]:
    """Write both tables in both formats into `folder` (made if need be); returns what was written."""
    folder.mkdir(parents=True, exist_ok=True)
    rows = sailings()
    written = []
    for name, frame in (("sailings", rows), ("monthly-targets", targets(rows))):
        text, book = folder / f"{name}.csv", folder / f"{name}.xlsx"
        frame.write_csv(text)
        frame.write_excel(book, worksheet=name, autofit=False)
        written += [text, book]
    return written
