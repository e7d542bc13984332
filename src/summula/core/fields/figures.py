"""How figures read: the pattern, unit and decimals of a measure."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal, localcontext
from functools import lru_cache
from typing import Any

import msgspec

from summula.core.fields.labels import clock_text
from summula.core.refusal import Refusal, shortened

MINUS = "\N{MINUS SIGN}"
_MOST_DIGITS = 10  # of a figure on an axis
_MOST_DECIMALS = 12  # of a figure in a cell
NOTHING = "\N{EN DASH}"


class FigureStyle(msgspec.Struct, frozen=True, gc=False, cache_hash=True):
    """`pattern` is a CLDR number pattern without a unit; `unit` (£, kg) is said once, in the head. With `clock`,
    figures are hours, and written as hours and minutes.

    A pattern may have parts for plus, minus and nothing, with semicolons between: "+0.0;-0.0;level". Figures are
    divided by `scale` before they are written; the head says so.
    """

    pattern: str = "#,##0"
    unit: str = ""
    percent: bool = False
    scale: float = 1.0
    clock: bool = False
    fixed: bool = False  # a person has said how figures are written: so they are on charts as well

    def text(self, value: float, *, unit: bool = False) -> str:
        """The figure as written in a cell; a dash when blank."""
        if math.isnan(value):
            return NOTHING
        if math.isinf(value):
            return "∞" if value > 0 else MINUS + "∞"
        if self.clock:
            return clock_text(value)
        value /= self.scale
        if ";" in self.pattern:
            return _in_parts(self.pattern, value, self.unit if unit else "")
        written = _apply(self.pattern, abs(value))
        sign = MINUS if value < 0 and re.search(r"[1-9]", written) else ""
        return with_unit(sign, written, self.unit if unit else "")

    def ticks(self, values: Sequence[float]) -> list[str]:
        """Round figures on one axis, in as few digits as say them all; those that are not round, in as few as tell them
        apart."""
        return list(_ticks(self, tuple(values)))

    def tick(self, value: float, digits: int = 3, *, letters: float = 0.0) -> str:
        """A round figure on an axis: as short as it can be said (£1.2m, 800k); thousands as k from `letters` on."""
        if self.clock:
            return clock_text(value)
        if self.fixed:
            return self.text(value, unit=self.scale == 1.0)
        text = _short(self, value, self.unit, False, digits, letters)
        found = re.search(r"(\.\d*?)0+(?=\D*$)", text)
        return text if found is None else text[: found.start()] + found.group(1).rstrip(".") + text[found.end() :]

    def short(self, value: float, *, unit: bool = True, signed: bool = False, digits: int = 3) -> str:
        """The figure in few signs, for charts: £2.31m, 520k, 87.2%; in about so many digits."""
        if math.isnan(value):
            return NOTHING
        if self.fixed:
            return self.text(value, unit=unit and self.scale == 1.0)
        return _short(self, value, self.unit if unit else "", signed, digits, 0.0)


@lru_cache(maxsize=1024)
def _ticks(style: FigureStyle, values: tuple[float, ...]) -> list[str]:
    """An axis is drawn again and again: what is written along it is put together once."""
    # Where one of them is told in thousands, so are the others: 2k, 4k … 10k.
    letters = 1e3 if any(abs(each) >= _LETTERS for each in values) else 0.0

    def at(digits: int) -> list[str]:
        return [style.tick(each, digits, letters=letters) for each in values]

    written = [at(3), at(5)]
    if written[0] == written[1]:  # as nearly always
        return written[0]
    tries = [at(digits) for digits in range(3, _MOST_DIGITS)]
    exact = (texts for texts, finer in zip(tries, tries[2:], strict=False) if texts == finer)
    apart = (texts for texts in tries if len(set(texts)) == len(texts))
    return next(exact, None) or next(apart, tries[0])


@lru_cache(maxsize=4096)
def _short(style: FigureStyle, value: float, mark: str, signed: bool, digits: int, letters: float) -> str:
    if not math.isfinite(value):
        return style.text(value)
    sign = MINUS if value < 0 else ("+" if signed and value > 0 else "")
    if style.clock:
        return ("+" if sign == "+" else "") + clock_text(value, seconds=False)
    size = abs(value)
    if style.percent:
        return f"{sign}{_rounded(size, digits, hundredfold=True)}%"
    if size >= _BEYOND or 0 < size < _TINY:
        return with_unit(sign, _in_powers(size, digits), mark)
    for limit, letter in ((1e12, "tn"), (1e9, "bn"), (1e6, "m"), (letters or (_LETTERS if digits > 2 else 1e3), "k")):
        if size >= limit * 0.99995:
            scale = 1e3 if letter == "k" else limit
            return with_unit(sign, f"{_rounded(size / scale, digits)}{letter}", mark)
    if (size >= 1000 and digits < 4) or size == int(size):
        return with_unit(sign, in_places(size, 0, thousands="," in style.pattern), mark)
    return with_unit(sign, _rounded(size, digits), mark)


def with_unit(sign: str, figure: str, unit: str) -> str:
    """A figure with its sign and unit: a currency's mark stands before it, all else behind."""
    if not unit or _CURRENCY.fullmatch(unit):
        return f"{sign}{unit}{figure}"
    return f"{sign}{figure}{'' if unit == '°' else ' '}{unit}"


def _in_parts(pattern: str, value: float, unit: str) -> str:
    """A figure under a pattern of two or three parts; a part without a place for figures is a word."""
    plus, minus, *nothing = pattern.split(";")
    part = nothing[0] if nothing and value == 0 else minus if value < 0 and minus else plus
    if not re.search(r"[#0]", part):
        return part
    return f"{unit}{_apply(part, abs(value))}"


def in_places(size: float, places: int, *, thousands: bool = True, hundredfold: bool = False) -> str:
    """A figure of no sign in so many decimals, or a hundred times it. What lies just between two goes up, as it is
    written: 2.5 to 3 and 1.005 to 1.01 (left to itself, the machine would take the even one, or one by its own binary
    parts)."""
    form = f"{',' if thousands else ''}.{places}f"
    written = repr(float(size))
    decimals = len(written.partition(".")[2])
    if "e-" in written or (written[-1] == "5" and decimals == places + (3 if hundredfold else 1)):
        exact = Decimal(written).scaleb(2 if hundredfold else 0)
        return format(exact.quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP), form)
    return format(size * 100 if hundredfold else size, form)


def percent_text(share: float, places: int = 1) -> str:
    """A share in hundredths: 0.438 is "43.8%"."""
    written = in_places(abs(share), places, hundredfold=True)
    return f"{MINUS if share < 0 and re.search('[1-9]', written) else ''}{written}%"


def _rounded(size: float, digits: int, *, hundredfold: bool = False) -> str:
    """About so many significant digits, never fewer than the whole part; of what is less than one two at least, after
    its noughts."""
    shown = size * 100 if hundredfold else size
    if 0 < shown < 0.995:
        places = max(digits, 3) - 2 - min(_first_place(shown), -1)
    else:
        places = max(digits - (3 if shown >= 99.95 else 2 if shown >= 9.995 else 1), 0)
    text = in_places(size, places, hundredfold=hundredfold)
    return text.split(".")[0] if places and not text.split(".")[1].strip("0") else text


_LETTERS = 1e4  # figures by themselves are told in thousands from here on
_BEYOND, _TINY = 1e15, 1e-4  # figures in few signs are written in powers of ten from here on


def _first_place(size: float) -> int:
    """Where the first significant digit of a figure stands: 0 for 5, -1 for 0.5, -3 for 0.0052."""
    return math.floor(math.log10(size)) if size else 0


def _in_powers(size: float, digits: int) -> str:
    """Very large and very small figures: 9.89e16. (Not all shipped faces have raised figures.)"""
    mantissa, power = f"{size:.{max(digits - 1, 0)}e}".split("e")
    mantissa = mantissa.rstrip("0").rstrip(".") if "." in mantissa else mantissa
    return f"{mantissa}e{int(power)}".replace("-", MINUS)


def plural(number: int, thing: str) -> str:
    """A number of things: "1 row", "2,310 rows", "3 categories"."""
    return f"{number:,} {thing if abs(number) == 1 else several(thing)}"


def several(thing: str) -> str:
    """More than one of a thing: "routes", "categories", "classes", "sales"."""
    folded = thing.casefold()
    if re.search(r"[^aeiou]y$", folded):
        return f"{thing[:-1]}ies"
    if folded.endswith("is"):
        return f"{thing[:-2]}es"
    if re.search(r"(ss|us|x|z|ch|sh)$", folded):
        return f"{thing}es"
    return thing if folded.endswith("s") else f"{thing}s"


@lru_cache(maxsize=256)
def _parsed(pattern: str) -> Any:
    from babel.numbers import parse_pattern  # only patterns of a person's own need it

    return parse_pattern(pattern)


_PLAIN = re.compile(r"(#,##)?0(?:\.(0+))?(%?)")


@lru_cache(maxsize=256)
def _plainly(pattern: str) -> tuple[int, bool, bool] | None:
    """The decimals of a pattern of figures alone ("#,##0.00", "0%"), and whether it has thousands marks and is of
    percents: a figure is written so in a fraction of the library's time."""
    found = _PLAIN.fullmatch(pattern)
    return None if found is None else (len(found[2] or ""), bool(found[1]), bool(found[3]))


@lru_cache(maxsize=4096)
def _apply(pattern: str, value: float) -> str:
    plain = _plainly(pattern)
    if plain is not None:
        places, thousands, percent = plain
        return in_places(value, places, thousands=thousands, hundredfold=percent) + ("%" if percent else "")
    try:
        with localcontext() as context:
            context.rounding = ROUND_HALF_UP
            return str(_parsed(pattern).apply(value, "en"))
    except ArithmeticError:  # more figures than decimals are worked out with
        return f"{value:g}"


_MOST_SIGNS, _MOST_FIGURES = 80, 40  # of a pattern


def checked_pattern(pattern: str) -> str:
    """The pattern, where numbers can be written by it; raises Refusal where they cannot."""
    wrong = Refusal(f"'{shortened(pattern, 24)}' is not a number pattern", "enter it like #,##0.00")
    if len(pattern) > _MOST_SIGNS or sum(pattern.count(sign) for sign in "#0@") > _MOST_FIGURES:
        raise wrong
    try:
        for part in pattern.split(";") if pattern else ():
            if re.search(r"[#0@]", part):
                _parsed(part)
        unit, rest = split_unit(pattern)
        for value in (0.0, -1234.5678, 1e15) if pattern else ():
            FigureStyle(rest, unit, percent="%" in rest).text(value, unit=True)
    except Refusal:
        raise
    except Exception:  # whatever the library makes of it
        raise wrong from None
    return pattern


CURRENCY_MARKS = "£$€¥₹₽₩₺₴₪₫฿₦₱₡₲₸₼₾"
_CURRENCY = re.compile(f"[{CURRENCY_MARKS}]")
_QUOTED = re.compile(r"\s*'((?:[^']|'')+)'\s*")


@lru_cache(maxsize=256)
def split_unit(pattern: str) -> tuple[str, str]:
    """A field's pattern parted into its currency mark, or the unit in quotation marks ("0.0 'kg'"), and the rest."""
    quoted = _QUOTED.search(pattern)
    if quoted and ";" not in pattern and re.search(r"[#0@]", pattern[: quoted.start()] + pattern[quoted.end() :]):
        return quoted[1].replace("''", "'"), pattern[: quoted.start()] + pattern[quoted.end() :]
    found = _CURRENCY.search(pattern)
    if not found:
        return "", pattern
    return found.group(), _CURRENCY.sub("", pattern).strip()


def decimals_for(largest: float) -> int:
    """Decimals that leave two or three significant figures for means and ratios of this size."""
    if math.isnan(largest) or largest >= 1000:
        return 0
    if largest >= 10:
        return 1
    return 2 if largest >= 0.1 or largest <= 0 else min(1 - _first_place(largest), _MOST_DECIMALS)


def plain_pattern(decimals: int, like: str = "") -> str:
    """Plain figures of so many decimals; without thousands marks where the pattern `like` has none."""
    whole = "0" if like and "," not in like else "#,##0"
    return whole + ("." + "0" * decimals if decimals else "")


def round_step(step: float) -> float:
    """The next of 1, 2, 2.5, 5 times a power of ten."""
    if step <= 0:
        return 1.0
    power = 10.0 ** math.floor(math.log10(step))
    for factor in (1, 2, 2.5, 5, 10):
        if factor * power >= step * (1 - 1e-9):
            return factor * power
    return 10 * power


def typed_number(text: str) -> float | None:
    try:
        number = float(text.strip().replace(",", "").replace("\N{MINUS SIGN}", "-"))
    except ValueError:
        return None
    return number if abs(number) < 1e300 else None
