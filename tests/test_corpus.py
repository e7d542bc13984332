"""The small tables of `tables.txt`, as they come: read with the kinds, rows and findings that they must give, from every
kind of file."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import re
import sqlite3
from pathlib import Path
from typing import NamedTuple

import polars as pl
import pytest

from summula.core.reading.findings import findings
from summula.core.reading.readas import ReadAs
from summula.core.reading.readers import read_found
from summula.core.tables.table import Table
from tests.test_sheets import ods_row, put_ods, put_xlsx

LETTERS = {"category": "c", "number": "n", "date": "d", "flag": "f", "code": "k", "duration": "t"}
GENERATED = {
    "text": "Fee,Length\n" + "".join(f"{n}.5,{'unknown' if n % 17 == 3 else n * 7}\n" for n in range(50)),
    "ages": "Age,Deaths\n" + "".join(f"{n},{n * n % 97}\n" for n in range(22)),
    "running": "Entry,Fee\n" + "".join(f"{n + 300},{n * n % 97}\n" for n in range(25)),
}


class Case(NamedTuple):
    name: str
    kinds: str
    rows: int
    tells: tuple[str, ...]
    settings: dict[str, str]
    text: str


def cases() -> list[Case]:
    whole = (Path(__file__).parent / "tables.txt").read_text("utf-8")
    found = []
    for part in re.split(r"^== ", whole, flags=re.MULTILINE)[1:]:
        head, _, text = part.partition("\n")
        name, kinds, rows, tells, settings = (each.strip() for each in head.split("|"))
        said = dict(each.split("=") if "=" in each else (each, "") for each in settings.split())
        said_tells = tuple(each.strip() for each in tells.split(";") if each.strip())
        found.append(Case(name, kinds, int(rows), said_tells, said, GENERATED.get(said.get("generated", ""), text)))
    return found


CASES = cases()


def kinds_of(table: Table) -> str:
    return " ".join(("*" if field.total == "mean" else "") + LETTERS[field.kind] for field in table.fields)


def check(case: Case, path: Path) -> None:
    table, settings = read_found(path, ReadAs(leave_totals=True))
    told = "\n".join(each.sentence for each in findings(table, settings))
    wanted = case.kinds if "*" in case.kinds else kinds_of(table).replace("*", "")
    assert (kinds_of(table) if "*" in case.kinds else wanted) == case.kinds, (told, [s.why for s in table.sensed])
    assert table.rows == case.rows, told
    for part in case.tells:
        if path.suffix == ".txt" or part not in ("two-digit years",):
            assert part in told or any(part in each.why or part in each.value for each in settings), (part, told)


@pytest.mark.parametrize("case", CASES, ids=[case.name for case in CASES])
def test_a_table_is_read_as_it_was_meant(case: Case, tmp_path: Path) -> None:
    path = tmp_path / "table.txt"
    path.write_text(case.text, "utf-8")
    check(case, path)


def typed(text: str) -> object:
    """A value as a program would write it into a file of types: plain numbers and days are no text there."""
    if text == "":
        return None
    if re.fullmatch(r"-?(0|[1-9]\d{0,14})", text):
        return int(text)
    if re.fullmatch(r"-?(0|[1-9]\d*)\.\d+", text):
        return float(text)
    if re.fullmatch(r"\d{4}-\d\d-\d\d", text):
        return dt.datetime.fromisoformat(text)
    return text


MANY = [case for case in CASES if "formats" in case.settings]
assert len(MANY) >= 40 and len(CASES) >= 120


@pytest.mark.parametrize("case", MANY, ids=[case.name for case in MANY])
def test_the_same_table_has_the_same_kinds_in_every_format(case: Case, tmp_path: Path) -> None:
    heads, *rows = (row for row in csv.reader(io.StringIO(case.text)) if row)
    values = [[typed(each) for each in row] for row in rows]
    columns = [list(each) for each in zip(*values, strict=True)]
    plain = [
        column if len({type(each) for each in column} - {type(None)}) == 1 else [None if each is None else written(each) for each in column]
        for column in columns
    ]  # fmt: skip
    check(case, put_xlsx(tmp_path / "t.xlsx", [heads, *values]))
    check(case, put_ods(tmp_path / "t.ods", ("Rows", "".join(map(ods_row, [heads, *values])))))
    frame = pl.DataFrame({head: pl.Series(column, strict=False) for head, column in zip(heads, plain, strict=True)})
    frame.write_parquet(tmp_path / "t.parquet")
    check(case, tmp_path / "t.parquet")
    lines = [json.dumps(dict(zip(heads, map(as_json, row), strict=True))) for row in zip(*plain, strict=True)]
    (tmp_path / "t.jsonl").write_text("\n".join(lines), "utf-8")
    check(case, tmp_path / "t.jsonl")
    with sqlite3.connect(tmp_path / "t.sqlite") as connection:
        names = ", ".join(f'"{head}"' for head in heads)
        connection.execute(f"create table t ({names})")
        marks = ", ".join("?" * len(heads))
        connection.executemany(f"insert into t values ({marks})", [[as_json(each) for each in row] for row in zip(*plain, strict=True)])
    connection.close()
    check(case, tmp_path / "t.sqlite")


def as_json(value: object) -> object:
    return written(value) if isinstance(value, dt.datetime) else value


def written(value: object) -> str:
    return value.date().isoformat() if isinstance(value, dt.datetime) else str(value)
