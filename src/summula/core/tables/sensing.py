"""What kind a field of text is, and how its text is to be read.

A kind is taken only when (nearly) every value fits it; values that do not fit are kept as they were
and told, never guessed at. Digits that identify (running numbers, post codes) are codes: never totalled.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple, TypeAlias

import polars as pl

from summula.core.arrays import np
from summula.core.tables.field import Sensed
from summula.core.tables.markers import without_markers
from summula.core.tables.names import identifies, measures

if TYPE_CHECKING:
    from numpy.typing import NDArray

__all__ = ["FIT", "FLAG_PAIRS", "Signs", "fits_number", "sense"]

# One value in fifty may be out of step before a field stops being a number or a date.
FIT = 0.98
CURRENCIES = "£$€¥₹₽₩₺"
# Optional brackets or sign, a currency mark on either side, thousands marks, a decimal mark, percent.
_BEFORE = rf"^[(+\-−]?[{CURRENCIES}]?\s?[+\-−]?"
_AFTER = rf"([eE][+-]?\d+)?\s?[%{CURRENCIES}]?[)\-−]?$"
NUMBER_POINT = _BEFORE + r"(\d+|\d{1,3}([, '\u00a0\u202f]\d{3})+)?(\.\d+)?" + _AFTER
NUMBER_COMMA = _BEFORE + r"(\d+|\d{1,3}([. '\u00a0\u202f]\d{3})+)?(,\d+)?" + _AFTER
CLOCK = r"(?:[T ](\d{1,2}:\d{2}(?::\d{2})?)(?:\.\d+)?( ?[AaPp][Mm])?)?Z?$"
_ISO = r"^\d{4}[-/]\d{1,2}[-/]\d{1,2}" + CLOCK
_SLASHED = r"^(\d{1,2})[/.\-](\d{1,2})[/.\-](\d{4}|\d{2})" + CLOCK
_NAMED = r"^(\d{1,2}[ \-][A-Za-z]{3,9}\.?[ \-]\d{4}|[A-Za-z]{3,9}\.? \d{1,2}, ?\d{4})" + CLOCK
ISO_WHY = "written year, month, day"
FLAG_PAIRS: tuple[tuple[str, str], ...] = (
    ("false", "true"),
    ("no", "yes"),
    ("n", "y"),
    ("f", "t"),
    ("off", "on"),
)


Counts: TypeAlias = "Callable[[], NDArray[np.int64]]"


class Signs(NamedTuple):
    """What a person has said about decimal signs ("point", "comma") and date order; empty where it is to be sensed."""

    decimal: str = ""
    dates: str = ""


_DIGIT, _DAY = re.compile(r"\d"), re.compile(r"\d{4}-\d{2}-\d{2}$")
_WHOLE = re.compile(r"-?(0|[1-9][0-9]{0,7})$")  # of nine digits or more, they might identify
_POINTED = re.compile(r"-?(0|[1-9][0-9]{0,7})(\.[0-9]{1,2})?$")  # three might be thousands
_MONTHS = 3  # different ones that a series of months has at least
_STEPS_OF_ONE = 0.9  # of a running number
_FEW = 2_000  # values; so many are looked at one by one in less time than it takes to set out
_LOOKED_AT = 50_000  # of values that hardly repeat, so many are looked at; encoding meets the others
SENSE_ALL = Signs()


def sense(name: str, texts: pl.Series, counts: Counts | None = None, signs: Signs = SENSE_ALL) -> Sensed:
    """The kind of a field called `name` whose values are `texts` (stripped; blanks are null).

    What people write for nothing ("n/a") is a blank where the other values are of one kind.
    `counts` tells how many rows hold each text, where the texts are distinct values; plain words need no counting.
    """
    unmarked = without_markers(texts)
    if unmarked is not texts and unmarked.null_count() < len(texts):
        without = sense(name, unmarked, counts, signs)
        if without.kind != "category":
            return without
    plain = _sense_plainly(name, texts.to_list(), signs, repeating=counts is not None) if len(texts) <= _FEW else None
    if plain is not None:
        return plain
    present = texts.is_not_null()
    values = texts.filter(present)
    if len(values) == 0:
        return Sensed("category", why="every value is blank")
    lowered = set(values.head(1000).str.to_lowercase().unique().to_list())
    pair = len(lowered) == 2 and any(lowered == set(pair) for pair in FLAG_PAIRS)
    if pair and set(values.unique().str.to_lowercase().to_list()) == lowered:
        return Sensed("flag", why="two values that mean no and yes")
    looked = values
    if counts is None and len(values) > _LOOKED_AT:
        looked = values.gather_every(len(values) // _LOOKED_AT)
    digits = looked.str.contains(r"\d")
    if not digits.any():
        return Sensed("category")  # dates and numbers are written with digits
    weights = None if counts is None else counts()[present.to_numpy()]
    if weights is not None and not weights.any():
        weights = np.ones_like(weights)
    if _share(digits, weights) < FIT:
        return Sensed("category")
    date = _sense_date(looked, weights, signs)
    if date is not None:
        return date
    fits = {reading: fits_number(looked, reading) for reading in ("point", "comma")}
    shares = {reading: _share(fit, weights) for reading, fit in fits.items()}
    for reading in ("comma", "point") if signs.decimal == "comma" else ("point", "comma"):
        if shares[reading] < FIT:
            continue
        if _is_code(
            name, values if looked is not values else values.filter(fits[reading]), repeating=weights is not None
        ):
            return Sensed("code", why="digits that identify, so a total would mean nothing")
        other = {"point": "comma", "comma": "point"}[reading]
        marked = bool(looked.str.contains(r"\d[.,]\d").any())
        if not marked:
            return Sensed("number", reading)
        if shares[other] >= FIT and not signs.decimal:
            return Sensed("number", reading, "every mark could part thousands or decimals", doubt=True)
        return Sensed("number", reading, f"{int(shares[reading] * 100)} % of the values read so")
    return Sensed("category")


def _sense_plainly(name: str, texts: list[str | None], signs: Signs, *, repeating: bool) -> Sensed | None:
    """Words without any digit, and days or numbers all written alike, told at once; None where it takes a closer
    look."""
    values = [text for text in texts if text is not None]
    if not values or len({text.lower() for text in values}) == 2:
        return None
    if not _DIGIT.search("\n".join(values)):
        return Sensed("category")
    if all(_DAY.match(text) for text in values):
        return Sensed("date", "iso", ISO_WHY)
    if signs.decimal == "comma":
        return None
    if all(_WHOLE.match(text) for text in values):
        running = not repeating and all(int(one) < int(next) for one, next in pairwise(values))
        return None if running or identifies(name) else Sensed("number", "point")
    if not repeating and all(_POINTED.match(text) for text in values):
        pointed = sum("." in text for text in values)  # the others could be read with a comma as well
        if pointed > (1 - FIT) * len(values):
            return Sensed("number", "point", "100 % of the values read so")
    return None


def fits_number(texts: pl.Series, reading: str) -> pl.Series:
    """Which texts are numbers under a decimal "point" or "comma"."""
    return texts.str.contains(NUMBER_COMMA if reading == "comma" else NUMBER_POINT) & texts.str.contains(r"\d")


def _share(fits: pl.Series, weights: NDArray[np.int64] | None) -> float:
    """The share of rows that fit."""
    return float(np.average(fits.to_numpy(), weights=weights))


def _sense_date(values: pl.Series, weights: NDArray[np.int64] | None, signs: Signs) -> Sensed | None:
    if _share(values.str.contains(_ISO), weights) >= FIT:
        return Sensed("date", "iso", ISO_WHY)
    slashed = values.str.contains(_SLASHED)
    if _share(slashed, weights) >= FIT:
        return _sense_order(values.filter(slashed), None if weights is None else weights[slashed.to_numpy()], signs)
    if _share(values.str.contains(_NAMED), weights) >= FIT:
        return Sensed("date", "named", "the month stands as a word")
    return None


def _sense_order(slashed: pl.Series, weights: NDArray[np.int64] | None, signs: Signs) -> Sensed | None:
    """Whether day or month stands first: a part above 12 is a day."""
    parts = slashed.str.extract_groups(_SLASHED)
    numbers = [parts.struct.field(part).cast(pl.Int32).to_numpy() for part in ("1", "2")]
    above = [int(np.sum((part > 12) if weights is None else weights[part > 12])) for part in numbers]
    possible = (
        (numbers[0] >= 1) & (numbers[0] <= 31) & (numbers[1] >= 1) & (numbers[1] <= 31)
        & ((numbers[0] <= 12) | (numbers[1] <= 12))
    )  # fmt: skip
    if float(np.average(possible, weights=weights)) < FIT:
        return None  # 32.45.2020 is a part number, or a version
    if signs.dates:
        return Sensed("date", signs.dates, "as you said")
    if above[1] > above[0]:
        return Sensed("date", "month first", f"{_values(above[1])} a day above 12 in second place")
    if above[0]:
        return Sensed("date", "day first", f"{_values(above[0])} a day above 12")
    first, second = (np.unique(part) for part in numbers)
    if second.tolist() == [1] and len(first) >= _MONTHS:
        return Sensed("date", "month first", "the second part is always 1: a month each")
    if first.tolist() == [1] and len(second) >= _MONTHS:
        return Sensed("date", "day first", "the first part is always 1: a month each")
    return Sensed("date", "day first", "no value has a part above 12: it could be month first as well", doubt=True)


def _values(count: int) -> str:
    return f"{count:,} value has" if count == 1 else f"{count:,} values have"


def _is_code(name: str, values: pl.Series, *, repeating: bool) -> bool:
    whole = values.str.contains(r"^\d+$")
    if not bool(whole.all()):
        return False
    if bool(values.str.contains(r"^0\d").any()):
        return True
    if identifies(name):
        return True
    # A running number: in steps of one, but for a few gaps, over more than a handful of rows.
    if len(values) >= 20 and not repeating and not measures(name):
        numbers = values.cast(pl.Int64, strict=False).drop_nulls()
        steps = numbers.diff().drop_nulls()
        if len(steps) and bool((steps > 0).all()) and int((steps == 1).sum()) >= _STEPS_OF_ONE * len(steps):
            return True
    lengths = values.str.len_bytes()
    different = lengths.unique().to_list()
    return len(different) == 1 and different[0] >= 9
