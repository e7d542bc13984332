"""From marks to what echoes, and from what echoes to slicers."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.engine.samples import Limits
from summula.core.fields.heading import Heading, Member, Others
from summula.core.phrases.phrase import Condition, Phrase, aggregates_of, figures_shown, headings_of
from summula.core.refusal import Refusal
from summula.core.slicing.slicer import Echo, ListSlicer, MemberChoice, NumberSlicer, Slicer, choice_of
from summula.core.slicing.slicerkinds import cleared

if TYPE_CHECKING:
    from summula.core.boards.board import Board
    from summula.core.charts.scene import Tag
    from summula.core.engine.grid import Grid

Part = tuple[Condition, ...]


def part_of(tag: Tag, grid: Grid) -> Part:
    """The conditions that a mark's rows meet: its members along both axes, and the values within its limits; none for
    one that stands for all."""
    found: list[Condition] = []
    for axis, pairs in ((grid.rows, tag.by), (grid.columns, tag.across)):
        for depth, (heading, member) in enumerate(pairs):
            shown = axis.members[depth] if depth < len(axis.members) and axis.headings[depth] == heading else ()
            found.append(_condition(heading, member, shown))
    found += [condition for each in tag.within for condition in _within(each)]
    return tuple(found)


def _condition(heading: Heading, member: Member, shown: tuple[Member, ...]) -> Condition:
    if isinstance(member, Others):  # all but those that stand for themselves
        named = [each for each in shown if not isinstance(each, Others) and each is not None]
        return Condition(heading, "is not", tuple(_value(each) for each in named))
    if member is None:
        return Condition(heading, "is blank")
    return Condition(heading, "is", (_value(member),))


def _value(member: Member) -> str | float:
    chosen = choice_of(member)
    assert chosen is not None
    return chosen


def _within(limits: Limits) -> list[Condition]:
    heading = Heading(limits.field)
    if limits.low == limits.high:
        return [Condition(heading, "is", (limits.low,))]
    found = [Condition(heading, "is at least", (limits.low,))] if limits.low > -math.inf else []
    if limits.high < math.inf:
        found.append(Condition(heading, "is at most" if limits.closed else "is under", (limits.high,)))
    return found


def echoed(echo: Echo | None, panel: str, table: str, part: Part, *, adding: bool) -> Echo | None:
    """What echoes after a click on a part: it alone, or with those before it where it is added; a part that is clicked
    again is taken away."""
    if not part:
        return None
    same = echo is not None and echo.panel == panel
    parts = echo.parts if echo is not None and same and adding else ()
    if echo is not None and same and part in echo.parts and (adding or echo.parts == (part,)):
        parts = tuple(each for each in echo.parts if each != part) if adding else ()
    else:
        parts = (*parts, part)
    return Echo(panel, table, parts) if parts else None


def sliced_by(board: Board, echo: Echo, next_id: str) -> Board:
    """The board, its slicers set to what echoes: where it has none for a field it gets one (ids begin with `next_id`).
    Refuses what slicers cannot say: several parts that are no rows and columns of each other."""
    chosen: dict[Heading, list[MemberChoice]] = {}
    ranges: dict[Heading, tuple[float | None, float | None]] = {}
    for part in echo.parts:
        for condition in part:
            match condition.test:
                case "is":
                    values: list[MemberChoice] = [_kept(value) for value in condition.values]
                case "is blank":
                    values = [None]
                case "is under" | "is at least" | "is at most":
                    low, high = ranges.get(condition.heading, (None, None))
                    end = _number(condition.values[0])
                    if condition.test == "is at most":
                        end = math.nextafter(end, math.inf)  # a slicer's range ends before its limit
                    ranges[condition.heading] = (end, high) if condition.test == "is at least" else (low, end)
                    continue
                case _:
                    raise Refusal("a slicer cannot choose all but some", "click the members that you mean")
            known = chosen.setdefault(condition.heading, [])
            known += [value for value in values if value not in known]
    size = 1
    for members in chosen.values():
        size *= len(members)
    if size > len(echo.parts) or (ranges and len(echo.parts) > 1):
        raise Refusal(
            f"{len(echo.parts)} marks lie across several fields, and slicers would let through more than them",
            "take marks of one row or column, or slice by one of them",
        )
    slicers, count = list(board.slicers), 0
    for heading, members in chosen.items():
        at = next(
            (
                n
                for n, s in enumerate(slicers)
                if isinstance(s, ListSlicer) and (s.table, s.heading) == (echo.table, heading)
            ),
            -1,
        )
        if at >= 0:
            slicers[at] = replace(slicers[at], chosen=tuple(members))
        else:
            slicers.append(ListSlicer(f"{next_id}e{count}", echo.table, heading, tuple(members)))
            count += 1
    for heading, (low, high) in ranges.items():
        at = next(
            (
                n
                for n, s in enumerate(slicers)
                if isinstance(s, NumberSlicer) and (s.table, s.field) == (echo.table, heading.field)
            ),
            -1,
        )
        if at >= 0:
            slicers[at] = replace(slicers[at], low=low, high=high)
        else:
            slicers.append(NumberSlicer(f"{next_id}e{count}", echo.table, heading.field, (), low, high))
            count += 1
    return replace(board, slicers=tuple(slicers))


def headings_picked(phrase: Phrase) -> tuple[Heading, ...]:
    """What marks of a summary can be told by: its headings, and the fields whose values it shows row by row."""
    fields = [a.field for m in figures_shown(phrase) for a in aggregates_of(m.calculation) if a.field is not None]
    return (*headings_of(phrase), *(Heading(field) for field in dict.fromkeys(fields)))


def choice_by(board: Board, panel: str, table: str, headings: Sequence[Heading]) -> Echo | None:
    """What the slicers of a panel's own headings choose that spare it: where the panel slices, this is what was chosen
    on it. None where they choose nothing."""
    parts: list[Part] = [()]
    for slicer in board.slicers:
        if slicer.table != table or panel not in slicer.spares or not slicer.narrows:
            continue
        ways: list[Part] = []
        if _chosen_heading(slicer) not in headings:
            continue
        if isinstance(slicer, ListSlicer):
            ways = [(_chosen_condition(slicer.heading, choice),) for choice in slicer.chosen]
        elif isinstance(slicer, NumberSlicer):
            ways = [tuple(_within(Limits(slicer.field, _end(slicer.low, -1), _end(slicer.high, 1), "")))]
        if ways:
            parts = [(*part, *way) for part in parts for way in ways][:_MOST_PARTS]
    return Echo(panel, table, tuple(parts)) if parts != [()] else None


def _chosen_condition(heading: Heading, choice: MemberChoice) -> Condition:
    return Condition(heading, "is blank") if choice is None else Condition(heading, "is", (choice,))


_MOST_PARTS = 2_000


def _end(end: float | None, sign: int) -> float:
    return sign * math.inf if end is None else end


def sliced_on(
    board: Board, panel: str, table: str, headings: Sequence[Heading], part: Part, next_id: str, *, adding: bool
) -> Board:
    """The board after a click on a mark of a panel that slices: its slicers are set to it (or to it, too), and spare
    the panel, which goes on showing all. Refuses what slicers cannot say."""
    before = choice_by(board, panel, table, headings)
    wanted = echoed(before, panel, table, part, adding=adding)
    own = [
        *(each.heading for old in (before.parts if before else ()) for each in old),
        *(each.heading for each in part),
    ]

    def is_own(slicer: Slicer) -> bool:
        return slicer.table == table and _chosen_heading(slicer) in own

    let_go = replace(board, slicers=tuple(cleared(each) if is_own(each) else each for each in board.slicers))
    after = let_go if wanted is None else sliced_by(let_go, wanted, next_id)
    spared = [
        replace(each, spares=(*each.spares, panel)) if is_own(each) and panel not in each.spares else each
        for each in after.slicers
    ]
    return replace(after, slicers=tuple(spared))


def _chosen_heading(slicer: Slicer) -> Heading | None:
    """The heading that marks choose a slicer's members by."""
    if isinstance(slicer, ListSlicer):
        return slicer.heading
    return Heading(slicer.field) if isinstance(slicer, NumberSlicer) else None


def _number(value: object) -> float:
    assert isinstance(value, int | float)
    return float(value)


def _kept(value: object) -> MemberChoice:
    return value if isinstance(value, str | float) else str(value)
