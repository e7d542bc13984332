"""The frame around the pages: contents by keys, saving and leaving, handing out, the margin of a board arranged."""

from __future__ import annotations

import csv
import gc
import io
import os
import subprocess
import sys
import weakref
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from openpyxl import load_workbook
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QDrag, QGuiApplication, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QLineEdit, QMenu, QMessageBox, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from summula.core.boards.board import KeyFigurePanel, SummaryPanel
from summula.core.charts.style import Emphasis
from summula.core.preparation.steps import AddFormula, AddLookup, Rows
from summula.core.summaries import parse, print_phrase
from summula.demo.folio import demo_folio
from summula.desk.collecting import Collector
from summula.desk.frame.contents import FieldRow, PageRow, dragged_field
from summula.desk.pictures import ALL_FORMATS
from summula.desk.theme import colour, font
from summula.desk.widgets.popover import Popover
from summula.desk.window import Window
from tests.hands import LEFT, bars, margin_of, phrase_text, pick, scene_of, settled

Key = Qt.Key
CONTROL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


class Person:
    """Who answers when a file or a decision is asked for."""

    def __init__(self) -> None:
        self.path: Path | None = None
        self.decision = QMessageBox.StandardButton.Cancel
        self.asked: list[str] = []

    def choose(self, *asked: Any) -> tuple[str, str]:
        self.asked.append(asked[1])
        return (str(self.path) if self.path else "", "")

    def choose_several(self, *asked: Any) -> tuple[list[str], str]:
        name, kind = self.choose(*asked)
        return ([name] if name else [], kind)

    def decide(self, box: QMessageBox) -> QMessageBox.StandardButton:
        self.asked.append(box.text())
        return self.decision


@pytest.fixture
def person(monkeypatch: pytest.MonkeyPatch) -> Person:
    here = Person()
    for name in ("getSaveFileName", "getOpenFileName"):
        monkeypatch.setattr(QFileDialog, name, here.choose)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", here.choose_several)
    monkeypatch.setattr(QMessageBox, "exec", lambda box: here.decide(box))
    return here


def notice(window: Window) -> str:
    return window.status.selection.text()


def test_a_folio_is_saved_left_and_opened_again(on_demo: Window, qtbot: QtBot, person: Person, tmp_path: Path) -> None:
    window, session, state = on_demo, on_demo.session, on_demo.header.state
    del window.may_leave  # here somebody is
    assert state.text() == "not saved yet" and window.may_leave()  # nothing has changed
    session.turn_to("s3")
    QTest.keyClick(window, Key.Key_N, CONTROL)
    made = session.page_id
    assert session.unsaved and state.text() == "changes not saved yet"

    assert not window.close() and window.isVisible()  # not now
    assert person.asked == [f"“{session.folio.name}” has changes that are not saved."]
    person.decision = QMessageBox.StandardButton.Save
    assert not window.close() and person.asked[-1] == "Save the folio"  # and no place was chosen
    person.path = tmp_path / "no folder" / "ferries.summula"
    assert not window.close() and "no folder" in notice(window) and session.unsaved

    person.path = tmp_path / "ferries"
    QTest.keyClick(window, Key.Key_S, CONTROL)
    kept = tmp_path / "ferries.summula"
    qtbot.waitUntil(lambda: state.text() == "all changes saved", timeout=10_000)
    assert session.path == kept and kept.exists() and notice(window) == "Saved as ferries.summula"
    asked = len(person.asked)
    session.rename(made, "Rows of the fleet")
    QTest.keyClick(window, Key.Key_S, CONTROL)
    qtbot.waitUntil(lambda: not session.unsaved, timeout=10_000)
    assert len(person.asked) == asked  # its place is known
    saved = session.folio

    session.rename(made, "Something else")
    person.path, person.decision = kept, QMessageBox.StandardButton.Discard
    QTest.keyClick(window, Key.Key_O, CONTROL)
    qtbot.waitUntil(lambda: session.folio == saved, timeout=10_000)
    assert not session.unsaved and not session.history.undo_name and state.text() == "all changes saved"
    assert [row.name for row in window.contents.page_rows()] == [page.name for _, page in saved.pages()]

    session.rename(made, "Kept on leaving")
    person.decision = QMessageBox.StandardButton.Save
    assert window.close() and not session.unsaved
    window.show()
    window.opening.open_path(kept)
    qtbot.waitUntil(lambda: session.folio.summary(made).name == "Kept on leaving", timeout=10_000)


def test_contents_by_keys_and_a_field_drawn_out_of_them(
    on_demo: Window,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    window, session = on_demo, on_demo.session

    def row(name: str) -> PageRow:
        return next(each for each in window.contents.page_rows() if each.name == name)

    order = [page.id for _, page in session.folio.pages()]
    session.turn_to(order[0])
    for expected in (*order[1:], order[0]):
        QTest.keyClick(window, Key.Key_PageDown, CONTROL)
        assert session.page_id == expected
    QTest.keyClick(window, Key.Key_PageUp, CONTROL)
    assert session.page_id == order[-1]
    assert all(each.narrow and each.width() < 40 for each in window.contents.page_rows())  # beside a board

    name = session.folio.summaries[1].name
    QTest.mouseClick(row(name), LEFT)
    assert session.page_id == session.folio.summaries[1].id and row(name).current
    QTest.keyClick(row(session.folio.tables[0].name), Key.Key_Delete)  # a table is not thrown away by a key
    assert len(session.folio.tables) == 2
    QTest.keyClick(row(name), Key.Key_Delete)
    assert name not in [each.name for each in window.contents.page_rows()] and session.page_id == order[0]
    assert session.history.undo_name == f"Remove {name}"
    QTest.keyClick(window, Key.Key_Z, CONTROL)
    QTest.keyClick(row(name), Key.Key_Return)
    assert session.page_id == session.folio.summaries[1].id

    session.new_summary("t1")
    fields = {each.field.name: each for each in window.contents.findChildren(FieldRow)}
    QTest.keyClick(fields["Passengers"], Key.Key_Return)
    QTest.mouseDClick(fields["Route"], LEFT)
    assert "sum of Passengers" in phrase_text(window) and "by Route" in phrase_text(window)
    drawn: list[str | None] = []
    monkeypatch.setattr(QDrag, "exec", lambda drag, *_: drawn.append(dragged_field(drag.mimeData())))
    source = {each.field.name: each for each in window.contents.findChildren(FieldRow)}["Weather"]
    QTest.mousePress(source, LEFT, pos=QPoint(60, 10))
    QTest.mouseMove(source, QPoint(62, 10))
    assert not drawn  # a trembling hand draws nothing
    QTest.mouseMove(source, QPoint(120, 60))
    assert drawn == ["Weather"]
    QTest.mouseRelease(source, LEFT)
    session.turn_to("t1")
    QTest.keyClick({e.field.name: e for e in window.contents.findChildren(FieldRow)}["Weather"], Key.Key_Return)
    assert any(b.accessibleName() == "Name: Weather ▾" for b in margin_of(window).findChildren(QPushButton))


def test_everything_is_handed_out(
    on_demo: Window,
    qtbot: QtBot,
    person: Person,
    monkeypatch: pytest.MonkeyPatch,
    tmp_path: Path,
) -> None:
    window, session = on_demo, on_demo.session
    phrase = parse("show sum of Takings and rows by Ticket then Weather", session.vocabulary("t1"))
    session.new_summary("t1", phrase, "Tickets / weather")
    page = window.pages.summary
    qtbot.waitUntil(lambda: page.grid is not None and page.grid.phrase == phrase)
    grid = page.grid
    assert grid is not None
    menus: list[QMenu] = []
    monkeypatch.setattr(QMenu, "exec", lambda menu, *_: menus.append(menu))
    QTest.mouseClick(window.header.buttons["hand out"], LEFT)
    entries = {action.text(): action for action in menus[-1].actions()}
    assert all(action.isEnabled() for action in entries.values())

    def export(kind: str) -> Path:
        person.path = tmp_path / f"out.{kind.lower()}"
        [action for text, action in entries.items() if f"as {kind} " in text][-1].trigger()  # its figures, where both can
        qtbot.waitUntil(lambda: person.path.exists() and not window.writing.work.waits, timeout=10_000)
        assert kind == "PNG" or notice(window) == f"Saved to {person.path.name}"
        assert not window.status.taken.text().endswith("…") and not window.status.cancel.isVisible()
        return person.path

    rows = list(csv.reader(io.StringIO(export("CSV").read_text("utf-8"))))
    assert rows[0][:2] == ["Ticket", "Weather"]
    assert float(rows[-1][2]) == pytest.approx(grid.bottom_line()) and float(rows[-1][3]) == grid.rows_used
    lines = export("Markdown").read_text("utf-8").splitlines()
    assert lines[0].startswith("| Ticket") and len(lines) == len(rows) + 1  # and the line below the heads
    sheet = load_workbook(export("XLSX")).active
    figures = [cell.value for line in sheet.iter_rows() for cell in line if isinstance(cell.value, int | float)]
    assert any(value == pytest.approx(grid.bottom_line()) for value in figures)
    picture = QImage(str(export("PNG")))
    assert picture.width() == page.width() and not picture.isNull()
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    entries["Copy the phrase"].trigger()
    assert clipboard.text() == print_phrase(phrase)
    entries["Copy values"].trigger()
    assert len(clipboard.text().splitlines()) == len(rows)

    for kind in ("CSV", "Markdown", "XLSX", "PNG"):  # where nothing can be written, a sentence says so
        window.status.tell("", False)
        person.path = tmp_path / "gone" / "x"
        [action for text, action in entries.items() if f"as {kind} " in text][-1].trigger()  # its figures, where both can
        qtbot.waitUntil(lambda: "could not be written" in notice(window), timeout=10_000)
    session.turn_to("t1")
    QTest.mouseClick(window.header.buttons["hand out"], LEFT)
    possible = [action.text() for action in menus[-1].actions() if action.isEnabled()]
    pages = [f"{each.words} …" for each in ALL_FORMATS if each.takes == "page"]
    assert possible == ["Export …", *pages]


def test_a_board_is_arranged_from_its_margin(on_demo: Window, qtbot: QtBot) -> None:
    window, session, page = on_demo, on_demo.session, on_demo.pages.board
    session.turn_to("b8")
    QTest.keyClick(window, Key.Key_E, CONTROL)
    before = session.folio

    def click(name: str) -> None:
        buttons = [b for b in margin_of(window).findChildren(QPushButton) if b.isVisible()]
        QTest.mouseClick(next(b for b in buttons if b.accessibleName().startswith(name) or b.text() == name), LEFT)

    def popover() -> Popover:
        return next(each for each in window.findChildren(Popover) if each.isVisible())

    board = session.folio.board("b8")
    ranked = next(p for p in board.panels if isinstance(p, SummaryPanel) and page.panels[p.id].view.scene is not None
                  and session.folio.summary(p.summary).phrase.form == "bars")  # fmt: skip
    QTest.mouseClick(page.panels[ranked.id], LEFT, pos=QPoint(60, 12))
    click("Title")
    line = popover().findChild(QLineEdit)
    assert line is not None and line.selectedText() == ranked.title
    QTest.keyClicks(line, "  Where  the money is ")
    QTest.keyClick(line, Key.Key_Return)
    click("Subtitle")
    line = popover().findChild(QLineEdit)
    assert line is not None
    QTest.keyClicks(line, "by vessel")
    QTest.keyClick(line, Key.Key_Return)
    click("Highlight")
    pick(popover(), "the top 3")
    now = session.folio.board("b8").panel(ranked.id)
    assert isinstance(now, SummaryPanel)
    assert (now.title, now.line, now.emphasis) == ("Where the money is", "by vessel", Emphasis("top", 3))
    assert page.panels[ranked.id].accessibleName() == "Panel Where the money is"

    # A slicer that does not reach the panel leaves its figures as they are.
    slicer = next(s for s in board.slicers if s.id == "l22")
    figures = bars(scene_of(window, "Where the money is"))
    click(slicer.dimension.field)
    assert ranked.id in session.folio.board("b8").slicer("l22").spares
    routes = page.slicers["l22"].rows
    QTest.mouseClick(routes, LEFT, pos=routes.row_centre(1))
    assert page.is_sliced and bars(scene_of(window, "Where the money is")) == figures
    QTest.mouseClick(page.panels[ranked.id], LEFT, pos=QPoint(60, 12))
    click(slicer.dimension.field)
    assert bars(scene_of(window, "Where the money is")) != figures

    # A key figure, a summary and a slicer are put on, each where there is room.
    click("Key figure")
    pick(popover(), "Passengers")
    figure = session.folio.board("b8").panels[-1]
    assert isinstance(figure, KeyFigurePanel) and figure.title == "Passengers"
    click("Summary or chart")
    pick(popover(), session.folio.summaries[0].name)
    click("Slicer or period ruler")
    pick(popover(), "Weather")
    board = session.folio.board("b8")
    assert len(board.panels) == len(before.board("b8").panels) + 2 and len(board.slicers) == 1 + len(before.board("b8").slicers)
    assert not any(a.place.overlaps(b.place) for a in board.panels for b in board.panels if a is not b)
    QTest.mouseClick(page.panels[figure.id], LEFT, pos=QPoint(40, 12))
    click("Remove panel")
    assert figure.id not in page.panels
    while session.folio != before:
        assert session.history.undo_name, "everything done here is undone"
        session.undo()
    QTest.keyClick(window, Key.Key_E, CONTROL)
    assert not session.board_state.arranging


def _pixels(widget: QWidget) -> np.ndarray[tuple[int, ...], np.dtype[np.uint32]]:
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits()
    assert bits is not None
    bits.setsize(image.sizeInBytes())
    return np.frombuffer(bits, np.uint32).reshape(image.height(), -1).copy()  # type: ignore[call-overload,no-any-return]


def test_the_focus_is_seen_wherever_it_is_and_hides_nothing(on_demo: Window) -> None:
    """On every page of the demo, each widget that can be reached by Tab."""
    on_demo.activateWindow()
    plum, reached = colour("plum").rgb(), 0
    for _, page in on_demo.session.folio.pages():
        on_demo.session.turn_to(page.id)
        settled()
        for each in on_demo.findChildren(QWidget):
            if not each.isVisible() or not each.focusPolicy() & Qt.FocusPolicy.TabFocus or not each.isEnabled():
                continue
            each.clearFocus()
            before = _pixels(each)
            each.setFocus(Qt.FocusReason.TabFocusReason)
            if each.hasFocus():
                after, notice = _pixels(each), f"{type(each).__name__} {each.accessibleName()} on {page.name}"
                assert not np.array_equal(before, after), f"no focus is seen: {notice}"
                if not isinstance(each, QLineEdit):  # their text is selected
                    assert (after == plum).mean() < (before == plum).mean() + 0.2, f"it hides what is there: {notice}"
                reached += 1
    assert reached > 100


def test_a_font_that_is_changed_changes_no_other() -> None:
    face = font(11, 500)
    face.setLetterSpacing(face.SpacingType.AbsoluteSpacing, 0.9)
    face.setStrikeOut(True)
    assert font(11, 500).letterSpacing() == 0 and not font(size=11, weight=500, serif=False).strikeOut()


def test_a_window_opens_without_what_only_answers_need() -> None:
    """What makes most of these late takes longer to be read in than an empty window takes to open."""
    late = (
        "numpy", "polars", "lark", "uharfbuzz", "urllib.request", "concurrent.futures", "fractions", "summula.core.charts.drawers",
        "summula.core.engine.answer", "summula.core.boards.panelanswers", "summula.core.language.vocabulary", "summula.core.folio.offering",
        "json", "summula.core.handout", "summula.core.composition.composition", "summula.desk.windowactions", "summula.desk.filewriting", "summula.desk.pictures",
    )  # fmt: skip
    script = f"import sys, summula.desk.window, summula.desk.pages.boardpage; print([each for each in {late!r} if each in sys.modules])"
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"})
    assert done.stdout.strip() == "[]", done.stdout + done.stderr[-400:]


def test_garbage_is_looked_through_by_the_window_alone(qtbot: QtBot) -> None:
    class Node:
        def __init__(self) -> None:
            self.own = self

    frozen, enabled = gc.get_freeze_count(), gc.isenabled()
    collector = Collector(None)
    collector.stop()  # it ticks when it is told
    try:
        assert gc.get_freeze_count() > frozen and not gc.isenabled()

        def garbage() -> weakref.ref[Node]:
            return weakref.ref(Node())

        def go_on(objects: int) -> None:
            kept.extend([] for _ in range(objects))

        kept: list[list[object]] = []
        young = garbage()
        collector.tick()
        assert young() is not None
        go_on(5_000)
        collector.tick()
        assert young() is None  # of what is young, what has gone
        held = Node()
        for _ in range(3):
            gc.collect(1)
        old = weakref.ref(held)
        del held
        go_on(5_000)
        collector.tick()
        collector.looked -= 60
        for _ in range(6):
            collector.tick()
        assert old() is not None  # not in the midst of it
        for _ in range(6):
            collector.tick()
        assert old() is None
        held = Node()
        gc.collect()
        old = weakref.ref(held)
        del held
        go_on(100)
        collector.looked -= 600
        collector.tick()
        assert old() is None  # nor never
    finally:
        gc.unfreeze()
        if enabled:
            gc.enable()


def test_a_folio_that_has_gone_is_held_by_no_page(window: Window, qtbot: QtBot) -> None:
    """Its tables may be most of the memory there is."""
    session, gone = window.session, []
    for _ in range(2):
        session.adopt(demo_folio())
        gone.append(weakref.ref(session.table("t1").column("Takings").values))  # type: ignore[union-attr]
        for _, page in session.folio.pages():
            session.turn_to(page.id)
            settled()
        session.turn_to("s3")
        window.pages.summary.phrase.show_text()
        QTest.keyClicks(window.pages.summary.phrase.text, "show s")
        window.pages.summary.phrase.show_words()
        new = session.new_summary("t1")  # which offers what is worth asking
        settled()
        session.turn_to(new.id)
        session.turn_to("t1")
        for step in (AddFormula, AddLookup, Rows):
            window.pages.table.step_maker.make(step, window.pages.table.strip)
            settled()
            window.pages.table.step_maker.popover.close()  # type: ignore[union-attr]
        window.find_anything()
        window.finder.close()  # type: ignore[union-attr]
        window.asides.show_rows_behind(session.table("t1"), np.arange(5), ["some rows"])
        window.asides.hand_out()
        qtbot.waitUntil(lambda: not window.asides.handing_out.work.waits, timeout=20_000)
    session.adopt(demo_folio())

    def let_go() -> bool:
        gc.collect()
        return all(each() is None for each in gone)

    qtbot.waitUntil(let_go, timeout=5_000)
