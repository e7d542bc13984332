"""Scenes: every form draws the grid's own figures, in lasting inks, inside its room, with nothing on top of another."""

from __future__ import annotations

import math
import re
from collections import Counter
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import polars as pl
import pytest
import scipy.stats
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from summula.core.charts import draw
from summula.core.charts.chart import Canvas, SummaryLook, chart_of, drawn_as
from summula.core.charts.foliopicture import FolioPicture
from summula.core.charts.gauge import reach_of
from summula.core.charts.ghosts import members_shown
from summula.core.charts.keyfigure import KeyFigure, draw_key_figure
from summula.core.charts.markwords import mark_words
from summula.core.charts.multiples import parts_of
from summula.core.charts.places import text_bounds
from summula.core.charts.plotted import plotted
from summula.core.charts.scale import scale, tied
from summula.core.charts.scene import Box, Ink, Line, Mosaic, Picture, Point, Scene, Text, Wedge
from summula.core.charts.series import column_name
from summula.core.charts.settings import with_value
from summula.core.charts.style import PLAIN_STYLE, ChartStyle, Emphasis, GaugeStyle, ScaleStyle, levers_of, with_levers
from summula.core.charts.waffle import shared_out
from summula.core.engine.aligning import path_key, same_nodes
from summula.core.engine.grid import Grid
from summula.core.engine.periods import last_part_way
from summula.core.engine.samples import Boxes, Points, Ranges, Records
from summula.core.engine.trends import fitted_line, moments, moving_mean
from summula.core.fields.figures import FigureStyle
from summula.core.fields.heading import Heading, Others
from summula.core.folio.opened import Opened
from summula.core.grids.gridlook import GridLook
from summula.core.grids.layout import Layout
from summula.core.grids.measurestyle import MeasureStyle
from summula.core.phrases.fitting import why_not
from summula.core.phrases.forms import Form
from summula.core.phrases.lever import LeverSetting
from summula.core.phrases.printing import print_phrase
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.theme.typefaces import text_width
from summula.demo import company as demo_company
from summula.demo.company import sailings

SIZE = (520.0, 300.0)
FIGURE_FORMS: tuple[Form, ...] = ("grid", "columns", "stacked columns", "bars", "lines")


def asked(demo: Opened, text: str) -> Grid:
    table = demo.tables["t1"]
    return answer(parse(text, Vocabulary(table)), table)


def drawn(grid: Grid, form: Form | None = None, size: tuple[float, float] = SIZE, *, demo: Opened | None = None,
          look: SummaryLook = SummaryLook(), ghost: Grid | None = None) -> Scene:  # noqa: B008
    table = demo.tables["t1"] if demo is not None else None
    return draw(chart_of(drawn_as(grid, form or grid.phrase.form), table, look, ghost), Canvas(*size))


def overlapping(scene: Scene) -> list[tuple[str, str]]:
    texts = [(mark.text, text_bounds(mark, text_width)) for mark in scene.marks if isinstance(mark, Text)]
    return [
        (a, b)
        for at, (a, (l0, t0, r0, b0)) in enumerate(texts)
        for b, (l1, t1, r1, b1) in texts[at + 1 :]
        if l0 < r1 - 0.5 and l1 < r0 - 0.5 and t0 < b1 - 0.5 and t1 < b0 - 0.5
    ]


PHRASES = {
    "columns": 'show sum of Takings - sum of "Running cost" called "Net" by month of "Sailed on" drawn as columns',
    "side by side": 'show sum of Takings by Weather across year of "Sailed on" drawn as columns',
    "stacked columns": 'show sum of Passengers by year of "Sailed on" then quarter of "Sailed on" across Ticket drawn as stacked columns',
    "bars": "show sum of Takings by Vessel ordered by Takings, largest first drawn as bars",
    "lines": 'show sum of Takings by month of "Sailed on" across year of "Sailed on" drawn as lines',
    "grid": "show sum of Takings and sum of Takings as share of all by Route then Vessel drawn as grid",
}


@pytest.mark.parametrize("which", list(PHRASES))
@pytest.mark.parametrize("size", [SIZE, (300.0, 190.0), (980.0, 560.0)])
def test_marks_stand_for_the_grids_figures(which: str, size: tuple[float, float], demo: Opened) -> None:
    grid = asked(demo, PHRASES[which])
    scene = drawn(grid, size=size)
    tags = [mark.tag for mark in scene.tagged() if mark.tag is not None]
    finest = {
        (grid.rows.path(grid.rows.depth, r), grid.columns.path(grid.columns.depth, c), m): grid.values[grid.finest][
            m, r, c
        ]
        for m in range(len(grid.names))
        for r in range(grid.rows.levels[-1].size)
        for c in range(grid.columns.levels[-1].size)
    }
    found = {(tag.members, tag.members_across, tag.measure): tag.value for tag in tags if len(tag.members) == grid.rows.depth}
    assert found and all(found[key] == pytest.approx(finest[key]) for key in found)
    if which not in ("grid", "bars"):  # what does not fit in a grid or in bars is counted in words
        assert found.keys() == {key for key, figure in finest.items() if not math.isnan(figure) and figure != 0}
    for mark in scene.marks:
        if isinstance(mark, Box):
            assert mark.x >= -0.5 and mark.x + mark.width <= size[0] + 0.5 and -0.5 <= mark.y <= size[1] + 0.5
        if isinstance(mark, Text):
            left, top, right, bottom = text_bounds(mark, text_width)
            assert left >= -1 and right <= size[0] + 1 and top >= -3 and bottom <= size[1] + 3, mark.text
    assert overlapping(scene) == []


def test_lengths_are_to_scale(demo: Opened) -> None:
    grid = asked(demo, PHRASES["bars"])
    boxes = [
        mark for mark in drawn(grid, look=SummaryLook(style=ChartStyle(emphasis=Emphasis("top", 3)))).marks if isinstance(mark, Box) and mark.tag
    ]
    ratios = [box.width / box.tag.value for box in boxes if box.tag]
    assert max(ratios) / min(ratios) == pytest.approx(1, rel=0.02)
    strengths = [box.ink.strength for box in boxes]
    assert strengths[:3] == [1, 1, 1] and max(strengths[3:]) < 0.5  # the largest three strong, the others paler
    stacked = asked(demo, PHRASES["stacked columns"])
    heights: dict[object, float] = {}
    for mark in drawn(stacked, "stacked columns", (900, 500)).marks:
        if isinstance(mark, Box) and mark.tag:
            heights[mark.tag.members] = heights.get(mark.tag.members, 0) + mark.height + 0.8
    totals = {stacked.rows.path(2, r): stacked.values[2, 0][0, r, 0] for r in range(stacked.rows.levels[2].size)}
    per_unit = [heights[path] / totals[path] for path in totals]
    assert max(per_unit) / min(per_unit) == pytest.approx(1, rel=0.06)


def test_a_member_keeps_its_ink_and_place_whatever_is_left(demo: Opened) -> None:
    def inks(where: str) -> dict[object, str]:
        grid = asked(demo, f'show rows by quarter of "Sailed on" across Ticket {where} drawn as columns')
        scene = drawn(grid, "columns", (900, 400))
        return {mark.tag.members_across: mark.ink.token for mark in scene.marks if isinstance(mark, Box) and mark.tag}

    whole, part = inks(""), inks("where Ticket is Single or Vehicle")
    assert part == {key: whole[key] for key in part} and len(part) == 2
    order = list(whole)
    assert [key for key in order if key in part] == list(part)


def test_ghosts_stand_behind_and_part_way_periods_are_dashed(demo: Opened) -> None:
    text = "show sum of Takings by Vessel drawn as bars"
    ghost, grid = asked(demo, text), asked(demo, text.replace("drawn", "where Ticket is Single drawn"))
    marks = drawn(grid, ghost=ghost).marks
    behind = [mark for mark in marks if isinstance(mark, Box) and mark.ghost]
    front = [mark for mark in marks if isinstance(mark, Box) and mark.tag]
    assert len(behind) == len(front) == 9
    assert all(b.width > f.width and marks.index(b) < marks.index(f) for b, f in zip(behind, front, strict=True))
    assert front[0].tag is not None and "before slicing" in front[0].tag.text
    lines = asked(demo, PHRASES["lines"])
    part = last_part_way(demo.tables["t1"], lines)
    assert part is not None and (part.held, part.days) == (315, 365)
    until = part.edge_words
    assert until == "11 Nov"
    scene = drawn(lines, demo=demo)
    dashed = [mark for mark in scene.marks if isinstance(mark, Line) and mark.dashed]
    assert len(dashed) == 1 and "2025 to 11 Nov" in scene.texts()
    points = [mark for mark in scene.marks if isinstance(mark, Point)]
    assert len(points) == 12 + 12 + 11
    # Where the period stands along the bottom, all lines end in it, and none of them leads.
    vessels = asked(demo, 'show sum of Takings by year-quarter of "Sailed on" across Vessel drawn as lines')
    scene = drawn(vessels, demo=demo)
    dashed = [mark for mark in scene.marks if isinstance(mark, Line) and mark.dashed]
    assert len(dashed) == vessels.columns.levels[1].size > 4 and not [text for text in scene.texts() if " to 11 Nov" in text]
    assert len({mark.width for mark in dashed}) == 1 and len({mark.radius for mark in scene.marks if isinstance(mark, Point)}) == 1
    year_2024 = asked(demo, PHRASES["lines"].replace("drawn", 'where year of "Sailed on" is 2024 drawn'))
    assert last_part_way(demo.tables["t1"], year_2024) is None
    # Names stay in their own order, whatever is kept or ordered along the other heading.
    for more in ("keeping top 2 Ticket by rows gathering the rest", "ordered Ticket backwards", 'ordered quarter of "Sailed on" backwards'):
        text = f'show rows by year of "Sailed on" then quarter of "Sailed on" across Ticket {more} drawn as stacked columns'
        ghost, grid = asked(demo, text), asked(demo, text.replace("across Ticket", 'across Ticket where "Sailed on" is from 2024-05 to 2024-06'))
        named = [[each.label for each in plotted(chart_of(drawn_as(of, "stacked columns"), ghost=before)).cats] for of, before in ((grid, ghost), (ghost, None))]
        assert named[0] == named[1] and len(named[0]) == 12


def test_of_many_members_before_slicing_only_those_that_are_drawn_are_named(monkeypatch: pytest.MonkeyPatch) -> None:
    rows = 6_000
    table = table_from_frame("Sailings", pl.DataFrame({
        "No.": [f"S{at:05}" for at in range(rows)], "Deck": [f"D{at % 3}" for at in range(rows)], "Fee": [float(at % 97) for at in range(rows)],
    }), {"No.": "category", "Deck": "category"})  # fmt: skip
    words, named = Vocabulary(table), []
    monkeypatch.setattr("summula.core.charts.series.label_of", lambda heading, member: named.append(member) or str(member))

    def scene(text: str, where: str) -> Scene:
        ghost, part = (answer(parse(text.replace(" drawn", f"{more} drawn"), words), table) for more in ("", where))
        named.clear()
        return drawn(part, ghost=ghost)

    marks = scene('show sum of Fee by "No." drawn as bars', " where Deck is D1").marks
    ghosts = [mark for mark in marks if isinstance(mark, Box) and mark.ghost]
    assert len(named) < 60 and len(ghosts) > 5 and any(m.text.startswith("and 5,98") for m in marks if isinstance(m, Text))
    # Where members without rows have no room, those that have some stay, each before its own ghost.
    boxes = [mark for mark in scene('show sum of Fee by "No." drawn as columns', ' where Fee is 5').marks if isinstance(mark, Box)]
    own = [mark for mark in boxes if mark.tag and not mark.ghost]
    assert len(own) == 62 and len(boxes) == 124 and all(mark.tag.value == 5 and "before slicing" not in mark.tag.text for mark in own)
    for form, more in (("scatter", ""), ("bubbles", " and rows")):  # where so many points stood is told, not each of them
        marks = scene(f'show sum of Fee{more} against rows by "No." drawn as {form}', " where Fee is 5").marks
        squares = [mark for mark in marks if isinstance(mark, Mosaic)]
        assert len(squares) == 1 and squares[0].ghost and sum(squares[0].counts) == rows and len(marks) < 300
        own = next(mark for mark in marks if isinstance(mark, Point) and mark.tag)
        beneath = int((own.y - squares[0].y) // 5) * squares[0].columns + int((own.x - squares[0].x) // 5)
        assert squares[0].counts[beneath] >= 62
    assert any("6,000 marks are too many" in text for text in scene('show sum of Fee by "No." drawn as pie', " where Fee is 5 and Deck is D1").texts())


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(*[st.sampled_from(["", "a", "b", "c", "d", "e"])] * 3, st.integers(-9, 9)), min_size=1, max_size=40), st.data())
def test_nodes_are_found_again_by_their_members(rows: list[tuple[str, str, str, int]], data: st.DataObject) -> None:
    frame = pl.DataFrame([(a or None, b or None, c or None, v) for a, b, c, v in [*rows, ("a", "b", "a", 1)]], schema={"A": pl.String, "B": pl.String, "C": pl.String, "V": pl.Int64}, orient="row")
    table = table_from_frame("Some", frame, dict.fromkeys("ABC", "category"))  # type: ignore[arg-type]
    words = Vocabulary(table)
    more = st.sampled_from(["", " where C is a", " where V is over 2", ' where B is not "b"', " keeping top 2 B by sum of V gathering the rest",
                            " keeping top 1 A by rows gathering the rest", " keeping top 1 B by rows in each A gathering the rest", " ordered by rows largest first"])  # fmt: skip
    part, whole = (answer(parse(f"show sum of V by A then B across C{data.draw(more)}", words), table) for _ in range(2))
    for one, other in ((part.rows, whole.rows), (part.columns, whole.columns)):
        for level, nodes in enumerate(same_nodes(one, other)):
            known = {path_key(one.path(level, node)): node for node in range(one.levels[level].size)}
            assert nodes.tolist() == [known.get(path_key(other.path(level, node)), -1) for node in range(other.levels[level].size)]
    shown = members_shown(chart_of(drawn_as(part, "columns"), ghost=whole))
    assert sorted(cat.node for cat in shown.cats if cat.node >= 0) == list(range(part.rows.levels[2].size))
    before = {path_key(whole.rows.path(2, node)): node for node in range(whole.rows.levels[2].size)}
    assert shown.rows == [before.get(path_key(cat.path), -1) for cat in shown.cats] and shown.every == len(shown.cats)
    assert {path for path in before if not any(isinstance(each, Others) for each in whole.rows.path(2, before[path]))} <= {path_key(cat.path) for cat in shown.cats}


def test_signed_columns_and_what_does_not_fit(demo: Opened) -> None:
    grid = asked(demo, PHRASES["columns"])
    boxes = [
        mark for mark in drawn(grid, "columns", (900, 400)).marks if isinstance(mark, Box) and mark.tag
    ]
    assert {box.ink.token for box in boxes} == {"gain", "loss"}
    assert all((box.ink.token == "gain") == (box.tag.value >= 0) for box in boxes if box.tag)
    for text, form, told in (
        ("show rows", "lines", "add a heading after 'by'"),
        ("show rows by Route", "stacked columns", "add a heading after 'across'"),
        ("show mean of Takings by Route across Ticket", "stacked columns", "does not add up"),
    ):
        assert told in why_not(parse(text), form)  # type: ignore[arg-type]
    few = drawn(asked(demo, PHRASES["bars"]), "bars", (300, 80))
    assert any("more: make the chart taller" in text for text in few.texts())
    nothing = asked(demo, "show rows by Route where Takings is over 1000000")
    for form in FIGURE_FORMS:
        texts = drawn(nothing, form, SIZE).texts()
        assert len(texts) == 1 and ("No data" in texts[0] or "add a heading" in texts[0]), form
    codes = asked(demo, 'show rows by "Sailing no." drawn as columns')
    assert "too many to read" in drawn(codes, "columns", SIZE).texts()[0]


def test_one_member_and_one_point() -> None:
    table = table_from_frame("T", pl.DataFrame({"a": ["x"], "n": [-3.5], "d": ["2024-05-31"]}))
    for form in FIGURE_FORMS:
        grid = answer(parse(f"show sum of n by a across year of d drawn as {form}", Vocabulary(table)), table)
        scene = drawn(grid, form, SIZE)
        assert any(mark.tag is not None and mark.tag.value == -3.5 for mark in scene.marks), form
        assert overlapping(scene) == []


@given(st.floats(-1e9, 1e9), st.floats(-1e9, 1e9), st.floats(60, 900))
def test_a_scale_holds_its_figures_and_zero(first: float, second: float, room: float) -> None:
    low, high = sorted((first, second))
    made = scale(low, high, 0.0, room)
    slack = 1e-9 * max(abs(low), abs(high), 1)
    assert made.low <= min(low, 0) + slack and made.high >= max(high, 0) - slack
    assert made.low < made.high and 1 <= len(made.ticks) <= room / 48 * 2.6 + 4
    assert all(made.low - slack <= tick <= made.high + slack for tick in made.ticks)
    assert -1e-6 <= made(low if low < 0 else 0) <= made(max(high, 0)) <= room + 1e-6


@pytest.mark.parametrize(
    ("value", "short", "tick", "text"),
    [
        (2_310_000, "£2.31m", "£2.31m", "2,310,000"), (1_900_000, "£1.90m", "£1.9m", "1,900,000"), (520_400, "£520k", "£520k", "520,400"),
        (12_345, "£12.3k", "£12.3k", "12,345"), (-984, "−£984", "−£984", "−984"), (0.4, "£0.40", "£0.4", "0"),
        (math.nan, "–", "–", "–"), (-0.2, "−£0.20", "−£0.2", "0"),
    ],
)  # fmt: skip
def test_figures_in_few_signs(value: float, short: str, tick: str, text: str) -> None:
    style = FigureStyle(unit="£")
    assert (style.short(value), style.tick(value), style.text(value)) == (short, tick, text)
    assert (
        FigureStyle("0.0%", percent=True).text(0.25) == "25.0%"
        and FigureStyle("#,##0.00;(#)", "$").text(1234.5, unit=True) == "$1,234.50"
    )


def test_key_figures_say_gain_and_loss_with_a_sign(demo: Opened) -> None:
    style, month = FigureStyle(unit="£"), Heading("Sailed on", "year-month")
    for change, rising, token, mark in (
        (0.061, "gain", "gain", "▲ +6.1%"),
        (-0.061, "gain", "loss", "▼ −6.1%"),
        (0.2, "loss", "loss", "▲ +20.0%"),
        (0.0001, "gain", "text", "level"),
    ):
        scene = draw_key_figure(
            KeyFigure(
                "Takings", 2.31e6, style, change, "the same days of 2024", [((month, "2024-01"), "Jan", 1.0), ((month, "2024-02"), "Feb", 2.0)], rising=rising
            ),
            Canvas(220, 72),
        )  # type: ignore[arg-type]
        said = next(text for text in scene.marks if isinstance(text, Text) and text.text == mark)
        assert said.ink.token == token
        assert sum(isinstance(each, Box) for each in scene.marks) == 2
    assert column_name(asked(demo, PHRASES["grid"]), 1) == "share of all"


def test_a_grid_on_a_board_is_laid_out_dressed_and_folded(demo: Opened) -> None:
    grid = asked(demo, 'show sum of Takings and rows by Route then Vessel across year of "Sailed on"')
    measure_styles = (MeasureStyle("#,##0.0", "thousand", fill="bars", goal=100_000, sparkline=True), MeasureStyle())
    layout = Layout(subtotals="below", bottom_name="Net", across_name="Three years")
    look = SummaryLook(GridLook(layout, measure_styles, frozenset({("Aldry – Fenholm",)})))
    scene = drawn(grid, size=(1400, 1200), look=look)
    texts = scene.texts()
    assert {"Net", "Takings (£ thousand)", "Course", "Three years", "●", "○"} <= set(texts)
    assert "All Aldry – Hesta" in texts and "All Aldry – Fenholm" not in texts  # folded: its line is its total
    figures = [mark for mark in scene.marks if isinstance(mark, Text) and mark.tag is not None]
    first = next(mark for mark in figures if mark.tag is not None and mark.tag.members == ("Aldry – Fenholm",))
    assert first.text == f"{first.tag.value / 1000:,.1f}"  # type: ignore[union-attr]
    lines = [mark for mark in scene.marks if isinstance(mark, Line) and mark.ink.token == "series 0"]
    assert len(lines) == len({mark.tag.members for mark in figures if mark.tag})  # a course a line
    assert [mark for mark in scene.marks if isinstance(mark, Box)]  # bars
    narrow = drawn(grid, size=(420, 240), look=look)
    assert "Course" in narrow.texts() and "Net" in narrow.texts()
    assert any("more than fit here" in text for text in narrow.texts())
    as_lines = drawn(grid, size=(900, 2400), look=SummaryLook(GridLook(Layout(measures="rows"), measure_styles)))
    assert as_lines.texts().count("rows") == grid.rows.levels[1].size + grid.rows.levels[2].size + 1


def test_a_histogram_counts_every_value_once(demo: Opened) -> None:
    grid = asked(demo, 'show each row of "Delay (min)" across Weather where Route starts with F drawn as histogram')
    rows = sailings().filter(pl.col("Route").str.starts_with("F"))
    scene = drawn(grid, "histogram", (700, 420))
    counts: dict[object, float] = {}
    for mark in scene.tagged():
        assert mark.tag is not None and isinstance(mark, Box) and mark.tag.measure == -1
        counts[mark.tag.members_across[0]] = counts.get(mark.tag.members_across[0], 0) + mark.tag.value
    delays = rows.drop_nulls("Delay (min)").group_by("Weather").len()
    assert counts == dict(delays.iter_rows())
    blank = rows["Delay (min)"].null_count()
    assert any(f"{blank} blank" in text for text in scene.texts()) and blank > 0
    assert any(text.startswith("paler:") for text in scene.texts())  # a few absurd delays share an open range
    assert overlapping(scene) == []


def test_boxes_hold_the_quartiles_and_count_what_lies_outside(demo: Opened) -> None:
    grid = asked(demo, 'show each row of "Delay (min)" by Weather drawn as box plot')
    scene = drawn(grid, "box plot", (700, 420))
    boxes = [mark for mark in scene.tagged() if isinstance(mark, Box)]
    frame = sailings().drop_nulls("Delay (min)")
    for box in boxes:
        assert box.tag is not None and box.tag.measure == 0
        values = frame.filter(pl.col("Weather") == box.tag.members[0])["Delay (min)"]
        quarter, median, three = (values.quantile(at, "linear") for at in (0.25, 0.5, 0.75))
        assert box.tag.value == pytest.approx(median)
        reach = 1.5 * (three - quarter)  # type: ignore[operator]
        far = values.filter((values < quarter - reach) | (values > three + reach))  # type: ignore[operator]
        assert f"half from {quarter:,.0f} to {three:,.0f}; {len(values):,} values, {len(far):,} far out" in box.tag.text
    assert len(boxes) == frame["Weather"].n_unique()
    told = [mark.tag.text for mark in scene.tagged() if isinstance(mark, Text) and mark.tag]
    assert told and all("above" in text and "as far as" in text for text in told)


def test_a_scatter_of_members_and_of_rows(demo: Opened) -> None:
    frame = sailings()
    grid = asked(demo, "show sum of Takings against sum of Passengers by Vessel drawn as scatter")
    assert grid.names[-1] == "sum of Passengers" and grid.values[1, 0].shape[0] == 2
    scene = drawn(grid, "scatter", (900, 600))
    points = [mark for mark in scene.tagged() if isinstance(mark, Point)]
    sums = frame.group_by("Vessel").agg(pl.col("Takings", "Passengers").sum()).sort("Passengers")
    by_place = sorted(points, key=lambda point: point.x)
    assert [p.tag.members[0] for p in by_place if p.tag] == sums["Vessel"].to_list()
    assert [p.tag.value for p in by_place if p.tag] == pytest.approx(sums["Takings"].to_list())
    assert overlapping(scene) == []
    few = asked(
        demo,
        "show each row of Takings against each row of Passengers across Ticket where Weather is Fog and Route starts with F drawn as scatter",
    )
    kept = frame.filter(pl.col("Weather") == "Fog", pl.col("Route").str.starts_with("F")).drop_nulls(
        ["Takings", "Passengers"]
    )
    points = drawn(few, "scatter", (900, 600)).tagged()
    assert sorted(mark.tag.value for mark in points if mark.tag) == pytest.approx(sorted(kept["Takings"]))
    many = drawn(asked(demo, "show each row of Takings against each row of Passengers drawn as scatter"), size=(900, 600))
    both = frame.drop_nulls(["Takings", "Passengers"]).height
    assert sum(mark.tag.value for mark in many.tagged() if mark.tag) == both and len(many.tagged()) < both / 5


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ('show each row of "Delay (min)"', "many values"), ("show each row of Takings / 2 drawn as histogram", "no single figure"),
        ("show rows by Vessel keeping top 3 Vessel by each row of Takings drawn as grid", "no single figure"),
    ],
)  # fmt: skip
def test_each_row_needs_a_form_of_its_own(demo: Opened, text: str, told: str) -> None:
    with pytest.raises(Refusal, match=told):
        asked(demo, text)
    assert "compares two measures" in why_not(parse("show rows by a"), "scatter")
    assert "each row" in why_not(parse("show sum of a by b"), "box plot") and "each row" in why_not(
        parse("show each row of a"), "grid"
    )
    assert "across" in why_not(parse("show each row of a by b"), "histogram")


@settings(max_examples=60, deadline=None)
@given(st.lists(st.integers(0, 10**6), min_size=1, max_size=24).filter(any))
def test_parts_make_the_whole(figures: list[int]) -> None:
    frame = pl.DataFrame({"Pier": [f"P{at:02}" for at in range(len(figures))], "Fee": figures})
    table = table_from_frame("T", frame, {"Pier": "category", "Fee": "number"})
    total = Fraction(sum(figures))
    exact = {f"P{at:02}": each / total for at, each in enumerate(figures) if each}
    for form in ("pie", "ring"):
        grid = answer(parse(f"show sum of Fee by Pier drawn as {form}", Vocabulary(table)), table)
        slices = [mark for mark in draw(chart_of(grid), Canvas(600, 400)).tagged() if isinstance(mark, Wedge)]
        turns = {str(mark.tag.by[0][1]): mark.stop - mark.start for mark in slices if mark.tag}
        assert turns.keys() == exact.keys() and slices[0].start == 0 and slices[-1].stop == pytest.approx(1)
        assert all(turns[name] == pytest.approx(float(share)) for name, share in exact.items())
        assert [mark.start for mark in slices[1:]] == [mark.stop for mark in slices[:-1]]  # no gap, no overlap
    counts = shared_out(figures)
    assert sum(counts) == 100
    assert all(math.floor(each * 100 / total) <= count <= math.ceil(each * 100 / total) for each, count in zip(figures, counts, strict=True))
    grid = answer(parse("show sum of Fee by Pier drawn as waffle", Vocabulary(table)), table)
    drawn_squares = Counter(str(mark.tag.by[0][1]) for mark in draw(chart_of(grid), Canvas(600, 400)).tagged() if mark.tag)
    assert drawn_squares.total() == 100 and all(drawn_squares[f"P{at:02}"] == count for at, count in enumerate(counts))


def test_a_part_of_a_slice_fills_its_share_of_the_area(demo: Opened) -> None:
    whole, part = asked(demo, "show rows by Route drawn as ring"), asked(demo, "show rows by Route where Ticket is Single drawn as ring")
    scene = draw(chart_of(part, ghost=whole), Canvas(600, 400))
    pale = {mark.start: mark for mark in scene.marks if isinstance(mark, Wedge) and mark.ghost}
    filled = [mark for mark in scene.marks if isinstance(mark, Wedge) and not mark.ghost]
    before = {str(member): value for (member,), value in figures_by_member(whole)}
    assert len(filled) == len(pale) > 3
    for mark in filled:
        around = pale[mark.start]
        assert mark.tag is not None and around.stop == mark.stop and around.inner == mark.inner
        area = (mark.outer**2 - mark.inner**2) / (around.outer**2 - around.inner**2)
        assert area == pytest.approx(mark.tag.value / before[str(mark.tag.by[0][1])])


def figures_by_member(grid: Grid) -> list[tuple[tuple[object, ...], float]]:
    axis = grid.rows
    return [(axis.path(axis.depth, node), float(grid.values[grid.finest][0, node, 0])) for node in range(axis.levels[axis.depth].size)]


def test_areas_of_bubbles_squares_and_second_scales(demo: Opened) -> None:
    grid = asked(demo, "show sum of Takings and rows against sum of Passengers by Vessel drawn as bubbles")
    bubbles = [mark for mark in draw(chart_of(grid), Canvas(900, 500)).tagged() if isinstance(mark, Point)]
    rows = {str(path[0]): grid.values[grid.finest][1, node, 0] for node in range(len(bubbles)) for path in [grid.rows.path(1, node)]}
    areas = {str(mark.tag.by[0][1]): mark.radius**2 / rows[str(mark.tag.by[0][1])] for mark in bubbles if mark.tag}
    assert len(areas) == 9 and max(areas.values()) == pytest.approx(min(areas.values()))
    assert [mark.radius for mark in bubbles] == sorted((mark.radius for mark in bubbles), reverse=True)  # none hides a smaller

    grid = asked(demo, 'show sum of Takings by Vessel across quarter of "Sailed on" drawn as heat grid')
    marks = [mark for mark in draw(chart_of(grid), Canvas(900, 500)).tagged() if isinstance(mark, Box) and mark.tag]
    frame = sailings().group_by("Vessel", pl.col("Sailed on").dt.quarter().alias("Q")).agg(pl.col("Takings").sum().cast(float))
    exact = {(vessel, quarter): takings for vessel, quarter, takings in frame.iter_rows()}
    squares = [mark for mark in marks if mark.tag and len(mark.tag.by) == len(mark.tag.across) == 1]
    assert {(str(m.tag.by[0][1]), m.tag.across[0][1]): round(m.tag.value, 2) for m in squares if m.tag} == {k: round(v, 2) for k, v in exact.items()}
    by_strength = sorted(squares, key=lambda mark: mark.ink.strength)
    assert [mark.tag.value for mark in by_strength if mark.tag] == sorted(exact.values())
    edges = {str(m.tag.by[0][1]): (m.width, m.tag.value) for m in marks if m.tag and not m.tag.across}
    for vessel, (width, figure) in edges.items():
        assert figure == pytest.approx(sum(v for (name, _), v in exact.items() if name == vessel))
        assert width / figure == pytest.approx(edges["Petrel"][0] / edges["Petrel"][1])

    first = scale(-200.0, 1000.0, 400.0, 0.0)
    second = tied(-3.0, 7.0, first)
    assert [second(tick) for tick in second.ticks] == pytest.approx([first(tick) for tick in first.ticks])
    assert second(0) == pytest.approx(first(0)) and second.low <= -3 and second.high >= 7


def test_small_multiples_are_the_charts_of_each_member(demo: Opened) -> None:
    """Each draws the figures that its member has alone, on one scale, over the same members."""
    for text in (
        'show sum of Takings by month of "Sailed on" drawn as columns', 'show mean of "Delay (min)" drawn as gauge',
        "show sum of Takings by Ticket drawn as pie", 'show sum of Takings by Ticket across year of "Sailed on" drawn as lines',
        "show sum of Takings by Ticket ordered by sum of Takings, largest first drawn as bars", "show rows by Ticket across Weather drawn as heat grid",
        'show each row of "Delay (min)" drawn as histogram', 'show each row of "Delay (min)" by Weather drawn as box plot',
        "show each row of Takings against each row of Passengers across Weather drawn as scatter",
    ):  # fmt: skip
        said = f"{text} for each Vessel"
        phrase = parse(said, Vocabulary(demo.tables["t1"]))
        assert print_phrase(phrase) == said and parse(print_phrase(phrase), Vocabulary(demo.tables["t1"])) == phrase
        grid = asked(demo, said)
        chart = chart_of(grid)
        scene = draw(chart, Canvas(1200, 800))
        assert overlapping(scene) == [] and [mark.full for mark in scene.marks if isinstance(mark, Text) and mark.weight == 600] == [
            part.label for part in parts_of(chart)
        ]  # fmt: skip
        known: dict[str, Any] = {}
        for mark in scene.tagged():
            assert mark.tag is not None and mark.tag.by[0][0] == Heading("Vessel")
            known.setdefault(str(mark.tag.by[0][1]), []).append((mark.tag.by[1:], mark.tag.across, mark.tag.value))
        for vessel in ("Dunlin", "Petrel"):
            alone = asked(demo, re.sub(r" (ordered|drawn)", rf" where Vessel is {vessel} \1", text, count=1))
            if alone.samples is None:
                single = draw(chart_of(alone), Canvas(390, 240)).tagged()
                figures = {(mark.tag.by, mark.tag.across): mark.tag.value for mark in single if mark.tag}
                assert {(by, across): value for by, across, value in known[vessel]} == pytest.approx(figures)
            else:
                part = next(each.chart.grid for each in parts_of(chart) if each.label == vessel)
                assert part.rows_used == alone.rows_used and how_many(part) == how_many(alone) > 0
    boxes = asked(demo, 'show each row of "Delay (min)" by Weather drawn as box plot for each Vessel')
    petrel = next(each.chart.grid.samples for each in parts_of(chart_of(boxes)) if each.label == "Petrel")
    frame = sailings().filter(pl.col("Vessel") == "Petrel")
    assert isinstance(petrel, Boxes)
    for spread, weather in zip(petrel.spreads, sorted(frame["Weather"].unique()), strict=True):
        values = frame.filter(pl.col("Weather") == weather)["Delay (min)"].drop_nulls().cast(float)
        assert spread is not None and (spread.count, spread.median) == (len(values), pytest.approx(values.median()))
    empty = draw(chart_of(asked(demo, "show rows by Ticket where Takings is over 1000000 drawn as columns for each Vessel")), Canvas(600, 400))
    assert "no rows" in empty.texts()[0]
    assert "Too small" in draw(chart_of(asked(demo, "show rows by Ticket drawn as columns for each Vessel")), Canvas(500, 50)).texts()[0]


def how_many(grid: Grid) -> float:
    """The values that a grid holds."""
    held = grid.samples
    if isinstance(held, Boxes):
        return sum(each.count for each in held.spreads if each is not None)
    if isinstance(held, Records):
        return float(held.count)
    return float(len(held.x)) if isinstance(held, Points) else float(held.counts.sum())  # type: ignore[union-attr]


@given(st.lists(st.tuples(st.floats(-1e6, 1e6), st.floats(-1e6, 1e6)), min_size=2, max_size=40), st.floats(-1e9, 1e9))
def test_trends_are_those_of_least_squares(points: list[tuple[float, float]], shift: float) -> None:
    x, y = np.array([a for a, _ in points]) + shift, np.array([b for _, b in points])
    sums = moments(x, y)
    assert sums is not None
    fit = fitted_line(sums)
    if np.ptp(x) < 1e-6 * max(1.0, np.abs(x).max()):
        return
    exact = scipy.stats.linregress(x - x.mean(), y)  # centred, as the oracle loses digits far from nothing
    assert fit is not None and fit.count == len(points) and (fit.low, fit.high) == (x.min(), x.max())
    size = max(1.0, np.abs(y).max())
    assert fit.at(float(x.mean())) == pytest.approx(exact.intercept, abs=1e-6 * size)
    assert fit.in_x()[1] == pytest.approx(exact.slope, rel=1e-6, abs=1e-6 * size / np.ptp(x))
    if np.ptp(y) > 1e-6 * size:
        assert fit.r_squared == pytest.approx(exact.rvalue**2, abs=1e-6)
    curve = fitted_line(sums, 2)
    u = (x - sums.centre) / sums.width
    if curve is not None and len(np.unique(np.round(u, 3))) >= 3:
        quadratic = np.polyfit(u, y, 2)
        for at in (-1.0, 0.0, 1.0):
            assert curve.at(sums.centre + sums.width * at) == pytest.approx(np.polyval(quadratic, at), abs=1e-5 * size * 1e3)
        rest = y - np.polyval(quadratic, u)
        if np.ptp(y) > 1e-6 * size:
            assert curve.r_squared == pytest.approx(1 - (rest @ rest) / ((y - y.mean()) @ (y - y.mean())), abs=1e-5)


@given(st.lists(st.one_of(st.just(math.nan), st.integers(-1000, 1000)), max_size=30), st.integers(2, 8))
def test_a_moving_mean_is_pandas_own(figures: list[float], length: int) -> None:
    exact = pd.Series(figures, dtype=float).rolling(length).mean().tolist()
    assert moving_mean(figures, length) == pytest.approx(exact, nan_ok=True, abs=1e-6)


def test_what_stands_beside_the_members(demo: Opened) -> None:
    """Lines of reference, trends over members and points, a total set apart, least spans, chosen members."""
    months = 'month of "Sailed on"'

    def marks(text: str, **said: Any) -> Scene:
        style = PLAIN_STYLE
        for key, value in said.items():
            group, name = key.split("__")
            style = with_value(style, f"{group}.{name}", value)
        return draw(chart_of(asked(demo, text), look=SummaryLook(style=style)), Canvas(700, 400))

    frame = sailings().group_by(pl.col("Sailed on").dt.month().alias("m")).agg(pl.col("Takings").sum().cast(float)).sort("m")
    takings = frame["Takings"].to_numpy()
    columns = f"show sum of Takings by {months} drawn as columns"
    scene = marks(columns, reference__at="mean", second_reference__at="median", second_reference__name="usual")
    style = FigureStyle("#,##0", "£")
    assert {f"mean {style.short(takings.mean())}", f"usual {style.short(float(np.median(takings)))}"} <= set(scene.texts())
    lines = [mark for mark in scene.marks if isinstance(mark, Line) and mark.dashed]
    boxes = {mark.tag.value: mark for mark in scene.tagged() if isinstance(mark, Box) and mark.tag}
    low, high = min(boxes), max(boxes)
    per = (boxes[high].y - boxes[low].y) / (high - low)
    assert lines[0].points[0][1] == pytest.approx(boxes[low].y + per * (takings.mean() - low), abs=0.01)
    assert lines[1].points[0][1] == pytest.approx(boxes[low].y + per * (np.median(takings) - low), abs=0.01)
    for form in ("columns", "bars", "lines", "areas", "dots"):  # read and seen across marks of any ink
        crossed = marks(f"show sum of Takings by {months} drawn as {form}", reference__at="mean", second_reference__at="median")
        named = [mark for mark in crossed.marks if isinstance(mark, Text) and mark.part.endswith("eference line")]
        one, other = (text_bounds(mark, text_width) for mark in named)
        assert all(mark.slip for mark in named) and (one.right < other.left or other.right < one.left or one.bottom < other.top or other.bottom < one.top)
        dashes = [at for at, mark in enumerate(crossed.marks) if isinstance(mark, Line) and mark.part.endswith("eference line")]
        assert len(dashes) == 2 and all(crossed.marks[at - 1] == replace(crossed.marks[at], ink=Ink("sheet"), dashed=False, part="") for at in dashes)  # type: ignore[type-var]
    struck = marks(f"show sum of Takings by {months} drawn as bars", reference__at="figure", reference__figure=float(takings.min() * 1.2))
    assert any(mark.slip and not mark.part.endswith("eference line") for mark in struck.marks if isinstance(mark, Text))
    far = marks(columns, reference__at="figure", reference__figure=9e6, reference__name="far off")
    assert far.reach[0][1] >= 9e6 and "far off £9m" in " ".join(far.texts())

    total = marks(columns, total__shown=True, total__name="Year")
    last = total.tagged()[-1]
    assert "Year" in total.texts() and last.tag is not None and last.tag.by == () and last.tag.value == pytest.approx(takings.sum())
    bars = marks(f"show mean of Takings by {months} drawn as bars", total__shown=True)
    assert [mark.tag.value for mark in bars.tagged() if mark.tag and not mark.tag.by] == pytest.approx([sailings()["Takings"].cast(float).mean()])

    trend = marks(columns, trend__kind="line")
    exact = scipy.stats.linregress(np.arange(1, 13), takings)
    words = next(text for text in trend.texts() if text.startswith("y = "))
    assert f"R² {exact.rvalue**2:.2f} · n 12 · x from 1 to 12" in words and f"y = {exact.slope:,.0f} x + {exact.intercept:,.0f}" in words
    rows = marks("show each row of Takings against each row of Passengers drawn as scatter", trend__kind="line")
    known = sailings().select(pl.col("Takings").cast(float), "Passengers").drop_nulls()
    exact = scipy.stats.linregress(known["Passengers"], known["Takings"])
    words = next(text for text in rows.texts() if text.startswith("y = "))
    assert f"R² {exact.rvalue**2:.2f} · n {known.height:,}" in words and f"{exact.slope:.3g} x" in words

    spread = marks(f'show mean of "Delay (min)" by {months} drawn as lines', scale__begin="fit", scale__span=500.0)
    assert spread.reach[0][1] - spread.reach[0][0] >= 500
    strong = marks("show sum of Takings by Vessel drawn as columns", emphasis__end="members", emphasis__members="petrel; Dunlin")
    assert {str(mark.tag.by[0][1]) for mark in strong.tagged() if mark.tag and mark.ink.strength == 1} == {"Petrel", "Dunlin"}  # type: ignore[union-attr]
    strong = marks("show sum of Takings by Vessel drawn as columns", emphasis__end="at least", emphasis__figure=1e6)
    assert all((mark.ink.strength == 1) == (mark.tag.value >= 1e6) for mark in strong.tagged() if mark.tag)  # type: ignore[union-attr]


def test_inks_go_by_another_measure(demo: Opened) -> None:
    text = 'show sum of Takings and sum of Takings - sum of "Running cost" called Net by Vessel drawn as {}'
    style = with_value(PLAIN_STYLE, "colour.by", "measure")
    for form in ("columns", "bars"):
        grid = asked(demo, text.format(form))
        scene = draw(chart_of(grid, look=SummaryLook(style=style)), Canvas(700, 400))
        net = {path[0]: grid.values[grid.finest][1, node, 0] for node in range(9) for path in [grid.rows.path(1, node)]}
        boxes = [mark for mark in scene.tagged() if isinstance(mark, Box) and mark.tag]
        assert len(boxes) == 9 and {mark.tag.measure for mark in boxes if mark.tag} == {0} and "Net (£)" in scene.texts()
        order = sorted(boxes, key=lambda mark: net[mark.tag.by[0][1]] if mark.tag else 0)
        assert [mark.ink.strength for mark in order] == sorted(mark.ink.strength for mark in boxes)
        around = draw(chart_of(grid, look=SummaryLook(style=with_value(style, "colour.around", 300_000.0))), Canvas(700, 400))
        inks = {mark.tag.by[0][1]: mark.ink.token for mark in around.tagged() if isinstance(mark, Box) and mark.tag}
        assert inks == {name: "gain" if value >= 300_000 else "loss" for name, value in net.items()}
    lines = draw(chart_of(asked(demo, text.format("lines")), look=SummaryLook(style=style)), Canvas(700, 400))
    assert {mark.tag.measure for mark in lines.tagged() if mark.tag} == {0, 1}  # which draw it all the same


def test_what_a_mark_says_when_asked(demo: Opened) -> None:
    frame = sailings().group_by("Vessel").agg(pl.col("Takings").cast(float).sum(), pl.len().alias("n")).sort("Takings", descending=True)
    chart = chart_of(asked(demo, "show sum of Takings by Vessel drawn as columns"))
    for mark in draw(chart, Canvas(700, 400)).tagged():
        assert mark.tag is not None
        at = frame["Vessel"].to_list().index(mark.tag.by[0][1])
        share = frame["Takings"][at] / frame["Takings"].sum() * 100
        assert mark_words(chart, mark.tag) == f"{share:.1f}% of all · rank {at + 1} of 9 · {frame['n'][at]:,} rows"
    months = chart_of(asked(demo, 'show mean of Takings by month of "Sailed on" across year of "Sailed on" drawn as lines'))
    mark = next(m for m in draw(months, Canvas(700, 400)).tagged() if m.tag and m.tag.by[0][1] == 3 and m.tag.across[0][1] == 2024)
    known = sailings().filter(pl.col("Sailed on").dt.year() == 2024).group_by(pl.col("Sailed on").dt.month().alias("m")).agg(pl.col("Takings").cast(float).mean()).sort("m")
    change = (known["Takings"][2] / known["Takings"][1] - 1) * 100
    assert mark.tag is not None and f"{'+' if change > 0 else '−'}{abs(change):.1f}% on the one before" in mark_words(months, mark.tag)
    assert "% of" not in mark_words(months, mark.tag)  # means have no shares
    boxes = chart_of(asked(demo, 'show each row of "Delay (min)" drawn as histogram'))
    assert [mark_words(boxes, mark.tag) for mark in draw(boxes, Canvas(700, 400)).tagged()[:1] if mark.tag] == [""]


def test_bands_are_as_wide_as_they_are_and_shares_run_up_to_all(demo: Opened) -> None:
    limits = [0, 5, 10, 20, 40, 80, 160]
    grid = asked(demo, "show rows by Passengers in bands at 0, 5, 10, 20, 40, 80, 160 drawn as histogram")
    style = with_value(PLAIN_STYLE, "histogram.running", True)
    scene = draw(chart_of(grid, look=SummaryLook(style=style)), Canvas(900, 400))
    known = sailings()["Passengers"].drop_nulls().to_numpy()
    exact, _ = np.histogram(known, [*limits, np.inf])
    boxes = [mark for mark in scene.tagged() if isinstance(mark, Box) and mark.tag]
    assert [mark.tag.value for mark in boxes if mark.tag] == exact.tolist()
    per_row = [mark.height * (mark.width + 1) / mark.tag.value for mark in boxes[:-1] if mark.tag and mark.tag.value > 100]
    assert max(per_row) == pytest.approx(min(per_row), rel=0.02)  # areas go by the figures
    assert "rows per 5" in scene.texts()
    for text, values in (("show rows by Passengers in bands at 0, 5, 10, 20, 40, 80, 160", known), ("show each row of Passengers", known)):
        held = asked(demo, f"{text} drawn as histogram")
        running = draw(chart_of(held, look=SummaryLook(style=style)), Canvas(900, 400))
        points = [mark for mark in running.tagged() if isinstance(mark, Point) and mark.tag]
        counts = np.cumsum([mark.tag.value for mark in running.tagged() if isinstance(mark, Box) and mark.tag]) / len(values)
        assert {round(float(each), 9) for each in counts} <= {round(mark.tag.value, 9) for mark in points if mark.tag}
        assert points[-1].tag is not None and points[-1].tag.value == pytest.approx(1)
    assert "in bands" in why_not(parse("show rows by Vessel", Vocabulary(demo.tables["t1"])), "histogram")
    assert "add up" in why_not(parse("show mean of Takings by Passengers in bands of 10", Vocabulary(demo.tables["t1"])), "histogram")


def test_boxes_lie_where_names_are_long(demo: Opened) -> None:
    grid = asked(demo, 'show each row of "Delay (min)" by Route drawn as box plot')
    lying, standing = (
        draw(chart_of(grid, look=SummaryLook(style=with_value(PLAIN_STYLE, "box plot.lying", said))), Canvas(500, 300)) for said in ("", "no")
    )
    medians = [{mark.tag.by[0][1]: mark for mark in scene.tagged() if isinstance(mark, Box) and mark.tag} for scene in (lying, standing)]
    assert len(medians[0]) == 11 and "Fenholm – Grimsay" in lying.texts() and "Fenholm – Grimsay" not in standing.texts()
    per = [mark.width / medians[1][name].height for name, mark in medians[0].items() if medians[1][name].height > 1]
    assert max(per) == pytest.approx(min(per), rel=0.02) and overlapping(lying) == []  # the same boxes, turned
    assert sorted(medians[0], key=lambda name: medians[0][name].y) == sorted(medians[0])


def test_chosen_marks_are_labelled_and_pulled_out(demo: Opened) -> None:
    style = with_value(with_value(PLAIN_STYLE, "labels.show", "members"), "labels.members", "Petrel; tern")
    grid = asked(demo, "show sum of Takings by Vessel drawn as columns")
    scene = draw(chart_of(grid, look=SummaryLook(style=style)), Canvas(900, 400))
    figures = [mark.text for mark in scene.marks if isinstance(mark, Text) and mark.part == "Value labels"]
    known = {path[0]: grid.values[grid.finest][0, node, 0] for node in range(9) for path in [grid.rows.path(1, node)]}
    write = grid.styles[0].short
    assert figures == [write(float(known[name]), unit=False) for name in ("Petrel", "Tern")]
    pulled = with_value(with_value(PLAIN_STYLE, "slices.pulled", "member"), "slices.member", "fog")
    pie = asked(demo, "show rows by Weather drawn as pie")
    slices = {mark.tag.by[0][1]: (mark.x, mark.y) for mark in draw(chart_of(pie, look=SummaryLook(style=pulled)), Canvas(600, 400)).tagged() if isinstance(mark, Wedge) and mark.tag}
    middle = slices.pop("Calm")
    assert slices.pop("Fog") != middle and set(slices.values()) == {middle}


@given(st.floats(-100, 100), st.floats(-100, 100), st.floats(-150, 150))
def test_a_gauge_stands_between_its_limits_either_way(fair: float, good: float, figure: float) -> None:
    reach = reach_of(GaugeStyle(low=-200, high=200, fair=fair, good=good), [figure], percent=False)
    better = good >= fair
    if fair == good:
        exact = "good" if figure >= good else "poor"
    elif better:
        exact = "good" if figure >= good else "fair" if figure >= fair else "poor"
    else:
        exact = "good" if figure <= good else "fair" if figure <= fair else "poor"
    assert reach.standing(figure) == exact
    assert reach.turn(-200) == -reach.turn(200) and reach.turn(-300) == reach.turn(-200)
    assert [upto for upto, _ in reach.ranges] == sorted(upto for upto, _ in reach.ranges)


def test_limits_and_lines_may_be_levers(demo: Opened) -> None:
    levers = (LeverSetting("Fair", 12, 0, 60, 1), LeverSetting("Goal", 5, 0, 60, 1))
    style = PLAIN_STYLE
    for key, value in (("gauge.fair_lever", "Fair"), ("gauge.good", 6.0), ("gauge.goal_lever", "Goal"), ("gauge.good_lever", "Gone"),
                       ("reference.at", "lever"), ("reference.lever", "Goal"), ("emphasis.end", "at least"), ("emphasis.lever", "Fair")):  # fmt: skip
        style = with_value(style, key, value)
    assert levers_of(style) == {"Fair", "Goal", "Gone"}
    now = with_levers(style, levers)
    gauge = now.own_of(GaugeStyle)
    assert (gauge.fair, gauge.good, gauge.goal) == (12, None, 5)  # a lever that is gone limits nothing
    assert now.reference.figure == 5 and now.emphasis.figure == 12
    scene = draw(chart_of(asked(demo, 'show mean of "Delay (min)" drawn as gauge'), look=SummaryLook(style=now)), Canvas(500, 300))
    assert any(text.startswith("goal 5") for text in scene.texts())


def test_ticks_stand_at_another_measure(demo: Opened) -> None:
    text = 'show sum of Takings and sum of "Running cost" * 2 called Goal by Vessel drawn as {}'
    style = with_value(PLAIN_STYLE, "reference.at", "measure")
    for form in ("columns", "bars"):
        grid = asked(demo, text.format(form))
        scene = draw(chart_of(grid, look=SummaryLook(style=style)), Canvas(800, 400))
        marks = [mark for mark in scene.tagged() if mark.tag]
        boxes = {mark.tag.by[0][1]: mark for mark in marks if isinstance(mark, Box) and mark.tag}
        ticks = {mark.tag.by[0][1]: mark for mark in marks if isinstance(mark, Line) and mark.tag}
        assert len(boxes) == len(ticks) == 9 and "Goal" in scene.texts()
        for vessel, tick in ticks.items():
            box, at = boxes[vessel], tick.points[0][1 if form == "columns" else 0]
            assert tick.tag is not None and box.tag is not None and tick.tag.measure == 1
            share = tick.tag.value / box.tag.value
            long = box.height if form == "columns" else box.width
            start = box.y + box.height - at if form == "columns" else at - box.x
            assert start == pytest.approx(long * share, abs=0.6)
    both = draw(chart_of(asked(demo, text.format("lines")), look=SummaryLook(style=style)), Canvas(800, 400))
    assert {mark.tag.measure for mark in both.tagged() if mark.tag} == {0, 1}  # lines draw it all the same


def test_ticks_stand_at_last_years_figures(demo: Opened) -> None:
    style = with_value(PLAIN_STYLE, "reference.at", "year")
    for text in ('by year-month of "Sailed on"', 'by month of "Sailed on" across year of "Sailed on"', "by Route"):
        grid = asked(demo, f"show sum of Takings {text} drawn as columns")
        scene = draw(chart_of(grid, look=SummaryLook(style=style)), Canvas(1800, 700))
        ticks = {mark.tag.members + mark.tag.members_across: mark.tag.value for mark in scene.tagged() if isinstance(mark, Line) and mark.tag}
        boxes = {mark.tag.members + mark.tag.members_across: mark.tag.value for mark in scene.tagged() if isinstance(mark, Box) and mark.tag}
        if "Route" in text:
            assert not ticks and "a year earlier" not in scene.texts()
            continue
        assert "a year earlier" in scene.texts() and len(ticks) == 23  # until November 2025
        for path, figure in ticks.items():
            back = (f"{int(path[0][:4]) - 1}{path[0][4:]}",) if len(path) == 1 else (path[0], path[1] - 1)  # type: ignore[index,operator]
            assert figure == pytest.approx(boxes[back])


def test_a_picture_with_a_members_name_stands_on_its_card(demo: Opened) -> None:
    sea = (Path(demo_company.__file__).parent / "sea.png").read_bytes()
    look = SummaryLook(pictures=(FolioPicture("g1", "petrel", sea), FolioPicture("g2", "Nobody", sea)))
    for size in ((900, 500), (300, 190), (150, 600)):
        scene = draw(chart_of(asked(demo, "show rows and sum of Takings by Vessel drawn as cards"), look=look), Canvas(*size))
        pictures = [mark for mark in scene.marks if isinstance(mark, Picture)]
        assert overlapping(scene) == [] and (len(pictures) == 1 or size[0] < 900)
        for mark in pictures:
            name = next(text for text in scene.marks if isinstance(text, Text) and text.full == "Petrel")
            assert abs(name.y - mark.y) < 60 and mark.width / mark.height == pytest.approx(look.pictures[0].size[0] / look.pictures[0].size[1])
            figures = [text for text in scene.marks if isinstance(text, Text) and text.tag is not None]
            assert not any(mark.x < text.x < mark.x + mark.width and mark.y < text.y < mark.y + mark.height for text in figures)


def test_a_card_a_row_shows_that_row(demo: Opened) -> None:
    text = "show each row of Takings and each row of Passengers where Takings is over 3000 drawn as cards"
    scene = draw(chart_of(asked(demo, text)), Canvas(900, 600))
    frame = sailings().with_row_index("n", offset=1).filter(pl.col("Takings") > 3000)
    titles = [mark.text for mark in scene.marks if isinstance(mark, Text) and mark.weight == 600 and mark.text.startswith("row ")]
    assert titles == [f"row {n:,}" for n in frame["n"][: len(titles)]] and f"and {frame.height - len(titles)} more" in scene.texts()
    values = [mark.tag.value for mark in scene.tagged() if mark.tag]
    expected = [v for a, b in zip(frame["Takings"].cast(float), frame["Passengers"], strict=True) for v in (a, b)]
    assert values == pytest.approx(expected[: len(values)]) and all(mark.tag.measure == -1 for mark in scene.tagged() if mark.tag)
    each = asked(demo, text + " for each Weather")
    counts = {part.label: how_many(part.chart.grid) for part in parts_of(chart_of(each))}
    assert counts == {name: float(count) for name, count in frame.group_by("Weather").len().iter_rows()}
    assert "headings" in why_not(parse("show each row of Takings by Route", Vocabulary(demo.tables["t1"])), "cards")


def test_of_very_many_multiples_two_dozen_are_worked_out(demo: Opened) -> None:
    """As many as are drawn: a heading of 24,000 members costs what two dozen do."""
    for text in (
        'show rows by Ticket drawn as columns for each "Sailing no."', 'show each row of Takings by Ticket drawn as box plot for each "Sailing no."',
        'show each row of Takings drawn as histogram for each "Sailing no."', 'show each row of Takings drawn as cards for each "Sailing no."',
    ):  # fmt: skip
        grid = asked(demo, text)
        chart = chart_of(grid)
        assert len(parts_of(chart, 24)) == 24 and (grid.samples is None or len(grid.samples.parts) == 24)  # type: ignore[union-attr]
        scene = draw(chart, Canvas(1200, 800))
        titles = [mark for mark in scene.marks if isinstance(mark, Text) and mark.weight == 600]
        left = grid.rows.levels[1].size - len(titles)
        assert 8 < len(titles) <= 24 and f"{left:,} more are not shown: keep the top few" in scene.texts()
    cards = draw(chart_of(asked(demo, 'show rows by "Sailing no." drawn as cards')), Canvas(1200, 800))
    assert any(text.endswith(" more") for text in cards.texts())


@pytest.mark.parametrize("seed", range(4))
def test_many_values_are_put_together_as_numpy_does(seed: int) -> None:
    """Of many rows, values that are whole units are sorted once; of others and of few they are looked at one by one."""
    rng = np.random.default_rng(seed)
    rows = 30_000
    fees = np.round(rng.gamma(1.5, 40, rows) - 20, 2 if seed % 2 else 0)
    blank = rng.random(rows) < 0.05
    piers = rng.integers(0, 5, rows)
    frame = pl.DataFrame({"Fee": [None if b else f for f, b in zip(fees.tolist(), blank.tolist(), strict=True)], "Pier": [f"P{at}" for at in piers]})
    table = table_from_frame("T", frame, {"Pier": "category"})
    words = Vocabulary(table)
    for narrowed in ("", ' where Pier is not "P0"'):
        kept = ~blank & ((piers != 0) if narrowed else True)
        boxes = answer(parse(f"show each row of Fee by Pier{narrowed} drawn as box plot", words), table).samples
        assert isinstance(boxes, Boxes)
        for at, found in enumerate(boxes.spreads, start=1 if narrowed else 0):
            own = fees[kept & (piers == at)]
            low, middle, high = np.percentile(own, (25, 50, 75))
            reach = 1.5 * (high - low)
            inside = own[(own >= low - reach) & (own <= high + reach)]
            assert found is not None and found.count == len(own)
            figures = (found.quarter, found.median, found.three_quarters, found.low, found.high, found.mean)
            assert figures == pytest.approx((low, middle, high, inside.min(), inside.max(), own.mean()), abs=1e-9)
            assert found.beyond.tolist() == pytest.approx(np.sort(own[(own < inside.min()) | (own > inside.max())]).tolist())
        ranges = answer(parse(f"show each row of Fee across Pier{narrowed} drawn as histogram", words), table).samples
        assert isinstance(ranges, Ranges) and ranges.blank == int((blank & (kept | blank) & ((piers != 0) if narrowed else True)).sum())
        limits = ranges.edges.copy()
        limits[0], limits[-1] = -math.inf, math.inf
        for at, counts in enumerate(ranges.counts, start=1 if narrowed else 0):
            own = fees[kept & (piers == at)]
            place = np.searchsorted(limits, own, side="right") - 1
            assert counts.tolist() == np.bincount(place, minlength=len(counts)).tolist()


@settings(max_examples=300)
@given(st.integers(-10**6, 10**6), st.integers(0, 10**6), st.integers(0, 6), st.booleans(), st.booleans())
def test_a_scale_holds_the_figures_that_it_is_of(low: int, more: int, decimals: int, zero: bool, log: bool) -> None:
    lowest, highest = low / 10**decimals, (low + more) / 10**decimals
    made = scale(lowest, highest, 300.0, 0.0, zero=zero, style=ScaleStyle(log=log))
    assert made.holds(lowest) and made.holds(highest)


def test_a_scale_holds_fifteen_hundredths() -> None:
    assert all(scale(0.15, high, 300.0, 0.0, zero=False).holds(0.15) for high in (0.32, 0.35, 0.4, 0.45))


def test_figures_along_an_axis_are_told_apart_and_never_rounded_away() -> None:
    plain, shares = FigureStyle(), FigureStyle(percent=True)
    assert plain.ticks([0, 500_000, 1_000_000]) == ["0", "500k", "1m"]
    assert plain.ticks([333, 333.5, 334]) == ["333", "333.5", "334"]  # counts that lie near each other
    assert plain.ticks([1_234_000, 1_234_500, 1_235_000]) == ["1.234m", "1.2345m", "1.235m"]
    assert plain.ticks([0, 0.0005, 0.001]) == ["0", "0.0005", "0.001"]
    assert shares.ticks([0.001, 0.0015]) == ["0.1%", "0.15%"]
    assert plain.ticks([0, 1 / 3, 2 / 3]) == ["0", "0.33", "0.67"] and plain.ticks([]) == []


@pytest.mark.parametrize("size", [(900.0, 560.0), (420.0, 300.0)])
def test_outer_members_too_many_for_rules_are_named_as_room_allows(demo: Opened, size: tuple[float, float]) -> None:
    """Each from where it begins; few enough to be read, where a rule for each would be a solid bar."""
    for text in ('"Sailed on" then Vessel drawn as lines', 'year-month of "Sailed on" then Vessel drawn as columns'):
        grid = asked(demo, f"show sum of Takings by {text}")
        scene, outer = drawn(grid, size=size, demo=demo), grid.rows.levels[1].size
        foot = max(mark.y for mark in scene.marks if isinstance(mark, Text) and mark.part == "Members")
        groups = [mark for mark in scene.marks if isinstance(mark, Text) and mark.weight == 600 and mark.y > foot]
        rules = [mark.points[0][0] for mark in scene.marks if isinstance(mark, Line) and min(y for _, y in mark.points) > foot - 12]
        assert 2 <= len(groups) <= size[0] / 40 < outer and len(rules) == len(groups), text
        assert [mark.x for mark in groups] == pytest.approx([x + 4 for x in rules]) and all(mark.text == mark.full for mark in groups)
        assert not overlapping(scene) and all(text_bounds(mark, text_width).right <= size[0] for mark in groups)
