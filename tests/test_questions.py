"""Small tables and questions whose answers, or refusals, are plain to see: asked as a person asks, on the command line."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from summula.cli import main

ODD = "V,K,-,month of,D,top 5,First.Name,Code\n1,blank,a,m1,2024-01-05,top 5,x,007\n7,not,-,m2,2024-05-06,p,y,7\n10,top 5,b,m1,2025-01-01,p,z,08\n"
YEARS = "Y,M,V\n2013,Mar,5\n2014,Apr,7\n2015,Mar,11\n"
DAYS = "D\n1999-12-27\n2000-01-03\n2000-04-16\n"
GROUPS = "A,B\na,x\na,x\na,y\na,z\nb,y\nb,y\nb,w\n"
CASES = "T\nABC\nabc\nabd\nÉmil\n"


def ask(tmp_path: Path, capsys: pytest.CaptureFixture[str], table: str, phrase: str, *options: str) -> tuple[int, str, str]:
    source = tmp_path / "t.csv"
    source.write_text(table)
    code = main(["ask", str(source), phrase, "--format", "json", *options])
    out, err = capsys.readouterr()
    return code, out, err


@pytest.mark.parametrize(
    ("table", "phrase", "cells"),
    [
        ("A,B\na,x\na,y\nb,x\n", "show rows by A then B keeping top 1 B by rows gathering the rest",
         [["a", 2], ["a", "x", 1], ["a", {"others": 1}, 1], ["b", 1], ["b", "x", 1], [3]]),
        (DAYS, "show rows where D is under 2000-Q1", [[1]]), (DAYS, "show rows where D is at least 2000-Q1", [[2]]),
        (DAYS, "show rows where D is from 2000-W01 to 2000-W02", [[1]]), (DAYS, "show rows where D is at least 2000", [[2]]),
        (DAYS, "show rows where D is 2000-01 or 1999", [[2]]), (DAYS, "show rows where D is not 2000-H1", [[1]]),
        ("V\n0.3\n0.6\n0.7\n", "show rows by V in bands of 0.1", [[[0.3, 0.4], 1], [[0.6, 0.7], 1], [[0.7, 0.8], 1], [3]]),
        ("V\n0.3\n", "show rows by V in bands of 0.1 from 0 to 0.5", [[[0.3, 0.4], 1], [1]]),
        ("V\n2.3\n", "show rows by V in bands of 0.25 from 1.05", [[[2.3, 2.55], 1], [1]]),
        ("V\n1\n7\n", "show rows by V in bands of 10 from 50", [[[None, 50], 2], [2]]),
        ("V\n100\n", "show rows by V in bands of 10 to 60", [[[60, None], 1], [1]]),
        (ODD, "show rows by month of D where K is top 5 keeping top 5 K by rows", [[1, 1], [1]]),
        (ODD, "show rows by month of where - is -", [["m2", 1], [1]]), (ODD, "show V - 3 where K is not", None),
        (ODD, "show count of - - 1", [[2]]), (ODD, 'show rows where K is not "blank"', [[2]]),
        (ODD, "show rows where Code is 007", [[1]]), (ODD, "show rows where Code is 08 or 7", [[2]]),
        (YEARS, "show sum of V as change on previous Y by Y then M", [[2013, None], [2013, "Mar", None], [2014, 2], [2014, "Apr", None], [2015, 4], [2015, "Mar", None], [None]]),
        ("D,V\n2023-05-01,2\n2024-05-03,5\n2024-06-01,7\n", "show sum of V as change on a year earlier by year of D then year-month of D",
         [[2023, None], [2023, "2023-05", None], [2024, 10], [2024, "2024-05", 3], [2024, "2024-06", None], [None]]),
        ("V\n1\n11\n12\n25\n31\n32\n33\n", "show rows as change on previous V in bands of 10 by V in bands of 10 keeping top 2 V in bands of 10 by rows",
         [[[10, 20], None], [[30, 40], 1], [None]]),
        ("A,B\n,x\na,y\n", "show rows by A then B where A is a with every member", [["a", 1], ["a", "y", 1], [1]]),
        (GROUPS, "show rows by A then B keeping top 1 B by rows in each A gathering the rest",
         [["a", 4], ["a", "x", 2], ["a", {"others": 2}, 2], ["b", 3], ["b", "y", 2], ["b", {"others": 1}, 1], [7]]),
        (CASES, "show rows by T where T is ABC", [["ABC", 1], [1]]), (CASES, "show rows by T where T is ABD", [["abd", 1], [1]]),
        (CASES, 'show rows where T contains "em"', [[1]]), (CASES, "show rows where T is over abc", [[2]]),
        ("V\n0.12345678\n-0.02345678\n-0.1\n", "show sum of V and range of V", [[0, 0.22345678]]),
        ("V\n1e20\n1.5\n-1e20\n", "show sum of V", [[1.5]]),
        ("D\n2024-01-01 10:00\n2024-01-01 12:00\n2024-01-02 09:00\n", "show distinct count of D", [[2]]),
        ("F,V\nyes,1\nno,2\n", "show rows where F is TRUE", [[1]]),
    ],
)  # fmt: skip
def test_a_question_has_its_answer(
    table: str, phrase: str, cells: list[list[Any]] | None, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    kinds = ["--kind", "Y=number"] if table == YEARS else []
    code, out, err = ask(tmp_path, capsys, table, phrase, *kinds)
    if cells is None:
        assert code == 1 and err.startswith("summula: ")
        return
    assert code == 0, err
    answer = json.loads(out)
    found = [[*cell["by"], *cell["values"]] for cell in answer["cells"]]
    assert sorted(map(str, found)) == sorted(map(str, [_floats(cell) for cell in cells])) or _floats(found) == _floats(cells)
    # What is printed reads back, and has the same answer.
    assert json.loads(ask(tmp_path, capsys, table, answer["phrase"], *kinds)[1]) == answer


def _floats(value: Any) -> Any:
    return [_floats(each) for each in value] if isinstance(value, list) else value


@pytest.mark.parametrize(
    ("table", "phrase", "at", "meant"),
    [
        (ODD, "show average of V", "average of", "mean of"), (ODD, "show avg", "avg", "mean of"), (ODD, "show total of V", "total of", "sum of"),
        (ODD, "show sum V", "sum", "sum of"), (ODD, "select sum of V", "select", "show"), (ODD, "show sum(V)", "sum(", "sum of"),
        (ODD, "show rows where V > 5", ">", "is over"), (ODD, "show rows where V>=5", ">=", "is at least"), (ODD, "show rows where V = 5", "=", "is"),
        (ODD, "show rows where V != 5", "!=", "is not"), (ODD, "show rows where V between 1 and 5", "between", "is from A to B"),
        (ODD, "show rows where K in (a, b)", "in (", "is A or B"), (ODD, "show rows where V is greater than 5", "is greater than", "is over"),
        (ODD, "show rows group by K", "group by", "by"), (ODD, "show rows by K desc", "desc", "largest first"), (ODD, "show V, K", ",", "and"),
        (ODD, "show rows limit 5", "limit", "keeping top"), (ODD, "show count(*)", "count(*)", "rows"), (ODD, "show rows where K is null", "null", "is blank"),
        (DAYS, "show rows where D is over \"May\"", '"May"', "2024-05-31"), (DAYS, "show rows where D is 2024-13-45", "2024-13-45", "2024-05-31"),
        (DAYS, "show rows where month of D is 13", "13", "from 1 to 12"), (ODD, "show rows where K is over 5", "5", "in quotes"),
        (DAYS, "show rows where year of D is 2000-05", "2000-05", "ask of 'D' itself"), (ODD, "show rows where V is from 7 to 1", "7", "smaller one first"),
        (ODD, "show 1e309", "1e309", "at most"), (ODD, "show rows by V in bands of 1e308", "1e308", "at most"),
        (ODD, "show " + " + ".join(["V"] * 900), "+", "shorter"), (ODD, f"show {'(' * 1000}V{')' * 1000}", "(", "remove some"),
        (ODD, "show V by K keeping top 50% of K by mean of V", "mean of V", "sum or a count"),
        (ODD, "show V as change on previous D by K", "V as change on previous D", "by or across"),
        ("A,V\na,5\nb,-7\n", "show V by A keeping top 50% of A by V", "show V by A keeping top 50% of A by V", "number of members"),
        (CASES + "aBC\n", "show rows where T is aBc", "aBc", "the one that you mean"),
    ],
)  # fmt: skip
def test_a_question_without_an_answer_is_refused_at_its_place(
    table: str, phrase: str, at: str, meant: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code, out, err = ask(tmp_path, capsys, table, phrase)
    assert (code, out) == (1, "") and err.count("\n") == 1 and err.startswith("summula: ")
    assert f"(at '{at}', sign {phrase.index(at) + 1})" in err or (at in "+(" and f"(at '{at}', sign " in err)
    assert meant in err


def test_a_name_read_otherwise_than_written_is_told(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    _, out, err = ask(tmp_path, capsys, CASES, "show rows where T is ABD")
    assert json.loads(out)["phrase"] == "show rows where T is abd" and err == "summula: 'T' has no 'ABD'; 'abd' was taken\n"


def test_limits_of_bands_are_written_as_the_field_is(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    source = tmp_path / "t.csv"
    source.write_text('V\n"1,000"\n1200\n')
    assert main(["ask", str(source), "show rows by V in bands of 500"]) == 0
    assert "1,000 to under 1,500" in capsys.readouterr().out


def test_how_a_file_was_read_is_told_where_it_matters(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    rows = "".join(f"{n % 9 + 1}/{n % 8 + 1}/2024,{n % 50}\n" for n in range(120))
    _, _, err = ask(tmp_path, capsys, f"On,Fee\n{rows}1/2/2024,lost\n", "show rows")
    assert err == (
        "summula: dates: day first, in doubt (On: no part is above 12, so it could also be month first)\n"
        "summula: 1 value of 'Fee' does not fit a number ('lost'); counted as blank\n"
    )
    assert ask(tmp_path, capsys, DAYS, "show rows")[2] == ""


HOURS = "Crew,Role,Worked,Fee\nAnn,Mate,36:15:00,360\nBo,Cook,41:30:00,400\nCy,Mate,8:05:30,80\nDi,Cook,12:00:00,90\n"


def test_lengths_of_time_add_up_in_hours(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    _, record, _ = ask(tmp_path, capsys, HOURS, "show sum of Worked by Role")
    record = json.loads(record)
    figures = {tuple(cell["by"]): cell["values"][0] for cell in record["cells"]}
    assert figures == {("Cook",): 53.5, ("Mate",): (36 * 3600 + 15 * 60 + 8 * 3600 + 330) / 3600, (): 97 + (50 * 60 + 30) / 3600}
    for phrase, rows in {"Worked is over 10:00": 3, "Worked is 8:05:30": 1, "Worked is at most 12": 2, 'Worked is "41:30"': 1}.items():
        record = json.loads(ask(tmp_path, capsys, HOURS, f"show rows where {phrase}")[1])
        assert record["cells"][-1]["values"] == [rows], phrase
    assert main(["ask", str(tmp_path / "t.csv"), "show sum of Worked and max of Worked by Worked in bands of 20"]) == 0
    shown = capsys.readouterr().out
    assert "0:00 to under 20:00" in shown and "20:05:30" in shown and "97:50:30" in shown

