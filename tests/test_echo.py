"""What slices, echoes and links: the figures are those that DuckDB gives for the same conditions, on random boards; and
by hand, with the mouse and keys."""

from __future__ import annotations

import math
from typing import Any

import duckdb
import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from summula.core.boards.arrangement import with_panel_changed
from summula.core.boards.board import Board, Place, SummaryPanel
from summula.core.boards.echoing import echoed, part_of, sliced_by, sliced_on
from summula.core.boards.panelkinds import panel_scene
from summula.core.boards.playing import PARTS, Play
from summula.core.boards.reach import keeping_slicing, sliced_as
from summula.core.boards.reckoning import Reckoning
from summula.core.charts.chart import Canvas
from summula.core.charts.places import bounds
from summula.core.engine.grid import Grid
from summula.core.fields.heading import Heading
from summula.core.fields.labels import label_of
from summula.core.folio.opened import Opened
from summula.core.language.completing import complete
from summula.core.phrases.lever import LeverSetting, with_levers
from summula.core.phrases.phrase import Condition
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.slicing.linking import FieldOf, Link, linked_slicer, offered_links
from summula.core.slicing.slicer import Echo, ListSlicer, NumberSlicer, PeriodSlicer, Slicer, TextSlicer
from summula.core.slicing.slicerkinds import cleared, slicer_words
from summula.core.summaries import Vocabulary, parse, print_phrase
from summula.core.summaries import answer as answered
from summula.core.theme.typefaces import text_width
from summula.desk.board.rangeview import RangeView
from summula.desk.board.slicerlist import SlicerList
from summula.desk.board.textview import TextView
from summula.desk.window import Window

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier
LINKS = (
    Link(FieldOf("t1", "Route"), FieldOf("t2", "Route")),
    Link(FieldOf("t1", "Sailed on"), FieldOf("t2", "Month"), by="month"),
)
THREE = (*LINKS, Link(FieldOf("t1", "Vessel"), FieldOf("t3", "Vessel")))
SEATS = pl.DataFrame({"Vessel": ["Petrel", "Tern", "Kittiwake", "Plover", "Skua"] * 3, "Deck": ["Upper", "Lower", "Open"] * 5, "Seats": range(15)})
# Each with its table, its grouping in SQL, and its figure there.
ASKED = (
    ("t1", "show sum of Takings by Vessel", ("Vessel",), "sum(Takings)"),
    ("t1", "show rows by Route across Ticket", ("Route", "Ticket"), "count(*)"),
    ("t1", 'show mean of Passengers by year of "Sailed on"', ('year("Sailed on")',), "avg(Passengers)"),
    ("t1", 'show median of "Delay (min)" by Weather', ("Weather",), 'median("Delay (min)")'),
    ("t1", 'show sum of Takings by month of "Sailed on" drawn as columns', ('month("Sailed on")',), "sum(Takings)"),
    ("t1", "show distinct count of Vessel by Ticket drawn as bars", ("Ticket",), "count(distinct Vessel)"),
    ("t1", "show sum of Takings by Ticket drawn as ring", ("Ticket",), "sum(Takings)"),
    ("t1", "show sum of Takings by Vessel keeping top 3 Vessel by sum of Takings drawn as bars", ("Vessel",), "sum(Takings)"),
    ("t2", 'show sum of "Takings goal" by Route', ("Route",), 'sum("Takings goal")'),
    ("t1", 'show sum of Takings * (1 + lever "Fares") by Route drawn as columns', ("Route",), "sum(Takings) * (1 + {lever})"),
    ("t3", "show sum of Seats by Deck across Vessel drawn as stacked columns", ("Deck", "Vessel"), "sum(Seats)"),
    ("t3", "show sum of Seats by Vessel drawn as bars", ("Vessel",), "sum(Seats)"),
    ("t2", 'show sum of "Takings goal" by year-month of Month drawn as lines', ("strftime(Month, '%Y-%m')",), 'sum("Takings goal")'),
)


@pytest.fixture(scope="module")
def stored(demo: Opened) -> duckdb.DuckDBPyConnection:
    from summula.core.tables.encoding import series_of

    connection = duckdb.connect()
    for table_id, table in demo.prepared().items():
        frame = pl.DataFrame({field.name: series_of(field.name, table.column(field.name)) for field in table.fields})
        frame = frame.with_columns(pl.col(pl.Decimal).cast(pl.Float64), pl.col(pl.Categorical, pl.Enum).cast(pl.String))
        connection.register(f"frame_{table_id}", frame.to_arrow())
        connection.execute(f"create table {table_id} as select * from frame_{table_id}")
    connection.register("frame_t3", SEATS.to_arrow())
    connection.execute("create table t3 as select * from frame_t3")
    return connection


def quoted(value: object) -> str:
    return f"'{value!s}'" if isinstance(value, str) else str(value)


def condition_sql(condition: Condition) -> str:
    heading = condition.heading
    field = f'"{heading.field}"'
    side = {"month": f"month({field})", "year": f"year({field})", "year-month": f"strftime({field}, '%Y-%m')"}.get(heading.part or "", field)
    match condition.test:
        case "is":
            return f"{side} in ({', '.join(quoted(int(v) if isinstance(v, float) and v == int(v) else v) for v in condition.values)})"
        case "is at least":
            return f"{side} >= {condition.values[0]}"
        case "is under":
            return f"{side} < {condition.values[0]}"
        case _:
            raise AssertionError(condition)


def slicer_sql(slicer: Slicer, table: str) -> str:
    """What a slicer lets through of a table; empty where it does not reach it."""
    if slicer.table != table:
        ends = {
            ("t1", "Route", "t2"): "Route", ("t2", "Route", "t1"): "Route", ("t1", "Sailed on", "t2"): "Month",
            ("t2", "Month", "t1"): "Sailed on", ("t1", "Vessel", "t3"): "Vessel", ("t3", "Vessel", "t1"): "Vessel",
        }  # fmt: skip
        other = ends.get((slicer.table, slicer.dimension.field, table))
        if other is None:
            return ""
        field = f'"{other}"'
    else:
        field = f'"{slicer.dimension.field}"'
    match slicer:
        case ListSlicer():
            chosen = [each for each in slicer.chosen if each is not None]
            return f"{field} in ({', '.join(map(quoted, chosen))})" if chosen else ""
        case PeriodSlicer():
            month = f"strftime({field}, '%Y-%m')"
            return " and ".join([*([f"{month} >= '{slicer.first}'"] if slicer.first else []), *([f"{month} <= '{slicer.last}'"] if slicer.last else [])])
        case NumberSlicer():
            return " and ".join([*([f"{field} >= {slicer.low}"] if slicer.low is not None else []), *([f"{field} < {slicer.high}"] if slicer.high is not None else [])])
        case TextSlicer():
            test = f"contains(lower({field}), lower({quoted(slicer.text)}))" if slicer.test == "contains" else f"starts_with(lower({field}), lower({quoted(slicer.text)}))"
            return test if slicer.text else ""


def figures_of(grid: Grid) -> dict[tuple[str, ...], float]:
    block, found = grid.values[grid.finest][0], {}
    for row in range(block.shape[0]):
        for column in range(block.shape[1]):
            if not math.isnan(block[row, column]) and (block[row, column] or "rows" not in grid.names):  # no rows are none
                paths = [(grid.rows, grid.rows.path(grid.rows.depth, row)), (grid.columns, grid.columns.path(grid.columns.depth, column))]
                found[tuple(str(m) for _, path in paths for m in path)] = float(block[row, column])
    return found


MONTHS = st.integers(0, 34).map(lambda n: f"{2023 + n // 12}-{n % 12 + 1:02d}")


@st.composite
def slicers(draw: st.DrawFn, demo_routes: tuple[str, ...], vessels: tuple[str, ...]) -> tuple[Slicer, ...]:
    made: list[Slicer] = []
    for at in range(draw(st.integers(0, 8))):
        kind = draw(st.sampled_from(["route", "vessel", "seats", "goal route", "period", "month", "number", "text"]))
        key = f"l{at}"
        if kind == "route":
            made.append(ListSlicer(key, "t1", Heading("Route"), tuple(draw(st.lists(st.sampled_from(demo_routes), max_size=3, unique=True)))))
        elif kind == "vessel":
            made.append(ListSlicer(key, "t1", Heading("Vessel"), tuple(draw(st.lists(st.sampled_from(vessels), max_size=4, unique=True)))))
        elif kind == "seats":
            made.append(ListSlicer(key, "t3", Heading("Vessel"), tuple(draw(st.lists(st.sampled_from(vessels), max_size=6, unique=True)))))
        elif kind == "goal route":
            made.append(ListSlicer(key, "t2", Heading("Route"), tuple(draw(st.lists(st.sampled_from(demo_routes), max_size=3, unique=True)))))
        elif kind in ("period", "month"):
            first, last = sorted((draw(MONTHS), draw(MONTHS)))
            ends = draw(st.sampled_from([(first, last), (None, last), (first, None)]))
            made.append(PeriodSlicer(key, "t1" if kind == "period" else "t2", "Sailed on" if kind == "period" else "Month", *ends))
        elif kind == "number":
            low, high = sorted((draw(st.integers(0, 120)), draw(st.integers(0, 120))))
            edges = tuple(float(each) for each in range(10, 120, 10))
            made.append(NumberSlicer(key, "t1", "Passengers", edges, *draw(st.sampled_from([(float(low), float(high)), (None, float(high)), (float(low), None)]))))
        else:
            made.append(TextSlicer(key, "t1", "Vessel", draw(st.sampled_from(["contains", "starts with"])), draw(st.sampled_from(["", "t", "PL", "ill", "zz"]))))
    return tuple(made)


@settings(max_examples=40)
@given(st.data())
def test_what_is_painted_is_what_duckdb_gives(demo: Opened, stored: duckdb.DuckDBPyConnection, data: st.DataObject) -> None:
    """Slicers of three tables, reach, what echoes, a lever, a step of play, and all of it kept under a name."""
    tables = {**demo.prepared(), "t3": table_from_frame("Seats", SEATS)}
    routes, vessels = (tables["t1"].column(name).members for name in ("Route", "Vessel"))  # type: ignore[union-attr]
    chosen = data.draw(st.lists(st.sampled_from(range(len(ASKED))), min_size=1, max_size=12))
    cut = data.draw(slicers(routes, vessels))
    panels = tuple(SummaryPanel(f"p{at}", Place(0, at, 6, 4), f"s{which}") for at, which in enumerate(chosen))
    cut = tuple(replace(each, spares=tuple(data.draw(st.sets(st.sampled_from([panel.id for panel in panels]), max_size=2)))) for each in cut)
    lever = LeverSetting("Fares", data.draw(st.integers(-10, 10)) / 20, -0.5, 0.5, 0.05)
    phrases = {
        f"s{which}": (table, with_levers(parse(text, Vocabulary(tables[table], (lever.name,))), (lever,)))
        for which, (table, text, _, _) in enumerate(ASKED) if which in chosen
    }  # fmt: skip
    named = keeping_slicing(Board("b", "B", panels, cut), "As it is")
    moved = replace(named, slicers=tuple(cleared(each) for each in cut))
    board, reckoning = sliced_as(moved, "As it is"), Reckoning(tables, phrases, links=THREE, levers=(lever,))
    assert board.slicers == cut
    if data.draw(st.booleans()):
        steps = Play("t1", "Sailed on", "2023-01", "2025-11", "2023-01", data.draw(st.sampled_from(PARTS)))
        play = steps.step(data.draw(st.integers(0, len(steps.steps) - 1)))
        cut = (*cut, replace(play, up_to=data.draw(st.booleans())).slicer)
        board = replace(board, slicers=cut)
    clicked = panels[0]
    source = reckoning.panel(board, clicked)
    assert source.chart is not None
    marks = [m for m in panel_scene(clicked, source, Canvas(600, 400)).tagged() if m.tag and m.tag.measure == 0 and (m.tag.by or m.tag.across)]
    echo: Echo | None = None
    for _ in range(data.draw(st.integers(0, 2)) if marks else 0):
        mark = data.draw(st.sampled_from(marks))
        assert mark.tag is not None
        part = part_of(mark.tag, source.chart.grid)
        if all(each.test == "is" for each in part):
            echo = echoed(echo, "p0", reckoning.table_of(clicked), part, adding=True)
    for panel, which in zip(panels, chosen, strict=True):
        table, text, groups, figure = ASKED[which]
        figure = figure.format(lever=lever.value)
        conditions = [sql for each in cut if panel.id not in each.spares and (sql := slicer_sql(each, table))]
        order = ", ".join(groups)
        whole = f"select {order}, {figure} from {table} where {' and '.join(conditions) or 'true'} group by {order}"
        wanted = {tuple(str(v) for v in row[:-1]): row[-1] for row in stored.execute(whole).fetchall() if row[-1] is not None}
        if "keeping top" in text:
            kept = sorted(wanted, key=lambda key: -wanted[key])[:3]
            wanted = {key: wanted[key] for key in kept}
        answer = reckoning.panel(board, panel, echo)
        if answer.chart is None:
            assert not wanted or answer.refusal
            continue
        heard = linked_slicer(THREE, echo, table) if echo is not None else None
        if heard is None:
            assert figures_of(answer.chart.grid) == pytest.approx(wanted)
            continue
        assert answer.chart.ghost is not None and figures_of(answer.chart.ghost) == pytest.approx(wanted)
        either = " or ".join("(" + " and ".join(map(condition_sql, part)) + ")" for part in heard.parts)
        asked = f"select {order}, {figure} from {table} where {' and '.join([*conditions, f'({either})'])} group by {order}"
        part_wanted = {tuple(str(v) for v in row[:-1]): row[-1] for row in stored.execute(asked).fetchall() if row[-1] is not None}
        assert figures_of(answer.chart.grid) == pytest.approx({key: value for key, value in part_wanted.items() if key in wanted})


def test_links_are_offered_where_names_and_members_agree(demo: Opened) -> None:
    tables = demo.prepared()
    found = offered_links(("t1", tables["t1"]), ("t2", tables["t2"]))
    assert found == list(LINKS) and offered_links(("t1", tables["t1"]), ("t2", tables["t2"]), found) == []
    days = Echo("p", "t1", ((Condition(Heading("Sailed on", "weekday"), "is", (1.0,)),),))
    assert linked_slicer(LINKS, days, "t2") is None  # a month knows no days of the week
    both = Echo("p", "t1", ((Condition(Heading("Vessel"), "is", ("Petrel",)), Condition(Heading("Route"), "is", ("Osk – Vaila",))),))
    heard = linked_slicer(LINKS, both, "t2")
    assert heard.parts == ((Condition(Heading("Route"), "is", ("Osk – Vaila",)),),)


def test_an_echo_becomes_a_slicing_where_slicers_can_say_it() -> None:
    board = Board("b", "B", (), (ListSlicer("l1", "t1", Heading("Route"), ("A",)),))
    route, ticket = Heading("Route"), Heading("Ticket")

    def part(*pairs: tuple[Heading, str]) -> tuple[Condition, ...]:
        return tuple(Condition(heading, "is", (value,)) for heading, value in pairs)

    after = sliced_by(board, Echo("p", "t1", (part((route, "B")), part((route, "C")))), "l9")
    assert after.slicers == (ListSlicer("l1", "t1", route, ("B", "C")),)
    after = sliced_by(board, Echo("p", "t1", (part((route, "B"), (ticket, "x")), part((route, "B"), (ticket, "y")))), "l9")
    assert [slicer_words(each) for each in after.slicers] == ["Route is B", "Ticket is x or y"]
    with pytest.raises(Refusal, match="more than them"):
        sliced_by(board, Echo("p", "t1", (part((route, "B"), (ticket, "x")), part((route, "C"), (ticket, "y")))), "l9")
    ranged = Echo("p", "t1", ((Condition(Heading("Fee"), "is at least", (10.0,)), Condition(Heading("Fee"), "is under", (20.0,))),))
    assert slicer_words(sliced_by(board, ranged, "l9").slicers[-1]) == "Fee from 10 to under 20"


def place_of(window: Window, title: str, words: str) -> tuple[Any, QPoint]:
    view = next(each for each in window.pages.board.panels.values() if each.panel.title == title)
    assert view.view.scene is not None
    for mark, x, y in view.view.scene.flat():
        if mark.tag is not None and words in mark.tag.title and mark.tag.said:
            area = bounds(mark, text_width)
            return view, QPoint(int((area.left + area.right) / 2 + x), int((area.top + area.bottom) / 2 + y))
    raise AssertionError(words)


def test_a_click_on_a_mark_echoes_in_all_panels(on_demo: Window) -> None:
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to(session.folio.boards[0].id)
    before = session.folio
    view, petrel = place_of(on_demo, "Where the takings come from", "Petrel")
    QTest.mouseClick(view.view, LEFT, pos=petrel)
    status = on_demo.status.account.text()
    assert status.startswith("Vessel is Petrel: ") and "% of those in play" in status
    charts = {each.panel.title: each.answer.chart for each in page.panels.values() if each.answer is not None and each.answer.chart is not None}
    assert all(chart.ghost is not None for chart in charts.values() if chart.form != "grid")
    own = charts["Where the takings come from"].grid
    shown = {label_of(own.rows.headings[0], own.rows.path(1, row)[0]): own.values[1, 0][0, row, 0] for row in range(own.rows.levels[1].size)}
    assert not math.isnan(shown["Petrel"]) and math.isnan(shown["Kittiwake"])  # the others stay, pale
    figures = [each for each in page.panels.values() if each.answer is not None and each.answer.key_figure is not None]
    assert all(not math.isnan(each.answer.key_figure.whole) for each in figures)  # type: ignore[union-attr]
    view, tern = place_of(on_demo, "Where the takings come from", "Kittiwake")
    QTest.mouseClick(view.view, LEFT, CTRL, pos=tern)
    assert on_demo.status.account.text().startswith("Vessel is Petrel or Kittiwake")
    assert session.folio is before and not session.history.undo_name  # it is no edit
    QTest.keyClick(view.view, Qt.Key.Key_Escape)
    assert session.board_state.echo is None and "rows" in on_demo.status.account.text()
    QTest.mouseClick(view.view, LEFT, pos=petrel)
    QTest.mouseClick(view.view, LEFT, pos=QPoint(view.view.width() - 2, view.view.height() - 2))
    assert session.board_state.echo is None
    view.view.setFocus()
    QTest.keyClick(view.view, Qt.Key.Key_Right)
    QTest.keyClick(view.view, Qt.Key.Key_Space)
    assert session.board_state.echo is not None
    QTest.keyClick(on_demo, Qt.Key.Key_S)
    assert session.board_state.echo is None
    added = session.folio.board(session.page_id).slicers[-1]
    assert isinstance(added, ListSlicer) and added.heading == Heading("Vessel") and added.chosen
    session.undo()
    assert session.folio == before


def test_a_chart_slices_where_it_is_told_to(on_demo: Window, stored: duckdb.DuckDBPyConnection) -> None:
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to(session.folio.boards[0].id)
    title = "Where the takings come from"
    view, _ = place_of(on_demo, title, "Petrel")
    board, panel = session.folio.board(session.page_id), view.panel.id
    session.set_board(with_panel_changed(board, panel, slices=True), "A click slices")
    before = session.folio

    def clicked(words: str, *keys: Qt.KeyboardModifier) -> list[str]:
        view, place = place_of(on_demo, title, words)
        QTest.mouseClick(view.view, LEFT, *keys, pos=place)
        return [slicer_words(each) for each in session.folio.board(session.page_id).slicers if each.narrows]

    assert clicked("Petrel") == ["Vessel is Petrel"] and session.board_state.echo is None
    slicer = session.folio.board(session.page_id).slicers[-1]
    assert panel in slicer.spares and slicer.id in page.slicers
    in_play = session.reckoning(session.folio.board(session.page_id)).rows_in_play(session.folio.board(session.page_id), "t1")
    assert (in_play,) == stored.execute("select count(*) from t1 where Vessel = 'Petrel'").fetchone()
    # The chart itself goes on showing all vessels, the chosen one before the others.
    chart = page.panels[panel].answer.chart
    assert chart is not None and chart.ghost is not None
    others = [chart.grid.values[1, 0][0, row, 0] for row in range(chart.grid.rows.levels[1].size) if chart.grid.rows.path(1, row)[0] != "Petrel"]
    assert others and all(map(math.isnan, others)) and not np.isnan(chart.ghost.values[1, 0]).any()
    assert clicked("Kittiwake", CTRL) == ["Vessel is Petrel or Kittiwake"]
    assert clicked("Petrel", CTRL) == ["Vessel is Kittiwake"]
    assert clicked("Petrel") == ["Vessel is Petrel"]
    assert clicked("Petrel") == []
    while session.folio != before:
        session.undo()
    # Values in ranges, and several headings at once, that slicers can say; and what they cannot is refused whole.
    fee, route = Heading("Fee"), Heading("Route")
    ends = tuple(Condition(fee, test, (end,)) for test, end in (("is at least", 10.0), ("is at most", 20.0)))
    one = sliced_on(Board("b", "B"), "p", "t1", (fee,), ends, "l9", adding=False)
    assert isinstance(one.slicers[0], NumberSlicer) and one.slicers[0].high > 20.0 and one.slicers[0].spares == ("p",)
    assert sliced_on(one, "p", "t1", (fee,), ends[:1], "l10", adding=False).slicers[0].high is None
    both = (Condition(route, "is", ("A",)), Condition(Heading("Ticket"), "is", ("x",)))
    two = sliced_on(Board("b", "B"), "p", "t1", (route, Heading("Ticket")), both, "l9", adding=False)
    assert [slicer_words(each) for each in two.slicers] == ["Route is A", "Ticket is x"]
    other = (replace(both[0], values=("B",)), replace(both[1], values=("y",)))
    with pytest.raises(Refusal, match="more than them"):
        sliced_on(two, "p", "t1", (route, Heading("Ticket")), other, "l10", adding=True)


def test_slicers_of_numbers_and_texts_and_looks_of_lists(on_demo: Window) -> None:
    from summula.desk.board.putonboard import add_slicer

    session, page = on_demo.session, on_demo.pages.board
    session.turn_to(session.folio.boards[0].id)
    for name in ("Passengers", "Vessel"):
        add_slicer(session, session.folio.board(session.page_id), "t1", name)
    numbers = next(each for each in page.slicers.values() if isinstance(each, RangeView))
    vessels = [each for each in page.slicers.values() if isinstance(each, SlicerList)][-1]

    def told(slicer_id: str) -> str:
        return slicer_words(session.folio.board(session.page_id).slicer(slicer_id))

    bars = numbers.bars
    start, end = (QPoint(int(bars.x_of(at)) + 3, 20) for at in (2, 4))
    QTest.mousePress(bars, LEFT, pos=start)
    QTest.mouseMove(bars, end)
    QTest.mouseRelease(bars, LEFT, pos=end)
    first = told(numbers.slicer.id)
    assert first.startswith("Passengers from ") and " to under " in first
    QTest.keyClick(bars, Qt.Key.Key_Right)
    assert told(numbers.slicer.id) not in ("", first)
    numbers.low.setText("25")
    numbers.high.setText("none")
    notices: list[str] = []
    session.notice.connect(lambda text, _: notices.append(text))
    QTest.keyClick(numbers.high, Qt.Key.Key_Return)
    assert "'none' is no number" in notices[-1]
    numbers.high.setText("75")
    QTest.keyClick(numbers.high, Qt.Key.Key_Return)
    assert told(numbers.slicer.id) == "Passengers from 25 to under 75"
    QTest.keyClick(bars, Qt.Key.Key_Escape)
    assert told(numbers.slicer.id) == ""
    # looks of a list
    page.set_arranging(True)
    vessels = [each for each in page.slicers.values() if isinstance(each, SlicerList)][-1]
    vessels.open_look(vessels.head.look)
    from summula.desk.board.slicerlook import ListLookPopover

    look = next(each for each in on_demo.findChildren(ListLookPopover) if each.isVisible())
    look.columns.setValue(2)
    look.order.setCurrentIndex(1)
    look.order.activated.emit(1)
    now = session.folio.board(session.page_id).slicer(vessels.slicer.id)
    assert isinstance(now, ListSlicer) and (now.columns, now.order) == (2, "rows")
    look.close()
    page.set_arranging(False)
    vessels = [each for each in page.slicers.values() if isinstance(each, SlicerList)][-1]
    assert vessels.rows.columns == 2 and [h.before for h in vessels.rows.held] == sorted((h.before for h in vessels.rows.held), reverse=True)
    QTest.mouseClick(vessels.rows, LEFT, pos=vessels.rows.row_centre(3))
    assert told(vessels.slicer.id) == f"Vessel is {vessels.rows.held[3].label}"
    # letters
    page.slicing.choose(vessels.slicer.id, ())
    folio = session.folio
    board = folio.board(session.page_id)
    session.set_board(replace(board, slicers=(*board.slicers, TextSlicer("l990", "t1", "Vessel"))), "Search")
    letters = next(each for each in page.slicers.values() if isinstance(each, TextView))
    letters.line.setFocus()
    QTest.keyClicks(letters.line, "ill")
    QTest.keyClick(letters.line, Qt.Key.Key_Return)
    assert told("l990") == "Vessel contains “ill”"
    chart = next(each for each in page.panels.values() if each.panel.title == "Where the takings come from").answer
    assert chart is not None and chart.chart is not None and chart.chart.grid.rows.levels[1].size == 1


LINKED = ("Route", 'year of "Sailed on"', 'month of "Sailed on"', 'year-month of "Sailed on"', "Vessel", "Ticket")
SIDES = {"Route": ("Route", "Route"), 'year of "Sailed on"': ('year("Sailed on")', "year(Month)"), 'month of "Sailed on"': ('month("Sailed on")', "month(Month)"),
         'year-month of "Sailed on"': ("strftime(\"Sailed on\", '%Y-%m')", "strftime(Month, '%Y-%m')"), "Vessel": ("Vessel", ""), "Ticket": ("Ticket", "")}  # fmt: skip


@settings(max_examples=30)
@given(st.data())
def test_figures_of_two_tables_stand_beside_each_other(demo: Opened, stored: duckdb.DuckDBPyConnection, data: st.DataObject) -> None:
    tables = {**demo.prepared(), "t3": table_from_frame("Seats", SEATS)}
    words = Vocabulary(tables["t1"], others=(tables["t2"],))
    by = data.draw(st.lists(st.sampled_from(LINKED), min_size=1, max_size=2, unique=True))
    text = f'show sum of Takings and sum of "Takings goal" in "Monthly targets" and sum of Takings / sum of "Takings goal" in "monthly targets" by {" then ".join(by)}'
    phrase = parse(text, words)
    assert parse(print_phrase(phrase), words) == phrase
    routes = tables["t1"].column("Route").members  # type: ignore[union-attr]
    cut = data.draw(slicers(routes, tables["t1"].column("Vessel").members))  # type: ignore[union-attr]
    board = Board("b", "B", (SummaryPanel("p0", Place(0, 0, 9, 9), "s0"),), cut)
    answer = Reckoning(tables, {"s0": ("t1", phrase)}, links=THREE).panel(board, board.panels[0])
    if answer.chart is None:
        return
    grid = answer.chart.grid
    where = [" and ".join(s for each in cut if (s := slicer_sql(each, table))) or "true" for table in ("t1", "t2")]
    sides = [SIDES[each] for each in by]
    taken = stored.execute(f"select {', '.join(a for a, _ in sides)}, sum(Takings) from t1 where {where[0]} group by all").fetchall()
    known = all(b for _, b in sides)
    goals = stored.execute(f"select {', '.join(b for _, b in sides)}, sum(\"Takings goal\") from t2 where {where[1]} group by all").fetchall() if known else []
    aimed = {tuple(map(str, row[:-1])): float(row[-1]) for row in goals if row[-1] is not None}
    for row in taken:
        path = tuple(map(str, row[:-1]))
        node = next(n for n in range(grid.rows.levels[-1].size) if tuple(map(str, grid.rows.path(grid.rows.depth, n))) == path)
        first, goal, share = grid.values[grid.finest][:, node, 0]
        assert first == pytest.approx(float(row[-1]))
        if aimed.get(path):
            assert goal == pytest.approx(aimed[path]) and share == pytest.approx(float(row[-1]) / aimed[path])
        else:
            assert math.isnan(goal) or goal == 0
    whole = stored.execute(f'select sum("Takings goal") from t2 where {where[1]}').fetchone()
    total = grid.bottom_line(1)
    assert total == pytest.approx(float(whole[0])) if whole and whole[0] is not None else math.isnan(total) or total == 0


def test_a_linked_table_that_lost_its_field_is_waited_for(demo: Opened) -> None:
    """A new file may lack the linked field: figures are blank and slicers of it move nothing there, without a fault."""
    goals = pl.DataFrame({"Pier": ["N", "S"], "Takings goal": [10.5, 20.5]})
    tables = {"t1": demo.prepared()["t1"], "t2": table_from_frame("Monthly targets", goals)}
    phrase = parse('show sum of Takings and sum of "Takings goal" in "Monthly targets" by Route', Vocabulary(tables["t1"], others=(tables["t2"],)))
    board = Board("b", "B", (SummaryPanel("p0", Place(0, 0, 9, 9), "s0"),), (ListSlicer("l1", "t1", Heading("Route"), ("Osk – Vaila",)),))
    answer = Reckoning(tables, {"s0": ("t1", phrase)}, links=LINKS).panel(board, board.panels[0])
    assert answer.chart is not None, answer.refusal
    assert np.isnan(answer.chart.grid.values[answer.chart.grid.finest][1]).all() and answer.chart.grid.bottom_line(1) == 31.0


def test_a_linked_figure_needs_its_link(demo: Opened) -> None:
    tables = demo.prepared()
    with pytest.raises(Refusal, match="no linked table 'Monthly targets'"):
        parse('show sum of "Takings goal" in "Monthly targets" by Route', Vocabulary(tables["t1"]))
    words = Vocabulary(tables["t1"], others=(tables["t2"],))
    with pytest.raises(Refusal, match="no field 'Fares'"):
        parse('show sum of Fares in "Monthly targets"', words)
    with pytest.raises(Refusal, match="no linked table"):
        answered(parse('show sum of "Takings goal" in "Monthly targets"', words), tables["t1"])
    phrase = parse('show rows by Route ordered by sum of "Takings goal" in "Monthly targets", largest first', words)
    with pytest.raises(Refusal, match="another table"):
        answered(phrase, tables["t1"])
    # What completes it: tables after "in", their fields after a function, and nothing of it where none is linked.
    linked = '"Takings goal" in "Monthly targets"'
    for before, alone, among in (
        ("show sum of ", {"Takings"}, {"Takings", linked}), ("show rows in ", set(), {'"Monthly targets"'}),
        (f"show sum of {linked[:14]} ", {"by"}, {"in", "by"}), ("show rows by month of ", {'"Sailed on"'}, {'"Sailed on"'}),
    ):  # fmt: skip
        for vocabulary, wanted in ((Vocabulary(tables["t1"]), alone), (words, among)):
            offered = {each.text for each in complete(before, len(before), vocabulary).choices}
            assert offered & {"Takings", linked, '"Monthly targets"', "in", "by", '"Sailed on"'} == wanted
