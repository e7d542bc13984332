"""Which ink belongs to what: to a member for good, whatever the slicers say; to others by what the style asks."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

from summula.core.charts.scene import Ink
from summula.core.fields.heading import DatePart, Heading, Member, Others
from summula.core.fields.labels import label_of
from summula.core.memory import Remembered
from summula.core.phrases.phrase import Struct
from summula.core.theme.tokens import SERIES, SHADES

if TYPE_CHECKING:
    from summula.core.engine.axis import Axis

_PALEST = 0.32  # of graded inks


def numbered(at: int) -> Ink:
    """The ink of a series by its number. Beyond eight they come again in another shade: none is like another up to
    24."""
    return Ink(f"series {at % (SERIES * SHADES)}")


class MemberInk(Struct, frozen=True):
    """The ink that a member has for good, everywhere in the folio: by its field (or a part of its date) and its label.
    `ink` numbers the inks of the palette and their shades, 0 to 23."""

    field: str
    member: str
    ink: int
    part: DatePart | None = None


@lru_cache(maxsize=16)
def _known(own: tuple[MemberInk, ...]) -> dict[tuple[str, DatePart | None, str], Ink]:
    return {(each.field, each.part, each.member): Ink(f"series {each.ink}") for each in own}


def with_ink(own: tuple[MemberInk, ...], heading: Heading, member: Member, ink: int | None) -> tuple[MemberInk, ...]:
    """The inks with that of one member set; None gives it back to its place in the heading's order."""
    label = label_of(heading, member)
    rest = tuple(e for e in own if (e.field, e.part, e.member) != (heading.field, heading.part, label))
    return rest if ink is None else (*rest, MemberInk(heading.field, label, ink, heading.part))


class _Places(NamedTuple):
    """Where members stand in their heading's own order, and the latest of them that is a year."""

    at: dict[Member, int]
    latest: int


_PLACES: Remembered[int, _Places] = Remembered("places of members")  # of an axis, by depth: some have thousands


def _places(members: tuple[Member, ...]) -> _Places:
    years = [each for each in members if isinstance(each, int)]
    return _Places({each: at for at, each in reversed(list(enumerate(members)))}, max(years, default=0))


def member_ink(axis: Axis, member: Member, own: tuple[MemberInk, ...] = ()) -> Ink:
    """The ink of a member of an axis' innermost heading: the one it was given for good; else by its place in the
    heading's own order. A year's hue goes by the year itself, so that a new year changes no other's; its shade tells it
    from one eight years away."""
    heading, members = axis.headings[-1], axis.members[-1]
    if own:
        given = _known(own).get((heading.field, heading.part, label_of(heading, member)))
        if given is not None:
            return given
    if isinstance(member, Others) or member is None:
        return Ink("muted", 0.6)
    places = _PLACES.of(axis.memo, axis.depth, lambda: _places(members))
    if heading.part in ("year", "fiscal year") and isinstance(member, int):
        latest = places.latest or member
        return Ink(f"series {-(member + 7) % SERIES + SERIES * ((latest - member) // SERIES % SHADES)}")
    at = places.at.get(member, 0)
    return numbered(_free_ink(at, _taken_inks(axis, places, own)) if own else at)


_TAKEN: Remembered[tuple[int, tuple[MemberInk, ...]], dict[int, int]] = Remembered("inks given to members")


def _taken_inks(axis: Axis, places: _Places, own: tuple[MemberInk, ...]) -> dict[int, int]:
    """The inks that members of the innermost heading were given, and the place of the member that has each."""
    heading = axis.headings[-1]
    given = {e.member: e.ink for e in own if (e.field, e.part) == (heading.field, heading.part)}
    if not given:
        return {}

    def found() -> dict[int, int]:
        labels = ((label_of(heading, member), at) for member, at in places.at.items())
        return {given[label]: at for label, at in labels if label in given}

    return _TAKEN.of(axis.memo, (axis.depth, own), found)


def _free_ink(at: int, taken: dict[int, int]) -> int:
    """The ink of a place; where another member was given it, the one that this member's place would have had: the two
    change inks, and nobody else's changes."""
    ink, seen = at, set[int]()
    while ink in taken and ink not in seen:
        seen.add(ink)
        ink = taken[ink]
    return ink


def by_rank(figures: Sequence[float]) -> list[Ink]:
    """One hue, graded by the order of the figures: the largest is the strongest."""
    order = sorted(range(len(figures)), key=lambda at: -figures[at] if not math.isnan(figures[at]) else math.inf)
    rank = {at: place for place, at in enumerate(order)}
    last = max(len(figures) - 1, 1)
    return [Ink("series 0", 1.0 - (1.0 - _PALEST) * rank[at] / last) for at in range(len(figures))]


def by_size(figures: Sequence[float]) -> list[Ink]:
    """One hue, graded by the figures themselves: nothing is the palest."""
    most = max((abs(each) for each in figures if not math.isnan(each)), default=0.0) or 1.0
    sizes = [0.0 if math.isnan(each) else abs(each) / most for each in figures]
    return [Ink("series 0", _PALEST + (1.0 - _PALEST) * size) for size in sizes]


def by_sign(figure: float) -> Ink:
    return Ink("gain" if figure >= 0 else "loss")


def graded_around(figures: Sequence[Sequence[float]], around: float | None) -> Callable[[float], Ink]:
    """Inks for figures: one hue graded from the least, or two on both sides of a figure: of nothing where some
    lie below and none is said. A blank is muted."""
    known = [each for line in figures for each in line if math.isfinite(each)]
    low, high = min(known, default=0.0), max(known, default=0.0)
    middle = around if around is not None else 0.0 if low < 0 < high else None
    if middle is None:
        start, reach = min(low, 0.0) if low < 0 else low, (high - low) or 1.0
        return lambda figure: (
            Ink("muted", 0.4)
            if math.isnan(figure)
            else Ink("series 0", _PALEST + (1 - _PALEST) * (figure - start) / reach)
        )
    reach = max(high - middle, middle - low) or 1.0
    return lambda figure: (
        Ink("muted", 0.4)
        if math.isnan(figure)
        else Ink(
            "gain" if figure >= middle else "loss",
            _PALEST + (1 - _PALEST) * min(1.0, abs(figure - middle) / reach),
        )
    )
