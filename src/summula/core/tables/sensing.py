"""What kind a field of text is, and how its text is to be read.

A kind is taken only when (nearly) every value fits it; values that do not fit are kept as they were
and told, never guessed at. Digits that identify (running numbers, post codes) are codes: never totalled.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

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


_LOOKED_AT = 50_000  # of values that hardly repeat, so many are looked at; encoding meets the others


def sense(name: str, texts: pl.Series, counts: NDArray[np.int64] | None = None) -> Sensed:
    """The kind of a field called `name` whose values are `texts` (stripped; blanks are null).

    `counts` tells how many rows hold each text, where the texts are distinct values.
    """
    present = texts.is_not_null()
    values = texts.filter(present)
    if len(values) == 0:
        return Sensed("category", why="every value is blank")
    weights = None if counts is None else counts[present.to_numpy()]
    lowered = set(values.head(1000).str.to_lowercase().unique().to_list())
    pair = len(lowered) == 2 and any(lowered == set(pair) for pair in FLAG_PAIRS)
    if pair and set(values.unique().str.to_lowercase().to_list()) == lowered:
        return Sensed("flag", why="two values that mean no and yes")
    looked = values
    if weights is None and len(values) > _LOOKED_AT:
        looked = values.gather_every(len(values) // _LOOKED_AT)
    date = _sense_date(looked, weights)
    if date is not None:
        return date
    for reading, pattern in (("point", NUMBER_POINT), ("comma", NUMBER_COMMA)):
        fits = looked.str.contains(pattern) & looked.str.contains(r"\d")
        if _share(fits, weights) >= FIT:
            if _is_code(name, values if looked is not values else values.filter(fits), repeating=counts is not None):
                return Sensed("code", why="digits that identify, so a total would mean nothing")
            return Sensed("number", reading)
    return Sensed("category")


def _share(fits: pl.Series, weights: NDArray[np.int64] | None) -> float:
    """The share of rows that fit."""
    return float(np.average(fits.to_numpy(), weights=weights))


def _sense_date(values: pl.Series, weights: NDArray[np.int64] | None) -> Sensed | None:
    if _share(values.str.contains(_ISO), weights) >= FIT:
        return Sensed("date", "iso")
    slashed = values.str.contains(_SLASHED)
    if _share(slashed, weights) >= FIT:
        rows = None if weights is None else weights[slashed.to_numpy()]
        parts = values.filter(slashed).str.extract_groups(_SLASHED)
        above = [(parts.struct.field(part).cast(pl.Int32) > 12).to_numpy() for part in ("1", "2")]
        above_first, above_second = (int(np.sum(each if rows is None else rows[each])) for each in above)
        if above_second > above_first:
            return Sensed("date", "month first", f"{above_second} values have a day above 12 in second place")
        why = f"{above_first} values have a day above 12" if above_first else "no day is above 12: taken day first"
        return Sensed("date", "day first", why)
    if _share(values.str.contains(_NAMED), weights) >= FIT:
        return Sensed("date", "named")
    return None


def _is_code(name: str, values: pl.Series, *, repeating: bool) -> bool:
    whole = values.str.contains(r"^\d+$")
    if not bool(whole.all()):
        return False
    if bool(values.str.contains(r"^0\d").any()):
        return True
    if _CODE_NAME.search(_SPLIT_CAMEL.sub(" ", name)):
        return True
    # A running number: all different and in order, over more than a handful of rows.
    if len(values) >= 20 and not repeating:
        numbers = values.cast(pl.Int64, strict=False).drop_nulls()
        steps = numbers.diff().drop_nulls()
        if len(steps) and bool((steps > 0).all()):
            return True
    lengths = values.str.len_bytes()
    different = lengths.unique().to_list()
    return len(different) == 1 and different[0] >= 9
