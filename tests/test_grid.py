"""The grid under real hands: pulled, carried, folded, kept, bundled, copied, looked into; levers moved."""

from __future__ import annotations

import msgspec
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu, QPushButton
from pytestqt.qtbot import QtBot

from summula.core.folio.model import with_lever
from summula.core.grids.layout import Width
from summula.core.grids.measurestyle import MeasureStyle, measure_styles
from summula.core.phrases.lever import LeverSetting
from summula.core.preparation.steps import AddBundles
from summula.core.summaries import parse, print_phrase
from summula.desk.grid import copying
from summula.desk.pages.figurestylepopover import FigureStylePopover
from summula.desk.pages.layoutpopover import LayoutPopover
from summula.desk.pages.levers import LeverPopover, LeverRow
from summula.desk.pages.pathpopover import PathPopover
from summula.desk.pages.summarypage import SummaryPage
from summula.desk.widgets.picklist import PickList
from summula.desk.window import Window
from tests.hands import LEFT, layout_of, margin_of, pick, said, settled, shown

NESTED = 'show sum of Takings by Route then Vessel across year of "Sailed on" then quarter of "Sailed on"'


def labels(page: SummaryPage, level: int = 1) -> list[str]:
    return [line.label for line in layout_of(page).rows if line.level == level]


def press(page: SummaryPage, start: QPoint, *stops: QPoint) -> None:
    """Press at a place of the grid, move over others, let go at the last."""
    view = page.pivot.view()
    QTest.mousePress(view, LEFT, pos=start)
    for stop in stops:
        QTest.mouseMove(view, stop)
    QTest.mouseRelease(view, LEFT, pos=stops[-1] if stops else start)


def head(page: SummaryPage, column: int, line: int = 0) -> QPoint:
    """The middle of a column, in a line of heads."""
    return QPoint(int(page.pivot.cell_rect(0, column).center().x()), 13 + 27 * line)


def entry(menu: QMenu, text: str) -> None:
    """Take what a menu offers."""
    found = [each for each in menu.actions() if each.text().startswith(text)]
    assert found, [each.text() for each in menu.actions()]
    found[0].trigger()


def test_columns_are_pulled_and_fit_again(on_demo: Window) -> None:
    page = shown(on_demo, 'show sum of Takings by Vessel across year of "Sailed on"')
    layout = layout_of(page)
    wide = layout.widths[1]
    edge = QPoint(int(page.pivot.cell_rect(0, 1).right()), 12)
    press(page, edge, edge + QPoint(20, 0), edge + QPoint(60, 0))
    assert page.summary is not None
    assert page.summary.layout.widths == (Width(("2024",), 0, int(wide) + 60),)
    assert layout_of(page).widths[1] == int(wide) + 60 and layout_of(page).widths[0] == layout.widths[0]
    heads = QPoint(layout_of(page).head_width, 12)
    press(page, heads, heads + QPoint(40, 0))
    assert layout_of(page).head_width == layout.head_width + 40
    QTest.mouseDClick(page.pivot.view(), LEFT, pos=QPoint(int(page.pivot.cell_rect(0, 1).right()), 12))
    assert page.summary.layout.widths == () and layout_of(page).widths[1] == wide
    on_demo.session.undo()
    assert len(page.summary.layout.widths) == 1
    page.pivot.menu_at(head(page, 1)).actions()  # and by the menu, for those who have no mouse
    entry(page.pivot.menu_at(head(page, 1)), "Narrower")
    assert layout_of(page).widths[1] == int(wide) + 36


def test_members_are_carried_into_another_order(on_demo: Window) -> None:
    page = shown(on_demo, 'show sum of Takings by Vessel across year of "Sailed on"')
    assert labels(page)[:3] == ["Dunlin", "Godwit", "Guillemot"]
    places = [page.pivot.cell_rect(row, -1).center().toPoint() for row in range(9)]
    press(page, places[4], places[3], places[1])
    assert labels(page)[:4] == ["Dunlin", "Petrel", "Godwit", "Guillemot"]
    assert said(page).endswith("ordered Vessel as Dunlin, Petrel")  # the others follow in their own order
    press(page, places[0], places[2])
    assert labels(page)[:3] == ["Petrel", "Godwit", "Dunlin"]
    page.pivot.setFocus()
    QTest.keyClick(page.pivot, Qt.Key.Key_Down)
    press(page, places[2])
    QTest.keyClick(page.pivot, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert labels(page)[:3] == ["Petrel", "Dunlin", "Godwit"]
    press(page, head(page, 2), head(page, 1), head(page, 0))  # 2025 before 2023
    assert [span.text for span in layout_of(page).heads[0]] == ["2025", "2023", "2024", "All"]
    bottom = page.pivot.cell_rect(9, -1).center().toPoint()
    press(page, bottom, places[0])  # the bottom line is no member
    assert labels(page)[0] == "Dunlin"
    for _ in range(4):
        on_demo.session.undo()
    assert labels(page)[:3] == ["Dunlin", "Godwit", "Guillemot"]


def test_folding_one_a_level_and_columns(on_demo: Window) -> None:
    page = shown(on_demo, NESTED)
    whole, wide = len(layout_of(page).rows), len(layout_of(page).columns)
    press(page, QPoint(int(layout_of(page).head_width + 12), 13))  # the mark of 2023
    assert [column.path for column in layout_of(page).columns][:2] == [("2023",), ("2024", "Q1")]
    assert len(layout_of(page).columns) == wide - 4
    press(page, page.pivot.cell_rect(0, -1).center().toPoint())
    entry(page.pivot.menu_at(page.pivot.cell_rect(0, -1).center().toPoint()), "Collapse all Route")
    assert len(layout_of(page).rows) == 12 and all(line.folded for line in layout_of(page).rows[:11])
    entry(page.pivot.menu_at(head(page, 4)), "Collapse all Sailed on")
    assert [column.path for column in layout_of(page).columns] == [("2023",), ("2024",), ("2025",), ()]
    entry(page.pivot.menu_at(head(page, 1)), "Expand all Sailed on")
    assert len(layout_of(page).columns) == wide
    QTest.mouseDClick(page.pivot.view(), LEFT, pos=head(page, 2))  # the head of 2023, over several columns
    assert len(layout_of(page).columns) == wide - 4 and "ordered" not in said(page)
    on_demo.actions_.run("unfold all")
    assert len(layout_of(page).rows) == whole and len(layout_of(page).columns) == wide
    # By keys: Ctrl+Space selects a column with its member, whose menu is then asked for.
    page.pivot.setFocus()
    page.pivot.select((0, 1), (0, 1))
    QTest.keyClick(page.pivot, Qt.Key.Key_Space, Qt.KeyboardModifier.ControlModifier)
    chosen = page.pivot.chosen()
    assert chosen is not None and (chosen.across, chosen.level) == (True, 2)
    QTest.keyClick(page.pivot, Qt.Key.Key_Space, Qt.KeyboardModifier.ShiftModifier)
    chosen = page.pivot.chosen()
    assert chosen is not None and (chosen.across, chosen.level) == (False, 1)
    on_demo.actions_.run("fold all")
    assert len(layout_of(page).rows) == 12 and len(layout_of(page).columns) == 4
    on_demo.session.undo()
    on_demo.session.set_phrase(page.summary, parse(NESTED + " without subtotals"), "without")  # type: ignore[arg-type]
    first, second = layout_of(page).rows[0], layout_of(page).rows[1]
    assert (first.level, first.figures, second.level) == (1, False, 2)  # a head, so that members are told apart
    assert layout_of(page).text(0, 0) == "" and page.pivot.copied().splitlines()[2].startswith("Aldry – Fenholm\t\t")


def test_several_members_are_kept_left_out_and_bundled(on_demo: Window) -> None:
    page, session = shown(on_demo, "show sum of Takings by Vessel"), on_demo.session
    places = [page.pivot.cell_rect(row, -1).center().toPoint() for row in range(9)]
    press(page, places[1])
    QTest.mouseClick(page.pivot.view(), LEFT, Qt.KeyboardModifier.ShiftModifier, places[3])
    entry(page.pivot.menu_at(places[2]), "Only these 3 members")
    assert said(page).endswith("where Vessel is Godwit or Guillemot or Kittiwake")
    press(page, places[0])
    QTest.mouseClick(page.pivot.view(), LEFT, Qt.KeyboardModifier.ShiftModifier, places[1])
    entry(page.pivot.menu_at(places[0]), "Without these 2 members")
    assert labels(page) == ["Kittiwake"]
    session.undo()
    session.undo()
    press(page, places[0])
    QTest.mouseClick(page.pivot.view(), LEFT, Qt.KeyboardModifier.ShiftModifier, places[1])
    entry(page.pivot.menu_at(places[0]), "Group these 2 members")
    assert page.popover is not None
    QTest.keyClicks(QApplication.focusWidget() or page.popover, "Small ones")
    QTest.keyClick(QApplication.focusWidget() or page.popover, Qt.Key.Key_Return)
    assert said(page) == 'show sum of Takings by "Vessel group"'
    assert labels(page)[:3] == ["Small ones", "Guillemot", "Kittiwake"]
    # Bundled again, the same field grows; the figures are those of its members.
    press(page, places[0])
    QTest.mouseClick(page.pivot.view(), LEFT, Qt.KeyboardModifier.ShiftModifier, places[1])
    entry(page.pivot.menu_at(places[0]), "Group these 2 members")
    QTest.keyClicks(QApplication.focusWidget() or page.popover, "Three")
    QTest.keyClick(QApplication.focusWidget() or page.popover, Qt.Key.Key_Return)
    step = session.folio.table("t1").steps[-1]
    assert isinstance(step, AddBundles) and len(session.folio.table("t1").steps) == 1
    assert [(each.name, set(each.members)) for each in step.bundles] == [("Three", {"Dunlin", "Godwit", "Guillemot"})]
    grid = page.grid
    assert grid is not None and grid.bottom_line() == pytest.approx(float(grid.values[1, 0][0].sum()))
    session.undo()
    session.undo()
    assert said(page) == "show sum of Takings by Vessel" and not session.folio.table("t1").steps


def test_what_is_copied_is_text_a_table_and_a_picture(on_demo: Window) -> None:
    page = shown(on_demo, 'show sum of Takings and rows by Vessel across year of "Sailed on"', measure_styles=(MeasureStyle(scale="thousand"),))
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    page.pivot.setFocus()
    QTest.keyClick(page.pivot, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClick(page.pivot, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    mime = clipboard.mimeData()
    assert mime is not None and mime.hasHtml() and mime.hasText()
    assert len(mime.text().splitlines()) == 2 + 9 + 1
    html = mime.html()
    assert html.count("<tr") == 12 and html.count("font-weight:bold") == 1 and "<td align=\"right\">" in html
    page.pivot.copy_picture()
    picture = clipboard.pixmap()
    layout = layout_of(page)
    assert abs(picture.width() - 2 * layout.width) < 4 and picture.height() > 2 * 27 * 12
    entry(page.pivot.menu_at(page.pivot.cell_rect(1, 1).center().toPoint()), "Copy the phrase")
    assert clipboard.text() == said(page)


def test_many_cells_are_copied_by_a_worker_and_too_many_refused(
    on_demo: Window,
    qtbot: QtBot,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    page, clipboard = shown(on_demo, 'show rows by "Sailed on" across Route'), QGuiApplication.clipboard()
    qtbot.waitUntil(lambda: page.pivot.layout_ is not None and len(page.pivot.layout_.rows) > 1000)
    layout, notice = layout_of(page), on_demo.status.selection
    assert clipboard is not None
    clipboard.clear()
    page.pivot.copy()
    assert not clipboard.text()  # nothing stands still meanwhile
    qtbot.waitUntil(lambda: notice.text().endswith("cells on the clipboard"), timeout=10_000)
    assert notice.text().startswith(f"{len(layout.rows) * len(layout.columns):,} cells")
    lines = clipboard.text().splitlines()
    assert len(lines) == len(layout.heads) + len(layout.rows) and lines[-1].split("\t")[-1] == str(on_demo.session.table("t1").rows)
    monkeypatch.setattr(copying, "MOST_CELLS", 100)
    page.pivot.copy()
    assert "Too many cells for the clipboard" in notice.text()


def test_totals_and_measures_are_laid_out_in_a_popover(on_demo: Window) -> None:
    page = shown(on_demo, NESTED.replace("Takings by", "Takings and rows by"))
    on_demo.actions_.run("totals")
    popover = page.popover
    assert isinstance(popover, LayoutPopover)
    for combo, at in ((popover.subtotals, 1), (popover.measures, 1), (popover.across, 1)):
        combo.setCurrentIndex(at)
        combo.activated.emit(at)
    popover.bottom_name.setText("Net")
    popover.bottom_name.editingFinished.emit()
    layout = layout_of(page)
    assert [line.figures for line in layout.rows[:3]] == [False, True, True] and layout.rows[1].measure == 0
    assert layout.rows[len(layout.rows) - 1].label == "Net" and layout.columns[0].path == ()
    popover.subtotals.activated.emit(2)
    assert said(page).endswith("without subtotals")
    popover.bottom.activated.emit(2)
    assert said(page).endswith("without subtotals without totals")
    popover.bottom.activated.emit(1)
    assert layout_of(page).rows[0].label == "Net" and "without totals" not in said(page)
    popover.close()


def test_looking_in_goes_along_a_path_and_back(on_demo: Window) -> None:
    page, session = shown(on_demo, "show sum of Takings by Vessel"), on_demo.session
    on_demo.actions_.run("path")
    popover = page.popover
    assert isinstance(popover, PathPopover)
    for name in ("Weather", "Ticket"):
        pick(popover, name)
    popover.list.setCurrentRow(1)
    QTest.mouseClick(next(b for b in popover.findChildren(QPushButton) if "Earlier" in b.text()), LEFT)
    popover.close()
    assert page.summary is not None and [each.field for each in page.summary.path] == ["Ticket", "Weather"]
    place = page.pivot.cell_rect(0, -1).center().toPoint()
    QTest.mouseDClick(page.pivot.view(), LEFT, pos=place)
    assert said(page) == "show sum of Takings by Ticket where Vessel is Dunlin"
    QTest.mouseDClick(page.pivot.view(), LEFT, pos=place)
    assert said(page).startswith("show sum of Takings by Weather where Vessel is Dunlin and Ticket is")
    QTest.mouseDClick(page.pivot.view(), LEFT, pos=place)
    assert len(page.summary.drilled) == 2  # the path ends here
    # What is changed meanwhile stays; the trail leads all the way back.
    session.set_phrase(page.summary, msgspec.structs.replace(page.summary.phrase, totals=False), "no totals")
    settled()
    steps = [each for each in page.trail.findChildren(QPushButton) if each.isVisible()]
    assert [each.text() for each in steps] == ["All Vessel", "Dunlin"]
    QTest.mouseClick(steps[0], LEFT)
    assert said(page) == "show sum of Takings by Vessel without totals" and not page.trail.isVisible()
    session.undo()
    assert len(page.summary.drilled) == 2


def test_levers_are_made_used_and_moved(on_demo: Window) -> None:
    page, session = shown(on_demo, "show sum of Takings by Route"), on_demo.session
    on_demo.actions_.run("lever")
    popover = page.popover
    assert isinstance(popover, LeverPopover)
    QTest.keyClicks(popover.name, "Fare change")
    popover.lines["value"].setText("50 %")
    QTest.keyClick(popover.lines["value"], Qt.Key.Key_Return)
    assert popover.trouble.isVisible() and "outside" in popover.trouble.text()
    popover.lines["value"].setText("10 %")
    QTest.keyClick(popover.lines["value"], Qt.Key.Key_Return)
    assert session.folio.levers[1:] == (LeverSetting("Fare change", 0.1, -0.3, 0.3, 0.02, "0%"),)
    QTest.mouseClick(page.phrase.button("measures"), LEFT)
    assert page.popover is not None
    what_if = next(each for each in page.popover.findChildren(PickList) if each.list.accessibleName() == "what if")
    what_if.picked.emit(next(each for each in what_if.choices if "Fare change" in each.text).value)
    assert said(page) == 'show sum of Takings * (1 + lever "Fare change") by Route'
    grid = page.grid
    assert grid is not None
    raised = grid.bottom_line()
    row = next(each for each in margin_of(on_demo).findChildren(LeverRow) if each.isVisible())
    row.slider.setFocus()
    for _ in range(3):
        QTest.keyClick(row.slider, Qt.Key.Key_Left)
    assert page.grid is not None and page.grid.bottom_line() == pytest.approx(raised / 1.1 * 1.04)
    assert row.isVisible() and row.value.text().startswith("4%")  # still under the hand
    session.undo()  # a lever that was pulled is put back at once
    assert session.folio.levers[1].value == 0.1
    # A goal that a lever sets, and a lever that is gone.
    session.edit(with_lever(session.folio, LeverSetting("Aim", 1e6, 0, 2e6, 1e5)), "lever")
    assert page.summary is not None
    page.summary_margin._figure_style(0, page)
    own = page.popover
    assert isinstance(own, FigureStylePopover)
    own.goal.setText("aim")
    QTest.keyClick(own.goal, Qt.Key.Key_Return)
    own.sparkline.click()
    own.close()
    assert measure_styles(page.summary.measures, page.summary.phrase) == (MeasureStyle(goal_lever="Aim", sparkline=True),)
    assert layout_of(page).measure_styles[0].goal == 1e6
    session.edit(msgspec.structs.replace(session.folio, levers=()), "no levers")
    assert "No lever 'Fare change'" in page.pivot.message


def test_a_line_over_the_members_across(on_demo: Window) -> None:
    page = shown(
        on_demo, 'show sum of Takings by Vessel across year-month of "Sailed on"', measure_styles=(MeasureStyle(sparkline=True),)
    )
    layout = layout_of(page)
    sparkline = layout.first_course
    assert layout.heads[-1][-1].text == "Trend" and len(layout.columns) == sparkline + 1
    assert len(layout.sparkline(0, sparkline)) == 35 and layout.text(0, sparkline) == "" and "from" in layout.words(0, sparkline)
    page.pivot.horizontalScrollBar().setValue(10**6)  # type: ignore[union-attr]
    picture = page.pivot.view().grab().toImage()
    area = page.pivot.cell_rect(4, sparkline)
    inks = {
        picture.pixelColor(int(area.x() + x), int(area.y() + y)).name()
        for x in range(4, int(area.width()) - 4) for y in range(3, 24)
    }  # fmt: skip
    assert len(inks) > 3  # a line is drawn there
    page.pivot.select((0, 0), (3, sparkline))
    assert "Selected" in on_demo.status.selection.text()  # figures; a course is none


def test_the_fiscal_year_is_said_at_a_date(on_demo: Window) -> None:
    session = on_demo.session
    session.turn_to("t1")
    on_demo.pages.table.choose_field("Sailed on")
    settled()
    button = next(b for b in margin_of(on_demo).findChildren(QPushButton) if b.accessibleName().startswith("Fiscal year"))
    QTest.mouseClick(button, LEFT)
    settled()
    popover = QApplication.activePopupWidget()
    assert popover is not None
    pick(popover, "April")  # type: ignore[arg-type]
    assert session.folio.year_begins == 4
    page = shown(on_demo, 'show sum of Takings by fiscal year of "Sailed on" across month of "Sailed on"')
    assert labels(page) == ["2022/23", "2023/24", "2024/25", "2025/26"]
    assert [span.text for span in layout_of(page).heads[0]][:3] == ["Apr", "May", "Jun"]
    session.undo()
    session.undo()
    assert session.folio.year_begins == 1


def carry(page: SummaryPage, word: str, at: int, place: QPoint) -> None:
    """Take a word of the phrase up, and put it down at a place of the page."""
    button = page.phrase.button(word, at)
    to = button.mapFromGlobal(page.mapToGlobal(place))
    QTest.mousePress(button, LEFT, pos=button.rect().center())
    QTest.mouseMove(button, button.rect().center() + QPoint(12, 0))
    QTest.mouseMove(button, to)
    QTest.mouseRelease(button, LEFT, pos=to)


def test_words_are_carried_between_clauses_and_out(on_demo: Window) -> None:
    text = 'show sum of Takings and rows by Route then Vessel across year of "Sailed on" where Ticket is not Group'
    page, session = shown(on_demo, text, measure_styles=(MeasureStyle(signs=True), MeasureStyle())), on_demo.session
    settled()

    def place(word: str, at: int = 0, right: bool = False) -> QPoint:
        button = page.phrase.button(word, at)
        x = button.width() + 3 if right else -3
        return page.mapFromGlobal(button.mapToGlobal(QPoint(x, button.height() // 2)))

    carry(page, "measures", 1, place("measures", 0))
    assert said(page).startswith("show rows and sum of Takings by")
    assert page.summary is not None and measure_styles(page.summary.measures, page.summary.phrase) == (MeasureStyle(), MeasureStyle(signs=True))  # each with its figure
    settled()
    carry(page, "by", 0, place("by", 1, right=True))
    assert "by Vessel then Route across" in said(page)
    settled()
    carry(page, "by", 1, place("across", 0))
    assert 'by Vessel across Route then year of "Sailed on"' in said(page)
    settled()
    carry(page, "measures", 0, place("across", 0))  # a figure is no heading: it stays among the figures
    assert "across Route then year" in said(page) and said(page).startswith("show sum of Takings and rows")
    settled()
    grid_edge = page.mapFromGlobal(page.pivot.view().mapToGlobal(QPoint(10, 200)))
    carry(page, "across", 0, grid_edge)
    assert 'by Vessel then Route across year of "Sailed on"' in said(page)
    settled()
    far = QPoint(page.width() // 2, page.height() - 10)
    carry(page, "where", 0, far)
    assert "where" not in said(page)
    settled()
    button = page.phrase.button("by", 0)  # Escape puts it back
    QTest.mousePress(button, LEFT, pos=button.rect().center())
    QTest.mouseMove(button, button.rect().center() + QPoint(30, 0))
    assert page.phrase.carrying.landing is not None
    QTest.keyClick(button, Qt.Key.Key_Escape)
    QTest.mouseRelease(button, LEFT, pos=button.rect().center() + QPoint(200, 0))
    assert page.phrase.carrying.landing is None and "by Vessel then Route" in said(page)
    for _ in range(6):
        session.undo()
    assert said(page) == print_phrase(parse(text, session.vocabulary("t1")))
    assert page.summary is not None and measure_styles(page.summary.measures, page.summary.phrase) == (MeasureStyle(signs=True), MeasureStyle())


def test_lines_are_ordered_by_any_column(on_demo: Window) -> None:
    page = shown(on_demo, 'show sum of Takings and rows by Vessel across year of "Sailed on" then quarter of "Sailed on"')
    layout = layout_of(page)
    column = next(at for at, each in enumerate(layout.columns) if each.path == ("2023", "Q2") and each.measure == 0)
    sign = QPoint(int(page.pivot.cell_rect(0, column).x()) + 8, layout.head_height - 12)
    for _ in range(50):  # until the words of the phrase have found their lines
        QTest.mouseMove(page.pivot.view(), sign + QPoint(3, 0))
        QTest.mouseMove(page.pivot.view(), sign)
        settled()
        if page.pivot.mouse.hovered == column:
            break
    assert page.pivot.mouse.hovered == column

    def figures() -> list[float]:
        return [layout_of(page).value(row, column) for row in range(9)]

    press(page, sign)
    asked = 'ordered by sum of Takings for (year of "Sailed on" is 2023 and quarter of "Sailed on" is 2), largest first'
    assert said(page).endswith(asked) and figures() == sorted(figures(), reverse=True)
    assert [layout_of(page).order_sign(at) for at in range(len(layout.columns))].count("▾") == 1
    assert layout_of(page).order_sign(column) == "▾"
    press(page, sign)
    assert said(page).endswith("smallest first") and figures() == sorted(figures())
    press(page, sign)
    assert "ordered" not in said(page)
    entry(page.pivot.menu_at(head(page, len(layout.columns) - 1, 2)), "Largest first")
    assert said(page).endswith("ordered by rows, largest first")  # the total's head: of all members
