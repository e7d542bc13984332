"""What a formula gives in each row of a table."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import polars as pl

from summula.core.arrays import np
from summula.core.preparation.formula import check_named, check_tokens, growth
from summula.core.refusal import Refusal
from summula.core.tables.column import EXACT, MOST_DECIMALS, Column, NumberColumn
from summula.core.tables.encoding import encode, encode_coded, number_column
from summula.core.tables.field import Kind, Sensed

if TYPE_CHECKING:
    from summula.core.tables.table import Table


def worked_out(table: Table, text: str, rows: int | None = None) -> pl.Series:
    """What a formula gives in each row (of the first `rows`). Refuses, at its place, what it cannot work out."""
    if not text.strip():
        raise Refusal("the formula is empty", 'enter one, such as "Takings" / "Passengers"')
    expression = _parsed(text)
    named = expression.meta.root_names()
    check_named(table, text, named)
    frame = pl.DataFrame([_plain_series(table, name, rows) for name in dict.fromkeys(named)])
    _check_size(frame, text)
    size = table.rows if rows is None else min(rows, table.rows)
    if not named:
        frame = pl.DataFrame({"": pl.Series([0] * size, dtype=pl.Int8)})
    try:
        series = frame.select(expression.alias("formula"))["formula"]
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException) as fault:
        raise Refusal(_in_words(str(fault)), "check that each operator is between values of one type") from None
    if len(series) != size:
        if named or len(series) != 1:
            raise Refusal(
                "the formula gives one value for all rows", "formulas work row by row; use a summary for totals"
            )
        series = series.extend_constant(series[0], size - 1) if size else series.clear()
    return series


MOST_LETTERS = 4 * 1024**3  # that a formula may make of all rows


def _check_size(frame: pl.DataFrame, text: str) -> None:
    """Refuses a formula that could make more text than there is room for."""
    letters = [each.str.len_bytes().max() for each in frame if each.dtype == pl.String]
    longest = max([1, *(int(each) for each in letters if isinstance(each, int))])
    if longest * growth(text) * frame.height > MOST_LETTERS and growth(text) > 1:
        raise Refusal("the formula would make more text than there is room for", "repeat, pad or replace less")


_HEAD = "SELECT ("


def _parsed(text: str) -> pl.Expr:
    check_tokens(text)
    _check_syntax(text)
    growth(text)
    try:
        expression = pl.sql_expr(text)
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException) as fault:
        raise Refusal(_in_words(str(fault)), "check its functions and operators") from None
    if expression.meta.undo_aliases().meta.serialize() != expression.meta.serialize():
        remedy = "put an operator between them, or quotes around a name with spaces"
        raise Refusal("two names are next to each other", remedy)
    return expression


def _check_syntax(text: str) -> None:
    """The parser of whole queries tells where it stopped; that of single expressions does not."""
    try:
        pl.SQLContext(t=pl.DataFrame()).execute(f"{_HEAD}{text}\n) FROM t")
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException) as fault:
        message = str(fault).strip().splitlines()[0]
        found = re.search(r"Expected: (.*), found: (.*) at Line: (\d+), Column: (\d+)", message)
        if found is None:
            if "Unterminated" in message:
                raise Refusal("a quotation mark in the formula is never closed", "close it") from None
            return
        lines = text.split("\n")
        line, column = int(found[3]) - 1, int(found[4]) - 1 - (len(_HEAD) if found[3] == "1" else 0)
        at = sum(len(each) + 1 for each in lines[:line]) + column
        if line >= len(lines) or at >= len(text):
            raise Refusal(
                "the formula is incomplete", f"what is missing is {_said(found[1])}", span=(len(text), len(text))
            ) from None
        span = (max(at, 0), max(at, 0) + max(len(found[2]), 1))
        raise Refusal(
            f"'{found[2]}' does not fit here", f"before it should come {_said(found[1])}", span=span
        ) from None


def _said(wanted: str) -> str:
    return "a closing bracket" if wanted == ")" else "a field or a figure" if "expression" in wanted else wanted


def _in_words(message: str) -> str:
    """A fault of the SQL front end as a person would say it."""
    first = (message.strip().splitlines() or ["it cannot be worked out"])[0]
    named = re.search(r"unsupported function ['`\"](\w+)", first)
    if named:
        return f"there is no function '{named[1]}'"
    if any(
        words in first for words in ("cannot compare", "arithmetic", "not supported for dtype", "dtype", "supertype")
    ):
        return "the formula mixes types that do not fit together, such as text and numbers"
    if "assertion failed" in first:  # a library's own words, about its own inside
        return "the formula cannot be worked out"
    return f"the formula cannot be worked out ({first[:140]})"


def _plain_series(table: Table, name: str, rows: int | None) -> pl.Series:
    """A column with plain numbers (not decimals), so that dividing does not round."""
    from summula.core.tables.encoding import series_of

    column = table.column(name)
    if isinstance(column, NumberColumn):
        values = column.values[:rows] / column.unit
        series = pl.Series(name, values)
        return series if column.blank is None else series.set(pl.Series(column.blank[:rows]), None)
    series = series_of(name, column)
    return series if rows is None else series.head(rows)


def column_of(series: pl.Series) -> tuple[Kind, Column]:
    """What a formula gave as a column, and of what kind."""
    if series.dtype == pl.Boolean:
        return "flag", encode(series, Sensed("flag"))
    if series.dtype.is_numeric():
        values = series.cast(pl.Float64).to_numpy().copy()
        blank = ~np.isfinite(values)
        values[blank] = 0.0
        return "number", number_column(_settled(values), blank if blank.any() else None)
    if series.dtype in (pl.Date, pl.Datetime):
        return "date", encode(series, Sensed("date", "typed"))
    if series.dtype == pl.Duration:
        return "duration", encode(series, Sensed("duration", "typed"))
    if series.dtype.is_nested() or series.dtype in (pl.Binary, pl.Object):
        raise Refusal("the formula gives a list in each row", "take one part of it, as with SPLIT_PART")
    if series.dtype == pl.Null:
        series = series.cast(pl.String)
    return "category", encode_coded(series.cast(pl.String))


def _settled(
    values: np.ndarray[tuple[int, ...], np.dtype[np.float64]],
) -> np.ndarray[tuple[int, ...], np.dtype[np.float64]]:
    """Sums and differences of money come out of floats a hair off their pennies: put back where all are that near."""
    for decimals in range(MOST_DECIMALS + 1):
        scale = 10.0**decimals
        units = np.rint(values * scale)
        if np.abs(units).max(initial=0.0) >= EXACT:
            return values
        if np.all(np.abs(units - values * scale) <= 1e-9 * np.maximum(np.abs(units), 1.0) * 1e3):
            return units / scale
    return values
