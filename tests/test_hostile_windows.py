"""Folios that say what the decoder lets pass and nobody meant: opened in a window, every page of them is shown."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from summula.core.folio.file import open_folio, save_folio
from summula.core.folio.opened import Opened
from summula.core.phrases.lever import LeverSetting, checked
from summula.core.refusal import Refusal
from summula.core.slicing.linking import FieldOf, Link
from summula.core.tables.rows import with_rows

MANY = int(os.environ.get("SUMMULA_WINDOWS", "60"))
AT_ONCE = 20  # folios of one process
ROOT = Path(__file__).parent.parent


def put_sound(demo: Opened, folder: Path) -> Path:
    few = {name: with_rows(table, np.arange(0, table.rows, 300)) for name, table in demo.tables.items()}
    entries = []
    for entry in demo.folio.tables:
        rows = few[entry.source.id].rows
        entries.append(replace(entry, rows=rows, source=replace(entry.source, rows=rows)))
    path = folder / "sound.summula"
    save_folio(path, replace(demo.folio, tables=tuple(entries)), few)
    (folder / "secret.csv").write_text("a,b\n1,2\n")
    return path


@pytest.mark.parametrize("first", range(0, MANY, AT_ONCE))
def test_every_page_of_a_hostile_folio_is_shown_or_told(first: int, demo: Opened, tmp_path: Path) -> None:
    put_sound(demo, tmp_path)
    own = {"QT_QPA_PLATFORM": "offscreen", "HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path), "XDG_CACHE_HOME": str(tmp_path)}
    command = [sys.executable, "-m", "tests.hostile_windows", str(tmp_path), str(first), str(AT_ONCE)]
    done = subprocess.run(command, cwd=ROOT, env=os.environ | own, capture_output=True, text=True)
    lines = done.stdout.splitlines()
    assert [each for each in lines if each.startswith("wrong")] == []
    assert lines[-1:] == ["done"], f"{lines[-1:]}: {done.stderr[-2000:]}"


def test_links_of_what_is_not_there_are_set_aside(demo: Opened, tmp_path: Path) -> None:
    path = put_sound(demo, tmp_path)
    sound = open_folio(path)
    good = sound.folio.links
    lost = (Link(FieldOf("t1", "Route"), FieldOf("t99", "Route")), Link(FieldOf("t1", "Route"), FieldOf("t1", "Route")),
            Link(FieldOf("t1", "Nothing"), FieldOf("t2", "Route")))  # fmt: skip
    save_folio(path, replace(sound.folio, links=(*good, *lost)), sound.tables)
    opened = open_folio(path)
    assert opened.folio.links == good and len(opened.problems) == 3
    assert "“Nothing” to “Route” was skipped" in opened.problems[2].sentence


@pytest.mark.parametrize("step", [1e-300, 5e-324, 1e-9])
def test_a_lever_of_a_tiny_step_is_refused(step: float) -> None:
    with pytest.raises(Refusal, match="enter a larger step"):
        checked(LeverSetting("Fare change", 0.0, -1e300, 1e300, step))
