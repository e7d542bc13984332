"""A board of 8 panels and 4 slicers over the benchmark's rows, and the rivals' way of answering it."""

from __future__ import annotations

from collections.abc import Callable

import duckdb
import numpy as np
import pandas as pd
import polars as pl

from summula.core.boards.board import Board, Place, SummaryPanel
from summula.core.boards.reckoning import Reckoning
from summula.core.fields.heading import Heading
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.summaries import parse
from summula.core.tables.table import Table

PHRASES = {
    "s1": 'show sum of Takings by month of "Sailed on" across year of "Sailed on"',
    "s2": "show sum of Takings by Vessel",
    "s3": "show sum of Passengers by Ticket",
    "s4": "show sum of Takings by Route then Vessel",
    "s5": 'show rows by year-quarter of "Sailed on" across Ticket',
    "s6": "show sum of Takings by Weather across Ticket",
    "s7": "show mean of Passengers by Route",
    "s8": "show sum of Takings and sum of Passengers and rows",
}
GROUPS: tuple[tuple[tuple[str, ...], str], ...] = (
    (("month", "year"), "Takings"), (("Vessel",), "Takings"), (("Ticket",), "Passengers"), (("Route", "Vessel"), "Takings"),
    (("quarter", "Ticket"), "rows"), (("Weather", "Ticket"), "Takings"), (("Route",), "mean Passengers"), ((), "Takings"),
)  # fmt: skip


def board_of(table: Table, route: int = 0, *, narrow: bool = False) -> Board:
    """The board with two routes chosen; when narrow, also two tickets and a period."""
    members = table.column("Route").members  # type: ignore[union-attr]
    panels = tuple(SummaryPanel(f"p{at}", Place(0, at, 6, 4), key) for at, key in enumerate(PHRASES))
    slicers = (
        ListSlicer("l1", "t1", Heading("Route"), (members[route], members[route + 1])),
        ListSlicer("l2", "t1", Heading("Ticket"), ("Day return", "Single") if narrow else ()),
        ListSlicer("l3", "t1", Heading("Weather")),
        PeriodSlicer("l4", "t1", "Sailed on", *(("2024-01", "2025-06") if narrow else (None, None))),
    )
    return Board("b1", "Bench", panels, slicers)


def reckoning_of(table: Table) -> Reckoning:
    return Reckoning({"t1": table}, {key: ("t1", parse(text)) for key, text in PHRASES.items()})


def click_rivals(rows: pl.DataFrame, *, narrow: bool = False) -> dict[str, Callable[[], object]]:
    """The same eight group-bys under the same filter, and the four slicers' counts under the others' filters.

    Date parts are made beforehand, as columns.
    """
    dated = rows.with_columns(
        pl.col("Sailed on").dt.month().alias("month"), pl.col("Sailed on").dt.year().alias("year"),
        (pl.col("Sailed on").dt.year().cast(pl.Int32) * 10 + pl.col("Sailed on").dt.quarter()).alias("quarter"),
        (pl.col("Sailed on").dt.year().cast(pl.Int32) * 100 + pl.col("Sailed on").dt.month()).alias("year_month"),
    )  # fmt: skip
    routes = rows["Route"].dtype.categories.to_list()[:2]  # type: ignore[attr-defined]
    first, last = pl.date(2024, 1, 1), pl.date(2025, 6, 30)

    figure = {"rows": pl.len(), "mean Passengers": pl.col("Passengers").mean()}
    filters = {
        "Route": pl.col("Route").is_in(routes), "Ticket": pl.col("Ticket").is_in(["Day return", "Single"]),
        "year_month": pl.col("Sailed on").is_between(first, last),
    }  # fmt: skip
    if not narrow:
        filters = {"Route": filters["Route"]}

    def slicers_by_polars() -> None:
        for own in ("Route", "Ticket", "Weather", "year_month"):
            others = [each for name, each in filters.items() if name != own]
            kept = dated.lazy().filter(*others) if others else dated.lazy()
            kept.group_by(own).agg(pl.len()).collect()

    def by_polars_alone() -> None:
        """Each panel filters for itself, as it must where slicers reach different panels."""
        for keys, name in GROUPS:
            kept = dated.lazy().filter(*filters.values())
            value = figure.get(name, pl.col(name).sum() if name in rows.columns else pl.len())
            (kept.group_by(keys).agg(value) if keys else kept.select(value)).collect()
        slicers_by_polars()

    def by_polars() -> None:
        """One filter shared by all panels."""
        kept = dated.lazy().filter(*filters.values())
        kept_now = kept.collect()
        for keys, name in GROUPS:
            value = figure.get(name, pl.col(name).sum() if name in rows.columns else pl.len())
            kept_now.group_by(keys).agg(value) if keys else kept_now.select(value)
        slicers_by_polars()

    connection = duckdb.connect()
    plain = dated.with_columns(pl.col("Route", "Vessel", "Ticket", "Sold through", "Weather").cast(pl.String))
    connection.register("arrow_rows", plain.to_arrow())
    kinds = []
    for name in ("Route", "Vessel", "Ticket", "Weather"):
        listed = ", ".join(f"'{m}'" for m in rows[name].dtype.categories)  # type: ignore[attr-defined]
        connection.execute(f"create type {name}_kind as enum ({listed})")
        kinds.append(f"{name}::{name}_kind {name}")
    connection.execute(
        f'create table stored as select {", ".join(kinds)}, month, year, quarter, year_month, "Sailed on" sailed, Takings, Passengers from arrow_rows'
    )
    connection.unregister("arrow_rows")
    del plain
    listed = ", ".join(f"'{route}'" for route in routes)
    sql = {
        "Route": f"Route in ({listed})", "Ticket": "Ticket in ('Day return', 'Single')",
        "year_month": "sailed between date '2024-01-01' and date '2025-06-30'",
    }  # fmt: skip
    if not narrow:
        sql = {"Route": sql["Route"]}
    where = " and ".join(sql.values())

    def by_duckdb() -> None:
        figure = {"rows": "count(*)", "mean Passengers": "avg(Passengers)"}
        for keys, name in GROUPS:
            value = figure.get(name, f"sum({name})")
            group = f" group by {', '.join(keys)}" if keys else ""
            connection.execute(f"select {', '.join([*keys, value])} from stored where {where}{group}").fetchall()
        for own in ("Route", "Ticket", "Weather", "year_month"):
            others = " and ".join(each for name, each in sql.items() if name != own) or "true"
            connection.execute(f"select {own}, count(*) from stored where {others} group by {own}").fetchall()

    rivals: dict[str, Callable[[], object]] = {
        "polars, one shared filter": by_polars,
        "polars, a filter a panel": by_polars_alone,
        "duckdb": by_duckdb,
    }
    if rows.height <= 2_000_000:
        data = dated.drop("Sold through").to_pandas()

        def by_pandas() -> None:
            days = data["Sailed on"]
            masks = {
                "Route": data["Route"].isin(routes), "Ticket": data["Ticket"].isin(["Day return", "Single"]),
                "year_month": (days >= "2024-01-01") & (days <= "2025-06-30"),
            }  # fmt: skip
            if not narrow:
                masks = {"Route": masks["Route"]}
            kept: pd.DataFrame = data[np.logical_and.reduce(list(masks.values()))]
            for keys, name in GROUPS:
                column = name.split()[-1] if name != "rows" else "Takings"
                grouped = kept.groupby(list(keys), observed=True)[column] if keys else kept[column]
                grouped.mean() if name.startswith("mean") else grouped.count() if name == "rows" else grouped.sum()
            for own in ("Route", "Ticket", "Weather", "year_month"):
                others = [mask for name, mask in masks.items() if name != own]
                inside = np.logical_and.reduce(others) if others else slice(None)
                data[own][inside].value_counts()

        rivals["pandas"] = by_pandas
    return rivals
