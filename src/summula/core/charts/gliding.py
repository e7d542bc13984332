"""Points on their way from where they stood to where they stand."""

from __future__ import annotations

from msgspec.structs import replace

from summula.core.charts.scene import Mark, Point, Scene, Tag


def between(before: Scene, after: Scene, share: float) -> Scene:
    """The later scene, the points that both have moved back to `share` (0 to 1) of their way. A point without a tag
    that one with a tag lies upon (its rim) goes with it."""
    stood = {_who(mark.tag): mark for mark in before.marks if isinstance(mark, Point) and mark.tag is not None}
    if share >= 1 or not stood:
        return after
    marks: list[Mark] = list(after.marks)
    for at, mark in enumerate(after.marks):
        if not isinstance(mark, Point) or mark.tag is None or _who(mark.tag) not in stood:
            continue
        old, left = stood[_who(mark.tag)], 1 - share
        along, down, wider = (old.x - mark.x) * left, (old.y - mark.y) * left, (old.radius - mark.radius) * left
        rim = after.marks[at - 1] if at else None
        first = at - 1 if isinstance(rim, Point) and rim.tag is None and (rim.x, rim.y) == (mark.x, mark.y) else at
        for moved in range(first, at + 1):
            own = marks[moved]
            assert isinstance(own, Point)
            marks[moved] = replace(own, x=own.x + along, y=own.y + down, radius=own.radius + wider)
    return replace(after, marks=tuple(marks))


def _who(tag: Tag) -> tuple[object, object]:
    return tag.by, tag.across
