"""Taking in and preparing a table through the real window: preview, steps, rows found, sources that change."""

from __future__ import annotations

from pathlib import Path
from typing import TypeVar

import openpyxl
import polars as pl
import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QCheckBox, QFileDialog, QLabel, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from summula.core.preparation.steps import AnyStep, Rows, Tidy
from summula.core.reading.readers import table_from_frame
from summula.core.summaries import parse, print_phrase
from summula.core.tables.encoding import series_of
from summula.desk.board.putonboard import add_slicer, put_on_board
from summula.desk.frame.marginrows import ShapeView
from summula.desk.pages.previewpage import _SettingRow
from summula.desk.preparing.bundles import BundlesPopover
from summula.desk.preparing.formula import FormulaPopover
from summula.desk.preparing.lookup import LookupPopover
from summula.desk.preparing.steppopover import FormPopover
from summula.desk.session import Session
from summula.desk.widgets.popover import Popover
from summula.desk.window import Window
from tests.hands import LEFT, margin_of, pick, settled, take_in

W = TypeVar("W", bound=QWidget)
BOATS = (
    "Skerry harbour office;;;;\nBerths;;;;\nNo.;Boat;Moored on;Fee;Pier\n"
    + "".join(f"{n:03d};{('Tern', 'Gull', ' Gull ', 'Skua')[n % 4]};0{n % 9 + 1}/0{n % 7 + 1}/2024;{n * 1000 + 5},50;{'NS'[n % 2]}\n" for n in range(1, 99))
    + "099;Skua;05/05/2024;lost;N\n100;Skua;05/05/2024;7;N;extra\n"
)  # fmt: skip


@pytest.fixture
def boats(window: Window, qtbot: QtBot, tmp_path: Path) -> Window:
    source = tmp_path / "boats.csv"
    source.write_text(BOATS)
    take_in(window, qtbot, source)
    qtbot.waitUntil(lambda: len(window.session.folio.tables) == 1, timeout=10_000)
    window.activateWindow()
    settled()  # popovers close when the window becomes the active one
    return window


def popup(kind: type[W]) -> W:
    shown = QApplication.activePopupWidget()
    assert isinstance(shown, kind)
    return shown


def button(within: QWidget, words: str) -> QPushButton:
    settled()
    found = [b for b in within.findChildren(QPushButton) if b.accessibleName().startswith(words) or b.text() == words]
    return next(b for b in found if b.isVisible())


def click(within: QWidget, words: str) -> None:
    QTest.mouseClick(button(within, words), LEFT)


def phrase_of(within: QWidget) -> str:
    return " ".join(label.text() for label in within.findChildren(QLabel)).lower()


def values(session: Session, name: str) -> list[object]:
    table = session.table("t1")
    return series_of(name, table.column(name)).to_list()


def shown_steps(window: Window) -> list[str]:
    return [chip.words for chip in window.pages.table.strip.chips()]


def new_step(window: Window, title: str) -> None:
    click(window.pages.table.strip, "add a step")
    settled()  # as long as nobody is quicker
    pick(popup(Popover), title)
    settled()  # the form opens when the list has closed


def test_a_file_is_previewed_and_its_settings_changed(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    source = tmp_path / "boats.csv"
    source.write_text(BOATS)
    window.opening.open_path(source)
    page = window.importing.preview_page
    qtbot.waitUntil(lambda: page.rows is not None, timeout=10_000)
    assert not window.session.folio.tables and window.pages.currentWidget() is page

    def row(name: str) -> _SettingRow:
        return next(
            each for each in margin_of(window).findChildren(_SettingRow) if each.setting.name == name and each.isVisible()
        )

    assert row("head").setting.value == "row 3" and row("delimiter").setting.value == "semicolon"
    assert row("dates").setting.doubt and "could also be month first" in row("dates").setting.why
    QTest.mouseClick(row("dates").button, LEFT)
    pick(popup(Popover), "month first")
    qtbot.waitUntil(lambda: row("dates").setting.value == "month first", timeout=10_000)
    QTest.mouseClick(row("head").button, LEFT)
    pick(popup(Popover), "none")
    qtbot.waitUntil(lambda: row("head").setting.value == "none", timeout=10_000)
    click(margin_of(window), "Detected")
    qtbot.waitUntil(
        lambda: row("head").setting.value == "row 3" and row("dates").setting.value == "day first", timeout=10_000
    )
    QTest.mouseClick(row("dates").button, LEFT)
    pick(popup(Popover), "month first")
    qtbot.waitUntil(lambda: row("dates").setting.value == "month first", timeout=10_000)
    QTest.keyClick(page, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: len(window.session.folio.tables) == 1, timeout=10_000)
    assert str(values(window.session, "Moored on")[1]) == "2024-03-03"  # 03/03, while the first is 02/02
    assert str(values(window.session, "Moored on")[8]) == "2024-01-03"
    # Leaving a preview leaves everything as it was.
    window.opening.open_path(source)
    qtbot.waitUntil(lambda: window.pages.currentWidget() is page and page.take.isEnabled(), timeout=10_000)
    QTest.keyClick(page, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.pages.table and len(window.session.folio.tables) == 1
    bad = tmp_path / "bad.csv"
    bad.write_bytes(b"\x00" * 900)
    window.opening.open_path(bad)
    qtbot.waitUntil(lambda: page.trouble.isVisible(), timeout=10_000)
    assert "not a text file" in page.trouble.text() and not page.take.isEnabled()


REPORT = "Region,Route,Jan 2024,Feb 2024,Mar 2024\nNorth,Osk,1,2,4\nNorth,Tern,3,n/a,1\nNorth total,,4,2,5\nGrand total,,4,2,5\nSource: harbour office\n"


def test_totals_and_periods_are_settled_at_a_click_before_a_file_is_taken_in(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    source = tmp_path / "report.csv"
    source.write_text(REPORT)
    window.opening.open_path(source)
    page = window.importing.preview_page
    qtbot.waitUntil(lambda: page.rows is not None and page.take.isEnabled(), timeout=10_000)

    def offer(words: str) -> QPushButton:
        return next(each for each in margin_of(window).findChildren(QPushButton) if each.text() == words and each.isVisible())

    assert page.rows is not None
    model = page.rows.model()
    assert model is not None and model.rowCount() == 5
    struck = [model.look(row, 0).struck for row in range(5)]
    assert struck == [False, False, True, True, True]
    QTest.mouseClick(offer("Leave out"), LEFT)
    qtbot.waitUntil(lambda: page.about.text().startswith("2 rows · 5 fields"), timeout=10_000)
    QTest.mouseClick(offer("Turn into rows"), LEFT)
    qtbot.waitUntil(lambda: page.about.text().startswith("5 rows · 4 fields"), timeout=10_000)
    QTest.mouseClick(offer("Keep columns"), LEFT)
    qtbot.waitUntil(lambda: page.about.text().startswith("2 rows · 5 fields"), timeout=10_000)
    QTest.mouseClick(offer("Turn into rows"), LEFT)
    qtbot.waitUntil(lambda: page.about.text().startswith("5 rows · 4 fields"), timeout=10_000)
    QTest.keyClick(page, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: len(window.session.folio.tables) == 1, timeout=10_000)
    assert [str(each) for each in values(window.session, "Month")] == ["2024-01-01", "2024-02-01", "2024-03-01", "2024-01-01", "2024-03-01"]
    # Next month's column is turned as well when the file is read again.
    later = REPORT.replace("Mar 2024", "Mar 2024,Apr 2024").replace("2,4\n", "2,4,7\n").replace("n/a,1\n", "n/a,1,8\n").replace("2,5\n", "2,5,15\n")
    source.write_text(later)
    window.actions_.run("again")
    qtbot.waitUntil(lambda: len(values(window.session, "Month")) == 7, timeout=10_000)


def test_merged_cells_are_a_step_that_can_be_switched_off(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row in (["Route", "Boat"], ["Osk", "Tern"], [None, "Gull"], ["Hesta", "Auk"], [None, "Skua"], [None, "Lom"]):
        sheet.append(row)
    sheet.merge_cells("A2:A3")
    sheet.merge_cells("A4:A6")
    book.save(tmp_path / "boats.xlsx")
    window.session.load(tmp_path / "boats.xlsx")()
    assert values(window.session, "Route") == ["Osk", "Osk", "Hesta", "Hesta", "Hesta"]
    assert shown_steps(window) == ["read boats.xlsx", "fill Route from the row above"]
    entry = window.session.folio.tables[0]
    window.pages.table.put_steps(tuple(replace(step, off=True) for step in entry.steps), "switched off")
    assert values(window.session, "Route") == ["Osk", None, "Hesta", None, None]
    window.session.undo()
    window.actions_.run("again")
    settled()
    qtbot.waitUntil(lambda: values(window.session, "Route") == ["Osk", "Osk", "Hesta", "Hesta", "Hesta"], timeout=10_000)


def test_values_that_differ_in_case_alone_are_made_one(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    source = tmp_path / "boats.csv"
    source.write_text("Boat,Fee\nTern,1\ntern,2\nTern,3\nGull,4\nTERN,5\n")
    window.session.load(source)()
    window.pages.table.remedy("alike", "Boat")
    qtbot.waitUntil(lambda: values(window.session, "Boat") == ["Tern", "Tern", "Tern", "Gull", "Tern"], timeout=10_000)
    window.session.undo()
    assert "tern" in values(window.session, "Boat")


def test_pasted_cells_become_a_table(window: Window, qtbot: QtBot) -> None:
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    clipboard.setText("Boat\tFee\nTern\t1,250\nGull\t3\n")
    window.actions_.run("paste")
    qtbot.waitUntil(lambda: window.importing.preview_page.rows is not None, timeout=10_000)
    QTest.keyClick(window.importing.preview_page, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: len(window.session.folio.tables) == 1, timeout=10_000)
    assert values(window.session, "Fee") == [1250, 3]
    assert window.session.folio.tables[0].source.place == "" and window.session.folio.tables[0].name == "Pasted cells"
    clipboard.setText("Boat\tFee\nTern\t9\n")  # what is not taken in leaves nothing behind
    window.actions_.run("paste")
    pending = window.importing.preview_page.pending
    assert pending is not None and pending.path.exists()
    QTest.keyClick(window.importing.preview_page, Qt.Key.Key_Escape)
    assert not pending.path.exists() and len(window.session.folio.tables) == 1
    # Cells that are dragged onto the window come the same way.
    mime, none = QMimeData(), Qt.KeyboardModifier.NoModifier
    mime.setText("Pier\tLength\nN\t40\n")
    place = QPoint(600, 400)
    QApplication.sendEvent(window, QDragEnterEvent(place, Qt.DropAction.CopyAction, mime, LEFT, none))
    QApplication.sendEvent(window, QDropEvent(QPointF(place), Qt.DropAction.CopyAction, mime, LEFT, none))
    qtbot.waitUntil(
        lambda: window.pages.currentWidget() is window.importing.preview_page and window.importing.preview_page.take.isEnabled(),
        timeout=10_000,
    )
    settled()
    QTest.keyClick(window.importing.preview_page, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: len(window.session.folio.tables) == 2, timeout=10_000)


@pytest.mark.parametrize(("titles", "count"), [(0, 12_000), (4, 197), (4, 190)])
def test_a_totals_row_at_the_end_of_a_long_file_is_told_when_it_has_been_read(
    titles: int, count: int, window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    """One of a short file has been shown before; titles above the heads make it no shorter."""
    path = tmp_path / "long.csv"
    rows, total = [f"R{n},{n % 9}" for n in range(count)], sum(n % 9 for n in range(count))
    path.write_text("\n".join([*["Skerry harbour office,", "Fees,"][:titles], "", "Boat,Fee", *rows, f"Grand total,{total}"]))
    window.opening.open_path(path)
    qtbot.waitUntil(lambda: window.importing.preview_page.take.isEnabled() and window.importing.preview_page.rows is not None, timeout=10_000)
    if count == 190:
        assert window.importing.preview_page.about.text().startswith("191 rows") and "leave_totals" in [each.name for each in window.importing.preview_page.settings]
        QTest.keyClick(window.importing.preview_page, Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: bool(window.session.folio.tables), timeout=10_000)
        assert not window.news.isVisible()
        return
    assert window.importing.preview_page.about.text().startswith("the first ") and "leave_totals" not in [each.name for each in window.importing.preview_page.settings]
    QTest.keyClick(window.importing.preview_page, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: window.news.isVisible(), timeout=10_000)
    assert f"1 total (“Grand total” in row {count + 1:,})" in window.news.text.text()
    QTest.mouseClick(window.news.edit_name, LEFT)
    qtbot.waitUntil(lambda: window.session.folio.tables[0].source.read_as.leave_totals, timeout=10_000)
    assert len(values(window.session, "Fee")) == count
    window.session.undo()
    assert len(values(window.session, "Fee")) == count + 1


def test_steps_are_made_changed_moved_and_undone(boats: Window, qtbot: QtBot) -> None:
    window, session, page = boats, boats.session, boats.pages.table
    assert shown_steps(window) == ["read boats.csv"] and "1 value refused" in window.status.account.text()

    new_step(window, "Clean text")
    form = popup(FormPopover)
    qtbot.waitUntil(lambda: "no effect" in form.notice.text().lower(), timeout=5_000)
    QTest.mouseClick(form.take, LEFT)
    assert shown_steps(window)[1:] == ["trim spaces"]

    new_step(window, "Formula")
    formula = popup(FormulaPopover)
    QTest.keyClicks(formula.text, '"Fee" / 0.5 - Fuel')
    assert "No field 'Fuel'" in formula.notice.text() and formula.text.extraSelections()
    formula.text.selectAll()
    QTest.keyClicks(formula.text, '"Fee" * 2')
    QTest.keyClicks(formula.called, "Double")
    assert "2,011" in formula.first.text()
    QTest.keyClick(formula.called, Qt.Key.Key_Return)
    assert values(session, "Double")[0] == 2011 and page.chosen_field() == "Double"

    new_step(window, "Groups")
    bundles = popup(BundlesPopover)
    assert bundles.field == "No."  # the first field that holds values
    bundles.close()
    page.choose_field("Boat")
    row = next(b for b in margin_of(window).findChildren(QWidget) if b.accessibleName() == "Groups of values")
    QTest.mouseClick(row, LEFT)
    bundles = popup(BundlesPopover)
    for at in (0, 1):
        item = bundles.list.item(at)
        assert item is not None
        item.setCheckState(Qt.CheckState.Checked)
    QTest.keyClicks(bundles.name, "Small")
    QTest.keyClick(bundles.name, Qt.Key.Key_Return)
    bundles.together.setChecked(True)
    QTest.mouseClick(bundles.take, LEFT)
    assert set(values(session, "Boat group")) == {"Small", "others"}

    new_step(window, "Filter rows")
    form = popup(FormPopover)
    where = form.findChildren(QLineEdit)[0]
    QTest.keyClicks(where, 'Pier is "Q"')
    QTest.keyClick(where, Qt.Key.Key_Return)
    assert form.isVisible() and "Q" in form.notice.text()  # a member that is not there is refused, the form stays
    where.selectAll()
    QTest.keyClicks(where, 'Pier is "N"')
    QTest.keyClick(where, Qt.Key.Key_Return)
    assert session.table("t1").rows == 51 and shown_steps(window)[-1] == "keep rows where Pier is N"

    # A step's own popover: off, on, earlier, changed, out; undo brings each back.
    def open_step(at: int) -> Popover:
        QTest.mouseClick(window.pages.table.strip.chips()[at], LEFT)
        settled()
        return popup(Popover)

    click(open_step(4), "Turn off")
    assert session.table("t1").rows == 100
    click(open_step(4), "Turn on")
    click(open_step(4), "← Earlier")
    assert shown_steps(window)[3].startswith("keep rows where") and session.table("t1").rows == 51
    click(open_step(2), "Change …")
    settled()
    formula = popup(FormulaPopover)
    formula.text.selectAll()
    QTest.keyClicks(formula.text, "Fee * 3")
    QTest.keyClick(formula.text, Qt.Key.Key_Return)
    assert values(session, "Double")[0] == 6016.5
    click(open_step(1), "Remove")
    assert shown_steps(window)[1] == "+ Double"
    for _ in range(9):
        session.undo()
    assert shown_steps(window) == ["read boats.csv"] and session.table("t1").rows == 100


def test_many_rows_are_prepared_aside_when_a_change_is_taken_back(
    boats: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A preparation that is no longer remembered is done in a worker; what is edited meanwhile wins."""
    window, session = boats, boats.session
    monkeypatch.setattr("summula.desk.session.QUICK_ROWS", 10)
    monkeypatch.setattr("summula.core.folio.preparing._KEPT", 2)
    for limit in (50, 70, 90):
        keep = Rows(parse(f"show rows where Fee is over {limit}000").where)
        session.tables.stepping("t1", (*session.folio.table("t1").steps, keep), f"over {limit}")()()
    assert session.table("t1").rows == 9
    for left in (2, 2):  # the first at once; for the second it takes time
        QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        assert len(session.folio.table("t1").steps) == left
    qtbot.waitUntil(lambda: len(session.folio.table("t1").steps) == 1, timeout=10_000)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.reading.waits
    session.rename("t1", "Other boats")  # while it is prepared
    qtbot.waitUntil(lambda: not window.reading.waits, timeout=10_000)
    assert len(session.folio.table("t1").steps) == 1 and session.folio.table("t1").name == "Other boats"


def test_what_names_a_field_follows_its_new_name(boats: Window) -> None:
    window, session = boats, boats.session
    summary = session.new_summary("t1", parse("show sum of Fee by Boat where Fee is over 10"), "Fees")
    put_on_board(session, summary)
    add_slicer(session, session.folio.boards[0], "t1", "Boat")
    session.turn_to("t1")
    window.pages.table.choose_field("Boat")
    click(margin_of(window), "Name")
    line = popup(Popover).findChild(QLineEdit)
    assert line is not None
    line.setText("Fee")
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert line.isVisible() and "already" in "".join(label.text() for label in popup(Popover).findChildren(QLabel))
    line.selectAll()
    QTest.keyClicks(line, "Vessel")
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert print_phrase(session.folio.summary(summary.id).phrase) == "show sum of Fee by Vessel where Fee is over 10"
    assert session.folio.boards[0].slicers[-1].heading.field == "Vessel"  # type: ignore[union-attr]
    assert shown_steps(window)[-1] == "Boat is called Vessel"
    session.undo()
    assert session.table("t1").has("Boat") and session.folio.boards[0].slicers[-1].heading.field == "Boat"  # type: ignore[union-attr]


def test_rows_are_found_and_second_looks_have_remedies(boats: Window, qtbot: QtBot) -> None:
    window, page = boats, boats.pages.table

    def shown() -> int:
        assert page.rows is not None
        return int(page.rows.model().rowCount())  # type: ignore[union-attr]

    QTest.keyClick(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(page.finding.search, "skua s")
    QTest.keyClick(page.finding.search, Qt.Key.Key_Return)
    assert shown() == 26 and "26 of 100 rows" in page.finding.account.text()
    click(page, "Show all rows")
    assert shown() == 100
    page.choose_field("Fee")
    click(margin_of(window), "Show rows")  # of the value that is no number
    assert shown() == 1 and page.rows is not None and page.rows.model().data(page.rows.model().index(0, 3)) == "lost"  # type: ignore[union-attr]
    looks = [b for b in margin_of(window).findChildren(QPushButton) if b.text() == "Show rows"]
    QTest.mouseClick(looks[-1], LEFT)  # of the row with too many values
    assert shown() == 1 and "too many or too few" in page.finding.account.text()
    shape = margin_of(window).findChild(ShapeView)
    assert shape is not None
    QTest.mouseClick(shape, LEFT, pos=QPoint(2, 30))
    assert 0 < shown() < 100 and "where Fee is" in page.finding.account.text()
    click(margin_of(window), "Maximum")
    assert shown() == 100 and page.rows.currentIndex().row() == 97
    page.finding.order_by("Fee", "largest")
    assert page.rows.model().data(page.rows.model().index(0, 3)) == "98,005.5"  # type: ignore[union-attr]
    page.choose_field("Moored on")
    click(margin_of(window), "Read it month first")
    assert str(values(window.session, "Moored on")[8]) == "2024-01-03"
    assert shown_steps(window)[-1] == "Moored on is a month-first date"
    page.choose_field("No.")
    click(margin_of(window), "Change to number")
    assert window.session.table("t1").field("No.").kind == "number"
    # Hidden fields leave the lists; a pattern stays with its field.
    page.choose_field("Fee")
    click(margin_of(window), "Shown in lists")
    assert window.session.table("t1").field("Fee").hidden
    click(margin_of(window), "Pattern")
    pick(popup(Popover), "£1,234.57")
    assert window.session.table("t1").field("Fee").pattern == "£#,##0.00"


def test_rows_and_fields_come_from_other_files(
    boats: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window, session = boats, boats.session
    more, prices, words = tmp_path / "more.csv", tmp_path / "prices.xlsx", tmp_path / "words.csv"
    more.write_text("No.;Boat;Fee;Crew\n200;Tern;1,5;4\n")
    pl.DataFrame({"Boat": ["Tern", "Skua", "Skua"], "Length": [7.5, 9.0, 10.0]}).write_excel(prices)
    words.write_text("field,meaning\nFee,What a berth costs\nBoat,Her name\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *a: ([str(more)], ""))
    QTest.mouseClick(window.pages.table.more, LEFT)
    qtbot.waitUntil(lambda: session.table("t1").rows == 101, timeout=10_000)
    assert "only there: Crew" in window.pages.table.strip.chips()[1].toolTip() and values(session, "Crew")[-1] == 4
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(words), ""))
    window.actions_.run("describe")
    qtbot.waitUntil(lambda: session.table("t1").field("Fee").description == "What a berth costs", timeout=10_000)
    take_in(window, qtbot, prices)
    qtbot.waitUntil(lambda: len(session.folio.tables) == 2, timeout=10_000)
    session.turn_to("t1")
    new_step(window, "Look up")
    lookup = popup(LookupPopover)
    assert lookup.keys[0][0].currentText() == "Boat" == lookup.keys[0][1].currentText()
    lookup.fields.put(("Length",))
    lookup.later()
    qtbot.waitUntil(lambda: "partner" in lookup.notice.text(), timeout=5_000)
    QTest.mouseClick(lookup.take, LEFT)
    assert {float(str(v)) for v in values(session, "Length") if v is not None} == {7.5, 9.0}  # of several the first
    # What was looked up keeps its name when the other table and its fields are called otherwise.
    other = session.folio.tables[1].id
    session.tables.renaming(other, "Length", "Metres")()()
    session.rename(other, "Berths")
    lookup_step = session.folio.table("t1").steps[-1]
    assert lookup_step.fields == ("Metres",) and session.table("t1").has("Length")  # type: ignore[union-attr]
    QTest.mouseClick(window.pages.table.strip.chips()[-1], LEFT)
    settled()
    click(popup(Popover), "Change …")
    settled()
    lookup = popup(LookupPopover)
    lookup.fields.put(("Metres", "Boat"))
    QTest.mouseClick(lookup.take, LEFT)
    assert [f.name for f in session.table("t1").fields][-2:] == ["Length", "Boat (Berths)"]
    # Everything is kept in the folio's file, the appended rows too, and the preparation is done again.
    session.save(tmp_path / "kept.summula")
    before = [values(session, f.name) for f in session.table("t1").fields]
    more.unlink()
    window.opening.open_path(tmp_path / "kept.summula")
    qtbot.waitUntil(
        lambda: (
            session.path is not None
            and session.path.name == "kept.summula"
            and not session.unsaved
            and session.history.undo_name == ""
        ),
        timeout=10_000,
    )
    session.turn_to("t1")
    assert [values(session, f.name) for f in session.table("t1").fields] == before
    assert session.table("t1").refused_count() == 1 and len(session.table("t1").ragged) == 1


def test_a_source_that_changes_offers_itself_or_is_read_by_itself(boats: Window, qtbot: QtBot, tmp_path: Path) -> None:
    window, session, source = boats, boats.session, tmp_path / "boats.csv"
    source.write_text(BOATS + "101;Auk;06/05/2024;9;N\n")
    window.importing.freshness.look()
    assert window.news.isVisible() and "boats.csv has changed" in window.news.text.text()
    QTest.mouseClick(window.news.edit_name, LEFT)
    qtbot.waitUntil(lambda: session.table("t1").rows == 101, timeout=10_000)
    assert "+1 row ·" in window.news.text.text() and "new in Boat: Auk" in window.news.text.text()
    QTest.mouseClick(window.news.away, LEFT)
    QTest.mouseClick(window.pages.table.strip.chips()[0], LEFT)
    by_itself = popup(Popover).findChild(QCheckBox)
    assert by_itself is not None
    by_itself.click()
    assert session.folio.table("t1").fresh == "again"
    source.write_text(BOATS)
    window.importing.freshness.look()
    qtbot.waitUntil(lambda: session.table("t1").rows == 100, timeout=10_000)
    session.undo()
    assert session.table("t1").rows == 101
    source.write_text(BOATS + "101;Auk;06/05/2024;9;N\n102;Auk;06/05/2024;9;N\n")
    QTest.keyClick(window, Qt.Key.Key_F5, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: session.table("t1").rows == 102, timeout=10_000)


def test_reading_can_be_cancelled(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    source = tmp_path / "large.csv"
    source.write_text("a,b\n" + "1,x\n" * 4_000_000)
    window.importing.take_path(source)
    qtbot.waitUntil(lambda: "rows so far" in window.status.taken.text(), timeout=10_000)
    assert window.status.cancel.isVisible()
    QTest.mouseClick(window.status.cancel, LEFT)
    assert not window.status.progress.isVisible()
    settled()
    assert not window.session.folio.tables


def test_what_is_edited_while_a_worker_prepares_is_not_lost(boats: Window, tmp_path: Path) -> None:
    """Each change is done to the folio of the moment when its work is ready, whatever it began from."""
    session = boats.session
    more = tmp_path / "more.csv"
    more.write_text("No.;Boat;Fee\n200;Tern;1,5\n")
    for work in (
        session.tables.stepping("t1", (Tidy(),), "tidy"), session.tables.renaming("t1", "Pier", "Side"), session.tables.rereading("t1"),
        session.tables.appending("t1", [more]),
    ):  # fmt: skip
        take = work()
        board = session.new_board("Made meanwhile")
        session.rename("t1", f"{session.folio.table('t1').name}+")
        name = session.folio.table("t1").name
        take()
        assert session.folio.board(board.id) and session.folio.table("t1").name == name
    assert session.table("t1").rows == 101 and session.table("t1").has("Side")
    assert [type(step).__name__ for step in session.folio.table("t1").steps] == ["Append", "Tidy", "Rename"]


def test_of_many_values_those_that_are_searched_for_are_bundled(window: Window, qtbot: QtBot) -> None:
    """The list holds a part of them; what is ticked stays so while another is searched for."""
    put: list[AnyStep] = []
    table = table_from_frame("Berths", pl.DataFrame({"Berth": [f"B{n:05d}" for n in range(5000)] * 2}))
    bundles = BundlesPopover(window, "Berth", table, {}, put.append)
    qtbot.addWidget(bundles)
    assert bundles.list.count() < 400 and "search" in bundles.list.item(bundles.list.count() - 1).text()  # type: ignore[union-attr]
    for wanted in ("B04999", "B00002"):
        bundles.search.setText(wanted)
        item = bundles.list.item(0)
        assert item is not None and item.text().split() == [wanted, "2"]
        item.setCheckState(Qt.CheckState.Checked)
    QTest.keyClicks(bundles.name, "Outer")
    QTest.keyClick(bundles.name, Qt.Key.Key_Return)
    bundles.search.clear()
    assert [bundles.list.item(at).text().split("  ·  ")[0] for at in range(3)][:2] == ["Outer", "Outer"]  # type: ignore[union-attr]
    QTest.mouseClick(bundles.take, LEFT)
    assert [(each.name, set(each.members)) for each in put[0].bundles] == [("Outer", {"B04999", "B00002"})]  # type: ignore[union-attr]
