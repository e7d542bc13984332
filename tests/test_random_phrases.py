"""Random phrases of random tables of odd names and members: printed, read back, and answered as the definitions say."""

from __future__ import annotations

import datetime as dt
import math
import os
from fractions import Fraction
from typing import Any

import polars as pl
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from summula.core.engine.cells import unfolded
from summula.core.engine.grid import Grid
from summula.core.fields.bands import Bands
from summula.core.fields.heading import Heading
from summula.core.fields.labels import json_member
from summula.core.phrases.phrase import Aggregate, Arithmetic, Comparison, Condition, Keep, Measure, Number
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.summaries import Phrase, Vocabulary, answer, parse, print_for
from summula.core.tables.table import Table
from tests.definitions import Asked, Rest, decimal

# `./run test --thorough` asks as many as it takes to meet what is rare.
MANY = int(os.environ.get("SUMMULA_PHRASES", "250"))

TEXTS = ("A", "month of", "-", "First.Name", "top 5")
ODD = [
    "-",
    "top 5",
    "not",
    "blank",
    "ABC",
    "abc",
    "a10",
    "a9",
    "é",
    "or",
    "x or y",
    "x",
    "y",
    "+",
    "(",
    "sum of V",
    "and",
    "of V",
]
DAYS = [
    dt.date(2023, 1, 1),
    dt.date(2023, 12, 31),
    dt.date(2024, 1, 1),
    dt.date(2024, 2, 29),
    dt.date(2024, 12, 30),
    dt.date(2025, 2, 28),
]
rows = st.fixed_dictionaries(
    {
        "A": st.sampled_from([*ODD[:6], None]),
        "month of": st.sampled_from([*ODD[6:12], None]),
        "-": st.sampled_from(["x", "y", None]),
        "First.Name": st.sampled_from([*ODD[12:], None]),
        "top 5": st.sampled_from(["x", "x or y", "y"]),
        "K": st.sampled_from(["007", "7", "08", "10", None]),
        "V": st.none() | st.integers(-40, 90).map(lambda n: Fraction(n, 10)) | st.sampled_from([Fraction(3, 10), Fraction(100)]),
        "sum of V": st.none() | st.integers(-5, 5).map(Fraction),
        "W": st.none() | st.integers(-30, 30).map(lambda n: Fraction(n, 10**9)) | st.sampled_from([Fraction(1, 10), Fraction(10**6)]),
        "D": st.none() | st.sampled_from(DAYS) | st.dates(dt.date(2023, 1, 1), dt.date(2025, 3, 31)),
        "F": st.none() | st.booleans(),
    }
)  # fmt: skip
KINDS = {
    **dict.fromkeys(TEXTS, "category"),
    "K": "code",
    "V": "number",
    "sum of V": "number",
    "W": "number",
    "D": "date",
    "F": "flag",
}
NUMBERS = ("V", "sum of V", "W")
tables = st.lists(rows, min_size=1, max_size=14)

widths = st.sampled_from([0.1, 0.25, 0.3, 1.0, 2.5, 10.0])
bands = st.one_of(
    st.builds(Bands, widths.filter(lambda w: w > 0.2)),
    st.builds(Bands, widths, st.sampled_from([-1.0, 0.0, 1.05, 50.0]), st.none() | st.sampled_from([51.0, 60.25])),
    st.builds(Bands, st.sampled_from([0.25, 2.5]), st.none(), st.sampled_from([0.5, 5.0])),
    st.builds(Bands, at=st.sampled_from([(0.3,), (-1.0, 0.0, 0.3), (0.1, 0.2, 9.0)])),
)
parts = st.sampled_from(
    [
        "year",
        "half",
        "quarter",
        "month",
        "week",
        "weekday",
        "day",
        "month-day",
        "quarter-day",
        "year-half",
        "year-quarter",
        "year-month",
        "year-week",
    ]
)
headings = st.one_of(
    st.sampled_from([Heading(name) for name in (*TEXTS, "K", "F", "D", "V")]),
    st.builds(Heading, st.just("D"), parts),
    st.builds(Heading, st.sampled_from(["V", "sum of V"]), st.none(), bands),
)  # fmt: skip
periods = st.sampled_from(
    [2023.0, 2024.0, "2024-Q1", "2024-H2", "2024-01", "2024-W01", "2025-W09", "2024-02-29", "2023-12-31"]
)
limits = st.sampled_from([-1.0, 0.0, 0.3, 2.5, 7.0])
compares = st.sampled_from(["is over", "is at least", "is under", "is at most"])


@st.composite
def conditions(draw: st.DrawFn, table: list[dict[str, Any]]) -> Condition:
    """A question that can have an answer in this table."""
    name = draw(st.sampled_from([*TEXTS, "K", "V", "D", "F", "W"]))
    heading = Heading(name)
    known = sorted({row[name] for row in table if row[name] is not None}, key=str)
    if draw(st.integers(0, 9)) == 0 or not known:
        return Condition(heading, draw(st.sampled_from(["is blank", "is not blank"])))
    among = draw(st.sampled_from(["is", "is not"]))
    if name in (*TEXTS, "K"):
        way = draw(st.sampled_from(["among", "text", "compare"]))
        if way == "text":
            test = draw(st.sampled_from(["contains", "starts with", "ends with"]))
            return Condition(heading, test, (draw(st.sampled_from(["a", "X", "E", "0", "blank"])),))
        if way == "compare":
            value = draw(st.sampled_from([7.0, 8.0])) if name == "K" else draw(st.sampled_from(["a", "M", "é"]))
            return Condition(heading, draw(compares), (value,))
        return Condition(heading, among, tuple(draw(st.lists(st.sampled_from(known), min_size=1, max_size=3))))
    if name == "F":
        return Condition(heading, among, (draw(st.sampled_from(["yes", "no"])),))
    if name == "D":
        if draw(st.booleans()):
            part = draw(st.sampled_from(["quarter", "month", "year", "year-month", "year-week"]))
            if part in ("quarter", "month"):
                return Condition(Heading("D", part), draw(compares), (draw(st.sampled_from([1.0, 2.0, 4.0])),))
            return Condition(Heading("D", part), draw(compares), (draw(periods),))
        if draw(st.integers(0, 3)) == 0:
            unit = draw(st.sampled_from(["days", "weeks", "months", "quarters", "years"]))
            return Condition(heading, "is in the last", (float(draw(st.integers(1, 14))), unit))
        if draw(st.booleans()):
            return Condition(heading, among, tuple(draw(st.lists(periods, min_size=1, max_size=2))))
        return Condition(heading, draw(compares), (draw(periods),))
    if draw(st.booleans()):
        return Condition(heading, among, (float(draw(st.sampled_from(known))), draw(limits)))
    low, high = sorted((draw(limits), draw(limits)))
    return draw(
        st.sampled_from([Condition(heading, draw(compares), (low,)), Condition(heading, "is from", (low, high))])
    )


@st.composite
def calculations(draw: st.DrawFn, table: list[dict[str, Any]], adds: bool = False) -> Any:
    where = tuple(draw(st.lists(conditions(table), max_size=1))) if draw(st.integers(0, 4)) == 0 else ()
    functions = (
        ["rows", "count"]
        if adds
        else [
            "rows",
            "sum",
            "sum",
            "mean",
            "median",
            "min",
            "max",
            "range",
            "count",
            "distinct count",
            "variance",
            "standard deviation",
            "first",
            "last",
            "percentile",
        ]
    )
    function = draw(st.sampled_from(functions))
    if function == "rows":
        first = Aggregate("rows", where=where)
    elif function in ("count", "distinct count"):
        first = Aggregate(function, draw(st.sampled_from(list(KINDS))), where=where)
    else:
        percent = draw(st.sampled_from([0.0, 25.0, 90.0, 100.0])) if function == "percentile" else None
        first = Aggregate(function, draw(st.sampled_from(NUMBERS)), percent, where)
    if adds or draw(st.integers(0, 4)):
        return first
    other = draw(st.one_of(st.just(Aggregate("count", "V")), st.sampled_from([Number(2.0), Number(0.1)])))
    return Arithmetic(draw(st.sampled_from(["+", "-", "*", "/"])), first, other)


@st.composite
def asked(draw: st.DrawFn) -> tuple[list[dict[str, Any]], Phrase]:
    table = draw(tables)
    chosen = draw(st.lists(headings, max_size=4, unique=True))
    cut = draw(st.integers(0, len(chosen)))
    by, across = tuple(chosen[:cut])[:3], tuple(chosen[cut:])[:2]
    shown = (*by, *across)
    measures = []
    for _ in range(draw(st.integers(1, 3))):
        comparison = None
        if draw(st.booleans()):
            dated = {each.field for each in shown if each.field == "D" and (each.part is None or "year" in each.part)}
            kinds: list[Any] = [
                "share of all",
                "share of row",
                "share of column",
                "share of group",
                "share of everything",
            ]
            kinds += (
                ["running total", "rank", "change on previous", "percent change on previous", "change on"]
                if shown
                else []
            )
            kinds += ["change on a year earlier", "percent change on a year earlier"] if dated else []
            kind = draw(st.sampled_from(kinds))
            along = (
                draw(st.sampled_from(shown))
                if kind in ("running total", "rank", "change on") or "previous" in kind
                else None
            )
            if kind == "change on":
                some = (
                    sorted({row[along.field] for row in table if row[along.field] is not None}, key=str)
                    if along.part is None and along.bands is None
                    else []
                )
                if some:
                    value = draw(st.sampled_from(some))
                    value = (
                        value
                        if isinstance(value, str)
                        else ("yes" if value else "no")
                        if isinstance(value, bool)
                        else value.isoformat()
                        if isinstance(value, dt.date)
                        else float(value)
                    )
                    comparison = Comparison(kind, along, value)
            else:
                comparison = Comparison(kind, along)
        measures.append(Measure(draw(calculations(table)), comparison))
    keeping = []
    for _ in range(draw(st.sampled_from([0, 0, 1, 1, 2]))):
        heading = draw(st.sampled_from(shown) if shown and draw(st.integers(0, 3)) else headings)
        each = draw(st.sampled_from(shown)) if shown and draw(st.booleans()) else None
        percent = draw(st.integers(0, 4)) == 0
        keeping.append(Keep(
            draw(st.sampled_from(["top", "bottom"])), float(draw(st.integers(1, 3)) * (25 if percent else 1)), heading,
            Measure(draw(calculations(table, adds=percent))), percent, None if each == heading else each, draw(st.booleans()),
        ))  # fmt: skip
    if len({keep.heading for keep in keeping}) < len(keeping):
        keeping = keeping[:1]
    where = tuple(draw(st.lists(conditions(table), max_size=2)))
    return table, Phrase(
        tuple(measures), by=by, across=across, where=where, keeping=tuple(keeping), every_member=draw(st.booleans())
    )


def table_of(records: list[dict[str, Any]]) -> Table:
    frame = pl.DataFrame(
        {name: pl.Series([float(r[name]) if isinstance(r[name], Fraction) else r[name] for r in records],
                         dtype={"number": pl.Float64, "date": pl.Date, "flag": pl.Boolean}.get(kind, pl.String)) for name, kind in KINDS.items()}
    )  # fmt: skip
    return table_from_frame("T", frame, KINDS)  # type: ignore[arg-type]


def figures(grid: Grid) -> dict[Any, list[float | None]]:
    found = {}
    for (i, j), block in grid.values.items():
        for row in range(block.shape[1]):
            for column in range(block.shape[2]):
                if grid.cell_rows[i, j][row, column] > 0:
                    path = tuple(
                        tuple(_plain(m) for m in axis.path(level, node))
                        for axis, level, node in ((grid.rows, i, row), (grid.columns, j, column))
                    )
                    assert path not in found
                    found[path] = [None if math.isnan(v) else float(v) for v in block[:, row, column]]
    return found


def _plain(member: Any) -> Any:
    exact = json_member(member)
    if isinstance(exact, dict):
        return Rest(exact["others"])
    if isinstance(exact, list):
        return tuple(exact)
    return float(exact) if isinstance(exact, float) else exact


def agrees(mine: float | None, other: Any, *, exact: bool) -> bool:
    if mine is None or other is None:
        return mine is None and other is None
    if exact:  # what adds up is right to the last figure
        return mine == float(other)
    return math.isclose(mine, float(other), rel_tol=1e-9, abs_tol=1e-9 if abs(float(other)) < 1e-6 else 0.0) or abs(
        mine - float(other)
    ) <= 1e-6 * abs(float(other))


EXACT = ("rows", "count", "distinct count", "sum", "min", "max", "first", "last", "range", "mean")


@settings(max_examples=MANY, suppress_health_check=list(HealthCheck))
@given(asked(), st.booleans())
def test_a_phrase_reads_back_and_means_what_its_definitions_say(
    case: tuple[list[dict[str, Any]], Phrase], rowwise: bool
) -> None:
    records, phrase = case
    table = table_of(records)
    words = Vocabulary(table)
    text = print_for(phrase, words)
    assert parse(text, words) == phrase, text
    try:
        grid = answer(phrase, table, unfolded(table) if rowwise else None)
    except Refusal as refusal:
        assert "negative" in refusal.wrong, (text, str(refusal))
        return
    expected = Asked(phrase, records).answer()
    ours = figures(grid)
    assert ours.keys() == expected.keys(), (text, ours.keys() ^ expected.keys())
    for path, values in ours.items():
        for measure, mine, other in zip(phrase.measures, values, expected[path], strict=True):
            plain = (
                isinstance(measure.calculation, Aggregate)
                and measure.comparison is None
                and measure.calculation.function in EXACT
            )
            assert agrees(mine, other, exact=plain), (text, path, mine, other and float(other))
    # A line is shown once, and none before the line above it.
    for axis in (grid.rows, grid.columns):
        for level in axis.levels:
            assert (level.parent >= 0).all()
            assert len({tuple(codes) for codes in level.codes.tolist()}) == level.size
    if not phrase.keeping:
        assert decimal(grid.rows_used) == len(Asked(phrase, records).found)
