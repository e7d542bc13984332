"""Whatever has happened to a file, it is read or refused in one sentence: no fault comes through."""

from __future__ import annotations

import gzip
import io
import sqlite3
import tempfile
import zipfile
from collections.abc import Callable
from functools import cache
from pathlib import Path

import openpyxl
import polars as pl
import pytest
import xlwt
from hypothesis import given, settings
from hypothesis import strategies as st

from summula.core.folio import Opened
from summula.core.folio.file import open_folio, save_folio
from summula.core.reading import ReadAs
from summula.core.reading.previewing import preview
from summula.core.reading.readers import read_table
from summula.core.refusal import Refusal
from summula.core.statistics.distribution import describe
from tests.test_sheets import ods_row, put_ods

ROWS = [
    [
        f"{at:03d}",
        ("Tern", "Gull", "Skua – north")[at % 3],
        f"2024-0{at % 9 + 1}-1{at % 9}",
        at * 1.25,
        "yes" if at % 2 else "no",
    ]
    for at in range(60)
]
HEADS = ["No.", "Vessel", "On", "Fee", "Paid"]
FRAME = pl.DataFrame(ROWS, schema=HEADS, orient="row")


def put_book(path: Path) -> None:
    book = openpyxl.Workbook()
    assert book.active is not None
    for row in (HEADS, *ROWS):
        book.active.append(row)
    book.save(path)


def put_old_book(path: Path) -> None:
    book = xlwt.Workbook()
    sheet = book.add_sheet("Rows")
    for at, row in enumerate((HEADS, *ROWS)):
        for column, value in enumerate(row):
            sheet.write(at, column, value)
    book.save(str(path))


def put_database(path: Path) -> None:
    connection = sqlite3.connect(path)
    connection.execute('create table berths ("No.", "Vessel", "On", "Fee", "Paid")')
    connection.executemany("insert into berths values (?, ?, ?, ?, ?)", ROWS)
    connection.commit()
    connection.close()


MAKERS: dict[str, Callable[[Path], object]] = {
    "csv": FRAME.write_csv,
    "csv.gz": lambda path: path.write_bytes(gzip.compress(FRAME.write_csv().encode())),
    "jsonl": FRAME.write_ndjson,
    "parquet": FRAME.write_parquet,
    "sqlite": put_database,
    "xls": put_old_book,
    "xlsx": put_book,
    "ods": lambda path: put_ods(path, ("Rows", "".join(ods_row(row) for row in (HEADS, *ROWS)))),
}


@cache
def sound(kind: str) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"t.{kind}"
        MAKERS[kind](path)
        assert read_table(path).rows == len(ROWS)
        return path.read_bytes()


# What is done at a place (a share of the length): so many bytes taken out, these put in.
HARM = st.lists(
    st.tuples(
        st.floats(0, 1),
        st.sampled_from([0, 1, 4, 60, 10**9]),
        st.sampled_from([b"", b"\0", b"\xff\xff", b"<", b'"', b"&", b"\n", b"9" * 30, b"<row", b"</c>", b'r="ZZZ9"'])
        | st.binary(max_size=6),
    ),
    min_size=1,
    max_size=4,
)


def harmed(whole: bytes, harm: list[tuple[float, int, bytes]]) -> bytes:
    for share, out, put_in in harm:
        at = int(share * len(whole))
        whole = whole[:at] + put_in + whole[at + out :]
    return whole


def harmed_within(archive: bytes, entry: float, harm: list[tuple[float, int, bytes]]) -> bytes:
    """A ZIP archive that is sound, but for what one of its entries holds."""
    made = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(archive)) as old, zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as new:
        names = old.namelist()
        chosen = names[min(int(entry * len(names)), len(names) - 1)]
        for name in names:
            content = old.read(name)
            new.writestr(name, harmed(content, harm) if name == chosen else content)
    return made.getvalue()


@pytest.mark.parametrize("kind", MAKERS)
@given(harm=HARM, entry=st.none() | st.floats(0, 1))
@settings(max_examples=25)
def test_a_harmed_file_is_read_or_refused(
    kind: str, harm: list[tuple[float, int, bytes]], entry: float | None, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("harmed")
    path = folder / f"t.{kind}"
    whole = sound(kind)
    within = entry is not None and kind in ("xlsx", "ods")
    path.write_bytes(harmed_within(whole, entry or 0.0, harm) if within else harmed(whole, harm))
    for read in (lambda: preview(path, ReadAs())[0], lambda: read_table(path)):
        try:
            table = read()
        except Refusal as refusal:
            assert "t." in refusal.wrong and "\n" not in str(refusal), refusal
        else:
            describe(table)
            assert all(column.rows == table.rows for column in table.columns)
    assert [each.name for each in folder.iterdir() if not each.name.startswith(path.name)] == []


@given(harm=HARM, entry=st.none() | st.floats(0, 1))
@settings(max_examples=20)
def test_a_harmed_folio_is_opened_or_refused(
    harm: list[tuple[float, int, bytes]], entry: float | None, demo: Opened, tmp_path_factory: pytest.TempPathFactory
) -> None:
    path = tmp_path_factory.mktemp("harmed") / "t.summula"
    save_folio(path, demo.folio, demo.tables)
    whole = path.read_bytes()
    path.write_bytes(harmed(whole, harm) if entry is None else harmed_within(whole, entry, harm))
    try:
        opened = open_folio(path)
        for table in opened.prepared().values():
            describe(table)
    except Refusal as refusal:
        assert "\n" not in str(refusal)
