"""Numbers as people write them: marks for thousands and decimals, brackets, units, and words for a thousand.

"£1,234.50", "(12)", "1.234,5 kg", "1,23,456", "USD 300", "1.2k", "45 CR", "12 %" are numbers; which sign parts
decimals, and which unit all values share, is found out for a field as a whole.
"""

from __future__ import annotations

import re
from collections import Counter
from typing import NamedTuple

import polars as pl

from summula.core.tables.script import in_plain_signs
from summula.core.tables.units import MONEY, UNITS, is_money

_SCALES = {
    "k": 3, "tsd": 3, "thousand": 3, "mil": 3, "mn": 6, "mm": 6, "mio": 6, "mln": 6, "million": 6, "millions": 6,
    "bn": 9, "mrd": 9, "md": 9, "mld": 9, "billion": 9, "billions": 9, "tn": 12, "trillion": 12, "lakh": 5, "lac": 5,
    "lakhs": 5, "crore": 7, "crores": 7,
}  # fmt: skip
_SPACED = frozenset(("mil", "mm", "md"))  # words for many that also mean something else
# Before the figure: brackets, signs, a unit; behind it: a unit and what closes.
_PARTS = (
    r"^([(+\-]{0,2})\s*([^\d\s.,()+\-'][^\d()+\-]{0,7}?)?\s*([+\-]?)\s*"
    r"(\d[\d., ']*\d|\d|[.,]\d+)([.,]?[eE][+\-]?\d+)?\s*([^\d\s.,()'\-+][^\d()]{0,11}?(?:[²³23])?)?\s*([)\-]?)$"
)
_POINT = r"^(?:(?:\d+|\d{1,3}(?:[, ']\d{3})+|\d{1,2}(?:,\d{2})+,\d{3})(?:\.\d+)?|\.\d+)$"
_COMMA = r"^(?:(?:\d+|\d{1,3}(?:[. ']\d{3})+|\d{1,2}(?:\.\d{2})+\.\d{3})(?:,\d+)?|,\d+)$"
_MARKS = 12  # different ones around figures, at most, for a field of numbers
_PLAIN = r"^-?(?:\d+(?:\.\d+)?|\.\d+)$"


class Mark(NamedTuple):
    """What stands around a figure: its unit, and the power of ten it is meant in."""

    unit: str = ""
    power: int = 0


class Numbers(NamedTuple):
    """Numbers from texts, null where a text is none. `unit` is what most share, `mixed` the different ones where it is
    not one; `credit` says that CR and DR tell the sign, `ranges` that some are open ranges ("50-")."""

    values: pl.Series
    unit: str = ""
    mixed: tuple[str, ...] = ()
    credit: bool = False
    ranges: bool = False
    marked: bool = False  # whether there is any mark by which decimals and thousands could be told


def numbers_of(texts: pl.Series, reading: str, unit: str | None = None) -> Numbers:
    """The numbers that texts stand for under a decimal "point" or "comma". With a `unit` said, values of another are
    none."""
    if reading != "comma":
        plain = texts.cast(pl.Float64, strict=False)
        if plain.null_count() == texts.null_count() and bool(plain.is_finite().all()):
            return Numbers(plain, unit or "", marked=bool(texts.str.contains(".", literal=True).any()))
    texts = in_plain_signs(texts)
    parts = texts.str.extract_groups(_PARTS).struct.unnest()
    parts.columns = ["open", "before", "sign", "figure", "power", "after", "close"]
    parts = parts.with_columns(pl.col("before").fill_null(""), pl.col("after").fill_null(""))
    fits = parts["figure"].str.contains(_COMMA if reading == "comma" else _POINT)
    around = parts.filter(fits.fill_null(False)).select("before", "after")
    counted = Counter(around.iter_rows()) if around.height <= 4_096 else _counted(around)
    if len(counted) > _MARKS:
        return Numbers(pl.Series(texts.name, [None], dtype=pl.Float64).new_from_index(0, len(texts)))
    alone = len({after for _, after in counted}) == 1
    credit = any(after.upper() in ("DR", "SOLL") for _, after in counted)
    marks = {pair: _mark(*pair, alone=alone, credit=credit) for pair in counted}
    weights: Counter[str] = Counter()
    for pair, count in counted.items():
        mark = marks[pair]
        if mark is not None and mark.unit:
            weights[mark.unit] += count
    usual = weights.most_common(1)[0][0] if weights else ""
    # A stray one is a value out of step; several that come again and again are amounts that do not go together.
    mixed = tuple(sorted(each for each, count in weights.items() if count * 20 >= max(weights.total(), 1)))
    mixed = mixed if len(mixed) > 1 and "%" not in mixed else ()
    wanted = usual if unit is None else unit
    money = bool((parts["figure"].str.contains(r"[.,' ]") | (parts["open"] == "(") | (parts["before"] != "")).any())
    trailing = parts["close"] == "-"
    numbers = pl.DataFrame(
        [
            parts["figure"].alias("figure"),
            parts["power"].alias("power"),
            _told(parts, marks, wanted, mixed),
            fits.fill_null(False).alias("fits"),
            _negative(parts, trailing, money=money).alias("sign"),
        ]
    )
    bare = pl.col("figure").str.replace_all(r"[ '.]" if reading == "comma" else r"[ ',]", "")
    if reading == "comma":
        bare = bare.str.replace(",", ".", literal=True)
    # As text with its power of ten: 7 % is read as 7e-2, which no multiplication could hit better.
    whole = pl.col("power").str.replace(r"^[.,]?[eE]", "").cast(pl.Int32, strict=False).fill_null(0) + pl.col("ten")
    written = pl.concat_str(bare, pl.lit("e"), whole.cast(pl.String))
    values = numbers.select(
        pl.when(pl.col("fits") & pl.col("ten").is_not_null() & pl.col("sign").is_not_null())
        .then(written.cast(pl.Float64, strict=False) * pl.col("sign"))
        .alias(texts.name)
    ).to_series()
    marked = bool(parts["figure"].str.contains(r"[.,]").any())
    return Numbers(values, wanted, mixed, credit, bool(trailing.any()) and not money, marked)


_ONE_PARTS, _ONE_POINT, _ONE_COMMA = re.compile(_PARTS), re.compile(_POINT), re.compile(_COMMA)


def may_be_number(text: str) -> bool:
    """Whether one text looks at all like a number with its marks."""
    if not text.isascii():
        text = in_plain_signs(pl.Series([text]))[0]
    found = _ONE_PARTS.match(text)
    if found is None or not (_ONE_POINT.match(found[4]) or _ONE_COMMA.match(found[4])):
        return False
    before, after = found[2] or "", found[6] or ""
    return (not before and not after) or _mark(before, after, alone=True, credit=True) is not None


def is_part_number(texts: pl.Series) -> bool:
    """Whether an E between whole digits ("1E3" beside "2E5") is part of a name: no figure of the field has a point,
    and no power a sign."""
    powers = texts.str.contains(r"^\d+[eE]\d+$")
    whole = texts.str.contains(r"^\d+(?:[eE]\d+)?$")
    return bool(powers.any()) and bool(whole.all())


def _counted(around: pl.DataFrame) -> Counter[tuple[str, str]]:
    some = around.group_by("before", "after").len().head(_MARKS + 1)
    return Counter({(before, after): count for before, after, count in some.iter_rows()})


def _told(
    parts: pl.DataFrame, marks: dict[tuple[str, str], Mark | None], unit: str, mixed: tuple[str, ...]
) -> pl.Series:
    """The power of ten that each value's marks mean, with its sign beside; null where they are another unit's, or mean
    nothing."""
    good = [
        (before, after, mark.power)
        for (before, after), mark in marks.items()
        if mark is not None and (not mark.unit or mark.unit == unit or mark.unit in mixed or mark.unit == "%")
    ]
    known = pl.DataFrame(
        {
            "before": [each[0] for each in good],
            "after": [each[1] for each in good],
            "ten": [each[2] for each in good],
        },
        schema={"before": pl.String, "after": pl.String, "ten": pl.Int32},
    )
    return parts.select("before", "after").join(known, on=["before", "after"], how="left", maintain_order="left")["ten"]


def _negative(parts: pl.DataFrame, trailing: pl.Series, *, money: bool) -> pl.Series:
    """1, or -1 for what is in brackets or has a minus; null for an open range, a bracket never closed, or two signs."""
    opened, closed = parts["open"].str.contains("(", literal=True), parts["close"] == ")"
    minus = parts["open"].str.contains("-", literal=True) | (parts["sign"] == "-")
    owed = parts["after"].str.to_uppercase().is_in(["DR", "SOLL"])
    frame = pl.DataFrame({"o": opened, "c": closed, "m": minus, "t": trailing, "d": owed})
    wrong = (pl.col("o") != pl.col("c")) | (pl.col("m") & pl.col("t"))
    if not money:
        wrong = wrong | pl.col("t")
    less = pl.col("o") | pl.col("m") | pl.col("t") | pl.col("d")
    return frame.select(pl.when(~wrong).then(pl.when(less).then(-1.0).otherwise(1.0))).to_series()


def _mark(before: str, after: str, *, alone: bool, credit: bool) -> Mark | None:
    """What stands around a figure as a mark; None where it means nothing that is known. `alone` says that all values
    have the same behind them."""
    before, spaced, after = before.strip(), after != after.lstrip(), after.strip()
    if before and not is_money(before):
        return None
    if not after:
        return Mark(_money_name(before))
    if credit and after.upper() in ("CR", "DR", "HABEN", "SOLL"):
        return Mark(_money_name(before))
    if after == "%":
        return Mark("%", -2) if not before else None
    if after == "‰":
        return Mark("‰", 0)
    if is_money(after):
        return Mark(_money_name(after)) if not before else None
    word, _, rest = after.replace(".", " ").partition(" ")
    word, rest = word.strip(), rest.strip()
    scale = _scale(word, money=bool(before) or is_money(rest), spaced=spaced)
    if scale is None and is_money(after[-1]):  # 1.2k€, 3 m€
        scale, rest = _scale(after[:-1].strip(), money=True, spaced=spaced), after[-1]
    if scale is not None and (not rest or is_money(rest)) and not (before and rest):
        return Mark(_money_name(before or rest), scale)
    if before:
        return None
    if len(after) == 1:  # 12A is a seat, 12 A a current; 3h and 5m are what they say
        known = after in "°µ" or (after.lower() in UNITS and (spaced or (alone and after.islower())))
        return Mark(after) if known else None
    if after.lower() in UNITS or after in UNITS:
        return Mark(after)
    return Mark(after) if alone and len(after) > 1 and after.replace("/", "").replace(" ", "").isalpha() else None


def _scale(word: str, *, money: bool, spaced: bool) -> int | None:
    if word == "M" or (money and word == "m"):
        return 6
    if word in ("B", "b") and money:
        return 9
    if word == "K" and not spaced:
        return 3
    if word.lower() in _SPACED and not money:
        return None
    return _SCALES.get(word.lower())


def _money_name(text: str) -> str:
    return text.rstrip(".") if text.lower() in MONEY else text
