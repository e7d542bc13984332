"""Whatever has happened to a file, it is read or refused in one sentence: no fault comes through."""

from __future__ import annotations

import gzip
import io
import resource
import sqlite3
import tempfile
import zipfile
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

import openpyxl
import polars as pl
import pytest
import xlwt
from hypothesis import example, given, settings
from hypothesis import strategies as st

from summula.core.folio.file import open_folio, save_folio
from summula.core.folio.opened import Opened
from summula.core.reading.previewing import preview
from summula.core.reading.readas import ReadAs
from summula.core.reading.readers import read_table
from summula.core.refusal import Refusal
from summula.core.statistics.distribution import describe
from summula.core.watch import Stopped
from tests.test_sheets import ods_row, put_ods

if TYPE_CHECKING:
    from collections.abc import Callable

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
@example(harm=[(0.0, 0, b'"')], entry=None)
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


def put_sheets(path: Path, *sheets: str, texts: str = "") -> None:
    """An XLSX file of these sheets, each the inside of its sheetData."""
    main, office = "http://schemas.openxmlformats.org/spreadsheetml/2006/main", "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    package = "http://schemas.openxmlformats.org/package/2006/relationships"
    names = "".join(f'<sheet name="S{at}" sheetId="{at}" r:id="r{at}"/>' for at in range(1, len(sheets) + 1))
    drilled = "".join(f'<Relationship Id="r{at}" Type="{office}/worksheet" Target="worksheets/s{at}.xml"/>' for at in range(1, len(sheets) + 1))
    if texts:
        drilled += f'<Relationship Id="t" Type="{office}/sharedStrings" Target="sharedStrings.xml"/>'
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("[Content_Types].xml", '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="xml" ContentType="application/xml"/></Types>')
        archive.writestr("_rels/.rels", f'<Relationships xmlns="{package}"><Relationship Id="b" Type="{office}/officeDocument" Target="xl/workbook.xml"/></Relationships>')
        archive.writestr("xl/workbook.xml", f'<workbook xmlns="{main}" xmlns:r="{office}"><sheets>{names}</sheets></workbook>')
        archive.writestr("xl/_rels/workbook.xml.rels", f'<Relationships xmlns="{package}">{drilled}</Relationships>')
        if texts:
            archive.writestr("xl/sharedStrings.xml", f'<sst xmlns="{main}">{texts}</sst>')
        for at, sheet in enumerate(sheets, start=1):
            archive.writestr(f"xl/worksheets/s{at}.xml", f'<worksheet xmlns="{main}"><sheetData>{sheet}</sheetData></worksheet>')


ROW = '<row r="1"><c r="A1"><v>1</v></c></row>'
SPACES = '<table:table-row><table:table-cell office:value-type="string"><text:p>a<text:s text:c="{}"/></text:p></table:table-cell></table:table-row>'
REPEATS = '<table:table-row table:number-rows-repeated="900000"><table:table-cell table:number-columns-repeated="20" office:value-type="string"><text:p>' + "q" * 3000 + "</text:p></table:table-cell></table:table-row>"


def put_many_rows(path: Path) -> None:
    pl.select(a=pl.repeat(1, 300_000_000, dtype=pl.Int8)).write_parquet(path)


def put_lying_rows(path: Path) -> None:
    """A footer that says a hundred times as many rows as there are."""
    pl.DataFrame({"a": range(1000)}).write_parquet(path)
    whole = path.read_bytes()
    count, lie = b"\xd0\x0f", b"\xa0\x8d\x06"  # 1,000 and 50,000 as Thrift writes them
    at = len(whole) - 8 - int.from_bytes(whole[-8:-4], "little")
    footer = whole[at:-8].replace(count, lie)
    path.write_bytes(whole[:at] + footer + len(footer).to_bytes(4, "little") + b"PAR1")


def put_views(path: Path) -> None:
    connection = sqlite3.connect(path)
    connection.execute("create view a as select zeroblob(900000000) as z")
    connection.commit()
    connection.close()


BOMBS: dict[str, tuple[str, Callable[[Path], object]]] = {
    "a cell beyond all sheets": ("xlsx", lambda p: put_sheets(p, ROW + '<row r="4294967290"><c r="ZZZZZ4294967290"><v>1</v></c></row>')),
    "a cell far away": ("xlsx", lambda p: put_sheets(p, ROW + '<row r="1048576"><c r="xfd1048576"><v>1</v></c></row>')),
    "thousands of empty sheets": ("xlsx", lambda p: put_sheets(p, *[""] * 3000)),
    "a text that a million cells share": ("xlsx", lambda p: put_sheets(
        p, "".join(f'<row r="{n}"><c r="A{n}" t="s"><v>0</v></c></row>' for n in range(1, 60_001)), texts=f"<si><t>{'x' * 200_000}</t></si>")),
    "a billion spaces": ("ods", lambda p: put_ods(p, ("S", SPACES.format(1_000_000_000)))),
    "many million spaces": ("ods", lambda p: put_ods(p, ("S", SPACES.format(1_000_000) * 500))),
    "a text repeated": ("ods", lambda p: put_ods(p, ("S", REPEATS))),
    "rows that a few bytes repeat": ("parquet", put_many_rows),
    "rows that are not there": ("parquet", put_lying_rows),
    "objects in objects": ("jsonl", lambda p: p.write_text(('{"a":' * 900 + "1" + "}" * 900 + "\n") * 20)),
    "lists in lists": ("jsonl", lambda p: p.write_text(('{"a":' + "[" * 900 + "]" * 900 + "}\n") * 20)),
    "names without end": ("jsonl", lambda p: p.write_text("\n".join("{" + ",".join(f'"{n}_{m}":1' for m in range(200)) + "}" for n in range(100)))),
    "a value of 900 MB": ("sqlite", put_views),
    "cells that reach over a thousand": ("html", lambda p: p.write_text("<table>" + ("<tr>" + "<td colspan=1000>x</td>" * 100 + "</tr>") * 400 + "</table>")),
    "cells that reach down": ("html", lambda p: p.write_text("<table><tr>" + "<td rowspan=1000 colspan=1000>x</td>" * 100 + "</tr>" + "<tr></tr>" * 999 + "</table>")),
    "lists in lists without end": ("json", lambda p: p.write_text("[" * 5_000_000)),
    "empty objects without end": ("json", lambda p: p.write_text("[" + "{}," * 20_000_000 + "{}]")),
    "records of other names each": ("json", lambda p: p.write_text("[" + ",".join("{" + ",".join(f'"{n}_{m}":1' for m in range(100)) + "}" for n in range(3000)) + "]")),
}  # fmt: skip


@pytest.mark.parametrize("name", BOMBS)
def test_what_would_fill_the_memory_is_refused_before_it_does(name: str, tmp_path: Path) -> None:
    kind, make = BOMBS[name]
    path = tmp_path / f"t.{kind}"
    make(path)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    for read in (lambda: preview(path, ReadAs()), lambda: read_table(path)):
        with suppress(Refusal):
            read()
    with pytest.raises(Refusal, match=r"t\."):
        read_table(path)
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 1024 * 1024  # KiB


def test_long_and_many_texts_are_put_in_order_in_passing(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("a,b\n" + "".join(f"{'7' * 5000}{n},{n:x}ab{n}c1d2e3f4\n" for n in range(300)) + "\n" * 2_000_000)
    assert read_table(path).rows == 300


def test_a_view_that_never_ends_can_be_stopped(tmp_path: Path) -> None:
    path = tmp_path / "t.sqlite"
    connection = sqlite3.connect(path)
    connection.execute("create view a as with recursive r(n) as (select 1 union all select n + 1 from r) select count(*) from r")
    connection.commit()
    connection.close()
    asked = []

    def watch(rows: int) -> None:
        asked.append(rows)
        if len(asked) > 3:
            raise Stopped

    with pytest.raises(Stopped):
        read_table(path, watch=watch)


@example(harm=[(0.0, 0, b'"')], entry=None)
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
