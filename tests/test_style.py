"""How a chart looks, set by hand: in the margin, at once, and back again."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QPushButton

from summula.core.charts.scene import Box, Text
from summula.core.folio.file import open_folio
from summula.desk.pages.stylepopover import StylePopover
from summula.desk.window import Window
from tests.hands import LEFT, shown


def opened(window: Window, group: str) -> StylePopover:
    QTest.qWait(20)
    button = next(b for b in window.margin.findChildren(QPushButton) if b.accessibleName().startswith(group) and b.isVisible())
    QTest.mouseClick(button, LEFT)
    popover = window.summary_page.popover
    assert isinstance(popover, StylePopover)
    return popover


def test_a_chart_is_styled_in_the_margin_and_keeps_it(on_demo: Window, tmp_path: Path) -> None:
    page = shown(on_demo, 'show sum of Takings by Vessel across Ticket where Ticket is Single or Group drawn as columns')
    session = on_demo.session
    plain = page.summary
    assert plain is not None and page.chart.scene is not None

    popover = opened(on_demo, "Legend")
    where = popover.editors["legend.place"]
    assert isinstance(where, QComboBox)
    where.setCurrentIndex(2)
    where.activated.emit(2)
    right = next(mark for mark in page.chart.scene.marks if isinstance(mark, Text) and mark.text == "Group")
    assert right.x > page.chart.width() * 0.6 and popover.isVisible()
    popover.close()

    popover = opened(on_demo, "Scale")
    end, hidden = popover.editors["scale.high"], popover.editors["scale.hidden"]
    assert isinstance(end, QLineEdit) and isinstance(hidden, QCheckBox)
    end.setText("many")
    QTest.keyClick(end, Qt.Key.Key_Return)
    assert popover.wrong.isVisible() and "no number" in popover.wrong.text() and page.summary == session.folio.summary(plain.id)
    end.setText("2,000,000")
    QTest.keyClick(end, Qt.Key.Key_Return)
    assert not popover.wrong.isVisible() and any("£2m" in text for text in page.chart.scene.texts())
    popover.close()

    popover = opened(on_demo, "Emphasis")
    strong = popover.editors["emphasis.end"]
    assert isinstance(strong, QComboBox)
    strong.activated.emit(1)
    strengths = {mark.ink.strength for mark in page.chart.scene.tagged() if isinstance(mark, Box)}
    assert strengths == {1.0, 0.4}
    popover.close()

    session.save(tmp_path / "styled.summula")
    assert page.summary is not None
    kept = open_folio(tmp_path / "styled.summula").folio.summary(plain.id)
    assert kept.style == page.summary.style != plain.style
    page.draw_as("stacked columns")  # what forms share stays with another form
    assert page.summary.style == kept.style and "right" in page.summary.style.legend.place
    for _ in range(4):
        session.undo()
    assert page.summary.style == plain.style


def test_a_pattern_of_a_measure_holds_in_its_chart(on_demo: Window) -> None:
    page = shown(on_demo, "show sum of Takings by Vessel drawn as bars")
    QTest.qWait(20)
    button = next(b for b in on_demo.margin.findChildren(QPushButton) if b.accessibleName().startswith("Takings") and b.isVisible())
    QTest.mouseClick(button, LEFT)
    popover = page.popover
    assert popover is not None
    line = next(each for each in popover.findChildren(QLineEdit) if each.accessibleName() == "pattern as text")
    line.setText("#,##0.00")
    QTest.keyClick(line, Qt.Key.Key_Return)
    assert page.chart.scene is not None and any(text[-3:-2] == "." for text in page.chart.scene.texts())
    popover.close()


def test_a_popover_that_stays_changes_what_it_was_opened_for(on_demo: Window) -> None:
    """The summary, and its measure, of which it was opened: whatever has come into view meanwhile."""
    session = on_demo.session
    page = shown(on_demo, "show rows and sum of Takings by Vessel drawn as bars")
    first = page.summary
    assert first is not None
    page.summary_margin._figure_style(1, page)
    figures = page.popover
    popover = opened(on_demo, "Legend")
    other = session.folio.summary("s7")
    session.turn_to("s7")
    page.say(first.phrase, "another phrase there")
    where = popover.editors["legend.place"]
    assert isinstance(where, QComboBox) and figures is not None
    where.activated.emit(2)
    signs = next(each for each in figures.findChildren(QCheckBox) if "gain" in each.text())
    signs.click()
    now = session.folio.summary(first.id)
    assert now.style.legend.place == "right" and [each.style.signs for each in now.measures] == [True]
    assert now.measures[0].measure == first.phrase.measures[1] and session.folio.summary("s7").style == other.style
    session.remove_page(first.id)
    signs.click()  # there is nothing left to change: nothing happens
    assert first.id not in [each.id for each in session.folio.summaries]
