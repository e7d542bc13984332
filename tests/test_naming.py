"""A folio from elsewhere reads no file before its person has been asked, once a file."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from summula.core.folio.file import save_folio
from summula.core.folio.model import Folio, with_table
from summula.core.folio.named import keep_named, named_for
from summula.core.folio.opened import Opened, entry_of
from summula.core.reading.readers import read_found
from summula.desk.window import Window


@pytest.fixture
def from_elsewhere(tmp_path: Path) -> tuple[Path, Path]:
    """A folio that names a file, and that file."""
    (tmp_path / "private").mkdir()
    named = tmp_path / "private/secret.csv"
    named.write_text("Route,Takings\nOsk,5\n")
    table, _ = read_found(named)
    folio = with_table(Folio("Sent"), entry_of("t1", table, "2025-01-01"))
    save_folio(tmp_path / "sent.summula", folio, {"t1": table})
    named.write_text("Route,Takings\nOsk,5\nVaila,7\n")
    return tmp_path / "sent.summula", named


def test_nothing_is_read_that_only_the_folio_names(window: Window, qtbot: QtBot, from_elsewhere: tuple[Path, Path], monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    path, named = from_elsewhere
    asked: list[str] = []
    answer = "Cancel"

    def answered(box: QMessageBox) -> int:
        asked.append(box.text())
        next(each for each in box.buttons() if each.text().startswith(answer)).click()
        return 0

    monkeypatch.setattr(QMessageBox, "exec", answered)
    session = window.session
    session.opening(path)()
    assert not window.importing.freshness._places()  # not even its time is looked at
    window.importing.refresh_all()
    assert len(asked) == 1 and str(named) in asked[0] and session.table("t1").rows == 1
    answer = "Read"
    window.importing.refresh_all()
    qtbot.waitUntil(lambda: session.table("t1").rows == 2, timeout=10_000)
    assert len(asked) == 2 and str(named) in session.named and window.importing.freshness._places()
    window.importing.read_again()  # once a file
    qtbot.waitUntil(lambda: session.folio.table("t1").source.reading == 2, timeout=10_000)
    assert len(asked) == 2
    session.opening(path)()  # and it is remembered for this folio
    assert str(named) in session.named


def test_what_was_opened_here_is_named(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    (tmp_path / "a.csv").write_text("A,V\nx,1\n")
    window.session.load(tmp_path / "a.csv")()
    assert not window.session.unnamed_files(window.session.folio.tables)
    window.session.save(tmp_path / "own.summula")
    assert named_for(tmp_path / "own.summula") == {str(tmp_path / "a.csv")}
    assert not named_for(tmp_path / "other.summula")
    window.session.adopt(Opened(Folio("Another"), {}))
    window.session.save(tmp_path / "own.summula")  # what the folio before it named there is named no more
    assert not named_for(tmp_path / "own.summula")


def test_what_is_remembered_is_bounded(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    monkeypatch.setattr("summula.core.folio.named._MAX_FOLIOS", 3)
    for number in range(5):
        keep_named(tmp_path / f"{number}.summula", ["/a"])
    assert [bool(named_for(tmp_path / f"{number}.summula")) for number in range(5)] == [False, False, True, True, True]
    (tmp_path / "summula/named.json").write_bytes(b"{torn")
    assert not named_for(tmp_path / "4.summula")
