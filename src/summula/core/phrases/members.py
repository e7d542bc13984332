"""Edits that begin with members: keep them alone, leave them out, put them in another order, look into one."""

from collections.abc import Sequence
from datetime import date
from itertools import pairwise

from msgspec.structs import replace

from summula.core.fields.bands import Band
from summula.core.fields.heading import DatePart, Heading, Member, Others
from summula.core.phrases.phrase import (
    Aggregate,
    Arithmetic,
    Calculation,
    Condition,
    Keep,
    Measure,
    Order,
    Phrase,
    Struct,
    Value,
    headings_of,
)
from summula.core.tables.table import Table


def with_members(phrase: Phrase, heading: Heading, members: Sequence[Member], *, only: bool) -> Phrase | None:
    """The phrase with some members of a heading kept alone, or left out. None where no condition says so: for a
    gathered one, which is no member, for bands apart or left out, and for blanks kept together with others."""
    conditions = conditions_for(heading, members, only)
    if conditions is None:
        return None
    where = phrase.where
    if only:  # those chosen are among those that an earlier choice left
        where = tuple(each for each in where if each.heading != heading or each.test != "is")
    for condition in conditions:
        joined = next((each for each in where if each.heading == heading and each.test == condition.test), None)
        if condition.test == "is not" and joined is not None:
            values = tuple(dict.fromkeys((*joined.values, *condition.values)))
            longer = replace(joined, values=values)
            where = tuple(longer if each is joined else each for each in where)
        elif condition not in where:
            where = (*where, condition)
    return replace(phrase, where=where)


_LISTED = 12  # members of a date that a condition lists; of more it tells the first and the last


def with_stretch(phrase: Phrase, paths: Sequence[tuple[tuple[Heading, Member], ...]]) -> Phrase | None:
    """The phrase with the rows of neighbours along an axis kept alone; each path leads from the outermost member to the
    innermost. Neighbours under several outer members are kept by those alone. None where no condition says so."""
    if not paths:
        return phrase
    levels = len(paths[0]) if len({path[:-1] for path in paths}) == 1 else 1
    changed: Phrase | None = phrase
    for level in range(levels):
        heading = paths[0][level][0]
        members = list(dict.fromkeys(path[level][1] for path in paths))
        whole = len(members) > _LISTED and phrase.order is None and not phrase.keeping and None not in members
        if whole and (heading.part is not None or isinstance(members[0], date)):
            ends = (value_of_member(members[0]), value_of_member(members[-1]))
            condition = Condition(heading, "is from", ends)
            changed = None if changed is None else replace(changed, where=(*changed.where, condition))
        elif changed is not None:
            changed = with_members(changed, heading, members, only=True)
    return changed


def conditions_for(heading: Heading, members: Sequence[Member], only: bool) -> tuple[Condition, ...] | None:
    """What says that rows are of these members, or of none of them; None where nothing does."""
    if any(isinstance(member, Others) for member in members) or not members:
        return None
    if any(isinstance(member, Band) for member in members):
        return _within_bands(heading, [each for each in members if isinstance(each, Band)]) if only else None
    values = tuple(value_of_member(member) for member in members if member is not None)
    if only and None in members:
        return None if values else (Condition(heading, "is blank"),)
    found = [Condition(heading, "is" if only else "is not", values)] if values else []
    if not only and None in members:
        found.append(Condition(heading, "is not blank"))
    return tuple(found)


def _within_bands(heading: Heading, bands: list[Band]) -> tuple[Condition, ...] | None:
    """Bands that lie side by side, as limits of their number."""
    plain, ordered = (
        Heading(heading.field),
        sorted(bands, key=lambda band: -1e300 if band.lower is None else band.lower),
    )
    if any(first.upper != second.lower for first, second in pairwise(ordered)):
        return None
    low, high = ordered[0].lower, ordered[-1].upper
    limits = [Condition(plain, "is at least", (low,))] if low is not None else []
    if high is not None:
        limits.append(Condition(plain, "is under", (high,)))
    return tuple(limits)


def of_members(measure: Measure, headings: Sequence[Heading], members: Sequence[Member]) -> Measure | None:
    """A measure of some members' rows alone, as it stands in their column; None where no condition says so."""
    found: list[Condition] = []
    for heading, member in zip(headings, members, strict=False):
        conditions = conditions_for(heading, [member], only=True)
        if conditions is None:
            return None
        found += conditions

    def narrowed(calculation: Calculation) -> Calculation:
        if isinstance(calculation, Arithmetic):
            return Arithmetic(calculation.operator, narrowed(calculation.left), narrowed(calculation.right))
        if isinstance(calculation, Aggregate):
            return replace(calculation, where=(*calculation.where, *found))
        return calculation

    return Measure(narrowed(measure.calculation))


MOST_LISTED = 1_000


def moved(
    phrase: Phrase,
    heading: Heading,
    own: Sequence[Member],
    shown: Sequence[Member],
    member: Member,
    beside: Member,
    *,
    after: bool,
) -> Phrase | None:
    """The phrase with its heading in an order made by hand: `shown` as it stands, the member moved before or after
    another. What follows in the members' `own` order is not listed. None where the member has no place of its own
    (blank and gathered ones stay last), or where the list would grow past all reading."""
    fixed = [each for each in shown if each is None or isinstance(each, Others)]
    if member in fixed or member == beside:
        return None
    order = [each for each in shown if each not in fixed and each != member]
    at = len(order) if beside in fixed else order.index(beside) + after
    order.insert(at, member)
    if any(isinstance(each, Band) for each in order):
        return None  # numbers stay in their order
    rank = {each: at for at, each in enumerate(own)}
    listed = len(order) - 1
    while listed > 0 and rank[order[listed - 1]] < rank[order[listed]]:
        listed -= 1
    if listed > MOST_LISTED:
        return None
    sequence = tuple(map(value_of_member, order[:listed]))
    new = Order(heading=heading, sequence=sequence) if sequence else None
    return replace(phrase, order=new)


def value_of_member(member: Member) -> Value:
    """A member as a phrase spells it."""
    if isinstance(member, bool):
        return str(member).lower()
    if isinstance(member, int | float):
        return float(member)
    return member.isoformat() if isinstance(member, date) else str(member)


_FINER: dict[str, DatePart] = {
    "year": "year-quarter", "year-half": "year-quarter", "year-quarter": "year-month",
    "half": "quarter", "quarter": "month",
    "fiscal year": "fiscal year-quarter", "fiscal year-half": "fiscal year-quarter",
    "fiscal year-quarter": "year-month", "fiscal half": "fiscal quarter", "fiscal quarter": "month",
}  # fmt: skip


def deeper(phrase: Phrase, table: Table, heading: Heading) -> list[Heading]:
    """What a member of a heading can be looked into by: first the finer part of its date, then categories that the
    phrase does not use yet, in the table's order."""
    used = {each.field for each in headings_of(phrase)} | {each.heading.field for each in phrase.where}
    finer = _FINER.get(heading.part or "")
    found = [Heading(heading.field, finer)] if finer else []
    found += [
        Heading(field.name)
        for field in table.fields
        if field.kind in ("category", "flag") and field.name not in used and not field.hidden
    ]
    return found


class DrillStep(Struct, frozen=True):
    """A step into a member: its heading, the heading that took its place, the conditions that came, and what had to go
    for them. With it the step can be taken back, whatever has been changed since."""

    heading: Heading
    label: str
    by: Heading
    conditions: tuple[Condition, ...]
    removed: tuple[Condition, ...] = ()
    keeping: tuple[Keep, ...] = ()
    order: Order | None = None


def looked_into(
    phrase: Phrase, heading: Heading, member: Member, label: str, by: Heading
) -> tuple[Phrase, DrillStep] | None:
    """The phrase for one member alone, with another heading in the place of its own, and the way back. None for a
    gathered member."""
    only = with_members(phrase, heading, [member], only=True)
    if only is None:
        return None
    keeping = tuple(each for each in only.keeping if heading in (each.heading, each.each))
    order = only.order if only.order is not None and only.order.heading == heading else None
    added = tuple(each for each in only.where if each not in phrase.where)
    changed = replace(
        exchanged(only, heading, by),
        keeping=tuple(each for each in only.keeping if each not in keeping),
        order=only.order if order is None else None,
    )
    removed = tuple(each for each in phrase.where if each not in only.where)
    return changed, DrillStep(heading, label, by, added, removed, keeping, order)


def looked_back(phrase: Phrase, way: DrillStep) -> Phrase:
    """The phrase with a step into a member taken back."""
    back = exchanged(phrase, way.by, way.heading)
    return replace(
        back,
        where=(*(each for each in back.where if each not in way.conditions), *way.removed),
        keeping=(*back.keeping, *(each for each in way.keeping if each not in back.keeping)),
        order=back.order or way.order,
    )


def exchanged(phrase: Phrase, heading: Heading, by: Heading) -> Phrase:
    """One heading in the place of another; nowhere twice."""
    if heading == by:
        return phrase
    axes = {}
    for clause in ("by", "across"):
        headings: tuple[Heading, ...] = getattr(phrase, clause)
        if heading in headings:
            headings = tuple(by if each == heading else each for each in headings if each != by)
        elif by in headings and heading in headings_of(phrase):
            headings = tuple(each for each in headings if each != by)
        axes[clause] = headings
    return replace(phrase, **axes)


def next_way(phrase: Phrase, table: Table, heading: Heading, path: tuple[Heading, ...]) -> Heading | None:
    """What a member is looked into by: the next of the path that a person has laid, or else the first that suits."""
    if path:
        rest = path[path.index(heading) + 1 :] if heading in path else path
        used = {*headings_of(phrase)}
        return next((each for each in rest if each not in used and table.has(each.field)), None)
    headings = deeper(phrase, table, heading)
    return headings[0] if headings else None
