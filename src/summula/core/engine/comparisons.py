"""Comparisons: a figure set against a total, a neighbour, an earlier year or the other members."""

from __future__ import annotations

from collections.abc import Collection, Hashable, Sequence
from datetime import date
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.engine.combinations import numbered
from summula.core.engine.conditions import members_meant
from summula.core.engine.grid import Block, LevelPair
from summula.core.fields import calendar
from summula.core.fields.heading import Heading, Member, Others
from summula.core.phrases.printing import print_heading
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.axis import Axis, Indices
    from summula.core.phrases.phrase import Comparison, Value

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
    if comparison.kind.endswith("a year earlier"):
        return _on_year_earlier(comparison, pair, block, rows, columns)
    on_rows, depth = _find(comparison, rows, columns)
    axis, level = (rows, pair[0]) if on_rows else (columns, pair[1])
    figures = block if on_rows else block.T
    if level < depth + 1 or figures.size == 0:
        return np.full_like(block, np.nan)  # a total over the heading has no place along it
    result = _set_along(comparison, figures, axis, level, depth)
    return result if on_rows else result.T


def _find(comparison: Comparison, rows: Axis, columns: Axis) -> tuple[bool, int]:
    """Which axis the comparison runs along (rows?), and the heading's depth there."""
    assert comparison.along is not None
    for on_rows, axis in ((False, columns), (True, rows)):
        if comparison.along in axis.headings:
            return on_rows, axis.headings.index(comparison.along)
    raise Refusal(
        f"the summary has no heading '{print_heading(comparison.along)}'",
        "add it by or across, or compare along another",
    )


def check_along(comparison: Comparison | None, headings: Sequence[Heading], dates: Collection[str]) -> None:
    """Refuses a comparison that the headings of a summary give no place. `dates` are the names of date fields."""
    if comparison is None:
        return
    if comparison.kind.endswith("a year earlier"):
        dated = [each for each in headings if carries_date(each, dates)]
        if not dated:
            raise Refusal("no heading separates the years", "add a year, quarter or month of a date")
        others = sorted({each.field for each in dated})
        if len(others) > 1:
            raise Refusal(
                f"a year earlier may be of '{others[0]}' or of '{others[1]}'", "remove the years of one of them"
            )
    elif comparison.along is not None and comparison.along not in headings:
        raise Refusal(
            f"the summary has no heading '{print_heading(comparison.along)}'",
            "add it by or across, or compare along another",
        )


def carries_date(heading: Heading, dates: Collection[str]) -> bool:
    """Whether a heading's members know their year: years and their parts, and the days of a date."""
    return heading.carries_year or (heading.part is None and heading.bands is None and heading.field in dates)


def _on_year_earlier(comparison: Comparison, pair: LevelPair, block: Block, rows: Axis, columns: Axis) -> Block:
    """Against the same place one calendar year back: every heading that carries the year goes back with it, on both
    axes. A total over all of them has no year."""
    earlier = [nodes_a_year_earlier(axis, level) for axis, level in ((rows, pair[0]), (columns, pair[1]))]
    if all(each is None for each in earlier) or block.size == 0:
        return np.full_like(block, np.nan)
    at_row, at_column = (
        np.arange(size) if nodes is None else nodes for nodes, size in zip(earlier, block.shape, strict=True)
    )
    there = (at_row >= 0)[:, None] & (at_column >= 0)[None, :]
    against = np.where(there, block[np.maximum(at_row, 0)][:, np.maximum(at_column, 0)], np.nan)
    return _change(comparison, block, against)


def nodes_a_year_earlier(axis: Axis, level: int) -> Indices | None:
    """For each node of a level the one a year back, or -1; None where no heading down to there carries the year."""
    codes = _codes(axis, level)
    moved, dated = codes.copy(), False
    for depth, heading in enumerate(axis.headings[:level]):
        if not (heading.carries_year or (heading.part is None and _is_dated(axis, depth))):
            continue
        dated = True
        members = axis.members[depth]
        code_of: dict[Hashable, int] = {member: code for code, member in enumerate(members)}
        back = np.array([code_of.get(_year_earlier(heading, member), -1) for member in members], dtype=np.int64)
        moved[:, depth] = back[codes[:, depth]]
    return _nodes_at(codes, moved) if dated else None


def _nodes_at(codes: NDArray[np.int64], wanted: NDArray[np.int64]) -> Indices:
    """For each row of wanted codes (m, k) the node that has them among `codes` (n, k), or -1."""
    known = np.all(wanted >= 0, axis=1)
    both = np.concatenate([codes, wanted[known]])
    node = np.full(len(wanted), -1, dtype=np.intp)
    if len(both):
        ids = numbered(both)
        at = np.full(len(both), -1, dtype=np.intp)
        at[ids[: len(codes)]] = np.arange(len(codes))
        node[known] = at[ids[len(codes) :]]
    return node


def _is_dated(axis: Axis, depth: int) -> bool:
    return any(hasattr(member, "isoformat") for member in axis.members[depth][:1])


def _codes(axis: Axis, level: int) -> NDArray[np.int64]:
    """The codes of a level's nodes. The rest that is gathered in each of several members is one member, however many
    it stands for in each."""
    codes = axis.levels[level].codes
    for depth, members in enumerate(axis.members[:level]):
        gathered = [code for code, member in enumerate(members) if isinstance(member, Others)]
        if len(gathered) > 1:
            codes = codes.copy()
            codes[np.isin(codes[:, depth], gathered), depth] = gathered[0]
    return codes


def _series(axis: Axis, level: int, depth: int) -> tuple[Indices, Indices]:
    """For each node: its series (same members but for the heading at `depth`), and its code there."""
    codes = _codes(axis, level)
    rest = np.delete(codes, depth, axis=1)
    if rest.shape[1] == 0:
        return np.zeros(len(codes), dtype=np.intp), codes[:, depth].astype(np.intp)
    return numbered(rest).astype(np.intp), codes[:, depth].astype(np.intp)


def _set_along(comparison: Comparison, figures: Block, axis: Axis, level: int, depth: int) -> Block:
    series, places = _series(axis, level, depth)
    if comparison.kind == "running total":
        return _running(figures, series, places)
    if comparison.kind == "rank":
        return _ranked(figures, series)
    other = _others(comparison, axis, level, depth, series, places)
    return _change(comparison, figures, np.where((other >= 0)[:, None], figures[np.maximum(other, 0)], np.nan))


def _change(comparison: Comparison, figures: Block, against: Block) -> Block:
    change = figures - against
    return divided(change, np.abs(against)) if comparison.kind.startswith("percent") else change


def _running(figures: Block, series: Indices, places: Indices) -> Block:
    """Running totals (nodes, columns) of each series in the order of its places; a blank adds nothing, and before the
    first figure there is none. Added one after the other, whichever way: a float's sum depends on that."""
    result = np.full_like(figures, np.nan)
    order = np.lexsort((places, series))
    starts = np.flatnonzero(np.diff(series[order], prepend=-1))
    lengths = np.diff(starts, append=len(order))
    longest = int(lengths.max(initial=0))
    if len(starts) <= longest:
        for members in np.split(order, starts[1:]):
            part = figures[members]
            seen = np.maximum.accumulate(~np.isnan(part), axis=0)
            result[members] = np.where(seen, np.cumsum(np.nan_to_num(part), axis=0), np.nan)
        return result
    by_length = np.argsort(-lengths, kind="stable")  # many short ones: a step of all of them at a time
    starts, lengths = starts[by_length], lengths[by_length]
    total = np.zeros((len(starts), figures.shape[1]))
    seen = np.zeros(total.shape, dtype=np.bool_)
    for step in range(longest):
        going = int(np.searchsorted(-lengths, -step, side="left"))
        members = order[starts[:going] + step]
        part = figures[members]
        total[:going] += np.nan_to_num(part)
        seen[:going] |= ~np.isnan(part)
        result[members] = np.where(seen[:going], total[:going], np.nan)
    return result


def _ranked(figures: Block, series: Indices) -> Block:
    """Each figure's rank (nodes, columns) within its series, the largest first; equal ones share the better rank."""
    if not figures.size:
        return np.full_like(figures, np.nan)
    by_column = figures.T  # a column's figures in the order of their series, the largest first, blanks last
    order = np.lexsort((-by_column, np.broadcast_to(series, by_column.shape)))
    values, at = np.take_along_axis(by_column, order, axis=1), np.arange(len(series))
    begins = np.diff(series[order], prepend=-1, axis=1) != 0
    differs = begins.copy()
    differs[:, 1:] |= values[:, 1:] != values[:, :-1]
    first = np.maximum.accumulate(np.where(begins, at, 0), axis=1)  # of its series, and of those that equal it
    equal = np.maximum.accumulate(np.where(differs, at, 0), axis=1)
    ranks = np.where(np.isnan(values), np.nan, equal - first + 1.0)
    result = np.empty_like(by_column)
    np.put_along_axis(result, order, ranks, axis=1)
    return result.T


def _others(comparison: Comparison, axis: Axis, level: int, depth: int, series: Indices, places: Indices) -> Indices:
    """For each node, the node it is compared with, or -1."""
    if comparison.kind.endswith("previous"):
        target = _previous(axis, level, depth)
    else:
        target = np.full(len(series), code_of_value(axis.headings[depth], axis.members[depth], comparison.member))
    return _nodes_at(np.column_stack([series, places]), np.column_stack([series, target]))


def _previous(axis: Axis, level: int, depth: int) -> Indices:
    """For each node of a level the code of its member's neighbour before it: among the members that are shown there
    within the same enclosing members, in the heading's own order. -1 for the first; a gathered member stands after the
    others, but is no later period, and has none."""
    shown = _codes(axis, depth + 1)
    order = np.lexsort(shown.T[::-1])
    inner = shown[order]
    same = np.all(inner[1:, :depth] == inner[:-1, :depth], axis=1)
    before = np.full(len(shown), -1, dtype=np.intp)
    before[1:][same] = inner[:-1, depth][same]
    gathered = [code for code, member in enumerate(axis.members[depth]) if isinstance(member, Others)]
    before[np.isin(inner[:, depth], gathered)] = -1
    found: Indices = before[_nodes_at(inner, _codes(axis, level)[:, : depth + 1])]
    return found


def _year_earlier(heading: Heading, member: Member) -> Hashable:
    if member is None or isinstance(member, Others):
        return ("no year",)
    if heading.part is not None:
        return calendar.year_earlier(member, heading.part)  # type: ignore[arg-type]
    if not isinstance(member, date) or (member.month, member.day) == (2, 29):
        return ("no such day",)
    return member.replace(year=member.year - 1)


def code_of_value(heading: Heading, members: tuple[Member, ...], value: Value | None) -> int:
    """The code of the member that a phrase's value means, or -1: the one spelled so, else in any case."""
    if value is None:
        return -1
    met = members_meant(value, members, heading)
    return met[0] if met else -1
