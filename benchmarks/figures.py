"""Figures that cannot be added up, and keeping: with all totals, against rivals who must work out every total anew."""

from __future__ import annotations

from collections.abc import Callable

import duckdb
import pandas as pd
import polars as pl

from benchmarks.board import board_of, reckoning_of
from benchmarks.timing import in_turn
from summula.core.engine.cells import COARSER, FOLDED, ROW_MASKS
from summula.core.engine.percentiles import ORDERS
from summula.core.engine.runs import UNITS
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.tables.table import Table

Report = Callable[[str, float, dict[str, float], str], None]
LEVELS = (["Route", "Vessel"], ["Route"], ["Vessel"], [])


def figures(rows: pl.DataFrame, table: Table, report: Report) -> None:
    """Median, distinct count, top five with the rest gathered, and a phrase typed when a board has folded the table."""
    words = Vocabulary(table)
    times = 7 if table.rows < 2_000_000 else 5
    connection = duckdb.connect()
    plain = rows.with_columns(pl.col("Route", "Vessel", "Ticket").cast(pl.String))
    connection.register("arrow_rows", plain.to_arrow())
    for name in ("Route", "Vessel"):
        members = ", ".join(f"'{m}'" for m in rows[name].dtype.categories)  # type: ignore[attr-defined]
        connection.execute(f"create type {name}_kind as enum ({members})")
    connection.execute(
        "create table stored as select Route::Route_kind Route, Vessel::Vessel_kind Vessel, Passengers, Takings from arrow_rows"
    )
    pandas = pd.DataFrame({name: rows[name].to_pandas() for name in ("Route", "Vessel", "Passengers", "Takings")})

    def forget() -> None:
        for kind in (FOLDED, ROW_MASKS, ORDERS, UNITS):
            kind.forget(table.memo)

    def by_polars(expression: pl.Expr) -> Callable[[], object]:
        lazy = rows.lazy()
        return lambda: pl.collect_all(
            [lazy.group_by(keys).agg(expression) if keys else lazy.select(expression) for keys in LEVELS]
        )

    def by_pandas(function: str, field: str) -> Callable[[], object]:
        def work() -> None:
            for keys in LEVELS:
                if keys:
                    getattr(pandas.groupby(keys, observed=True)[field], function)()
                else:
                    getattr(pandas[field], function)()

        return work

    def by_duckdb(figure: str) -> Callable[[], object]:
        text = f"select Route, Vessel, {figure} from stored group by grouping sets ((1, 2), (1), (2), ())"
        return lambda: connection.execute(text).fetchall()

    median = parse("show median of Takings by Route across Vessel", words)
    report(
        f"Median by two headings with all totals, {table.rows:,} rows",
        *in_turn(
            lambda: answer(median, table),
            {
                "polars": by_polars(pl.col("Takings").median()),
                "duckdb": by_duckdb("median(Takings)"),
                "pandas": by_pandas("median", "Takings"),
            },
            times,
            forget,
        ),
        "under 1.0",
    )
    distinct = parse("show distinct count of Passengers by Route across Vessel", words)
    report(
        f"Distinct count by two headings with all totals, {table.rows:,} rows",
        *in_turn(
            lambda: answer(distinct, table),
            {
                "polars": by_polars(pl.col("Passengers").n_unique()),
                "duckdb": by_duckdb("count(distinct Passengers)"),
                "pandas": by_pandas("nunique", "Passengers"),
            },
            times,
            forget,
        ),
        "under 1.0",
    )
    top = parse("show sum of Takings by Vessel keeping top 5 Vessel by sum of Takings gathering the rest", words)

    def polars_top() -> None:
        sums = rows.lazy().group_by("Vessel").agg(pl.col("Takings").sum()).sort("Takings", descending=True).collect()
        sums.head(5), sums.slice(5)["Takings"].sum(), sums["Takings"].sum()

    def pandas_top() -> None:
        sums = pandas.groupby("Vessel", observed=True)["Takings"].sum().sort_values(ascending=False)
        sums.head(5), sums[5:].sum(), sums.sum()

    def duckdb_top() -> None:
        connection.execute(
            "with s as (select Vessel, sum(Takings) t from stored group by 1), r as (select *, row_number() over (order by t desc) n from s) "
            "select case when n <= 5 then Vessel::varchar end v, sum(t) from r group by grouping sets ((1), ())"
        ).fetchall()

    report(
        f"Top five with the rest gathered, {table.rows:,} rows",
        *in_turn(
            lambda: answer(top, table),
            {"polars": polars_top, "duckdb": duckdb_top, "pandas": pandas_top},
            9,
            forget,
        ),
        "under 0.8",
    )
    typed = parse('show sum of Takings by Route across year of "Sailed on" where Ticket is Single', words)
    board, reckoning = board_of(table), reckoning_of(table)
    for panel in board.panels:
        reckoning.panel(board, panel)
    for slicer in board.slicers:
        reckoning.held(board, slicer)
    folded = list(FOLDED.all(table.memo))
    folded += [each for cells in folded for each in COARSER.all(cells.memo)]
    known = [(memory, memory.copy()) for memory in (table.memo, *(cells.memo for cells in folded))]

    def polars_typed() -> None:
        kept = (
            rows.lazy().filter(pl.col("Ticket") == "Single").with_columns(pl.col("Sailed on").dt.year().alias("year"))
        )
        pl.collect_all([
            kept.group_by(keys).agg(pl.col("Takings").sum()) if keys else kept.select(pl.col("Takings").sum())
            for keys in (["Route", "year"], ["Route"], ["year"], [])
        ])  # fmt: skip

    def forget_phrase() -> None:  # everything but what drawing the board has left
        for memory, before in known:
            memory.back_to(before)

    report(
        f"A typed phrase on a board's folded table, {table.rows:,} rows",
        *in_turn(lambda: answer(typed, table), {"polars": polars_typed}, times, forget_phrase, runs=4),
        "under 0.05",
    )
    forget()  # the board is folded anew where its click is told
    connection.close()
