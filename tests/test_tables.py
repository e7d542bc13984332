"""Files come in: kinds are sensed, nothing is lost, and what cannot be read is refused in a sentence."""

from __future__ import annotations

import datetime as dt
import math
import zipfile
from pathlib import Path

import numpy as np
import openpyxl
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from summula.core.preparation.prepare import prepare
from summula.core.preparation.steps import SetKind
from summula.core.reading.readas import ReadAs
from summula.core.reading.readers import read_table, table_from_frame
from summula.core.refusal import Refusal
from summula.core.statistics.distribution import distribution
from summula.core.tables import natural
from summula.core.tables.column import CodedColumn, different_values, smallest_code_type, take_at, tallied
from summula.core.tables.encoding import series_of
from summula.core.tables.natural import natural_order, natural_sorted
from summula.core.tables.table import Table, blanks, distinct


def values(table: Table, name: str) -> list[object]:
    return series_of(name, table.column(name)).to_list()


def test_a_csv_of_every_kind(tmp_path: Path) -> None:
    path = tmp_path / "mixed.csv"
    head = "No.,Booked,Left,Route,Paid,Share,Late,Post code,Code run\n"
    lines = [
        f'{1000 + n:05d},{n % 28 + 1:02d}/0{n % 9 + 1}/2024,2024-0{n % 9 + 1}-{n % 28 + 1:02d} 08:{n % 60:02d},'
        f'"Osk, {n % 3}","£{n:,}.50",{n}%,{"yes" if n % 2 else "no"},{10000 + n * 7 % 999},{n + 5}\n'
        for n in range(60)
    ]  # fmt: skip
    lines[7] = lines[7].replace('"£7.50"', "not known")
    lines[9] = lines[9].replace('"£9.50"', "(9.50)")
    lines[11] = lines[11].replace('"Osk, 2"', "  ")
    path.write_text(head + "".join(lines), "utf-8-sig")
    table = read_table(path)
    kinds = {field.name: field.kind for field in table.fields}
    assert kinds == {
        "No.": "code", "Booked": "date", "Left": "date", "Route": "category", "Paid": "number", "Share": "number",
        "Late": "flag", "Post code": "code", "Code run": "code",
    }  # fmt: skip
    paid = values(table, "Paid")
    assert [float(paid[n]) for n in (0, 8, 9)] == [0.5, 8.5, -9.5]  # type: ignore[arg-type]
    refused = table.column("Paid").refused
    assert [(each.row, each.text) for each in refused] == [(7, "not known")]
    assert paid[7] is None and blanks(table.column("Paid")) == 1
    assert values(table, "Route")[11] is None and values(table, "Share")[25] == 0.25 == float(
        values(table, "Share")[25]
    )  # type: ignore[arg-type]
    assert values(table, "Booked")[30] == dt.date(2024, 4, 3)
    assert values(table, "Left")[30] == dt.datetime(2024, 4, 3, 8, 30)
    assert values(table, "No.")[0] == "01000"
    assert distinct(table.column("Late")) == 2
    again = read_table(path, kinds={"Code run": "number"})
    assert again.field("Code run").kind == "number" and again.number("Code run").values[0] == 5


@pytest.mark.parametrize(
    ("content", "encoding", "expected"),
    [
        ("a;b\n1,5;x\n2.000,25;é\n", "cp1252", [1.5, 2000.25]),
        ("a\tb\n1.5\tx\n2000.25\té\n", "utf-16", [1.5, 2000.25]),
        ("a|b\n-1|x\n1e3|é\n", "utf-8", [-1, 1000]),
        ('a,b\r\n"1,234","line\r\nbreak"\r\n7,é\r\n', "utf-8", [1234, 7]),
    ],
)
def test_delimiters_encodings_and_decimal_signs(
    content: str, encoding: str, expected: list[float], tmp_path: Path
) -> None:
    path = tmp_path / "t.csv"
    path.write_bytes(content.encode(encoding))
    table = read_table(path)
    assert [field.name for field in table.fields] == ["a", "b"]
    column = table.number("a")
    assert (column.values / column.unit).tolist() == expected
    assert values(table, "b")[1] == "é"


def test_dates_that_no_calendar_holds_are_kept_as_they_were(tmp_path: Path) -> None:
    """Files can hold the years 0 and 10,000."""
    path = tmp_path / "t.csv"
    path.write_text("On,Berth\n" + "2024-01-02,1\n" * 99 + "0000-05-05,2\n")
    table = read_table(path)
    assert table.field("On").kind == "date" and [each.text for each in table.column("On").refused] == ["0000-05-05"]
    days = pl.Series("On", [2_932_896, -719_162, 2_932_897, *range(200)], dtype=pl.Int32).cast(pl.Date)
    days.to_frame().write_parquet(tmp_path / "t.parquet")
    table = read_table(tmp_path / "t.parquet")
    assert [each.text for each in table.column("On").refused] == ["+10000-01-01"]
    shape = distribution(table, "On")
    assert (shape.least, shape.most) == (dt.date.min, dt.date.max) and sum(shape.heights) == 202


def test_heads_are_made_clear(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("Route, route ,,Route\na,b,c,d\n")
    assert [f.name for f in read_table(path).fields] == ["Route", "route (2)", "Field 3", "Route (3)"]


def test_a_workbook(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    first = book.active
    assert first is not None
    first.append(["Route", "On", "Paid", "Ok"])
    first.append(["a", dt.date(2024, 5, 31), 1.25, True])
    first.append([None, dt.date(2024, 6, 1), None, False])
    book.create_sheet("Second").append(["only heads"])
    path = tmp_path / "t.xlsx"
    book.save(path)
    table = read_table(path)
    assert [f.kind for f in table.fields] == ["category", "date", "number", "flag"]
    assert values(table, "On") == [dt.date(2024, 5, 31), dt.date(2024, 6, 1)]
    assert [float(v) if v is not None else v for v in values(table, "Paid")] == [1.25, None]  # type: ignore[arg-type]
    with pytest.raises(Refusal, match=r"no sheet 'Third'.*its sheets are Sheet, Second"):
        read_table(path, ReadAs(sheet="Third"))


def bomb(path: Path) -> None:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/worksheets/sheet1.xml", b"0" * 80_000_000)


@pytest.mark.parametrize(
    ("name", "content", "told"),
    [
        ("gone.csv", None, "there is no file"),
        ("folder.csv", "folder", "is a folder"),
        ("empty.csv", b"", "is empty"),
        ("rubbish.csv", bytes(range(256)) * 4, "not a text file"),
        ("what.doc", b"x", "not a kind of file that can be read"),
        ("torn.xlsx", b"PK\x03\x04 torn", "damaged or not a workbook"),
        ("bomb.xlsx", bomb, "would unpack to 76 MB"),
    ],
)
def test_what_cannot_be_read_is_refused_in_a_sentence(name: str, content: object, told: str, tmp_path: Path) -> None:
    path = tmp_path / name
    if content == "folder":
        path.mkdir()
    elif isinstance(content, bytes):
        path.write_bytes(content)
    elif callable(content):
        content(path)
    with pytest.raises(Refusal, match=told) as caught:
        read_table(path)
    assert caught.value.remedy


@given(st.lists(st.none() | st.integers(-(10**12), 10**12).map(lambda n: n / 100), max_size=30))
def test_money_is_held_to_the_last_unit(amounts: list[float | None]) -> None:
    table = table_from_frame("T", pl.DataFrame({"m": pl.Series(amounts, dtype=pl.Float64)}), {"m": "number"})
    column = table.number("m")
    assert column.decimals <= 2
    known = [a for a in amounts if a is not None]
    assert np.array_equal(column.present(), np.array(known))
    assert column.values.sum() == sum(round(a * 10**column.decimals) for a in known)
    back = series_of("m", column).to_list()
    assert [None if b is None else float(b) for b in back] == amounts


def test_natural_order() -> None:
    assert natural_sorted(["b10", "B9", "É", "e2", "a", "10", "9"]) == ["9", "10", "a", "B9", "b10", "É", "e2"]


NAMELIKE = st.lists(
    st.sampled_from(
        [
            "a",
            "B",
            "é",
            "É",
            "ß",
            "-",
            "/",
            "0",
            "1",
            "2",
            "9",
            "00",
            "10",
            "Ü",
            "ﬁ",
            "٣",
            "²",
            "\x01",
            "999999999999999999",
        ]
    ),
    max_size=6,
)


@given(st.one_of(st.sets(NAMELIKE.map("".join), min_size=1), st.sets(st.integers(0, 10**18).map(str), min_size=1)))
def test_many_texts_are_put_in_the_same_order_as_few(texts: set[str]) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(natural, "_MANY", 0)
        series = pl.Series(sorted(texts - {""}), dtype=pl.String)
        assert series.gather(natural_order(series)).to_list() == natural_sorted(texts - {""})


@pytest.mark.parametrize("size", [1, 2, 200, 256, 300, 70_000])
@pytest.mark.parametrize("rows", [0, 1, 1000, 300_001])
def test_tallies_and_look_ups_of_codes_of_every_width(size: int, rows: int) -> None:
    codes = np.random.default_rng(rows + size).integers(0, size, rows).astype(smallest_code_type(size - 1))
    assert tallied(codes, size).tolist() == np.bincount(codes, minlength=size).tolist()
    assert tallied(codes[::2], size).tolist() == np.bincount(codes[::2], minlength=size).tolist()
    for known in (np.arange(size) * 0.5, np.arange(size)[::-1].astype(codes.dtype), np.arange(size) % 3 == 0):
        assert np.array_equal(take_at(known, codes), known[codes])


def test_running_numbers_and_references_of_many_rows(tmp_path: Path) -> None:
    rows = 30_000
    frame = pl.DataFrame({"No": range(rows), "Reference": [f"R{(n * 7919) % rows}-{n % 3}" for n in range(rows)]})
    frame.write_csv(tmp_path / "t.csv")
    table = read_table(tmp_path / "t.csv")
    assert [f.kind for f in table.fields] == ["code", "category"]
    for name in frame.columns:
        column = table.column(name)
        assert isinstance(column, CodedColumn)
        assert values(table, name) == frame[name].cast(pl.String).to_list()
        assert list(column.members) == natural_sorted(column.members) and len(column.members) == rows


def test_another_kind_reads_the_values_anew(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    rows = "".join(f"{n:04d},{n}.50,2024-01-{n % 28 + 1:02d},x{n % 3}\n" for n in range(200))
    path.write_text("No.,Paid,On,Who\n" + rows + "0200,oops,2024-02-01,x1\n")
    table = read_table(path)

    def kinds(**changed: str) -> Table:
        wanted = {name: kind for name, kind in changed.items() if kind}
        steps = tuple(SetKind(f.name, wanted[f.name.rstrip(".")]) for f in table.fields if f.name.rstrip(".") in wanted)  # type: ignore[arg-type]
        return prepare(table, steps, lambda name: table).table

    as_number = kinds(No="number")
    assert as_number.number("No.").values[:3].tolist() == [0, 1, 2] and values(as_number, "Paid")[200] is None
    assert values(kinds(Paid="category"), "Paid")[200] == "oops"  # what was refused is there again
    assert values(kinds(On="category"), "On")[0] == "2024-01-01"
    refused = kinds(Who="number").column("Who").refused
    assert len(refused) == 201 and refused[0].text == "x0" and values(kinds(Who="number"), "Who") == [None] * 201
    back = prepare(table, (SetKind("Who", "number"), SetKind("Who", "category")), lambda name: table).table
    assert values(back, "Who") == values(table, "Who")  # what was refused fits again
    assert kinds().columns[0] is table.columns[0]


@pytest.mark.parametrize("marker", ["NA", "n/a", "#N/A", "-", "–", ".", "..", "?", "*", "nil", "NULL", "None", "NaN", "Not available"])
def test_what_is_written_for_nothing_is_a_blank_among_values_of_one_kind(marker: str) -> None:
    columns = {
        "Takings": ["1", "2.5", marker, "4"], "On": ["2024-01-05", marker, "2024-02-06", None], "No.": ["007", "008", marker, "010"],
        "Open": ["yes", "no", marker, "yes"], "Weather": ["calm", "gale", marker, "fog"],
    }  # fmt: skip
    table = table_from_frame("T", pl.DataFrame(columns))
    assert [field.kind for field in table.fields] == ["number", "date", "code", "flag", "category"]
    assert [blanks(column) for column in table.columns] == [1, 2, 1, 1, 0]
    assert not any(column.refused for column in table.columns)


def test_markers_far_down_a_file_are_blanks_too(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("a,b\n" + "".join(f"{n}.5,x{n % 7}\n" for n in range(9000)) + "n/a,x1\n-,x2\n")
    table = read_table(path)
    assert table.fields[0].kind == "number" and blanks(table.columns[0]) == 2 and not table.columns[0].refused


def test_years_can_be_dates(tmp_path: Path) -> None:
    """Numbers that are years, from text and typed, and later by a step: the first day of each."""
    days = [dt.date(year, 1, 1) for year in (2021, 2023, 2022)]
    for years in (["2021", "2023", "2022"], [2021, 2023, 2022], [2021.0, 2023.0, 2022.0]):
        table = table_from_frame("T", pl.DataFrame({"Year": years, "Fee": [1, 2, 3]}), {"Year": "date"})
        assert values(table, "Year") == days and not table.columns[0].refused
        plain = table_from_frame("T", pl.DataFrame({"Year": years}))
        assert plain.fields[0].kind == "number" and plain.fields[0].pattern == "0"
        made = prepare(plain, (SetKind("Year", "date"),), lambda name, plain=plain: plain).table  # type: ignore[misc]
        assert values(made, "Year") == days


@given(st.lists(st.one_of(st.integers(-3, 3), st.integers(-(2**53), 2**53))), st.lists(st.sampled_from((math.nan, -0.0, 0.0, 1.5, -2.0, math.inf))))
def test_different_values_are_numpys_own(whole: list[int], figures: list[float]) -> None:
    for values in (np.array(whole, dtype=np.int64), np.array(figures, dtype=np.float64), np.array(whole, dtype=np.int64) % 5 > 2):
        before = values.copy()
        assert np.array_equal(different_values(values), np.unique(values), equal_nan=values.dtype.kind == "f") and np.array_equal(values, before, equal_nan=values.dtype.kind == "f")
