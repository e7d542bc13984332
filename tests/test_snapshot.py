"""A board is painted as it was seen last, before its rows are read; then it is the board itself."""

from __future__ import annotations

import os
import threading
from pathlib import Path

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from summula.core.charts.scene import Box, Ink, Line, Point, Scene, Tag, Text
from summula.core.folio import snapshot
from summula.core.folio.file import save_folio
from summula.core.folio.opened import Opened
from summula.core.folio.snapshot import Snapshot, keep_snapshot, place_for, snapshot_at
from summula.core.slicing.slicer import Holding
from summula.core.watch import Watch
from summula.desk.app import application
from summula.desk.board.slicerlist import SlicerList
from summula.desk.session import Session
from summula.desk.window import Window
from tests.hands import settled


def opened_window(qtbot: QtBot) -> Window:
    application()
    window = Window()
    window.may_leave = lambda: True  # type: ignore[method-assign]  # nobody is there to be asked
    qtbot.addWidget(window)
    return window


def board_picture(window: Window) -> QImage:
    """The board once nothing on it moves any more: a page is laid out in more than one turn."""
    page, before = window.pages.currentWidget(), QImage()
    assert page is not None
    for _ in range(40):
        settled(work=False)
        now = page.grab().toImage()
        if now == before:
            break
        before = now
    return before


@pytest.fixture
def path(demo: Opened, tmp_path: Path) -> Path:
    folio = replace(demo.folio, name="Harbour")
    save_folio(tmp_path / "harbour.summula", folio, demo.tables)
    return tmp_path / "harbour.summula"


def seen_before(path: Path, qtbot: QtBot) -> QImage:
    """Open the folio once, so that the sight of its board is kept; what it looked like."""
    window = opened_window(qtbot)
    window.show()
    window.opening.open_path(path)
    qtbot.waitUntil(lambda: window.session.path == path, timeout=20_000)
    looks = board_picture(window)
    window.opening.keep_snapshot_now()
    place = place_for(path)
    assert place is not None
    qtbot.waitUntil(place.exists, timeout=5_000)
    qtbot.waitUntil(lambda: snapshot_at(place) is not None, timeout=5_000)
    assert place.stat().st_mode & 0o077 == 0  # for its owner's eyes
    window.close()  # else the next one would open a copy
    return looks


def test_a_folio_shows_its_board_before_its_rows_are_read(path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    looks = seen_before(path, qtbot)
    go_on = threading.Event()
    opening = Session.opening

    def slowly(session: Session, place: Path, watch: Watch) -> object:
        go_on.wait(120)
        return opening(session, place, watch)

    monkeypatch.setattr(Session, "opening", slowly)
    window = opened_window(qtbot)
    window.opening.open_path(path)
    window.show()
    qtbot.waitUntil(lambda: window.reading.waits, timeout=5_000)
    assert window.session.snapshot is not None and window.windowTitle() == "Harbour · Summula"
    assert board_picture(window) == looks
    assert "24," in window.status.account.text() and "reading" in window.status.taken.text()

    # Nothing can be done with what is only seen: keys, the mouse, files let fall.
    folio = window.session.folio
    rows = next(each for each in window.pages.board.slicers.values() if isinstance(each, SlicerList)).rows
    QTest.mouseClick(rows, Qt.MouseButton.LeftButton, pos=rows.row_centre(1))
    QTest.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(window, Qt.Key.Key_PageDown, Qt.KeyboardModifier.ControlModifier)
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(path))])
    drop = QDropEvent(QPointF(QPoint(300, 300)), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(drop)
    assert window.session.folio is folio and window.session.snapshot is not None and not window.session.board_state.arranging

    go_on.set()
    qtbot.waitUntil(lambda: window.session.snapshot is None, timeout=20_000)
    assert window.session.path == path
    assert board_picture(window) == looks  # pixel for pixel what was foreseen
    QTest.mouseClick(rows, Qt.MouseButton.LeftButton, pos=rows.row_centre(1))
    assert window.pages.board.is_sliced and board_picture(window) != looks
    window.opening.keep_snapshot_now()  # sliced is not as it was saved
    QApplication.processEvents()
    assert snapshot_at(place_for(path)) is not None and snapshot_at(place_for(path)).folio == folio  # type: ignore[union-attr]


def test_what_cannot_be_read_after_all_leaves_nothing_behind(path: Path, qtbot: QtBot) -> None:
    seen_before(path, qtbot)
    stat = path.stat()
    damaged = bytearray(path.read_bytes())
    third = len(damaged) // 3
    damaged[-third:] = bytes(third)
    path.write_bytes(damaged)
    os.utime(path, ns=(stat.st_atime_ns, stat.st_mtime_ns))  # it looks unchanged
    window = opened_window(qtbot)
    window.opening.open_path(path)
    window.show()
    assert window.session.snapshot is not None
    qtbot.waitUntil(lambda: window.session.snapshot is None, timeout=20_000)
    assert not window.session.folio.tables and window.pages.currentWidget() is window.pages.empty
    assert "harbour.summula" in window.status.selection.text() and window.pages.isEnabled() and window.header.isEnabled()

    os.utime(path)  # another state of the file: what was seen of the last one is not shown
    again = opened_window(qtbot)
    again.opening.open_path(path)
    assert again.session.snapshot is None


def test_cancelling_what_is_only_seen_goes_back_to_nothing(path: Path, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    seen_before(path, qtbot)
    go_on = threading.Event()
    monkeypatch.setattr(Session, "opening", lambda session, place, watch: go_on.wait(120))
    window = opened_window(qtbot)
    window.show()
    window.opening.open_path(path)
    qtbot.waitUntil(lambda: window.reading.waits, timeout=5_000)
    assert window.session.snapshot is not None
    qtbot.waitUntil(window.status.cancel.isVisible, timeout=5_000)
    QTest.mouseClick(window.status.cancel, Qt.MouseButton.LeftButton)
    go_on.set()
    assert window.session.snapshot is None and window.pages.currentWidget() is window.pages.empty
    settled()
    assert not window.session.folio.tables and window.session.untouched


def test_the_demo_starts_with_what_it_showed(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    first = opened_window(qtbot)
    first.opening.open_demo()
    first.show()
    assert first.session.snapshot is None  # nothing was seen yet
    qtbot.waitUntil(lambda: bool(first.session.folio.tables), timeout=30_000)
    looks = board_picture(first)
    first.opening.keep_snapshot_now()
    settled()
    second = opened_window(qtbot)
    second.opening.open_demo()
    assert second.session.snapshot is not None
    second.show()
    assert board_picture(second) == looks
    qtbot.waitUntil(lambda: second.session.snapshot is None, timeout=30_000)
    assert board_picture(second) == looks
    second.session.rename(second.session.page_id, "Another name")
    second.opening.keep_snapshot_now()  # no longer the demo as it is kept
    settled()
    third = opened_window(qtbot)
    third.opening.open_demo()
    assert third.session.snapshot is not None and third.session.snapshot.board == first.session.folio.boards[0]


def test_a_sight_is_kept_and_read_again(demo: Opened, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    tag = Tag(("Osk",), (2024,), 0, float("nan"), "Osk", "12")
    marks = (
        Box(0, 1, 2, 3, Ink("plum"), tag, True), Line(((0.0, 1.0), (2.0, 3.0)), Ink("ink", 0.5), dashed=True, tag=tag),
        Point(1, 2, 3, Ink("series 1")), Text(5, 6, "Ösk", full="Ösk – Vaila", tag=tag),
    )  # fmt: skip
    board = demo.folio.boards[0]
    sight = Snapshot.of(demo.folio, board, {"p1": snapshot.bare(Scene(100.5, 20, marks))}, {"l1": [Holding(None, "no route", 3, 9), Holding(1.5, "1.5", 0, 2)]}, "9 rows")
    place = tmp_path / "deep" / "seen.json"
    keep_snapshot(place, sight)
    found = snapshot_at(place)
    assert found == sight and found is not None
    names = [[(kind, page.id, page.name) for kind, page in folio.pages()] for folio in (found.folio, demo.folio)]
    assert names[0] == names[1] and found.folio.boards[0] == board and not found.folio.tables[0].steps
    notice = [mark.tag for mark in found.scenes["p1"].marks if mark.tag is not None]
    assert [(each.title, each.text, each.measure, each.by) for each in notice] == [("Osk", "12", -1, ())] * 3

    assert snapshot_at(None) is None and snapshot_at(tmp_path / "none.json") is None
    for rubbish in (b"", b"{}", b"\xff\xfe", place.read_bytes()[:-9]):
        (tmp_path / "rubbish.json").write_bytes(rubbish)
        assert snapshot_at(tmp_path / "rubbish.json") is None
    keep_snapshot(tmp_path / "rubbish.json", replace(sight, board=replace(board, id="b-none")))  # of a board that the folio lacks
    assert (tmp_path / "rubbish.json").stat().st_size > 1000 and snapshot_at(tmp_path / "rubbish.json") is None
    keep_snapshot(Path("/proc/none/seen.json"), sight)  # does no harm

    monkeypatch.setattr(snapshot, "_MOST", 3)
    for at in range(6):
        keep_snapshot(tmp_path / "seen" / f"{at}.json", sight)
        os.utime(tmp_path / "seen" / f"{at}.json", ns=(at, at))
    keep_snapshot(tmp_path / "seen" / "last.json", sight)
    assert sorted(each.stem for each in (tmp_path / "seen").iterdir()) == ["4", "5", "last"]
