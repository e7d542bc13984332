"""From a polars series to an encoded column, and back to a series for storing."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING

import polars as pl

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
from summula.core.tables.field import Kind, Sensed
from summula.core.tables.markers import without_markers
from summula.core.tables.natural import natural_order
from summula.core.tables.sensing import CLOCK, CURRENCIES, FLAG_PAIRS, SENSE_ALL, Counts, Signs, fits_number, sense

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
    if dtype in (pl.Time, pl.Duration):
        return Sensed("category")
    if dtype.is_numeric():
        if dtype.is_integer():
            sensed = sense(name, series.cast(pl.String))
            return sensed if sensed.kind == "code" else Sensed("number", "typed")
        return Sensed("number", "typed")
    return sense(name, series, counts, signs)


def encode(series: pl.Series, sensed: Sensed) -> Column:
    """The column that holds `series` as `sensed.kind`. Values that do not fit are kept as refused; what people write
    for nothing is a blank, but in a category."""
    if series.dtype == pl.String and sensed.kind != "category":
        series = without_markers(series)
    if sensed.kind == "number":
        return _encode_number(series, sensed.reading)
    if sensed.kind == "date":
        return _encode_date(series, sensed.reading)
    if sensed.kind == "flag":
        return _encode_flag(series)
    return encode_coded(series)


def reading_for(
    kind: Kind, name: str, series: pl.Series, signs: Signs = SENSE_ALL, counts: Counts | None = None
) -> Sensed:
    """How to read a series as `kind` when a person has said the kind; `counts` as in `sense`."""
    sensed = sense_series(name, series, signs, counts)
    if sensed.kind == kind:
        return sensed
    if kind == "number":
        return Sensed("number", "typed" if series.dtype.is_numeric() else signs.decimal or "point")
    if kind == "date" and sensed.kind in ("number", "code") and _serial(series).null_count() == series.null_count():
        return Sensed("date", "serial", "serial numbers of days, as sheets count them")
    if kind == "date":
        return Sensed("date", "typed" if series.dtype in (pl.Date, pl.Datetime) else signs.dates or _likeliest(series))
    return Sensed(kind)


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
    fitting = {reading: _dates_from_text(few, ways).null_count() for reading, ways in _DATE_FORMATS.items()}
    return min(fitting, key=lambda reading: fitting[reading])


def clean_text(series: pl.Series) -> pl.Series:
    """Text without spaces around it; empty text is blank."""
    stripped = series.str.strip_chars()
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


def _encode_flag(series: pl.Series) -> CodedColumn:
    if series.dtype == pl.Boolean:
        truth = series
    else:
        lowered = series.cast(pl.String).str.to_lowercase()
        true = {pair[1] for pair in FLAG_PAIRS} | {"1"}
        false = {pair[0] for pair in FLAG_PAIRS} | {"0"}
        truth = pl.select(
            pl.when(lowered.is_in(list(true))).then(True).when(lowered.is_in(list(false))).then(False)
        ).to_series()
        refused = _refused(series.cast(pl.String), truth)
        return CodedColumn(truth.cast(pl.UInt8).fill_null(2).to_numpy().astype(np.uint8), ("false", "true"), refused)
    return CodedColumn(truth.cast(pl.UInt8).fill_null(2).to_numpy().astype(np.uint8), ("false", "true"))


def _encode_number(series: pl.Series, reading: str) -> NumberColumn:
    refused: tuple[Refused, ...] = ()
    if series.dtype == pl.String:
        numbers = number_from_text(series, comma=reading == "comma")
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


def number_from_text(texts: pl.Series, *, comma: bool) -> pl.Series:
    """Numbers from text: currency marks, thousands marks, brackets or trailing minus, percent."""
    plain = texts.cast(pl.Float64, strict=False)
    if not comma and plain.null_count() == texts.null_count():
        return plain
    fits = fits_number(texts, "comma" if comma else "point")
    negative = texts.str.contains(r"^\(.*\)$") | texts.str.contains(r"[\-−]") & ~texts.str.contains(r"[eE][\-−]")
    percent = texts.str.contains("%")
    marks = rf"[{CURRENCIES}%()+\s'\u00a0\u202f]"
    bare = texts.str.replace_all(marks, "")
    bare = bare.str.replace_all(r"\.", "").str.replace(",", ".") if comma else bare.str.replace_all(",", "")
    bare = bare.str.replace_all(r"^[\-−]|[\-−]$", "")
    number = bare.cast(pl.Float64, strict=False)
    frame = pl.DataFrame({"n": number, "neg": negative, "pct": percent, "fits": fits})
    signed = pl.when(pl.col("neg")).then(-pl.col("n").abs()).otherwise(pl.col("n"))
    scaled = pl.when(pl.col("pct")).then(signed / 100).otherwise(signed)
    return frame.select(pl.when(pl.col("fits")).then(scaled).otherwise(None).alias("n"))["n"]


_DATE_FORMATS = {
    "iso": ("%Y-%m-%d", "%Y/%m/%d"),
    "day first": ("%d/%m/%Y", "%d.%m.%Y", "%d-%m-%Y", "%d/%m/%y", "%d.%m.%y", "%d-%m-%y"),
    "month first": ("%m/%d/%Y", "%m.%d.%Y", "%m-%d-%Y", "%m/%d/%y", "%m.%d.%y", "%m-%d-%y"),
    "named": ("%d %b %Y", "%d-%b-%Y", "%d %B %Y", "%d-%B-%Y", "%b %d, %Y", "%B %d, %Y", "%b %d,%Y", "%B %d,%Y"),
}
_FULL_YEAR = r"(^|[/.\- ,])\d{4}"


def _encode_date(series: pl.Series, reading: str) -> DateColumn:
    seconds: NDArray[np.int32] | None = None
    if series.dtype in (pl.Time, pl.Duration):
        series = series.cast(pl.String)
    if reading == "serial":
        serial = _serial(series)
        whole = serial.floor()
        days = (whole - _SERIAL_EPOCH).cast(pl.Int32).cast(pl.Date)
        seconds = ((serial - whole) * 86_400).round().fill_null(0).to_numpy().astype(np.int32)
    elif series.dtype == pl.String:
        halves = series.str.extract_groups(r"^(.*?)" + CLOCK)
        days = _dates_from_text(halves.struct.field("1"), _DATE_FORMATS.get(reading, _DATE_FORMATS["iso"]))
        if halves.struct.field("2").null_count() < len(series):
            seconds = _seconds_from_text(halves.struct.field("2"), halves.struct.field("3"))
    elif series.dtype == pl.Date:
        days = series
    elif series.dtype == pl.Datetime:
        clock = series.dt.replace_time_zone(None)  # the day and hour that its own zone's clocks show
        days = clock.dt.date()
        of_day = clock.dt.timestamp("ms").fill_null(0).to_numpy() % 86_400_000
        seconds = (of_day // 1000).astype(np.int32)
    else:
        raise Refusal("these values are not dates", "choose another kind for the field")
    ordinals = days.to_physical()
    days = days.set((ordinals < _FIRST_DAY) | (ordinals > _LAST_DAY), None)  # files can hold them, calendars cannot
    lost = days.null_count() > series.null_count()
    refused = _refused(series.cast(pl.String), days) if lost else ()
    if seconds is not None and not seconds.any():  # midnight throughout is a day without a time
        seconds = None
    blank = days.is_null().to_numpy()
    numbers = days.cast(pl.Int32).fill_null(0).to_numpy().astype(np.int32)
    return DateColumn(numbers, blank if blank.any() else None, seconds, refused)


def _seconds_from_text(clock: pl.Series, half: pl.Series) -> NDArray[np.int32]:
    """Seconds of the day from "7:05", "07:05:30" and an "am" or "pm"; 0 where there is no time."""
    parts = clock.str.split_exact(":", 2).struct
    hours, minutes, seconds = (parts.field(f"field_{at}").cast(pl.Int32).fill_null(0).to_numpy() for at in range(3))
    marks = half.str.strip_chars().str.to_lowercase().fill_null("")
    hours = np.where((marks == "pm").to_numpy() & (hours < 12), hours + 12, hours)
    hours = np.where((marks == "am").to_numpy() & (hours == 12), 0, hours)
    of_day: NDArray[np.int32] = (hours * 3600 + minutes * 60 + seconds).astype(np.int32)
    return of_day


def _dates_from_text(texts: pl.Series, formats: tuple[str, ...]) -> pl.Series:
    days = pl.Series(texts.name, [], dtype=pl.Date).extend_constant(None, len(texts))
    full = texts.str.contains(_FULL_YEAR)
    for pattern in formats:
        if days.null_count() == texts.null_count():
            break
        # "%Y" takes 24 for the year 24: two figures are left to "%y".
        fitting = full if pattern.find("%Y") >= 0 else ~full
        frame = pl.DataFrame({"a": days, "t": texts, "fits": fitting})
        read = pl.when(pl.col("fits")).then(pl.col("t")).str.to_date(pattern, strict=False)
        days = frame.select(pl.coalesce("a", read))["a"]
    return days


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
        return units if column.blank is None else units.set(pl.Series(column.blank), None)
    days = pl.Series(name, column.days).cast(pl.Date)
    if column.seconds is not None:
        stamps = column.days.astype("datetime64[D]").astype("datetime64[us]")
        days = pl.Series(name, stamps + column.seconds.astype("timedelta64[s]"))
    return days if column.blank is None else days.set(pl.Series(column.blank), None)
