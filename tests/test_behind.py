"""From figures back to their rows, and out into sheets."""

from __future__ import annotations

import csv
import datetime as dt
import io
import math
from pathlib import Path

import numpy as np
import openpyxl
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from summula.core.charts import draw
from summula.core.charts.chart import Canvas, chart_of
from summula.core.charts.places import bounds
from summula.core.charts.scene import Mark
from summula.core.engine.axis import place_of
from summula.core.engine.behind import explanation, rows_behind
from summula.core.folio.opened import Opened
from summula.core.handout.rows import rows_text
from summula.core.handout.workbook import workbook_bytes
from summula.core.reading.readers import table_from_frame
from summula.core.summaries import Vocabulary, answer, parse, print_phrase
from summula.core.tables.encoding import series_of
from summula.core.tables.table import Table
from summula.core.theme.typefaces import text_width
from summula.desk.board.putonboard import add_slicer, put_on_board
from summula.desk.grid import rowsview
from summula.desk.window import Window
from tests.hands import LEFT, settled

PHRASES = (
    "show sum of fee and sum of fee for (pier is N) by boat then pier across year of on",
    'show sum of fee by boat where fee is over -3 and pier is not "S" keeping top 2 boat by rows gathering the rest',
    "show sum of fee by boat across quarter of on keeping top 1 boat by sum of fee in each quarter of on",
    "show sum of fee by fee in bands of 5 across month of on with every member",
    "show sum of fee by boat then pier keeping bottom 50% of pier by rows",
)
_record = st.fixed_dictionaries(
    {
        "boat": st.sampled_from(["Tern", "Gull", "Auk", None]), "pier": st.sampled_from(["N", "S", None]),
        "fee": st.one_of(st.none(), st.integers(-900, 2000).map(lambda n: n / 100)),
        "on": st.one_of(st.none(), st.dates(dt.date(2023, 1, 1), dt.date(2024, 12, 31))),
    }
)  # fmt: skip
_schema = {"boat": pl.String, "pier": pl.String, "fee": pl.Float64, "on": pl.Date}


def middle(mark: Mark) -> QPoint:
    area = bounds(mark, text_width)
    return QPoint(int((area.left + area.right) / 2), int((area.top + area.bottom) / 2))


@settings(max_examples=60)
@given(st.lists(_record, min_size=1, max_size=40), st.sampled_from(PHRASES))
def test_the_rows_behind_a_figure_add_up_to_it(records: list[dict[str, object]], text: str) -> None:
    table = table_from_frame("T", pl.DataFrame(records, schema=_schema), {"boat": "category", "pier": "category"})
    phrase = parse(text)
    grid = answer(phrase, table)
    fees = series_of("fee", table.column("fee")).cast(pl.Float64).to_numpy()
    for i, rows in enumerate(grid.rows.levels):
        for j, columns in enumerate(grid.columns.levels):
            for row in range(rows.size):
                for column in range(columns.size):
                    found = rows_behind(grid, table, 0, (i, row), (j, column))
                    assert len(found) == grid.cell_rows[i, j][row, column]
                    figure = grid.figure(0, (i, row), (j, column))
                    present = fees[found][~np.isnan(fees[found])]
                    assert math.isnan(figure) if len(present) == 0 else figure == pytest.approx(present.sum(), abs=1e-9)
    words = explanation(grid, table, 0, (0, 0), (0, 0), rows_behind(grid, table, 0, (0, 0), (0, 0)))
    assert words[0].startswith("sum of fee is") and "worked out from" in " ".join(words)


def test_a_measures_own_conditions_narrow_its_rows() -> None:
    frame = pl.DataFrame({"boat": ["a", "a", "b"], "pier": ["N", "S", "N"], "fee": [1, 2, 4]})
    table = table_from_frame("T", frame)
    grid = answer(parse(PHRASES[0].replace(" across year of on", "")), table)
    assert rows_behind(grid, table, 1, (0, 0), (0, 0)).tolist() == [0, 2]


@settings(max_examples=40)
@given(st.lists(_record, min_size=1, max_size=40), st.sampled_from(["", " across pier", ' where pier is not "S"']))
def test_the_rows_behind_a_range_are_those_it_counts(records: list[dict[str, object]], more: str) -> None:
    table = table_from_frame("T", pl.DataFrame(records, schema=_schema), {"boat": "category", "pier": "category", "fee": "number"})
    across, where = (more, "") if "across" in more else ("", more)
    for text in (f"show each row of fee{across}{where} drawn as histogram", f"show each row of fee against each row of fee{across}{where} drawn as scatter"):
        grid = answer(parse(text), table)
        marks = draw(chart_of(grid), Canvas(600, 400)).tagged()
        seen: list[int] = []
        for mark in marks:
            tag = mark.tag
            assert tag is not None and tag.has_rows
            row, column = place_of(grid.rows, tag.members), place_of(grid.columns, tag.members_across)
            assert row is not None and column is not None
            rows = rows_behind(grid, table, 0, row, column, within=tag.within)
            words = explanation(grid, table, 0, row, column, rows, tag.within)
            assert words[0].startswith("fee ") and f"from {len(rows)} row" in " ".join(words)
            if "histogram" in text:
                assert len(rows) == tag.value and not set(rows.tolist()) & set(seen)
            else:
                fees = [records[row]["fee"] for row in rows.tolist()]
                assert fees and fees == [pytest.approx(tag.value)] * len(fees)
            seen += rows.tolist()
        inside = [at for at, each in enumerate(records) if each["fee"] is not None and (not where or each["pier"] != "S")]
        assert sorted(set(seen)) == inside


def test_a_column_of_a_histogram_opens_its_rows(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    session.new_summary("t1", parse('show each row of "Delay (min)" where Weather is Fog drawn as histogram'))
    page = window.pages.summary
    QGuiApplication.processEvents()
    scene = page.chart.scene
    assert scene is not None
    column = scene.tagged()[3]
    assert column.tag is not None
    place = middle(column)
    QTest.mouseDClick(page.chart, LEFT, pos=place)
    assert window.pages.currentWidget() is window.asides.rows_behind
    delays = session.table("t1").number("Delay (min)")
    limits = column.tag.within[0]
    foggy = series_of("Weather", session.table("t1").column("Weather")) == "Fog"
    values = delays.values / delays.unit
    inside = (values >= limits.low) & (values < limits.high) & foggy.to_numpy()
    if delays.blank is not None:
        inside &= ~delays.blank
    assert f"{inside.sum():,} rows of" in window.status.account.text() and inside.sum() == column.tag.value
    # And on a board, under its slicers.
    summary = session.page()
    assert summary is not None
    put_on_board(session, summary[1], session.new_board("Delays").id)
    add_slicer(session, session.folio.boards[-1], "t1", "Ticket")
    window.pages.board.slicing.choose(session.folio.boards[-1].slicers[0].id, ("Single",))
    view = next(iter(window.pages.board.panels.values())).view
    assert view.scene is not None
    mark = view.scene.tagged()[2]
    QTest.mouseDClick(view, LEFT, pos=middle(mark))
    assert mark.tag is not None and f"{int(mark.tag.value):,} row" in window.status.account.text()


def test_a_sheet_holds_real_numbers_and_harmless_texts(demo: Opened) -> None:
    table = demo.tables["t1"]
    phrase = demo.folio.summary("s3").phrase
    grid = answer(phrase, table)
    book = openpyxl.load_workbook(io.BytesIO(workbook_bytes(grid, "Takings by route", print_phrase(phrase))))
    sheet = book.active
    assert sheet is not None and sheet.freeze_panes == "C6" and sheet.merged_cells.ranges
    last = sheet.max_row
    assert sheet.cell(last, 1).value == "All" and sheet.cell(last, sheet.max_column - 1).value == pytest.approx(grid.bottom_line())
    assert "£" in sheet.cell(last, 3).number_format and "%" in sheet.cell(last, 4).number_format
    evil = table_from_frame("T", pl.DataFrame({"who": ["=1+1", "@x", "+2"], "n": [1, 2, 3]}))
    made = openpyxl.load_workbook(io.BytesIO(workbook_bytes(answer(parse("show sum of n by who"), evil), "=x", "show")))
    assert made.active is not None
    kinds = {cell.value: cell.data_type for row in made.active.iter_rows() for cell in row if isinstance(cell.value, str)}
    assert kinds["=1+1"] == "s" and kinds["=x"] == "s"


def test_rows_are_handed_out_in_full_and_harmless() -> None:
    texts = ["=1+1", "@x", "+2", "-3", 'a,"b"', "two\nlines", None]
    fees = ["1", "2.25", "3", "4", "-5.5", "1e3", ""]
    moments = [dt.datetime(2024, 1, 1, 5, 6, 7)] * 7
    table = table_from_frame("T", pl.DataFrame({"=who": texts, "fee": fees, "at": moments}))
    made = rows_text(table, np.array([6, 5, 4, 3, 1, 0, 0]), ["=who", "fee", "at"])
    lines = list(csv.reader(io.StringIO(made)))
    when = "2024-01-01 05:06:07"
    assert lines[0] == ["'=who", "fee", "at"] and [line[2] for line in lines[1:]] == [when] * 7
    assert [line[0] for line in lines[1:]] == ["", "two\nlines", 'a,"b"', "-3", "'@x", "'=1+1", "'=1+1"]
    assert [float(line[1] or 0) for line in lines[1:]] == [0, 1000, -5.5, 4, 2.25, 1, 1]
    none = rows_text(table, np.array([], dtype=np.int64), ["fee"], "\t")
    assert none == "fee\n" and rows_text(table, np.array([0]), ["fee", "at"], "\t", heads=False).count("\t") == 1


def test_from_a_figure_to_its_rows_and_back(
    on_demo: Window,
    qtbot: QtBot,
    monkeypatch: pytest.MonkeyPatch,
    tmp_path: Path,
) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to("s6")
    page = window.pages.summary
    session.set_phrase(page.summary, parse("show sum of Takings by Vessel", Vocabulary(session.table("t1"))), "as a grid")  # type: ignore[arg-type]
    layout = page.pivot.layout_
    assert layout is not None and page.grid is not None
    petrel = next(at for at, line in enumerate(layout.rows) if line.label == "Petrel")
    place = page.pivot.cell_rect(petrel, 0).center().toPoint()
    viewport = page.pivot.viewport()
    QTest.mouseDClick(viewport, LEFT, pos=place)
    behind = window.asides.rows_behind
    assert window.pages.currentWidget() is behind and behind.rows is not None
    table: Table = session.table("t1")
    expected = int((series_of("Vessel", table.column("Vessel")) == "Petrel").sum())
    assert behind.rows.model().rowCount() == expected  # type: ignore[union-attr]
    assert "Vessel Petrel" in behind.about.text() and "£" in behind.about.text()
    target = tmp_path / "rows.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(target), ""))
    QTest.mouseClick(behind.out, LEFT)
    qtbot.waitUntil(lambda: window.status.selection.text() == "Saved to rows.csv", timeout=10_000)
    read = pl.read_csv(target, try_parse_dates=True)
    takings = series_of("Takings", table.column("Takings")).filter(series_of("Vessel", table.column("Vessel")) == "Petrel")
    assert read["Takings"].sum() == pytest.approx(float(takings.sum())) and read["Sailed on"].dtype == pl.Date
    QTest.mouseClick(behind.copy, LEFT)
    clipboard = QGuiApplication.clipboard()
    qtbot.waitUntil(lambda: "on the clipboard" in window.status.selection.text(), timeout=10_000)
    assert clipboard is not None and len(clipboard.text().splitlines()) == expected + 1
    # Some cells of them, by key: in full, under no heads.
    behind.rows.setCurrentIndex(behind.rows.model().index(0, 1))  # type: ignore[union-attr]
    behind.rows.selectAll()
    QTest.keyClick(behind.rows, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    assert len(clipboard.text().splitlines()) == expected and "\t" in clipboard.text()
    monkeypatch.setattr(rowsview, "MOST_CELLS", 5)
    QTest.keyClick(behind.rows, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    assert "oo many cells for the clipboard" in window.status.selection.text()
    QTest.keyClick(behind, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is page
    # The member of a row alone, or left out; both are words of the phrase.
    page.pivot.select((petrel, 0), (petrel, 0))
    page.pivot.member_asked.emit("not")
    assert print_phrase(session.folio.summary("s6").phrase) == "show sum of Takings by Vessel where Vessel is not Petrel"
    page.pivot.select((0, 0), (0, 0))
    page.pivot.member_asked.emit("not")
    assert "is not Petrel or Dunlin" in print_phrase(session.folio.summary("s6").phrase)
    page.pivot.select((0, 0), (0, 0))
    page.pivot.member_asked.emit("only")
    assert page.grid is not None and page.grid.rows.levels[1].size == 1
    QTest.keyClick(window, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    assert window.pages.currentWidget() is behind
    QTest.mouseClick(behind.back, LEFT, pos=QPoint(5, 5))
    sheet = tmp_path / "out.xlsx"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(sheet), ""))
    window.actions_.run("hand out xlsx")
    qtbot.waitUntil(lambda: window.status.selection.text() == f"Saved to {sheet.name}", timeout=10_000)
    assert openpyxl.load_workbook(sheet).active is not None


def test_members_are_looked_into_and_heads_order(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to("s6")
    page = window.pages.summary
    words = Vocabulary(session.table("t1"))
    session.set_phrase(page.summary, parse('show sum of Takings and rows by year of "Sailed on"', words), "by year")  # type: ignore[arg-type]

    def phrase() -> str:
        return print_phrase(session.folio.summary("s6").phrase)

    viewport = page.pivot.viewport()
    QTest.mouseDClick(viewport, LEFT, pos=page.pivot.cell_rect(1, -1).center().toPoint())
    assert phrase() == 'show sum of Takings and rows by year-quarter of "Sailed on" where year of "Sailed on" is 2024'
    QTest.mouseDClick(viewport, LEFT, pos=page.pivot.cell_rect(2, -1).center().toPoint())
    assert phrase().startswith('show sum of Takings and rows by year-month of "Sailed on"') and "2024-Q3" in phrase()
    assert page.grid is not None and page.grid.rows.levels[1].size == 3
    for _ in range(2):
        QTest.keyClick(window, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert phrase() == 'show sum of Takings and rows by year of "Sailed on"'
    page.pivot.select((0, 0), (0, 0))
    heading = page.grid.rows.headings[0]
    page.grid_actions.look_into(heading, page.grid.rows.path(1, 0)[0], parse("show rows by Weather").by[0])
    assert phrase() == 'show sum of Takings and rows by Weather where year of "Sailed on" is 2023'
    # A double click on a measure's head: largest first, smallest first, own order.
    head = QPoint(int(page.pivot.cell_rect(0, 1).center().x()), 10)
    orders = []
    for _ in range(3):
        QTest.mouseDClick(viewport, LEFT, pos=head)
        orders.append(phrase().partition(" ordered ")[2])
    assert orders == ["by rows, largest first", "by rows, smallest first", ""]


def test_rows_behind_a_mark_of_a_board_are_those_of_its_slicers(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    board = session.folio.boards[0]
    session.turn_to(board.id)
    settled()
    window.pages.board.slicing.choose("l22", ("Aldry – Fenholm",))
    settled()
    table = session.table("t1")
    route = series_of("Route", table.column("Route")) == "Aldry – Fenholm"
    seen = 0
    for view in window.pages.board.panels.values():
        scene, answer = view.view.scene, view.answer
        if scene is None or answer is None or answer.grid is None or answer.grid.phrase.keeping:
            continue
        mark = next(each for each in scene.tagged() if each.tag is not None and math.isfinite(each.tag.value))
        place = middle(mark)
        tag = view.view.tag_at(place.x(), place.y())
        if tag is None:
            continue
        QTest.mouseDClick(view.view, LEFT, pos=place)
        behind = window.asides.rows_behind
        assert window.pages.currentWidget() is behind and behind.rows is not None and window.margin.isVisible()
        found = session.reckoning(session.folio.boards[0]).rows_behind(session.folio.boards[0], view.panel, tag)
        assert found is not None
        rows, words = found[1], found[2]
        assert route[rows].all() and behind.rows.model().rowCount() == len(rows)  # type: ignore[union-attr]
        assert any("sliced: Route is Aldry – Fenholm" in each for each in words)
        node = place_of(answer.grid.rows, tag.members), place_of(answer.grid.columns, tag.members_across)
        assert node[0] is not None and node[1] is not None
        assert len(rows) == answer.grid.cell_rows[node[0][0], node[1][0]][node[0][1], node[1][1]]
        QTest.keyClick(behind, Qt.Key.Key_Escape)
        assert window.pages.currentWidget() is window.pages.board and not window.margin.isVisible()
        seen += 1
    assert seen >= 2
    # A chart on its own page answers in the same way, by keys too.
    session.turn_to("s4")
    settled()
    chart = window.pages.summary.chart
    chart.setFocus()
    QTest.keyClick(chart, Qt.Key.Key_Right)
    QTest.keyClick(chart, Qt.Key.Key_Return)
    assert window.pages.currentWidget() is window.asides.rows_behind


def test_rows_behind_a_linked_figure_are_the_other_tables(demo: Opened) -> None:
    """On a board that is sliced, each goal's rows add up to the goal, for every mark that stands for one."""
    from summula.core.boards.board import Board
    from summula.core.charts import draw
    from summula.core.charts.chart import Canvas
    from summula.core.handout.narrowing import narrowed
    from summula.core.handout.pages import reckoning_of

    tables, folio = demo.prepared(), demo.folio
    reckoning = reckoning_of(folio, tables)
    board = narrowed(folio.boards[3], folio, tables, ["Route=Osk – Vaila", "Route=Osk – Brannay"], "2025")
    assert isinstance(board, Board)
    asked = 0
    for panel in board.panels:
        if getattr(panel, "title", "") not in ("Takings and goals", "By route"):
            continue
        answer = reckoning.panel(board, panel)
        assert answer.chart is not None
        for mark in draw(answer.chart, Canvas(900, 600)).tagged():
            if mark.tag is None or mark.tag.measure != 1:
                continue
            found = reckoning.rows_behind(board, panel, mark.tag)
            assert found is not None
            table, rows, words = found
            goals = table.column("Takings goal")
            assert table.name == "Monthly targets" and words[0].startswith('sum of "Takings goal" is')
            assert sum(goals.values[rows].tolist()) / 10**goals.decimals == pytest.approx(mark.tag.value)  # type: ignore[union-attr]
            asked += 1
    assert asked >= 10
