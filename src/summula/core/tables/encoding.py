"""From a polars series to an encoded column, and back to a series for storing."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, assert_never

import polars as pl
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.refusal import Refusal
from summula.core.tables.column import (
    EPOCH,
    EXACT,
    MOST_DECIMALS,
    CodedColumn,
    Column,
    DateColumn,
    NumberColumn,
    Refused,
    smallest_code_type,
    stretches,
)
from summula.core.tables.dates import days_from_text, seconds_from_text
from summula.core.tables.durations import SECONDS, seconds_of
from summula.core.tables.field import Kind, Sensed
from summula.core.tables.flags import truths_of
from summula.core.tables.markers import without_markers
from summula.core.tables.natural import natural_order
from summula.core.tables.numerals import numbers_of
from summula.core.tables.script import without_unseen
from summula.core.tables.sensing import SENSE_ALL, Counts, Signs, sense, sense_wholes

if TYPE_CHECKING:
    from numpy.typing import NDArray


def sense_series(name: str, series: pl.Series, signs: Signs = SENSE_ALL, counts: Counts | None = None) -> Sensed:
    """The kind of a series as it came from a reader (text, or typed already); `counts` as in `sense`."""
    dtype = series.dtype
    if dtype == pl.Boolean:
        return Sensed("flag")
    if dtype in (pl.Enum, pl.Categorical):
        return Sensed("category")
    if dtype in (pl.Date, pl.Datetime):
        return Sensed("date", "typed", "the file holds dates")
    if dtype == pl.Duration:
        return Sensed("duration", "typed", "the file holds lengths of time")
    if dtype == pl.Time:
        return Sensed("category")
    if dtype.is_numeric():
        whole = _wholes(series)
        found = None if whole is None else sense_wholes(name, whole.drop_nulls().to_numpy().astype(np.int64))
        return found or Sensed("number", "typed")
    return sense(name, series, counts, signs)


def _wholes(series: pl.Series) -> pl.Series | None:
    """Numbers that a file holds, where all are whole, as such: sheets know no others than those with a point."""
    if series.dtype.is_integer():
        return series
    if not series.dtype.is_float():
        return None
    values = series.cast(pl.Float64).to_numpy()
    first = values[:1000]
    first = first[~np.isnan(first)]
    if len(first) == 0 or not np.array_equal(first, np.rint(first)):
        return None
    with np.errstate(invalid="ignore"):
        whole = bool(((values == np.rint(values)) & (np.abs(values) < EXACT) | np.isnan(values)).all())
    return series.fill_nan(None).cast(pl.Int64, strict=False) if whole else None


def encode(series: pl.Series, sensed: Sensed, *, markers: bool = True) -> Column:
    """The column that holds `series` as `sensed.kind`. Values that do not fit are kept as refused; what people write
    for nothing is a blank, but in a category, or where `markers` are none."""
    if markers and series.dtype == pl.String and sensed.kind != "category":
        series = without_markers(series)
    match sensed.kind:
        case "number":
            return _encode_number(series, sensed)
        case "duration":
            return _encode_duration(series)
        case "date":
            return _encode_date(series, sensed)
        case "flag":
            return _encode_flag(series, sensed.reading)
        case "code":
            return encode_coded(_as_codes(series))
        case "category":
            return encode_coded(series)
        case _:
            assert_never(sensed.kind)


def _as_codes(series: pl.Series) -> pl.Series:
    """Whole numbers without the point that a sheet gave them."""
    if series.dtype.is_float():
        whole = _wholes(series)
        return series if whole is None else whole
    if series.dtype == pl.String and bool(series.str.contains(r"^\d+\.0$").any()):
        whole_throughout = bool(series.str.contains(r"^\d+(?:\.0)?$").all())
        return series.str.strip_suffix(".0") if whole_throughout else series
    return series


def reading_for(
    kind: Kind, name: str, series: pl.Series, signs: Signs = SENSE_ALL, counts: Counts | None = None
) -> Sensed:
    """How to read a series as `kind` when a person has said the kind; `counts` as in `sense`."""
    sensed = sense_series(name, series, signs, counts)
    if sensed.kind == kind:
        return sensed
    if kind == "number":
        return Sensed("number", "typed" if series.dtype.is_numeric() else signs.decimal or "point")
    if kind == "date" and sensed.kind in ("number", "code") and _are_years(series):
        return Sensed("date", "year", "each value is a year")
    if kind == "date" and sensed.kind in ("number", "code") and _serial(series).null_count() == series.null_count():
        return Sensed("date", "serial", "serial numbers of days, as sheets count them")
    if kind == "date":
        reading = "typed" if series.dtype in (pl.Date, pl.Datetime) else signs.dates or _likeliest(series)
        return Sensed("date", reading, century=signs.century)
    return Sensed(kind)


def _are_years(series: pl.Series) -> bool:
    """Whether numbers, or their texts, are all years."""
    numbers = series.cast(pl.Float64, strict=False).drop_nulls().drop_nans()
    whole = len(numbers) > 0 and bool((numbers == numbers.round()).all())
    return whole and bool(numbers.is_between(1000, 2999).all())


_FIRST_DAY, _LAST_DAY = 1 - EPOCH, date.max.toordinal() - EPOCH  # of the years 1 to 9999
_SERIAL_EPOCH = 25_569  # the serial number of 1970-01-01: sheets count days from the end of 1899


def _serial(series: pl.Series) -> pl.Series:
    """Serial numbers of days (with the time as a fraction) from 1910 to 2119; null where it is something else."""
    numbers = series.cast(pl.Float64, strict=False)
    return numbers.set((numbers < 4_000) | (numbers > 80_400), None)


def _likeliest(series: pl.Series) -> str:
    """The way of writing dates under which most values are dates."""
    if series.dtype != pl.String:
        return "iso"
    few = series.drop_nulls().head(1000)
    readings = ("iso", "day first", "month first", "compact", "month", "quarter", "half", "week")
    fitting = {reading: days_from_text(few, reading).null_count() for reading in readings}
    return min(fitting, key=lambda reading: fitting[reading])


def clean_text(series: pl.Series) -> pl.Series:
    """Text without spaces around it, and without letters of no width; empty text is blank."""
    stripped = without_unseen(series).str.strip_chars()
    return stripped.set(stripped == "", None) if bool((stripped == "").any()) else stripped


def encode_coded(series: pl.Series) -> CodedColumn:
    """Codes into the naturally sorted distinct texts."""
    texts = series if series.dtype == pl.String else series.cast(pl.String)
    present = texts.drop_nulls() if texts.null_count() else texts
    distinct = present.unique()
    if len(distinct) == len(texts):  # all different, as running numbers are: each row's place in the order is its code
        order = natural_order(texts)
        codes = np.empty(len(texts), dtype=smallest_code_type(len(texts)))
        codes[order.to_numpy()] = np.arange(len(texts), dtype=codes.dtype)
        return CodedColumn(codes, tuple(texts.gather(order).to_list()))
    members = distinct.gather(natural_order(distinct)).to_list()
    ordered = texts.cast(pl.Enum(members))
    codes = ordered.to_physical().fill_null(len(members)).to_numpy()
    return CodedColumn(codes.astype(smallest_code_type(len(members)), copy=False), tuple(members))


def _encode_flag(series: pl.Series, reading: str) -> CodedColumn:
    """False, true, blank as 0, 1, 2. Where true is marked and nothing else, what is blank is false."""
    truth = series if series.dtype == pl.Boolean else truths_of(series.cast(pl.String))
    refused = () if series.dtype == pl.Boolean else _refused(series.cast(pl.String), truth)
    codes = truth.cast(pl.UInt8).fill_null(2).to_numpy().astype(np.uint8)
    if reading == "marked":
        codes[series.is_null().to_numpy()] = 0
    return CodedColumn(codes, ("false", "true"), refused)


def _encode_number(series: pl.Series, sensed: Sensed) -> NumberColumn:
    refused: tuple[Refused, ...] = ()
    if series.dtype == pl.String:
        numbers = numbers_of(series, sensed.reading, sensed.unit).values
        refused = _refused(series, numbers)
        series = numbers
    elif isinstance(series.dtype, pl.Decimal):
        decimals = series.dtype.scale or 0
        if decimals <= MOST_DECIMALS:
            return _from_decimal(series, decimals)
        series = series.cast(pl.Float64)
    values = series.cast(pl.Float64).to_numpy().copy()
    blank = ~np.isfinite(values)
    values[blank] = 0.0
    return number_column(values, blank if blank.any() else None, refused)


def _encode_duration(series: pl.Series) -> NumberColumn:
    """Seconds, in whole units of their fewest decimals; as figures they count in hours."""
    refused: tuple[Refused, ...] = ()
    if series.dtype == pl.Duration:
        seconds = series.dt.total_microseconds().cast(pl.Float64) / 1e6
    elif series.dtype == pl.Time:
        seconds = series.cast(pl.Duration("us")).dt.total_microseconds().cast(pl.Float64) / 1e6
    elif series.dtype.is_numeric():
        seconds = series.cast(pl.Float64) * SECONDS
    else:
        texts = series.cast(pl.String)
        seconds = seconds_of(texts)
        refused = _refused(texts, seconds)
    values = seconds.fill_null(np.nan).to_numpy().copy()
    blank = ~np.isfinite(values)
    values[blank] = 0.0
    return replace(number_column(values, blank if blank.any() else None, refused), per=SECONDS)


def _from_decimal(series: pl.Series, decimals: int) -> NumberColumn:
    """A stored decimal comes back as the very units that went out: no rounding on the way."""
    units = (series.cast(pl.Float64) * 10.0**decimals).round().to_numpy().copy()
    blank = np.isnan(units)
    units[blank] = 0.0
    return NumberColumn(units, decimals, blank if blank.any() else None)


def number_column(
    values: NDArray[np.float64], blank: NDArray[np.bool_] | None, refused: tuple[Refused, ...] = ()
) -> NumberColumn:
    """The column of these values, as whole units of the fewest decimals that hold them all exactly."""
    if all(np.array_equal(values[part], np.rint(values[part])) for part in stretches(len(values))):
        return NumberColumn(values, 0, blank, refused)
    for decimals in range(1, MOST_DECIMALS + 1):
        units = _whole_units(values, 10.0**decimals)
        if units is not None:
            return NumberColumn(units, decimals, blank, refused)
    return NumberColumn(values, 0, blank, refused)


def _whole_units(values: NDArray[np.float64], scale: float) -> NDArray[np.float64] | None:
    """The values times `scale` as whole numbers; None where some are not, or are too large to be told apart."""
    units = np.empty_like(values)
    for part in stretches(len(values)):
        here = units[part]
        np.rint(values[part] * scale, out=here)
        if max(here.max(), -here.min()) >= EXACT or not np.array_equal(here / scale, values[part]):
            return None
    return units


def _encode_date(series: pl.Series, sensed: Sensed) -> DateColumn:
    seconds: NDArray[np.int32] | None = None
    if series.dtype in (pl.Time, pl.Duration):
        series = series.cast(pl.String)
    if sensed.reading == "serial":
        serial = _serial(series)
        whole = serial.floor()
        days = (whole - _SERIAL_EPOCH).cast(pl.Int32).cast(pl.Date)
        seconds = ((serial - whole) * 86_400).round().fill_null(0).to_numpy().astype(np.int32)
    elif series.dtype == pl.String or series.dtype.is_numeric():
        wholes = None if series.dtype == pl.String else _wholes(series)
        texts = (series if wholes is None else wholes).cast(pl.String)
        days = days_from_text(texts, sensed.reading, sensed.century)
        seconds = seconds_from_text(texts)
    elif series.dtype == pl.Date:
        days = series
    elif series.dtype == pl.Datetime:
        clock = series.set(beyond_calendar(series), None)
        clock = clock.dt.replace_time_zone(None)  # the day and hour that its own zone's clocks show
        days = clock.dt.date()
        of_day = clock.dt.timestamp("ms").fill_null(0).to_numpy() % 86_400_000
        seconds = (of_day // 1000).astype(np.int32)
    else:
        raise Refusal("these values are not dates", "choose another type for the field")
    ordinals = days.to_physical()
    days = days.set((ordinals < _FIRST_DAY) | (ordinals > _LAST_DAY), None)  # files can hold them, calendars cannot
    lost = days.null_count() > series.null_count()
    texts = written_dates(series) if lost and series.dtype in (pl.Date, pl.Datetime) else series
    refused = _refused(texts.cast(pl.String), days) if lost else ()
    if seconds is not None and not seconds.any():  # midnight throughout is a day without a time
        seconds = None
    blank = days.is_null().to_numpy()
    numbers = days.cast(pl.Int32).fill_null(0).to_numpy().astype(np.int32)
    return DateColumn(numbers, blank if blank.any() else None, seconds, refused)


_MOST_DAYS = 95_000_000  # from 1970: a quarter of a million years, which is what polars can write
_OF_A_SECOND = {"ms": 10**3, "us": 10**6, "ns": 10**9}


def beyond_calendar(series: pl.Series) -> pl.Series:
    """Which days or points in time are before or after all that a calendar holds: files can hold them, but whatever
    writes them as a date panics."""
    days = _day_numbers(series)
    return ((days < _FIRST_DAY) | (days > _LAST_DAY)).fill_null(value=False)


def _day_numbers(series: pl.Series) -> pl.Series:
    unit = getattr(series.dtype, "time_unit", None)
    numbers = series.to_physical().cast(pl.Int64)  # the least of 32 bits has no opposite in them
    return numbers if unit is None else numbers // (86_400 * _OF_A_SECOND[unit])


def written_dates(series: pl.Series) -> pl.Series:
    """Days or points in time as text; those that nothing can write as their numbers."""
    writable = _day_numbers(series).abs() < _MOST_DAYS
    return series.set(~writable, None).cast(pl.String).fill_null(series.to_physical().cast(pl.String))


def _refused(texts: pl.Series, read: pl.Series) -> tuple[Refused, ...]:
    lost = (texts.is_not_null() & read.is_null()).to_numpy()
    rows = np.flatnonzero(lost)
    kept = texts.gather(rows).to_list() if len(rows) else []
    return tuple(Refused(int(row), str(text)) for row, text in zip(rows, kept, strict=True))


def series_of(name: str, column: Column) -> pl.Series:
    """The column as a polars series of true values: for storing, handing out and independent checks."""
    if isinstance(column, CodedColumn):
        if column.members == ("false", "true"):
            truth = pl.Series(name, column.codes == 1)
            return truth.set(pl.Series(column.codes == 2), None) if bool((column.codes == 2).any()) else truth
        padded = pl.Series([*column.members, None], dtype=pl.String)
        return padded.gather(column.codes.astype(np.uint32)).alias(name)
    if isinstance(column, NumberColumn):
        whole = not np.any(column.values != np.rint(column.values))
        if whole and np.abs(column.values).max(initial=0.0) < EXACT:
            units = pl.Series(name, column.values.astype(np.int64))
            if column.decimals:
                units = (units.cast(pl.Decimal(38, column.decimals)) / 10**column.decimals).cast(
                    pl.Decimal(38, column.decimals)
                )
        else:
            units = pl.Series(name, column.values / column.unit)
        if column.per == SECONDS:
            seconds = pl.Series(name, np.rint(column.values / 10.0**column.decimals * 1e6).astype(np.int64))
            units = seconds.cast(pl.Duration("us"))
        return units if column.blank is None else units.set(pl.Series(column.blank), None)
    days = pl.Series(name, column.days).cast(pl.Date)
    if column.seconds is not None:
        stamps = column.days.astype("datetime64[D]").astype("datetime64[us]")
        days = pl.Series(name, stamps + column.seconds.astype("timedelta64[s]"))
    return days if column.blank is None else days.set(pl.Series(column.blank), None)
