"""Sheets cut into pieces: every cell comes through, wherever the cuts fall, and what the reader leaves out is told."""

from __future__ import annotations

import datetime as dt
import re
import struct
import zipfile
from typing import TYPE_CHECKING

import openpyxl
import pytest
import xlwt
from hypothesis import given, settings
from hypothesis import strategies as st

from summula.core.reading import odssheet, oldsheet, xlsxsheet
from summula.core.reading.previewing import preview
from summula.core.reading.readas import ReadAs
from summula.core.reading.readers import read_table
from summula.core.refusal import Refusal
from summula.core.tables.encoding import series_of
from summula.core.tables.table import Table
from summula.core.watch import Stopped

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

Rows = list[list[object]]


def values(table: Table, name: str) -> list[object]:
    return series_of(name, table.column(name)).to_list()


def refused(table: Table, name: str) -> list[tuple[int, str]]:
    return [(each.row, each.text) for each in table.column(name).refused]


@pytest.fixture(autouse=True)
def _small_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    for module in (xlsxsheet, odssheet):
        monkeypatch.setattr(module, "LOOK", 1500)
        monkeypatch.setattr(module, "PIECE", 900)


def put_xlsx(path: Path, rows: Rows, first: tuple[int, int] = (1, 1)) -> Path:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row, cells in enumerate(rows, start=first[0]):
        for column, value in enumerate(cells, start=first[1]):
            if value is not None:
                sheet.cell(row, column, value)  # type: ignore[arg-type]
    book.save(path)
    return path


def ods_cell(value: object) -> str:
    if value is None:
        return "<table:table-cell/>"
    if isinstance(value, dt.timedelta):
        seconds = int(value.total_seconds())
        said = f"PT{seconds // 3600:02d}H{seconds // 60 % 60:02d}M{seconds % 60:02d}S"
        return f'<table:table-cell office:value-type="time" office:time-value="{said}" calcext:value-type="time"><text:p>shown</text:p></table:table-cell>'
    if isinstance(value, dt.datetime):
        return f'<table:table-cell office:value-type="date" office:date-value="{value:%Y-%m-%dT%H:%M:%S}"><text:p>shown</text:p></table:table-cell>'
    if isinstance(value, str) and value.startswith("#"):
        return f'<table:table-cell table:formula="of:=1/0" office:value-type="string" office:string-value="" calcext:value-type="error"><text:p>{value}</text:p></table:table-cell>'
    if isinstance(value, float | int):
        return f'<table:table-cell office:value-type="float" office:value="{value}"><text:p>shown</text:p></table:table-cell>'
    return f'<table:table-cell office:value-type="string"><text:p>{value}</text:p></table:table-cell>'


def ods_row(cells: list[object], attributes: str = "") -> str:
    return f"<table:table-row{attributes}>{''.join(map(ods_cell, cells))}</table:table-row>"


def put_ods(path: Path, *tables: tuple[str, str]) -> Path:
    names = ("office", "table", "text", "calcext")
    spaces = " ".join(f'xmlns:{name}="urn:x:{name}"' for name in names)
    body = "".join(
        f'<table:table table:name="{name}"><table:table-column/>{rows}</table:table>' for name, rows in tables
    )
    content = f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {spaces}><office:body><office:spreadsheet>{body}</office:spreadsheet></office:body></office:document-content>'
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr(
            "META-INF/manifest.xml", '<?xml version="1.0"?><manifest:manifest xmlns:manifest="urn:x:manifest"/>'
        )
        archive.writestr("content.xml", content)
    return path


def remade(path: Path, entry: str, change: Callable[[str], str]) -> Path:
    """The same archive with one of its entries changed."""
    with zipfile.ZipFile(path) as archive:
        entries = {name: archive.read(name) for name in archive.namelist()}
    entries[entry] = change(entries[entry].decode()).encode()
    with zipfile.ZipFile(path, "w") as archive:
        for name, content in entries.items():
            archive.writestr(name, content)
    return path


CELLS = st.one_of(
    st.none(), st.sampled_from(["Osk", "Hesta & Vaila", "007", "<b>", "Åland"]),
    st.floats(-1e6, 1e6).map(lambda number: round(number, 2)), st.integers(-999, 999), st.booleans(),
    st.datetimes(dt.datetime(2000, 1, 1), dt.datetime(2030, 1, 1)).map(lambda stamp: stamp.replace(microsecond=0)),
)  # fmt: skip


@settings(max_examples=30, deadline=None)
@given(st.data())
def test_every_cell_comes_through_wherever_the_cuts_fall(
    tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    tops = st.tuples(st.integers(1, 9), st.integers(1, 5))
    rows: Rows = data.draw(st.lists(st.lists(CELLS, min_size=4, max_size=4), min_size=3, max_size=120))
    pure = data.draw(st.lists(st.floats(0, 99).map(lambda n: round(n, 2)), min_size=len(rows), max_size=len(rows)))
    made: Rows = [[*row, number] for row, number in zip(rows, pure, strict=True)]
    path = put_xlsx(tmp_path_factory.mktemp("s") / "t.xlsx", [["A", "B", "C", "D", "E"], *made], data.draw(tops))
    table = read_table(path, kinds={**dict.fromkeys("ABCD", "category"), "E": "number"})
    assert [float(str(number)) for number in values(table, "E")] == pure
    for at, name in enumerate("ABCD"):
        if not table.has(name):  # without a single value
            assert all(row[at] is None for row in rows)
            continue
        for value, row in zip(values(table, name), rows, strict=True):
            assert _same(value, row[at]), (value, row[at])


def _same(text: object, cell: object) -> bool:
    """Whether a category's text is what stands in a cell."""
    if cell is None or text is None:
        return cell is text
    if isinstance(cell, bool):
        return (
            str(text).lower() in ("true", "yes", str(int(cell))) if cell else str(text).lower() in ("false", "no", "0")
        )
    if isinstance(cell, int | float):
        return float(str(text)) == cell
    if isinstance(cell, dt.datetime):
        return str(text)[:19].replace("T", " ") in (f"{cell}", f"{cell:%Y-%m-%d}") or f"{cell:%Y-%m-%d}" in str(text)
    return str(text) == cell


def test_progress_stop_and_the_first_rows_alone(tmp_path: Path) -> None:
    rows: Rows = [[f"R{at % 7}", at, None if at % 5 else "#N/A"] for at in range(400)]
    for path in (
        put_xlsx(tmp_path / "t.xlsx", [["Route", "No", "Note"], *rows]),
        put_ods(tmp_path / "t.ods", ("Rows", "".join(map(ods_row, [["Route", "No", "Note"], *rows])))),
    ):
        seen: list[int] = []
        table = read_table(path, watch=seen.append)
        assert seen == sorted(seen) and seen[-1] == 400 == table.rows and len(seen) > 5
        assert values(table, "No") == list(map(str, range(400))) and table.column("No").refused == ()
        assert refused(table, "Note") == [(at, "#N/A") for at in range(0, 400, 5)]
        few, _, whole = preview(path, ReadAs())
        assert not whole and 0 < few.rows < 200 and [f.name for f in few.fields] == ["Route", "No", "Note"]

        def stop(rows: int) -> None:
            raise Stopped

        with pytest.raises(Stopped):
            read_table(path, watch=stop)


def test_kinds_that_change_further_down(tmp_path: Path) -> None:
    rows: Rows = [[at % 9, at / 4, dt.datetime(2024, 1, 1) + dt.timedelta(days=at), True] for at in range(200)]
    rows[150] = ["late", 5, dt.datetime(2024, 5, 30, 7, 5), False]
    path = put_xlsx(tmp_path / "t.xlsx", [["Seats", "Paid", "On", "Open"], *rows])
    table = read_table(path)
    assert [f.kind for f in table.fields] == ["number", "number", "date", "flag"]
    assert values(table, "Seats") == [None if at == 150 else at % 9 for at in range(200)] and refused(
        table, "Seats"
    ) == [(150, "late")]
    assert values(table, "On")[150] == dt.datetime(2024, 5, 30, 7, 5)
    clock: Rows = [[dt.time(7, at % 60), dt.timedelta(hours=26, minutes=at % 60), at % 4] for at in range(120)]
    clock[99] = [dt.time(23, 5), dt.timedelta(minutes=1), True]
    clock[7][0] = "noon"
    table = read_table(put_xlsx(tmp_path / "c.xlsx", [["Leaves", "Took", "Boats"], *clock]))
    assert values(table, "Leaves")[6:9] == ["07:06:00", "noon", "07:08:00"]
    took = [dt.timedelta(hours=26, minutes=59), dt.timedelta(hours=26), dt.timedelta(minutes=1)]
    assert table.field("Took").kind == "duration" and [values(table, "Took")[at] for at in (59, 60, 99)] == took
    assert refused(table, "Boats") == [(99, "true")] and values(table, "Boats")[97:101] == [1, 2, None, 0]
    plain = read_table(put_xlsx(tmp_path / "c.xlsx", [["Leaves"], *[[row[0]] for row in clock[10:]]]))
    assert values(plain, "Leaves")[0] == "07:10"


def test_a_sheet_as_other_programs_write_it(tmp_path: Path) -> None:
    rows: Rows = [["Route", "Paid"], *[[f"R{at}", at] for at in range(120)]]
    wanted = [float(at) for at in range(120)]
    sheet, book = "xl/worksheets/sheet1.xml", "xl/workbook.xml"
    prefixed = remade(
        put_xlsx(tmp_path / "p.xlsx", rows),
        sheet,
        lambda text: re.sub(r"<(/?)(\w)", r"<\1x:\2", text.replace("xmlns=", "xmlns:x=")),
    )
    bare = remade(put_xlsx(tmp_path / "b.xlsx", rows), sheet, lambda text: re.sub(r' r="[A-Z]*\d+"', "", text))
    lying = remade(
        put_xlsx(tmp_path / "d.xlsx", rows),
        sheet,
        lambda text: re.sub(r'<dimension ref="[^"]*"', '<dimension ref="A1:B2"', text),
    )
    for path in (prefixed, bare, lying):
        table = read_table(path)
        assert values(table, "Paid") == wanted and values(table, "Route")[119] == "R119", path
        assert values(read_table(path, ReadAs(area="A51:B61", head=0)), "Field 2") == wanted[49:60], path
    day: Rows = [["On", "n"], [dt.datetime(2024, 2, 29), 1], [dt.datetime(2024, 3, 1), 2]]
    old = remade(
        put_xlsx(tmp_path / "o.xlsx", day),
        book,
        lambda text: re.sub(r"<workbookPr ?/>", '<workbookPr date1904="1"/>', text),
    )
    assert values(read_table(old), "On")[0] == dt.date(2028, 3, 1)  # as the file says: counted from 1904


def test_cells_far_apart_and_beside_the_table(tmp_path: Path) -> None:
    rows: Rows = [["Route", "Paid"], *[[f"R{at}", at] for at in range(90)]]
    path = put_xlsx(tmp_path / "t.xlsx", rows, (3, 2))
    book = openpyxl.load_workbook(path)
    sheet = book.active
    assert sheet is not None
    sheet["A60"], sheet["F70"], sheet["B1048576"] = "left", "right", "last"
    book.save(path)
    table = read_table(path)
    assert table.rows == 91 and [f.name for f in table.fields] == ["Field 1", "Route", "Paid", "Field 6"]
    assert (
        values(table, "Field 1")[56] == "left"
        and values(table, "Field 6")[66] == "right"
        and values(table, "Route")[90] == "last"
    )
    assert read_table(path, ReadAs(area="B3:C92")).rows == 89
    sheet["XFD5"] = "far"
    book.save(path)
    with pytest.raises(Refusal, match=r"column 16,384.*choose the block of cells"):
        read_table(path)
    assert values(read_table(path, ReadAs(area="B3:C93")), "Paid") == list(range(90))
    remade(path, "xl/_rels/workbook.xml.rels", lambda text: text.replace("/worksheet", "/other"))
    with pytest.raises(Refusal):  # nor by the way for sheets that cannot be cut
        read_table(path)


@pytest.mark.parametrize("far", ["\tr='XFD3'", ' r="ZZ1048000"', ' r = "xfd2"', "\nr='ZB9999999'"])
def test_cells_that_stand_elsewhere_than_their_rows_cannot_ask_for_all_memory(far: str, tmp_path: Path) -> None:
    path = put_xlsx(tmp_path / "t.xlsx", [["A", "B"], [1, 2], [3, 4]])
    remade(path, "xl/worksheets/sheet1.xml", lambda text: text.replace(' r="B3"', far))
    with pytest.raises(Refusal):
        read_table(path)


def test_an_old_workbook_cannot_either(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    book = xlwt.Workbook()
    sheet = book.add_sheet("Rows")
    sheet.write(0, 0, "A")
    for row in range(1, 400):
        sheet.write(row, 77, 4711.5)
    path = tmp_path / "t.xls"
    book.save(str(path))
    told: list[int] = []
    monkeypatch.setattr(oldsheet, "_TOLD", 100)
    assert read_table(path, watch=told.append).rows == 399
    assert told[:4] == [100, 200, 300, 400] and told[-1] == 399  # the head is a row as well

    def stop(rows: int) -> None:
        raise Stopped

    with pytest.raises(Stopped):
        read_table(path, watch=stop)
    # The column of a cell stands in its record after its row.
    made = path.read_bytes()
    path.write_bytes(made.replace(struct.pack("<HH", 300, 77), struct.pack("<HH", 300, 65_000), 1))
    with pytest.raises(Refusal, match="column 65,001"):
        read_table(path)
    # Behind a record that says so, all is encrypted: columns as well.
    after_begin = made.index(b"\xe1\x00\x02\x00")
    path.write_bytes(made[:after_begin] + b"\x2f" + path.read_bytes()[after_begin + 1 :])
    with pytest.raises(Refusal, match="locked with a password"):
        read_table(path)
    for damaged in (made[:600], made[:40] + b"\xff" * 400, made[:512] + bytes(5000), made[8:]):
        path.write_bytes(damaged)
        with pytest.raises(Refusal, match=r"'t\.xls' (is damaged|could not be read|holds no|is empty)"):
            read_table(path)


def test_the_first_sheet_with_cells(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    book.create_sheet("Takings & fares").append(["Route", "Paid"])
    book["Takings & fares"].append(["Osk", 2])
    book.save(tmp_path / "t.xlsx")
    assert values(read_table(tmp_path / "t.xlsx"), "Route") == ["Osk"]
    with pytest.raises(Refusal, match=r"'Sheet' of 't\.xlsx' is empty"):
        read_table(tmp_path / "t.xlsx", ReadAs(sheet="Sheet"))
    openpyxl.Workbook().save(tmp_path / "e.xlsx")
    with pytest.raises(Refusal, match=r"'e\.xlsx' is empty"):
        read_table(tmp_path / "e.xlsx")
    put_ods(tmp_path / "t.ods", ("Notes", ""), ("Takings & fares", ods_row(["Route", "Paid"]) + ods_row(["Osk", 2])))
    assert values(read_table(tmp_path / "t.ods"), "Paid") == [2]


def test_an_ods_sheet_with_repeats_groups_errors_and_lengths_of_time(tmp_path: Path) -> None:
    same = '<table:table-row table:number-rows-repeated="40"><table:table-cell office:value-type="float" office:value="7" table:number-columns-repeated="2"/><table:table-cell/></table:table-row>'
    blank = '<table:table-row table:number-rows-repeated="30"><table:table-cell table:number-columns-repeated="16384"/></table:table-row>'
    head = f"<table:table-header-rows>{ods_row(['A', 'B', 'C'])}</table:table-header-rows>"
    error = ods_row([1, "#DIV/0!", dt.timedelta(hours=27, minutes=5)])
    many = "".join(ods_row([at, at, "text"]) for at in range(60))
    end = '<table:table-row table:number-rows-repeated="1048000"><table:table-cell table:number-columns-repeated="16384"/></table:table-row>'
    path = put_ods(
        tmp_path / "t.ods",
        ("First", ods_row(["x"])),
        ("Rows", f"{head}<table:table-row-group>{same}{blank}{error}</table:table-row-group>{many}{end}"),
    )
    table = read_table(path, ReadAs(sheet="Rows"))
    assert values(table, "A") == [7] * 40 + [1, *range(60)] and refused(table, "B") == [(40, "#DIV/0!")]
    assert values(table, "C") == [None] * 40 + ["27:05:00"] + ["text"] * 60
    assert values(read_table(path, ReadAs(sheet="Rows", area="A39:C72", head=0)), "Field 1") == [7, 7, 7, 1]
    wide = '<table:table-row><table:table-cell office:value-type="float" office:value="1" table:number-columns-repeated="900000000"/></table:table-row>'
    tall = f'<table:table-row table:number-rows-repeated="900000000">{ods_cell(1)}</table:table-row>'
    loose = wide.replace('="900000000"', " = '+900000000'")
    for bomb, told in ((wide, "column 900,000,000"), (loose, "column 900,000,000"), (tall, "fills 900,000,00. cells")):
        with pytest.raises(Refusal, match=told):
            read_table(put_ods(tmp_path / "bomb.ods", ("Rows", ods_row(["A"]) + bomb)))


def test_error_cells_of_an_old_workbook(tmp_path: Path) -> None:
    book = xlwt.Workbook()
    sheet = book.add_sheet("Rows")
    for row, cells in enumerate(
        [["Route", "Paid"], ["Osk", 1.0], ["Hesta", None], [None, None], ["Vaila", 3.0]], start=2
    ):
        for at, value in enumerate(cells, start=1):
            if value is not None:
                sheet.write(row, at, value)
    sheet.row(4).set_cell_error(2, "#DIV/0!")
    book.save(str(tmp_path / "t.xls"))
    table = read_table(tmp_path / "t.xls")
    assert values(table, "Paid") == [1, None, 3] and refused(table, "Paid") == [(1, "#DIV/0!")]
    assert values(read_table(tmp_path / "t.xls", ReadAs(area="C3:C6")), "Paid") == [1, None]
