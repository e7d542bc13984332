"""The demo's tables as files: CSV and XLSX; and the next month's rows in them."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path

import polars as pl

from summula.core.arrays import np
from summula.core.refusal import Refusal
from summula.demo.company import sailings, targets

_LAST_MONTH = (2026, 12)  # the company's calendar goes no further


def write_files(folder: Path) -> list[Path]:
    """Write both tables in both formats into `folder` (made if need be); returns what was written."""
    rows = sailings()
    return _write(folder, rows)


def add_next_month(folder: Path) -> tuple[int, date]:
    """Write the month after the last one into the files in `folder`; returns how many rows it has, and its last day.

    The rows that are there stay as they are. Files that are not there are written first.
    """
    rows, new = next_rows(folder)
    _write(folder, pl.concat([rows, new]))
    last = new["Sailed on"].max()
    assert isinstance(last, date)
    return new.height, (last.replace(day=1) + timedelta(days=32)).replace(day=1) - timedelta(days=1)


def next_rows(folder: Path) -> tuple[pl.DataFrame, pl.DataFrame]:
    """The rows of the demo's file in `folder` (written first, if need be), and those of the month after the last one.
    Refuses a file that is another's, and a month that the company's calendar has not."""
    place = folder / "sailings.csv"
    if not place.exists():
        write_files(folder)
    try:
        rows = pl.read_csv(place, try_parse_dates=True, schema_overrides={"Sailing no.": pl.String})
        last = rows["Sailed on"].max()
        assert isinstance(last, date)
        number = max(int(each) for each in rows["Sailing no."])
    except (pl.exceptions.PolarsError, AssertionError, ValueError):
        raise Refusal(f"'{place}' is not the demo's table any more", "delete it, and it is written anew") from None
    month = (last + timedelta(days=1)).replace(day=1)
    if (month.year, month.month) > _LAST_MONTH:
        raise Refusal(f"the demo ends with {last:%B %Y}", "delete its files to begin again")
    end = (month + timedelta(days=32)).replace(day=1) - timedelta(days=1)
    new = sailings(np.datetime64(end)).filter(pl.col("Sailed on") > last)
    numbers = pl.Series("Sailing no.", (number + 7 * np.arange(1, new.height + 1)).astype(str))
    return rows.cast(new.schema), new.with_columns(numbers)


def _write(folder: Path, rows: pl.DataFrame) -> list[Path]:
    folder.mkdir(parents=True, exist_ok=True)
    written = []
    for name, frame in (("sailings", rows), ("monthly-targets", targets(rows))):
        text, book = folder / f"{name}.csv", folder / f"{name}.xlsx"
        part = text.with_suffix(".part")
        frame.write_csv(part)
        part.replace(text)  # whoever watches the file sees the old one or the new one
        frame.write_excel(book, worksheet=name, autofit=False)
        written += [text, book]
    return written
