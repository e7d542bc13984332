"""Figures as a person wants them written: patterns, scales, marks and bars, kept with the summary."""

from __future__ import annotations

import re
from decimal import ROUND_HALF_UP, Decimal
from pathlib import Path

import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from summula.core.fields.figures import FigureStyle, in_places, several
from summula.core.folio.file import open_folio
from summula.core.grids.measurestyle import (
    MeasureSetting,
    MeasureStyle,
    measure_styles,
    reach_of,
    status,
    styled,
    with_style,
)
from summula.core.handout.workbook import sheet_pattern
from summula.core.reading.readers import table_from_frame
from summula.core.summaries import Vocabulary, answer, parse
from summula.desk.pages.figurestylepopover import FigureStylePopover
from summula.desk.theme import colour
from summula.desk.window import Window
from tests.hands import LEFT, margin_of, settled, shown


@pytest.mark.parametrize(
    ("own", "value", "written"),
    [
        (MeasureStyle(), 1234.5, "1,235"), (MeasureStyle("#,##0.00"), -1234.5, "−1,234.50"), (MeasureStyle(scale="thousand"), 1234567, "1,235"),
        (MeasureStyle("#,##0.0", "million"), -2_340_000, "−2.3"), (MeasureStyle("+#,##0;−#,##0;level"), 5, "+5"),
        (MeasureStyle("+#,##0;−#,##0;level"), -5, "−5"), (MeasureStyle("+#,##0;−#,##0;level"), 0, "level"), (MeasureStyle("#,##0;(#,##0);–"), -1234, "(1,234)"),
        (MeasureStyle("0.0%"), 0.1234, "12.3%"), (MeasureStyle("#,##0.###"), 0.5, "0.5"), (MeasureStyle("00000"), 42, "00042"), (MeasureStyle("#,##0"), float("nan"), "–"),
        (MeasureStyle("0%"), 0.285, "29%"), (MeasureStyle("#,##0.0#"), 1.125, "1.13"), (MeasureStyle("+0.0;−0.0;level"), -2.25, "−2.3"),
    ],
)  # fmt: skip
def test_a_figure_under_a_pattern(own: MeasureStyle, value: float, written: str) -> None:
    assert styled(FigureStyle("#,##0", "£"), own).text(value) == written


@settings(max_examples=400)
@given(st.floats(1e-12, 1e18), st.sampled_from([2, 3]))
def test_figures_in_few_signs_say_their_size(value: float, digits: int) -> None:
    """However small or large: to two significant digits at least, never a nought for what is something."""
    text = FigureStyle().short(-value, digits=digits)
    _, figure, letters = re.fullmatch(r"(\N{MINUS SIGN})([\d,.]+(?:e\N{MINUS SIGN}?\d+)?)(k|m|bn|tn|)", text).groups()  # type: ignore[union-attr]
    size = float(figure.replace(",", "").replace("\N{MINUS SIGN}", "-")) * {"": 1, "k": 1e3, "m": 1e6, "bn": 1e9, "tn": 1e12}[letters]
    assert size == pytest.approx(value, rel=0.051) and len(text) <= 10
    assert float(FigureStyle().tick(1.0, digits)) == 1.0


@pytest.mark.parametrize(
    ("values", "asked", "written"),
    [
        ([0.0000012, 0.0000034, 0.0000051], "sum", "0.0000097"), ([0.0000012, 0.0000034, 0.0000051], "mean", "0.0000032"),
        ([0.123456789, 1 / 3, 2.5], "max", "2.50"), ([0.123456789, 1 / 3, 2.5], "sum", "2.96"), ([1e9 / 7, 1e9 / 3], "sum", "476,190,476"),
        (["36%", "45%", "50.5%"], "mean", "43.8%"), (["36%", "45%", "50.5%"], "median", "45.0%"), (["3%", "4%"], "max", "4%"), (["3%", "4%"], "mean", "3.5%"),
        ([3, 4, 8], "sum", "15"), ([3, 4, 8], "mean", "5.00"), ([0.010, 0.014], "mean", "0.012"),
    ],
)  # fmt: skip
def test_figures_are_written_as_their_values_are(values: list[float | str], asked: str, written: str) -> None:
    """Also of numbers that are held with all their places, and of percents, whose means are percents."""
    table = table_from_frame("Crossings", pl.DataFrame({"Dose used": values}))
    grid = answer(parse(f'show {asked} of "Dose used"', Vocabulary(table)), table)
    assert grid.styles[0].text(float(grid.values[grid.finest][0, 0, 0])) == written


@pytest.mark.parametrize(
    ("asked", "written"),
    [
        ("sum of Paid", "−11.25"), ("min of Paid", "−12.25"), ("range of Paid", "13.25"), ("mean of Paid", "−5.63"), ("sum of Paid - sum of Late", "−18.25"),
        ("(sum of Paid - 10) * 2", "−42.50"), ("sum of Late - rows", "5"), ("sum of Late / rows", "3.50"), ("sum of Dose", "2.500"), ("sum of Dose * 0.001", "0.00250"),
    ],
)  # fmt: skip
def test_figures_have_the_decimals_of_their_values(asked: str, written: str) -> None:
    frame = pl.DataFrame({"Paid": ["-12.25", "1.00"], "Late": [3, 4], "Dose": ["0.12345", "2.37655"]})
    table = table_from_frame("Crossings", frame)
    grid = answer(parse(f"show {asked}", Vocabulary(table)), table)
    assert grid.styles[0].text(grid.bottom_line()) == written


@settings(max_examples=400)
@given(st.integers(0, 10**9), st.integers(0, 6), st.integers(0, 5), st.booleans())
def test_what_lies_between_two_figures_goes_up(units: int, decimals: int, places: int, hundredfold: bool) -> None:
    """As it is written, not as the machine holds it: 1.005 is 1.01."""
    exact = Decimal(units).scaleb(-decimals)
    rounded = (exact * (100 if hundredfold else 1)).quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)
    assert in_places(float(exact), places, hundredfold=hundredfold) == f"{rounded:,f}"


def test_more_than_one() -> None:
    words = "route day category class status sales branch basis SKU"
    assert list(map(several, words.split())) == ["routes", "days", "categories", "classes", "statuses", "sales", "branches", "bases", "SKUs"]


def test_units_and_places() -> None:
    style = styled(FigureStyle("#,##0", "£"), MeasureStyle("€#,##0.00"))
    assert style.text(3, unit=True) == "€3.00" and styled(style, MeasureStyle()).unit == "€"
    rows = parse("show rows").measures[0]
    settings = with_style((), rows, MeasureStyle(signs=True))
    assert settings == (MeasureSetting(rows, MeasureStyle(signs=True)),) and with_style(settings, rows, MeasureStyle()) == ()


@pytest.mark.parametrize(
    ("own", "value", "standing"),
    [
        (MeasureStyle(goal=100), 100, "reached"), (MeasureStyle(goal=100), 90, "near"), (MeasureStyle(goal=100), 89.9, "missed"), (MeasureStyle(), 5, ""),
        (MeasureStyle(goal=100, under=True), 100, "reached"), (MeasureStyle(goal=100, under=True), 111, "near"), (MeasureStyle(goal=100, under=True), 112, "missed"),
        (MeasureStyle(goal=-10), -10.5, "near"), (MeasureStyle(goal=0), -1, "missed"), (MeasureStyle(goal=1), float("nan"), ""),
    ],
)  # fmt: skip
def test_how_a_figure_stands_to_its_goal(own: MeasureStyle, value: float, standing: str) -> None:
    assert status(own, value) == standing


@pytest.mark.parametrize(
    ("own", "pattern"),
    [(MeasureStyle(), '"£"#,##0'), (MeasureStyle("#,##0.0", "thousand"), '"£"#,##0.0,'), (MeasureStyle("0.0%"), "0.0%"), (MeasureStyle("+0;-0;level"), '"£"+0;"£"-0;"level"')],
)  # fmt: skip
def test_a_sheet_writes_figures_as_the_grid_does(own: MeasureStyle, pattern: str) -> None:
    assert sheet_pattern(styled(FigureStyle("#,##0", "£"), own)) == pattern


def test_dresses_show_at_once_and_stay_with_the_summary(on_demo: Window, tmp_path: Path) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to("s5")
    page = window.pages.summary
    text = 'show sum of Takings - sum of "Running cost" called Net by month of "Sailed on"'
    session.set_phrase(page.summary, parse(text, Vocabulary(session.table("t1"))), "as a grid")  # type: ignore[arg-type]
    settled()
    button = next(b for b in margin_of(window).findChildren(QPushButton) if b.accessibleName().startswith("Net") and b.isVisible())
    QTest.mouseClick(button, LEFT)
    popover = page.popover
    assert isinstance(popover, FigureStylePopover) and "£" in popover.example.text()
    layout = page.pivot.layout_
    assert layout is not None
    plain = layout.text(6, 0)
    popover.scale.setCurrentIndex(1)
    popover.scale.activated.emit(1)
    layout = page.pivot.layout_
    assert layout is not None and layout.names == ["Net (£ thousand)"] and layout.text(6, 0) != plain
    popover.line.setText("no figures")
    QTest.keyClick(popover.line, Qt.Key.Key_Return)
    popover.line.setText("#,##0.00")
    QTest.keyClick(popover.line, Qt.Key.Key_Return)
    popover.signs.click()
    popover.fill.activated.emit(1)
    assert popover.isVisible()  # it stays, so that one can try
    popover.close()
    summary = session.folio.summary("s5")
    assert measure_styles(summary.measures, summary.phrase) == (MeasureStyle("#,##0.00", "thousand", True, "bars"),)
    assert page.grid is not None and reach_of(page.grid, 0)[0] < 0 < reach_of(page.grid, 0)[1]
    QApplication.processEvents()
    viewport = page.pivot.viewport()
    assert viewport is not None
    picture = viewport.grab().toImage()
    july = page.pivot.cell_rect(6, 0)
    inks = {picture.pixelColor(int(july.x() + at), int(july.center().y())).name() for at in range(4, int(july.width()) - 4)}
    assert colour("gain").name() in inks or colour("shape", 0.42, "sheet").name() in inks
    session.save(tmp_path / "d.summula")
    assert open_folio(tmp_path / "d.summula").folio.summary("s5").measures == summary.measures
    for _ in range(4):
        session.undo()
    assert session.folio.summary("s5").measures == ()


def test_the_figure_against_has_a_pattern_of_its_own(on_demo: Window) -> None:
    page = shown(on_demo, "show sum of Takings against sum of Passengers by Vessel")
    settled()
    buttons = [b for b in margin_of(on_demo).findChildren(QPushButton) if b.accessibleName().startswith("Passengers")]
    QTest.mouseClick(buttons[0], LEFT)
    popover = page.popover
    assert isinstance(popover, FigureStylePopover)
    popover.scale.setCurrentIndex(1)
    popover.scale.activated.emit(1)
    popover.close()
    assert page.pivot.layout_ is not None and page.pivot.layout_.names == ["Takings (£)", "Passengers (thousand)"]
    assert page.summary is not None
    more = "show sum of Takings and rows against sum of Passengers by Vessel"
    page.say(parse(more, on_demo.session.vocabulary("t1")), "one more figure")
    assert measure_styles(page.summary.measures, page.summary.phrase) == (MeasureStyle(), MeasureStyle(), MeasureStyle(scale="thousand"))  # it went along
