"""Around the pages: contents that scroll apart, what an empty summary offers, what a preview does not; boards under levers,
slicing and threads."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QPoint
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel, QPlainTextEdit, QPushButton
from pytestqt.qtbot import QtBot

from summula.core.arrays import np
from summula.core.boards import panelanswers
from summula.core.boards.board import Board, NotePanel, SourcesPanel
from summula.core.boards.panelkinds import PANEL_KINDS, kind_of
from summula.core.boards.reckoning import Reckoning
from summula.core.charts.places import bounds
from summula.core.folio.model import with_lever
from summula.core.folio.opened import Opened
from summula.core.memory import Memory
from summula.core.phrases.lever import LeverSetting
from summula.core.phrases.phrase import Aggregate, Arithmetic, Lever, Measure
from summula.core.slicing.slicer import ListSlicer
from summula.core.tables.column import take_at
from summula.core.theme.typefaces import text_width
from summula.desk.board.paneleditors import EDITORS
from summula.desk.frame.contents import FieldRow
from summula.desk.frame.margin import Margin
from summula.desk.frame.marginblocks import ActionBlock, Block, Note, Pair
from summula.desk.widgets.popover import Popover
from summula.desk.window import Window
from tests.hands import LEFT, margin_of, settled


def test_fields_stay_in_sight_below_many_pages_and_are_searched(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    for _ in range(30):
        session.new_summary("t1")
    settled()
    contents = window.contents
    rows = {row.field.name: row for row in contents.findChildren(FieldRow)}
    assert len(contents.page_rows()) > 30 and contents.fields.height() > contents.height() * 0.3
    assert contents.pages.height() + contents.fields.height() <= contents.height()
    first = rows["Sailing no."]
    assert contents.fields.rect().contains(first.mapTo(contents.fields, QPoint(2, 2)))
    contents.search.show()  # offered from fifteen fields on
    QTest.keyClicks(contents.search, "on sail")
    assert [name for name, row in rows.items() if not row.isHidden()] == ["Sailed on"]
    contents.search.clear()
    assert not any(row.isHidden() for row in rows.values())


def test_an_empty_summary_says_what_to_do_next(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    session.new_summary("t1")
    settled()
    page = window.pages.summary
    assert page.beginning.isVisible()
    offers = page.beginning.offers.findChildren(QPushButton)
    assert len(offers) == 4 and all(button.isVisible() and button.toolTip() for button in offers)
    QTest.mouseClick(offers[1], LEFT)
    assert not page.beginning.isVisible() and page.summary is not None and page.summary.phrase.by
    session.undo()
    assert page.beginning.isVisible()
    page.add_field("Vessel")
    assert not page.beginning.isVisible()


def test_a_preview_offers_nothing_of_the_board_behind_it(on_demo: Window, tmp_path: Path) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to("b8")
    window.pages.board.slicing.choose("l22", ("Aldry – Fenholm",))
    assert window.status.clear.isVisible() and window.header.buttons["arrange"].isVisible()
    path = tmp_path / "boats.csv"
    path.write_text("Boat,Fee\nAuk,3\n")
    window.opening.open_path(path)
    settled()
    assert window.pages.currentWidget() is window.importing.preview_page
    assert not window.status.clear.isVisible() and not window.header.buttons["arrange"].isVisible()
    assert not window.actions_["arrange"].possible() and not window.actions_["clear slicing"].possible()
    session.turn_to("s3")
    session.turn_to("b8")
    assert window.header.buttons["arrange"].isVisible() and window.status.clear.isVisible()


def test_a_run_of_slicing_is_undone_at_once(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to("b8")
    before = session.folio
    for chosen in (("Aldry – Fenholm",), ("Aldry – Fenholm", "Fenholm – Osk"), ("Osk – Vaila",)):
        window.pages.board.slicing.choose("l22", chosen)
    window.pages.board.slicing.choose("l23", ("Single",))
    session.undo()
    assert session.folio == before
    session.redo()
    assert session.folio.board("b8").slicer("l23").chosen == ("Single",)  # type: ignore[union-attr]


def test_a_key_figure_with_a_lever_and_the_rows_behind_its_course(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    session.edit(with_lever(session.folio, LeverSetting("Fares", 0.1, -0.5, 0.5, 0.05)), "lever")
    measure = Measure(Arithmetic("*", Aggregate("sum", "Takings"), Lever("Fares")))
    board = session.folio.board("b8")
    panels = tuple(replace(each, measure=measure) if each.id == "p11" else each for each in board.panels)
    session.turn_to("b8")
    session.set_board(replace(board, panels=panels), "a lever in a key figure")
    settled()
    view = window.pages.board.panels["p11"]
    total = session.reckoning(session.folio.board("b8")).panel(session.folio.board("b8"), board.panel("p12"))
    assert view.answer is not None and not view.answer.refusal and view.answer.key_figure is not None and total.key_figure is not None
    tenth = view.answer.key_figure.value
    session.edit(with_lever(session.folio, LeverSetting("Fares", 0.2, -0.5, 0.5, 0.05)), "lever", going_on=True)
    settled()
    assert view.answer.key_figure.value == pytest.approx(2 * tenth)
    scene = view.view.scene
    assert scene is not None
    month = next(mark for mark in scene.tagged() if mark.tag is not None and mark.tag.by)
    area = bounds(month, text_width)
    QTest.mouseDClick(view.view, LEFT, pos=QPoint(int((area.left + area.right) / 2), int(area.bottom) - 1))
    behind = window.asides.rows_behind
    assert window.pages.currentWidget() is behind and behind.rows is not None
    days = session.table("t1").column("Sailed on").days  # type: ignore[union-attr]
    assert behind.rows.model() is not None and 0 < behind.rows.model().rowCount() < len(days) / 20


def test_a_note_is_put_on_a_board_and_written(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to("b8")
    window.pages.board.set_arranging(True)
    settled()

    def press(name: str) -> None:
        button = next(b for b in margin_of(window).findChildren(QPushButton) if b.isVisible() and b.accessibleName().startswith(name))
        QTest.mouseClick(button, LEFT)

    press("Note")
    note = next(each for each in session.folio.board("b8").panels if isinstance(each, NotePanel))
    settled()
    window.pages.board.arranger.pick(note.id, False)
    press("Text")
    popover = next(each for each in window.findChildren(Popover) if each.isVisible())
    text = popover.findChild(QPlainTextEdit)
    assert text is not None
    text.setPlainText("Fog in March.\n\nFewer sailings.")
    QTest.mouseClick(popover.findChildren(QPushButton)[-1], LEFT)
    settled()
    scene = window.pages.board.panels[note.id].view.scene
    assert scene is not None and scene.texts() == ["Fog in March.", "Fewer sailings."]
    press("Sources")
    settled()
    told = next(view for view in window.pages.board.panels.values() if isinstance(view.panel, SourcesPanel)).view.scene
    assert told is not None and "24,285 rows" in " ".join(told.texts()) and "targets" not in " ".join(told.texts())
    assert set(EDITORS) == set(PANEL_KINDS) and all(kind_of(each).word for each in session.folio.board("b8").panels)


def test_boards_are_asked_by_several_threads_at_once(demo: Opened) -> None:
    """What is kept beside a board is changed under nobody's hands; every thread gets the figures of its own slicing."""
    board = demo.folio.boards[0]
    tables = demo.prepared()
    shared = Reckoning(tables, demo.folio.phrases(), demo.folio.looks(), demo.folio.levers)
    routes = list(tables["t1"].column("Route").members)  # type: ignore[union-attr]

    def sliced(route: str) -> Board:
        slicers = tuple(replace(each, chosen=(route,)) if isinstance(each, ListSlicer) and each.heading.field == "Route" else each for each in board.slicers)
        return replace(board, slicers=slicers)

    def figures(reckoning: Reckoning, one: Board) -> list[float]:
        answers = [reckoning.panel(one, panel) for panel in one.panels]
        return [each.key_figure.value for each in answers if each.key_figure is not None]

    expected = {route: figures(replace(shared, memo=Memory()), sliced(route)) for route in routes}
    wrong: list[object] = []

    def work(start: int) -> None:
        try:
            for at in range(25):
                route = routes[(start + at) % len(routes)]
                mine = replace(shared, looks=demo.folio.looks())  # a newer state, which shares what is kept
                if figures(mine, sliced(route)) != expected[route]:
                    wrong.append(route)
        except Exception as fault:
            wrong.append(fault)

    threads = [threading.Thread(target=work, args=(start,)) for start in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(120)
    assert wrong == []


def test_a_wrong_code_is_no_figure() -> None:
    known = np.array([1.0, 2.0, 3.0])
    assert take_at(known, np.array([2, 0], dtype=np.uint8)).tolist() == [3.0, 1.0]
    for codes in (np.array([3], dtype=np.uint8), np.array([-1], dtype=np.int64), np.array([70_000], dtype=np.uint32)):
        for values in (known, known.astype(np.uint8), known > 1):
            with pytest.raises(IndexError):
                take_at(values, codes)




def test_a_margin_keeps_its_rows_where_only_what_they_say_changes(qtbot: QtBot) -> None:
    margin, asked = Margin(), list[str]()
    qtbot.addWidget(margin)

    def blocks(rows: str, legend: str) -> list[Block]:
        return ["Table", Pair("Rows", rows), "Look", Pair("Legend", legend, lambda _: asked.append(legend)), ActionBlock(f"Do {legend}", lambda: asked.append("done"))]

    margin.show_blocks(blocks("5", "best"), "s1")
    before = margin.findChildren(QPushButton)
    for of in ("s1", "s2"):
        margin.show_blocks(blocks("12,345", of), of)
        margin.lay_out()
        buttons = margin.findChildren(QPushButton)
        assert buttons == before and [b.text() for b in buttons] == [of, f"Do {of}"] and buttons[0].accessibleName() == f"Legend: {of}"
        assert "12,345" in [label.text() for label in margin.findChildren(QLabel)]
        QTest.mouseClick(buttons[0], LEFT)
        QTest.mouseClick(buttons[1], LEFT)
    assert asked == ["s1", "done", "s2", "done"]
    margin.show_blocks([Pair("Rows", "1"), Note("nothing else")], "s2")
    margin.lay_out()
    assert [label.text() for label in margin.findChildren(QLabel) if label.isVisibleTo(margin)] == ["Rows", "1", "nothing else"]


def test_what_a_kind_of_panel_names_is_there() -> None:
    asked = [getattr(kind, field) for kind in PANEL_KINDS.values() for field in kind.__struct_fields__]
    late = {each.__name__ for each in asked if callable(each)} - {"<lambda>"}
    assert len(late) > 15 and all(callable(getattr(panelanswers, name)) for name in late)
