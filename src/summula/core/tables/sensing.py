"""What kind a field of text is, and how its text is to be read.

A kind is taken only when (nearly) every value fits it; values that do not fit are kept as they were
and told, never guessed at. Digits that identify (running numbers, post codes) are codes: never totalled.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import polars as pl

from summula.core.tables.field import Kind

# One value in fifty may be out of step before a field stops being a number or a date.
FIT = 0.98
_CODE_NAME = re.compile(
    r"(^|[\s_.-])(no|nr|num|id|ids|code|key|ref|reference|sku|zip|postcode|phone|tel|telephone|account|iban)"
    r"([\s_.-]|$)|number$",
    re.IGNORECASE,
)
_SPLIT_CAMEL = re.compile(r"(?<=[a-z])(?=[A-Z])")
CURRENCIES = "£$€¥₹₽₩₺"
# Optional brackets or sign, a currency mark on either side, thousands marks, a decimal mark, percent.
_BEFORE = rf"^[(+\-−]?[{CURRENCIES}]?\s?[+\-−]?"
_AFTER = rf"([eE][+-]?\d+)?\s?[%{CURRENCIES}]?[)\-−]?$"
NUMBER_POINT = _BEFORE + r"(\d+|\d{1,3}([, '\u00a0\u202f]\d{3})+)?(\.\d+)?" + _AFTER
NUMBER_COMMA = _BEFORE + r"(\d+|\d{1,3}([. '\u00a0\u202f]\d{3})+)?(,\d+)?" + _AFTER
_ISO = r"^\d{4}-\d{1,2}-\d{1,2}([T ]\d{1,2}:\d{2}(:\d{2}(\.\d+)?)?Z?)?$"
_SLASHED = r"^(\d{1,2})[/.\-](\d{1,2})[/.\-](\d{4})([T ]\d{1,2}:\d{2}(:\d{2})?)?$"
_NAMED = r"^\d{1,2}[ \-]([A-Za-z]{3,9})[ \-]\d{4}$"
FLAG_PAIRS: tuple[tuple[str, str], ...] = (
    ("false", "true"),
    ("no", "yes"),
    ("n", "y"),
    ("f", "t"),
    ("off", "on"),
)


@dataclass(frozen=True, slots=True)
class Sensed:
    """A kind, how to read it ("iso", "day first", "month first", "named", "point", "comma"), and why."""

    kind: Kind
    reading: str = ""
    why: str = ""


def sense(name: str, texts: pl.Series) -> Sensed:
    """The kind of a field called `name` whose values are `texts` (stripped; blanks are null)."""
    values = texts.drop_nulls()
    if len(values) == 0:
        return Sensed("category", why="every value is blank")
    distinct = values.unique()
    lowered = set(distinct.head(3).str.to_lowercase().to_list()) if len(distinct) <= 2 else set()
    if len(lowered) == 2 and any(lowered == set(pair) for pair in FLAG_PAIRS):
        return Sensed("flag", why="two values that mean no and yes")
    date = _sense_date(values)
    if date is not None:
        return date
    for reading, pattern in (("point", NUMBER_POINT), ("comma", NUMBER_COMMA)):
        fits = values.str.contains(pattern) & values.str.contains(r"\d")
        if fits.mean() >= FIT:  # type: ignore[operator]
            if _is_code(name, values.filter(fits), len(distinct)):
                return Sensed("code", why="digits that identify, so a total would mean nothing")
            return Sensed("number", reading)
    return Sensed("category")


def _sense_date(values: pl.Series) -> Sensed | None:
    if values.str.contains(_ISO).mean() >= FIT:  # type: ignore[operator]
        return Sensed("date", "iso")
    slashed = values.str.contains(_SLASHED)
    if slashed.mean() >= FIT:  # type: ignore[operator]
        parts = values.filter(slashed).str.extract_groups(_SLASHED)
        first = parts.struct.field("1").cast(pl.Int32)
        second = parts.struct.field("2").cast(pl.Int32)
        above_first = int((first > 12).sum())
        above_second = int((second > 12).sum())
        if above_second > above_first:
            return Sensed("date", "month first", f"{above_second} values have a day above 12 in second place")
        why = f"{above_first} values have a day above 12" if above_first else "no day is above 12: taken day first"
        return Sensed("date", "day first", why)
    if values.str.contains(_NAMED).mean() >= FIT:  # type: ignore[operator]
        return Sensed("date", "named")
    return None


def _is_code(name: str, values: pl.Series, distinct: int) -> bool:
    whole = values.str.contains(r"^\d+$")
    if not bool(whole.all()):
        return False
    if bool(values.str.contains(r"^0\d").any()):
        return True
    if _CODE_NAME.search(_SPLIT_CAMEL.sub(" ", name)):
        return True
    # A running number: all different and in order, over more than a handful of rows.
    if len(values) >= 20 and distinct == len(values):
        numbers = values.cast(pl.Int64, strict=False).drop_nulls()
        steps = numbers.diff().drop_nulls()
        if len(steps) and bool((steps > 0).all()):
            return True
    lengths = values.str.len_bytes()
    different = lengths.unique().to_list()
    return len(different) == 1 and different[0] >= 9
