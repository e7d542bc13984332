"""Tables that keep to their format and say in it what nobody meant: each is read in a process with limits, or refused."""

from __future__ import annotations

import os
import tempfile
import warnings
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from summula.core.reading import previewing, readers
from summula.core.reading.readas import ReadAs
from summula.core.reading.sandboxed import preview, read_table
from summula.core.refusal import Refusal
from summula.core.statistics.distribution import describe
from summula.core.tables.table import Table
from summula.core.tables.texts import texts_of
from tests.hostile_tables import SECRET, put_hostile

MANY = int(os.environ.get("SUMMULA_TABLES", "300"))
AT_ONCE = 30
ENDED = ("ended unexpectedly", "was stopped", "went wrong", "no process")  # what a process tells that died or went over its limits


def read_whole(table: Table) -> None:
    """Every value is there, and can be said."""
    assert len(table.fields) == len(table.columns) and len({field.name for field in table.fields}) == len(table.fields)
    for field, column in zip(table.fields, table.columns, strict=True):
        texts = texts_of(field.name, column)
        assert len(texts) == column.rows == table.rows and not texts.str.contains(SECRET, literal=True).any()
    describe(table)


@pytest.mark.parametrize("first", range(0, MANY, AT_ONCE))
def test_every_hostile_table_is_read_or_refused(first: int, tmp_path: Path) -> None:
    (tmp_path / "secret.txt").write_text(SECRET)
    for number in range(first, first + AT_ONCE):
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of two entries of one name
            path = put_hostile(tmp_path, number)
        tables = list[Table]()
        for read in (lambda path=path: read_table(path), lambda path=path: preview(path, ReadAs())):  # type: ignore[misc]
            try:
                found = read()
            except Refusal as refusal:
                assert not any(each in refusal.wrong for each in ENDED), f"{path.name}: {refusal}"
                assert (path.name in refusal.wrong or refusal.wrong.startswith("the table has ")), f"{path.name}: {refusal}"
                assert "\n" not in str(refusal) and len(refusal.wrong) <= 600, f"{path.name}: {refusal}"
            else:
                table, whole = (found[0], found[2]) if isinstance(found, tuple) else (found, True)
                read_whole(table)
                tables += [table] if whole else []
        if len(tables) == 2:  # what the preview has read to the end is what is read
            assert [each.name for each in tables[0].fields] == [each.name for each in tables[1].fields], path.name
            assert tables[0].rows == tables[1].rows, path.name
        assert [each.name for each in tmp_path.iterdir() if each not in (path, tmp_path / "secret.txt")] == []
        path.unlink()


@pytest.mark.parametrize("end", ["", "\n", "\x1a"])
@pytest.mark.parametrize("before", ["# note\n", "\n\n\n", '"Report, of May"\n\n', ""])
def test_heads_in_the_last_line_are_no_row(before: str, end: str, tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text(f"{before}Boat,Pier,Since{end}")
    table = read_table(path, ReadAs(head=before.count("\n") + 1))
    assert table.rows == 0 and [field.name for field in table.fields][:2] == ["Boat", "Pier"]


@pytest.mark.parametrize("entry", ["t.csv", "../../t.csv", "a/\u202et.csv", "C:\\boats\\t.csv", "é" * 200 + ".csv"])
def test_what_is_wrong_in_an_archive_is_told_by_its_name(entry: str, tmp_path: Path) -> None:
    path = tmp_path / "boats of May.zip"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr(entry, 'a,b\n1,"x\n2,y\n')
    with pytest.raises(Refusal, match=r"in line 2 of 'boats of May\.zip › .*\.csv' is never closed"):
        read_table(path)


ROW = st.lists(st.sampled_from(["", " ", "a", "1", "\t ", '""', '" "', "é"]), min_size=1, max_size=3)


@given(rows=st.lists(ROW, min_size=1, max_size=8), end=st.sampled_from(["\n", "\r\n", "\r"]), odd=st.sampled_from(["", "\r", "\n"]), last=st.booleans())
def test_what_is_shown_of_a_file_is_what_is_read(rows: list[list[str]], end: str, odd: str, last: bool) -> None:
    """Gaps, blank cells, spaces and line ends of every sort: a short file's preview has the rows that are read."""
    whole = f"Boat,Pier,Since{end}" + odd + end.join(map(",".join, rows)) + end * last
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "t.csv"
        path.write_text(whole, newline="")
        found, (seen, _, complete) = readers.read_table(path), previewing.preview(path, ReadAs())
    assert complete and found.rows == seen.rows and found.fields == seen.fields
    texts = [texts_of(field.name, column).to_list() for field, column in zip(found.fields, found.columns, strict=True)]
    assert all(len(each) == found.rows for each in texts)


@pytest.mark.parametrize(("name", "digits"), [("t.jsonl", 20), ("t.jsonl", 38), ("t.json", 20), ("t.json", 40), ("t.json", 400)])
def test_numbers_of_any_length_are_read(name: str, digits: int, tmp_path: Path) -> None:
    path, around = tmp_path / name, "{}\n{}\n" if name == "t.jsonl" else "[{},{}]"
    path.write_text(around.replace("{}", '{"id": ' + "7" * digits + ', "n": 1}', 1).replace("{}", '{"id": 3, "n": 2}'))
    table = read_table(path)
    assert table.rows == 2 and texts_of("id", table.column("id")).to_list()[1] in ("3", "3.0")


def test_text_that_is_not_what_its_mark_says_is_shown_as_it_is_read(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_bytes(b"\xef\xbb\xbfBoat,Fee\nTern \xe9t\xe9,1\nAuk,2\n")
    assert texts_of("Boat", preview(path, ReadAs())[0].columns[0]).to_list() == texts_of("Boat", read_table(path).columns[0]).to_list()
