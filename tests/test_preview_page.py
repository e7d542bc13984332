"""The preview tells of the file that it is about, and of no other."""

from __future__ import annotations

from pathlib import Path

from pytestqt.qtbot import QtBot

from summula.desk.window import Window


def test_a_damaged_file_shows_nothing_of_the_one_before(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    (tmp_path / "good.csv").write_text("Route;Takings\nOsk;5\nVaila;7\n")
    (tmp_path / "bad.xlsx").write_bytes(b"PK\x03\x04 torn")
    window.importing.preview(tmp_path / "good.csv")
    page = window.importing.preview_page
    qtbot.waitUntil(page.take.isEnabled, timeout=10_000)
    assert page.rows is not None and "2 rows" in page.about.text() and page.settings
    window.importing.preview(tmp_path / "bad.xlsx")
    qtbot.waitUntil(page.trouble.isVisible, timeout=10_000)
    assert page.rows is None and not page.settings and not page.about.text() and not page.take.isEnabled()
    assert page.title.text() == "bad.xlsx"
    window.importing.preview(tmp_path / "good.csv")
    qtbot.waitUntil(page.take.isEnabled, timeout=10_000)
    assert page.rows is not None and not page.trouble.isVisible()
