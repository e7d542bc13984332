"""Words with live figures: on a chart, on a board under its slicers, and what cannot be answered."""

from __future__ import annotations

import polars as pl
import pytest
from msgspec.structs import replace

from summula.core.boards.board import Place, SummaryPanel
from summula.core.boards.livefigures import LiveRows, said
from summula.core.boards.reckoning import Reckoning
from summula.core.charts.settings import with_value
from summula.core.charts.style import PLAIN_STYLE
from summula.core.folio.opened import Opened
from summula.core.phrases.lever import LeverSetting
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.summaries import Vocabulary, parse
from summula.demo.company import sailings
from summula.desk.window import Window
from tests.hands import shown

ROWS = sailings()
MONEY = ROWS["Takings"].cast(float)


def rows_of(demo: Opened, where: str = "") -> LiveRows:
    table = demo.tables["t1"]
    phrase = parse(f"show rows {where}", Vocabulary(table))
    return LiveRows(table, where=phrase.where, levers=(LeverSetting("Fare change", 1.05, 0.5, 2.0, 0.05, "0.00"),), read_at="11 Nov 2025")


def test_words_are_answered(demo: Opened) -> None:
    by_vessel = ROWS.group_by("Vessel").agg(pl.col("Takings").cast(float).sum()).sort("Takings", descending=True)
    share = by_vessel["Takings"][:4].sum() / MONEY.sum()
    single = ROWS.filter(pl.col("Ticket") == "Single")
    for text, exact in (
        ("The busiest {4} carry {sum of Takings keeping top 4 Vessel by sum of Takings as share of everything}.", f"The busiest 4 carry {share * 100:.1f}%."),
        ("{sum of Takings}", f"£{MONEY.sum():,.0f}"),
        ('{sum of Takings where Ticket is Single shown as "0.0"}', f"£{single['Takings'].cast(float).sum():.1f}"),
        ("{names: top 2 Vessel by sum of Takings}", " and ".join(by_vessel["Vessel"][:2])),
        ("{names: top 3 Vessel by sum of Takings}", "{}, {} and {}".format(*by_vessel["Vessel"][:3])),
        ("{rows} rows, {Rows}", f"{ROWS.height:,} rows, {ROWS.height:,}"),
        ("{period}", "Jan 2023 – Nov 2025"), ("{Route}", "all routes"), ('{lever "Fare change"}', "1.05"), ("{read at}", "11 Nov 2025"),
        ("{{not this}} }} but {rows}", f"{{not this}} }} but {ROWS.height:,}"), ("no braces", "no braces"), ("{", "{"), ("}", "}"),
    ):  # fmt: skip
        assert said(text, rows_of(demo)) == exact, text
    assert said("{rows}", rows_of(demo, "where Ticket is Single")) == f"{single.height:,}"
    for text, why in (
        ("{sum of Taking}", "no field 'Taking'"), ("{sum of Takings by Vessel}", "one figure"), ("{}", ""), ("{show rows}", "["),
        ('{lever "Gone"}', "no lever"), ("{names: Vessel}", "["), ('{sum of Takings shown as "x{"}', "{"), ("{each row of Takings}", "many values"),
        ("{__import__('os')}", "["),
    ):  # fmt: skip
        assert why in said(f"before {text} after", rows_of(demo)) and said(f"before {text} after", rows_of(demo)).startswith("before "), text
    many = said("{rows}" * 40, rows_of(demo))
    assert many.count("24,285") == 24  # no text is a thousand questions


def test_on_a_board_they_follow_the_slicers(demo: Opened) -> None:
    board = demo.folio.boards[0]
    style = with_value(PLAIN_STYLE, "words.note", "{rows} sailings in {period}")
    folio = replace(demo.folio, summaries=tuple(replace(each, style=style) if each.id == "s6" else each for each in demo.folio.summaries))
    panel = SummaryPanel("p90", Place(0, 0, 12, 9), "s6", "Takings on {Route}", "{sum of Takings} from {names: top 1 Vessel by sum of Takings}")
    tables = {"t1": demo.tables["t1"]}
    reckoning = Reckoning(tables, folio.phrases(), folio.looks(), folio.levers, folio.read_at())

    def answered(**chosen: object) -> tuple[tuple[str, str] | None, str]:
        slicers = tuple(
            replace(each, chosen=chosen["routes"]) if isinstance(each, ListSlicer) and each.heading.field == "Route" and "routes" in chosen
            else replace(each, first="2024-05", last="2024-05") if isinstance(each, PeriodSlicer) and "month" in chosen else each
            for each in board.slicers
        )  # fmt: skip
        now = replace(board, panels=(panel,), slicers=slicers)
        found = reckoning.panel(now, panel)
        assert found.chart is not None
        return found.caption, found.chart.style.words.note

    frame = ROWS.with_columns(pl.col("Takings").cast(float))
    best = frame.group_by("Vessel").agg(pl.col("Takings").sum()).sort("Takings")["Vessel"][-1]
    assert answered() == (("Takings on all routes", f"£{frame['Takings'].sum():,.0f} from {best}"), f"{frame.height:,} sailings in Jan 2023 – Nov 2025")
    some = frame.filter(pl.col("Route").is_in(["Osk – Vaila", "Hesta – Lunna"]), pl.col("Sailed on").dt.strftime("%Y-%m") == "2024-05")
    best = some.group_by("Vessel").agg(pl.col("Takings").sum()).sort("Takings")["Vessel"][-1]
    caption, note = answered(routes=("Osk – Vaila", "Hesta – Lunna"), month=True)
    assert caption == ("Takings on Osk – Vaila and Hesta – Lunna", f"£{some['Takings'].sum():,.0f} from {best}")
    assert note == f"{some.height:,} sailings in May 2024"
    four = tuple(sorted(frame["Route"].unique()))[:4]
    assert answered(routes=four)[0][0] == "Takings on 4 of 11 routes"  # type: ignore[index]


@pytest.mark.parametrize("said_as", ["Source: {rows} sailings", "{rows of}"])
def test_on_a_page(on_demo: Window, said_as: str) -> None:
    page = shown(on_demo, "show sum of Takings by Vessel where Ticket is Single drawn as columns")
    assert page.summary is not None and page.chart.scene is not None
    style = with_value(page.summary.style, "words.note", said_as)
    from summula.core.folio.model import with_summary

    on_demo.session.edit(with_summary(on_demo.session.folio, replace(page.summary, style=style)), "Words")
    texts = " ".join(page.chart.scene.texts())
    assert f"{ROWS.filter(pl.col('Ticket') == 'Single').height:,} sailings" in texts if "sailings" in said_as else "[" in texts
