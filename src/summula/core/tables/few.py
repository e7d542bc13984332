"""Few values are sensed and encoded one by one: of a wide table with few rows, setting out costs more than the work.

What is common is done here (words, plain numbers and days, codes); all else is left to the general way, which comes to
the same.
"""

from __future__ import annotations

import re
from collections import Counter
from datetime import date
from itertools import pairwise

from summula.core.arrays import np
from summula.core.tables import flags
from summula.core.tables.column import EPOCH, CodedColumn, Column, DateColumn, NumberColumn, smallest_code_type
from summula.core.tables.dates import may_be_date
from summula.core.tables.durations import may_be_duration
from summula.core.tables.encoding import number_column
from summula.core.tables.field import Kind, Sensed
from summula.core.tables.markers import is_marker, markers_in
from summula.core.tables.names import averages, identifies, is_called, measures, only_may_identify, sums
from summula.core.tables.natural import natural_sorted
from summula.core.tables.numerals import may_be_number
from summula.core.tables.script import UNSEEN
from summula.core.tables.sensing import FIT, ISO_WHY, READ_SO, Signs, may_be_months, values_have

MOST = 2_000  # values
_DIGIT = re.compile(r"\d")
_PLAIN = re.compile(r"[0-9.\-+eE\n]*", re.ASCII)
_WHOLES = re.compile(r"(?:-?(?:0|[1-9][0-9]{0,7})\n)*", re.ASCII)
_POINTED = re.compile(r"(?:-?(?:0|[1-9][0-9]{0,14})(?:\.[0-9]+)?(?:[eE][+-][0-9]{1,3})?\n)*", re.ASCII)
# What may be read with a decimal comma.
_AS_COMMA = re.compile(r"^-?(?:[0-9]+|[0-9]{1,3}(?:\.[0-9]{3})+)$", re.ASCII | re.MULTILINE)
_DAYS = re.compile(r"(?:[0-9]{4}-[0-9]{2}-[0-9]{2}\n)*", re.ASCII)
_SLASHED = re.compile(r"(?:[0-9]{1,2}[/.\-][0-9]{1,2}[/.\-][0-9]{4}\n)*", re.ASCII)
_PARTED = re.compile(r"[/.\-]")
_LONGEST_PLAIN = 7  # signs of a whole number with its point
_AS_PERIODS = (6, 8)

Values = list[str | None]


def encode_few(name: str, values: Values, kind: Kind | None, signs: Signs) -> tuple[Column, Sensed] | None:
    """The column of these texts, and how they were sensed; None where it takes a closer look. Spaces are stripped."""
    if kind not in (None, "category") or len(values) > MOST:
        return None
    present = [text for text in values if text is not None]
    joined = "\n".join(present) + "\n" if present else ""
    if joined.split() != present:
        values = [(text.strip() or None) if text is not None else None for text in values]
        present = [text for text in values if text is not None]
        joined = "\n".join(present) + "\n" if present else ""
        if joined.count("\n") != len(present):
            return None  # a text of several lines, which the patterns below would take for several texts
    if not joined.isascii() and UNSEEN.search(joined):
        return None
    if kind == "category":
        return _categories(values), Sensed("category")
    if not present:
        return _categories(values), Sensed("category", why="all values are blank")
    found = _measured(name, values, present, joined, signs)
    if found is None and signs.markers and any(map(is_marker, present)):
        kept = [text for text in present if not is_marker(text)]
        if kept:
            plain = [None if text is None or is_marker(text) else text for text in values]
            found = _measured(name, plain, kept, "\n".join(kept) + "\n", signs)
            if found is not None and found[1].kind == "category":
                found = (_categories(values), Sensed("category")) if _are_words(present) else None
            elif found is not None:
                column, sensed = found
                return column, Sensed(sensed.kind, sensed.reading, sensed.why, markers=markers_in(present))
    return found


def _are_words(present: list[str]) -> bool:
    return _cannot_be_measured([text for text in present if not is_marker(text)])


def _measured(name: str, values: Values, present: list[str], joined: str, signs: Signs) -> tuple[Column, Sensed] | None:
    distinct = set(present)
    if len(distinct) <= flags.MOST:
        meaning = flags.meaning_of(list(distinct), gaps=len(present) < len(values))
        if meaning:
            return None
    plain = bool(_PLAIN.fullmatch(joined)) and bool(_DIGIT.search(joined))
    if not plain and (not _DIGIT.search(joined) or _cannot_be_measured(present)):
        if signs.markers and any(map(is_marker, distinct)):
            kept = [text for text in distinct if not is_marker(text)]
            if not kept or (len(kept) <= flags.MOST and flags.meaning_of(kept, gaps=True)):
                return None
            if not _cannot_be_measured([text for text in present if not is_marker(text)]):
                return None
        return _categories(values), Sensed("category")
    if not plain:
        return _slashed(values, present, signs) if _SLASHED.fullmatch(joined) else None
    if _DAYS.fullmatch(joined):
        return _days(values)
    if signs.decimal == "comma":
        return None
    if _WHOLES.fullmatch(joined):
        return _wholes(name, values, present)
    if _POINTED.fullmatch(joined):
        if may_be_months(present):
            return None
        if all(text.endswith(".0") or "." not in text for text in present) and _may_be_codes(name, present):
            return None
        pointed = len(present) - len(_AS_COMMA.findall(joined))
        if pointed > (1 - FIT) * len(present) and any("." in text for text in present):
            column = _numbers(values)
            return (column, Sensed("number", "point", f"100 % {READ_SO}")) if np.isfinite(column.values).all() else None
    return None


def _may_be_codes(name: str, present: list[str]) -> bool:
    """Whether whole numbers that have been through a sheet (12.0) may be codes, or days run together."""
    lengths = set(map(len, present))
    if identifies(name) or is_called(name) or (len(lengths) == 1 and max(lengths) > _LONGEST_PLAIN):
        return True
    rising = all(float(one) < float(following) for one, following in pairwise(present[:20]))
    return rising and len(present) >= 20


def _cannot_be_measured(present: list[str]) -> bool:
    """Whether so many values are no numbers, days or lengths of time that the field holds none."""
    most = (1 - FIT) * len(present)
    misfits = 0
    for text, count in Counter(present).items():
        if not (may_be_number(text) or may_be_date(text) or may_be_duration(text)):
            misfits += count
            if misfits > most:
                return True
    return False


def _wholes(name: str, values: Values, present: list[str]) -> tuple[Column, Sensed] | None:
    lengths = set(map(len, present))
    if len(lengths) == 1 and lengths <= set(_AS_PERIODS):
        return None
    if is_called(name):
        return None
    if identifies(name) and not (only_may_identify(name) and len(set(present)) * 2 < len(present)):
        if any(text.startswith("-") for text in present):
            return None
        return _categories(values), Sensed("code", why="identifying digits; a sum would mean nothing")
    running = len(present) >= 20 and not (measures(name) or sums(name) or averages(name))
    if running and all(int(one) < int(following) for one, following in pairwise(present)):
        return None
    return _numbers(values), Sensed("number", "point")


def _categories(values: Values) -> CodedColumn:
    members = tuple(natural_sorted({text for text in values if text is not None}))
    place: dict[str | None, int] = {text: at for at, text in enumerate(members)}
    place[None] = len(members)
    return CodedColumn(np.array([place[text] for text in values], dtype=smallest_code_type(len(members))), members)


def _numbers(values: Values) -> NumberColumn:
    if None not in values:
        return number_column(np.array(list(map(float, filter(None, values)))), None)
    numbers = np.array([0.0 if text is None else float(text) for text in values])
    return number_column(numbers, np.array([text is None for text in values]))


def _days(values: Values) -> tuple[Column, Sensed] | None:
    try:
        read = {text: date.fromisoformat(text).toordinal() - EPOCH for text in set(values) if text is not None}
    except ValueError:
        return None
    days = [0 if text is None else read[text] for text in values]
    blank = np.array([text is None for text in values])
    column = DateColumn(np.array(days, dtype=np.int32), blank if blank.any() else None)
    return column, Sensed("date", "iso", ISO_WHY)


def _slashed(values: Values, present: list[str], signs: Signs) -> tuple[Column, Sensed] | None:
    """Days whose first part is plainly the day or the month."""
    parts = {text: tuple(map(int, _PARTED.split(text))) for text in set(present)}
    if signs.dates:
        return None
    above = [sum(parts[text][place] > 12 for text in present) for place in (0, 1)]
    if (above[0] > 0) == (above[1] > 0):
        return None
    reading, why = (
        ("day first", f"{values_have(above[0])} a day above 12")
        if above[0]
        else ("month first", f"{values_have(above[1])} a day above 12 in second place")
    )
    place = (2, 1, 0) if reading == "day first" else (2, 0, 1)
    try:
        days = {text: date(*(each[at] for at in place)).toordinal() - EPOCH for text, each in parts.items()}
    except ValueError:
        return None
    blank = np.array([text is None for text in values])
    found = np.array([0 if text is None else days[text] for text in values], dtype=np.int32)
    return DateColumn(found, blank if blank.any() else None), Sensed("date", reading, why)
