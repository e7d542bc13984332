"""Tables from strangers that once brought a reader down, and what each of them is now."""

from __future__ import annotations

import sqlite3
import time
import zipfile
from pathlib import Path

import polars as pl
import pytest

from summula.core.reading import readers
from summula.core.reading.sandboxed import read_found, read_table
from summula.core.refusal import Refusal
from summula.core.tables.column import DateColumn
from summula.core.tables.texts import texts_of
from tests.test_hostile import put_sheets

TABLE = "<table><tr><td>Route<td>Paid<tr><td>Ness<td>2</table>"


def read_page(folder: Path, text: str) -> list[list[str | None]]:
    path = folder / "t.html"
    path.write_text(text)
    table = readers.read_table(path)
    return [texts_of(field.name, column).to_list() for field, column in zip(table.fields, table.columns, strict=True)]


def test_a_table_within_a_table_leaves_the_outer_cell_whole(tmp_path: Path) -> None:
    inner = "<table><tr><td>a<td>b<td>c<tr><td>1<td>2<td>3</table>"
    page = f"<table><tr><td>Route<td>Paid<tr><td>Ne{inner}ss<td>2<tr><td>Skerry<td>3<tr><td>Holm<td>4</table>"
    assert read_page(tmp_path, page)[0] == ["Ness", "Skerry", "Holm"]


def test_tables_that_are_never_closed_are_read(tmp_path: Path) -> None:
    assert read_page(tmp_path, "<table>" * 2_000 + "<tr><td>Route<td>Paid<tr><td>Ness<td>2")[0] == ["Ness"]


@pytest.mark.parametrize(
    "tail",
    ["<a " * 100_000, "<!--" * 75_000, "<!-- > " * 50_000, "<![if[" * 50_000 + ">", '<a x="' * 50_000, "</" * 100_000, "&#" * 100_000],
    ids=["tags", "comments", "comments with ends of tags", "sections", "quotes", "ends", "signs"],
)  # fmt: skip
def test_what_is_opened_and_never_closed_is_passed_over_once(tmp_path: Path, tail: str) -> None:
    start = time.process_time()
    assert read_page(tmp_path, TABLE + tail)[0] == ["Ness"]
    assert time.process_time() - start < 10  # each was over 25 s


def test_comments_are_no_cells(tmp_path: Path) -> None:
    page = TABLE.replace("Ness", "N<!-- > <td>x -->ess") + "<p>1 < 2"
    assert read_page(tmp_path, page)[0] == ["Ness"]


@pytest.mark.parametrize("unit", ["days", "ms", "us", "ns"])
def test_dates_beyond_the_calendar_are_kept_as_refused(tmp_path: Path, unit: str) -> None:
    path = tmp_path / "t.parquet"
    ends = (2**31 - 1, -(2**31)) if unit == "days" else (2**63 - 1, -(2**63))
    kind = pl.Date if unit == "days" else pl.Datetime(unit)  # type: ignore[arg-type]
    numbers = pl.Series("Sailed on", [1, *ends, None], dtype=pl.Int32 if unit == "days" else pl.Int64)
    pl.DataFrame([numbers.cast(kind), pl.Series("Paid", [1, 2, 3, 4])]).write_parquet(path)
    table = readers.read_table(path)
    column = table.column("Sailed on")
    assert isinstance(column, DateColumn) and column.days.tolist()[0] == (1 if unit == "days" else 0)
    if unit != "ns":  # so many nanoseconds are within three centuries of 1970
        assert [(each.row, each.text) for each in column.refused] == [(1, str(ends[0])), (2, str(ends[1]))]


def test_a_workbook_that_lies_about_its_texts_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "t.xlsx"
    put_sheets(path, '<row r="1"><c r="A1" t="s"><v>0</v></c></row>', texts="<si><t>Route</t></si>")
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    parts["xl/sharedStrings.xml"] = parts["xl/sharedStrings.xml"].replace(b"<sst ", b'<sst uniqueCount="4294967295" ')
    with zipfile.ZipFile(path, "w") as archive:
        for name, part in parts.items():
            archive.writestr(name, part)
    with pytest.raises(Refusal, match="more texts than it has"):
        readers.read_table(path)


def put_view(path: Path, query: str) -> None:
    connection = sqlite3.connect(path)
    connection.execute(f"create view crossings as {query}")
    connection.commit()
    connection.close()


@pytest.mark.parametrize(
    "query",
    [
        "with recursive r(n) as (select 1 union all select n + 1 from r) select n, hex(zeroblob(20000)) as t from r",
        "with recursive r(n) as (select 1 union all select n + 1 from r) select n, zeroblob(40000000) as z from r",
    ],
    ids=["rows without end", "large values"],
)
def test_a_view_that_would_fill_the_memory_is_stopped_by_a_sentence(tmp_path: Path, query: str) -> None:
    put_view(tmp_path / "t.sqlite", query)
    with pytest.raises(Refusal, match=r"reading 't\.sqlite' was stopped: it takes more than 1\.5 GB"):
        read_table(tmp_path / "t.sqlite")


def test_values_of_every_size_are_fetched(tmp_path: Path) -> None:
    put_view(tmp_path / "t.sqlite", "with recursive r(n) as (select 1 union all select n + 1 from r where n < 60000) "
             "select n, case when n % 20000 = 0 then hex(zeroblob(500000)) else 'x' end as t from r")  # fmt: skip
    table, _ = read_found(tmp_path / "t.sqlite", kinds={"n": "number"})
    assert table.rows == 60_000 and int(table.number("n").values.sum()) == 60_000 * 60_001 // 2


def test_a_refusal_is_no_longer_than_anybody_reads(tmp_path: Path) -> None:
    names = [f"{letter * 2_000}" for letter in "abcdef"]
    path = tmp_path / "t.csv"
    path.write_text(",".join(names) + "\n" + ",".join("123456") + "\n")
    table = readers.read_table(path)
    for ask_for in ("z" * 5_000, names[0][:-1]):
        with pytest.raises(Refusal) as refused:
            table.field(ask_for)
        assert len(refused.value.wrong) <= 600 and len(refused.value.remedy) <= 600
        assert refused.value.wrong.endswith("…")
