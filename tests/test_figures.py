"""Every figure against independent oracles: random phrases of random small tables."""

from __future__ import annotations

import datetime as dt
import math
from typing import Any

import numpy as np
import pandas as pd
import polars as pl
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from summula.core.engine.cells import unfolded
from summula.core.engine.combinations import combine
from summula.core.engine.joined import Joined, Packed
from summula.core.fields.heading import Heading
from summula.core.folio.opened import Opened
from summula.core.grids.records import laid_out
from summula.core.phrases.phrase import Aggregate, Measure
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.summaries import Phrase, Vocabulary, answer, parse
from summula.core.tables.table import Table
from tests.oracle import (
    SQL_AGGREGATE,
    SQL_FISCAL,
    SQL_PART,
    ask_duckdb,
    ask_pandas,
    assert_same,
    figures_of,
    sql_heading,
)

DAY = dt.date(2023, 11, 20)
rows = st.fixed_dictionaries(
    {
        "place": st.sampled_from(["b", "A", "é", "a10", "a9", "日本", None]),
        "boat": st.sampled_from(["Tern", "Gull", None]),
        "money": st.one_of(
            st.none(), st.integers(-500, 500).map(lambda n: n / 100), st.sampled_from([0.0, 1.1, 1e9, -1e9])
        ),
        "loose": st.one_of(st.none(), st.floats(-1e6, 1e6, width=32)),
        "on": st.one_of(st.none(), st.integers(0, 500).map(lambda n: DAY + dt.timedelta(days=n))),
    }
)
tables = st.lists(rows, max_size=24)
by_headings = st.sampled_from(
    [Heading("place"), Heading("boat"), *(Heading("on", part) for part in SQL_PART), Heading("money")]  # type: ignore[arg-type]
)
asked = st.tuples(st.sampled_from(list(SQL_AGGREGATE)), st.sampled_from(["money", "loose"])).map(
    lambda pair: Aggregate("rows") if pair[0] == "rows" else Aggregate(pair[0], pair[1])
)
CONDITIONS = {
    "": "true",
    "where boat is Tern": "boat = 'Tern'",
    "where boat is not Tern": "(boat is null or boat <> 'Tern')",
    "where money is over 1": "money > 1",
    "where money is from -1 to 1.1 and place is not blank": "money between -1 and 1.1 and place is not null",
    "where on is at least 2024-02-01": '"on" >= date \'2024-02-01\'',
    "where quarter of on is 1 or 4": 'quarter("on") in (1, 4)',
    "where on is from 2024-01 to 2024-02": "strftime(\"on\", '%Y-%m') in ('2024-01', '2024-02')",
    'where place contains "a"': "lower(place) like '%a%'",
}  # fmt: skip


def build(records: list[dict[str, Any]]) -> tuple[Table, pd.DataFrame]:
    schema = {"place": pl.String, "boat": pl.String, "money": pl.Float64, "loose": pl.Float64, "on": pl.Date}
    frame = pl.DataFrame(records, schema=schema)
    kinds = {"place": "category", "boat": "category", "money": "number", "loose": "number", "on": "date"}
    plain = pd.DataFrame({name: pd.Series(frame[name].to_list(), dtype=_dtype(name)) for name in schema})
    return table_from_frame("T", frame, kinds), plain  # type: ignore[arg-type]


def _dtype(name: str) -> str:
    return "float64" if name in ("money", "loose") else "datetime64[s]" if name == "on" else "object"


@settings(max_examples=220)
@given(tables, st.lists(asked, min_size=1, max_size=3), st.lists(by_headings, max_size=2, unique=True),
       st.lists(by_headings, max_size=2, unique=True), st.sampled_from(list(CONDITIONS)), st.booleans())  # fmt: skip
@example([], [Aggregate("sum", "money")], [Heading("place")], [], "", False)
@example([{"place": "b", "boat": None, "money": None, "loose": None, "on": None}], [Aggregate("median", "loose")],
         [Heading("boat")], [Heading("on", "year")], "", True)  # fmt: skip
def test_every_level_agrees_with_duckdb(
    records: list[dict[str, Any]], aggregates: list[Aggregate], by: list[Heading], across: list[Heading],
    condition: str, rowwise: bool,
) -> None:  # fmt: skip
    table, frame = build(records)
    across = [heading for heading in across if heading not in by]
    where = parse(f"show rows {condition}").where
    phrase = Phrase(tuple(Measure(a) for a in aggregates), by=tuple(by), across=tuple(across), where=where)
    grid = answer(phrase, table, unfolded(table) if rowwise else None)
    sql = [SQL_AGGREGATE[a.function].format(f'"{a.field}"') for a in aggregates]
    expected = ask_duckdb(
        frame, sql, [sql_heading(h) for h in by], [sql_heading(h) for h in across], CONDITIONS[condition]
    )
    assert len({len(line) for line in laid_out(grid, exact=False)}) == 1  # every row as long as its heads
    if not len(frame) or grid.rows_used == 0:
        assert all(math.isnan(grid.bottom_line(at)) or grid.bottom_line(at) == 0 for at in range(len(aggregates)))
        assert figures_of(grid) == {}
        return
    assert_same(figures_of(grid), expected, rel=1e-7)


@given(tables, st.sampled_from(list(SQL_FISCAL)), st.sampled_from(list(SQL_FISCAL)), st.booleans())
def test_a_fiscal_year_from_april_agrees_with_duckdb(
    records: list[dict[str, Any]], part: str, other: str, rowwise: bool
) -> None:
    table, frame = build(records)
    table = table.with_year(4)
    by, across = Heading("on", part), Heading("on", other)  # type: ignore[arg-type]
    columns = () if by == across else (across,)
    phrase = Phrase((Measure(Aggregate("sum", "money")),), by=(by,), across=columns)
    grid = answer(phrase, table, unfolded(table) if rowwise else None)
    expected = ask_duckdb(frame, ['sum("money")'], [sql_heading(by)], [sql_heading(each) for each in columns])
    if len(frame):
        assert_same(figures_of(grid), expected, rel=1e-7)
    known = [each for each in members(grid) if each is not None]
    order = [(month - 4) % 12 for month in known] if part == "month" else known
    assert order == sorted(order)


def test_a_year_earlier_in_a_fiscal_year() -> None:
    days = [dt.date(2023, 3, 31), dt.date(2023, 4, 1), dt.date(2024, 3, 31), dt.date(2024, 4, 1)]
    table = table_from_frame("T", pl.DataFrame({"on": days, "n": [1.0, 2.0, 4.0, 8.0]})).with_year(4)
    words = Vocabulary(table)
    earlier = answer(parse("show n and n as change on a year earlier by fiscal year of on", words), table)
    assert members(earlier) == ["2022/23", "2023/24", "2024/25"]
    assert [float(each) for each in earlier.values[1, 0][1, :, 0]][1:] == [5.0, 2.0]
    told = parse('show n where fiscal year-quarter of on is "2023/24-Q4" or "q4 2022/23"', words)
    assert told.where[0].values == ("2023/24-Q4", "2022/23-Q4")
    assert answer(told, table).bottom_line() == 5.0


def test_a_hundred_thousand_members_in_many_scripts_agree_with_pandas() -> None:
    """Long headings, ties, figures of very different size, and sums that are exact to the last unit."""
    rng = np.random.default_rng(11)
    scripts = ["Fähre", "паром", "フェリー", "عبارة", "πλοίο", "नौका", "מעבורת", "渡船", "Çay", "e\u0301"]
    names = np.array([f"{scripts[n % 10]} {n}" for n in range(100_000)])
    picks = rng.integers(0, 100_000, 300_000)
    cents = rng.choice([1, -1, 10**4, 10**10, 7], 300_000) * rng.integers(1, 9, 300_000)
    tiny = rng.normal(size=300_000) * 10.0 ** rng.integers(-12, 12, 300_000)
    blank = rng.random(300_000) < 0.1
    frame = pl.DataFrame(
        {"Who": names[picks], "Paid": np.round(cents / 100, 2), "Tiny": np.where(blank, np.nan, tiny)}
    ).with_columns(pl.col("Tiny").fill_nan(None))
    table = table_from_frame("T", frame, {"Who": "category", "Paid": "number", "Tiny": "number"})
    grid = answer(
        parse("show sum of Paid and median of Tiny and count of Tiny and max of Tiny by Who", Vocabulary(table)), table
    )
    whole = pd.Series(cents).groupby(names[picks]).sum()  # whole cents: no rounding anywhere
    others = frame.to_pandas().groupby("Who")["Tiny"].agg(["median", "count", "max"])
    shown = members(grid)
    assert len(shown) == len(whole)
    figures = grid.values[1, 0][:, :, 0]
    assert (np.rint(figures[0] * 100) == whole.loc[shown].to_numpy()).all()
    for at, name in enumerate(("median", "count", "max"), start=1):
        assert np.allclose(figures[at], others[name].loc[shown].to_numpy(), rtol=1e-12, atol=0, equal_nan=True)
    assert grid.bottom_line() == int(cents.sum()) / 100
    top = answer(
        parse("show sum of Paid by Who keeping top 500 Who by sum of Paid gathering the rest", Vocabulary(table)), table
    )
    best = whole.sort_values(ascending=False, kind="stable")
    assert sorted(top.values[1, 0][0, :500, 0] * 100) == pytest.approx(sorted(best.iloc[:500]))
    assert top.values[1, 0][0, 500, 0] * 100 == pytest.approx(best.iloc[500:].sum())


@given(tables, st.integers(0, 100), st.sampled_from(["place", "boat"]))
def test_percentiles_interpolate_as_numpy_does(records: list[dict[str, Any]], percent: int, by: str) -> None:
    table, frame = build(records)
    grid = answer(parse(f"show percentile {percent} of money by {by}"), table)
    for (path, _), (figure,) in figures_of(grid).items():
        chosen = frame if not path else frame[frame[by] == path[0]] if path[0] is not None else frame[frame[by].isna()]
        known = chosen["money"].dropna().to_numpy()
        if len(known) == 0:
            assert figure is None
        else:
            assert figure == pytest.approx(np.percentile(known, percent), rel=1e-12, abs=1e-9)


@settings(max_examples=25)
@given(st.integers(0, 2**32), st.integers(0, 100), st.sampled_from([1, 3, 40_000]), st.booleans(), st.booleans())
def test_percentiles_of_many_rows_at_every_level(seed: int, percent: int, spread: int, blanks: bool, some: bool) -> None:
    """Coarser figures are found among the sorted runs of finer ones: the same as sorting their rows."""
    rng = np.random.default_rng(seed)
    rows = 140_000 if spread == 40_000 else 9_000  # over one stretch, and below
    values = np.rint(rng.normal(0, spread, rows)) / 100
    frame = pd.DataFrame(
        {"a": rng.choice(list("xyz"), rows), "b": rng.choice(["p", "q"], rows), "n": np.where(rng.random(rows) < 0.1, np.nan, values) if blanks else values}
    )
    table = table_from_frame("T", pl.from_pandas(frame).with_columns(pl.col("n").fill_nan(None)), {"n": "number"})
    where = " where a is x or y" if some else ""
    grid = answer(parse(f"show percentile {percent} of n and median of n by a across b{where}", Vocabulary(table)), table)
    inside = frame[frame["a"].isin(["x", "y"])] if some else frame
    for (i, j), block in grid.values.items():
        for row in range(block.shape[1]):
            for column in range(block.shape[2]):
                chosen = inside
                for name, path in (("a", grid.rows.path(i, row)), ("b", grid.columns.path(j, column))):
                    chosen = chosen[chosen[name] == path[0]] if path else chosen
                known = chosen["n"].dropna().to_numpy()
                assert block[0, row, column] == pytest.approx(np.percentile(known, percent), abs=1e-9)
                assert block[1, row, column] == pytest.approx(np.median(known), abs=1e-9)


@given(tables, st.integers(1, 4), st.sampled_from(["top", "bottom"]), st.booleans())
def test_keeping_and_gathering(records: list[dict[str, Any]], number: int, end: str, gather: bool) -> None:
    """Exactly N are kept; ties go to the first in order; gathered rows are all the others."""
    table, frame = build(records)
    if frame.empty:
        return
    gathering = "gathering the rest" if gather else ""
    grid = answer(
        parse(f"show sum of money and rows by place keeping {end} {number} place by sum of money {gathering}"), table
    )
    whole = answer(parse("show sum of money and rows by place"), table)
    order = [whole.rows.path(1, node)[0] for node in range(whole.rows.levels[1].size)]
    sums = {m: float(v) for m, v in zip(order, whole.values[1, 0][0, :, 0], strict=True)}
    sign = -1 if end == "top" else 1
    ranked = sorted(
        order, key=lambda m: (math.isnan(sums[m]), sign * sums[m] if not math.isnan(sums[m]) else 0, order.index(m))
    )
    kept = set(ranked[:number])
    shown = [grid.rows.path(1, node)[0] for node in range(grid.rows.levels[1].size)]
    rest = [m for m in order if m not in kept]
    plain = [m for m in shown if not hasattr(m, "size")]
    assert plain == [m for m in order if m in kept]
    in_kept = sum(whole.values[1, 0][1, order.index(m), 0] for m in kept)
    if gather and rest:
        assert shown[-1].size == len(rest)  # type: ignore[union-attr]
        assert grid.bottom_line(1) == len(frame)
        assert grid.values[1, 0][1, -1, 0] == len(frame) - in_kept
    else:
        assert grid.bottom_line(1) == in_kept


@given(tables)
def test_comparisons_by_their_definitions(records: list[dict[str, Any]]) -> None:
    table, _ = build(records)
    grid = answer(
        parse(
            "show sum of money and sum of money as share of all and sum of money as share of row and "
            "sum of money as share of column and sum of money as running total along quarter of on and "
            "sum of money as change on previous quarter of on and sum of money as percent change on a year earlier "
            "and sum of money as rank along boat by boat across year of on then quarter of on"
        ),
        table,
    )
    if grid.empty:
        return
    v, columns = grid.values, grid.columns
    for (i, j), block in v.items():
        for r in range(block.shape[1]):
            for c in range(block.shape[2]):
                figure, of_all, of_row, of_column, running, change, yearly, rank = block[:, r, c]
                assert same(of_all, over(figure, v[0, 0][0, 0, 0]))
                assert same(of_row, over(figure, v[i, 0][0, r, 0]))
                assert same(of_column, over(figure, v[0, j][0, 0, c]))
                if j == 2:
                    parent = columns.levels[2].parent
                    before = [k for k in range(block.shape[2]) if parent[k] == parent[c] and k <= c]
                    known = [block[0, r, k] for k in before if not math.isnan(block[0, r, k])]
                    assert same(running, sum(known) if known else math.nan)
                    assert same(change, figure - block[0, r, before[-2]] if len(before) > 1 else math.nan)
                else:
                    assert math.isnan(running) and math.isnan(change)
                if j >= 1:
                    year, *rest = columns.path(j, c)
                    earlier = (year - 1, *rest) if isinstance(year, int) else None
                    match = [k for k in range(block.shape[2]) if columns.path(j, k) == earlier]
                    old = block[0, r, match[0]] if match else math.nan
                    assert same(yearly, over(figure - old, abs(old)))
                if i == 1:
                    others = [block[0, k, c] for k in range(block.shape[1])]
                    expected = 1 + sum(o > figure for o in others) if not math.isnan(figure) else math.nan
                    assert same(rank, expected)


def over(above: float, below: float) -> float:
    return above / below if below and not math.isnan(below) else math.nan


def same(first: float, second: float) -> bool:
    return (math.isnan(first) and math.isnan(second)) or math.isclose(first, second, rel_tol=1e-9, abs_tol=1e-9)


def grid_of(text: str, **columns: Any) -> Any:
    table = table_from_frame("T", pl.DataFrame(columns, strict=False))
    return answer(parse(text, Vocabulary(table)), table)


def members(grid: Any, level: int = 1) -> list[Any]:
    return [grid.rows.path(level, node)[-1] for node in range(grid.rows.levels[level].size)]


def test_orders_and_empty_members() -> None:
    natural = grid_of("show rows by Pier", Pier=["Pier 10", "pier 9", "Émil", "Emil 2", None, "Zed"])
    assert members(natural) == ["Émil", "Emil 2", "pier 9", "Pier 10", "Zed", None]
    backwards = grid_of("show rows by Pier ordered Pier backwards", Pier=["a", "b", None])
    assert members(backwards) == ["b", "a", None]
    listed = grid_of("show rows by Pier ordered Pier as c, a", Pier=["a", "b", "c", None])
    assert members(listed) == ["c", "a", "b", None]
    every = grid_of("show rows by Pier where Boat is x with every member", Pier=["a", "b", None], Boat=["x", "y", "y"])
    assert members(every) == ["a", "b"]
    assert [float(v) for v in every.values[1, 0][0, :, 0]] == [1, 0]
    bands = grid_of("show rows by Late in bands of 10 from 0 to 40", Late=[-5, 3, 9.5, 31, 40, 99, None])
    assert [tuple(m)[:2] if m else m for m in members(bands)] == [
        (None, 0), (0, 10), (10, 20), (20, 30), (30, 40), (40, None), None,
    ]  # fmt: skip
    assert [float(v) for v in bands.values[1, 0][0, :, 0]] == [1, 2, 0, 0, 1, 2, 1]


def test_money_is_exact_and_blanks_stay_blank() -> None:
    cents = grid_of("show sum of Paid by Who", Paid=[0.1] * 10 + [None], Who=["a"] * 10 + ["b"])
    assert [cents.bottom_line(), *cents.values[1, 0][0, :, 0]][:2] == [1.0, 1.0]
    assert math.isnan(cents.values[1, 0][0, 1, 0])
    large = grid_of("show sum of Paid", Paid=[90_071_992_547_409.91, 0.01, -90_071_992_547_409.91])
    assert large.bottom_line() == 0.01
    none = grid_of("show sum of Paid / count of Paid by Who", Paid=[None, 2.0], Who=["a", "b"])
    assert math.isnan(none.values[1, 0][0, 0, 0])
    assert none.values[1, 0][0, 1, 0] == 2.0


def test_too_much_is_refused_in_a_sentence() -> None:
    many = pl.DataFrame({"a": [f"x{n}" for n in range(6000)], "b": [f"y{n}" for n in range(6000)]})
    table = table_from_frame("T", many)
    with pytest.raises(Refusal, match="figures; remove a heading"):
        answer(parse("show rows by a across b"), table)


DEMO_SQL = {
    "s3": (["sum(\"Takings\")"], ["Route", "Vessel"], "\"Ticket\" <> 'Staff pass'"),
    "s4": (["sum(\"Takings\")"], ['month("Sailed on")'], "true"),
    "s5": (["sum(\"Takings\") - sum(\"Running cost\")"], ['month("Sailed on")'], "true"),
    "s6": (["sum(\"Takings\")"], ["Vessel"], "true"),
    "s7": (["sum(\"Passengers\")"], ['year("Sailed on")', 'quarter("Sailed on")'], "true"),
}  # fmt: skip


@pytest.mark.parametrize("which", list(DEMO_SQL))
def test_the_demos_summaries_agree_with_duckdb_and_pandas(which: str, demo: Opened) -> None:
    from summula.demo.company import sailings

    frame = sailings().to_pandas()
    summary = demo.folio.summary(which)
    grid = answer(summary.phrase, demo.tables["t1"])
    sql, by, where = DEMO_SQL[which]
    across = ['year("Sailed on")'] if which in ("s3", "s4") else ["Ticket"] if which == "s7" else []
    if summary.phrase.keeping:  # the kept members and the gathered one, said in SQL
        kept = summary.phrase.keeping[0]
        name, count = kept.heading.field, int(kept.number)
        measure = {"s3": "Takings", "s7": "Passengers"}[which]
        inside = frame if where == "true" else frame[frame["Ticket"] != "Staff pass"]
        top = inside.groupby(name)[measure].sum().sort_values(ascending=False).index[:count]
        frame[name] = frame[name].where(frame[name].isin(top), "~rest")
    expected = ask_duckdb(frame, sql, [f'"{b}"' if "(" not in b else b for b in by], across, where)
    ours = {place: figures[:1] for place, figures in figures_of(grid).items()}
    assert_same(ours, expected)
    # And of pandas, with the date parts made as columns of its own.
    frame["year"], frame["month"] = frame["Sailed on"].dt.year, frame["Sailed on"].dt.month
    frame["quarter"], frame["net"] = frame["Sailed on"].dt.quarter, frame["Takings"] - frame["Running cost"]
    inside = frame[frame["Ticket"] != "Staff pass"] if which == "s3" else frame
    measure = {"s5": "net", "s7": "Passengers"}.get(which, "Takings")
    rows = {"s3": ["Route", "Vessel"], "s6": ["Vessel"], "s7": ["year", "quarter"]}.get(which, ["month"])
    assert_same(
        ours, ask_pandas(inside, measure, rows, {"s3": ["year"], "s4": ["year"], "s7": ["Ticket"]}.get(which, []))
    )
    if which == "s3":  # its second measure is the first one's share of the bottom line
        whole = figures_of(grid)[(), ()][0]
        assert all(
            share == pytest.approx(figure / whole) for figure, share in figures_of(grid).values() if figure is not None
        )


@given(st.lists(st.integers(-(2**27), 2**27), min_size=1, max_size=40), st.integers(0, 2**32))
def test_packed_sums_are_exact(units: list[int], seed: int) -> None:
    """Counting and summing in one pass loses nothing, up to the largest units it is used for."""
    rng = np.random.default_rng(seed)
    values = rng.choice(np.array([*units, 7, 2**28 - 1], dtype=np.float64), 70_000)  # of all lengths, or they were codes
    table = table_from_frame("T", pl.DataFrame({"v": values}))
    packed = Packed.of(table, "v")
    assert packed is not None
    columns = tuple(rng.integers(0, size, len(values)).astype(np.uint8) for size in (3, 120, 5))
    joined = Joined(columns, (3, 120, 5))
    places = np.ravel_multi_index(columns, (3, 120, 5))
    counts, sums = joined.summed(packed)
    assert counts.tolist() == joined.counted().tolist() == np.bincount(places, minlength=1800).tolist()
    whole = np.zeros(1800, dtype=np.int64)
    np.add.at(whole, places, values.astype(np.int64))
    assert sums.tolist() == whole.tolist()
    assert joined.all().tolist() == places.tolist()
    known = np.arange(1800, dtype=np.uint16)[::-1]
    assert replace(joined, known=known).all().tolist() == known[places].tolist()
    assert Joined(columns[:1], (3,)).summed(packed)[0].tolist() == np.bincount(columns[0], minlength=3).tolist()
    assert Packed.of(table_from_frame("T", pl.DataFrame({"v": values + 0.123456789})), "v") is None
    assert Packed.of(table_from_frame("T", pl.DataFrame({"v": values * 8})), "v") is None


def test_distinct_values_of_very_many_figures() -> None:
    """Places of figures times members are more than 32 bits hold."""
    chance = np.random.default_rng(1)
    columns = {name: [f"{name}{at}" for at in chance.integers(0, size, 60_000)] for name, size in (("a", 20_000), ("b", 40), ("v", 40_000))}
    frame = pl.DataFrame(columns)
    table = table_from_frame("T", frame)
    grid = answer(parse("show distinct count of v by a across b", Vocabulary(table)), table)
    assert np.nansum(grid.values[grid.finest]) == frame.group_by("a", "b").agg(pl.col("v").n_unique())["v"].sum()
    assert np.nansum(grid.values[0, 0]) == frame["v"].n_unique()


@pytest.mark.parametrize(("outer", "rounds"), [(3_000, 4), (4, 3_000)])
def test_very_many_members_under_others(outer: int, rounds: int) -> None:
    """Many short series and few long ones; bands between, every member and the best in each, member by member."""
    chance = np.random.default_rng(outer)
    size = outer * rounds
    frame = pd.DataFrame(
        {
            "who": np.repeat(np.arange(outer), rounds),
            "step": np.tile(np.arange(rounds), outer),
            "paid": np.where(chance.random(size) < 0.1, np.nan, chance.integers(-50, 50, size) / 10),
            "late": chance.integers(0, 60, size),
        }
    )[chance.random(size) < 0.7]
    table = table_from_frame("T", pl.DataFrame(frame.to_dict("list"), nan_to_null=True), {"who": "code", "step": "category"})
    words = Vocabulary(table)
    frame = frame.assign(who=frame["who"].astype(str), step=frame["step"].astype(str))

    def ask(text: str) -> pd.DataFrame:
        grid = answer(parse(text, words), table)
        paths = [grid.rows.path(2, node) for node in range(grid.rows.levels[2].size)]
        return pd.DataFrame(grid.values[2, 0][:, :, 0].T, index=pd.MultiIndex.from_tuples([(str(a), b) for a, b in paths]))

    told = ask(
        "show sum of paid and sum of paid as running total along step and sum of paid as rank along step and "
        "sum of paid as change on previous step by who then step"
    )
    told.index = pd.MultiIndex.from_tuples([(who, str(step)) for who, step in told.index])
    order = frame.assign(at=frame["step"].astype(int)).sort_values(["who", "at"]).set_index(["who", "step"])
    paid, by_who = order["paid"], order.groupby(level=0)["paid"]
    for at, theirs in enumerate((paid, by_who.cumsum().groupby(level=0).ffill(), by_who.rank(method="min", ascending=False), by_who.diff())):
        assert np.allclose(told[at].loc[theirs.index], theirs, atol=1e-9, equal_nan=True) and len(theirs) == len(told)

    limits = (frame["late"] // 10 * 10).groupby(frame["who"]).agg(["min", "max"])
    told = ask("show rows by who then late in bands of 10")
    assert len(told) == ((limits["max"] - limits["min"]) / 10 + 1).sum()
    assert told[0].sum() == len(frame)

    told = ask("show rows by who then step with every member")
    assert len(told) == frame["who"].nunique() * frame["step"].nunique() and told[0].sum() == len(frame)

    told = ask("show sum of paid by who then step keeping top 2 step by sum of paid in each who")
    best = order.sort_values("paid", ascending=False, kind="stable").groupby(level=0).head(2)["paid"]
    told.index = pd.MultiIndex.from_tuples([(who, str(step)) for who, step in told.index])
    assert len(told) == len(best) and np.allclose(np.sort(told[0]), np.sort(best), equal_nan=True)
    gathered = ask("show rows by who then step keeping top 2 step by sum of paid in each who gathering the rest")
    assert gathered[0].sum() == len(frame) and len(gathered) == frame.groupby("who").size().clip(upper=3).sum()


@given(st.lists(st.tuples(*[st.integers(0, 2**20)] * 3), min_size=1, max_size=60), st.booleans())
def test_combinations_are_those_that_numpy_finds(rows: list[tuple[int, int, int]], wide: bool) -> None:
    codes = np.array(rows, dtype=np.int64) % (2**20 if wide else 3)
    combined = combine([codes[:, at] for at in range(3)], [2**20 + 1 if wide else 3] * 3)
    theirs, inverse, counts = np.unique(codes, axis=0, return_inverse=True, return_counts=True)
    assert combined is not None
    assert (combined.codes == theirs).all() and (combined.ids == inverse.reshape(-1)).all() and (combined.counts == counts).all()


@pytest.mark.parametrize(("paid", "members"), [([True, True, None], [1.0, 2.0]), ([True, False, None], [1.0, 1.0, 1.0]), ([None, None, None], [3.0])])
def test_every_member_is_of_those_the_table_has(paid: list[bool | None], members: list[float]) -> None:
    """A flag that is never "no" has no such member, and a running total does not run over it."""
    table = table_from_frame("T", pl.DataFrame({"Paid": pl.Series(paid, dtype=pl.Boolean), "Boat": ["Tern", "Auk", "Auk"]}), {"Paid": "flag"})
    grid = answer(parse("show rows by Paid with every member", Vocabulary(table)), table)
    assert sorted(grid.values[grid.finest][0].ravel().tolist()) == members
