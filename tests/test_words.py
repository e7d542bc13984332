"""What can be typed can be made with the mouse: every kind of word through its popover, and the two agree."""

from __future__ import annotations

from typing import TypeVar

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QPushButton, QSpinBox, QWidget

from summula.core.preparation.steps import DropFields
from summula.core.summaries import parse, print_phrase
from summula.desk.pages.summarypage import SummaryPage
from summula.desk.widgets.picklist import PickList
from summula.desk.window import Window
from tests.hands import LEFT, said, settled, shown

W = TypeVar("W", bound=QWidget)


def popup() -> QWidget:
    """The popover that is open now."""
    settled()
    found = QApplication.activePopupWidget()
    assert found is not None
    return found


def part(kind: type[W], name: str) -> W:
    """A part of the open popover, by its accessible name."""
    return next(each for each in popup().findChildren(kind) if each.accessibleName() == name)


def choose(name: str, text: str) -> None:
    combo = part(QComboBox, name)
    at = next(at for at in range(combo.count()) if combo.itemText(at) == text)
    combo.setCurrentIndex(at)
    combo.activated.emit(at)


def take(name: str, text: str) -> None:
    """Pick an entry of a list."""
    picks = next(each for each in popup().findChildren(PickList) if each.list.accessibleName() == name)
    value = next(each.value for each in picks.choices if each.text.strip(" ✓") == text)
    picks.picked.emit(value)


def write(name: str, text: str) -> None:
    line = part(QLineEdit, name)
    line.setFocus()
    line.selectAll()
    QTest.keyClicks(line, text)
    QTest.keyClick(line, Qt.Key.Key_Return)


def press(words: str) -> None:
    QTest.mouseClick(next(b for b in popup().findChildren(QPushButton) if b.text() == words), LEFT)


def opened(page: SummaryPage, role: str, at: int = 0) -> None:
    settled()
    QTest.mouseClick(page.phrase.button(role, at), LEFT)


def test_a_figure_in_every_way(on_demo: Window) -> None:
    page = shown(on_demo, 'show sum of Takings by Route then Vessel across year of "Sailed on"')
    tail = ' by Route then Vessel across year of "Sailed on"'

    def figure() -> str:
        text = said(page)
        assert parse(text, on_demo.session.vocabulary("t1")) == page.phrase_now()  # as if it had been typed
        return text.removeprefix("show ").removesuffix(tail)

    opened(page, "measures")
    take("aggregate", "percentile")
    assert figure() == "percentile 90 of Takings"
    opened(page, "measures")
    part(QSpinBox, "which percentile").setValue(25)
    press("Apply")
    assert figure() == "percentile 25 of Takings"
    opened(page, "measures")
    take("aggregate", "last")
    assert figure() == "last of Takings"
    for shown_as, text in (
        ("share of group", "share of group"), ("share of everything", "share of everything"),
        ("running total along Vessel", "running total along Vessel"), ("rank along Route", "rank along Route"),
        ("change on a year earlier", "change on a year earlier"),
        ("percent change on previous year of Sailed on", 'percent change on previous year of "Sailed on"'),
    ):  # fmt: skip
        opened(page, "measures")
        choose("Shown as", shown_as)
        assert figure() == f"last of Takings as {text}"
    opened(page, "measures")
    choose("Shown as", "percent change on one Vessel …")
    take("members", "Petrel")
    assert figure() == "last of Takings as percent change on Vessel Petrel"
    opened(page, "measures")
    choose("Shown as", "no comparison")
    opened(page, "measures")
    press("Only where …")
    take("fields", "Takings")
    choose("which rows", "is from")
    part(QLineEdit, "from, or the limit").setText("10")
    write("to", "lots")
    assert figure() == "last of Takings"  # refused, and told
    write("to", "20")
    assert figure() == "last of Takings for (Takings is from 10 to 20)"
    opened(page, "measures")
    press("And only where …")
    take("fields", "Ticket")
    choose("which rows", "starts with")
    write("from, or the limit", "Day")
    assert figure() == 'last of Takings for (Takings is from 10 to 20 and Ticket starts with "Day")'
    opened(page, "measures")
    write("called", "A day's takings")
    assert figure().endswith('called "A day\'s takings"')
    opened(page, "measures")
    press("Of all rows")
    assert figure() == 'last of Takings called "A day\'s takings"'


def test_headings_conditions_and_keeping_in_every_way(on_demo: Window) -> None:
    page = shown(on_demo, 'show rows by Route then "Delay (min)" in bands of 10 where Ticket is not Group and Takings is over 1 and "Sailed on" is not blank keeping top 5 Route by rows')

    def clause(word: str, until: str) -> str:
        return said(page).partition(f" {word} ")[2].partition(f" {until} ")[0]

    opened(page, "by", 1)
    part(QLineEdit, "bands from").setText("0")
    write("bands to", "60")
    assert clause("by", "where") == 'Route then "Delay (min)" in bands of 10 from 0 to 60'
    opened(page, "by", 1)
    write("limits of bands", "15, 5")
    assert popup().isVisible()  # limits must rise: told there
    write("limits of bands", "5, 15")
    assert clause("by", "where") == 'Route then "Delay (min)" in bands at 5, 15'
    opened(page, "where", 2)
    choose("which rows", "is in the last")
    part(QSpinBox, "how many").setValue(6)
    choose("days, weeks, months, quarters or years", "weeks")
    press("Apply")
    assert '"Sailed on" is in the last 6 weeks' in said(page)
    opened(page, "where", 2)
    choose("which rows", "is from")
    part(QLineEdit, "from, or the limit").setText("2024-01")
    write("to", "2024-06")
    assert '"Sailed on" is from 2024-01 to 2024-06' in said(page)
    opened(page, "where", 1)
    choose("which rows", "is not")
    write("from, or the limit", "1 or 2.5")
    assert "Takings is not 1 or 2.5" in said(page)
    opened(page, "where", 0)
    choose("which rows", "is not blank")
    press("Apply")
    assert "where Ticket is not blank and" in said(page)
    opened(page, "keeping")
    choose("members or percent", "percent")
    part(QSpinBox, "how many").setValue(80)
    choose("in each", 'in each Delay (min) in bands at 5, 15')
    gather = next(box for box in popup().findChildren(QWidget) if getattr(box, "text", lambda: "")() == "group the rest")
    gather.click()  # type: ignore[attr-defined]
    part(QLineEdit, "name of the rest").setText("Others")
    press("Apply")
    kept = clause("keeping", "drawn")
    assert kept == 'top 80% of Route by rows in each "Delay (min)" in bands at 5, 15 gathering the rest as "Others"'
    assert page.grid is not None and page.grid.rows_used > 0
    text = said(page)
    assert print_phrase(parse(text, on_demo.session.vocabulary("t1"))) == text


@pytest.mark.parametrize("part_of", ["fiscal quarter", "weekday", "month-day", "each day"])
def test_parts_of_dates_are_picked(part_of: str, on_demo: Window) -> None:
    page = shown(on_demo, 'show rows by year of "Sailed on"')
    opened(page, "by")
    take("part of the date", part_of)
    expected = '"Sailed on"' if part_of == "each day" else f'{part_of} of "Sailed on"'
    assert said(page) == f"show rows by {expected}"


def test_one_figure_against_another_and_the_values_themselves(on_demo: Window) -> None:
    page = shown(on_demo, "show sum of Takings by Vessel")
    QTest.mouseClick(page.phrase.button("add", clause="more"), LEFT)
    take("clauses", "against …")
    take("fields", "Passengers")
    assert said(page) == "show sum of Takings against sum of Passengers by Vessel drawn as scatter"
    settled()
    assert page.chart.scene is not None and len(page.chart.scene.tagged()) == 9

    def against() -> None:
        settled()
        QTest.mouseClick(page.phrase.button("measures", clause="against"), LEFT)

    against()
    take("aggregate", "mean")
    assert said(page) == "show sum of Takings against mean of Passengers by Vessel drawn as scatter"
    against()
    write("the figure as text", "rows")
    assert said(page) == "show sum of Takings against rows by Vessel drawn as scatter"
    QTest.mouseClick(page.forms["grid"], LEFT)  # a grid shows it as one more column, which orders the lines too
    settled()
    page.grid_actions.order_by(1, "largest")
    assert said(page) == "show sum of Takings against rows by Vessel ordered by rows, largest first"
    against()
    press("Remove")
    assert said(page) == "show sum of Takings by Vessel ordered by rows, largest first"

    page = shown(on_demo, "show sum of Takings by Vessel")
    assert "each row" in page.forms["box plot"].why
    opened(page, "measures")
    take("aggregate", "each row")
    assert said(page) == "show each row of Takings by Vessel drawn as box plot"
    settled()
    assert page.chart.scene is not None and any("median" in mark.tag.text for mark in page.chart.scene.tagged())
    assert "many values" in page.forms["grid"].why
    opened(page, "measures")
    take("aggregate", "median")
    assert said(page) == "show median of Takings by Vessel"
    on_demo.session.undo()
    assert said(page) == "show each row of Takings by Vessel drawn as box plot"


def test_what_more_can_be_said_is_picked(on_demo: Window) -> None:
    page = shown(on_demo, 'show sum of Takings by Route across year of "Sailed on"')
    start, session = said(page), on_demo.session

    def more(*picked: str) -> None:
        settled()
        QTest.mouseClick(page.phrase.button("add", clause="more"), LEFT)
        for name, text in zip(("clauses", "orders"), picked, strict=False):
            take(name, text)

    for text in ("Takings · sum, smallest first", "Route, backwards", "year of Sailed on, backwards"):
        more("ordered …", text)
        assert " ordered " in said(page) and parse(said(page), session.vocabulary("t1")) == page.phrase_now()
        opened(page, "order")
        take("orders", "original order")
        assert said(page) == start
    for words in ("with every member", "without subtotals", "without totals"):
        more(words)
        assert said(page) == f"{start} {words}" and session.history.undo_name == words
        opened(page, "option")
        press("Remove")
        assert said(page) == start
    more("keeping …")
    assert said(page) == f"{start} keeping top 5 Route by sum of Takings gathering the rest"
    session.undo()
    opened(page, "measures")
    take("aggregate", "each row")
    more("keeping …")  # of many values there is no greatest: their sum is asked instead
    assert "each row of Takings" in said(page) and "top 5 Route by sum of Takings" in said(page)
    while said(page) != start:
        session.undo()

    QTest.mouseDClick(page.phrase, LEFT, pos=page.phrase.rect().bottomRight() - QPoint(4, 4))
    assert page.phrase.text.isVisible() and page.phrase.text.toPlainText() == start
    QTest.keyClick(page.phrase.text, Qt.Key.Key_Escape)
    assert not page.phrase.text.isVisible() and said(page) == start


def test_a_word_whose_field_is_gone_says_so_and_can_be_taken_away(on_demo: Window) -> None:
    page = shown(on_demo, "show sum of Takings by Weather then Route where Weather is not Fog")
    session, summary = on_demo.session, on_demo.session.page_id
    session.tables.stepping("t1", (DropFields(("Weather",)),), "Drop Weather")()()
    session.turn_to(summary)
    assert "Weather" in page.pivot.message  # the page says what it lacks
    for role in ("where", "by"):
        opened(page, role)
        assert any("Weather" in label.text() for label in popup().findChildren(QLabel))
        press("Remove")
    assert said(page) == "show sum of Takings by Route"
    settled()
    assert page.grid is not None and page.grid.bottom_line() > 0
    for _ in range(3):
        session.undo()
    assert said(page) == "show sum of Takings by Weather then Route where Weather is not Fog"
