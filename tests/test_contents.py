"""What a file is, is told by its content; encodings, archives, merged cells, formulas, other sheets."""

from __future__ import annotations

import json
import shutil
import zipfile
from pathlib import Path

import openpyxl
import pytest

from summula.core.reading.findings import findings
from summula.core.reading.readas import ReadAs
from summula.core.reading.readers import read_found, read_table
from summula.core.refusal import Refusal
from summula.core.tables.encoding import series_of
from summula.core.tables.table import Table

PLAIN = "Route,Fee\nOsk,1.5\nHesta,2.5\n"
PAGE = "<html><body><table><tr><th>Route</th><th>Fee</th></tr><tr><td>Osk</td><td>1.5</td></tr><tr><td>Hesta</td><td>2.5</td></tr></table></body></html>"
RECORDS = json.dumps([{"Route": "Osk", "Fee": 1.5}, {"Route": "Hesta", "Fee": 2.5}])


def values(table: Table, name: str) -> list[object]:
    found = series_of(name, table.column(name)).to_list()
    return [float(each) if table.field(name).kind == "number" and each is not None else each for each in found]


def workbook(path: Path) -> Path:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row in PLAIN.splitlines():
        sheet.append([float(each) if each[0].isdigit() else each for each in row.split(",")])
    book.save(path)
    return path


@pytest.mark.parametrize("name", ["t.xls", "t.csv", "t", "t.dat", "t.ods"])
def test_a_workbook_under_any_name(name: str, tmp_path: Path) -> None:
    shutil.copy(workbook(tmp_path / "made.xlsx"), tmp_path / name)
    assert values(read_table(tmp_path / name), "Fee") == [1.5, 2.5]


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("t.xlsx", PLAIN), ("t", PLAIN), ("t.dat", PLAIN.replace(",", "|")), ("t.xls", PAGE), ("t.html", PAGE), ("t.json", RECORDS),
        ("t.json", json.dumps({"when": "now", "data": json.loads(RECORDS)})), ("t.json", json.dumps({"Route": ["Osk", "Hesta"], "Fee": [1.5, 2.5]})),
        ("t.txt", RECORDS), ("t.json", "\n".join(map(json.dumps, json.loads(RECORDS)))), ("t.csv", "\n".join(map(json.dumps, json.loads(RECORDS)))),
    ],
)  # fmt: skip
def test_a_table_under_any_name(name: str, content: str, tmp_path: Path) -> None:
    (tmp_path / name).write_text(content, "utf-8")
    table = read_table(tmp_path / name)
    assert values(table, "Route") == ["Osk", "Hesta"] and values(table, "Fee") == [1.5, 2.5]


def test_a_table_alone_in_an_archive(tmp_path: Path) -> None:
    path = tmp_path / "t.zip"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("../../away/t.csv", PLAIN)
        archive.writestr("README.txt", "what it is")
        archive.writestr("__MACOSX/t.csv", "x")
    assert values(read_table(path), "Fee") == [1.5, 2.5] and not (tmp_path.parent / "away").exists()
    with zipfile.ZipFile(path, "a") as archive:
        archive.writestr("other.csv", PLAIN)
    with pytest.raises(Refusal, match=r"holds 2 tables \(t.csv, other.csv\)"):
        read_table(path)
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("t.csv", "0" * 200_000_000)
    with pytest.raises(Refusal, match="unpacks to more than"):
        read_table(path)
    path.write_bytes(b"PK\x03\x04 nothing")
    with pytest.raises(Refusal):
        read_table(path)


@pytest.mark.parametrize(
    ("codec", "told", "text"),
    [
        ("cp1252", "WINDOWS-1252", "Nom;Prix €\nÉté;12\nForêt;3\nça;4\n"), ("cp1250", "WINDOWS-1250", "Nazwa;Cena\nŁódź;12\nGdańsk;3\nżółć;5\n"),
        ("cp1250", "WINDOWS-1250", "Název;Cena\nPříbor;1\nČeský Těšín;2\nŽďár;3\n"), ("cp1251", "WINDOWS-1251", "Маршрут;Цена\nСеверный;12\nЮжный;3\n"),
        ("cp932", "SHIFT-JIS", "路線,運賃\n北航路,120\n南航路,300\n東京湾,90\n"), ("gb18030", "GB18030", "航线,票价\n北线,120\n南线,300\n上海港,90\n"),
        ("mac_roman", "MAC-ROMAN", "Nom;Prix\nÉté;12\nForêt;3\nNoël;5\n"), ("utf-32", "UTF-32", "é,b\nö,2\n"), ("utf-32-le", "UTF-32", "é,b\nö,2\n"),
        ("euc_kr", "EUC-KR", "노선,요금\n북쪽,120\n남쪽,300\n"),
    ],
)  # fmt: skip
def test_encodings(codec: str, told: str, text: str, tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_bytes(text.encode(codec))
    table, settings = read_found(path)
    assert next(each.value for each in settings if each.name == "encoding") == told
    first = text.splitlines()
    assert table.fields[0].name == first[0].replace(";", ",").split(",")[0]
    assert values(table, table.fields[0].name)[0] == first[1].replace(";", ",").split(",")[0]


def test_stray_zeros_are_kept_and_told(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_bytes(b"a,b\nx\0y,2\n" + b"abc,4\n" * 50)
    table, settings = read_found(path)
    assert "x\0y" in values(table, "a") and any("contains NUL characters" in each.sentence for each in findings(table, settings))


def test_merged_cells_formulas_covers_and_hidden_sheets(tmp_path: Path) -> None:
    path = tmp_path / "t.xlsx"
    book = openpyxl.Workbook()
    cover = book.active
    assert cover is not None
    cover.title, cover["A1"], cover["A2"] = "Cover", "Skerry Ferries", "what we took"
    data = book.create_sheet("Data")
    rows = [["Route", "Vessel", "Paid", "Tax"], ["Osk", "Tern", 10], [None, "Gull", 20], ["Hesta", "Tern", 5], [None, "Auk", 6], [None, "Gull", 7], [None, "Skua", 8]]
    for row in rows:
        data.append(row)
    data.merge_cells("A2:A3")
    data.merge_cells("A4:A6")
    for at in range(2, 8):
        data[f"D{at}"] = f"=C{at}*0.2"
    hidden = book.create_sheet("Secret")
    hidden.append(["x", "y"])
    hidden.sheet_state = "hidden"
    book.move_sheet("Secret", -2)
    book.save(path)
    table, settings = read_found(path)
    assert values(table, "Route") == ["Osk", "Osk", "Hesta", "Hesta", "Hesta", None]
    told = " | ".join(each.sentence for each in findings(table, settings))
    assert "read the sheet 'Data'; the file also has Secret (hidden), Cover" in told and "merged cells of Route are filled down" in told
    assert "formulas not yet worked out (D2, D3, D4, D5 and 2 more): open it where it was made" in told
    assert [each.text for each in table.column("Tax").refused][:2] == ["=C2*0.2", "=C3*0.2"]
    assert values(read_table(path, ReadAs(merged=False)), "Route") == ["Osk", None, "Hesta", None, None, None]


FEES = [["Route", "Fee"], ["Osk", 1.5], ["Hesta", 2.5], ["Tern", 3]]
BOATS = [["Vessel", "Seats", "Built"], *([f"V{n}", n * 20, 1999 + n] for n in range(1, 7))]


@pytest.mark.parametrize(("place", "areas"), [((3, 4), ("A2:B5", "D3:F1048576")), ((8, 1), ("A2:C7", "A8:C1048576")), ((1, 3), ())])
def test_two_tables_on_a_sheet_are_each_offered(place: tuple[int, int], areas: tuple[str, ...], tmp_path: Path) -> None:
    """Side by side, and one below the other; what stands right beside is one table."""
    path = tmp_path / "t.xlsx"
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for (top, left), rows in (((2 if areas else 1, 1), FEES), (place, BOATS)):
        for at, row in enumerate(rows):
            for column, value in enumerate(row):
                sheet.cell(top + at, left + column, value)  # type: ignore[arg-type]
    book.save(path)
    table, settings = read_found(path)
    offered = [each for each in settings if each.name == "area"]
    assert tuple(area for each in offered for _, area in each.choices) == areas
    if areas:
        assert [field.name for field in table.fields] == ["Route", "Fee"] and table.rows == 3 and offered[0].doubt
        other = read_table(path, ReadAs(area=areas[1]))
        assert [field.name for field in other.fields] == ["Vessel", "Seats", "Built"] and other.rows == 6
    else:
        assert [field.name for field in table.fields] == ["Route", "Fee", "Vessel", "Seats", "Built"]


def test_fields_called_by_periods_become_rows_and_more_of_them_later(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    heads, first, second = "Route,Jan 2024,Feb 2024,Mar 2024", "Osk,1,2,4", "Hesta,3,n/a,1"
    path.write_text(f"{heads}\n{first}\n{second}\n")
    table, settings = read_found(path)
    offer = next(each for each in settings if each.name == "periods")
    assert table.rows == 2 and offer.offer == "Turn into rows" and "from Jan 2024 to Mar 2024" in offer.why
    table = read_table(path, ReadAs(periods=True))
    assert [(field.name, field.kind) for field in table.fields] == [("Route", "category"), ("Month", "date"), ("Value", "number")]
    assert values(table, "Value") == [1, 2, 4, 3, 1] and str(values(table, "Month")[2]) == "2024-03-01"
    path.write_text(f"{heads},Apr 2024\n{first},7\n{second},8\n")
    assert read_table(path, ReadAs(periods=True)).rows == 7
    for names in ("2021,2022,2023", "Q1 2023,Q2 2023,Q3 2023", "2024-01-01,2024-01-02,2024-01-03", "Jan,Feb,Mar"):
        path.write_text(f"Route,{names}\nOsk,10,25,40\nHesta,33,21,11\n")
        assert read_table(path, ReadAs(periods=True)).rows == 6
    path.write_text("Route,Fee,Seats\nOsk,1,2\n")
    assert not any(each.name == "periods" for each in read_found(path)[1])


def test_a_wide_table_is_read_at_one_go_and_as_every_other(tmp_path: Path) -> None:
    kinds = ["number", "category", "date", "code", "flag", "number"]
    columns = [f"{name} {at}" for at in range(40) for name in ("Fee", "Route", "On", "No.", "Open", "Share")]
    assert len(kinds) * 40 == len(columns)
    lines = [
        ",".join(f'{n}.5,"Osk, {n % 3}",2024-01-{n % 28 + 1:02d},{n:04d},{"yes" if n % 2 else "no"},{n / 7:.6f}' for _ in range(40)) for n in range(60)
    ]  # fmt: skip
    names = [column.replace("No. ", "No ") for column in columns]
    path = tmp_path / "t.csv"
    path.write_text(",".join(names) + "\n" + "\n".join(lines) + "\n1,short\n")
    table = read_table(path)
    assert [field.kind for field in table.fields] == kinds * 40 and table.rows == 61
    assert values(table, names[0])[:3] == [0.5, 1.5, 2.5] and values(table, names[1])[1] == "Osk, 1" and table.ragged[0].held == 2
