"""Steps that make a field from others: date parts, bands, bundles, formulas."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import polars as pl

from summula.core.arrays import np
from summula.core.fields import calendar
from summula.core.fields.bands import Band, encode_bands
from summula.core.fields.heading import Heading, encode_heading
from summula.core.fields.labels import label_of
from summula.core.preparation.formula import check_tokens, growth
from summula.core.preparation.outcome import Done, Tables, with_added
from summula.core.refusal import Refusal, nearest
from summula.core.tables.column import (
    EXACT,
    MOST_DECIMALS,
    CodedColumn,
    Column,
    DateColumn,
    NumberColumn,
    different_values,
    smallest_code_type,
)
from summula.core.tables.encoding import encode, encode_coded, number_column
from summula.core.tables.field import Field, Kind, Sensed
from summula.core.tables.natural import natural_sorted
from summula.core.tables.table import Table, blanks

if TYPE_CHECKING:
    from summula.core.preparation.steps import AddBands, AddBundles, AddFormula, AddPart

FISCAL = ("year", "half", "quarter", "year-half", "year-quarter")


def add_part(table: Table, step: AddPart, others: Tables) -> Done:
    """A part of a date as an ordered category."""
    if step.starts != 1 and step.part in FISCAL:
        column = _fiscal(table, step)
    else:
        heading = Heading(step.field, part=step.part)
        encoded = encode_heading(table, heading)
        column = CodedColumn(encoded.codes, tuple(label_of(heading, member) for member in encoded.members))
    return Done(with_added(table, Field(step.name, "category"), column), table.rows - blanks(column))


def _fiscal(table: Table, step: AddPart) -> CodedColumn:
    """Parts of a year that begins with the month `starts`: the calendar's own, of dates moved back so many months."""
    if not 1 <= step.starts <= 12:
        raise Refusal(f"{step.starts} is not a month", "choose one from 1 to 12")
    dates = table.column(step.field)
    if not isinstance(dates, DateColumn):
        raise Refusal(f"'{step.field}' holds no dates, so it has no {step.part}", "choose a date field")
    months = dates.days.astype("datetime64[D]").astype("datetime64[M]") - (step.starts - 1)
    numbers = calendar.part_numbers(months.astype("datetime64[D]").astype(np.int64), step.part)
    present = numbers if dates.blank is None else numbers[~dates.blank]
    distinct = different_values(present)
    codes = np.searchsorted(distinct, numbers).astype(smallest_code_type(len(distinct)))
    if dates.blank is not None:
        codes[dates.blank] = len(distinct)
    return CodedColumn(codes, tuple(_fiscal_label(int(number), step.part) for number in distinct))


def _fiscal_label(number: int, part: str) -> str:
    if part in ("half", "quarter"):
        return f"{part[0].upper()}{number}"
    year, place = (number, 0) if part == "year" else divmod(number, 100)
    span = f"{year}/{(year + 1) % 100:02d}"
    return span if part == "year" else f"{part.removeprefix('year-')[0].upper()}{place} {span}"


def add_bands(table: Table, step: AddBands, others: Tables) -> Done:
    column = table.number(step.field)
    codes, bands = encode_bands(column, step.bands)
    if step.labels and len(step.labels) != len(step.bands.at) + 1:
        raise Refusal(
            f"{len(step.bands.at)} limits make {len(step.bands.at) + 1} bands, but {len(step.labels)} are named",
            "name each of them, from the lowest",
        )
    names = tuple(_band_name(band, step) for band in bands)
    if len(set(names)) < len(names):
        raise Refusal("two bands have the same name", "name each of them otherwise")
    made = CodedColumn(codes, names)
    return Done(with_added(table, Field(step.name, "category"), made), table.rows - blanks(made))


def _band_name(band: Band, step: AddBands) -> str:
    if step.labels:
        return step.labels[0 if band.lower is None else step.bands.at.index(band.lower) + 1]
    return label_of(Heading(step.field, bands=step.bands), band)


def add_bundles(table: Table, step: AddBundles, others: Tables) -> Done:
    """Bundles first, in their order; then what stands apart, or the rest together."""
    column = table.column(step.field)
    if not isinstance(column, CodedColumn):
        raise Refusal(f"'{step.field}' holds no values to bundle", "choose a category, or make bands of it")
    bundle_of = {member: bundle.name for bundle in step.bundles for member in bundle.members}
    if not bundle_of:
        raise Refusal("no values are bundled", "pick some and name the bundle")
    apart = [member for member in column.members if member not in bundle_of]
    names = list(dict.fromkeys(bundle.name for bundle in step.bundles if set(bundle.members) & set(column.members)))
    if step.rest:
        names += [step.rest] if apart and step.rest not in names else []
    else:
        names += [member for member in natural_sorted(apart) if member not in names]
    place = {name: at for at, name in enumerate(names)}
    lookup = [place[bundle_of.get(member, step.rest or member)] for member in column.members]
    codes = np.array([*lookup, len(names)]).astype(smallest_code_type(len(names)))[column.codes]
    made = CodedColumn(codes, tuple(names))
    missing = [member for member in bundle_of if member not in set(column.members)]
    notice = f"not in the table any more: {', '.join(missing[:4])}" if missing else ""
    return Done(with_added(table, Field(step.name, "category"), made), table.rows - blanks(made), notice)


def add_formula(table: Table, step: AddFormula, others: Tables) -> Done:
    series = worked_out(table, step.text)
    kind, column = _column(step.name, series)
    if table.has(step.name):
        raise Refusal(f"there is a field '{step.name}' already", "choose another name")
    pattern = _pattern(table, step.text) if kind == "number" else ""
    return Done(with_added(table, Field(step.name, kind, pattern=pattern), column), table.rows - blanks(column))


def _pattern(table: Table, text: str) -> str:
    """Sums and differences of figures that are all written alike are written so as well."""
    if re.search(r"[*/(]", text):
        return ""
    patterns = {table.field(name).pattern for name in _parsed(text).meta.root_names()}
    return patterns.pop() if len(patterns) == 1 else ""


def worked_out(table: Table, text: str, rows: int | None = None) -> pl.Series:
    """What a formula gives in each row (of the first `rows`). Refuses, at its place, what it cannot work out."""
    if not text.strip():
        raise Refusal("the formula is empty", 'write one, such as "Takings" / "Passengers"')
    expression = _parsed(text)
    named = expression.meta.root_names()
    for name in named:
        if not table.has(name):
            names = [field.name for field in table.fields]
            folded = {each.casefold(): each for each in names}
            guess = folded.get(name.casefold()) or nearest(name, names)
            at = text.find(name)
            span = (at, at + len(name)) if at >= 0 else None
            raise Refusal(
                f"no field '{name}'",
                f'did you mean "{guess}"?' if guess else "write a field's name in double quotes",
                span=span,
                suggestion=guess,
            )
    frame = pl.DataFrame([_plain_series(table, name, rows) for name in dict.fromkeys(named)])
    _check_size(frame, text)
    size = table.rows if rows is None else min(rows, table.rows)
    if not named:
        frame = pl.DataFrame({"": pl.Series([0] * size, dtype=pl.Int8)})
    try:
        series = frame.select(expression.alias("formula"))["formula"]
    except pl.exceptions.PolarsError as fault:
        raise Refusal(_in_words(str(fault)), "see that each sign stands between values of one kind") from None
    if len(series) != size:
        if named or len(series) != 1:
            raise Refusal(
                "the formula gives one figure for all rows", "a formula works row by row; totals belong in a summary"
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
        raise Refusal(_in_words(str(fault)), "see the functions and signs in it") from None
    if expression.meta.undo_aliases().meta.serialize() != expression.meta.serialize():
        raise Refusal("two names stand side by side", "put a sign between them, or quotes around a name with spaces")
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
                "the formula breaks off", f"what is missing is {_said(found[1])}", span=(len(text), len(text))
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
        return "the formula mixes kinds that do not go together, such as text and numbers"
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


def _column(name: str, series: pl.Series) -> tuple[Kind, Column]:
    if series.dtype == pl.Boolean:
        return "flag", encode(series, Sensed("flag"))
    if series.dtype.is_numeric():
        values = series.cast(pl.Float64).to_numpy().copy()
        blank = ~np.isfinite(values)
        values[blank] = 0.0
        return "number", number_column(_settled(values), blank if blank.any() else None)
    if series.dtype in (pl.Date, pl.Datetime):
        return "date", encode(series, Sensed("date", "typed"))
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
