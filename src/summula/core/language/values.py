"""What the values of a condition mean on a heading. A question that can have no answer is refused, at its place."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date
from typing import TYPE_CHECKING

from summula.core.engine.conditions import PLAIN_DIGITS, TRUTHS, band_label_key
from summula.core.fields.bands import Band
from summula.core.fields.heading import YEARLY, Heading, Member, encode_heading
from summula.core.fields.labels import label_of
from summula.core.fields.periods import NUMBERED, days_of, holds_whole, is_month_day, number_of_part
from summula.core.memory import Remembered
from summula.core.refusal import Refusal, nearest
from summula.core.tables.field import MEASURED

if TYPE_CHECKING:
    from summula.core.phrases.phrase import Test, Value
    from summula.core.tables.table import Table

Span = tuple[int, int]
_COMPARING = frozenset(("is over", "is at least", "is under", "is at most", "is from"))
_OF_TEXT = frozenset(("contains", "starts with", "ends with"))
_BLANKS = frozenset(("null", "none", "empty", "missing", "nothing", "blanks"))
MOST_AGO = 100_000  # of "is in the last N"


def checked_values(
    table: Table,
    heading: Heading,
    test: Test,
    values: tuple[Value, ...],
    written: Sequence[str],
    spans: Sequence[Span | None],
    notes: list[str] | None = None,
) -> tuple[Value, ...]:
    """The values as the table spells them. `written` are they as they stand in the text ("007", which is no 7).

    `notes` takes a sentence for each value that was read otherwise than written. Raises Refusal.
    """
    if test in ("is", "is not"):
        triples = zip(values, written, spans, strict=True)
        return tuple(member_of(table, heading, value, text, span, notes) for value, text, span in triples)
    if test in _COMPARING:
        triples = zip(values, written, spans, strict=True)
        limits = tuple(_limit(table, heading, value, text, span) for value, text, span in triples)
        if test == "is from":
            _check_rises(table, heading, limits, spans)
        _check_comparable(table, heading, limits, spans)
        return limits
    field = table.field(heading.field)
    if test in _OF_TEXT:
        if field.kind not in ("category", "code"):
            raise Refusal(
                f"'{field.name}' is a {field.kind}, so it holds no text", "compare it with a value", span=spans[0]
            )
        return tuple(text if isinstance(value, float) else value for value, text in zip(values, written, strict=True))
    if test == "is in the last":
        if field.kind != "date" or heading.part is not None:
            raise Refusal(f"'{field.name}' is not a date", "choose a date field", span=spans[0])
        number = values[0]
        if isinstance(number, str) or number != int(number) or not 1 <= number <= MOST_AGO:
            raise Refusal(
                f"'{written[0]} {written[1]}' is not a period of time",
                f"enter a whole number from 1 to {MOST_AGO:,}",
                span=spans[0],
            )
    return values


def member_of(
    table: Table, heading: Heading, value: Value, written: str, span: Span | None, notes: list[str] | None = None
) -> Value:
    """A member of a heading as the table spells it (the exact one, else in any case; "Jan" for month 1)."""
    field = table.field(heading.field)
    if heading.bands is not None:
        return _band(table, heading, written, span)
    if heading.part is not None or field.kind == "date":
        return _date_value(table, heading, value, written, span, member=True)
    if field.kind in MEASURED:
        return _number(table, heading, value, written, span)
    if field.kind == "flag":
        truth = TRUTHS.get(written.casefold())
        if truth is None:
            raise Refusal(f"'{field.name}' is yes or no, not '{written}'", "enter yes or no", span=span)
        return "yes" if truth else "no"
    return _text_member(table, heading, value, written, span, notes)


_SPELLED: Remembered[str, tuple[frozenset[str], dict[str, list[str]]]] = Remembered("members as they are spelled")


def _text_member(
    table: Table, heading: Heading, value: Value, written: str, span: Span | None, notes: list[str] | None
) -> Value:
    spelled = _SPELLED.get(table.memo, heading.field)
    members = encode_heading(table, heading).members
    if spelled is None:
        exact = frozenset(str(member) for member in members)
        folded: dict[str, list[str]] = {}
        for member in members:
            folded.setdefault(str(member).casefold(), []).append(str(member))
        spelled = _SPELLED.put(table.memo, heading.field, (exact, folded))
    exact, folded = spelled
    if written in exact:
        return written
    # A number is asked of a category of digits ("5"), written as one may write it ("5.0").
    plain = written if isinstance(value, str) else _plain(value)
    found = [plain] if plain in exact else folded.get(written.casefold(), [])
    if len(found) == 1:
        if notes is not None:
            notes.append(f"'{heading.field}' has no '{written}'; '{found[0]}' was taken")
        return found[0]
    if found:
        names = " or ".join(f"'{each}'" for each in found[:4])
        raise Refusal(f"'{written}' can be {names}", "enter the one that you mean", span=span, suggestion=found[0])
    if written.casefold() in _BLANKS:
        raise Refusal(
            f"'{heading.field}' has no '{written}'",
            "enter 'is blank' or 'is not blank' for what is not there",
            span=span,
        )
    guess = nearest(written, [str(member) for member in members[:5000]])
    remedy = f"did you mean '{guess}'?" if guess else "see the field's values on its table's page"
    raise Refusal(f"'{heading.field}' has no '{written}'", remedy, span=span, suggestion=guess)


def _band(table: Table, heading: Heading, written: str, span: Span | None) -> Value:
    members = encode_heading(table, heading).members
    for member in members:
        if isinstance(member, Band) and written.casefold() in (
            str(member).casefold(),
            label_of(heading, member).casefold(),
        ):
            return label_of(heading, member)
    wanted = band_label_key(written)
    for member in members:
        if isinstance(member, Band) and band_label_key(label_of(heading, member)) == wanted:
            return label_of(heading, member)
    labels = [label_of(heading, member) for member in members]
    guess = nearest(written, labels)
    remedy = f"did you mean '{guess}'?" if guess else f"enter a band as it reads, or compare '{heading.field}' itself"
    raise Refusal(f"there is no band '{written}'", remedy, span=span, suggestion=guess)


_CLOCK = re.compile(r"(-?)(\d{1,5}):([0-5]\d)(?::([0-5]\d))?")


def _hours(text: str) -> float | None:
    """Hours from "1:30" and "36:15:00"."""
    found = _CLOCK.fullmatch(text.strip())
    if found is None:
        return None
    seconds = int(found[2]) * 3600 + int(found[3]) * 60 + int(found[4] or 0)
    return (-seconds if found[1] else seconds) / 3600


def _number(table: Table, heading: Heading, value: Value, written: str, span: Span | None) -> Value:
    if isinstance(value, str) and table.field(heading.field).kind == "duration":
        hours = _hours(value)
        if hours is None:
            notice = f"'{heading.field}' holds lengths of time, not '{written}'"
            raise Refusal(notice, "enter hours and minutes, as in 1:30, or hours, as in 1.5", span=span)
        return hours
    if isinstance(value, str):
        raise Refusal(f"'{heading.field}' holds numbers, not '{written}'", "enter a number", span=span)
    return float(value)


def _date_value(
    table: Table, heading: Heading, value: Value, written: str, span: Span | None, *, member: bool
) -> Value:
    """A date, a period or a part of a date; with `member`, one that whole members of the heading lie in."""
    part, begins = heading.part, table.year_begins
    if part is not None and part in NUMBERED:
        number = number_of_part(value, part)
        if number is None:
            low, high = NUMBERED[part]
            raise Refusal(f"there is no {part} '{written}'", f"enter a number from {low} to {high}", span=span)
        return float(number)
    if part == "month-day":
        if isinstance(value, str) and is_month_day(value):
            return value
        labelled = _by_label(table, heading, written)
        if labelled is not None:
            return labelled
        raise Refusal(f"'{written}' is not a day of the year", 'enter month and day, as in "05-31"', span=span)
    days = days_of(value, begins)
    if days is None:
        labelled = _by_label(table, heading, written)
        if labelled is not None:
            return labelled
        if isinstance(value, str) and not any(letter.isdigit() for letter in value):
            wants = "a date" if part is None else f"a {part}"
            raise Refusal(f"'{heading.field}' is compared with {wants}, not '{written}'", _AS_IN, span=span)
        raise Refusal(f"'{written}' is not a calendar date", _AS_IN, span=span)
    if member and part is not None and not holds_whole(days, part, begins):
        raise Refusal(
            f"'{written}' holds no whole {part}",
            f"enter a {part}, or ask of '{heading.field}' itself",
            span=span,
        )
    return value


_AS_IN = "enter 2024, 2024-05 or 2024-05-31"


def _by_label(table: Table, heading: Heading, written: str) -> Value | None:
    """A member by how it reads: "May 2024"."""
    folded = written.casefold()
    for member in encode_heading(table, heading).members:
        if label_of(heading, member).casefold() == folded:
            if isinstance(member, date):
                return member.isoformat()
            return float(member) if isinstance(member, int) else str(member)
    return None


def _limit(table: Table, heading: Heading, value: Value, written: str, span: Span | None) -> Value:
    """A limit that members of a heading are compared with."""
    field = table.field(heading.field)
    if heading.bands is not None:
        raise Refusal("bands cannot be compared", f"compare '{field.name}' itself", span=span)
    if heading.part is not None or field.kind == "date":
        return _date_value(table, heading, value, written, span, member=False)
    if field.kind == "duration":
        return _number(table, heading, value, written, span)
    if field.kind in MEASURED:
        if isinstance(value, str):
            raise Refusal(f"'{field.name}' is compared with a number, not '{written}'", "enter a number", span=span)
        return value
    if field.kind == "flag":
        raise Refusal(f"'{field.name}' is yes or no, so it cannot be compared", "enter 'is yes' or 'is no'", span=span)
    return value


def _check_comparable(table: Table, heading: Heading, limits: Sequence[Value], spans: Sequence[Span | None]) -> None:
    """Refuses numbers asked of text that holds none."""
    if table.field(heading.field).kind not in ("category", "code"):
        return
    numbers = [isinstance(limit, float) for limit in limits]
    if len(set(numbers)) > 1:
        raise Refusal("the limits must both be numbers or both be text", "use the same type for both", span=spans[0])
    members = encode_heading(table, heading).members
    if numbers[0] and members and not any(PLAIN_DIGITS.fullmatch(str(member)) for member in members):
        raise Refusal(
            f"'{heading.field}' holds text, none of it a number",
            'put text in quotes, as in "M", or change the field to a number first',
            span=spans[0],
        )


def _check_rises(table: Table, heading: Heading, limits: Sequence[Value], spans: Sequence[Span | None]) -> None:
    """Refuses a stretch that ends before it begins."""
    low, high = limits
    falls = False
    if heading.part not in NUMBERED and (heading.part in YEARLY or table.field(heading.field).kind == "date"):
        first, last = days_of(low, table.year_begins), days_of(high, table.year_begins)
        falls = heading.part != "month-day" and first is not None and last is not None and first.first > last.last
    elif isinstance(low, float) and isinstance(high, float):
        falls = low > high
    if falls:
        raise Refusal("the range starts with its larger end", "put the smaller one first", span=spans[0])


def _plain(value: Member) -> str:
    return str(int(value)) if isinstance(value, float) and value == int(value) else str(value)
