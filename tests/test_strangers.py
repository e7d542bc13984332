"""Folios from strangers: whatever stands in them, they open, say what was set aside, and touch nothing but themselves."""

from __future__ import annotations

import copy
import ctypes
import json
import os
import random
import select
import socket
import struct
import subprocess
import sys
import time
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace
from pytestqt.qtbot import QtBot

from summula.core.boards.reckoning import Reckoning
from summula.core.charts import draw
from summula.core.charts.chart import Canvas, chart_of
from summula.core.folio.file import open_folio, save_folio
from summula.core.folio.model import FORMAT
from summula.core.folio.opened import Opened
from summula.core.refusal import Refusal
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.statistics.distribution import describe
from summula.core.summaries import Vocabulary, answer, print_for
from summula.core.tables.rows import with_rows
from summula.core.tables.table import Table

MANY = int(os.environ.get("SUMMULA_FOLIOS", "240"))
HOSTILE: list[Any] = [
    None, True, -1, 0, 2**31, 2**63, 10**30, 1e308, -1e308, 1e-320, 0.5, "", "\0", "a\0b", "x" * 100_000, "../../../etc/passwd",
    "/proc/self/mem", "http://127.0.0.1:9/x.csv", "=HYPERLINK(1)", "\u202e\u0000", [], {}, [[[[[]]]]], ["x"] * 5_000, [0] * 300,
    "#,##0." + "0" * 400, "@@@@E0", "%%%;;;;", "2024-13", "9999-99-99", "t1", "s1", "b1", "p1", "month-day", "hour", "drawn as",
    {"function": "percentile", "field": "Takings"}, {"type": "aggregate"}, 99, 13, 1000, "sum", "is from", "is in the last",
]  # fmt: skip
FORMULAS = (
    "1 IN (FROM read_csv('{0}'))", "1 IN (SELECT * FROM read_csv('{0}'))", "1 IN (FROM read_parquet('{0}'))",
    "EXISTS (FROM read_json('{0}'))", "(FROM '{0}')", "1 IN (FROM scan_csv('http://127.0.0.1:{1}/x.csv'))", "read_csv('{0}')",
    "1 IN (TABLE '{0}')", "TRIM(BOTH 'x' FROM (FROM read_csv('{0}')))", "REPEAT('x', 1000000000)", "LPAD('x', 99999999, 'y')",
    "CASE WHEN 1 IN (FROM read_ndjson('{0}')) THEN 1 END", "1 /* ' */ IN (FROM read_csv('{0}')) -- '",
    "'\\' IN (FROM read_csv('{0}')) --'", "1 IN (WITH a AS (FROM read_csv('{0}')) FROM a)", "UNNEST(ARRAY[1])", "*", "COLUMNS('.*')",
    "CONCAT(" * 9 + "Route" + ", Route, Route, Route, Route)" * 9, "(" * 5000 + "1" + ")" * 5000,
)  # fmt: skip


def parts_of(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    if path:
        yield path
    entries = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, each in entries:
        yield from parts_of(each, (*path, key))


def harm(folio: Any, dice: random.Random, canary: Path, port: int) -> Any:
    """The folio's JSON with a few things changed, taken out, doubled or put in."""
    folio = copy.deepcopy(folio)
    for _ in range(dice.choice([1, 1, 2, 4])):
        path = dice.choice(list(parts_of(folio)))
        inside = folio
        for key in path[:-1]:
            inside = inside[key]
        edit_name = dice.random()
        if edit_name < 0.6:
            inside[path[-1]] = copy.deepcopy(dice.choice(HOSTILE))
        elif edit_name < 0.75 and isinstance(inside, list):
            inside[path[-1] : path[-1]] = [inside[path[-1]]] * dice.choice([1, 300])
        elif edit_name < 0.85:
            del inside[path[-1]]
        elif isinstance(inside, dict) and isinstance(inside[path[-1]], int | float):
            inside[path[-1]] = dice.choice([-1, 0, 10**9, -(10**9), 1e300])
    if (
        dice.random() < 0.3
        and isinstance(folio.get("tables"), list)
        and folio["tables"]
        and isinstance(folio["tables"][0], dict)
    ):
        text = dice.choice(FORMULAS).format(canary, port)
        folio["tables"][0]["steps"] = [{"step": "formula", "name": "Made", "text": text}]
    return folio


class Watch:
    """Tells whether anybody opens a file of a folder, libraries included (inotify), or calls a socket of this machine."""

    def __init__(self, folder: Path) -> None:
        self._libc = ctypes.CDLL(None, use_errno=True)
        self._notes = self._libc.inotify_init1(os.O_NONBLOCK)
        assert self._libc.inotify_add_watch(self._notes, str(folder).encode(), 0x20 | 0x1) >= 0  # opened, read
        self._socket = socket.create_server(("127.0.0.1", 0))
        self.port = self._socket.getsockname()[1]

    def touched(self) -> list[str]:
        found = []
        if select.select([self._notes], [], [], 0)[0]:
            notes = os.read(self._notes, 65536)
            while notes:
                length = struct.unpack("iIII", notes[:16])[3]
                found.append(notes[16 : 16 + length].rstrip(b"\0").decode())
                notes = notes[16 + length :]
        if select.select([self._socket], [], [], 0)[0]:
            found.append("the socket")
        return found

    def close(self) -> None:
        os.close(self._notes)
        self._socket.close()


@contextmanager
def watched(folder: Path) -> Iterator[Watch]:
    watch = Watch(folder)
    try:
        yield watch
    finally:
        watch.close()


_opens: list[str] = []
_hooked = False


def hook() -> None:
    """Every file that Python itself opens from now on."""
    global _hooked
    if not _hooked:
        sys.addaudithook(lambda event, args: _opens.append(str(args[0])) if event == "open" and args else None)
        _hooked = True


def used(opened: Opened) -> None:
    """Everything of a folio asked and drawn once, as its pages do; what cannot be is refused."""
    tables: dict[str, Table] = {}
    for entry_id, table in opened.prepared().items():
        describe(table)
        tables[entry_id] = table
    levers = tuple(each.name for each in opened.folio.levers)
    phrases, looks = opened.folio.phrases(), opened.folio.looks()
    for summary in opened.folio.summaries:
        table_id, phrase = phrases[summary.id]
        try:
            grid = answer(phrase, tables[table_id])
            print_for(phrase, Vocabulary(tables[table_id], levers))
            draw(chart_of(grid, tables[table_id], looks[summary.id]), Canvas(700.0, 400.0))
        except Refusal:
            continue
    for board in opened.folio.boards:
        reckoning = Reckoning(tables, phrases, looks)
        for part in (*board.panels, *board.slicers):
            try:
                reckoning.held(board, part) if isinstance(part, ListSlicer | PeriodSlicer) else reckoning.panel(
                    board, part
                )
            except Refusal:
                continue


@pytest.fixture(scope="module")
def small(demo: Opened) -> Opened:
    """The demo's folio with few rows, since many are made of it."""
    few = {name: with_rows(table, np.arange(0, table.rows, 300)) for name, table in demo.tables.items()}
    entries = []
    for entry in demo.folio.tables:
        rows = few[entry.source.id].rows
        entries.append(replace(entry, rows=rows, source=replace(entry.source, rows=rows)))
    return Opened(replace(demo.folio, tables=tuple(entries)), few)


def test_hostile_folios_touch_nothing_and_open_or_are_refused(small: Opened, tmp_path: Path) -> None:
    sound = tmp_path / "sound.summula"
    save_folio(sound, small.folio, small.tables)
    assert open_folio(sound).problems == ()
    with zipfile.ZipFile(sound) as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    envelope = json.loads(members.pop("folio.json"))
    canary = tmp_path / "canary"
    canary.mkdir()
    (canary / "secret.csv").write_text("a,b\n1,2\n")
    path = tmp_path / "hostile.summula"
    hook()
    opened = 0
    with watched(canary) as watch:
        for seed in range(MANY):
            dice = random.Random(seed)
            folio = harm(envelope["folio"], dice, canary / "secret.csv", watch.port)
            with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr("folio.json", json.dumps({"application": "Summula", "format": FORMAT, "folio": folio}))
                for name, content in members.items():
                    archive.writestr(name, content)
            _opens.clear()
            try:
                used(open_folio(path))
                opened += 1
            except Refusal as refusal:
                assert "\n" not in str(refusal)
            strange = [each for each in _opens if str(tmp_path) in each and each != str(path)]
            assert not strange and watch.touched() == [], (seed, strange)
        (canary / "secret.csv").read_bytes()
        socket.create_connection(("127.0.0.1", watch.port)).close()
        assert "secret.csv" in watch.touched()  # the watch does watch
    assert opened > MANY / 8  # most harm is set aside, or is no folio's shape at all


def test_what_was_set_aside_is_told_on_its_page(small: Opened, tmp_path: Path, qtbot: QtBot) -> None:
    from summula.desk.window import Window

    path = tmp_path / "odd.summula"
    first = small.folio.summaries[0]
    many = replace(first, phrase=replace(first.phrase, measures=first.phrase.measures * 200))
    lost = replace(small.folio.summaries[1], table="t99")
    folio = replace(small.folio, summaries=(many, lost, *small.folio.summaries[2:]))
    save_folio(path, folio, small.tables)
    window = Window()
    qtbot.addWidget(window)
    window.show()
    window.session.opening(path)()
    assert f"“{lost.name}” was skipped: its table is missing" in window.news.text.text()
    window.session.turn_to(many.id)
    assert window.news.isVisible() and "400 measures are too many" in window.news.text.text()
    window.session.turn_to(folio.summaries[2].id)
    assert not window.news.isVisible()
    assert window.session.path is None  # saving asks for a name: what was set aside stays in the file


KILLED = """
import sys
import time
from pathlib import Path
from summula.core.folio.file import open_folio, save_folio
opened = open_folio(Path(sys.argv[1]))
print("ready", flush=True)
while True:
    save_folio(Path(sys.argv[1]), opened.folio, opened.tables)
"""


def test_a_save_that_is_killed_leaves_a_whole_folio_and_nothing_else(small: Opened, tmp_path: Path) -> None:
    path = tmp_path / "harbour.summula"
    save_folio(path, small.folio, small.tables)
    dice = random.Random(4)
    for _ in range(5):
        saving = subprocess.Popen([sys.executable, "-c", KILLED, str(path)], stdout=subprocess.PIPE)
        assert saving.stdout is not None and saving.stdout.readline() == b"ready\n"
        time.sleep(dice.random() * 0.2)
        saving.kill()
        saving.communicate()
        assert open_folio(path).problems == ()
        save_folio(path, small.folio, small.tables)
        assert [each.name for each in tmp_path.iterdir()] == [path.name]
