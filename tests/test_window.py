"""The whole way through the real window, with mouse, keys and drops: from a CSV to a sliced, saved board."""

from __future__ import annotations

from pathlib import Path

import msgspec
import polars as pl
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QGuiApplication, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPlainTextEdit, QPushButton
from pytestqt.qtbot import QtBot

from summula.core.charts.scene import Box
from summula.core.reading.readers import table_from_frame
from summula.core.summaries import parse
from summula.demo.company import sailings
from summula.desk import theme
from summula.desk.board.periodruler import PeriodRuler
from summula.desk.board.putonboard import add_slicer, put_on_board
from summula.desk.board.slicerlist import SlicerList
from summula.desk.frame.contents import FieldRow
from summula.desk.theme import contrast
from summula.desk.widgets import veil
from summula.desk.widgets.popover import Popover
from summula.desk.window import Window
from tests.hands import LEFT, bars, drop, margin_of, phrase_text, pick, scene_of, settled, take_in


def picture(window: Window) -> QImage:
    QApplication.processEvents()
    return window.pages.currentWidget().grab().toImage()


def test_from_a_csv_to_a_sliced_board_and_back(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    frame = sailings()
    source = tmp_path / "sailings.csv"
    frame.write_csv(source)

    # A CSV is read in a worker and stands on its page.
    take_in(window, qtbot, source)
    qtbot.waitUntil(lambda: len(window.session.folio.tables) == 1, timeout=20_000)
    assert window.pages.currentWidget() is window.pages.table
    rows = window.pages.table.rows
    assert rows is not None and rows.model().rowCount() == frame.height  # type: ignore[union-attr]
    assert window.session.table("t1").field("Sailing no.").kind == "code"

    # A new summary; a figure by dragging from the list onto the phrase, headings onto the grid's edges.
    QTest.keyClick(window, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    page = window.pages.summary
    assert window.pages.currentWidget() is page
    field_rows = {row.field.name: row for row in window.contents.findChildren(FieldRow)}
    assert field_rows["Takings"].accessibleName() == "Field Takings, number"
    drop(page.phrase, page.phrase.button("measures").geometry().center(), "Takings")
    assert phrase_text(window) == "show sum of Takings"
    viewport = page.pivot.viewport()
    assert viewport is not None
    layout = page.pivot.layout_
    assert layout is not None
    drop(viewport, QPoint(10, layout.head_height + 10), "Vessel")
    layout = page.pivot.layout_
    assert layout is not None
    drop(viewport, QPoint(layout.head_width + 20, 5), "Sailed on")
    assert phrase_text(window) == 'show sum of Takings by Vessel across year of "Sailed on"'
    by_vessel = frame.group_by("Vessel").agg(pl.col("Takings").sum())
    expected = dict(zip(by_vessel["Vessel"], by_vessel["Takings"], strict=True))
    layout = page.pivot.layout_
    assert layout is not None
    last = len(layout.columns) - 1
    for at, line in enumerate(layout.rows[:-1]):
        assert layout.value(at, last) == pytest.approx(expected[line.label])

    # Select two figures with the mouse: their sum stands in the status line; Ctrl+C copies them.
    first, second = page.pivot.cell_rect(0, 0).center().toPoint(), page.pivot.cell_rect(1, 0).center().toPoint()
    QTest.mouseClick(viewport, LEFT, pos=first)
    QTest.mouseClick(viewport, LEFT, Qt.KeyboardModifier.ShiftModifier, second)
    total = layout.value(0, 0) + layout.value(1, 0)
    assert f"Selected 2 cells: sum {total:,.2f}" in window.status.selection.text()
    QTest.keyClick(page.pivot, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None and layout.rows[0].label in clipboard.text()

    # The same by typing: a fault is underlined and mended by its suggestion.
    QTest.keyClick(window, Qt.Key.Key_F2)
    text = page.phrase.text
    text.setPlainText("show sum of Taking by Vessel ordered by sum of Takings, largest first drawn as bars")
    assert "no field 'Taking'" in page.phrase.trouble.text()
    QTest.keyClick(text, Qt.Key.Key_Return)
    assert phrase_text(window).endswith('across year of "Sailed on"')  # not taken while it is wrong
    QTest.mouseClick(page.phrase.mend, LEFT)
    QTest.keyClick(text, Qt.Key.Key_Return)
    assert phrase_text(window).startswith("show sum of Takings by Vessel ordered")
    assert page.chart.scene is not None
    drawn = bars(page.chart.scene)
    assert list(drawn) == sorted(expected, key=lambda name: -expected[name])
    assert drawn["Petrel"] == pytest.approx(expected["Petrel"])

    # On a new board, with a slicer added through its popover.
    page.put_on_board()
    pick(page.popover, "New board")
    board = window.pages.board
    assert window.pages.currentWidget() is board and len(board.panels) == 1 and [type(each) for each in board.slicers.values()] == [PeriodRuler]
    QTest.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    QTest.mouseClick(next(each for each in board.rails.findChildren(QPushButton) if each.text() == "+ slicer" and each.isVisible()), LEFT)
    popup = QApplication.activePopupWidget()
    assert isinstance(popup, Popover)
    pick(popup, "Route")
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not window.session.board_state.arranging
    slicer = next(each for each in board.slicers.values() if isinstance(each, SlicerList))
    title = window.session.folio.summaries[0].name
    assert bars(scene_of(window, title))["Petrel"] == pytest.approx(expected["Petrel"])

    # A click narrows the panel; Ctrl+click adds; the figures are read from the painted scene.
    held = [each.label for each in slicer.rows.held]
    QTest.mouseClick(slicer.rows, LEFT, pos=slicer.rows.row_centre(0))
    only = frame.filter(pl.col("Route") == held[0]).group_by("Vessel").agg(pl.col("Takings").sum())
    assert bars(scene_of(window, title)) == pytest.approx(dict(zip(only["Vessel"], only["Takings"], strict=True)))
    assert any(isinstance(mark, Box) and mark.ghost for mark in scene_of(window, title).marks)
    QTest.mouseClick(slicer.rows, LEFT, Qt.KeyboardModifier.ControlModifier, slicer.rows.row_centre(1))
    both = frame.filter(pl.col("Route").is_in(held[:2]))
    assert window.status.account.text().startswith(f"{both.height:,} of {frame.height:,} rows")
    assert "2 of 11" in slicer.head.count.text()

    # The ruler: a quarter by a click, its neighbour by dragging.
    ruler = next(each for each in board.slicers.values() if isinstance(each, PeriodRuler))
    QTest.mouseClick(ruler, LEFT, pos=ruler.place_of("2024-04", 3))
    spring = both.filter(pl.col("Sailed on").is_between(pl.date(2024, 4, 1), pl.date(2024, 6, 30)))
    assert sum(bars(scene_of(window, title)).values()) == pytest.approx(spring["Takings"].sum())
    sliced = window.session.folio
    before_undo = picture(window)
    window.session.undo()
    assert "Apr 2024" not in window.status.account.text()
    window.session.redo()
    assert window.session.folio == sliced

    # Saved and opened again: the same folio and the same picture.
    target = tmp_path / "mine"
    window.session.save(target)
    assert window.header.state.text() == "all changes saved"
    other = Window()
    other.may_leave = lambda: True  # type: ignore[method-assign]
    qtbot.addWidget(other)
    other.resize(1280, 800)
    other.show()
    other.opening.open_path(tmp_path / "mine.summula")
    qtbot.waitUntil(lambda: len(other.session.folio.boards) == 1, timeout=20_000)
    assert other.session.folio == window.session.folio
    assert picture(other) == before_undo


def test_words_open_popovers_and_every_step_is_undone(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to("s3")
    page = window.pages.summary
    before = session.folio
    QTest.mouseClick(page.phrase.button("add", clause="across"), LEFT)
    pick(page.popover, "Weather")
    assert 'across year of "Sailed on" then Weather' in phrase_text(window)
    QTest.keyClick(page.phrase.button("across", 1), Qt.Key.Key_Delete)
    assert "Weather" not in phrase_text(window)
    page.phrase.button("measures", 0).setFocus()
    QTest.keyClick(page.phrase.button("measures", 0), Qt.Key.Key_Return)
    pick(page.popover, "median")
    assert phrase_text(window).startswith("show median of Takings")
    buttons = page.phrase.buttons()
    page.add_field("Ticket", "by")  # a word more: those there say on, in the order of the keys
    told = page.phrase.buttons()
    assert len(told) == len(buttons) + 1 and set(buttons) < set(told)
    told[0].setFocus()
    for each in told:
        assert QApplication.focusWidget() is each
        assert each.word.role == "add" or each.accessibleName().endswith(each.word.text)
        QTest.keyClick(each, Qt.Key.Key_Tab)
    session.undo()
    QTest.mouseClick(page.forms["columns"], LEFT)
    assert phrase_text(window).endswith("drawn as columns")
    QTest.mouseClick(page.forms["grid"], LEFT)
    QTest.mouseClick(page.tools["fold"], LEFT)
    assert page.pivot.layout_ is not None
    assert [line.level for line in page.pivot.layout_.rows] == [1] * 6 + [0]
    QTest.keyClick(page.pivot, Qt.Key.Key_Down)
    QTest.keyClick(page.pivot, Qt.Key.Key_Plus)
    assert page.pivot.layout_.rows[1].level == 2
    QTest.mouseClick(page.tools["swap"], LEFT)
    assert 'by year of "Sailed on" across Route then Vessel' in phrase_text(window)
    while window.header.buttons["undo"].isEnabled():
        QTest.mouseClick(window.header.buttons["undo"], LEFT)
    assert session.folio == before
    while window.header.buttons["redo"].isEnabled():
        QTest.keyClick(window, Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier)
    assert 'by year of "Sailed on" across Route then Vessel' in phrase_text(window)


def test_slicing_by_keys_and_drag_search_and_clear(on_demo: Window, qtbot: QtBot) -> None:
    window, board = on_demo, on_demo.pages.board
    window.session.turn_to("b8")
    routes = board.slicers["l22"].rows
    QTest.mousePress(routes, LEFT, pos=routes.row_centre(2))
    QTest.mouseMove(routes, routes.row_centre(3))
    QTest.mouseMove(routes, routes.row_centre(4))
    QTest.mouseRelease(routes, LEFT, pos=routes.row_centre(4))
    assert len(window.session.folio.board("b8").slicer("l22").chosen) == 3  # type: ignore[union-attr]
    routes.setFocus()
    QTest.keyClick(routes, Qt.Key.Key_Up)
    QTest.keyClick(routes, Qt.Key.Key_Space)
    assert len(window.session.folio.board("b8").slicer("l22").chosen) == 2  # type: ignore[union-attr]
    QTest.keyClick(routes, Qt.Key.Key_Escape)
    assert window.session.folio.board("b8").slicer("l22").chosen == ()  # type: ignore[union-attr]
    ruler = board.slicers["l21"]
    ruler.setFocus()
    QTest.mouseClick(ruler, LEFT, pos=ruler.place_of("2025-01", 12))
    assert window.status.account.text().endswith("Jan 2025 – Dec 2025")
    QTest.keyClick(ruler, Qt.Key.Key_Left)
    QTest.keyClick(ruler, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert window.status.account.text().endswith("Dec 2024 – Dec 2025")
    start, end = ruler.place_of("2023-02"), ruler.place_of("2023-05")
    QTest.mousePress(ruler, LEFT, pos=start)
    QTest.mouseMove(ruler, end)
    QTest.mouseRelease(ruler, LEFT, pos=end)
    assert window.status.account.text().endswith("Feb 2023 – May 2023")
    QTest.mouseClick(window.status.clear, LEFT)
    assert not board.is_sliced
    # The course and the mark under the pointer have words for readers who do not see them.
    figure = next(v for v in board.panels.values() if v.panel.title == "Takings")
    assert "£" in figure.view.accessibleDescription()
    figure.view.setFocus()
    QTest.keyClick(figure.view, Qt.Key.Key_Right)
    assert figure.view.accessibleDescription().startswith("Takings")


def test_a_long_list_is_searched_and_words_are_shown_under_the_pointer(window: Window) -> None:
    session = window.session
    rows = pl.DataFrame({"Pier": [f"Pier {n % 40 + 1}" for n in range(400)], "Fee": [float(n) for n in range(400)]})
    session.take_table(table_from_frame("Piers", rows))
    put_on_board(session, session.new_summary("t1", parse("show sum of Fee by Pier drawn as bars"), "Fees"))
    add_slicer(session, session.folio.boards[0], "t1", "Pier")
    slicer = next(each for each in window.pages.board.slicers.values() if isinstance(each, SlicerList))
    assert slicer.search.isVisible() and len(slicer.rows.held) == 40
    QTest.keyClicks(slicer.search, "pier 3")
    assert [each.label for each in slicer.rows.held] == ["Pier 3", *(f"Pier {n}" for n in range(30, 40))]
    QTest.mouseClick(slicer.rows, LEFT, pos=slicer.rows.row_centre(0))
    assert bars(scene_of(window, "Fees")) == {"Pier 3": pytest.approx(sum(range(2, 400, 40)))}
    slicer.search.clear()
    assert len(slicer.rows.held) == 40 and slicer.head.count.text() == "1 of 40"
    QTest.mouseClick(slicer.head.clear, LEFT)
    assert len(bars(scene_of(window, "Fees"))) > 5
    view = next(iter(window.pages.board.panels.values())).view
    assert view.scene is not None
    mark = next(m for m in view.scene.marks if isinstance(m, Box) and m.tag)
    tag = view.tag_at(mark.x + mark.width / 2, mark.y + mark.height / 2)
    assert tag is not None and tag.title == "Pier 1" and tag.text.startswith("Fee 1,800")
    assert view.tag_at(2, 2) is None


def test_arranging_moves_resizes_and_removes(on_demo: Window) -> None:
    window, board = on_demo, on_demo.pages.board
    window.session.turn_to("b8")
    view = board.panels["p17"]
    QTest.mousePress(view, LEFT, pos=QPoint(60, 12))
    QTest.mouseMove(view, QPoint(300, 12))
    QTest.mouseRelease(view, LEFT, pos=QPoint(300, 12))
    assert window.session.folio.board("b8").panel("p17").place.column == 0  # reading is safe
    QTest.mouseClick(window.header.buttons["arrange"], LEFT)
    assert window.session.board_state.arranging and window.margin.isVisible()
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Right)
    QTest.keyClick(view, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    place = window.session.folio.board("b8").panel("p17").place
    assert (place.column, place.width, place.height) == (1, 12, 9)
    panels = window.session.folio.board("b8").panels
    assert not any(a.place.overlaps(b.place) for a in panels for b in panels if a is not b)
    across, down = board.canvas.grid.across, board.canvas.grid.down
    board.arranger.dropped("p18", QRect(round(2 * across), round(40 * down), view.width(), view.height()))
    assert window.session.folio.board("b8").panel("p18").place.row == 40
    QTest.keyClick(view, Qt.Key.Key_Delete)
    assert "p17" not in board.panels
    window.session.undo()
    assert "p17" in board.panels
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not window.session.board_state.arranging and not window.margin.isVisible()


def test_find_anything_and_what_is_refused(on_demo: Window, qtbot: QtBot, tmp_path: Path) -> None:
    window = on_demo
    window.find_anything()
    pick(window.finder, "vessel review")
    settled()
    assert window.session.page_id == "b9"
    window.find_anything()
    pick(window.finder, "harbour office")  # found by its description
    settled()
    assert window.session.page_id == "t1"
    before = window.session.folio
    bad = tmp_path / "bad.summula"
    bad.write_bytes(b"PK\x03\x04 not a zip")
    window.opening.open_path(bad)
    qtbot.waitUntil(lambda: "damaged" in window.status.selection.text(), timeout=10_000)
    assert window.session.folio == before
    names = [action.name for action in window.actions_.possible()]
    assert len(names) == len(set(names))


def test_text_can_be_read_on_its_ground() -> None:
    for ground in ("paper", "sheet"):
        for token in ("ink", "muted", "plum", "loss"):
            assert contrast(token, ground) >= 4.5, (token, ground)
    assert contrast("gain", "sheet") >= 4.5


def test_text_can_be_read_through_the_veil(monkeypatch: pytest.MonkeyPatch) -> None:
    thin = veil._THICKNESS / 255
    veiled = {token: theme.colour("paper", thin, token).name() for token in ("paper", "sheet", "ink", "muted", "plum")}
    monkeypatch.setattr(theme, "_WORN", [replace(theme.worn(), tokens=theme.worn().tokens | veiled)])
    theme.colour.cache_clear()
    for ground in ("paper", "sheet"):
        for token in ("ink", "muted", "plum"):
            assert contrast(token, ground) >= 4.5, (token, ground)
    monkeypatch.undo()
    theme.colour.cache_clear()


def test_a_fields_kind_and_meaning_are_changed_in_the_margin(on_demo: Window, qtbot: QtBot) -> None:
    window, session = on_demo, on_demo.session

    def button(name: str) -> QPushButton:
        return next(b for b in margin_of(window).findChildren(QPushButton) if b.accessibleName().startswith(name))

    def popup() -> Popover:
        shown = QApplication.activePopupWidget()
        assert isinstance(shown, Popover)
        return shown

    session.turn_to("t1")
    window.pages.table.choose_field("Passengers")
    QTest.mouseClick(button("Description"), LEFT)
    text, keep = popup().findChild(QPlainTextEdit), popup().findChild(QPushButton)
    assert text is not None and keep is not None
    QTest.keyClicks(text, "People on board")
    QTest.mouseClick(keep, LEFT)
    assert session.table("t1").field("Passengers").description == "People on board"
    session.turn_to("s7")  # the description shows wherever the field does
    assert "People on board" in window.pages.summary.phrase.button("measures").toolTip()
    session.turn_to("t1")
    QTest.mouseClick(button("Type"), LEFT)
    pick(popup(), "code")
    qtbot.waitUntil(lambda: session.table("t1").field("Passengers").kind == "code", timeout=10_000)  # in a worker: many rows
    session.turn_to("s7")  # shows a sum of passengers, which now means nothing: said, not thrown away
    assert "does not hold numbers" in window.pages.summary.pivot.message
    session.turn_to("b8")
    figure = next(v for v in window.pages.board.panels.values() if v.panel.title == "Passengers")
    assert figure.answer is not None and "does not hold numbers" in figure.answer.refusal
    session.undo()
    assert session.table("t1").field("Passengers").kind == "number"
    assert (
        window.pages.board.panels["p12"].answer is not None
        and window.pages.board.panels["p12"].answer.key_figure is not None
    )


def test_a_source_is_read_again_and_what_it_lacks_is_said(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    session, source = window.session, tmp_path / "boats.csv"
    source.write_text("Boat,Fee,No.\nTern,1,001\nGull,2,002\n")
    take_in(window, qtbot, source)
    qtbot.waitUntil(lambda: len(session.folio.tables) == 1, timeout=10_000)
    fee = msgspec.structs.replace(session.table("t1").field("Fee"), description="What a berth costs")
    window.pages.table.choose_field("Fee")
    window.pages.table._put_field(fee, "Describe Fee")
    summary = session.new_summary("t1", parse("show sum of Fee by Boat drawn as bars"), "Fees")
    put_on_board(session, summary)
    add_slicer(session, session.folio.boards[0], "t1", "Boat")
    board_id = session.page_id
    window.pages.board.slicing.choose(next(iter(window.pages.board.slicers)), ("Gull",))

    def read_again(text: str) -> str:
        source.write_text(text)
        session.turn_to("t1")
        before = session.folio.table("t1").source.reading
        QTest.keyClick(window, Qt.Key.Key_F5)
        qtbot.waitUntil(lambda: session.folio.table("t1").source.reading == before + 1, timeout=10_000)
        said = window.status.selection.text()
        session.turn_to(board_id)
        return said

    assert "+1 row ·" in read_again("Boat,Fee,No.,Pier\nTern,1,001,a\nGull,2,002,b\nGull,5,003,b\n")
    assert session.table("t1").field("Fee").description == "What a berth costs"
    assert bars(scene_of(window, "Fees")) == {"Gull": 7}  # slicing, summary and board stay
    assert "missing: Boat" in read_again("Fee,No.\n1,001\n2,002\n")
    view = next(iter(window.pages.board.panels.values()))
    assert view.answer is not None and "No field 'Boat'" in view.answer.refusal
    assert "as many rows" in read_again("Boat,Fee,No.\nTern,1,001\nGull,2,002\n")
    assert bars(scene_of(window, "Fees")) == {"Gull": 2}  # it comes back when the field does
    session.undo()
    session.undo()
    assert bars(scene_of(window, "Fees")) == {"Gull": 7}  # and so do the rows of an earlier reading
    source.unlink()
    session.turn_to("t1")
    QTest.mouseClick(window.pages.table.again, LEFT)
    qtbot.waitUntil(lambda: "there is no file" in window.status.selection.text().lower(), timeout=10_000)
    assert session.table("t1").rows == 3


def test_every_page_fits_a_narrow_window(on_demo: Window, qtbot: QtBot) -> None:
    """As on a small screen, or a larger one at 150 %: nothing is cut off, and nothing is asked to be wider."""
    window, session = on_demo, on_demo.session
    for page in ("t1", "s3", "b8"):
        window.resize(1280, 800)
        session.turn_to(page)
        for width in (1060, 900, 800):  # as a hand draws it, step by step
            window.resize(width, 560)
            settled()
        qtbot.waitUntil(lambda: window.width() == 800)
        assert window.contents.width() < 60  # numbers only
        for widget in window.header.findChildren(QPushButton):
            assert not widget.isVisible() or widget.geometry().right() < 800
    session.turn_to("s3")
    settled()
    page = window.pages.summary
    places = {form: button.mapTo(page, button.rect().topLeft()).y() for form, button in page.forms.items() if button.isVisible()}
    assert len(places) > 4 and len(set(places.values())) == 1  # still one line, and what else can be done below it
    assert page.tools["fold"].mapTo(page, page.tools["fold"].rect().topLeft()).y() > places["grid"]
    qtbot.waitUntil(lambda: page.pivot.height() > 80)
    window.resize(1280, 800)
    qtbot.waitUntil(lambda: window.contents.width() > 200)
