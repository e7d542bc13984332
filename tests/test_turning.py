"""Turning from page to page: what was worked out and built is kept, and no longer than it is true."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace
from PyQt6 import sip
from PyQt6.QtWidgets import QApplication

from summula.core.boards.arrangement import with_slicer
from summula.core.engine.grid import Grid
from summula.core.preparation.steps import Rows
from summula.core.summaries import parse
from summula.demo.folio import demo_folio
from summula.desk.board.slicerlist import SlicerList
from summula.desk.pages import summarypage
from summula.desk.widgets.popover import Popover
from summula.desk.window import Window
from tests.hands import settled


def test_what_is_open_of_a_slicer_goes_with_it(on_demo: Window) -> None:
    session, page = on_demo.session, on_demo.pages.board
    first, other = session.folio.boards[0], session.folio.boards[1]
    for drop_down in (False, True):
        session.turn_to(first.id)
        view = next(each for each in page.slicers.values() if isinstance(each, SlicerList))
        if drop_down:
            session.set_board(with_slicer(session.folio.board(first.id), replace(view.slicer, drop_down=True)), "make it short")
            view = page.slicers[view.slicer.id]
            assert isinstance(view, SlicerList)
            view.opener.click()
        else:
            view.open_look(view)
        popover = QApplication.activePopupWidget()
        assert isinstance(popover, Popover) and popover.stays
        before = session.folio
        session.turn_to(other.id)
        settled()
        assert not view.isVisible() and (sip.isdeleted(popover) or not popover.isVisible())
        assert session.folio is before


def test_boards_are_kept_as_they_stand(on_demo: Window) -> None:
    """Turning back to a board draws nothing again; where it is another board by now, it is built anew."""
    session, page = on_demo.session, on_demo.pages.board
    first, other = session.folio.boards[0], session.folio.boards[1]
    session.turn_to(first.id)
    settled()
    views = dict(page.panels)
    scenes = {key: view.view.scene for key, view in views.items()}
    session.turn_to(other.id)
    settled()
    assert not any(view.isVisible() for view in views.values()) and not set(views.values()) & set(page.panels.values())
    assert all(view.isVisible() for view in page.panels.values())
    session.turn_to(session.folio.summaries[0].id)
    session.turn_to(first.id)
    settled()
    assert page.panels == views and all(view.isVisible() for view in views.values())
    assert all(view.view.scene is scenes[key] for key, view in views.items())
    # A panel in hand goes out of view with its board, and nothing is picked on the way.
    page.set_arranging(True)
    next(iter(views.values())).setFocus()
    session.turn_to(other.id)
    session.set_board(replace(first, panels=first.panels[1:]), "Take a panel away")
    session.turn_to(first.id)
    settled()
    assert list(page.panels) == [panel.id for panel in first.panels[1:]] and not set(page.panels.values()) & set(views.values())
    # Where an answer is long in coming, what the board showed before is not told again for new.
    session.turn_to(other.id)
    page.work.patience, session._reckonings = 0.0, {}  # type: ignore[misc]
    session.turn_to(first.id)
    assert page.work.waits and all(view.answer is None for view in page.panels.values())
    settled()
    page.work.cancel()
    # Another folio: nothing is held of the one before but the face in view.
    session.adopt(demo_folio())
    settled()
    assert len(page._faces) == 1


def all_figures(grid: Grid | None) -> list[list[object]]:
    assert grid is not None
    return [block.tolist() for block in np.nan_to_num(list(grid.values.values())[-1])]


def test_turning_back_to_a_summary_works_nothing_out_again(on_demo: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    """Unless what it was worked out from has changed: its own rows, or those of a table that its figures are linked to."""
    session, page = on_demo.session, on_demo.pages.summary
    linked = next(each for each in session.folio.summaries if each.name == "Takings and goals, by month")
    other = next(each for each in session.folio.summaries if each.name == "Delay by weather")
    session.turn_to(linked.id)
    settled()
    grid, scene = page.grid, page.chart.scene
    asked: list[object] = []
    really = summarypage.answer
    monkeypatch.setattr(summarypage, "answer", lambda *given, **named: asked.append(given) or really(*given, **named))
    session.turn_to(other.id)
    session.turn_to(linked.id)
    settled()
    assert len(asked) == 1 and page.grid is grid and page.chart.scene is scene
    # Another look is drawn anew; nothing is worked out.
    summary = session.folio.summary(linked.id)
    assert summary is not None
    goal = next(table for table in session.folio.tables if table.name == "Monthly targets")
    line = all_figures(grid)
    half = replace(goal, steps=(*goal.steps, Rows(parse('show rows where "Takings goal" is over 60000', session.vocabulary(goal.id)).where)))
    session.edit(replace(session.folio, tables=tuple(half if each.id == goal.id else each for each in session.folio.tables)), "fewer goals")
    settled()
    session.turn_to(other.id)
    session.turn_to(linked.id)
    settled()
    assert page.grid is not grid and all_figures(page.grid) != line
    session.undo()
    settled()
    assert all_figures(page.grid) == line
    # Nothing is held of a folio that has gone.
    session.adopt(demo_folio())
    assert not page._answers and not page._drawn


def test_a_field_that_is_chosen_late_leaves_the_page_in_view_alone(on_demo: Window) -> None:
    """A click may come to the rows of a table just as another page has been turned to."""
    on_demo.session.turn_to("t1")
    rows = on_demo.pages.table.rows
    assert rows is not None
    on_demo.session.turn_to("s3")
    settled()
    before = on_demo.margin._of
    rows.field_chosen.emit(3)
    settled()
    assert on_demo.margin._of == before
    on_demo.session.turn_to("t1")
    assert on_demo.pages.table.chosen_field() == on_demo.session.table("t1").fields[3].name
