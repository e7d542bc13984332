"""How a chart looks, set by hand: in the margin, at once, and back again."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QCheckBox, QComboBox, QLineEdit, QPushButton

from summula.core.charts.places import on_circle
from summula.core.charts.scene import Box, Group, Picture, Text, Wedge
from summula.core.charts.settings import with_value
from summula.core.charts.style import PLAIN_STYLE
from summula.core.folio.file import open_folio
from summula.core.folio.model import with_summary
from summula.core.handout.svg import svg_text
from summula.core.phrases.fitting import why_not
from summula.core.phrases.forms import FORMS
from summula.core.summaries import parse, print_phrase
from summula.core.theme.palettes import PALETTES, Palette
from summula.demo import company as demo_company
from summula.desk.board.pictureasking import take_picture
from summula.desk.pages.gatherpopover import GatherPopover
from summula.desk.phrase.formsheet import FormSheet
from summula.desk.theme import colour, font
from summula.desk.widgets.inkchoice import InkChoice, PalettePopover
from summula.desk.widgets.picklist import PickList
from summula.desk.widgets.popover import Popover
from summula.desk.widgets.stylepopover import StyleForm, StylePopover
from summula.desk.window import Window
from tests.hands import LEFT, margin_of, settled, shown


def opened(window: Window, group: str) -> StylePopover:
    settled()
    button = next(b for b in margin_of(window).findChildren(QPushButton) if b.accessibleName().startswith(group) and b.isVisible())
    QTest.mouseClick(button, LEFT)
    popover = window.pages.summary.popover
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

    popover = opened(on_demo, "Axis")
    end, hidden = popover.editors["scale.high"], popover.editors["scale.hidden"]
    assert isinstance(end, QLineEdit) and isinstance(hidden, QCheckBox)
    end.setText("many")
    QTest.keyClick(end, Qt.Key.Key_Return)
    assert popover.wrong.isVisible() and "no number" in popover.wrong.text() and page.summary == session.folio.summary(plain.id)
    end.setText("2,000,000")
    QTest.keyClick(end, Qt.Key.Key_Return)
    assert not popover.wrong.isVisible() and any("£2m" in text for text in page.chart.scene.texts())
    popover.close()

    popover = opened(on_demo, "Highlight")
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
    settled()
    button = next(b for b in margin_of(on_demo).findChildren(QPushButton) if b.accessibleName().startswith("Takings") and b.isVisible())
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


def at_part(window: Window, part: str, text: str = "") -> QPoint:
    """Where a part of the chart stands that is about settings."""
    scene = window.pages.summary.chart.scene
    assert scene is not None
    for mark, x, y in scene.flat():
        if isinstance(mark, Text) and mark.part == part and text in ("", mark.text):
            inside = {"left": 4, "right": -4, "centre": 0}[mark.align]
            return QPoint(int(mark.x + x) + inside, int(mark.y + y) - 4)
    raise AssertionError(part)


def drawn_over(window: Window, start: QPoint, end: QPoint) -> None:
    """The mouse pressed at one place and let go at another."""
    view = window.pages.summary.chart
    QTest.mousePress(view, LEFT, pos=start)
    for step in range(11):
        place = QPointF(start) + (QPointF(end) - QPointF(start)) * step / 10
        there = view.mapToGlobal(place)
        QApplication.sendEvent(view, QMouseEvent(QEvent.Type.MouseMove, place, there, LEFT, LEFT, Qt.KeyboardModifier.NoModifier))
    QTest.mouseRelease(view, LEFT, pos=end)


def test_settings_are_reached_by_pointing(on_demo: Window) -> None:
    months = 'month of "Sailed on"'
    page = shown(on_demo, f"show sum of Passengers by {months} across Ticket drawn as stacked columns")
    settled()
    before = page.summary
    assert before is not None

    QTest.mouseClick(page.chart, LEFT, pos=at_part(on_demo, "Axis"))
    form = next(each for each in margin_of(on_demo).findChildren(StyleForm) if each.isVisible())
    high = form.editors["scale.high"]
    assert isinstance(high, QLineEdit)
    high.setText("300000")
    QTest.keyClick(high, Qt.Key.Key_Return)
    assert any("300k" in text for text in page.chart.scene.texts()) and form.isVisible()  # type: ignore[union-attr]
    QTest.keyClick(page.chart, Qt.Key.Key_Escape)
    assert not any(each.isVisible() for each in margin_of(on_demo).findChildren(StyleForm))

    def strong() -> set[str]:
        assert page.chart.scene is not None
        return {str(m.tag.across[0][1]) for m in page.chart.scene.tagged() if isinstance(m, Box) and m.tag and m.ink.strength == 1}

    QTest.mouseClick(page.chart, LEFT, pos=at_part(on_demo, "Legend", "Single"))
    assert strong() == {"Single"}
    QTest.mouseClick(page.chart, LEFT, pos=at_part(on_demo, "Legend", "Child"))
    assert strong() == {"Single", "Child"}
    for entry in ("Single", "Child"):
        QTest.mouseClick(page.chart, LEFT, pos=at_part(on_demo, "Legend", entry))
    assert len(strong()) == 8 and page.summary.style.emphasis == before.style.emphasis  # type: ignore[union-attr]

    beside = QPoint(14, 0)
    drawn_over(on_demo, at_part(on_demo, "Members", "May") - beside, at_part(on_demo, "Members", "Aug") + beside)
    assert print_phrase(page.phrase_now()).endswith(f"where {months} is 5 or 6 or 7 or 8 drawn as stacked columns")
    QTest.mouseDClick(page.chart, LEFT, pos=at_part(on_demo, "Members", "Jun"))
    assert "by Route across Ticket" in print_phrase(page.phrase_now()) and "is 6" in print_phrase(page.phrase_now())
    on_demo.session.undo()
    on_demo.session.undo()
    assert page.phrase_now() == before.phrase

    page = shown(on_demo, 'show sum of Takings by "Sailed on" drawn as lines')
    names = [mark for mark in page.chart.scene.marks if isinstance(mark, Text) and mark.part == "Members"]  # type: ignore[union-attr]
    drawn_over(on_demo, at_part(on_demo, "Members", names[0].text), at_part(on_demo, "Members", names[1].text))
    assert re.search(r'where "Sailed on" is from 2023-\d\d-\d\d to 2023-\d\d-\d\d', print_phrase(page.phrase_now()))
    page = shown(on_demo, f"show sum of Takings by year of \"Sailed on\" then {months} drawn as columns")
    drawn_over(on_demo, QPoint(60, at_part(on_demo, "Members").y()), QPoint(page.chart.width() - 4, at_part(on_demo, "Members").y()))
    assert "where year" in print_phrase(page.phrase_now()) and "month of" not in print_phrase(page.phrase_now()).split("where")[1]


def test_forms_are_chosen_by_looking(on_demo: Window) -> None:
    page = shown(on_demo, "show sum of Takings by Vessel drawn as columns")
    button = next(each for each in page.phrase.buttons() if each.word.role == "form")
    QTest.mouseClick(button, LEFT)
    sheet = page.popover
    assert isinstance(sheet, FormSheet) and set(sheet.cards) == set(FORMS)
    for form, card in sheet.cards.items():
        assert card.why == why_not(page.phrase_now(), form) and (card.accessibleDescription() == card.why)
    for _ in range(100):
        settled()
        if all(card.scene is not None for card in sheet.cards.values() if not card.why):
            break
    assert all(card.scene is not None for card in sheet.cards.values() if not card.why)
    assert all(card.scene.tagged() for card in sheet.cards.values() if card.scene is not None)
    QTest.mouseClick(sheet.cards["stacked columns"], LEFT)  # does not fit: says so, and stays
    assert sheet.isVisible() and "across" in sheet.cards["stacked columns"].toolTip()
    sheet.cards["columns"].setFocus()
    QTest.keyClick(sheet.cards["columns"], Qt.Key.Key_Right)
    assert sheet.cards["bars"].hasFocus() and "Bars" in sheet.reason.text()
    QTest.keyClick(sheet.cards["bars"], Qt.Key.Key_Return)
    assert page.phrase_now().form == "bars" and not sheet.isVisible()
    on_demo.session.undo()
    assert page.phrase_now().form == "columns"

    more = next(each for each in page.phrase.buttons() if each.word.clause == "more")
    QTest.mouseClick(more, LEFT)
    for wanted in ("multiples", "Route"):
        popover = next(each for each in QApplication.topLevelWidgets() if isinstance(each, Popover) and each.isVisible())
        picks = popover.findChild(PickList)
        item = picks.list.item([each.value for each in picks.choices].index(wanted))  # type: ignore[union-attr]
        picks.list.scrollToItem(item)  # type: ignore[union-attr]
        QTest.mouseClick(picks.list.viewport(), LEFT, pos=picks.list.visualItemRect(item).center())  # type: ignore[union-attr]
    assert print_phrase(page.phrase_now()) == "show sum of Takings by Vessel drawn as columns for each Route"
    titles = [mark.text for mark, _, _ in page.chart.scene.flat() if isinstance(mark, Text) and mark.weight == 600]  # type: ignore[union-attr]
    assert "Aldry – Fenholm" in titles and len(titles) == 11
    each = next(each for each in page.phrase.buttons() if each.word.role == "multiples")
    QTest.mouseClick(each, LEFT)
    next(b for b in page.popover.findChildren(QPushButton) if b.text() == "Move to across").click()  # type: ignore[union-attr]
    assert print_phrase(page.phrase_now()) == "show sum of Takings by Vessel across Route drawn as columns"


def test_inks_belong_to_the_folio(on_demo: Window, tmp_path: Path) -> None:
    session = on_demo.session
    page = shown(on_demo, "show sum of Takings by Ticket drawn as ring")
    settled()

    def ink_of(member: str) -> str:
        assert page.chart.scene is not None
        marks = (m for m in page.chart.scene.tagged() if m.tag and member in (str(p[1]) for p in (*m.tag.by, *m.tag.across)))
        return next(mark.ink.token for mark in marks if not isinstance(mark, Text | Picture | Group))

    before = ink_of("Single")
    scene = page.chart.scene
    assert scene is not None
    wedge = next(mark for mark in scene.tagged() if isinstance(mark, Wedge) and mark.tag and mark.tag.by[0][1] == "Single")
    x, y = on_circle(wedge.x, wedge.y, (wedge.inner + wedge.outer) / 2, (wedge.start + wedge.stop) / 2)
    QTest.mouseClick(page.chart, LEFT, pos=QPoint(int(x), int(y)))
    choice = next(each for each in margin_of(on_demo).findChildren(InkChoice) if each.isVisible())
    assert choice.accessibleName() == "Ink of Single"
    choice.setFocus()
    for key in (Qt.Key.Key_Down, Qt.Key.Key_Right, Qt.Key.Key_Return):
        QTest.keyClick(choice, key)
    assert session.folio.inks[-1].member == "Single" and ink_of("Single") != before
    lasting = ink_of("Single")
    page = shown(on_demo, "show sum of Passengers by Vessel across Ticket drawn as stacked bars")  # the same elsewhere
    assert ink_of("Single") == lasting
    page = shown(on_demo, 'show sum of Passengers by Vessel across Ticket where Ticket is not "Day return" drawn as stacked columns')
    assert ink_of("Single") == lasting  # and when others go
    session.save(tmp_path / "inks.summula")
    assert open_folio(tmp_path / "inks.summula").folio.inks == session.folio.inks

    QTest.keyClick(page.chart, Qt.Key.Key_Escape)
    settled()
    button = next(b for b in margin_of(on_demo).findChildren(QPushButton) if b.accessibleName().startswith("Palette") and b.isVisible())
    QTest.mouseClick(button, LEFT)
    popover = page.popover
    assert isinstance(popover, PalettePopover) and list(popover.rows) == list(PALETTES)
    QTest.mouseClick(popover.rows["Harbour"], LEFT)
    assert ink_of("Child") in PALETTES["Harbour"].inks and session.folio.palette == PALETTES["Harbour"]
    paper = on_demo.grab().toImage().pixelColor(on_demo.width() // 2, on_demo.header.height() + 4).name()
    assert colour("paper").name() == PALETTES["Harbour"].paper == paper  # the whole desk changes its paper and its face
    assert font(16, 600, serif=True).families() == font(16, 600).families()
    session.undo()
    assert colour("paper").name() != paper and font(16, 600, serif=True).families() != font(16, 600).families()
    assert ink_of("Child").startswith("series")
    page.summary_margin.choose_palette(button)
    assert isinstance(page.popover, PalettePopover)
    (tmp_path / "own.json").write_text('{"inks": ["#101820", "#f2aa4c"]}')
    (tmp_path / "odd.json").write_text('{"inks": ["javascript:x"]}')
    told: list[str] = []
    session.notice.connect(lambda text, _: told.append(text))
    page.popover.take_file(tmp_path / "odd.json")
    assert "#rrggbb" in told[-1] and session.folio.palette == Palette()
    page.popover.take_file(tmp_path / "own.json")
    assert session.folio.palette.inks[:2] == ("#101820", "#f2aa4c")
    session.undo()


def test_pictures_are_kept_in_the_folio(on_demo: Window, tmp_path: Path) -> None:
    session = on_demo.session
    page = shown(on_demo, "show sum of Takings by Vessel drawn as columns")
    told: list[str] = []
    session.notice.connect(lambda text, _: told.append(text))
    (tmp_path / "odd.png").write_bytes(b"not at all")
    (tmp_path / "bomb.png").write_bytes(b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" + (60_000).to_bytes(4, "big") * 2 + b"\x08\x02\0\0\0")
    assert take_picture(session, tmp_path / "odd.png") == "" and "neither" in told[-1]
    assert take_picture(session, tmp_path / "bomb.png") == "" and "60,000" in told[-1]
    assert take_picture(session, tmp_path / "gone.png") == "" and "cannot be read" in told[-1]
    sea = tmp_path / "boat.png"
    sea.write_bytes((Path(demo_company.__file__).parent / "sea.png").read_bytes() + b" ")
    key = take_picture(session, sea)
    assert key and take_picture(session, sea) == key and len(session.folio.pictures) == 2  # kept once
    popover = opened(on_demo, "Picture")
    choice = popover.editors["picture.id"]
    assert isinstance(choice, QComboBox) and [choice.itemText(at) for at in range(choice.count())] == ["none", "The sea", "boat", "From a file …"]
    choice.activated.emit(2)
    scene = page.chart.scene
    assert scene is not None and page.summary is not None and page.summary.style.picture.id == key
    pieces = [mark for mark in scene.marks if isinstance(mark, Group)]
    whole = {(mark.x + mark.marks[1].x, mark.y + mark.marks[1].y) for mark in pieces if isinstance(mark.marks[1], Picture)}
    columns = {mark.x: (mark.width, mark.height) for mark in scene.tagged() if isinstance(mark, Box)}
    assert len(pieces) == 9 and {mark.clip for mark in pieces} == set(columns.values())
    assert all(left == pytest.approx(next(iter(whole))[0]) for left, _ in whole)  # all cut out of one picture
    popover.close()
    svg = svg_text(scene, "Takings")
    assert svg.count("data:image/png") == 1 and svg.count("<use") == 9  # its bytes stand once
    session.save(tmp_path / "sea.summula")
    again = open_folio(tmp_path / "sea.summula")
    assert again.problems == () and again.folio.pictures == session.folio.pictures
    session.undo()
    session.undo()
    assert len(session.folio.pictures) == 1


def test_figures_and_styles_go_to_and_fro(on_demo: Window) -> None:
    session = on_demo.session
    page = shown(on_demo, "show sum of Takings by Vessel across Ticket drawn as stacked columns")
    phrase = page.phrase_now()
    QTest.keyClick(on_demo, Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
    assert page.stack.currentWidget() is page.pivot and page.pivot.layout_ is not None and page.phrase_now() == phrase
    assert page.tools["figures"].text() == "Chart"
    QTest.mouseClick(page.tools["figures"], LEFT)
    assert page.stack.currentWidget() is page.sheet and page.chart.scene is not None and page.chart.scene.tagged()

    assert page.summary is not None
    styled = with_value(with_value(page.summary.style, "legend.place", "right"), "words.note", "Made up")
    session.edit(with_summary(session.folio, replace(page.summary, style=styled)), "Style")
    on_demo.actions_.run("copy style")
    page = shown(on_demo, "show sum of Takings by Route drawn as bars")
    on_demo.actions_.run("paste style")
    assert page.summary is not None and page.summary.style == styled
    on_demo.actions_.run("default style")
    session.new_summary("t1")
    assert page.summary.style == with_value(styled, "words.note", "") == session.folio.style  # words are its own
    session.undo()
    session.undo()
    assert session.folio.style == PLAIN_STYLE
    page = shown(on_demo, "show sum of Takings by Route drawn as bars")
    on_demo.actions_.run("plain style")
    assert page.summary is not None and page.summary.style == PLAIN_STYLE
    shown(on_demo, 'show each row of "Delay (min)" drawn as histogram')
    assert not page.can_swap_figures and not page.tools["figures"].isVisible()  # values that no grid holds
    on_demo.actions_.run("choose form")
    assert isinstance(page.popover, FormSheet)


def test_a_chart_follows_what_is_typed(on_demo: Window) -> None:
    page = shown(on_demo, "show sum of Takings by Vessel drawn as columns")
    before = page.summary
    popover = opened(on_demo, "Axis")
    high = popover.editors["scale.high"]
    assert isinstance(high, QLineEdit)
    high.setFocus()
    ends = []
    for letter in "4000000":
        QTest.keyClicks(high, letter)
        assert page.summary is not None and page.chart.scene is not None
        ends.append(page.chart.scene.reach[0][1])
    assert ends[-1] == 4_000_000 and ends[-2] == 400_000 and popover.isVisible()  # each letter is seen at once
    popover.close()
    on_demo.session.undo()
    assert page.summary == before  # and all of them undone at once
    popover = opened(on_demo, "Titles")
    title = popover.editors["words.title"]
    assert isinstance(title, QLineEdit)
    QTest.keyClicks(title, "At sea")
    assert "At sea" in page.chart.scene.texts()  # type: ignore[union-attr]


def test_the_margin_may_show_something_else_meanwhile(on_demo: Window) -> None:
    """A lever's row and a part's settings go with the margin's blocks: what comes next asks nothing of them."""
    session, page = on_demo.session, on_demo.pages.summary
    session.turn_to("s43")  # has a lever
    settled()
    assert page.summary_margin.levers
    QTest.mouseClick(page.chart, LEFT, pos=at_part(on_demo, "Axis"))
    settled()
    session.turn_to("s40")
    session.turn_to("s43")
    settled()
    QTest.mouseClick(page.chart, LEFT, pos=at_part(on_demo, "Axis"))
    on_demo.margin.show_blocks(["Something else"], "something else")
    settled()
    session.undo()
    assert page.grid is not None
    page.summary_margin.show(page.grid)
    assert any(each.isVisible() for each in margin_of(on_demo).findChildren(StyleForm))
    page.summary_margin.point_at(None)
    on_demo.margin.show_blocks(["Something else"], "something else")
    settled()
    page.summary_margin.show(page.grid)
    margin_of(on_demo)
    assert page.summary_margin.levers and page.summary_margin.levers[0].isVisible()


def test_slices_are_gathered_in_the_margin(on_demo: Window) -> None:
    page = shown(on_demo, "show sum of Takings by Route drawn as ring")
    button = next(b for b in margin_of(on_demo).findChildren(QPushButton) if b.accessibleName().startswith("Maximum slices"))
    assert "no maximum" in button.accessibleName()
    QTest.mouseClick(button, LEFT)
    popover = page.popover
    assert isinstance(popover, GatherPopover) and popover.number.value() == 6
    popover.number.setFocus()
    QTest.keyClick(popover.number, Qt.Key.Key_Down)
    assert print_phrase(page.phrase_now()).endswith("keeping top 5 Route by sum of Takings gathering the rest drawn as ring")
    assert page.chart.scene is not None and len({str(mark.tag.by) for mark in page.chart.scene.tagged() if mark.tag}) == 6
    popover.close()
    page.summary_margin.gather(page.toolbar)
    assert isinstance(page.popover, GatherPopover)
    QTest.mouseClick(page.popover.all, LEFT)
    assert "keeping" not in print_phrase(page.phrase_now())
    on_demo.session.undo()
    assert "keeping top 5 Route" in print_phrase(page.phrase_now())
    page.summary_margin.gather(page.toolbar)  # and its phrase becomes another while it stands open
    assert isinstance(page.popover, GatherPopover)
    page.say(parse("show sum of Takings drawn as key figure", on_demo.session.vocabulary("t1")), "Another")
    page.popover.number.stepUp()
    assert "no heading" in on_demo.status.selection.text()
