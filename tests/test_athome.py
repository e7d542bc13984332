"""At home on the desktop: the menu's entry, drawing out of the window, a feed that is followed, the window as it was left."""

from __future__ import annotations

import configparser
import shutil
import subprocess
import xml.etree.ElementTree as xml
from pathlib import Path

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QPoint, Qt
from PyQt6.QtGui import QDrag, QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from summula.cli import main
from summula.cli.integrating import desktop_entry, parts
from summula.core.boards.board import SummaryPanel
from summula.core.folio.model import with_table
from summula.core.folio.recent import keep_desk_state, with_folio
from summula.demo.feed import feed
from summula.demo.files import write_files
from summula.desk.window import Window
from tests.hands import LEFT


def test_it_is_put_into_the_menu_and_taken_out(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    assert main(["integrate"]) == 0 and capsys.readouterr().out.count("in place") == 4
    entry = configparser.ConfigParser(interpolation=None)
    entry.read(tmp_path / "applications/summula.desktop")
    assert entry["Desktop Entry"]["Exec"].endswith(" open %F") and "application/x-summula-folio" in entry["Desktop Entry"]["MimeType"]
    assert [each.attrib["pattern"] for each in xml.parse(tmp_path / "mime/packages/summula.xml").iter() if "pattern" in each.attrib] == ["*.summula"]
    for icon in tmp_path.rglob("*.svg"):
        xml.parse(icon)
    if shutil.which("desktop-file-validate"):
        subprocess.run(["desktop-file-validate", str(tmp_path / "applications/summula.desktop")], check=True)
    assert main(["integrate", "--remove"]) == 0
    assert not [each.place for each in parts(tmp_path, ["summula"]) if each.place.exists()]
    assert 'Exec="/a b/\\$x" open %F' in desktop_entry(["/a b/$x"])
    shutil.rmtree(tmp_path / "applications")
    (tmp_path / "applications").write_text("in the way")
    assert main(["integrate"]) == 1 and "could not be changed" in capsys.readouterr().err


def drag(widget: QWidget, start: QPoint, end: QPoint) -> None:
    """Press, move and let go, as a hand does."""
    QTest.mousePress(widget, LEFT, pos=start)
    move = QMouseEvent(QMouseEvent.Type.MouseMove, end.toPointF(), widget.mapToGlobal(end).toPointF(), LEFT, LEFT, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(widget, move)
    QTest.mouseRelease(widget, LEFT, pos=end)


def test_panels_and_summaries_are_drawn_out_of_the_window(on_demo: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    window, session = on_demo, on_demo.session
    out: list[QMimeData] = []

    def taken(self: QDrag, *_: object) -> Qt.DropAction:
        data = QMimeData()
        given = self.mimeData()
        for each in given.formats():
            data.setData(each, given.data(each))
        out.append(data)
        return Qt.DropAction.CopyAction

    monkeypatch.setattr(QDrag, "exec", taken)
    board = session.folio.boards[0]
    session.turn_to(board.id)
    panel = next(each for each in board.panels if isinstance(each, SummaryPanel))
    view = window.pages.board.panels[panel.id]
    drag(view, QPoint(30, 14), QPoint(90, 60))
    assert panel.title in bytes(out[-1].data("image/svg+xml").data()).decode("utf-8") and session.folio.boards[0] == board

    session.turn_to("s3")
    row = next(each for each in window.contents.page_rows() if each.page_id == "s3")
    drag(row, QPoint(60, 10), QPoint(300, 40))
    assert out[-1].hasHtml() and out[-1].text().splitlines()[0].startswith("\t") and "\t" in out[-1].text()


def test_a_feed_is_followed_by_a_table_that_keeps_fresh(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    write_files(tmp_path)
    window.importing.take_path(tmp_path / "sailings.csv")
    session = window.session
    qtbot.waitUntil(lambda: bool(session.folio.tables), timeout=20_000)
    entry = session.folio.tables[0]
    session.edit(with_table(session.folio, replace(entry, fresh="again")), "Read again by itself")
    said: list[str] = []
    assert feed(tmp_path, 0.0, 2, said.append, lambda _: None) == 12 and len(said) == 2
    qtbot.waitUntil(lambda: session.folio.tables[0].rows == entry.rows + 12, timeout=20_000)
    assert main(["demo", "--feed", str(tmp_path), "--times", "1"]) == 0 and main(["demo", "--feed", str(tmp_path), "--every", "0"]) == 1


def test_the_first_page_goes_on_with_recent_folios(window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    assert main(["demo", "--folio", str(tmp_path / "Season.summula")]) == 0
    from summula.core.folio.recent import desk_state

    keep_desk_state(with_folio(desk_state(), tmp_path / "gone.summula"))
    keep_desk_state(with_folio(desk_state(), tmp_path / "Season.summula"))
    window.hide()
    window.show()
    found = [each for each in window.pages.empty.findChildren(QPushButton) if each.accessibleName().startswith("Open Season")]
    assert len(found) == 1 and not any("gone" in each.accessibleName() for each in window.pages.empty.findChildren(QPushButton))
    QTest.mouseClick(found[0], LEFT)
    qtbot.waitUntil(lambda: bool(window.session.folio.boards), timeout=20_000)
    window.resize(741, 577)  # smaller than the screen without a screen
    window.close()
    again = Window()
    qtbot.addWidget(again)
    again.keeping.restore()
    assert (again.width(), again.height()) == (741, 577)
