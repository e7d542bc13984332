"""Nothing is lost: kills at random moments, what was not saved, versions, two windows, a file changed underneath."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QMessageBox
from pytestqt.qtbot import QtBot

from summula.core.folio.basefile import Base
from summula.core.folio.file import open_folio, save_folio, sweep
from summula.core.folio.journal import Journal
from summula.core.folio.model import with_table
from summula.core.folio.opened import Opened, entry_of
from summula.core.folio.recent import desk_state, recent_folios
from summula.core.folio.unsaved import put_aside, take_up, unsaved, was_offered
from summula.core.folio.versions import _kept, keep_version, versions_of
from summula.core.handout.place import put_in_place
from summula.core.reading.readers import read_found
from summula.desk.widgets.picklist import PickList
from summula.desk.window import Window
from tests.hands import settled

KILLS = int(os.environ.get("SUMMULA_KILLS", "3"))

_AT_WORK = """
import os, sys, time
os.environ["QT_QPA_PLATFORM"] = "offscreen"
from msgspec.structs import replace
from pathlib import Path
from PyQt6.QtTest import QTest
from summula.desk.application import application
from summula.desk.window import Window
from summula.core.folio.file import open_folio
from summula.core.handout.place import put_in_place
application(); window = Window(); window.may_leave = lambda: True; window.show()
path = Path(sys.argv[1]); session = window.session
never = not path.exists()
if not never: session.adopt(open_folio(path), path)
window.opening.warm_up()
number = 0
while True:
    number += 1
    if never and number == 1: session.load(path.with_name("first.csv"))()
    session.edit(replace(session.folio, name=f"edit {number}"), f"Edit {number}")
    print(number, time.monotonic(), flush=True)
    what = number % 7
    if what == 3 and not never: window.saving.save()
    if what == 5:
        session.load(path.with_name("more.csv"))()
        print(number, time.monotonic(), flush=True)
    if what == 6: put_in_place(path.with_name("out.bin"), bytes(300_000))
    QTest.qWait(30 + 17 * (number % 5))
"""


@pytest.mark.parametrize("never_saved", [False, True], ids=["saved", "never saved"])
def test_no_kill_takes_work_along(never_saved: bool, demo: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whenever a desk is killed, what was done until a second before is in the folio or is offered, with its rows."""
    dice = random.Random(7)
    for kill in range(KILLS):
        folder = tmp_path / str(kill)
        folder.mkdir()
        path = folder / "f.summula"
        first = [f"{route},{dice.randrange(10**6)}" for route in ["Osk", "Vaila", "Brim"] * 20_000]
        (folder / "first.csv").write_text("Route,Takings\n" + "\n".join(first) + "\n")
        (folder / "more.csv").write_text("A,V\nx,1\ny,2\n")
        if not never_saved:
            save_folio(path, replace(demo.folio, name="edit 0"), demo.tables)
        monkeypatch.setenv("XDG_STATE_HOME", str(folder / "state"))
        desk = subprocess.Popen([sys.executable, "-c", _AT_WORK, str(path)], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        assert desk.stdout is not None
        lines = [desk.stdout.readline()]
        time.sleep(dice.uniform(0.0, 2.2))
        killed = time.monotonic()
        desk.send_signal(signal.SIGKILL)
        lines += desk.stdout.read().splitlines(keepends=True)
        desk.wait()
        desk.stdout.close()
        done = [(int(number), float(at)) for number, at in (line.split() for line in lines if line.endswith("\n"))]  # the last may be cut
        wanted = max((number for number, at in done if at < killed - 1.0), default=0)
        found = ["edit 0"] if never_saved else [open_folio(path).folio.name]
        for left in unsaved():
            taken, base = take_up(left)
            assert base.path == ("" if never_saved else str(path)) and not taken.problems, taken.problems
            for entry in taken.folio.tables:
                read = taken.tables[entry.source.id]
                if Path(entry.source.place).name == "first.csv":
                    assert read.column("Takings").values.tolist() == [int(line.partition(",")[2]) for line in first]
                elif entry.source.place.endswith("more.csv"):
                    assert read.column("V").values.tolist() == [1, 2]
                else:
                    assert read.rows == entry.source.rows == demo.tables[entry.id].rows
            found.append(taken.folio.name)
        newest = max(0 if name == "first" else int(name.removeprefix("edit ")) for name in found)
        assert wanted <= newest <= max(number for number, _ in done), (kill, wanted, found)
        sweep(path)  # as the next start does, and the next file that is handed out
        put_in_place(folder / "out.bin", b"")
        assert not list(folder.glob("*.part"))


def test_what_was_not_saved_is_offered_and_taken_up(window: Window, demo: Opened, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    path = tmp_path / "f.summula"
    save_folio(path, demo.folio, demo.tables)
    journal = Journal()
    assert not unsaved()  # its desk is at work
    rows = {(source.id, source.reading): demo.tables[source.id] for entry in demo.folio.tables for source in entry.sources()}
    journal.write(replace(demo.folio, name="Once"), rows, Base.of(path), "Rename to Once")
    (tmp_path / "more.csv").write_text("A,V\nx,1\ny,2\n")
    more, _ = read_found(tmp_path / "more.csv")
    grown = with_table(demo.folio, entry_of("t99", more, "2025-01-01"))
    journal.write(replace(grown, name="Twice"), rows | {("t99", 0): more}, Base.of(path), "Read more")
    log = journal.folder / "log"
    whole = log.read_bytes()
    log.write_bytes(whole + whole[:40])  # a record cut short by the power
    journal._lock.close()  # the desk ends

    window.keeping.offer_unsaved()
    qtbot.waitUntil(window.news.isVisible, timeout=10_000)
    assert "“Twice” was not saved when the program ended" in window.news.text.text() and "2 changes, the last “Read more”" in window.news.text.text()
    window.news.edit_name.click()
    qtbot.waitUntil(lambda: window.session.folio.name == "Twice", timeout=10_000)
    session = window.session
    assert session.path == path and session.unsaved and session.table("t99").rows == 2
    assert session.table("t1").rows == demo.tables["t1"].rows
    window.keeping.journal.settle()
    (left,) = unsaved()
    assert was_offered(left)
    window.news.hide()
    window.keeping.offer_unsaved()
    settled()
    assert not window.news.isVisible()  # it is not offered twice
    assert len(list((tmp_path / "state/summula/journal").iterdir())) == 2  # this desk's own has it by now

    path.unlink()  # the saved folio has gone, with rows that are nowhere else
    again, _ = take_up(left)
    assert any("not here any more" in each.sentence for each in again.problems) or again.tables["t1"].rows == demo.tables["t1"].rows
    for age in (400, -400):  # neither what is old goes, nor what a clock that ran ahead has stamped
        os.utime(left.folder, (time.time() - age * 86_400,) * 2)
        assert left in unsaved()


def test_declined_is_kept_and_found_until_it_is_removed(window: Window, demo: Opened, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    journal = Journal()
    rows = {(source.id, source.reading): demo.tables[source.id] for entry in demo.folio.tables for source in entry.sources()}
    journal.write(replace(demo.folio, name="Never saved"), rows, Base(), "Rename")
    journal._lock.close()
    window.keeping.offer_unsaved()
    qtbot.waitUntil(window.news.isVisible, timeout=10_000)
    window.news.away.click()
    (left,) = unsaved()
    assert was_offered(left)
    window.keeping.take_up(left)
    qtbot.waitUntil(lambda: window.session.folio.name == "Never saved", timeout=10_000)
    assert window.session.path is None and window.session.table("t1").rows == demo.tables["t1"].rows
    put_aside(left)
    window.actions_.run("remove unsaved")
    choices = next(each for each in window.findChildren(PickList) if each.isVisible())
    QTest.keyClick(choices.list, Qt.Key.Key_Return)
    assert not left.folder.exists() and "Removed for good: Never saved" in window.status.selection.text()


def test_an_edit_is_journalled_and_a_save_ends_it(on_demo: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    window, session = on_demo, on_demo.session
    root = tmp_path / "state/summula/journal"
    settled()
    assert not root.exists()  # nothing was done
    session.rename(session.folio.boards[0].id, "Another name")
    qtbot.waitUntil(lambda: bool(list(root.glob("*/log"))), timeout=1_000)
    window.keeping.journal.settle()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "g.summula"), ""))
    window.saving.save()
    qtbot.waitUntil(lambda: session.path is not None, timeout=10_000)
    settled()
    window.keeping.journal.settle()
    assert not list(root.glob("*/log")) and recent_folios() == [tmp_path / "g.summula"]
    (root / "x").mkdir()
    monkeypatch.setattr("summula.core.folio.journal.Journal.write", _full)
    session.rename(session.folio.boards[0].id, "A third name")
    qtbot.waitUntil(lambda: "changes cannot be kept between saves (No space left on device)" in window.status.selection.text().lower() or "No space left" in window.status.selection.text(), timeout=5_000)
    window.close()
    assert not list(root.glob("*/lock")) and desk_state().geometry


def _full(*_: object) -> None:
    raise OSError(28, "No space left on device")


def test_versions_are_kept_and_thinned(tmp_path: Path, demo: Opened, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    path, now = tmp_path / "f.summula", datetime.now(UTC).replace(microsecond=0)
    for name, ago in (("first", timedelta(days=3)), ("second", timedelta(minutes=30)), ("third", timedelta())):
        keep_version(path, now - ago)
        save_folio(path, replace(demo.folio, name=name), demo.tables)
    found = versions_of(path)
    assert [open_folio(each.path).folio.name for each in found] == ["second", "first"] and open_folio(path).folio.name == "third"
    every = [now - timedelta(minutes=each) for each in range(0, 400 * 24 * 60, 7)]
    kept = _kept(every, now)
    assert now in kept and min(kept) >= now - timedelta(days=183) and len(kept) < 200
    for age, span in ((timedelta(hours=1), timedelta(minutes=8)), (timedelta(days=1), timedelta(hours=2)), (timedelta(days=20), timedelta(days=2))):
        assert any(timedelta() <= now - age - each <= span for each in kept)


@pytest.fixture
def asked(monkeypatch: pytest.MonkeyPatch) -> Callable[[str], list[str]]:
    """A person who answers every question by the button of these words."""

    def by(words: str) -> list[str]:
        questions: list[str] = []

        def answer(box: QMessageBox) -> int:
            questions.append(box.text())
            next(each for each in box.buttons() if each.text().startswith(words)).click()
            return 0

        monkeypatch.setattr(QMessageBox, "exec", answer)
        return questions

    return by


def test_nothing_is_saved_over_unseen(on_demo: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, asked: Callable[[str], list[str]]) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    window, session, path = on_demo, on_demo.session, tmp_path / "f.summula"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    window.saving.save()
    qtbot.waitUntil(lambda: session.path == path, timeout=10_000)

    other = Window()  # a second window on the same folio
    other.may_leave = lambda: True  # type: ignore[method-assign]
    qtbot.addWidget(other)
    other.show()
    other.opening.open_path(path)
    qtbot.waitUntil(lambda: bool(other.session.folio.boards), timeout=10_000)
    assert other.session.path is None and "is open in another window. This is a copy" in other.news.text.text()
    other.saving._save_to(path)
    assert "is open in another window" in other.status.selection.text()

    opened = open_folio(path)
    save_folio(path, replace(opened.folio, name="Changed by somebody else"), opened.tables)
    session.rename(session.folio.boards[0].id, "Mine")
    questions = asked("Cancel")
    window.saving.save()
    assert "has been changed by somebody else" in questions[0] and open_folio(path).folio.name == "Changed by somebody else"
    asked("Overwrite")
    window.saving.save()
    qtbot.waitUntil(lambda: not session.unsaved, timeout=10_000)
    assert open_folio(path).folio.boards[0].name == "Mine"
    assert [open_folio(each.path).folio.name for each in versions_of(path)][:1] == ["Changed by somebody else"]

    places = iter([str(tmp_path / "gone" / "x.summula"), str(tmp_path / "here.summula")])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (next(places), ""))
    session.rename(session.folio.boards[0].id, "Still mine")
    questions = asked("Save as …")
    window.saving.save_as()  # a folder that has gone: the work stays, another place is offered
    qtbot.waitUntil(lambda: (tmp_path / "here.summula").exists() and not session.unsaved, timeout=10_000)
    assert "could not be saved" in questions[0] and "Your work is still here" in questions[0]

    assert window.saving.choose_version(window.header.finder, window.keeping.open_copy) is None
    window.keeping.open_copy(versions_of(path)[0].path, "Tuesday")
    (beside,) = window.beside
    qtbot.addWidget(beside)
    beside.may_leave = lambda: True  # type: ignore[method-assign]
    qtbot.waitUntil(lambda: beside.session.folio.name.endswith("(until Tuesday)"), timeout=10_000)
    assert beside.session.path is None


def test_several_files_are_opened_one_after_the_other(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    for name in ("one", "two"):
        (tmp_path / f"{name}.csv").write_text(f"A,V\n{name},1\ny,2\n")
    window.opening.open_paths([tmp_path / "one.csv", tmp_path / "two.csv"])
    for count in (1, 2):
        qtbot.waitUntil(lambda: window.pages.currentWidget() is window.importing.preview_page and window.importing.preview_page.take.isEnabled(), timeout=10_000)
        window.importing.preview_page.take.click()
        qtbot.waitUntil(lambda count=count: len(window.session.folio.tables) == count, timeout=10_000)  # type: ignore[misc]
    assert [each.name for each in window.session.folio.tables] == ["one", "two"]


def test_a_full_disk_leaves_the_folio_and_the_work(demo: Opened, tmp_path: Path) -> None:
    """A process that may write no larger files: saving is refused in a sentence, the old folio stays whole."""
    path = tmp_path / "f.summula"
    save_folio(path, demo.folio, demo.tables)
    before = path.read_bytes()
    code = (
        "import resource, signal, sys; from pathlib import Path; signal.signal(signal.SIGXFSZ, signal.SIG_IGN);"
        "from summula.core.folio.file import open_folio, save_folio; from summula.core.refusal import Refusal;"
        "from summula.core.handout.place import put_in_place; p = Path(sys.argv[1]); o = open_folio(p);"
        "resource.setrlimit(resource.RLIMIT_FSIZE, (60_000, 60_000))\n"
        "for work in (lambda: save_folio(p, o.folio, o.tables), lambda: put_in_place(p, bytes(200_000))):\n"
        "    try: work()\n"
        "    except Refusal as refusal: print(refusal)"
    )
    done = subprocess.run([sys.executable, "-c", code, str(path)], capture_output=True, text=True, timeout=120, check=True)
    assert done.stdout.count("could not be") == 2 and path.read_bytes() == before
    assert [each.name for each in tmp_path.iterdir()] == ["f.summula"]
