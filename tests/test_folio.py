"""The document: saved whole or not at all, opened with suspicion, undone step by step; and the command line."""

from __future__ import annotations

import csv
import datetime as dt
import hashlib
import importlib.util
import io
import json
import subprocess
import sys
import zipfile
from pathlib import Path

import jsonschema
import msgspec
import polars as pl
import pytest
from openpyxl import load_workbook

from summula.cli import main
from summula.core.boards.arrangement import placed, without_panel
from summula.core.boards.board import Place
from summula.core.fields.heading import Heading
from summula.core.folio.dictionary import described_by
from summula.core.folio.file import json_schema, open_folio, save_folio
from summula.core.folio.history import History
from summula.core.folio.kept import keep, open_kept
from summula.core.folio.model import FORMAT, Folio, TableEntry
from summula.core.folio.opened import Opened, entry_of
from summula.core.folio.rereading import read_again, reading_account
from summula.core.reading.readas import ReadAs
from summula.core.reading.readers import read_table
from summula.core.refusal import Refusal
from summula.core.tables.encoding import series_of
from summula.core.tables.table import Table
from summula.demo import ready
from summula.demo.company import CLOSED_FROM, CLOSED_ROUTE, CLOSED_TO, sailings

DOCS = Path(__file__).parents[1] / "docs"


def same_rows(first: Opened, second: Opened) -> bool:
    return all(
        series_of(f.name, first.tables[key].column(f.name)).equals(series_of(f.name, table.column(f.name)))
        for key, table in second.tables.items()
        for f in table.fields
    )


def test_what_is_saved_opens_the_same(demo: Opened, tmp_path: Path) -> None:
    path = tmp_path / "demo.summula"
    save_folio(path, demo.folio, demo.tables)
    opened = open_folio(path)
    assert opened.folio == demo.folio
    assert same_rows(opened, demo)
    assert [p.name for p in tmp_path.iterdir()] == ["demo.summula"]  # no temporary file is left
    with zipfile.ZipFile(path) as archive:  # an open format: anyone can read it
        told = json.loads(archive.read("folio.json"))
        jsonschema.validate(told, json_schema())
        frame = pl.read_parquet(io.BytesIO(archive.read("tables/t1.parquet")))
    assert frame.height == sailings().height and frame["Takings"].dtype == pl.Decimal(38, 2)
    keep(tmp_path / "kept", demo)
    assert open_kept(tmp_path / "kept").folio == demo.folio and same_rows(open_kept(tmp_path / "kept"), demo)


SCHEMAS = {6: "07b173b30835600a"}  # what each format's schema comes to: a changed schema needs a new number, and a way to it


@pytest.mark.parametrize("path", sorted((Path(__file__).parent / "folios").iterdir()), ids=lambda path: path.stem)
def test_folios_of_every_format_open_as_they_were(path: Path, tmp_path: Path) -> None:
    with zipfile.ZipFile(path) as archive:
        said = json.loads(archive.read("folio.json"))
        stored = {name: pl.read_parquet(archive.read(name)) for name in archive.namelist() if name.endswith(".parquet")}
    opened = open_folio(path)
    assert opened.problems == () and f"format-{said['format']}" == path.stem
    told = json.loads(msgspec.json.encode(opened.folio))
    assert [each["name"] for each in told["summaries"]] == [each["name"] for each in said["folio"]["summaries"]]
    assert [len(each["panels"]) for each in told["boards"]] == [len(each["panels"]) for each in said["folio"]["boards"]]
    assert told.get("levers") == said["folio"].get("levers")
    for source, table in opened.tables.items():
        frame = stored[f"tables/{source}.parquet"]
        assert [field.name for field in table.fields] == frame.columns
        assert all(series_of(name, table.column(name)).to_list() == frame[name].to_list() for name in frame.columns)
    strong = [panel.emphasis.number for board in opened.folio.boards for panel in board.panels if getattr(panel, "emphasis", None)]
    assert strong == [5, 3]
    if said["format"] >= 2:  # what a measure looks like goes by the measure
        styled, signed = opened.folio.summary("s3"), opened.folio.summary("s5")
        assert [each.style.goal_lever for each in styled.measures] == ["Aim"] and styled.measures[0].measure == styled.phrase.measures[0]
        assert [each.style.signs for each in signed.measures] == [True]
    save_folio(tmp_path / "again.summula", opened.folio, opened.tables)
    assert open_folio(tmp_path / "again.summula").folio == opened.folio


def test_a_changed_schema_has_a_number_of_its_own() -> None:
    text = json.dumps(json_schema(), sort_keys=True).encode()
    assert SCHEMAS[FORMAT] == hashlib.sha256(text).hexdigest()[:16], "raise FORMAT: see core/folio/migrations.py"
    oldest = {int(path.stem.split("-")[1]) for path in (Path(__file__).parent / "folios").iterdir()}
    assert oldest == set(range(1, FORMAT)), "keep a folio of every earlier format"


def test_the_schema_in_the_docs_is_current() -> None:
    assert json.loads((DOCS / "folio.schema.json").read_text("utf-8")) == json.loads(json.dumps(json_schema()))


def test_the_page_about_charts_is_current() -> None:
    page = (DOCS / "charts.md").read_text("utf-8")
    spec = importlib.util.spec_from_file_location("write_charts_page", DOCS / "write_charts_page.py")
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    assert module.written(page) == page, "run docs/write_charts_page.py"


def rewritten(path: Path, change: dict[str, bytes | None]) -> None:
    with zipfile.ZipFile(path) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    parts.update({name: content for name, content in change.items() if content is not None})
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in parts.items():
            if not (name in change and change[name] is None):
                archive.writestr(name, content)


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ({"folio.json": b'{"application": "Summula", "format": 99, "folio": {}}'}, "newer Summula"),
        ({"folio.json": b'{"application": "Other", "format": 1}'}, "is not a folio"),
        ({"folio.json": b'{"application": "Summula", "format": 1, "folio": {"name": 3}}'}, "does not know"),
        ({"folio.json": b"{"}, "damaged"),
        ({"folio.json": None}, "not a folio"),
    ],
)
def test_damaged_foreign_and_hostile_folios(
    change: dict[str, bytes | None], told: str, demo: Opened, tmp_path: Path
) -> None:
    path = tmp_path / "x.summula"
    save_folio(path, demo.folio, demo.tables)
    rewritten(path, change)
    before = path.read_bytes()
    with pytest.raises(Refusal, match=told) as caught:
        open_folio(path)
    assert caught.value.remedy and path.read_bytes() == before


@pytest.mark.parametrize(
    ("rows", "told"),
    [(None, "lacks the rows of 'Sailings'"), (b"PAR1 rubbish PAR1", "damaged"), (b"0" * 50_000_000, "impossibly large")],
)
def test_rows_that_cannot_be_read_are_set_aside(rows: bytes | None, told: str, demo: Opened, tmp_path: Path) -> None:
    path = tmp_path / "x.summula"
    save_folio(path, demo.folio, demo.tables)
    rewritten(path, {"tables/t1.parquet": rows})
    opened = open_folio(path)
    (problem,) = opened.problems
    assert problem.page == "t1" and told in problem.sentence
    assert opened.folio == demo.folio and opened.tables["t1"].rows == 0 and opened.prepared()["t1"].rows == 0


def test_a_truncated_folio_and_a_place_that_cannot_be_written(demo: Opened, tmp_path: Path) -> None:
    path = tmp_path / "x.summula"
    save_folio(path, demo.folio, demo.tables)
    whole = path.read_bytes()
    path.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(Refusal, match="damaged or not a folio"):
        open_folio(path)
    with pytest.raises(Refusal, match="could not be saved"):
        save_folio(tmp_path / "nowhere" / "x.summula", demo.folio, demo.tables)
    path.write_bytes(whole)
    unlike = {"t1": demo.tables["t1"]}  # rows of one table missing: saving fails half way
    with pytest.raises(KeyError):
        save_folio(path, demo.folio, unlike)
    assert path.read_bytes() == whole


@pytest.mark.parametrize(
    ("text", "told", "meant"),
    [
        ("Takings,What the office calls net 2\nroute , From and to\n", "2 of 8", "What the office calls net 2"),
        ("what it is,name\nMoney  taken,TAKINGS\n,Route\nof no use,Other\n", "1 of 8", "Money taken"),
        ("no,field,kind,meaning\n1,Takings,money,What was paid on board\n2,Weather,text,At noon in the log\n",
         "2 of 8 fields are described now, by the column 'meaning'", "What was paid on board"),
    ],
)  # fmt: skip
def test_a_data_dictionary(text: str, told: str, meant: str, demo: Opened, tmp_path: Path) -> None:
    path = tmp_path / "words.csv"
    path.write_text(text)
    entry = demo.folio.table("t1")
    described, sentence = described_by(entry, path)
    assert sentence.startswith(told.replace("8", str(len(entry.fields)), 1))
    assert next(field.description for field in described.fields if field.name == "Takings") == meant
    for other, wrong in (("a,b\n1,2\n", "describes none"), ("Takings\nRoute\n", "has one column")):
        path.write_text(other)
        with pytest.raises(Refusal, match=wrong):
            described_by(entry, path)


def test_a_new_file_is_read_as_the_one_before_where_it_leaves_that_open(tmp_path: Path) -> None:
    """Days and months do not change places because a month has no day above 12; where they do, it is said."""
    path = tmp_path / "fares.csv"

    def put(*rows: str) -> None:
        path.write_text("\n".join(["On;Fee;Berth", *rows * 30, ""]))

    def again(entry: TableEntry, table: Table) -> tuple[TableEntry, Table, str]:
        reread = read_again(entry, None, "")
        now = (reread.entry, reread.tables["t1"])
        return *now, reading_account((entry, table), now)

    put("01/31/2024;1,5;7")
    first = read_table(path)
    entry = entry_of("t1", first)
    put("03/04/2024;1.234;8")
    entry, table, sentence = again(entry, first)
    assert series_of("On", table.column("On"))[0] == dt.date(2024, 3, 4) and table.number("Fee").values[0] == 1234
    assert [each.doubt for each in table.sensed] == [False] * 3 and table.sensed[0].why.startswith("read so before; no part")
    assert sentence == "fares was read again: as many rows as before"
    assert entry.source.read_as == ReadAs()  # nobody has said it
    put("05/06/2024;7;9")
    entry, table, _ = again(entry, table)  # and so on from file to file
    assert series_of("On", table.column("On"))[0] == dt.date(2024, 5, 6) and not table.sensed[0].doubt
    put("25/06/2024;2.50;9")
    entry, table, sentence = again(entry, table)
    assert series_of("On", table.column("On"))[0] == dt.date(2024, 6, 25)
    assert "On is read day first now: 30 values have a day above 12" in sentence
    put("02/01/2024;2.50;9")
    entry, table, _ = again(entry, table)
    assert table.sensed[0].reading == "day first"
    put("02/01/2024;2.50;9", "soon;lost;9")
    _, table, sentence = again(entry, table)
    assert sentence.endswith("+30 rows · 30 more values of On refused · 30 more values of Fee refused")
    assert table.column("Fee").refused[0].text == "lost"


def test_history() -> None:
    first = Folio("a")
    history = History.begun(first)
    assert history.undo() is history and history.undo_name == ""
    history = history.did(Folio("b"), "Rename").did(Folio("b"), "Nothing").did(Folio("c"), "Again")
    assert (history.undo_name, len(history.done)) == ("Again", 3)
    back = history.undo().undo()
    assert back.folio == first and back.redo_name == "Rename"
    assert back.redo().redo().folio == Folio("c")
    assert back.did(Folio("d"), "Other").undone == ()


def test_arranging_keeps_panels_apart_and_inside(demo: Opened) -> None:
    board = demo.folio.boards[0]
    moved = placed(board, "p18", Place(20, 0, 12, 9))
    places = [panel.place for panel in moved.panels]
    assert moved.panel("p18").place == Place(12, 0, 12, 9)
    assert all(p.column + p.width <= 24 for p in places)
    assert not any(a.overlaps(b) for a in places for b in places if a is not b)
    fewer = without_panel(board, "p18")
    assert len(fewer.panels) == len(board.panels) - 1


def test_the_demos_world_holds_what_is_to_be_found() -> None:
    rows = sailings()
    assert 23_000 < rows.height < 25_000 and str(rows["Sailed on"].max()) == "2025-11-11"
    assert (rows["Route"].n_unique(), rows["Vessel"].n_unique(), rows["Ticket"].n_unique()) == (11, 9, 8)
    fit = rows.select(pl.corr("Passengers", "Takings") ** 2).item()
    assert 0.80 < fit < 0.90
    net = (
        rows.group_by(pl.col("Sailed on").dt.month().alias("m"))
        .agg((pl.col("Takings") - pl.col("Running cost")).sum().alias("n"))
        .sort("m")
    )
    assert (net.filter(pl.col("m").is_in([1, 2]))["n"] < 0).all() and (
        net.filter(pl.col("m").is_in([7, 8]))["n"] > 0
    ).all()
    closed = rows.filter(
        (pl.col("Route") == CLOSED_ROUTE)
        & pl.col("Sailed on").is_between(pl.lit(CLOSED_FROM).cast(pl.Date), pl.lit(CLOSED_TO).cast(pl.Date))
    )
    assert closed.is_empty()
    dunlin = (
        rows.filter(pl.col("Vessel") == "Dunlin")
        .group_by("Route")
        .agg(pl.col("Sailed on").min().alias("a"), pl.col("Sailed on").max().alias("z"))
    )
    assert dunlin.height == 2 and dunlin["a"].max() > dunlin["z"].min()  # type: ignore[operator]
    delay = rows["Delay (min)"]
    assert delay.null_count() > 100 and delay.max() > 1000 and (rows["Takings"] < 0).sum() > 50  # type: ignore[operator]
    assert rows.equals(sailings())


# -- the command line ----------------------------------------------------------------------------------


@pytest.fixture
def source(tmp_path: Path) -> str:
    path = tmp_path / "boats.csv"
    path.write_text("Boat,On,Paid,=Risk\nTern,2024-01-31,1.50,=1+1\nTern,2024-05-01,2.25,x\nGull,2025-01-01,,x\n")
    return str(path)


def test_ask_in_every_format(source: str, capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    assert main(["ask", source, "show Paid by Boat across year of On", "--format", "json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["phrase"] == "show Paid by Boat across year of On"
    assert (told["rows_read"], told["rows_used"], told["by"], told["across"]) == (3, 3, ["Boat"], ["year of On"])
    assert told["measures"] == ["sum of Paid"]
    cells = {(tuple(c["by"]), tuple(c["across"])): c["values"] for c in told["cells"]}
    assert cells == {
        (("Tern",), (2024,)): [3.75], (("Gull",), (2025,)): [None], (("Tern",), ()): [3.75], (("Gull",), ()): [None],
        ((), (2024,)): [3.75], ((), (2025,)): [None], ((), ()): [3.75],
    }  # fmt: skip
    assert main(["ask", source, 'show rows by "=Risk"', "--to", str(tmp_path / "o.csv")]) == 0
    lines = list(csv.reader((tmp_path / "o.csv").open(newline="")))
    assert lines == [["'=Risk", "rows"], ["'=1+1", "1"], ["x", "2"], ["All", "3"]]
    assert main(["ask", source, "show mean of Paid by Boat", "--format", "md"]) == 0
    assert "| Tern | 1.88 |" in capsys.readouterr().out
    assert main(["ask", source, "show rows by month of On"]) == 0
    assert "Jan" in capsys.readouterr().out
    assert main(["fields", source, "--json", "--kind", "Boat=code"]) == 0
    fields = {f["name"]: f for f in json.loads(capsys.readouterr().out)}
    assert fields["Boat"]["kind"] == "code"
    assert fields["On"] == {
        "name": "On",
        "kind": "date",
        "rows": 3,
        "blanks": 0,
        "distinct": 3,
        "min": "2024-01-31",
        "max": "2025-01-01",
    }
    assert (fields["Paid"]["blanks"], fields["Paid"]["min"]) == (1, 1.5)


def test_the_command_line_on_a_folio(demo: Opened, capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    path = tmp_path / "demo.summula"
    save_folio(path, demo.folio, demo.tables)
    assert main(["ask", str(path), "show rows", "--table", "monthly targets", "--format", "json"]) == 0
    assert json.loads(capsys.readouterr().out)["cells"][0]["values"] == [demo.tables["t2"].rows]
    target = tmp_path / "board.png"
    assert main(["render", str(path), "Season at a glance", "--to", str(target), "--size", "900x600"]) == 0
    assert target.read_bytes().startswith(b"\x89PNG") and target.stat().st_size > 20_000
    assert main(["demo", "--files", str(tmp_path / "files")]) == 0
    written = sorted(p.name for p in (tmp_path / "files").iterdir())
    assert written == ["monthly-targets.csv", "monthly-targets.xlsx", "sailings.csv", "sailings.xlsx"]
    capsys.readouterr()


def test_the_next_month_comes_by_the_command_line(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    files, kept = tmp_path / "demo", tmp_path / "demo" / "ferries.summula"

    def shell(*arguments: str | Path) -> str:
        assert main([str(each) for each in arguments]) == 0
        return capsys.readouterr().out

    def figures(phrase: str) -> list[float]:
        return json.loads(shell("ask", kept, phrase, "--format", "json"))["cells"][-1]["values"]

    shell("demo", "--files", files)
    shell("demo", "--folio", kept)  # beside its files, and so read from them
    begun = figures("show rows")[0]
    told = shell("demo", "--next-month", "--files", files)
    more = int(told.split()[0].replace(",", ""))
    assert more > 100 and figures("show rows")[0] == begun  # the folio keeps what it has until it is asked to look
    sentences = shell("refresh", kept).splitlines()
    assert sentences == [f"Sailings was read again: +{more} rows", "Monthly targets was read again: as many rows as before"]
    assert figures("show rows")[0] == begun + more
    book = tmp_path / "out.xlsx"
    shell("ask", kept, 'show sum of Takings by year of "Sailed on"', "--format", "xlsx", "--to", book)
    sheet = load_workbook(book).active
    total = [cell.value for cell in list(sheet.iter_rows())[-1]][-1]
    assert total == pytest.approx(figures("show sum of Takings")[0])

    before = kept.read_bytes()
    (files / "sailings.csv").rename(files / "elsewhere.csv")
    assert main(["refresh", str(kept)]) == 1 and "there is no file" in capsys.readouterr().err
    assert kept.read_bytes() == before  # nothing is lost with a source
    assert shell("refresh", kept, "--table", "monthly targets").startswith("Monthly targets was read again")
    assert figures("show rows")[0] == begun + more


def test_the_demo_is_made_once_and_kept(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    ready.put_files()
    assert (tmp_path / "data" / "summula" / "demo" / "sailings.csv").exists()
    made = ready.ready_folio()
    with monkeypatch.context() as later:
        later.setattr("summula.demo.folio.demo_folio", lambda *_: pytest.fail("made a second time"))
        again = ready.ready_folio()
    assert again.folio == made.folio
    assert same_rows(made, again)
    for kept in (tmp_path / "cache" / "summula").rglob("*"):  # a damaged keepsake is made anew
        if kept.is_file():
            kept.write_bytes(kept.read_bytes()[:40])
    assert ready.ready_folio().folio == made.folio
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "data" / "summula" / "demo" / "sailings.csv"))  # no folder
    assert ready.ready_folio().folio == made.folio


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (["ask", "{source}", "show sum of Paidd"], "did you mean 'Paid'?"),
        (["ask", "{source}", "show rows", "--to", "rows.docx"], "does not end in a format"),
        (["ask", "{source}", "show sum of Boat"], "count it instead"),
        (["ask", "{source}", "show rows", "--kind", "Boat"], 'write it as --kind "FIELD=KIND"'),
        (["ask", "{source}", "show rows", "--kind", "Boat=thing"], "choose one of category"),
        (["ask", "{source}.gone", "show rows"], "there is no file"),
        (["ask", "{source}", "show rows", "--table", "x"], "not a folio"),
        (["fields", "/proc/self/mem.csv"], "there is no file"),
        (["render", "demo", "Season at a glanc", "--to", "x.png"], "did you mean 'Season at a glance'?"),
        (["render", "demo", "6", "--to", "x.gif"], "does not end in a format"),
        (["render", "demo", "6", "--to", "x.png", "--size", "big"], "is not a size"),
        (["draw", "{source}", "show rows by Boat", "--to", "x.png", "--size", "159x400"], "give it at least 160x120 pixels"),
        (["draw", "{source}", "show rows by Boat", "--to", "x.png", "--size", "9000x400"], "at most 8000 pixels each way"),
        (["open", "{source}.gone"], "there is no file"),
    ],
)
def test_every_refusal_is_one_line(
    arguments: list[str], told: str, source: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main([each.replace("{source}", source) for each in arguments]) == 1
    error = capsys.readouterr().err
    assert error.startswith("summula: ") and error.count("\n") == 1 and told in error


def test_wrong_usage_exits_with_two(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as caught:
        main(["ask"])
    assert caught.value.code == 2
    capsys.readouterr()


def test_a_heading_is_a_value() -> None:
    assert msgspec.json.decode(msgspec.json.encode(Heading("On", "year")), type=Heading) == Heading("On", "year")


def test_the_first_folios_are_opened_by_several_threads_at_once() -> None:
    """As when a window opens one while the last edit is written down: what a type is like is worked out once."""
    script = (
        "import sys, threading; from pathlib import Path; from summula.core.folio.file import open_folio\n"
        "sys.setswitchinterval(1e-6); gate, faults = threading.Barrier(6), []\n"
        "def go():\n"
        "    gate.wait()\n"
        "    faults.extend(open_folio(Path(sys.argv[1])).problems)\n"
        "threads = [threading.Thread(target=go) for _ in range(6)]\n"
        "[each.start() for each in threads]; [each.join() for each in threads]; sys.exit(bool(faults))\n"
    )
    kept = Path(__file__).parent / "folios" / "format-5.summula"
    done = subprocess.run([sys.executable, "-c", script, str(kept)], capture_output=True, text=True)
    assert done.returncode == 0 and not done.stderr, done.stderr[-400:]
