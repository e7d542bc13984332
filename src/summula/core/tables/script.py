"""Digits and signs of other scripts as the plain ones that numbers and dates are read by."""

from __future__ import annotations

import re
import unicodedata
from functools import cache
from typing import TYPE_CHECKING

import polars as pl
from msgspec.structs import replace

if TYPE_CHECKING:
    from summula.core.tables.field import Sensed

_SIGNS = {
    "\u2212": "-", "\u2010": "-", "\u2011": "-", "\u2012": "-", "\u2013": "-", "\ufe63": "-", "\uff0d": "-",
    "\u066b": ".", "\u066c": ",", "\uff0c": ",", "\uff0e": ".", "\uff1a": ":", "\uff0f": "/", "\u060c": ",",
    "\u066a": "%", "\uff05": "%", "\uff04": "$", "\uffe5": "¥", "\uffe1": "£", "\u2019": "'", "\u02bc": "'",
    "\u00a0": " ", "\u202f": " ", "\u2009": " ", "\u2007": " ", "\u2008": " ", "\u3000": " ",
    "\uff08": "(", "\uff09": ")",
}  # fmt: skip
_UNSEEN = ("\u200b", "\u200c", "\u200d", "\u200e", "\u200f", "\u2060", "\ufeff", "\u00ad", "\u061c")
_OTHER = r"[^\x00-\x7f]"
UNSEEN = re.compile("[" + "".join(_UNSEEN) + "]")


@cache
def _digits() -> dict[str, str]:
    every = (chr(code) for code in range(0x80, 0x20000))
    return {each: str(unicodedata.decimal(each)) for each in every if unicodedata.category(each) == "Nd"}


@cache
def _table() -> tuple[list[str], list[str]]:
    plain = {**_digits(), **_SIGNS, **dict.fromkeys(_UNSEEN, "")}
    return list(plain), list(plain.values())


def in_plain_signs(texts: pl.Series) -> pl.Series:
    """The texts with plain digits, spaces and signs; the same series where they have no others."""
    if not bool(texts.str.contains(_OTHER).any()):
        return texts
    others, plain = _table()
    return texts.str.replace_many(others, plain)


def told_of_unseen(sensed: Sensed, texts: pl.Series) -> Sensed:
    """A category whose texts had letters without width says so."""
    if sensed.kind != "category" or sensed.why or not bool(texts.str.contains(UNSEEN.pattern).any()):
        return sensed
    return replace(sensed, reading="trimmed", why="zero-width characters were removed")


def without_unseen(texts: pl.Series) -> pl.Series:
    """The texts without letters of no width around and in them (a BOM, joiners); the same where there are none."""
    if not bool(texts.str.contains(UNSEEN.pattern).any()):
        return texts
    # Joiners within words belong to some scripts: only marks that never do, and what stands at an end, go.
    ends = "[" + "".join(_UNSEEN) + r"\s]+"
    return texts.str.replace_all("[\u200b\u2060\ufeff]", "").str.replace_all(f"^{ends}|{ends}$", "")
