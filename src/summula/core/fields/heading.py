"""What stands on an axis of a summary, and its encoding: codes into members in their own order."""

import math
from datetime import date
from functools import lru_cache
from typing import TYPE_CHECKING, Any, Literal, NamedTuple, get_args

import msgspec

from summula.core.arrays import np
from summula.core.fields import bands as banding
from summula.core.fields import calendar
from summula.core.fields.bands import Band, Bands
from summula.core.memory import Remembered
from summula.core.refusal import Refusal
from summula.core.tables.column import (
    PIECE,
    CodedColumn,
    Codes,
    DateColumn,
    NumberColumn,
    date_of,
    different_values,
    in_parallel,
    smallest_code_type,
    stretches,
    take_at,
)
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from numpy.typing import NDArray

DatePart = Literal[
    "year",
    "half",
    "quarter",
    "month",
    "week",
    "weekday",
    "day",
    "hour",
    "month-day",
    "quarter-day",
    "year-half",
    "year-quarter",
    "year-month",
    "year-week",
    "fiscal year",
    "fiscal half",
    "fiscal quarter",
    "fiscal year-half",
    "fiscal year-quarter",
]
PARTS: tuple[DatePart, ...] = get_args(DatePart)
YEARLY: frozenset[str] = frozenset(part for part in PARTS if "year" in part)


CLOCK_PATTERN = "h:mm"  # of bands of lengths of time


class Hours(float):
    """A length of time as a member."""


class Heading(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True, gc=False):
    """A field, a part of a date field, or bands of a number field."""

    field: str
    part: DatePart | None = None
    bands: Bands | None = None

    @property
    def carries_year(self) -> bool:
        return self.part in YEARLY


class Others(NamedTuple):
    """The gathered member: what `keeping … gathering the rest` made of `size` members."""

    size: int
    name: str | None = None


# text, number, date, flag, period ("2024-Q2"), band, gathered; None is the blank member
Member = str | int | float | bool | date | Band | Others | None


class Encoded(msgspec.Struct, frozen=True, eq=False):
    """One code a record; the code `len(members)` is the blank member, last in order."""

    codes: Codes
    members: tuple[Member, ...]

    @property
    def size(self) -> int:
        """How many codes there can be: the members and the blank."""
        return len(self.members) + 1

    def member(self, code: int) -> Member:
        return self.members[code] if code < len(self.members) else None


_ENCODED: Remembered[Heading, Encoded] = Remembered("headings", most=96, of_columns=True)


def encode_heading(table: Table, heading: Heading) -> Encoded:
    """The heading's codes, one a row of the table; remembered by the table."""
    return _ENCODED.of(table.memo, heading, lambda: _encode(table, heading))


def _encode(table: Table, heading: Heading) -> Encoded:
    column = table.column(heading.field)
    if heading.part is not None:
        if not isinstance(column, DateColumn):
            raise Refusal(f"'{heading.field}' holds no dates, so it has no {heading.part}", "choose a date field")
        if heading.part == "hour" and column.seconds is None:
            raise Refusal(f"'{heading.field}' holds days without a time", "choose another part of the date")
        return _encode_part(table, heading, column)
    if heading.bands is not None:
        if not isinstance(column, NumberColumn):
            raise Refusal(f"'{heading.field}' holds no numbers, so it has no bands", "choose a number field")
        pattern = CLOCK_PATTERN if column.per != 1 else table.field(heading.field).pattern
        codes, members = banding.encode_bands(column, heading.bands, pattern)
        return Encoded(codes, tuple(members))
    if isinstance(column, CodedColumn):
        if column.members == ("false", "true") and table.field(heading.field).kind == "flag":
            return Encoded(column.codes, (False, True))
        return Encoded(column.codes, column.members)
    if isinstance(column, DateColumn):
        distinct, codes = _dense(column.days, column.blank)
        return Encoded(codes, tuple(date_of(day) for day in distinct))
    numbers, codes = _dense(column.values, column.blank)
    true = numbers / column.unit if column.unit != 1.0 else numbers
    if column.per != 1:
        return Encoded(codes, tuple(Hours(each) for each in true.tolist()))
    return Encoded(codes, tuple(int(v) if v == int(v) else float(v) for v in true.tolist()))


def _encode_part(table: Table, heading: Heading, column: DateColumn) -> Encoded:
    assert heading.part is not None
    if heading.part == "hour":
        assert column.seconds is not None
        hours, codes = _dense(column.seconds // 3600, column.blank)
        return Encoded(codes, tuple(int(hour) for hour in hours))
    # Every part but the hour is a function of the day: worked out once a distinct day, not once a row.
    days = encode_heading(table, Heading(heading.field))
    return coarsen(days, heading.part, table.year_begins)


def coarsen(fine: Encoded, part: str, begins: int) -> Encoded:
    """A part of encoded days or months of years; `begins` is the fiscal year's first month."""
    of_fine, members = _parts_of(fine.members, part, begins)
    return Encoded(take_at(of_fine, fine.codes), members)


@lru_cache(maxsize=32)
def _parts_of(fine: tuple[Member, ...], part: str, begins: int) -> tuple[Codes, tuple[Member, ...]]:
    """For each day or month (and last for a blank) the code of its part, and the parts."""
    if fine and isinstance(fine[0], date):
        days = np.array([each.toordinal() - 719163 for each in fine], dtype=np.int64)  # type: ignore[union-attr]
    else:
        days = np.array(fine, dtype="datetime64[M]").astype("datetime64[D]").astype(np.int64)
    distinct, inverse = np.unique(calendar.part_numbers(days, part, begins), return_inverse=True)
    of_fine = np.append(inverse, len(distinct)).astype(smallest_code_type(len(distinct)))
    return of_fine, tuple(calendar.part_member(int(number), part, begins) for number in distinct)


def _dense_whole(values: "NDArray[Any]", blank: "NDArray[np.bool_] | None") -> "tuple[NDArray[Any], Codes] | None":
    """The same for whole numbers that lie near each other, by looking them up instead of sorting; else None."""

    def present(part: slice) -> "NDArray[Any]":
        return values[part] if blank is None else values[part][~blank[part]]

    low, high = math.inf, -math.inf
    for part in stretches(len(values)):
        here = present(part)
        if values.dtype.kind == "f" and not np.array_equal(here, np.rint(here)):
            return None
        if len(here):
            low, high = min(low, float(here.min())), max(high, float(here.max()))
    if low > high or high - low >= _NEAR:  # none at all, or far apart
        return None
    first, size = int(low), int(high - low) + 1

    def see(start: int, stop: int) -> "NDArray[np.bool_]":
        seen = np.zeros(size, dtype=np.bool_)
        for part in stretches(stop - start):
            seen[(present(slice(start + part.start, start + part.stop)) - first).astype(np.intp)] = True
        return seen

    occurring = np.flatnonzero(np.logical_or.reduce(in_parallel(len(values), see, max(PIECE, size))))
    kind = smallest_code_type(len(occurring))
    code_of = np.zeros(size, dtype=kind)
    code_of[occurring] = np.arange(len(occurring), dtype=kind)
    codes = np.empty(len(values), dtype=kind)

    def look_up(start: int, stop: int) -> None:
        for part in stretches(stop - start):
            rows = slice(start + part.start, start + part.stop)
            near = values[rows] if blank is None else np.clip(values[rows], low, high)  # a blank's value may be any
            np.take(code_of, (near - first).astype(np.intp), out=codes[rows], mode="clip")

    in_parallel(len(values), look_up)
    if blank is not None:
        codes[blank] = len(occurring)
    return (occurring + first).astype(values.dtype), codes


_NEAR = 4_000_000  # between the least and the greatest


def _dense(values: "NDArray[Any]", blank: "NDArray[np.bool_] | None") -> "tuple[NDArray[Any], Codes]":
    """The sorted distinct values, and codes into them with blanks last."""
    spanned = _dense_whole(values, blank)
    if spanned is not None:
        return spanned
    present = values if blank is None else values[~blank]
    distinct = different_values(present)
    codes = np.searchsorted(distinct, values).astype(smallest_code_type(len(distinct)))
    if blank is not None:
        codes[blank] = len(distinct)
    return distinct, codes
