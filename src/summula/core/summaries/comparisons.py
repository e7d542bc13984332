"""Comparisons: a figure set against a total, a neighbour, an earlier year or the other members."""

from __future__ import annotations

from collections.abc import Hashable
from datetime import date

from summula.core.arrays import np
from summula.core.fields import calendar
from summula.core.fields.heading import Heading, Member, Others
from summula.core.refusal import Refusal
from summula.core.summaries.axis import Axis, Indices
from summula.core.summaries.grid import Block, LevelPair
from summula.core.summaries.language.printing import print_heading
from summula.core.summaries.phrase import Comparison, Value

Blocks = dict[LevelPair, Block]  # one measure: (rows, columns) for each level pair


def compared(blocks: Blocks, comparison: Comparison, rows: Axis, columns: Axis, everything: float) -> Blocks:
    """Each block set against what the comparison names. Shares and percent changes are fractions."""
    kind = comparison.kind
    if kind.startswith("share"):
        return {pair: _share(kind, pair, blocks, rows, columns, everything) for pair in blocks}
    return {pair: _along(comparison, pair, blocks[pair], rows, columns) for pair in blocks}


def divided(figures: Block, by: Block | float) -> Block:
    """Division in which zero and blank give blank."""
    divisor = np.asarray(by, dtype=np.float64)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        return np.where(divisor == 0, np.nan, figures / divisor)


def _share(kind: str, pair: LevelPair, blocks: Blocks, rows: Axis, columns: Axis, everything: float) -> Block:
    i, j = pair
    block = blocks[pair]
    if block.size == 0:
        return block
    if kind == "share of all":
        return divided(block, blocks[0, 0][0, 0])
    if kind == "share of everything":
        return divided(block, everything)
    if kind == "share of row":
        return divided(block, blocks[i, 0][:, :1])
    if kind == "share of column":
        return divided(block, blocks[0, j][:1, :])
    if i > 0 or not columns.depth:
        return divided(block, blocks[max(i - 1, 0), j][rows.levels[i].parent, :])
    return divided(block, blocks[i, max(j - 1, 0)][:, columns.levels[j].parent])


def _along(comparison: Comparison, pair: LevelPair, block: Block, rows: Axis, columns: Axis) -> Block:
    on_rows, depth = _find(comparison, rows, columns)
    axis, level = (rows, pair[0]) if on_rows else (columns, pair[1])
    figures = block if on_rows else block.T
    if level < depth + 1 or figures.size == 0:
        return np.full_like(block, np.nan)  # a total over the heading has no place along it
    result = _set_along(comparison, figures, axis, level, depth)
    return result if on_rows else result.T


def _find(comparison: Comparison, rows: Axis, columns: Axis) -> tuple[bool, int]:
    """Which axis the comparison runs along (rows?), and the heading's depth there."""
    for on_rows, axis in ((False, columns), (True, rows)):
        for depth, heading in enumerate(axis.headings):
            if comparison.along is None and heading.carries_year:
                return on_rows, depth
            if comparison.along is None and heading.part is None and _is_dated(axis, depth):
                return on_rows, depth
            if heading == comparison.along:
                return on_rows, depth
    if comparison.along is None:
        raise Refusal("nothing here tells a year from the one before", "add a year, quarter or month of a date")
    raise Refusal(
        f"the summary has no heading '{print_heading(comparison.along)}'",
        "add it by or across, or compare along another",
    )


def _is_dated(axis: Axis, depth: int) -> bool:
    return any(hasattr(member, "isoformat") for member in axis.members[depth][:1])


def _series(axis: Axis, level: int, depth: int) -> tuple[Indices, Indices]:
    """For each node: its series (same members but for the heading at `depth`), and its code there."""
    codes = axis.levels[level].codes
    rest = np.delete(codes, depth, axis=1)
    if rest.shape[1] == 0:
        return np.zeros(len(codes), dtype=np.intp), codes[:, depth].astype(np.intp)
    _, series = np.unique(rest, axis=0, return_inverse=True)
    return np.asarray(series).reshape(-1).astype(np.intp), codes[:, depth].astype(np.intp)


def _set_along(comparison: Comparison, figures: Block, axis: Axis, level: int, depth: int) -> Block:
    series, places = _series(axis, level, depth)
    if comparison.kind == "running total":
        return _running(figures, series, places)
    if comparison.kind == "rank":
        return _ranked(figures, series)
    other = _others(comparison, axis, level, depth, series, places)
    against = np.where((other >= 0)[:, None], figures[np.maximum(other, 0)], np.nan)
    change = figures - against
    return divided(change, np.abs(against)) if comparison.kind.startswith("percent") else change


def _running(figures: Block, series: Indices, places: Indices) -> Block:
    result = np.full_like(figures, np.nan)
    order = np.lexsort((places, series))
    starts = np.flatnonzero(np.diff(series[order], prepend=-1))
    for members in np.split(order, starts[1:]):
        part = figures[members]
        seen = np.maximum.accumulate(~np.isnan(part), axis=0)
        result[members] = np.where(seen, np.cumsum(np.nan_to_num(part), axis=0), np.nan)
    return result


def _ranked(figures: Block, series: Indices) -> Block:
    result = np.full_like(figures, np.nan)
    for each in np.unique(series):
        members = np.flatnonzero(series == each)
        for column in range(figures.shape[1]):
            part = figures[members, column]
            known = np.sort(part[~np.isnan(part)])
            rank = len(known) - np.searchsorted(known, part, side="right") + 1.0
            result[members, column] = np.where(np.isnan(part), np.nan, rank)
    return result


def _others(comparison: Comparison, axis: Axis, level: int, depth: int, series: Indices, places: Indices) -> Indices:
    """For each node, the node it is compared with, or -1."""
    other = np.full(len(series), -1, dtype=np.intp)
    if comparison.kind.endswith("previous"):
        order = np.lexsort((places, series))
        same = series[order][1:] == series[order][:-1]
        other[order[1:][same]] = order[:-1][same]
        # A gathered member stands after the others, but is no later period: it has no neighbour.
        gathered = [code for code, member in enumerate(axis.members[depth]) if isinstance(member, Others)]
        other[np.isin(places, gathered)] = -1
        return other
    members = axis.members[depth]
    at = {(int(s), int(p)): node for node, (s, p) in enumerate(zip(series, places, strict=True))}
    if comparison.kind.endswith("a year earlier"):
        heading = axis.headings[depth]
        code_of: dict[Hashable, int] = {member: code for code, member in enumerate(members)}
        earlier = [code_of.get(_year_earlier(heading, member), -1) for member in members]
        target = np.array(earlier, dtype=np.intp)[places]
    else:
        chosen = code_of_value(members, comparison.member)
        target = np.full(len(series), chosen, dtype=np.intp)
    for node, (s, p) in enumerate(zip(series, target, strict=True)):
        other[node] = at.get((int(s), int(p)), -1)
    return other


def _year_earlier(heading: Heading, member: Member) -> Hashable:
    if member is None or isinstance(member, Others):
        return ("no year",)
    if heading.part is not None:
        return calendar.year_earlier(member, heading.part)  # type: ignore[arg-type]
    if not isinstance(member, date) or (member.month, member.day) == (2, 29):
        return ("no such day",)
    return member.replace(year=member.year - 1)


def code_of_value(members: tuple[Member, ...], value: Value | None) -> int:
    """The code of the member that a phrase's value means, or -1."""
    for code, member in enumerate(members):
        spelled = member.isoformat() if isinstance(member, date) else member
        if spelled == value or (member is not None and str(spelled).casefold() == str(value).casefold()):
            return code
    return -1
