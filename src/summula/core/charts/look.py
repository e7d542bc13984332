"""How a chart looks, apart from its figures."""

from __future__ import annotations

import msgspec

from summula.core.charts.scene import Ink
from summula.core.fields.heading import Heading, Member, Others
from summula.core.summaries.dress import Dress
from summula.core.summaries.grid import Grid
from summula.core.summaries.layout import PLAIN, Labels, Layout

SERIES_INKS = 8


class Worn(msgspec.Struct, frozen=True):
    """How a summary's grid is laid out, its measures dressed, and the paths of labels whose members are folded."""

    layout: Layout = PLAIN
    dresses: tuple[Dress, ...] = ()
    folded: frozenset[Labels] = frozenset()
    folded_across: frozenset[Labels] = frozenset()


PLAIN_WORN = Worn()


class Look(msgspec.Struct, frozen=True):
    """`strong`: how many of the largest bars are drawn strong, the others paler (0: all strong).
    `ghost`: the same grid before slicing. `part_way`: the last period is not over, but stops on `until`. A grid is worn
    as its summary says: laid out, dressed, folded."""

    strong: int = 0
    ghost: Grid | None = None
    part_way: bool = False
    until: str = ""
    worn: Worn = PLAIN_WORN


def member_ink(heading: Heading, member: Member, members: tuple[Member, ...]) -> Ink:
    """The ink that belongs to a member, whatever the slicers say: its place in the heading's own order,
    or for a year the year itself, so that a new year changes no other's ink."""
    if isinstance(member, Others) or member is None:
        return Ink("muted", 0.6)
    if heading.part == "year" and isinstance(member, int):
        return Ink(f"series {(2025 - member) % SERIES_INKS}")
    try:
        place = members.index(member)
    except ValueError:
        place = 0
    return Ink(f"series {place % SERIES_INKS}")
