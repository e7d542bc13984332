"""Second looks at an answer: each where it belongs, and only there; its remedy does what it says."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

import msgspec
import polars as pl
import pytest
from msgspec.structs import replace
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from summula.core.boards.board import SummaryPanel
from summula.core.charts.chart import SummaryLook, chart_of
from summula.core.charts.settings import with_value
from summula.core.charts.style import PLAIN_STYLE, ChartStyle
from summula.core.fields.heading import encode_heading
from summula.core.folio.model import with_summary
from summula.core.folio.opened import Opened
from summula.core.language.starting import starting_points
from summula.core.phrases.members import with_members
from summula.core.phrases.phrase import Phrase
from summula.core.reading.readers import table_from_frame
from summula.core.secondlook.charts import STYLE_REMEDIES, chart_looks
from summula.core.secondlook.remedies import mended
from summula.core.secondlook.summaries import summary_looks
from summula.core.slicing.slicer import ListSlicer
from summula.core.summaries import Vocabulary, answer, parse, print_phrase
from summula.core.tables.periodnumbers import period_unit
from summula.desk.grid.rowsview import head_words
from summula.desk.window import Window
from tests.hands import margin_of, settled, take_in
from tests.test_preparing import click


@pytest.mark.parametrize(
    ("text", "edit_name", "notice", "after"),
    [
        ('show sum of Takings by month of "Sailed on" across year of "Sailed on"', "same days", "holds 315 of 365 days",
         'show sum of Takings by month of "Sailed on" across year of "Sailed on" where month-day of "Sailed on" is at most "11-11"'),
        ('show rows by year-half of "Sailed on"', "without last period", "H2 2025 is part-way",
         'show rows by year-half of "Sailed on" where year-half of "Sailed on" is not 2025-H2'),
        ('show rows by year-quarter of "Sailed on"', "same days", "holds 42 of 92 days",
         'show rows by year-quarter of "Sailed on" where quarter-day of "Sailed on" is at most 42'),
        ('show rows by year-month of "Sailed on" where year of "Sailed on" is 2025', "same days", "Nov 2025 is part-way",
         'show rows by year-month of "Sailed on" where year of "Sailed on" is 2025 and day of "Sailed on" is at most 11'),
        ("show rows by Route keeping top 2 Route by rows", "gather", "only the members kept", "show rows by Route keeping top 2 Route by rows gathering the rest"),
        ('show mean of "Delay (min)" by Weather', "median", "pull the mean", 'show median of "Delay (min)" by Weather'),
        ('show sum of Takings - sum of "Running cost" as share of all by month of "Sailed on"', "no shares", "both signs",
         'show sum of Takings - sum of "Running cost" by month of "Sailed on"'),
        ('show median of Takings by "Sailed on" across Ticket', "rows", "fewer than 5 rows", 'show median of Takings and rows by "Sailed on" across Ticket'),
        ("show rows by Route where Ticket is Single and Ticket is Child", "without second condition", "contradict", "show rows by Route where Ticket is Single"),
    ],
)  # fmt: skip
def test_a_second_look_and_its_remedy(text: str, edit_name: str, notice: str, after: str, demo: Opened) -> None:
    table = demo.tables["t1"]
    phrase = parse(text, Vocabulary(table))
    grid = answer(phrase, table)
    looks = {look.edit_name: look for look in summary_looks(phrase, table, grid)}
    assert notice in f"{looks[edit_name].title} {looks[edit_name].text}" and looks[edit_name].remedy
    changed = mended(edit_name, phrase, table, grid)
    assert print_phrase(changed) == after
    again = summary_looks(changed, table, answer(changed, table))
    assert edit_name not in {look.edit_name for look in again}


def test_months_and_weekdays_are_put_in_order_by_a_click(window: Window) -> None:
    days = ["Mon", "Tue", "Wed", "Thu", "Fri"]
    frame = pl.DataFrame({"Month": ["Jan", "Feb", "Mar", "Apr", "May"] * 4, "Day": [*days, *reversed(days)] * 2, "Fee": range(20)})
    window.session.take_table(table_from_frame("Fees", frame))
    table, session = window.session.table("t1"), window.session
    summary = session.new_summary("t1", parse("show sum of Fee by Month across Day", Vocabulary(table)))
    looks = [label.text() for label in margin_of(window).findChildren(QLabel)]
    assert any("Apr comes before Feb" in each for each in looks), looks
    click(margin_of(window), "Sort them as in the year")
    phrase = session.folio.summary(summary.id).phrase
    assert print_phrase(phrase) == 'show sum of Fee by "Month" across "Day" ordered "Month" as Jan, Feb, Mar, Apr, May'
    assert window.pages.summary.grid is not None and window.pages.summary.grid.rows.path(1, 0) == ("Jan",)
    for text in ("show rows by Day ordered by rows, largest first", "show rows by Day ordered Day backwards", "show sum of Fee"):
        asked = parse(text, Vocabulary(table))
        assert "calendar order" not in {look.edit_name for look in summary_looks(asked, table, answer(asked, table))}


@pytest.mark.parametrize("text", ["show sum of Takings by Route", "show rows by Route across Weather", "show mean of Takings by Route"])
def test_what_is_in_order_gets_no_second_look(text: str, demo: Opened) -> None:
    table = demo.tables["t1"]
    phrase = parse(text, Vocabulary(table))
    assert not [look for look in summary_looks(phrase, table, answer(phrase, table)) if look.edit_name]


def test_a_remedy_is_one_click_away(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to("s4")
    click(margin_of(window), "Compare the same days")
    assert 'month-day of "Sailed on" is at most "11-11"' in print_phrase(session.folio.summary("s4").phrase)
    session.undo()
    assert "month-day" not in print_phrase(session.folio.summary("s4").phrase)


def test_late_beginnings_and_summed_codes() -> None:
    """A first year that begins in August; numbers of one length that hardly come twice."""
    days = pl.date_range(dt.date(2023, 8, 5), dt.date(2025, 12, 31), eager=True)
    frame = pl.DataFrame({"On": days, "Docket": range(50_000, 50_000 + len(days)), "Paid": [n % 7 for n in range(len(days))]})
    table = table_from_frame("T", frame, {"Docket": "number", "Paid": "number"})
    words = Vocabulary(table)
    phrase = parse("show sum of Docket and sum of Paid by year of On", words)
    looks = {look.edit_name: look for look in summary_looks(phrase, table, answer(phrase, table))}
    assert set(looks) == {"without first period", "count codes"}
    assert "149 of 365 days" in looks["without first period"].text
    grid = answer(phrase, table)
    assert print_phrase(mended("without first period", phrase, table, grid)).endswith("where year of On is not 2023")
    assert "distinct count of Docket and sum of Paid" in print_phrase(mended("count codes", phrase, table, grid))
    whole = parse("show rows by month of On", words)
    assert not summary_looks(whole, table, answer(whole, table))
    monthly = table_from_frame("M", pl.DataFrame({"On": [dt.date(2024, m, 1) for m in range(1, 13)], "n": range(12)}))
    by_year = parse("show n by year of On")
    assert not summary_looks(by_year, monthly, answer(by_year, monthly))  # each date stands for its month


def test_what_is_averaged_hardly_adds_up() -> None:
    frame = pl.DataFrame({"Route": ["Osk", "Tern"] * 30, "Highest temperature": [n / 4 + 0.1 for n in range(60)], "Takings": [float(n) for n in range(60)]})
    table = table_from_frame("T", frame)
    assert [field.total for field in table.fields] == ["sum", "mean", "sum"]
    words = Vocabulary(table)
    phrase = parse('show sum of "Highest temperature" and sum of Takings by Route', words)
    grid = answer(phrase, table)
    look = next(each for each in summary_looks(phrase, table, grid) if each.edit_name == "mean")
    assert "should not be summed" in look.title
    assert print_phrase(mended("mean", phrase, table, grid)) == 'show mean of "Highest temperature" and sum of Takings by Route'
    assert not any("sum of" in print_phrase(point.phrase) and "temperature" in print_phrase(point.phrase).split(" by ")[0].replace("sum of Takings", "") for point in starting_points(table))


def test_years_are_no_figures_to_total(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    """Told by the name, or by what the numbers are; the remedies group by them, or make them codes."""
    years = [2019 + n % 5 for n in range(60)]
    frame = pl.DataFrame({"Built": years, "Berths": [1900 + n for n in range(60)], "Fee": [2000.5] * 60, "Season year": [2024] * 60, "Paid": range(60)})
    table = table_from_frame("T", frame, dict.fromkeys(frame.columns, "number"))
    assert [name for name in frame.columns if period_unit(table, name)] == ["Built", "Season year"]
    assert period_unit(table_from_frame("T", frame.head(2), {"Season year": "number"}), "Season year") == "years"
    assert not period_unit(table_from_frame("T", frame.head(2), {"Built": "number"}), "Built")
    assert not any("of Built" in print_phrase(point.phrase) or "Season year" in print_phrase(point.phrase) for point in starting_points(table))
    words = Vocabulary(table)
    for text, mended_text in {
        "show sum of Built": "show rows by Built",
        "show sum of Built and sum of Paid by Built ordered by sum of Built, largest first": "show rows and sum of Paid by Built",
        "show rows and sum of Built and sum of Built as share of all": "show rows by Built",
        'show sum of "Season year" - sum of Built by Fee': 'show rows by "Season year" then Built then Fee',
    }.items():
        phrase = parse(text, words)
        grid = answer(phrase, table)
        looks = {look.edit_name: look for look in summary_looks(phrase, table, grid)}
        assert "holds years" in looks["by years"].title
        assert print_phrase(mended("by years", phrase, table, grid)) == print_phrase(parse(mended_text, words))
    mean = parse("show mean of Built and sum of Paid", words)
    assert not [look for look in summary_looks(mean, table, answer(mean, table)) if look.edit_name == "by years"]

    frame.write_csv(tmp_path / "boats.csv")
    take_in(window, qtbot, tmp_path / "boats.csv")
    qtbot.waitUntil(lambda: len(window.session.folio.tables) == 1, timeout=20_000)
    built = window.session.table("t1")
    assert [built.field(name).pattern for name in ("Built", "Fee")] == ["0", ""]
    assert head_words(built, 0) == "2019 – 2023 · median 2021"  # no thousands marks in years
    asked = answer(parse("show median of Built and max of Built and median of Fee", Vocabulary(built)), built)
    assert [style.text(1994) for style in asked.styles] == ["1994", "1994", "1,994"]
    window.pages.table.choose_field("Built")
    click(margin_of(window), "Change to code")
    qtbot.waitUntil(lambda: window.session.table("t1").field("Built").kind == "code", timeout=10_000)
    window.session.undo()
    assert window.session.table("t1").field("Built").kind == "number"


def test_codes_are_compared_with_numbers_by_their_digits() -> None:
    frame = pl.DataFrame({"No": ["007", "8", "010", "A1", None], "n": [1, 2, 4, 8, 16]})
    table = table_from_frame("T", frame, {"No": "code"})
    words = Vocabulary(table)
    for text, expected in {"is at least 8": 6, "is over 8": 4, "is from 7 to 9": 3, "is under 10": 3, "is at most 10": 7, 'is from "007" to "010"': 5}.items():
        assert answer(parse(f"show sum of n where No {text}", words), table).bottom_line() == expected, text


def test_a_slicer_at_odds_with_a_condition_is_told_in_the_panel(on_demo: Window) -> None:
    session = on_demo.session
    board = session.folio.boards[0]
    panel = next(each for each in board.panels if isinstance(each, SummaryPanel))
    summary = session.folio.summary(panel.summary)
    heading = next(s.heading for s in board.slicers if isinstance(s, ListSlicer))
    one, other = encode_heading(session.table(summary.table), heading).members[:2]
    asked = with_members(summary.phrase, heading, [one], only=True)
    assert asked is not None
    session.set_phrase(summary, asked, "a condition")
    sliced = tuple(
        msgspec.structs.replace(each, chosen=(str(other),)) if getattr(each, "heading", None) == heading else each
        for each in board.slicers
    )
    session.set_board(msgspec.structs.replace(board, slicers=sliced), "slice")
    board = session.folio.boards[0]
    notice = session.reckoning(board).panel(board, panel)
    assert str(one) in notice.refusal and heading.field in notice.refusal and "slicer" in notice.refusal
    both = tuple(
        msgspec.structs.replace(each, chosen=(str(one), str(other))) if getattr(each, "heading", None) == heading else each
        for each in board.slicers
    )
    session.set_board(msgspec.structs.replace(board, slicers=both), "slice")
    shown = session.reckoning(session.folio.boards[0]).panel(session.folio.boards[0], panel)
    assert shown.chart is not None and not shown.refusal  # something is left; what is not is told at its foot
    assert f"{other} of the slicer excluded" in shown.chart.style.words.note


M = 'month of "Sailed on"'
CHARTS = (  # a phrase, what is set, the remedy, a notice, and the phrase after it (the same where the style is mended)
    ("show sum of Takings by Route drawn as pie", {}, "gather slices", "11 slices",
     "show sum of Takings by Route keeping top 5 Route by sum of Takings gathering the rest drawn as pie"),
    ('show rows by weekday of "Sailed on" drawn as ring', {}, "draw bars", "nearly equal", 'show rows by weekday of "Sailed on" drawn as bars'),
    (f"show sum of Takings by {M} across Route drawn as stacked columns", {}, "fewer inks", "11 inks",
     f"show sum of Takings by {M} across Route keeping top 5 Route by sum of Takings gathering the rest drawn as stacked columns"),
    (f"show sum of Takings by {M} drawn as columns", {"scale.low": 100_000.0}, "scale from nothing", "cut here", ""),
    (f"show sum of Takings and rows by {M} drawn as columns and lines", {}, "tie scales", "two axes", ""),
    (f"show sum of Takings by {M} drawn as columns", {"trend.kind": "line"}, "no trend", "R²", ""),
    ("show sum of Takings by Route drawn as lines", {}, "draw columns", "no order", "show sum of Takings by Route drawn as columns"),
)  # fmt: skip


@pytest.mark.parametrize(("text", "said", "edit_name", "notice", "after"), CHARTS)
def test_a_second_look_at_a_chart(text: str, said: dict[str, object], edit_name: str, notice: str, after: str, demo: Opened) -> None:
    table = demo.tables["t1"]
    phrase, style = parse(text, Vocabulary(table)), PLAIN_STYLE
    for key, value in said.items():
        style = with_value(style, key, value)  # type: ignore[arg-type]

    def looks(phrase: Phrase, style: ChartStyle) -> dict[str, str]:
        chart = chart_of(answer(phrase, table), table, SummaryLook(style=style))
        return {look.edit_name: f"{look.title} {look.text}" for look in chart_looks(chart, table)}

    assert notice in looks(phrase, style)[edit_name]
    if edit_name in STYLE_REMEDIES:
        style = STYLE_REMEDIES[edit_name](style)
    else:
        phrase = mended(edit_name, phrase, table, answer(phrase, table))
        assert print_phrase(phrase) == after
    assert edit_name not in looks(phrase, style)
    assert not looks(parse(f"show sum of Takings by {M} drawn as columns", Vocabulary(table)), PLAIN_STYLE)


def test_a_style_is_mended_by_a_click(on_demo: Window) -> None:
    session = on_demo.session
    session.turn_to("s46")
    summary = session.folio.summary("s46")
    session.edit(with_summary(session.folio, replace(summary, style=with_value(summary.style, "trend.kind", "line"))), "Trend")
    settled()
    click(margin_of(on_demo), "Remove the trend line")
    assert session.folio.summary("s46").style == summary.style


@pytest.mark.parametrize(
    ("measures", "expected"),
    [("rows", ""), ("count of Fee and rows", ""), ("sum of Fee", "One figure has"), ("sum of Fee and mean of Fee and rows", "2 figures have")],
)
@pytest.mark.parametrize("form", ["grid", "heat grid"])
def test_figures_without_rows_are_told_where_they_are_blank(measures: str, expected: str, form: str) -> None:
    """A count of no rows is 0, and is shown so."""
    table = table_from_frame("Fees", pl.DataFrame({"Boat": ["Tern", "Tern", "Auk"], "Pier": ["N", "S", "N"], "Fee": [1, 2, 3]}))
    phrase = parse(f"show {measures} by Boat across Pier drawn as {form}", Vocabulary(table))
    told = [look.title for look in summary_looks(phrase, table, answer(phrase, table)) if "no rows" in look.title]
    assert told == ([f"{expected} no rows."] if expected else [])
