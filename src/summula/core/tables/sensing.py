"""What kind a field of text is, and how its text is to be read.

A kind is taken only when (nearly) every value fits it; values that do not fit are kept as they were
and told, never guessed at. Digits that identify (running numbers, post codes) are codes: never totalled.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, NamedTuple, TypeAlias

import polars as pl
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.tables import dates, durations, flags
from summula.core.tables.column import different_values
from summula.core.tables.field import Sensed
from summula.core.tables.markers import markers_in, without_markers
from summula.core.tables.names import averages, identifies, is_called, measures, of_births, only_may_identify, sums
from summula.core.tables.numerals import Numbers, is_part_number, numbers_of
from summula.core.tables.script import in_plain_signs

if TYPE_CHECKING:
    from numpy.typing import NDArray

__all__ = ["FIT", "SENSE_ALL", "Counts", "Signs", "sense", "sense_wholes"]

# One value in fifty may be out of step before a field stops being a number or a date.
FIT = 0.98
ISO_WHY = "written year, month, day"


Counts: TypeAlias = "Callable[[], NDArray[np.int64]]"


class Signs(NamedTuple):
    """What a person has said: decimal signs ("point", "comma"), date order, the first of the hundred years that two
    figures mean; empty where it is to be sensed. `markers` says whether "n/a" and its like are blanks."""

    decimal: str = ""
    dates: str = ""
    century: int = 0
    markers: bool = True


class Values(NamedTuple):
    """Values to look at: some of those that are not blank, in plain signs, and how many rows hold each (None: one)."""

    name: str
    texts: pl.Series
    weights: NDArray[np.int64] | None
    repeating: bool

    def share(self, fits: pl.Series) -> float:
        """The share of rows that fit."""
        return float(np.average(fits.fill_null(False).to_numpy(), weights=self.weights))

    def first(self) -> Values:
        """The first of them, by which what cannot be is told soon."""
        weights = None if self.weights is None else self.weights[:_FIRST_LOOK]
        if weights is not None and not weights.any():
            weights = None
        return self._replace(texts=self.texts.head(_FIRST_LOOK), weights=weights)


_DIGIT, _DAY = re.compile(r"\d"), re.compile(r"\d{4}-\d{2}-\d{2}$")
_WHOLE = re.compile(r"-?(0|[1-9][0-9]{0,7})$", re.ASCII)  # of nine digits or more, they might identify
_POINTED = re.compile(r"-?(0|[1-9][0-9]{0,7})(\.[0-9]{1,2})?$", re.ASCII)  # three might be thousands
_MAY_BE_PERIODS = (6, 8)  # digits, all alike
_MOST_DAYS, _MOST_PARTS = 31, 4  # of a month; of a year that terms part
_MONTHS = 3  # different ones that a series of months has at least
_STEPS_OF_ONE, _LEAST_RUN = 0.9, 20  # of a running number; so many values of one at least
_LEAST_CALLED = 5  # digits of a telephone's number
_YEARS = (1800, 2100)
_LONG_CODE, _FEW_CODES = 9, 3  # digits, all alike; so many different values
_MONTH_LENGTH, _LAST_MONTH = 7, "12"  # of 2024.01
_FEW = 2_000  # values; so many are looked at one by one in less time than it takes to set out
_LOOKED_AT = 50_000  # of values that hardly repeat, so many are looked at; encoding meets the others
_FIRST_LOOK, _HOPELESS = 400, 0.7  # where fewer of the first values fit, the others are not asked
SENSE_ALL = Signs()
_NO_DIGITS = Sensed("category")


def sense(
    name: str,
    texts: pl.Series,
    counts: Counts | None = None,
    signs: Signs = SENSE_ALL,
    *,
    repeating: bool | None = None,
    gaps: bool | None = None,
) -> Sensed:
    """The kind of a field called `name` whose values are `texts` (stripped; blanks are null).

    What people write for nothing ("n/a") is a blank where the other values are of one kind.
    `counts` tells how many rows hold each text, where the texts are distinct values; `repeating`, whether they come
    again and again (then they stand in no order); `gaps`, whether some rows are blank.
    """
    repeating = counts is not None if repeating is None else repeating
    gaps = texts.null_count() > 0 if gaps is None else gaps
    if signs.markers:
        unmarked = without_markers(texts)
        if unmarked is not texts and unmarked.null_count() < len(texts):
            without = sense(name, unmarked, counts, signs._replace(markers=False), repeating=repeating, gaps=True)
            if without.kind != "category" or without.doubt:
                return replace(without, markers=markers_in(texts.filter(unmarked.is_null() & texts.is_not_null())))
    plain = _sense_plainly(name, texts.to_list(), signs, repeating=repeating, gaps=gaps) if len(texts) <= _FEW else None
    if plain is not None:
        return plain
    present = texts.is_not_null()
    values = texts.filter(present)
    if len(values) == 0:
        return Sensed("category", why="all values are blank")
    meaning = (
        flags.meaning_of(values.unique().to_list(), gaps=gaps) if values.head(1000).n_unique() <= flags.MOST else ""
    )
    if meaning:
        return _flag(meaning)
    texts = values
    weights = None if counts is None else counts()[present.to_numpy()]
    if len(values) > _LOOKED_AT and not repeating:
        step = len(values) // _LOOKED_AT
        texts, weights = values.gather_every(step), None if weights is None else weights[::step]
    if weights is not None and not weights.any():
        weights = np.ones_like(weights)
    looked = Values(name, texts, weights, repeating)
    if looked.share(texts.str.contains(r"\d")) < FIT:
        return Sensed("category")  # dates, lengths of time and numbers are written with digits
    looked = looked._replace(texts=in_plain_signs(texts))
    return (
        _sense_date(looked, signs)
        or _sense_duration(looked)
        or _sense_number(looked, in_plain_signs(values) if looked.texts is not values else looked.texts, signs)
        or Sensed("category")
    )


def sense_wholes(name: str, numbers: NDArray[np.int64]) -> Sensed | None:
    """The kind of whole numbers that a file holds as such: codes, or days and months run together; None where they are
    numbers. No blanks among them."""
    if len(numbers) == 0:
        return None
    low, high = int(numbers.min()), int(numbers.max())
    named = identifies(name) or is_called(name)
    may_be_days = len(str(low)) == len(str(high)) and (
        len(str(high)) in _MAY_BE_PERIODS or len(str(high)) >= _LONG_CODE
    )
    running = len(numbers) >= _LEAST_RUN and bool((np.diff(numbers[: 2 * _LEAST_RUN]) > 0).all())
    if low < 0 or not (named or may_be_days or running):
        return None
    sensed = sense(name, pl.Series(numbers).cast(pl.String))
    return sensed if sensed.kind in ("code", "date") else None


def _flag(meaning: str) -> Sensed:
    if meaning == "marked":
        return Sensed("flag", "marked", "marked or blank: blank means no")
    return Sensed("flag", why="values that mean no and yes")


def may_be_months(texts: Iterable[str]) -> bool:
    """Whether numbers with two decimals (2024.01) may all be months of a year: then it takes a closer look."""
    return all(len(text) == _MONTH_LENGTH and text[4] == "." and text[5:] <= _LAST_MONTH for text in texts)


def _sense_plainly(name: str, texts: list[str | None], signs: Signs, *, repeating: bool, gaps: bool) -> Sensed | None:
    """Yes and no, words without any digit, and days or numbers all written alike, told at once; None where it takes a
    closer look."""
    values = [text for text in texts if text is not None]
    if not values:
        return None
    distinct = set(values)
    if len(distinct) <= flags.MOST and (meaning := flags.meaning_of(list(distinct), gaps=gaps)):
        return _flag(meaning)
    if not _DIGIT.search("\n".join(values)):
        return _NO_DIGITS
    if all(_DAY.match(text) for text in values):
        return Sensed("date", "iso", ISO_WHY)
    if signs.decimal == "comma":
        return None
    if all(_WHOLE.match(text) for text in values):
        if all(len(text) in _MAY_BE_PERIODS for text in values):
            return None
        running = not repeating and all(int(one) < int(next) for one, next in pairwise(values))
        return None if running or identifies(name) else Sensed("number", "point")
    if not repeating and all(_POINTED.match(text) for text in values):
        if may_be_months(values):
            return None
        pointed = sum("." in text and not text.endswith(".0") for text in values)
        if pointed > (1 - FIT) * len(values):  # the others could be read with a comma as well, or be whole
            return Sensed("number", "point", f"100 % {READ_SO}")
    return None


# -- dates --------------------------------------------------------------------------------------------------


def _sense_date(looked: Values, signs: Signs) -> Sensed | None:
    texts = looked.texts
    first = looked.first()
    iso, slashed = first.texts.str.contains(dates.ISO), first.texts.str.contains(dates.SLASHED)
    if first.share(iso | slashed) >= _HOPELESS:
        iso, slashed = texts.str.contains(dates.ISO), texts.str.contains(dates.SLASHED)
        if looked.share(iso) >= FIT:
            return Sensed("date", "iso", ISO_WHY) if _mostly_days(looked, iso) else None
        if looked.share(iso | slashed) >= FIT:
            return _sense_order(looked, slashed, signs)
    if looked.share(texts.str.contains(dates.COMPACT)) >= FIT:
        days = dates.days_from_text(texts, "compact")
        likely = days.dt.year().is_between(1900, 2100)
        if looked.share(likely) >= FIT:
            return Sensed("date", "compact", "eight-digit dates")
        return None
    return _sense_words(looked, signs)


def _mostly_days(looked: Values, iso: pl.Series) -> bool:
    """Whether dotted values (2024.01.31) are days rather than versions."""
    dotted = looked.texts.filter(iso & looked.texts.str.contains(r"^\d{4}\."))
    return len(dotted) == 0 or dates.days_from_text(dotted, "iso").null_count() <= (1 - FIT) * len(dotted)


def _sense_words(looked: Values, signs: Signs) -> Sensed | None:
    """Days that name their month, and periods: told from some of the values."""
    texts = looked.texts
    some = texts.unique(maintain_order=True).head(_FEW) if len(texts) > _FEW else texts
    weights = looked.weights if some is texts else None
    look = looked._replace(texts=some, weights=weights)
    first = look.first()
    periods = [dates.period_of(text) for text in first.texts.to_list()]
    kinds = [each[0] for each in periods if each is not None]
    if kinds and first.share(pl.Series([each is not None for each in periods])) >= FIT:
        usual = max(set(kinds), key=kinds.count)
        why = _periods(look, usual)
        if why:
            century = _century(looked.name, some, usual, signs)
            days = dates.days_from_text(some, usual, century)
            if look.share(days.is_not_null()) >= FIT:
                return Sensed("date", usual, why, century=century)
        return None
    if not bool(first.texts.str.contains(r"[\p{L}]").any()):
        return None
    slashed = first.texts.str.contains(dates.SLASHED)
    if first.share(dates.days_from_text(first.texts, "named").is_not_null() | slashed) < _HOPELESS:
        return None
    century = _century(looked.name, some, "named", signs)
    days = dates.days_from_text(some, "named", century)
    if look.share(days.is_not_null()) >= FIT:
        return Sensed("date", "named", "the month is a word", century=century)
    slashed = some.str.contains(dates.SLASHED)
    if look.share(days.is_not_null() | slashed) >= FIT:
        return _sense_order(look, slashed, signs)
    return None


def _periods(looked: Values, kind: str) -> str:
    """Why the values are periods; empty where they may be something else: seasons (2010-11), numbers."""
    texts = looked.texts
    if kind != "month":
        return f"each value is a {kind} of a year"
    named = texts.str.extract_groups(r"^(\p{L}+)\.?[ \-]?'?(\d{2})$").struct
    short = named.field("2").cast(pl.Int64, strict=False)
    if short.null_count() < len(texts) and bool((short.drop_nulls() <= _MOST_DAYS).all()):
        words, numbers = named.field("1").n_unique(), short.n_unique()
        if numbers > words > 1:
            return ""  # Oct18, Oct24, Nov09 are days of a year that is not said
    single = texts.str.extract(r"^\d{4}-(\d)$", 1).cast(pl.Int64, strict=False).drop_nulls()
    if len(single) and int((single > _MOST_PARTS).sum()) == 0:
        return ""  # 2000-1, 2000-2 are terms rather than months
    pairs = texts.str.extract_groups(r"^(\d{4})-(\d{2})$").struct
    years, months = (pairs.field(part).cast(pl.Int64, strict=False) for part in ("1", "2"))
    if years.null_count() < len(texts) and bool(((years + 1) % 100 == months).drop_nulls().all()) and len(texts) > 1:
        return ""
    if bool(texts.str.contains(r"^\d{4}\.?\d{2}$").any()):
        likely = texts.str.slice(0, 4).cast(pl.Int64, strict=False).is_between(1900, 2100)
        if texts.n_unique() < 2 * _MONTHS or looked.share(likely) < 1.0:
            return ""
    return "each value is a month of a year"


def _sense_order(looked: Values, slashed: pl.Series, signs: Signs) -> Sensed | None:
    """Whether day or month stands first: a part above 12 is a day."""
    texts = looked.texts.filter(slashed)
    weights = None if looked.weights is None else looked.weights[slashed.to_numpy()]
    numbers = dates.in_figures(texts, dates.SLASHED)[:2]
    above = [int(np.sum((part > 12) if weights is None else weights[part > 12])) for part in numbers]
    possible = (
        (numbers[0] >= 1) & (numbers[0] <= 31) & (numbers[1] >= 1) & (numbers[1] <= 31)
        & ((numbers[0] <= 12) | (numbers[1] <= 12))
    )  # fmt: skip
    if float(np.average(possible, weights=weights)) < FIT:
        return None  # 32.45.2020 is a part number, or a version
    century = _century(looked.name, texts, signs.dates or "day first", signs)
    if signs.dates:
        return Sensed("date", signs.dates, "as you said", century=century)
    if above[1] > above[0]:
        return Sensed("date", "month first", f"{values_have(above[1])} a day above 12 in second place", century=century)
    if above[0]:
        return Sensed("date", "day first", f"{values_have(above[0])} a day above 12", century=century)
    first, second = (different_values(part) for part in numbers)
    if second.tolist() == [1] and len(first) >= _MONTHS:
        return Sensed("date", "month first", "the second part is always 1: a month each", century=century)
    if first.tolist() == [1] and len(second) >= _MONTHS:
        return Sensed("date", "day first", "the first part is always 1: a month each", century=century)
    why = "no part is above 12, so it could also be month first"
    return Sensed("date", "day first", why, doubt=True, century=century)


def _century(name: str, texts: pl.Series, reading: str, signs: Signs) -> int:
    """The first of the hundred years that years of two figures mean: as said, or the usual ones; nobody was born in the
    future. 0 where all years are whole."""
    some = texts.head(_FIRST_LOOK)
    one, other = (dates.days_from_text(some, reading, dates.CENTURY - years) for years in (0, 100))
    if one.equals(other):
        return 0
    return signs.century or (dates.of_the_past() if of_births(name) else dates.CENTURY)


def values_have(count: int) -> str:
    return f"{count:,} value has" if count == 1 else f"{count:,} values have"


# -- lengths of time, numbers, codes ------------------------------------------------------------------------


def _sense_duration(looked: Values) -> Sensed | None:
    texts = looked.texts
    first = looked.first()
    if first.share(durations.may_be(first.texts)) < _HOPELESS:
        return None
    if looked.share(durations.may_be(texts)) < FIT or not durations.are_durations(looked.name, texts):
        return None
    if looked.share(durations.seconds_of(texts).is_not_null()) < FIT:
        return None
    return Sensed("duration", "clock", "lengths of time, in hours and minutes")


def _sense_number(looked: Values, values: pl.Series, signs: Signs) -> Sensed | None:
    """`values` are all that are not blank."""
    texts = looked.texts
    wanted = ("comma", "point") if signs.decimal == "comma" else ("point", "comma")
    first = looked.first()
    if max(first.share(numbers_of(first.texts, each).values.is_not_null()) for each in wanted) < _HOPELESS:
        return None
    found: dict[str, Numbers] = {each: numbers_of(texts, each) for each in wanted}
    shares = {each: looked.share(found[each].values.is_not_null()) for each in wanted}
    for reading in wanted:
        if shares[reading] < FIT:
            continue
        read = found[reading]
        if read.mixed:
            units = " and ".join(read.mixed[:4])
            return Sensed("category", why=f"amounts in {units} do not add up: part them, or choose number", doubt=True)
        if is_part_number(texts):
            return Sensed("code", why="an E between digits, as part numbers have it")
        whole = values if texts is values or looked.weights is None else values.filter(read.values.is_not_null())
        if not read.unit and _is_code(looked.name, whole, repeating=looked.repeating):
            return Sensed("code", why="identifying digits; a sum would mean nothing")
        other = {"point": "comma", "comma": "point"}[reading]
        if not read.marked or not bool(texts.str.contains(r"\d[.,]\d").any()):
            return Sensed("number", reading, _unit_why(read), unit=read.unit)
        if shares[other] >= FIT and not signs.decimal:
            why = "every separator could mean thousands or decimals"
            return Sensed("number", reading, why, doubt=True, unit=read.unit)
        why = f"{int(shares[reading] * 100)} % {READ_SO}"
        return Sensed("number", reading, why, unit=read.unit)
    return None


READ_SO = "of the values fit"


def lists_among(sensed: Sequence[Sensed], signs: Signs) -> list[int]:
    """The fields that look like numbers with a decimal comma in a file whose other fields prove the point: "4,6" is a
    list of two there."""
    proved = [(at, each.reading) for at, each in enumerate(sensed) if each.kind == "number" and READ_SO in each.why]
    commas = [at for at, reading in proved if reading == "comma" and not sensed[at].doubt]
    points = [at for at, reading in proved if reading == "point" and not sensed[at].doubt]
    return commas if commas and len(points) >= len(commas) and not signs.decimal else []


def _unit_why(read: Numbers) -> str:
    if read.credit:
        return "CR adds, DR takes away"
    return f"each in {read.unit}" if read.unit else ""


def _comes_again(values: pl.Series, *, repeating: bool) -> bool:
    """Whether most values stand in several rows, as counts do."""
    return repeating or values.n_unique() * 2 < len(values)


def _is_code(name: str, values: pl.Series, *, repeating: bool) -> bool:
    if bool(values.str.ends_with(".0").any()):  # as whole numbers are written that have been through a sheet
        values = values.str.strip_suffix(".0")
    whole = values.str.contains(r"^\d+$")
    if not bool(whole.all()):
        return False
    if bool(values.str.contains(r"^0\d").any()):
        return True
    if is_called(name):
        if bool((values.str.len_bytes() >= _LEAST_CALLED).all()):
            return True
    elif identifies(name) and not (only_may_identify(name) and _comes_again(values, repeating=repeating)):
        return True
    # A running number: in steps of one, but for a few gaps, over more than a handful of rows.
    if len(values) >= _LEAST_RUN and not repeating and not (measures(name) or sums(name) or averages(name)):
        numbers = values.cast(pl.Int64, strict=False).drop_nulls()
        steps = numbers.diff().drop_nulls()
        years = len(numbers) > 0 and bool(numbers.is_between(*_YEARS).all())
        if (
            not years
            and len(steps)
            and bool((steps > 0).all())
            and int((steps == 1).sum()) >= _STEPS_OF_ONE * len(steps)
        ):
            return True
    lengths = values.str.len_bytes()
    different = lengths.unique().to_list()
    return len(different) == 1 and different[0] >= _LONG_CODE and values.n_unique() >= _FEW_CODES
