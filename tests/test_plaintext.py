"""Names from a stranger's file are shown as they are: nothing takes them for markup, and nothing opens what they name."""

from __future__ import annotations

import contextlib
import ctypes
import os
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QListWidget, QMenu, QTextEdit, QToolTip, QWidget
from pytestqt.qtbot import QtBot

from summula.core.boards.board import Board, Place, SummaryPanel
from summula.core.charts.style import ChartStyle
from summula.core.folio.model import Folio, Summary, with_board, with_summary, with_table
from summula.core.folio.opened import Opened, entry_of
from summula.core.phrases.lever import LeverSetting
from summula.core.reading.readers import read_found
from summula.core.slicing.making import slicer_for
from summula.core.summaries import Vocabulary, parse
from summula.desk.widgets.plaintext import Button, plain_tip
from summula.desk.window import Window
from tests.hands import settled

_TAG = re.compile(r"<\s*[A-Za-z!/?]|&lt;")
_OPENED = 0x20  # IN_OPEN


@pytest.fixture
def spy(tmp_path: Path) -> Iterator[tuple[Path, list[bytes]]]:
    """A picture in a folder of its own, and a list that tells after `QTest.qWait` whether anything opened it."""
    folder = tmp_path / "spied"
    folder.mkdir()
    picture = folder / "p.png"
    picture.write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(64))
    system = ctypes.CDLL(None, use_errno=True)
    watch = system.inotify_init1(os.O_NONBLOCK)
    assert watch >= 0 and system.inotify_add_watch(watch, os.fsencode(folder), _OPENED) >= 0

    class Opened(list[bytes]):
        def look(self) -> list[bytes]:
            with contextlib.suppress(BlockingIOError):
                self.append(os.read(watch, 4096))
            return self

    yield picture, Opened()
    os.close(watch)


def _hostile_folio(markup: str, folder: Path) -> Opened:
    """A folio in which every name is markup: table, fields, members, summary, board, panel, slicer, lever, chart."""
    short = markup[:60]
    quoted = markup.replace('"', '""')
    (folder / "t.csv").write_text(f'"{quoted} field","Takings {quoted}"\n"{quoted} one",3\n"{quoted} two",5\n')
    table, _ = read_found(folder / "t.csv")
    names = [field.name for field in table.fields]
    entry = replace(entry_of("t1", table, "2025-01-01"), name=f"{markup} table")
    entry = replace(entry, fields=tuple(replace(field, description=f"{markup} said") for field in entry.fields))
    words = Vocabulary(table)
    name, figure = (f'"{each.replace(chr(34), chr(34) * 2)}"' for each in names)
    folio = with_table(Folio(f"{markup} folio", levers=(LeverSetting(f"{short} lever", 1, 0, 2, 1),)), entry)
    style = ChartStyle()
    style = replace(style, words=replace(style.words, title=f"{short} title", line=f"{short} line", note=f"{short} note"))
    for key, text in (("s1", f"show sum of {figure} by {name} drawn as bars"), ("s2", f"show sum of {figure} by {name}")):
        folio = with_summary(folio, Summary(key, f"{markup} {key}", "t1", parse(text, words), style=style))
    slicer = slicer_for(table, "t1", names[0], "l1")
    panels = tuple(SummaryPanel(f"p{at}", Place(at * 12, 0, 12, 8), f"s{at + 1}", f"{markup} panel") for at in range(2))
    folio = with_board(folio, Board("b1", f"{markup} board", panels, (slicer,)))
    return Opened(folio, {"t1": table})


def _texts_of(widget: QWidget) -> Iterator[str]:
    """What a widget shows that Qt might take for markup."""
    yield widget.toolTip()
    yield widget.whatsThis()
    yield widget.statusTip()
    if isinstance(widget, QLabel) and widget.metaObject().className() != "QTipLabel":
        assert widget.textFormat() == Qt.TextFormat.PlainText, widget.text()
    if isinstance(widget, QTextEdit) and not widget.accessibleName().startswith("Manual"):
        pytest.fail(f"{widget.objectName()} is rich text")
    if isinstance(widget, QListWidget):
        for at in range(widget.count()):
            item = widget.item(at)
            yield item.toolTip() if item is not None else ""
    if isinstance(widget, QMenu):
        for action in widget.actions():
            yield action.toolTip()


def _shown(window: Window) -> None:
    settled()
    for widget in (window, *window.findChildren(QWidget)):
        for text in _texts_of(widget):
            assert not _TAG.search(text), (type(widget), text)
    for widget in window.findChildren(QWidget):
        if widget.isVisible() and widget.width() > 8:
            for part in (0.1, 0.5, 0.9):
                at = QPoint(int(widget.width() * part), int(widget.height() * part))
                QApplication.sendEvent(widget, QHelpEvent(QEvent.Type.ToolTip, at, widget.mapToGlobal(at)))
                assert not _TAG.search(QToolTip.text()), QToolTip.text()


@pytest.mark.parametrize("tag", ['<img src="file://{}">', '<b>{}</b>&lt;', '&lt;img src="{}"/>', '<table background="{}"><tr><td>x'])
def test_names_are_never_taken_for_markup(tag: str, window: Window, qtbot: QtBot, tmp_path: Path, spy: tuple[Path, list[bytes]]) -> None:
    picture, opened = spy
    window.session.adopt(_hostile_folio(tag.format(picture), tmp_path))
    for page in ("t1", "s1", "s2", "b1"):
        window.session.turn_to(page)
        qtbot.waitUntil(lambda: not window.status.cancel.isVisible())
        _shown(window)
    for action in ("find", "what is unsaved", "levers"):
        if any(each.key == action for each in window.actions_.possible()):
            window.actions_.run(action)
            _shown(window)
            QTest.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Escape)
    assert not opened.look()  # type: ignore[attr-defined]


def test_refusals_and_news_are_plain(window: Window) -> None:
    window.news.tell('<img src="x"> has changed', "<b>Read</b> it & more", lambda: None)
    window.session.notice.emit('<img src="x"> is not here', True)
    assert window.news.edit_name.text() == "<b>Read</b> it & more"
    _shown(window)


def test_an_ampersand_stays_one_on_buttons(qtbot: QtBot) -> None:
    button = Button("R&D")
    qtbot.addWidget(button)
    assert button.text() == "R&D" and button.shortcut().isEmpty()
    button.setText("Food & drink")
    assert button.text() == "Food & drink" and button.shortcut().isEmpty()


@pytest.mark.parametrize("text", ["", "Takings", "3 < 5", "a\nb", "R&D"])
def test_tips_without_tags_stay_as_they_are(text: str) -> None:
    assert plain_tip(text).replace("\N{WORD JOINER}", "") == text
