"""Second looks at a field, and at a table as a whole: a rule a function."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.fields.figures import percent_text
from summula.core.memory import Remembered
from summula.core.refusal import shortened
from summula.core.secondlook.look import SecondLook
from summula.core.statistics.distribution import distribution
from summula.core.tables.column import CodedColumn, tallied
from summula.core.tables.field import MEASURED
from summula.core.tables.periodnumbers import period_unit

if TYPE_CHECKING:
    from summula.core.tables.field import Sensed
    from summula.core.tables.table import Table


def field_looks(table: Table, name: str) -> list[SecondLook]:
    """What is worth a second look in one field."""
    rules = (_kept_as_code, _period_numbers, _ambiguous_dates, _ambiguous_sign, _alike, _blank, _refused, _torn_mean)
    return [look for look in (rule(table, name) for rule in rules) if look is not None]


def table_looks(table: Table) -> list[SecondLook]:
    """What is worth a second look in a table as a whole."""
    looks = []
    if table.ragged:
        first = table.ragged[:3]
        places = ", ".join(f"{each.row + 1:,}" for each in first)
        more = f" and {len(table.ragged) - 3:,} more" if len(table.ragged) > 3 else ""
        extra = next(
            (f" Row {each.row + 1:,} also held “{shortened(each.extra[0], 30)}”." for each in first if each.extra), ""
        )
        one = len(table.ragged) == 1
        looks.append(
            SecondLook(
                f"{len(table.ragged):,} {'row has' if one else 'rows have'} too many or too few values.",
                f"{'Row' if one else 'Rows'} {places}{more}: what is missing is blank.{extra}",
                "Show rows",
                "ragged",
            )
        )
    return looks


def _kept_as_code(table: Table, name: str) -> SecondLook | None:
    column = table.column(name)
    members = getattr(column, "members", ())
    if table.field(name).kind != "code" or not members or not members[0].isdigit():
        return None
    return SecondLook(
        "Looks like a number, kept as a code.",
        "Its digits identify something, so a sum would mean nothing. It is counted, never summed.",
        "Change to number",
        "number",
    )


def _period_numbers(table: Table, name: str) -> SecondLook | None:
    unit = period_unit(table, name) if table.field(name).kind == "number" else ""
    if not unit:
        return None
    return SecondLook(
        f"These numbers are {unit}.",
        "A sum of them would mean nothing. Use them as a heading; a code is counted, never summed.",
        "Change to code",
        "code",
    )


def sensed_of(table: Table, name: str) -> Sensed | None:
    at = [field.name for field in table.fields].index(name)
    return table.sensed[at] if len(table.sensed) == len(table.fields) else None


def _ambiguous_dates(table: Table, name: str) -> SecondLook | None:
    sensed = sensed_of(table, name)
    if sensed is None or sensed.kind != "date" or not sensed.doubt or table.field(name).kind != "date":
        return None
    other = "month first" if sensed.reading == "day first" else "day first"
    return SecondLook(
        f"Read {sensed.reading}, but it could be {other}.",
        "No part is above 12, so the file does not show the order.",
        f"Read it {other}",
        other,
    )


def _ambiguous_sign(table: Table, name: str) -> SecondLook | None:
    sensed = sensed_of(table, name)
    if sensed is None or sensed.kind != "number" or not sensed.doubt:
        return None
    other = {"point": "comma", "comma": "point"}.get(sensed.reading, "point")
    return SecondLook(
        f"Read with a decimal {sensed.reading}, but it could be a {other}.",
        "Every separator could mean thousands or decimals.",
        "Check read settings",
        "preview",
    )


_ALIKE: Remembered[str, list[tuple[str, tuple[str, ...]]]] = Remembered("alike members")
_MOST_MEMBERS = 20_000  # that are looked through for such as differ in case alone


def alike_members(table: Table, name: str) -> list[tuple[str, tuple[str, ...]]]:
    """Members that differ only in case, or in spaces: of each such group the one that most rows hold, and the others.
    Remembered by the table."""
    return _ALIKE.of(table.memo, name, lambda: _alike_members(table, name))


def _alike_members(table: Table, name: str) -> list[tuple[str, tuple[str, ...]]]:
    column = table.column(name)
    if table.field(name).kind != "category" or not isinstance(column, CodedColumn):
        return []
    if len(column.members) > _MOST_MEMBERS:
        return []
    groups: dict[str, list[int]] = {}
    for code, member in enumerate(column.members):
        groups.setdefault(" ".join(member.split()).casefold(), []).append(code)
    several = [codes for codes in groups.values() if len(codes) > 1]
    if not several:
        return []
    counts = tallied(column.codes, len(column.members) + 1)
    found = []
    for codes in several:
        kept = max(codes, key=lambda code: (int(counts[code]), -code))
        found.append((column.members[kept], tuple(column.members[code] for code in codes if code != kept)))
    return found


def _alike(table: Table, name: str) -> SecondLook | None:
    alike = alike_members(table, name)
    if not alike:
        return None
    kept, others = alike[0]
    more = f" So do {len(alike) - 1:,} more." if len(alike) > 1 else ""
    shown = " and ".join(f"“{each}”" for each in (kept, *others)[:3])
    return SecondLook(
        f"Some values of {name} differ in case or spaces alone.",
        f"{shown} are counted apart.{more}",
        "Merge them",
        "alike",
    )


def _blank(table: Table, name: str) -> SecondLook | None:
    shape = distribution(table, name)
    if shape.blank == 0:
        return None
    share = shape.blank / max(shape.rows, 1)
    return SecondLook(
        f"{name} is blank in {shape.blank:,} {'row' if shape.blank == 1 else 'rows'}.",
        f"Blanks ({percent_text(share)}) are left out of every sum, mean and median."
        if table.field(name).kind in MEASURED
        else f"In summaries by {name} they ({percent_text(share)}) stand together, as (blank).",
        "Show rows",
        "blank",
    )


def _refused(table: Table, name: str) -> SecondLook | None:
    refused = table.column(name).refused
    if not refused:
        return None
    one = len(refused) == 1
    places = ", ".join(f"{each.row + 1:,}" for each in refused[:3])
    more = f" and {len(refused) - 3:,} more" if len(refused) > 3 else ""
    kinds = {
        "number": ("a number", "numbers"),
        "duration": ("a length of time", "lengths of time"),
        "date": ("a date", "dates"),
        "flag": ("yes or no", "yes or no"),
    }
    kind = kinds.get(table.field(name).kind, ("a value", "values"))[not one]
    kept = "kept as written, counted as blank"
    return SecondLook(
        f"{len(refused):,} {'value' if one else 'values'} of {name} {'is' if one else 'are'} not {kind}.",
        f"{'Row' if one else 'Rows'} {places}{more}: {kept}. The first is “{shortened(refused[0].text)}”.",
        "Show rows",
        "refused",
    )


def _torn_mean(table: Table, name: str) -> SecondLook | None:
    shape = distribution(table, name)
    if shape.mean is None or shape.median is None or shape.median == 0:
        return None
    if abs(shape.mean - shape.median) < 0.8 * abs(shape.median):
        return None
    return SecondLook(
        "Mean and median are far apart.",
        f"The mean is {shape.mean:,.4g}, the median {shape.median:,.4g}; the largest value is {shape.most:,.6g}. "
        "A few extreme values may pull the mean.",
        "Show the largest",
        "largest",
    )
