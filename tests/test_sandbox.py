"""What a process that reads may do, and what is said when it does otherwise."""

from __future__ import annotations

import gc
import os
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from msgspec.structs import replace

from summula.core.preparation.sandboxed import add_formula
from summula.core.preparation.steps import AddFormula
from summula.core.preparation.workingout import column_of, worked_out
from summula.core.reading import readers
from summula.core.reading.previewing import preview
from summula.core.reading.readas import ReadAs
from summula.core.reading.readers import table_from_frame
from summula.core.reading.sandboxed import preview as preview_apart
from summula.core.reading.sandboxed import read_found
from summula.core.refusal import Refusal
from summula.core.sandbox import limits
from summula.core.sandbox.asking import Servant, ask
from summula.core.sandbox.landlock import version
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn
from summula.core.tables.table import Table
from summula.core.watch import Stopped
from tests.sandbox_faults import LIES, Fault

ROOT = Path(__file__).parent.parent


@pytest.fixture(scope="module")
def servant() -> Iterator[Servant]:
    patch = pytest.MonkeyPatch()
    patch.setenv("PYTHONPATH", os.pathsep.join([str(ROOT), os.environ.get("PYTHONPATH", "")]))
    made = Servant("tests.sandbox_faults")
    made.start()
    patch.undo()
    yield made
    made.stop()


def a_table() -> Table:
    """Every kind of column, with blanks and values that did not fit."""
    frame = pl.DataFrame(
        {
            "Route": ["Ness", None, "Skerry", "Ness"],
            "Sailed on": ["2024-05-01", "2024-05-02", "soon", ""],
            "Left at": ["2024-05-01 10:00", "2024-05-02 11:30", None, "2024-05-03 09:15"],
            "Takings": ["12.50", "", "1,400.25", "n/a"],
            "Crossing": ["1:05:00", "0:40:00", None, "2:00:00"],
            "Full": [True, False, None, True],
        }
    )
    return table_from_frame("Sailings", frame, {"Sailed on": "date"})


def arrays_of(column: Column) -> list[object]:
    match column:
        case CodedColumn():
            parts: list[object] = [column.codes, column.members]
        case NumberColumn():
            parts = [column.values, column.blank, column.decimals, column.per]
        case DateColumn():
            parts = [column.days, column.blank, column.seconds]
    return [each.tolist() if isinstance(each, np.ndarray) else each for each in [*parts, column.refused]]


def assert_alike(one: Table, two: Table) -> None:
    assert (one.fields, one.rows, one.sensed, one.ragged) == (two.fields, two.rows, two.sensed, two.ragged)
    assert list(map(arrays_of, one.columns)) == list(map(arrays_of, two.columns))


def told(servant: Servant, deeds: str, **more: object) -> str:
    with pytest.raises(Refusal) as refused:
        ask(Fault(deeds=deeds, **more), servant=servant)  # type: ignore[arg-type]
    return str(refused.value)


def test_tables_come_back_as_they_went(servant: Servant) -> None:
    table = a_table()
    answer = ask(Fault(deeds="back"), (table, replace(table, columns=(), fields=())), servant=servant)
    assert_alike(answer.tables[0], table)
    assert answer.tables[1].rows == 4 and not answer.tables[1].columns and answer.more == b"more"


def test_arrays_lie_where_they_were_written_and_nobody_can_change_them(servant: Servant) -> None:
    column = ask(Fault(deeds="back"), (a_table(),), servant=servant).tables[0].columns[3]
    assert isinstance(column, NumberColumn) and not column.values.flags.owndata
    with pytest.raises(ValueError, match="read-only"):
        column.values[0] = 1.0
    values = column.values
    del column
    gc.collect()
    assert values[0] == 1250.0  # they stay for as long as somebody looks at them


def test_a_refusal_comes_back_whole(servant: Servant) -> None:
    with pytest.raises(Refusal) as refused:
        ask(Fault(deeds="refuse"), servant=servant)
    found = refused.value
    assert (found.wrong, found.remedy, found.span, found.suggestion) == ("this is wrong ?", "do that", (1, 2), "that")


@pytest.mark.parametrize(
    ("deeds", "words"),
    [
        ("abort", "ended unexpectedly (SIGABRT)"),
        ("crash", "ended unexpectedly (SIGSEGV)"),
        ("panic", "ended unexpectedly (PanicException)"),
        ("leave", "ended unexpectedly (7)"),
        ("write_without_end", "ended unexpectedly"),
    ],
)
def test_a_sudden_end_is_a_sentence_and_the_next_is_read(servant: Servant, deeds: str, words: str) -> None:
    sentence = told(servant, deeds)
    assert sentence.startswith("reading 'harm.csv' ") and words in sentence and sentence.endswith("; choose another")
    assert ask(Fault(deeds="back"), servant=servant).more == b"more"


@pytest.mark.parametrize("deeds", ["fill", "fill_in_rust"])
def test_memory_has_a_bound(servant: Servant, deeds: str) -> None:
    assert "was stopped: it takes more than 1.5 GB of memory" in told(servant, deeds)


def test_work_has_a_bound(servant: Servant, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr(limits, "_LEAST_SECONDS", 1)
    monkeypatch.setenv("PYTHONPATH", os.pathsep.join([str(tmp_path), str(ROOT), os.environ.get("PYTHONPATH", "")]))
    (tmp_path / "a_second.py").write_text(
        "import sys, socket\nfrom summula.core.sandbox import limits\nlimits._LEAST_SECONDS = 1\n"
        "from tests.sandbox_faults import _decoded, make_processes\n"
        "make_processes(socket.socket(fileno=int(sys.argv[1])), _decoded)\n"
    )
    own = Servant("a_second")
    try:
        assert "was stopped: it takes more than 1 seconds of work" in told(own, "think")
    finally:
        own.stop()


def test_the_file_is_read_and_no_other(servant: Servant, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    if not version():
        pytest.skip("the kernel has no Landlock")
    named = tmp_path / "named.csv"
    named.write_bytes(b"named")
    assert ask(Fault(deeds="read", path=str(named)), servant=servant).more == b"named"
    assert ask(Fault(deeds="peek", path=str(named)), servant=servant).more == b""
    assert ask(Fault(deeds="touch", path=str(named)), servant=servant).more == b"kept"
    assert named.read_bytes() == b"named"
    link = tmp_path / "link.csv"
    link.symlink_to(named)
    assert ask(Fault(deeds="read", path=str(link)), servant=servant).more == b"named"


def test_nobody_is_called_and_nothing_killed(servant: Servant) -> None:
    if version() < 6:
        pytest.skip("the kernel's Landlock knows no network and no signals")
    with socket.create_server(("127.0.0.1", 0)) as listening:
        assert ask(Fault(deeds="call", size=listening.getsockname()[1]), servant=servant).more == b"kept"
    assert "PermissionError" in told(servant, "kill_parent")


@pytest.mark.parametrize("which", range(LIES))
def test_a_table_that_none_is_is_refused(servant: Servant, which: int) -> None:
    assert "makes no sense" in told(servant, "lie", size=which)


@pytest.mark.parametrize("deeds", ["think", "wait"])
def test_a_stop_ends_it_at_once(servant: Servant, deeds: str) -> None:
    seen: list[int] = []

    def watch(rows: int) -> None:
        seen.append(rows)
        if rows:
            raise Stopped

    with pytest.raises(Stopped):
        ask(Fault(deeds=deeds), watch=watch, servant=servant)
    assert seen[-1] == 5
    assert ask(Fault(deeds="back"), servant=servant).more == b"more"


def test_many_are_read_at_once(servant: Servant) -> None:
    found: list[Table] = []
    table = a_table()

    def read() -> None:
        found.extend(ask(Fault(deeds="back"), (table,), servant=servant).tables)

    threads = [threading.Thread(target=read) for _ in range(8)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    assert len(found) == 8
    for each in found:
        assert_alike(each, table)


def test_nothing_is_left_of_them(servant: Servant, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    ask(Fault(deeds="back"), servant=servant)  # so that whatever is kept is there
    gc.collect()
    files = open_files()
    for deeds in ("back", "refuse", "abort", "leave") * 3:
        with suppress(Refusal):
            ask(Fault(deeds=deeds), (a_table(),), servant=servant)
    gc.collect()
    assert open_files() <= files and not list(tmp_path.iterdir())


def test_one_that_makes_them_and_died_is_started_again(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PYTHONPATH", os.pathsep.join([str(ROOT), os.environ.get("PYTHONPATH", "")]))
    made = Servant("tests.sandbox_faults")
    try:
        assert ask(Fault(deeds="back"), servant=made).more == b"more"
        made.stop()
        assert ask(Fault(deeds="back"), servant=made).more == b"more"
    finally:
        made.stop()


def test_they_end_with_the_one_that_asked(servant: Servant, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PYTHONPATH", os.pathsep.join([str(ROOT), os.environ.get("PYTHONPATH", "")]))
    made = Servant("tests.sandbox_faults")
    with made.process() as process:
        number = process.number
        assert Path(f"/proc/{number}").exists()
        made.stop()
        until = time.monotonic() + 30
        while _runs(number) and time.monotonic() < until:
            time.sleep(0.01)
        assert not _runs(number)


def open_files() -> int:
    return len(list(Path("/proc/self/fd").iterdir()))


def _runs(number: int) -> bool:
    try:
        state = Path(f"/proc/{number}/stat").read_text().rpartition(")")[2].split()[0]
    except OSError:
        return False
    return state != "Z"


# -- what is read and worked out so ---------------------------------------------------------------------------


def test_files_read_apart_are_as_those_read_here(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "crossings.csv"
    path.write_text("Route;Paid\nNess;1,50\nSkerry;x\nNess\n")
    monkeypatch.chdir(tmp_path)
    for place in (path, Path("crossings.csv")):
        for kinds in ({}, {"Paid": "number"}):
            apart, found = read_found(place, None, kinds)  # type: ignore[arg-type]
            here, settings = readers.read_found(place, None, kinds)  # type: ignore[arg-type]
            assert_alike(apart, here)
            assert found == settings and (apart.name, apart.source) == (here.name, here.source)
    first, settings, whole = preview_apart(path, ReadAs(delimiter=","))
    here, same, all_ = preview(path, ReadAs(delimiter=","))
    assert_alike(first, here)
    assert (settings, whole) == (same, all_)


def test_names_that_are_no_text_are_read(tmp_path: Path) -> None:
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9.csv"))
    path.write_text("a,b\n1,2\n")
    assert read_found(path)[0].rows == 1


def test_formulas_worked_out_apart_are_as_those_worked_out_here() -> None:
    table = a_table()
    for text in ('"Takings" * 2', "Takings + 1", "Route || '!'", "1", '"Sailed on" > DATE \'2024-05-01\'', "UPPER(Route)"):
        done = add_formula(table, AddFormula("New", text), lambda name: table)
        kind, column = column_of(worked_out(table, text))
        assert done.table.field("New").kind == kind
        assert arrays_of(done.table.column("New")) == arrays_of(column)
    with pytest.raises(Refusal, match="did you mean") as refused:
        add_formula(table, AddFormula("New", "Takngs + 1"), lambda name: table)
    assert refused.value.span == (0, 6)


def test_a_file_of_thousands_of_fields_is_asked_for_and_comes_back(tmp_path: Path) -> None:
    names = [f"{at} is the number of a field of a rather long name" + " indeed" * 12 for at in range(1_900)]  # over 200 kB
    path = tmp_path / "wide.csv"
    path.write_text(",".join(f'"{each}"' for each in names) + "\n" + ",".join("1" for _ in names) + "\n")
    table, _ = read_found(path, None, dict.fromkeys(names, "number"))
    assert len(table.fields) == 1_900 and table.rows == 1
