"""Anything is found by any word for it: from the window, from the command line, in general words of the trade."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from summula.cli import main
from summula.core.charts.settings import BY_KEY
from summula.core.finding import synonyms
from summula.core.finding.entry import Entry
from summula.core.finding.matching import find
from summula.core.folio.opened import Opened
from summula.core.phrases.forms import FORMS
from summula.desk.finding.catalogue import everything
from summula.desk.finding.finder import do, entries_of
from summula.desk.preparing.stepmaker import step_picks
from summula.desk.widgets.picklist import PickList
from summula.desk.widgets.popover import Popover
from summula.desk.window import Window
from summula.desk.windowactions import action_words
from tests.hands import settled, shown

QUERIES = [line.split(" | ") for line in (Path(__file__).parent / "queries.txt").read_text().splitlines()]


@pytest.fixture(scope="module")
def entries(demo: Opened) -> list[Entry]:
    return everything(demo.folio, action_words())


@pytest.mark.parametrize(("query", "expected"), QUERIES, ids=[query for query, _ in QUERIES])
def test_what_is_looked_for_is_among_the_first_three(query: str, expected: str, entries: list[Entry]) -> None:
    first = [each.name for each in find(query, entries, 3).entries]
    assert any(wanted in name for wanted in expected.split(" / ") for name in first), first


def test_synonyms_are_of_what_there_is(entries: list[Entry]) -> None:
    actions = {each.key[0] for each in entries if each.what == "action"}
    assert synonyms.ACTIONS.keys() <= actions and synonyms.SETTINGS.keys() <= BY_KEY.keys()
    assert synonyms.FORMS.keys() == FORMS.keys() and synonyms.STEPS.keys() == {each.value.__name__ for each in step_picks()}
    assert synonyms.PHRASE.keys() == {each.key[0] for each in entries if each.what == "phrase"}


@given(st.sampled_from([query for query, _ in QUERIES if query.isalpha() and len(query) > 5 and not query.endswith(("ing", "s", "ed"))]), st.data())
def test_a_letter_wrong_is_forgiven(query: str, data: st.DataObject) -> None:
    """One letter left out, doubled or swapped with the next: what was found is found."""
    entries = [Entry("action", ("a",), query), Entry("action", ("b",), "something else")]
    at = data.draw(st.integers(1, len(query) - 2))
    wrong = data.draw(st.sampled_from([query[:at] + query[at + 1 :], query[:at] + query[at] * 2 + query[at + 1 :],
                                       query[:at] + query[at + 1] + query[at] + query[at + 2 :]]))  # fmt: skip
    assert find(wrong, entries).entries[0].key == ("a",)


def test_where_nothing_has_all_words_what_is_near_is_said(on_demo: Window, entries: list[Entry]) -> None:
    assert find("trend zebra", entries).near and find("trend zebra", entries).entries
    assert find("zebra", entries).entries == ()
    on_demo.find_anything()
    popover = on_demo.finder
    assert isinstance(popover, Popover)
    picks = popover.findChild(PickList)
    assert picks is not None
    QTest.keyClicks(picks.search, "save zebra")
    item = picks.list.item(0)
    assert item is not None and item.text() == "Nothing has all of “save zebra”. Near:" and not item.flags()
    picks.search.setText("zebra")
    assert picks.list.count() == 1
    popover.close()


@pytest.mark.parametrize(
    ("query", "opened"),
    [("dedupe", "Remove duplicates"), ("legend", "Legend"), ("filter rows", "Filter"), ("sort order", "Ordered"), ("reference line", "Reference line")],
)
def test_what_is_found_is_opened(query: str, opened: str, on_demo: Window) -> None:
    shown(on_demo, "show sum of Takings by Vessel across Ticket drawn as columns")
    settled()  # popovers close when the window becomes the active one
    on_demo.find_anything()
    picks = on_demo.finder.findChild(PickList)  # type: ignore[union-attr]
    assert picks is not None
    QTest.keyClicks(picks.search, query)
    QTest.keyClick(picks.search, Qt.Key.Key_Return)
    settled()
    names = [each.accessibleName() for each in on_demo.findChildren(Popover) if each.isVisible()]
    assert any(opened in name for name in names), names


def test_everything_that_is_offered_on_a_summary_can_be_done(on_demo: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    """Each setting, step, part of the phrase, chart type and section, one after the other."""
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([], ""))
    for entry in entries_of(on_demo):
        if entry.what in ("setting", "step", "phrase", "form", "manual"):
            shown(on_demo, "show sum of Takings by Vessel across Ticket drawn as columns")
            do(on_demo, entry)
            for popover in on_demo.findChildren(Popover):
                popover.close()


def test_the_command_line_finds(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    assert main(["find", "undo"]) == 0
    assert capsys.readouterr().out.splitlines()[0] == "Undo\tundo the last change\tCtrl+Z"
    assert main(["find", "xylophone zebra"]) == 1 and "Nothing found" in capsys.readouterr().out
    assert main(["find", "undo", str(tmp_path / "gone.summula")]) == 1
