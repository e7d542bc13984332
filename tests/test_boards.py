"""Boards: what a click shows is what the rows say, by an independent reckoning."""

from __future__ import annotations

import datetime as dt

import msgspec
import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from summula.core.boards.arrangement import with_slicer
from summula.core.boards.board import Board, Place, SummaryPanel
from summula.core.boards.reckoning import Reckoning
from summula.core.charts.style import Labels, Legend, Words
from summula.core.engine.answer import dimensions_of, with_defaults
from summula.core.engine.cells import coarser, fold
from summula.core.engine.covering import covering
from summula.core.fields.heading import Heading
from summula.core.folio.opened import Opened
from summula.core.folio.soundness import sound
from summula.core.memory import Memory
from summula.core.phrases.phrase import Condition, aggregates_of
from summula.core.reading.readers import table_from_frame
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.slicing.slicerkinds import slicer_words
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.tables.column import take_at
from summula.demo.company import ROUTES, TICKETS, sailings

ROWS = sailings()


@pytest.fixture(scope="module")
def reckoning(demo: Opened) -> Reckoning:
    return Reckoning(demo.tables, demo.folio.phrases())


def sliced(
    board: Board, routes: tuple[str, ...], tickets: tuple[str, ...], first: str | None, last: str | None
) -> Board:
    slicers = (
        msgspec.structs.replace(board.slicer("l21"), first=first, last=last),
        msgspec.structs.replace(board.slicer("l22"), chosen=routes),
        msgspec.structs.replace(board.slicer("l23"), chosen=tickets),
    )
    return msgspec.structs.replace(board, slicers=slicers)


def in_play(routes: tuple[str, ...], tickets: tuple[str, ...], first: str | None, last: str | None) -> pl.DataFrame:
    month = pl.col("Sailed on").dt.strftime("%Y-%m")
    rows = ROWS
    if routes:
        rows = rows.filter(pl.col("Route").is_in(routes))
    if tickets:
        rows = rows.filter(pl.col("Ticket").is_in(tickets))
    return rows.filter(month >= (first or ""), month <= (last or "9999"))


months = st.integers(0, 34).map(lambda n: f"{2023 + n // 12}-{n % 12 + 1:02d}")


@settings(max_examples=40)
@given(st.lists(st.sampled_from(list(ROUTES)), max_size=3, unique=True).map(tuple),
       st.lists(st.sampled_from(list(TICKETS)), max_size=3, unique=True).map(tuple),
       st.none() | months, st.none() | months)  # fmt: skip
def test_every_panel_and_slicer_agrees_with_the_rows(
    demo: Opened,
    reckoning: Reckoning,
    routes: tuple[str, ...],
    tickets: tuple[str, ...],
    first: str | None,
    last: str | None,
) -> None:
    if first and last and first > last:
        first, last = last, first
    board = sliced(demo.folio.boards[0], routes, tickets, first, last)
    rows = in_play(routes, tickets, first, last)
    assert reckoning.rows_in_play(board, "t1") == rows.height
    bars = reckoning.panel(board, board.panel("p16")).grid
    assert bars is not None
    expected = dict(rows.group_by("Vessel").agg(pl.col("Takings").sum()).iter_rows())
    shown = {bars.rows.path(1, n)[0]: bars.values[1, 0][0, n, 0] for n in range(bars.rows.levels[1].size)}
    assert shown == pytest.approx(expected)
    figure = reckoning.panel(board, board.panel("p14")).key_figure
    median = rows["Delay (min)"].median()
    assert figure is not None and figure.value == pytest.approx(
        median if median is not None else float("nan"), nan_ok=True
    )
    held = {each.label: (each.rows, each.before) for each in reckoning.held(board, board.slicer("l22"))}
    without_own = dict(in_play((), tickets, first, last).group_by("Route").len().iter_rows())
    whole = dict(ROWS.group_by("Route").len().iter_rows())
    assert held == {name: (without_own.get(name, 0), count) for name, count in whole.items()}


def test_only_what_a_click_reaches_is_worked_out_again(demo: Opened) -> None:
    reckoning, board = Reckoning(demo.tables, demo.folio.phrases()), demo.folio.boards[0]
    spared = with_slicer(board, msgspec.structs.replace(board.slicer("l22"), spares=("p15",)))
    before = {panel.id: reckoning.panel(spared, panel) for panel in spared.panels}
    clicked = with_slicer(spared, msgspec.structs.replace(spared.slicer("l22"), chosen=("Osk – Vaila",)))
    after = {panel.id: reckoning.panel(clicked, panel) for panel in clicked.panels}
    assert [key for key in before if before[key] is after[key]] == ["p15"]
    # What a slicer's members hold depends on the other slicers alone.
    own, other = (next(s for s in board.slicers if s.dimension.field == name) for name in ("Route", "Ticket"))
    held = [(reckoning.held(each, own), reckoning.held(each, other)) for each in (spared, clicked)]
    assert held[0][0] is held[1][0] and held[0][1] is not held[1][1]
    lost = Reckoning(demo.tables, {})
    assert "no longer in the folio" in lost.panel(board, board.panel("p15")).refusal
    assert lost.panel(board, board.panel("p11")).key_figure is not None


def test_a_key_figure_compares_the_same_days(demo: Opened, reckoning: Reckoning) -> None:
    def takings(first: dt.date, last: dt.date) -> float:
        return float(ROWS.filter(pl.col("Sailed on").is_between(first, last))["Takings"].sum())

    board = demo.folio.boards[0]
    panel = board.panel("p11")
    for period, now, then, against in (
        (
            (None, None),
            (dt.date(2025, 1, 1), dt.date(2025, 11, 11)),
            (dt.date(2024, 1, 1), dt.date(2024, 11, 11)),
            "the same days of 2024",
        ),
        (
            ("2024-03", "2024-08"),
            (dt.date(2024, 3, 1), dt.date(2024, 8, 31)),
            (dt.date(2023, 3, 1), dt.date(2023, 8, 31)),
            "the same months of 2023",
        ),
        (
            ("2023-06", "2024-12"),
            (dt.date(2024, 1, 1), dt.date(2024, 12, 31)),
            (dt.date(2023, 1, 1), dt.date(2023, 12, 31)),
            "2023",
        ),
    ):
        figure = reckoning.panel(sliced(board, (), (), *period), panel).key_figure
        assert figure is not None and figure.against == against
        assert figure.change == pytest.approx((takings(*now) - takings(*then)) / takings(*then))
    first_year = reckoning.panel(sliced(board, (), (), "2023-01", "2023-12"), panel).key_figure
    assert first_year is not None and first_year.change != first_year.change  # nothing to compare with
    assert len(first_year.sparkline) == 12


def test_slicers_say_what_they_do(demo: Opened) -> None:
    board = demo.folio.boards[0]
    period, route = board.slicer("l21"), board.slicer("l22")
    assert isinstance(period, PeriodSlicer) and isinstance(route, ListSlicer)
    assert slicer_words(period) == slicer_words(route) == ""
    assert slicer_words(msgspec.structs.replace(period, first="2024-01", last="2025-11")) == "Jan 2024 – Nov 2025"
    assert slicer_words(msgspec.structs.replace(period, first="2024-02", last="2024-02")) == "Feb 2024"
    assert slicer_words(msgspec.structs.replace(route, chosen=("a", "b", "c", "d", None))) == "Route is a or b or c or 2 more"


def test_a_fold_that_would_not_shrink_the_rows_is_not_made(demo: Opened) -> None:
    from summula.core.fields.heading import Heading

    table = demo.tables["t1"]
    assert fold(table, [Heading("Route"), Heading("Ticket")]).size == 88
    assert fold(table, [Heading("Sailing no.")]).cell_of_row is None
    dated = fold(table, [Heading("Sailed on", "month"), Heading("Sailed on", "year"), Heading("Sailed on", "quarter")])
    assert dated.size == 35 and list(dated.bases) == [Heading("Sailed on", "year-month")]


@pytest.mark.parametrize("blank", [False, True])
def test_what_does_not_add_up_follows_any_mask(blank: bool) -> None:
    """Order statistics and distinct counts after each click, of whole and of loose values: against polars on the rows."""
    dice, size = np.random.default_rng(7), 40_000
    rows = pl.DataFrame({
        "Route": dice.choice(["North", "South", "Sound", "Skerry"], size), "Berth": dice.choice([f"B{n}" for n in range(30)], size),
        "Vessel": dice.choice(["Tern", "Fulmar", "Gannet"], size), "Pence": dice.integers(-50, 900, size) / 100,
        "Loose": dice.normal(size=size) * 10.0 ** dice.integers(-9, 9, size), "Same": np.full(size, 3.0),
    }).with_columns(pl.when(pl.Series(dice.random(size) < 0.1) & blank).then(None).otherwise(pl.col(name)).alias(name)
                    for name in ("Pence", "Loose", "Berth"))  # fmt: skip
    table = table_from_frame("T", rows, {"Pence": "number", "Loose": "number", "Same": "number", "Berth": "category"})
    fields = ("Pence", "Loose", "Same")
    asked = [f"{how} of {name}" for name in fields for how in ("median", "percentile 90", "percentile 0", "percentile 100")]
    text = f"show {' and '.join(asked)} and distinct count of Berth by Vessel across Route where Berth is not B3"
    phrase = parse(text, Vocabulary(table))
    board = Board("b", "B", (SummaryPanel("p", Place(0, 0, 6, 6), "s"),), (
        ListSlicer("l1", "t", Heading("Route")), ListSlicer("l2", "t", Heading("Berth"))))  # fmt: skip
    reckoning = Reckoning({"t": table}, {"s": ("t", phrase)})
    for routes, berths in ((("North",), ()), (("South", "Skerry"), ("B1", "B2", "B7")), ((), ("B29",)), (("North",), ("B3",))):
        now = replace(board, slicers=(replace(board.slicers[0], chosen=routes), replace(board.slicers[1], chosen=berths)))
        grid = reckoning.panel(now, now.panels[0]).grid
        kept = rows.filter((pl.col("Berth") != "B3").fill_null(True))
        for name, chosen in (("Route", routes), ("Berth", berths)):
            kept = kept.filter(pl.col(name).is_in(chosen)) if chosen else kept
        if kept.height == 0:
            assert grid is None or np.isnan(grid.values[0, 0][0]).all()
            continue
        assert grid is not None
        for level, by in (((0, 0), []), ((1, 0), ["Vessel"]), ((0, 1), ["Route"]), ((1, 1), ["Vessel", "Route"])):
            figures = [pl.col(f).quantile(q, "linear").alias(f"{f}{q}") for f in fields for q in (0.5, 0.9, 0.0, 1.0)]
            figures.append(pl.col("Berth").drop_nulls().n_unique().cast(pl.Float64).alias("n"))
            told = kept.group_by(by).agg(figures).sort(by).drop(by) if by else kept.select(figures)
            found = grid.values[level].reshape(len(figures), -1)
            assert np.allclose(np.sort(found, axis=1), np.sort(told.to_numpy().T, axis=1), rtol=1e-12, atol=0, equal_nan=True)


@pytest.mark.parametrize(
    "function", ["sum", "count", "mean", "min", "max", "range", "first", "last", "median", "distinct count"]
)
def test_cells_folded_once_more_answer_as_the_rows_do(demo: Opened, function: str) -> None:
    table = demo.tables["t1"]
    of = "Vessel" if function == "distinct count" else '"Delay (min)"'
    words = f'show {function} of {of} and rows by Route then year of "Sailed on" across Ticket'
    asked = parse(words, Vocabulary(table))
    tickets = Condition(Heading("Ticket"), "is", ("Single", "Staff pass"))
    needed = [*dimensions_of(asked, table)]
    finer = fold(table, [*needed, Heading("Vessel"), Heading("Weather")])
    cells = coarser(finer, needed)
    assert cells.size * 2 < finer.size
    sliced = answer(asked, table, cells, cells.passes(tickets))
    plain = answer(parse(words + ' where Ticket is Single or "Staff pass"', Vocabulary(table)), table)
    assert sliced.rows_used == plain.rows_used > 0
    for level, block in plain.values.items():
        np.testing.assert_allclose(sliced.values[level], block, rtol=1e-12)


@pytest.mark.parametrize(
    ("asked", "covered"),
    [
        ("sum of Takings by Route", True),
        ('mean of Takings by Route across year of "Sailed on" where Route is not blank', True),
        ('rows by fiscal year-quarter of "Sailed on" where "Sailed on" is from 2024-02 to 2024-05', False),  # needs days
        ('sum of Takings for (Ticket is Single) as share of column by year-half of "Sailed on"', True),
        ("sum of Takings / rows by Route keeping top 3 Route by sum of Takings gathering the rest", True),
        ("sum of Takings by Ticket where Route is not blank ordered by rows, largest first", True),
        ('sum of Takings by week of "Sailed on"', False),
        ("sum of Takings where Takings is at least 100", False),
        ("median of Takings by Route", False),
        ("sum of Passengers by Route", False),
        ('mean of "Delay (min)" by Route', False),
    ],
)
def test_what_a_board_has_folded_answers_a_new_phrase_as_the_rows_do(demo: Opened, asked: str, covered: bool) -> None:
    table = msgspec.structs.replace(demo.tables["t1"], memo=Memory())
    apart = msgspec.structs.replace(table, memo=Memory())
    phrase = with_defaults(parse(f"show {asked}", Vocabulary(table)), table)
    needed = dimensions_of(phrase, table)
    aggregates = [a for m in phrase.measures for a in aggregates_of(m.calculation)]
    assert covering(table, needed, aggregates) is None
    months = Heading("Sailed on", "year-month")
    for other in ("Route", "Ticket"):
        fold(table, [Heading(other), months]).part("Takings", "sum")
    fewest = fold(table, [Heading("Route"), Heading("Ticket")])
    fewest.part("Takings", "sum")
    fold(table, [Heading("Route"), Heading("Vessel"), Heading("Ticket")])  # more cells, and no takings
    found = covering(table, needed, aggregates)
    assert (found is not None) is covered
    if all(each in fewest.bases for each in needed) and covered:
        assert found is fewest
    one, other = answer(phrase, table), answer(phrase, apart)
    assert one.rows_used == other.rows_used > 0 and [*one.values] == [*other.values]
    for level, block in other.values.items():
        np.testing.assert_array_equal(one.values[level], block)
        np.testing.assert_array_equal(one.cell_rows[level], other.cell_rows[level])


@given(st.data())
def test_looking_up_is_indexing(data: st.DataObject) -> None:
    """Each way to look up (few marks, all but few, bytes, the plain one) against the plain one."""
    size = data.draw(st.sampled_from([1, 3, 8, 200, 256, 300]))
    kind = data.draw(st.sampled_from([np.uint8, np.uint16, np.intp] if size <= 256 else [np.uint16]))
    of = data.draw(st.sampled_from(["bool", "uint8", "float64"]))
    rng = np.random.default_rng(data.draw(st.integers(0, 99)))
    known = rng.integers(0, data.draw(st.sampled_from([1, 2, 250])), size).astype(of)
    places = rng.integers(0, size, data.draw(st.sampled_from([0, 1, 1000]))).astype(kind)
    np.testing.assert_array_equal(take_at(known, places), known[places])
    few = np.zeros(size, dtype=np.bool_)
    few[: data.draw(st.integers(0, 6))] = True
    for marks in (few, ~few):
        np.testing.assert_array_equal(take_at(marks, places), marks[places])


def test_a_panel_says_its_own_words_labels_and_legend(demo: Opened) -> None:
    """What a panel overrules is its own; the summary and every other panel of it stay."""
    board, summaries = demo.folio.boards[0], demo.folio.summaries
    panel = SummaryPanel("p91", Place(0, 0, 12, 9), "s7", words=Words(note="Of this panel"), legend=Legend("right"), labels=Labels("none"))
    plain = SummaryPanel("p92", Place(12, 0, 12, 9), "s7")
    now = replace(board, panels=(panel, plain))
    folio = replace(demo.folio, boards=(now,))
    reckoning = Reckoning({"t1": demo.tables["t1"]}, folio.phrases(), folio.looks())
    charts = [reckoning.panel(now, each).chart for each in (panel, plain)]
    assert charts[0] is not None and charts[1] is not None and charts[1].style == summaries[4].style
    assert (charts[0].style.words.note, charts[0].style.legend.place, charts[0].style.labels.show) == ("Of this panel", "right", "none")
    kept, problems = sound(folio)
    assert problems == () and kept.boards[0].panels[0] == panel
    wrong = replace(folio, boards=(replace(now, panels=(replace(panel, words=Words(note="x" * 9_000)),)),))
    assert sound(wrong)[1]
