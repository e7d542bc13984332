"""An answer that takes its time: the one before stays readable under a veil, and can be gone back to."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from summula.core.boards.reckoning import Reckoning
from summula.core.summaries import parse
from summula.desk.pages import boardpage, griddeeds, summarypage
from summula.desk.window import Window
from tests.test_grid import said, shown
from tests.test_window import LEFT, on_demo, window  # noqa: F401  fixtures, used by their names

FIRST = "show sum of Takings by Route"


@pytest.fixture
def gate(monkeypatch: pytest.MonkeyPatch) -> Iterator[threading.Event]:
    """Every answer goes to a worker, which waits until the gate is opened."""
    opened = threading.Event()

    def waiting(work: Callable[..., Any]) -> Callable[..., Any]:
        def wait(*asked: Any) -> Any:
            opened.wait(20)
            return work(*asked)

        return wait

    for page in (summarypage, boardpage):
        monkeypatch.setattr(page, "QUICK_ROWS", 0)
    monkeypatch.setattr(summarypage, "answer", waiting(summarypage.answer))
    monkeypatch.setattr(Reckoning, "panel", waiting(Reckoning.panel))
    monkeypatch.setattr(Reckoning, "is_folded", lambda *_: False)
    yield opened
    opened.set()


def test_a_slow_answer_is_waited_for_or_cancelled(on_demo: Window, qtbot: QtBot, gate: threading.Event) -> None:  # noqa: F811
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
    QTest.qWait(100)
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
    QTest.qWait(100)
    assert page.grid is answered and said(page) == "show median of Takings by Route"

    gate.clear()
    session.turn_to(session.folio.summaries[1].id)  # another summary: the answer of this one would mislead
    assert page.grid is None and page.pivot.message.startswith("Working it out") and not page.veil.isVisible()
    QTest.mouseClick(on_demo.status.cancel, LEFT)
    assert page.pivot.message.startswith("Stopped")
    gate.set()


def test_a_slow_board_goes_back_to_its_figures(on_demo: Window, qtbot: QtBot, gate: threading.Event) -> None:  # noqa: F811
    session = on_demo.session
    gate.set()
    session.turn_to("b8")
    board = on_demo.board_page
    qtbot.waitUntil(lambda: bool(board.panels) and not board.work.waits)
    begun = board.board
    gate.clear()
    routes = board.lists["l22"].rows
    QTest.mouseClick(routes, LEFT, pos=routes.row_centre(2))
    assert board.board != begun and board.work.waits
    qtbot.waitUntil(board.veil.isVisible)
    QTest.mouseClick(on_demo.status.cancel, LEFT)
    gate.set()
    qtbot.waitUntil(lambda: not board.work.waits)
    assert board.board == begun and not board.veil.isVisible()


def test_rows_behind_a_figure_do_not_cost_the_answer(
    on_demo: Window,  # noqa: F811
    qtbot: QtBot,
    gate: threading.Event,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(griddeeds, "QUICK_ROWS", 0)
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
    QTest.mouseClick(on_demo.rows_behind_page.back, LEFT)
    assert page.pivot.layout_ is not None and page.pivot.layout_.names == ["rows"]
    assert not on_demo.status.cancel.isVisible()
