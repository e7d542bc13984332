"""The manual inside the program: found, searched, about what is in view; and true of the demo."""

from __future__ import annotations

import importlib.util
import re
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from summula.core.folio.opened import Opened
from summula.core.summaries import Vocabulary, parse
from summula.desk.window import Window
from summula.manual.pages import PAGES, page_about, passages, sections

DOCS = Path(__file__).parent.parent / "docs"
OWN = [each for each in PAGES if each.file not in ("phrase.md", "charts.md", "tables.md")]


@pytest.mark.parametrize("page", OWN, ids=lambda each: each.file)
def test_what_it_says_is_there(page, on_demo: Window, demo: Opened) -> None:  # type: ignore[no-untyped-def]
    """Keys belong to actions, names in italics that are to be found are actions', phrases can be asked of the demo."""
    actions = on_demo.actions_.every()
    keys = {key for action in actions for key in action.keys}
    for said in re.findall(r"\*\*((?:Ctrl|Alt|Shift|F\d)[^*]*)\*\*", page.text):
        assert said in keys or said in ("Ctrl+Z", "Ctrl+K"), said
    names = {action.name.removesuffix(" …") for action in actions}
    for said in re.findall(r"(?:find|Find) \*([^*]+)\*", page.text):
        assert said in names, said
    words = Vocabulary(demo.prepared()["t1"], (), [], tuple(demo.prepared().values()))
    for code in re.findall(r"`([^`]+)`", page.text):
        if code.startswith("show"):
            parse(code, words)
        elif code.startswith(("by ", "across ", "where ", "keeping ")):
            parse(f"show sum of Takings {'by Vessel ' if code.startswith('keeping') else ''}{code}", words)
        elif code.startswith("as "):
            parse(f"show sum of Takings {code} by Route", words)


def test_it_is_searched() -> None:
    assert passages("shares total")[0].heading == "… show shares of the total?"
    assert passages("reach slicer") and not passages("zzz no such word") and not passages("  ")
    assert len([heading for heading, _ in sections(next(each for each in PAGES if each.file == "how.md").text) if heading.startswith("…")]) >= 40
    assert page_about("board").file == "board.md" and page_about("nothing").file == "begin.md"


def test_f1_is_about_what_is_in_view(on_demo: Window, qtbot: QtBot) -> None:
    window, session = on_demo, on_demo.session
    for page, title in (("t1", "A table"), ("s3", "A summary"), (session.folio.boards[0].id, "A board")):
        session.turn_to(page)
        QTest.keyClick(window, Qt.Key.Key_F1)
        manual = window.asides.manual
        assert window.pages.currentWidget() is manual and manual.shown is not None and manual.shown.title == title
        assert manual.text.toPlainText().startswith(title)
        QTest.keyClick(window, Qt.Key.Key_F1)
        assert window.pages.currentWidget() is not manual
    QTest.keyClick(window, Qt.Key.Key_F1)
    QTest.keyClicks(manual.search, "bands numbers")
    assert "… put numbers into bands?" in manual.list.item(0).text()  # type: ignore[union-attr]
    manual.list.setCurrentRow(0)
    assert manual.shown is not None and manual.shown.file == "how.md"
    assert "numbers into bands" in manual.text.cursorForPosition(QPoint(40, 24)).block().text()
    QTest.keyClick(manual, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.pages.board


def test_the_page_of_shortcuts_is_current() -> None:
    spec = importlib.util.spec_from_file_location("write_shortcuts_page", DOCS / "write_shortcuts_page.py")
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    text = next(each for each in PAGES if each.file == "shortcuts.md").text
    assert text == module.shortcuts_page(), "run docs/write_shortcuts_page.py"


def test_every_word_of_our_own_is_in_the_glossary() -> None:
    text = next(each for each in PAGES if each.file == "words.md").text
    for word in ("folio", "phrase", "board", "lever", "echo", "ghost", "second look", "reach", "rows behind"):
        assert f"**{word}**" in text


def test_every_step_of_a_task_keeps_its_number(on_demo: Window) -> None:
    on_demo.asides.open_manual_at("how.md", "… build a board?")
    document = on_demo.asides.manual.text.document()
    assert document is not None
    block, numbered = document.begin(), 0
    while block.isValid():
        numbered += block.textList() is not None
        block = block.next()
    text = next(each for each in PAGES if each.file == "how.md").text
    assert numbered == len(re.findall(r"(?m)^\d\. ", text))
