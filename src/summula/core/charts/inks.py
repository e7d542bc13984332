"""Which ink belongs to what: to a member for good, whatever the slicers say; to others by what the style asks."""

from __future__ import annotations

import math
from collections.abc import Sequence

from summula.core.charts.scene import Ink
from summula.core.fields.heading import Heading, Member, Others
from summula.core.theme.tokens import SERIES, SHADES

_PALEST = 0.32  # of graded inks


def numbered(at: int) -> Ink:
    """The ink of a series by its number. Beyond eight they come again in another shade: none is like another up to
    24."""
    return Ink(f"series {at % (SERIES * SHADES)}")


def member_ink(heading: Heading, member: Member, members: tuple[Member, ...]) -> Ink:
    """A member's ink: by its place in the heading's own order. A year's hue goes by the year itself, so that a new year
    changes no other's; its shade tells it from one eight years away."""
    if isinstance(member, Others) or member is None:
        return Ink("muted", 0.6)
    if heading.part in ("year", "fiscal year") and isinstance(member, int):
        years = [each for each in members if isinstance(each, int)] or [member]
        return Ink(f"series {-(member + 7) % SERIES + SERIES * ((max(years) - member) // SERIES % SHADES)}")
    try:
        return numbered(members.index(member))
    except ValueError:
        return numbered(0)


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
