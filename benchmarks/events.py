"""A board of eight forms over two linked tables: from an event (a slicer, an echo, a lever, a step of play) to all panels
painted; against the rivals' group-bys alone. What the board takes beside its tables; a hundred boards opened and closed."""

from __future__ import annotations

import gc
import os
import random
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import duckdb
import numpy as np
import polars as pl
from msgspec.structs import replace
from PyQt6.QtGui import QImage, QPainter

from benchmarks.data import encoded, frame
from benchmarks.timing import in_turn, undisturbed
from summula.core.boards.board import Board, Place, SummaryPanel
from summula.core.boards.panelkinds import panel_scene
from summula.core.boards.playing import Play
from summula.core.boards.reckoning import Reckoning
from summula.core.charts.chart import Canvas
from summula.core.fields.heading import Heading
from summula.core.phrases.lever import LeverSetting, with_levers
from summula.core.phrases.phrase import Condition, Phrase
from summula.core.reading.readers import table_from_frame
from summula.core.slicing.linking import FieldOf, Link
from summula.core.slicing.slicer import Echo, ListSlicer, PeriodSlicer
from summula.core.summaries import Vocabulary, parse
from summula.core.tables.table import Table
from summula.desk.application import application
from summula.desk.widgets.painter import paint_scene

Report = Callable[..., None]
LEVER = LeverSetting("Fares", 0.0, -0.5, 0.5, 0.01)
LINKS = (
    Link(FieldOf("t1", "Route"), FieldOf("t2", "Route")),
    Link(FieldOf("t1", "Sailed on"), FieldOf("t2", "Month"), by="month"),
)
ASKED = (
    ("t1", 'show sum of Takings by month of "Sailed on" across year of "Sailed on" drawn as lines'),
    ("t1", 'show sum of Takings * (1 + lever "Fares") by Vessel drawn as columns'),
    ("t1", "show sum of Passengers by Ticket drawn as ring"),
    ("t1", "show sum of Takings by Route across Weather drawn as heat grid"),
    ("t1", 'show rows by year-quarter of "Sailed on" across Ticket drawn as stacked columns'),
    ("t1", "show sum of Takings and rows by Route then Ticket"),
    ("t2", "show sum of Goal by Route drawn as bars"),
    ("t1", "show sum of Takings drawn as key figure"),
)
SLOW = ("t1", "show median of Takings and distinct count of Vessel by Weather")
_SIZE, _RUNS = (300.0, 380.0), 100
# The same figures as the rivals group them: keys, and what is worked out.
_GROUPS = (
    (("month", "year"), "sum(Takings)"), (("Vessel",), "sum(Takings)"), (("Ticket",), "sum(Passengers)"),
    (("Route", "Weather"), "sum(Takings)"), (("quarter", "Ticket"), "count(*)"), (("Route", "Ticket"), "sum(Takings)"),
    ((), "sum(Takings)"),
)  # fmt: skip


def goals(table: Table) -> Table:
    """Monthly goals of each route."""
    routes = table.column("Route").members  # type: ignore[union-attr]
    months = pl.date_range(pl.date(2023, 1, 1), pl.date(2025, 11, 1), "1mo", eager=True)
    rows = pl.DataFrame({"Route": [r for r in routes for _ in months], "Month": list(months) * len(routes)})
    return table_from_frame("Goals", rows.with_columns(Goal=pl.lit(1000.5) + pl.int_range(rows.height) % 17 * 20))


class Bench:
    """A board of `asked` over the rows, and what happens on it."""

    def __init__(self, table: Table, asked: tuple[tuple[str, str], ...]) -> None:
        self.tables = {"t1": table, "t2": goals(table)}
        words = {key: Vocabulary(each, (LEVER.name,)) for key, each in self.tables.items()}
        self.asked = {f"s{at}": (key, parse(text, words[key])) for at, (key, text) in enumerate(asked)}
        panels = tuple(SummaryPanel(f"p{at}", Place(at % 4 * 6, at // 4 * 9, 6, 9), f"s{at}") for at in range(len(asked)))
        slicers = (
            ListSlicer("l1", "t1", Heading("Route")), ListSlicer("l2", "t1", Heading("Ticket")),
            ListSlicer("l3", "t1", Heading("Weather")), PeriodSlicer("l4", "t1", "Sailed on"),
        )  # fmt: skip
        self.board = Board("b", "Bench", panels, slicers)
        self.reckoning = Reckoning(self.tables, self._phrases(LEVER), links=LINKS, levers=(LEVER,))
        self.image = QImage(1280, 800, QImage.Format.Format_RGB32)

    def _phrases(self, lever: LeverSetting) -> dict[str, tuple[str, Phrase]]:
        return {key: (table, with_levers(phrase, (lever,))) for key, (table, phrase) in self.asked.items()}

    def show(self, board: Board, echo: Echo | None = None, *, paint: bool = True) -> None:
        """All panels answered, drawn and painted, and what the slicers hold."""
        answers = [(panel, self.reckoning.panel(board, panel, echo)) for panel in board.panels]
        for slicer in self.board.slicers:
            self.reckoning.held(board, slicer)
        if not paint:
            return
        self.image.fill(0xFFFDF9)
        painter = QPainter(self.image)
        for at, (panel, answer) in enumerate(answers):
            paint_scene(painter, panel_scene(panel, answer, Canvas(*_SIZE)), at % 4 * 320.0, at // 4 * 400.0)
        painter.end()

    def sliced(self, at: int) -> Board:
        routes = self.tables["t1"].column("Route").members  # type: ignore[union-attr]
        chosen = tuple(routes[(at + more) % len(routes)] for more in range(1 + at % 3))
        return replace(self.board, slicers=(replace(self.board.slicers[0], chosen=chosen), *self.board.slicers[1:]))

    def events(self) -> dict[str, Callable[[int], None]]:
        vessels = self.tables["t1"].column("Vessel").members  # type: ignore[union-attr]

        def slice_(at: int, *, paint: bool = True) -> None:
            self.show(self.sliced(at), paint=paint)

        def echo(at: int) -> None:
            part = (Condition(Heading("Vessel"), "is", (vessels[at % len(vessels)],)),)
            self.show(self.board, Echo("p1", "t1", (part,)))

        def lever(at: int) -> None:
            moved = LEVER.at(at % LEVER.steps)
            self.reckoning = replace(self.reckoning, phrases=self._phrases(moved), levers=(moved,))
            self.show(self.board)

        def play(at: int) -> None:
            stands = Play("t1", "Sailed on", "2023-01", "2025-11", "2023-01").step(at)
            self.show(replace(self.board, slicers=(*self.board.slicers, stands.slicer)))

        return {"slicer click": slice_, "echo click": echo, "lever step": lever, "play step": play}


def events(report: Report, sizes: tuple[int, ...] = (1_000_000, 10_000_000)) -> None:
    application()
    for size in sizes:
        rows = frame(size)
        table = encoded(rows)
        bench = Bench(table, ASKED)
        begun = time.perf_counter()
        bench.show(bench.board)
        print(f"Board of 8 forms, 4 slicers, 2 tables, {size:,} rows; first fold {(time.perf_counter() - begun) * 1000:.0f} ms")
        for name, event in bench.events().items():
            for at in range(3):
                event(at)
            taken, calm = undisturbed(event, _RUNS)
            print(f"    {name:13} to all painted: median {median(taken):6.1f} ms (goal: 16)   worst {max(taken):6.1f} ms (goal: 40)")
            if calm:
                print(f"        {len(calm):3} with the machine undisturbed:    {median(calm):6.1f}                 {max(calm):6.1f}")
        _against_rivals(report, bench, rows)
    memory()
    growth_of_boards()


def _against_rivals(report: Report, bench: Bench, rows: pl.DataFrame) -> None:
    dated = rows.with_columns(
        pl.col("Sailed on").dt.month().alias("month"), pl.col("Sailed on").dt.year().alias("year"),
        (pl.col("Sailed on").dt.year().cast(pl.Int32) * 10 + pl.col("Sailed on").dt.quarter()).alias("quarter"),
    )  # fmt: skip
    connection = duckdb.connect()
    connection.register("arrow_rows", dated.with_columns(pl.col(pl.Enum).cast(pl.String)).to_arrow())
    kinds = []
    for name in ("Route", "Vessel", "Ticket", "Weather"):
        listed = ", ".join(f"'{m}'" for m in rows[name].dtype.categories)  # type: ignore[attr-defined]
        connection.execute(f"create type {name}_kind as enum ({listed})")
        kinds.append(f"{name}::{name}_kind {name}")
    connection.execute(f"create table stored as select {', '.join(kinds)}, month, year, quarter, Takings, Passengers from arrow_rows")
    connection.unregister("arrow_rows")
    routes = bench.tables["t1"].column("Route").members[:2]  # type: ignore[union-attr]
    listed = ", ".join(f"'{each}'" for each in routes)
    figure = {"count(*)": pl.len(), "sum(Takings)": pl.col("Takings").sum(), "sum(Passengers)": pl.col("Passengers").sum()}

    def by_polars() -> None:
        kept = dated.lazy().filter(pl.col("Route").is_in(routes)).collect()
        for keys, value in _GROUPS:
            kept.group_by(keys).agg(figure[value]) if keys else kept.select(figure[value])

    def by_duckdb() -> None:
        for keys, value in _GROUPS:
            group = f" group by {', '.join(keys)}" if keys else ""
            connection.execute(f"select {', '.join([*keys, value])} from stored where Route in ({listed}){group}").fetchall()

    count = iter(range(10_000_000))

    def click() -> None:
        bench.show(bench.sliced(next(count)), paint=False)

    title = f"Computing of one slicer click on it, {rows.height:,} rows"
    report(title, *in_turn(click, {"polars": by_polars, "duckdb": by_duckdb}, 5, lambda: None), "ratio under 0.05 at 10 M")

    slow = Bench(bench.tables["t1"], (SLOW,))

    def slow_click() -> None:
        slow.show(slow.sliced(next(count)), paint=False)

    def slow_polars() -> None:
        kept = dated.lazy().filter(pl.col("Route").is_in(routes))
        kept.group_by("Weather").agg(pl.col("Takings").median(), pl.col("Vessel").n_unique()).collect()

    def slow_duckdb() -> None:
        connection.execute(
            f"select Weather, median(Takings), count(distinct Vessel) from stored where Route in ({listed}) group by Weather"
        ).fetchall()

    report(
        f"Median and distinct count after a click, {rows.height:,} rows",
        *in_turn(slow_click, {"polars": slow_polars, "duckdb": slow_duckdb}, 4, lambda: None), "ratio under 0.5",
    )  # fmt: skip
    connection.close()


def _resident() -> int:
    gc.collect()
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def memory() -> None:
    """What a board of ten million rows takes beside its tables."""
    table = encoded(frame(10_000_000))
    held = sum(
        part.nbytes
        for column in table.columns
        for name in column.__struct_fields__
        if isinstance(part := getattr(column, name), np.ndarray)
    )
    before = _resident()
    bench = Bench(table, ASKED)
    for event in bench.events().values():
        for at in range(10):
            event(at)
    more = _resident() - before
    print(f"Memory of the board beside its tables, 10 M rows: {more / held:.2f} of {held >> 20} MB (goal: 0.5)")


def growth_of_boards() -> None:
    """A hundred boards of random panels opened, clicked and let go."""
    table, dice = encoded(frame(200_000)), random.Random(5)
    sizes = []
    for _ in range(100):
        bench = Bench(table, tuple(dice.choice(ASKED) for _ in range(dice.randrange(1, 9))))
        for event in bench.events().values():
            event(dice.randrange(100))
        sizes.append(_resident() >> 20)
    third = sum(sizes[33:66]) / 33, sum(sizes[67:]) / 33
    print(f"A hundred boards opened and closed: {third[0]:.0f} MB in the second third, {third[1]:.0f} MB in the last")
