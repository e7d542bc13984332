"""Files of every sort, made by other libraries, and hostile ones: read right, or refused in one clear sentence."""

from __future__ import annotations

import csv
import datetime as dt
import gzip
import io
import json
import os
import random
import resource
import sqlite3
import zipfile
from decimal import Decimal
from typing import TYPE_CHECKING, Any

import openpyxl
import pandas as pd
import polars as pl
import pytest
import xlsxwriter
import xlwt
from hypothesis import example, given
from hypothesis import strategies as st

from summula.core.reading import blocks, columnar, delimited, textfile
from summula.core.reading.previewing import preview
from summula.core.reading.readas import ReadAs, Setting
from summula.core.reading.readers import read_found, read_table
from summula.core.refusal import Refusal
from summula.core.tables.encoding import series_of
from summula.core.tables.table import Table
from summula.core.watch import Stopped

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path


def values(table: Table, name: str) -> list[object]:
    found = series_of(name, table.column(name)).to_list()
    return [float(each) if table.field(name).kind == "number" and each is not None else each for each in found]


def setting(settings: tuple[Setting, ...], name: str) -> Setting:
    return next(each for each in settings if each.name == name)


def put(path: Path, content: str | bytes) -> Path:
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    return path


# -- delimited text -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("content", "read_as", "field", "expected", "told"),
    [
        ("Skerry harbour office;\nBerths;\n\nOn;Fee\n01.02.2024;1.234\n02.02.2024;2.500\n", ReadAs(), "Fee", [1234, 2500], {"head": "row 4", "decimal": "comma"}),
        ("Berths\n\n\"Her\nname\",Fee\nTern,1\n", ReadAs(), "Her name", ["Tern"], {"head": "row 3"}),
        ("1\n\n\n7,Fee\n3,4\n", ReadAs(head=2), "Fee", [4], {"head": "row 4"}),
        ("Berths\n\n7,8\n3,4\n5,6\n", ReadAs(head=4), "3", [5], {"head": "row 4"}),
        ("On;Fee\n01.02.2024;1.234\n", ReadAs(decimal="point"), "Fee", [1.234], {"decimal": "point"}),
        ("1,2.5,Osk\n2,3.5,Hesta\n3,4.5,Osk\n", ReadAs(), "Field 2", [2.5, 3.5, 4.5], {"head": "none"}),
        ("1,2\n3,4\n", ReadAs(head=1), "1", [3], {"head": "row 1"}),
        ("a,b\n1,2\n", ReadAs(head=0), "Field 1", ["a", "1"], {"head": "none"}),
        (",Takings,,Staff,\nRoute,2023,2024,2023,2024\nOsk,1,2,3,4\n", ReadAs(), "Takings 2024", [2], {"head": "rows 1 and 2"}),
        ("a,a,,b\n1,2,3,4\n", ReadAs(), "a (2)", [2], {}),
        ("x|y\n1|2\n3|4\n", ReadAs(), "y", [2, 4], {"delimiter": "pipe"}),
        ("x^y\n1^2\n", ReadAs(delimiter="^"), "y", [2], {"delimiter": "caret"}),
        ("n;m\n(1,200);a\n£3.50;a\n50%;b\n7-;b\n", ReadAs(), "n", [-1200, 3.5, 0.5, -7], {}),
        ("On\n03/04/2024\n13/04/2024\n", ReadAs(), "On", [dt.date(2024, 4, 3), dt.date(2024, 4, 13)], {"dates": "day first"}),
        ("On\n03/04/2024\n04/13/2024\n", ReadAs(), "On", [dt.date(2024, 3, 4), dt.date(2024, 4, 13)], {"dates": "month first"}),
        ("On\n03/04/24\n05/04/24\n", ReadAs(dates="month first"), "On", [dt.date(2024, 3, 4), dt.date(2024, 5, 4)], {}),
        ("At\n5 May 2024 3:07 PM\n6 May 2024 12:00 am\n", ReadAs(), "At", [dt.datetime(2024, 5, 5, 15, 7), dt.datetime(2024, 5, 6)], {}),
        ("At\n2024/05/05\n2024/05/06\n", ReadAs(), "At", [dt.date(2024, 5, 5), dt.date(2024, 5, 6)], {}),
        ("Version\n32.45.2020\n33.99.2021\n", ReadAs(), "Version", ["32.45.2020", "33.99.2021"], {}),
        ('a,b\n"x, ""y""","two\nlines"\n5" pipe,z\n', ReadAs(), "a", ['x, "y"', '5" pipe'], {}),
        ("a,b\r\n1,2\r\n\r\n3,4\r\n", ReadAs(), "b", [2, 4], {}),
        ("Route,Paid\nA,1\nB,2\nC,3\nTotal,6\n", ReadAs(), "Paid", [1, 2, 3, 6], {"leave_totals": "kept"}),
        ("On,Paid\n2024-01-01,1\n2024-01-02,2\n2024-01-03,3\nSumme,6\n", ReadAs(leave_totals=True), "On", [dt.date(2024, 1, n) for n in (1, 2, 3)], {"leave_totals": "left out"}),
        ("é;b\n1;2\n".encode("cp1252"), ReadAs(), "é", [1], {"encoding": "WINDOWS-1252"}),
        ("é;b\n1;2\n".encode("utf-16"), ReadAs(), "é", [1], {"encoding": "UTF-16"}),
        ("é;b\n1;2\n".encode("utf-16-le"), ReadAs(encoding="utf-16"), "é", [1], {}),
        (b"\xef\xbb\xbfa\n1\n", ReadAs(), "a", [1], {}),
        (b"n,m\n" + b"12,a\n" * 90_000 + "13,é\n".encode("cp1252"), ReadAs(), "n", [12] * 90_000 + [13], {"encoding": "WINDOWS-1252"}),
        ("n\n" + "12\n" * 90_000 + "0012\n", ReadAs(), "n", ["12"] * 90_000 + ["0012"], {}),
        ("n\n" + "12\n" * 90_000 + "x\n" * 9_000, ReadAs(), "n", ["12"] * 90_000 + ["x"] * 9_000, {}),
        ("only\n", ReadAs(), "only", [], {}),
        ('a,b\r1,"Once upon\ra time"\r2,x\r', ReadAs(), "b", ["Once upon\na time", "x"], {}),
        ("a\r1\r2\r".encode("utf-16"), ReadAs(), "a", [1, 2], {}),
        ("fips\n20001\n20003\n20001\n", ReadAs(), "fips", ["20001", "20003", "20001"], {}),
    ],
)  # fmt: skip
def test_text_is_read_as_it_was_meant(
    content: str | bytes, read_as: ReadAs, field: str, expected: list[object], told: dict[str, str], tmp_path: Path
) -> None:
    path = put(tmp_path / "t.csv", content)
    table, settings = read_found(path, read_as)
    assert values(table, field) == expected
    for name, value in told.items():
        assert setting(settings, name).value == value
    # The preview says the same of the first rows.
    first, found, _ = preview(path, read_as)
    assert [f.name for f in first.fields] == [f.name for f in table.fields] or "12" in str(content)[:9]
    assert {each.name for each in found} <= {each.name for each in settings} | {"leave_totals"}


def test_what_is_in_doubt_says_so(tmp_path: Path) -> None:
    _, settings = read_found(put(tmp_path / "t.csv", "On;Fee\n01.02.2024;1.234\n"))
    assert setting(settings, "dates").doubt and setting(settings, "decimal").doubt
    _, settings = read_found(put(tmp_path / "t.csv", "On;Fee\n21.02.2024;1.234,5\n"))
    assert not setting(settings, "dates").doubt and "1 value has a day above 12" in setting(settings, "dates").why


def test_nothing_of_a_ragged_row_or_an_unfit_value_is_lost(tmp_path: Path) -> None:
    body = "".join(f"{n},Osk,{n}.5\n" for n in range(300))
    ragged = (
        body.replace("17,Osk,17.5\n", "17,Osk\n")
        .replace("99,Osk,99.5\n", "99,Osk,99.5,too,many\n")
        .replace(",200.5", ",lost")
    )
    table = read_table(put(tmp_path / "t.csv", "No,Route,Paid\n" + ragged))
    assert [(each.row, each.held, each.extra) for each in table.ragged] == [(17, 2, ()), (99, 5, ("too", "many"))]
    assert [(each.row, each.text) for each in table.column("Paid").refused] == [(200, "lost")]
    assert table.rows == 300 and values(table, "Paid")[17] is None and values(table, "Paid")[99] == 99.5


_cells = st.text(st.sampled_from('ab,;"\n\r 0é'), max_size=6)


@given(st.lists(st.lists(_cells, min_size=3, max_size=3), min_size=1, max_size=12), st.sampled_from(",;\t|"))
def test_whatever_a_csv_writer_writes_is_read_back(rows: list[list[str]], delimiter: str) -> None:
    """In small blocks, so that quoted line breaks fall on their edges."""
    stream = io.StringIO()
    writer = csv.writer(stream, delimiter=delimiter, quoting=csv.QUOTE_ALL)
    writer.writerow(["one", "two", "three"])
    writer.writerows(rows)
    written = stream.getvalue().encode()
    pieces = blocks.cut((written[at : at + 7] for at in range(0, len(written), 7)), delimiter, "t")
    shape = blocks.Shape(delimiter, 3, 0)
    found = [row for block in pieces for row in blocks.parse_whole(block.text, shape)[0].rows()]
    kept = [tuple(cell or None for cell in row) for row in rows if any(cell.strip(" \t\v\f\r\n") for cell in row)]  # others are gaps
    assert [tuple(cell or None for cell in row) for row in found[1:]] == kept


@pytest.mark.parametrize("quoting", [csv.QUOTE_MINIMAL, csv.QUOTE_ALL])
def test_a_large_file_in_blocks_agrees_with_pandas(
    quoting: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(delimited, "_BLOCK", 256 * 1024)
    draw = random.Random(5)
    frame = pd.DataFrame(
        {
            "No": [f"{n:07d}" for n in range(40_000)],
            "Route": [draw.choice(["Osk, north", "Hesta", "Vaila\nNess", ""]) for _ in range(40_000)],
            "Paid": [round(draw.uniform(-50, 900), 2) for _ in range(40_000)],
            "On": [f"2024-{draw.randrange(1, 13):02d}-{draw.randrange(1, 29):02d}" for _ in range(40_000)],
            "Note": [draw.choice(["late", "12", "x" * draw.randrange(40), str(draw.random())]) for _ in range(40_000)],
        }
    )
    path = tmp_path / "large.csv"
    frame.to_csv(path, index=False, quoting=quoting)
    seen: list[int] = []
    table = read_table(path, watch=seen.append)
    assert seen == sorted(seen) and seen[-1] == 40_000 == table.rows and len(seen) > 2
    again = pd.read_csv(path, dtype=str, keep_default_na=False)
    assert [f.kind for f in table.fields] == ["code", "category", "number", "date", "category"]
    for name in ("No", "Route", "Note"):
        assert [value or "" for value in values(table, name)] == [text.strip() for text in again[name]]
    assert table.number("Paid").decimals == 2 and table.number("Paid").values.sum() == round(
        again["Paid"].astype(float).sum() * 100
    )
    assert [str(day) for day in values(table, "On")] == again["On"].tolist()

    def stop(rows: int) -> None:
        raise Stopped

    with pytest.raises(Stopped):
        read_table(path, watch=stop)


# -- workbooks, columns, databases ------------------------------------------------------------------------------


def test_workbooks_as_people_make_them(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    sheet["B2"] = "Skerry Ferries, takings"
    for at, row in enumerate(
        [[None, "Takings", None, None, "Staff"], ["Route", "2023", "2024", None, "2024"], ["Osk", 1.5, 2, None, 3],
         [None] * 5, ["Hesta", "n/a", 4, None, 5], ["Vaila", 1, 2, None, 3], ["Grand total", 2.5, 8, None, 11]], start=4,
    ):  # fmt: skip
        for across, value in enumerate(row, start=2):
            sheet.cell(at, across, value)
    sheet.merge_cells("C4:D4")
    sheet["D8"].value, sheet["D8"].data_type = "#REF!", "e"
    path = tmp_path / "made.xlsx"
    book.save(path)
    table, settings = read_found(path)
    assert [f.name for f in table.fields] == ["Route", "Takings 2023", "Takings 2024", "Staff 2024"]
    assert values(table, "Route") == ["Osk", "Hesta", "Vaila", "Grand total"]
    assert [(r.row, r.text) for r in table.column("Takings 2024").refused] == [(1, "#REF!")]
    assert "Skerry Ferries, takings" in setting(settings, "head").why and setting(settings, "leave_totals").doubt
    assert read_table(path, ReadAs(leave_totals=True)).rows == 3
    area = read_table(path, ReadAs(area="B5:D7"))
    assert values(area, "2024") == [2.0]
    with pytest.raises(Refusal, match="holds no cells"):
        read_table(path, ReadAs(area="Z90:Z99"))


def test_an_old_workbook_with_error_cells_and_several_sheets(tmp_path: Path) -> None:
    book = xlwt.Workbook()
    for name, rows in {
        "Notes": [["made by hand"]],
        "Takings": [["Route", "Paid", "When"], ["Osk", 1.5, 2], ["Hesta", "?", "late"], ["Osk", 3, 4.5]],
    }.items():
        sheet = book.add_sheet(name)
        for row, cells in enumerate(rows):
            for at, value in enumerate(cells):
                if value == "?":
                    sheet.row(row).set_cell_error(at, "#DIV/0!")
                else:
                    sheet.write(row, at, value)
    path = tmp_path / "old.xls"
    book.save(str(path))
    table, settings = read_found(path, ReadAs(sheet="Takings"))
    assert values(table, "Paid") == [1.5, None, 3.0] and values(table, "When") == ["2", "late", "4.5"]
    assert setting(settings, "sheet").value == "Takings" and len(setting(settings, "sheet").choices) == 2
    with pytest.raises(Refusal, match="no sheet 'Fares'"):
        read_table(path, ReadAs(sheet="Fares"))


@pytest.mark.parametrize("ending", ["xlsx", "xls", "ods", "parquet", "jsonl", "db", "csv.gz", "tsv"])
def test_the_same_rows_from_every_kind_of_file(ending: str, tmp_path: Path) -> None:
    frame = pd.DataFrame(
        {
            "Route": ["Osk", "Hesta", None, "Åland"], "Paid": [1.25, None, -3.5, 4.0], "Seats": [3, 5, 7, 9],
            "On": pd.to_datetime(["2024-02-29", "2024-03-01", None, "2025-01-01"]), "Code": ["007", "008", "009", "010"],
        }
    )  # fmt: skip
    path = tmp_path / f"t.{ending}"
    days = frame.assign(On=frame["On"].dt.strftime("%Y-%m-%d"))
    if ending == "xlsx":
        with xlsxwriter.Workbook(path, {"default_date_format": "yyyy-mm-dd"}) as book:
            sheet = book.add_worksheet("Rows")
            sheet.write_row(0, 0, list(frame.columns))
            for row, record in enumerate(frame.itertuples(index=False), start=1):
                for at, value in enumerate(record):
                    if isinstance(value, pd.Timestamp):
                        sheet.write_datetime(row, at, value.to_pydatetime())
                    elif isinstance(value, str):
                        sheet.write_string(row, at, value)
                    elif not pd.isna(value):
                        sheet.write_number(row, at, value)
    elif ending == "xls":
        old = xlwt.Workbook()
        cells = old.add_sheet("Rows")
        style = xlwt.easyxf(num_format_str="yyyy-mm-dd")
        for at, name in enumerate(frame.columns):
            cells.write(0, at, name)
        for row, record in enumerate(frame.itertuples(index=False), start=1):
            for at, value in enumerate(record):
                if isinstance(value, pd.Timestamp):
                    cells.write(row, at, value.to_pydatetime(), style)
                elif not pd.isna(value):
                    cells.write(row, at, value)
        old.save(str(path))
    elif ending == "ods":
        _write_ods(path, [list(days.columns), *days.astype(object).where(days.notna(), None).to_numpy().tolist()])
    elif ending == "parquet":
        pl.from_pandas(frame).write_parquet(path)
    elif ending == "jsonl":
        days.to_json(path, orient="records", lines=True)
    elif ending == "db":
        with sqlite3.connect(path) as connection:
            days.to_sql("rows", connection, index=False)
    elif ending == "csv.gz":
        path.write_bytes(gzip.compress(days.to_csv(index=False).encode()))
    else:
        days.to_csv(path, index=False, sep="\t")
    table = read_table(path)
    assert [f.kind for f in table.fields] == ["category", "number", "number", "date", "code"]
    assert values(table, "Route") == ["Osk", "Hesta", None, "Åland"] and values(table, "Code")[0] == "007"
    assert values(table, "Paid") == [1.25, None, -3.5, 4.0] and values(table, "Seats") == [3, 5, 7, 9]
    assert values(table, "On") == [dt.date(2024, 2, 29), dt.date(2024, 3, 1), None, dt.date(2025, 1, 1)]


def _write_ods(path: Path, rows: list[list[object]]) -> None:
    def cell(value: object) -> str:
        if value is None:
            return "<table:table-cell/>"
        if isinstance(value, float | int):
            return f'<table:table-cell office:value-type="float" office:value="{value}"><text:p>{value}</text:p></table:table-cell>'
        return f'<table:table-cell office:value-type="string"><text:p>{value}</text:p></table:table-cell>'

    body = "".join(f"<table:table-row>{''.join(map(cell, row))}</table:table-row>" for row in rows)
    spaces = " ".join(f'xmlns:{n}="urn:oasis:names:tc:opendocument:xmlns:{n}:1.0"' for n in ("office", "table", "text"))
    content = f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {spaces} office:version="1.2"><office:body><office:spreadsheet><table:table table:name="Rows">{body}</table:table></office:spreadsheet></office:body></office:document-content>'
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr(
            "META-INF/manifest.xml",
            '<?xml version="1.0"?><manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"/>',
        )
        archive.writestr("content.xml", content)


def test_json_lines_in_blocks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(columnar, "_BLOCK", 400)
    monkeypatch.setattr(textfile, "LOOK", 400)
    lines: list[dict[str, object]] = [{"Route": f"R{n % 3}", "Paid": n if n < 100 else n / 2} for n in range(200)]
    lines[150]["Late"] = 7
    path = tmp_path / "t.jsonl"
    path.write_text("\n".join(map(json.dumps, lines)) + "\n\n")
    seen: list[int] = []
    table = read_table(path, watch=seen.append)
    assert seen == sorted(seen) and len(seen) > 3 and seen[-1] == table.rows == 200
    assert values(table, "Paid") == [line["Paid"] for line in lines] and values(table, "Late")[149:152] == [
        None,
        7,
        None,
    ]
    lines[180]["Paid"] = "free"
    path.write_text("\n".join(map(json.dumps, lines)))
    table = read_table(path)
    assert [r.row for r in table.column("Paid").refused] == [180] and values(table, "Paid")[179] == 89.5


STRAY = st.sampled_from(
    [
        "Tern", "7", "", 'Plank 6"', '12" pipe', '"Osk"', '"Osk, by night"', '"two\nlines"', '"her ""old"" berth"', '"Osk"by night',
        '""', 'a""b', '"Osk"" c"', '" Osk "', '"' + "q" * 60 + '"',
    ]
)  # fmt: skip


@example([("a", '"Osk"', 'Plank 6"'), ("a", '"two\nlines"', 'Plank 6"'), ("a", '"Osk, by night"', '"Osk, by night"')], 90)
@given(st.lists(st.tuples(st.sampled_from("abc"), STRAY, STRAY), min_size=1, max_size=60), st.sampled_from([20, 90, 5000]))
def test_quotation_marks_that_stand_for_themselves(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, str, str]], block: int
) -> None:
    """As inches, or behind a value that was closed: read as Python's reader does, wherever the blocks are cut."""
    path = tmp_path_factory.mktemp("q") / "t.csv"
    path.write_text("Berth,Part,Note\n" + "".join(",".join(row) + "\n" for row in rows))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(textfile, "_SHORT", block)
        patch.setattr(textfile, "LOOK", 2 * block)
        patch.setattr(delimited, "_BLOCK", block)
        table = read_table(path, ReadAs(delimiter=",", head=1), dict.fromkeys(("Berth", "Part", "Note"), "category"))
    with path.open(newline="") as file:
        wanted = [row for row in csv.reader(file) if any(row)][1:]
    found = zip(*(series_of(name, table.column(name)).to_list() for name in ("Berth", "Part", "Note")), strict=True)
    assert [[text or "" for text in row] for row in found] == [[text.strip() for text in row] for row in wanted]


def test_a_stop_comes_between_the_rows_and_between_the_fields(tmp_path: Path) -> None:
    frame = pl.DataFrame({f"Berth {at}": [f"{row % 7}" for row in range(5_000)] for at in range(9)})
    frame.write_parquet(tmp_path / "b.parquet")
    frame.write_csv(tmp_path / "b.csv")
    for name, calls in (("b.parquet", 1), ("b.parquet", 4), ("b.csv", 2)):
        told: list[int] = []

        def watch(rows: int, told: list[int] = told, most: int = calls) -> None:
            told.append(rows)
            if len(told) == most:
                raise Stopped

        with pytest.raises(Stopped):
            read_table(tmp_path / name, watch=watch)
        assert len(told) == calls and 0 < told[-1] <= 5_000


def test_a_database_has_tables_and_views(tmp_path: Path) -> None:
    path = tmp_path / "s.sqlite"
    with sqlite3.connect(path) as connection:
        connection.execute('create table "odd "" name" (a, b)')
        connection.executemany('insert into "odd "" name" values (?, ?)', [(1, "x"), ("two", None), (3.5, b"\x00")])
        connection.execute('create view seen as select b, a from "odd "" name"')
    table, settings = read_found(path)
    assert values(table, "a") == ["1", "two", "3.5"] and len(setting(settings, "sheet").choices) == 2
    assert [f.name for f in read_table(path, ReadAs(sheet="seen")).fields] == ["b", "a"]
    with pytest.raises(Refusal, match="no table 'gone'"):
        read_table(path, ReadAs(sheet="gone"))


# -- hostile files ---------------------------------------------------------------------------------------------------


def _entities(path: Path) -> None:
    """A workbook whose sheet's XML defines entities that would grow a thousand million fold."""
    laughs = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10}">' for n in range(1, 10))
    bomb = f'<?xml version="1.0"?><!DOCTYPE z [<!ENTITY l0 "lol">{laughs}]><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData><row r="1"><c r="A1" t="inlineStr"><is><t>&l9;</t></is></c></row><row r="2"><c r="A2"><v>1</v></c></row></sheetData></worksheet>'
    book = openpyxl.Workbook()
    book.save(path)
    with zipfile.ZipFile(path) as archive:
        entries = {name: archive.read(name) for name in archive.namelist()}
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in entries.items():
            archive.writestr(name, bomb if name.endswith("sheet1.xml") else content)


def _deep(path: Path) -> None:
    path.write_bytes(b'{"a":' * 100_000 + b"1" + b"}" * 100_000 + b"\n")


HOSTILE: list[tuple[str, bytes | Callable[[Path], None], str]] = [
    ("rubbish.csv", bytes(range(256)) * 400, "not a text file"),
    ("rubbish.xlsx", random.Random(1).randbytes(5000), "damaged or not a workbook"),
    ("rubbish.xls", random.Random(2).randbytes(5000), "could not be read as a workbook"),
    ("rubbish.parquet", random.Random(3).randbytes(5000), "damaged or not a Parquet file"),
    ("rubbish.db", random.Random(4).randbytes(5000), "could not be read as a database"),
    ("rubbish.jsonl", b'{"a": 1}\nnot json\n', "does not hold a JSON object in each line"),
    ("deep.jsonl", _deep, "does not hold a JSON object|nested|deep"),
    ("torn.csv.gz", gzip.compress(b"a,b\n1,2\n" * 9000)[:90], "does not unpack"),
    ("bomb.csv.gz", gzip.compress(b"1,2\n" * 20_000_000, 9), "unpacks to more than"),
    ("wide.csv", ",".join(map(str, range(20_000))).encode() + b"\n" + b",".join([b"1"] * 20_000), "20,000 fields"),
    ("open.csv", b'a,b\n1,"never closed\n' + b"1,2\n" * 50, "in line 2 .*never closed"),
    ("entities.xlsx", _entities, "could not be read as a workbook"),
    ("empty.csv", b" \n\n", "is empty"), ("nothing.jsonl", b"", "is empty"), ("nothing.xlsx", b"", "damaged or not a workbook"),
    ("folder.csv", lambda path: path.mkdir(), "is a folder"),
    ("pipe.csv", os.mkfifo, "not a file that can be read"),
    ("what.doc", b"x", "not a kind of file"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "content", "told"), HOSTILE, ids=[each[0] for each in HOSTILE])
def test_a_hostile_file_is_refused_in_one_sentence(
    name: str, content: bytes | Callable[[Path], None], told: str, tmp_path: Path
) -> None:
    path = tmp_path / name
    if isinstance(content, bytes):
        path.write_bytes(content)
    else:
        content(path)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    with pytest.raises(Refusal, match=told) as refused:
        read_table(path)
    assert "\n" not in str(refused.value) and len(str(refused.value)) < 320
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 600 * 1024  # KB


def test_a_long_cell_at_the_very_start_and_a_row_that_never_ends(tmp_path: Path) -> None:
    csv.field_size_limit(131_072)  # as when nothing has been read yet
    table = read_table(put(tmp_path / "t.csv", "Note,Berth\n" + "n" * 200_000 + ",1\n" + "b,2\n" * 20))
    assert table.rows == 21 and len(str(values(table, "Note")[0])) == 200_000
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(blocks, "_LONGEST_ROW", 300_000)
        patch.setattr(delimited, "_BLOCK", 40_000)
        with pytest.raises(Refusal, match=r"a row of 't\.csv' is longer than"):
            read_table(put(tmp_path / "t.csv", 'Note,Berth\nPlank 6"x,"' + 'her ""old"" berth ' * 40_000))
        long = '"' + 'her ""old"" berth ' * 14_000 + '"'
        table = read_table(put(tmp_path / "t.csv", "Note,Berth\na,1\n" + f'Plank 6",{long}\n' + "b,2\n" * 9_000))
    assert table.rows == 9_002 and [len(each.text) for each in table.column("Berth").refused] == [16 * 14_000 - 1]


def test_a_cell_of_ten_megabytes_is_kept(tmp_path: Path) -> None:
    table = read_table(put(tmp_path / "t.csv", "a,b\n" + "x" * 10_000_000 + ",1\ny,2\n"))
    assert len(str(values(table, "a")[0])) == 10_000_000 and values(table, "b") == [1, 2]


@pytest.mark.parametrize("edit_name", ["grow", "vanish", "shrink"])
def test_a_file_that_changes_while_it_is_read_is_refused(edit_name: str, tmp_path: Path) -> None:
    path = put(tmp_path / "t.csv", "a,b\n" + "1,2\n" * 3_000_000)

    def change(rows: int) -> None:
        if rows < 100_000:
            if edit_name == "grow":
                with path.open("ab") as stream:
                    stream.write(b"3,4\n")
            elif edit_name == "vanish":
                path.unlink(missing_ok=True)
            else:
                os.truncate(path, 1000)

    with pytest.raises(Refusal, match="changed while it was being read"):
        read_table(path, watch=change)


@pytest.mark.parametrize(
    ("text", "names", "rows", "reading"),
    [
        ("Name;Where;Paid\n" + "".join(f"{n};{n} High St, York, UK;{n},50\n" for n in range(9)), ["Name", "Where", "Paid"], 9, ""),
        ("Name\tWhere\n" + "".join(f"{n}\t{n}, High St, York\n" for n in range(9)), ["Name", "Where"], 9, ""),
        ("Name|Where\n" + "".join(f"{n}|{n}; High; St; York\n" for n in range(9)), ["Name", "Where"], 9, ""),
        (",count\na,5\nb,6\n", ["Field 1", "count"], 2, ""), ("Takings\n\nA,B\nx,1\ny,2\n", ["A", "B"], 2, ""),
        ("m,v\n1/1/2020,5\n2/1/2020,6\n3/1/2020,7\n", ["m", "v"], 3, "month first"), ("m,v\n1/1/2020,5\n1/2/2020,6\n1/3/2020,7\n", ["m", "v"], 3, "day first"),
    ],
)  # fmt: skip
def test_what_parts_all_lines_alike_and_where_heads_begin(
    text: str, names: list[str], rows: int, reading: str, tmp_path: Path
) -> None:
    path = tmp_path / "t.csv"
    path.write_text(text)
    table = read_table(path)
    assert ([field.name for field in table.fields], table.rows) == (names, rows)
    assert not reading or (table.sensed[0].reading, table.sensed[0].doubt) == (reading, False)


def test_every_type_of_parquet_has_an_answer(tmp_path: Path) -> None:
    import pyarrow as pa
    import pyarrow.parquet as pq

    hours, whole = dt.timedelta(hours=27, minutes=5), (pa.int8(), pa.int64(), pa.uint8(), pa.uint64())
    cases: dict[str, tuple[Any, str]] = {
        "null": (pa.array([None, None]), "category"), "bool": (pa.array([True, None]), "flag"), "half": (pa.array([1.5, None], pa.float16()), "number"),
        **{str(kind): (pa.array([1, None], kind), "number") for kind in whole}, "dictionary": (pa.array(["a", None]).dictionary_encode(), "category"),
        **{f"decimal {p}": (pa.array([Decimal("1.25"), None], pa.decimal128(p, 2)), "number") for p in (5, 38)},
        "day": (pa.array([dt.date(2024, 1, 1), None]), "date"), "text": (pa.array(["a", None], pa.large_string()), "category"),
        **{f"stamp {u} {z}": (pa.array([dt.datetime(2024, 1, 1, 5), None], pa.timestamp(u, tz=z)), "date") for u in ("s", "ns") for z in (None, "UTC", "Europe/Berlin")},
        "time": (pa.array([dt.time(5, 6), None]), "category"), **{f"length {u}": (pa.array([hours, None], pa.duration(u)), "duration") for u in ("s", "us", "ns")},
        "bytes": (pa.array([b"\xff\xfe", None]), "fffe"), "fixed": (pa.array([b"ab", None], pa.binary(2)), "ab"), "list": (pa.array([[1, 2], None]), "[1,2]"),
        "struct": (pa.array([{"a": 1, "d": hours}, None]), '{"a":1,"d":"P1DT11100S"}'), "map": (pa.array([[("k", 1)], None], pa.map_(pa.string(), pa.int8())), '{"k":1}'),
    }  # fmt: skip
    path = tmp_path / "t.parquet"
    for name, (values, expected) in cases.items():
        pq.write_table(pa.table({"x": values, "n": [1, 2]}), path)
        table = read_table(path)
        found = (table.fields[0].kind, *getattr(table.columns[0], "members", ()))
        assert expected in found, (name, found)
    for strange in (pa.array([Decimal("1.25"), None], pa.decimal256(50, 2)), pa.array([0, None], pa.timestamp("s", tz="+05:30"))):
        pq.write_table(pa.table({"x": strange}), path)
        with pytest.raises(Refusal, match="Parquet"):
            read_table(path)
