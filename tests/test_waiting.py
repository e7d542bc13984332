"""An answer that takes its time: the one before stays readable under a veil, and can be gone back to."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from summula.core.boards.reckoning import Reckoning
from summula.core.preparation.prepare import prepare
from summula.core.preparation.steps import Rows
from summula.core.reading import previewing, readers
from summula.core.summaries import parse
from summula.core.tables import finding
from summula.desk.pages import boardpage, gridactions, rowsinview, summarypage, tablepage
from summula.desk.window import Window
from summula.desk.work import Work
from tests.hands import LEFT, margin_of, said, settled, shown

FIRST = "show sum of Takings by Route"


def waiting(work: Callable[..., Any], opened: threading.Event) -> Callable[..., Any]:
    """The same work, begun when the gate is opened."""

    def wait(*asked: Any, **named: Any) -> Any:
        opened.wait(20)
        return work(*asked, **named)

    return wait


@pytest.fixture
def gate(monkeypatch: pytest.MonkeyPatch) -> Iterator[threading.Event]:
    """Every answer goes to a worker, which waits until the gate is opened."""
    opened = threading.Event()
    for page in (summarypage, boardpage):
        monkeypatch.setattr(page, "QUICK_ROWS", 0)
    monkeypatch.setattr(summarypage, "answer", waiting(summarypage.answer, opened))
    monkeypatch.setattr(Reckoning, "panel", waiting(Reckoning.panel, opened))
    monkeypatch.setattr(Reckoning, "is_folded", lambda *_: False)
    yield opened
    opened.set()


def test_what_is_expected_soon_is_stood_still_for_a_moment_only(
    on_demo: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    page, opened = shown(on_demo, FIRST), threading.Event()
    words = on_demo.session.vocabulary("t1")
    assert page.grid is not None and not page.work.waits
    monkeypatch.setattr(summarypage, "answer", waiting(summarypage.answer, opened))
    monkeypatch.setattr(Work, "patience", 0.01)
    before = page.grid
    page.say(parse("show median of Takings by Ticket", words), "ask another")
    assert page.work.waits and page.grid is before and not on_demo.status.cancel.isHidden()
    opened.set()
    qtbot.waitUntil(lambda: page.grid is not before and not page.work.waits)
    assert on_demo.status.cancel.isHidden() and page.grid.rows.headings[0].field == "Ticket"
    monkeypatch.setattr(Work, "patience", 60.0)
    told: list[bool] = []
    page.work.busy.connect(told.append)
    page.say(parse("show rows by Vessel", words), "ask a third")
    assert not page.work.waits and page.grid.rows.headings[0].field == "Vessel" and told == []
    page.say(parse("show rows by Vessel then Vessel then Vessel", words), "ask what cannot be")
    assert not page.work.waits and told == []


def test_an_answer_that_comes_when_another_page_is_in_view_says_nothing(
    on_demo: Window, qtbot: QtBot, gate: threading.Event
) -> None:
    session = on_demo.session
    for page, work in ((session.folio.boards[1].id, on_demo.pages.board.work), ("s3", on_demo.pages.summary.work)):
        gate.clear()
        session.turn_to(page)
        assert work.waits
        session.turn_to("t1")
        before = on_demo.status.account.text(), on_demo.status.taken.text(), margin_of(on_demo)
        gate.set()
        qtbot.waitUntil(lambda work=work: not work.waits)
        assert (on_demo.status.account.text(), on_demo.status.taken.text(), margin_of(on_demo)) == before
        session.turn_to(page)
        qtbot.waitUntil(lambda work=work: not work.waits and "rows" in on_demo.status.account.text())
        assert on_demo.status.taken.text() != before[1]


def test_a_slow_answer_is_waited_for_or_cancelled(on_demo: Window, qtbot: QtBot, gate: threading.Event) -> None:
    session = on_demo.session
    gate.set()
    page = shown(on_demo, FIRST)
    qtbot.waitUntil(lambda: page.grid is not None and page.phrase_now() == parse(FIRST, session.vocabulary("t1")))
    qtbot.waitUntil(lambda: not page.work.waits)
    before = page.grid

    gate.clear()
    page.say(parse("show median of Takings by Route", session.vocabulary("t1")), "ask another")
    assert on_demo.status.cancel.isVisible() and page.grid is before  # readable still
    qtbot.waitUntil(page.veil.isVisible)
    assert page.pivot.isVisible() and page.veil.geometry() == page.stack.rect()
    QTest.mouseClick(on_demo.status.cancel, LEFT)
    gate.set()
    assert said(page) == FIRST and page.grid is before  # question and answer agree again
    assert not page.veil.isVisible() and not on_demo.status.cancel.isVisible()
    settled()
    assert page.grid is before  # what was cancelled does not come after all

    session.undo()  # going back was a step like any other
    qtbot.waitUntil(lambda: page.grid is not before and not page.work.waits)
    assert said(page) == "show median of Takings by Route" and not page.veil.isVisible()

    answered = page.grid
    gate.clear()
    page.say(parse("show rows by Route", session.vocabulary("t1")), "ask a third")
    session.undo()  # before its answer came: that must not come later, under words of another question
    assert page.grid is answered and not page.work.waits
    gate.set()
    settled()
    assert page.grid is answered and said(page) == "show median of Takings by Route"

    gate.clear()
    session.turn_to(session.folio.summaries[1].id)  # another summary: the answer of this one would mislead
    assert page.grid is None and page.pivot.message.startswith("Calculating") and not page.veil.isVisible()
    QTest.mouseClick(on_demo.status.cancel, LEFT)
    assert page.pivot.message.startswith("Stopped")
    gate.set()


def test_a_slow_board_goes_back_to_its_figures(on_demo: Window, qtbot: QtBot, gate: threading.Event) -> None:
    session = on_demo.session
    gate.set()
    session.turn_to("b8")
    board = on_demo.pages.board
    qtbot.waitUntil(lambda: bool(board.panels) and not board.work.waits)
    begun = board.board
    gate.clear()
    routes = board.slicers["l22"].rows
    QTest.mouseClick(routes, LEFT, pos=routes.row_centre(2))
    assert board.board != begun and board.work.waits
    qtbot.waitUntil(board.veil.isVisible)
    QTest.mouseClick(on_demo.status.cancel, LEFT)
    gate.set()
    qtbot.waitUntil(lambda: not board.work.waits)
    assert board.board == begun and not board.veil.isVisible()


def test_rows_behind_a_figure_do_not_cost_the_answer(
    on_demo: Window,
    qtbot: QtBot,
    gate: threading.Event,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(gridactions, "QUICK_ROWS", 0)
    gate.set()
    page = shown(on_demo, FIRST)
    qtbot.waitUntil(lambda: page.grid is not None and not page.work.waits)
    gate.clear()
    page.say(parse("show rows by Route", on_demo.session.vocabulary("t1")), "ask another")
    found: list[int] = []
    page.rows_found.connect(lambda _, rows, __: found.append(len(rows)))
    page.pivot.rows_asked.emit()
    qtbot.waitUntil(lambda: bool(found))  # while the answer is still under way
    assert page.work.waits and on_demo.status.cancel.isVisible()
    gate.set()
    qtbot.waitUntil(lambda: page.grid is not None and page.grid.names == ("rows",))
    QTest.mouseClick(on_demo.asides.rows_behind.back, LEFT)
    assert page.pivot.layout_ is not None and page.pivot.layout_.names == ["rows"]
    assert not on_demo.status.cancel.isVisible()


def test_rows_behind_a_figure_that_come_late_turn_no_page(on_demo: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(gridactions, "QUICK_ROWS", 0)
    opened, page = threading.Event(), shown(on_demo, FIRST)
    monkeypatch.setattr(gridactions, "behind", waiting(gridactions.behind, opened))
    page.pivot.rows_asked.emit()
    assert page.side_work.waits
    on_demo.session.turn_to("t1")
    opened.set()
    qtbot.waitUntil(lambda: not page.side_work.waits)
    assert on_demo.pages.currentWidget() is on_demo.pages.table


def test_a_table_is_looked_through_and_prepared_aside(
    on_demo: Window,
    qtbot: QtBot,
    monkeypatch: pytest.MonkeyPatch,
    tmp_path: Path,
) -> None:
    """What takes its time says so, leaves the page's account where it is, and can be stopped."""
    desk, session, gate = on_demo, on_demo.session, threading.Event()
    session.turn_to("t1")
    page, status = desk.pages.table, desk.status
    account, rows = status.account.text(), session.table("t1").rows
    assert page.rows is not None and account.startswith(f"{rows:,} rows")
    monkeypatch.setattr(tablepage, "QUICK_ROWS", 0)
    monkeypatch.setattr(rowsinview, "QUICK_ROWS", 0)
    monkeypatch.setattr("summula.core.tables.finding.rows_with", waiting(finding.rows_with, gate))
    monkeypatch.setattr("summula.core.folio.preparing.prepare", waiting(prepare, gate))

    def model_rows() -> int:
        model = page.rows.model() if page.rows is not None else None
        return model.rowCount() if model is not None else 0

    page.finding.search.setText("Fog")
    page.finding.search_rows()
    assert status.taken.text() == "looking through the rows …" and status.account.text() == account
    QTest.mouseClick(status.cancel, LEFT)
    gate.set()
    settled()
    assert model_rows() == rows and status.taken.text() == "" and not status.cancel.isVisible()
    page.finding.search_rows()
    qtbot.waitUntil(lambda: 0 < model_rows() < rows and not status.progress.isVisible())
    assert status.taken.text() == "" and status.account.text() == account

    for stopped in (True, False):
        gate.clear()
        fog = Rows(parse('show rows where Weather is "Fog"', session.vocabulary("t1")).where)
        page.put_steps((*session.folio.table("t1").steps, fog), "only fog")
        assert status.taken.text() == "preparing …" and status.cancel.isVisible()
        if stopped:
            QTest.mouseClick(status.cancel, LEFT)
        gate.set()
        qtbot.waitUntil(lambda: not page.work.waits)
        settled()
        assert (session.table("t1").rows == rows) is stopped and status.taken.text() == ""

    # A file that is being looked at is left, and one that is being read is not taken in.
    gate.clear()
    path = tmp_path / "few.csv"
    path.write_text("Berth,Fee\n1,2.5\n")
    monkeypatch.setattr("summula.core.reading.previewing.preview", waiting(previewing.preview, gate))
    monkeypatch.setattr("summula.core.reading.readers.read_table", waiting(readers.read_table, gate))
    desk.opening.open_path(path)
    assert desk.pages.currentWidget() is desk.importing.preview_page
    QTest.mouseClick(status.cancel, LEFT)
    assert desk.pages.currentWidget() is page and not status.cancel.isVisible()
    desk.importing.take_path(path)
    assert status.taken.text() == "reading few.csv …"
    QTest.mouseClick(status.cancel, LEFT)
    gate.set()
    settled()
    assert len(session.folio.tables) == 2 and not status.taken.text().endswith("…")


def test_while_an_answer_is_waited_for_nothing_of_the_last_page_is_offered(on_demo: Window, qtbot: QtBot, gate: threading.Event) -> None:
    session = on_demo.session
    gate.set()
    page = shown(on_demo, FIRST)
    qtbot.waitUntil(lambda: not page.work.waits)
    summary = session.page_id
    session.turn_to("t1")
    assert "Type" in " ".join(button.accessibleName() for button in margin_of(on_demo).findChildren(QPushButton) if button.isVisible())
    session.edit(session.folio, "nothing")
    page._answered = page.grid = page._shown = None
    gate.clear()
    session.turn_to(summary)
    settled()
    assert not any(button.accessibleName().startswith("Type") for button in margin_of(on_demo).findChildren(QPushButton) if button.isVisible())
    gate.set()
    qtbot.waitUntil(lambda: page.grid is not None)
