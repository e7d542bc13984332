"""Keeping the top or bottom members, and gathering the rest into one."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeAlias

import msgspec

from summula.core.arrays import np
from summula.core.fields.heading import Heading, Others
from summula.core.phrases.additivity import is_part_of_all
from summula.core.phrases.phrase import (
    Keep,
    Phrase,
)
from summula.core.phrases.printing import print_measure
from summula.core.refusal import Refusal
from summula.core.tables.column import Mask, different_values

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.cells import Cells
    from summula.core.engine.grid import Grid

Ask: TypeAlias = "Callable[[Phrase, Cells, Mask | None], Grid]"


class Gathered(msgspec.Struct, frozen=True, eq=False):
    """The members of a heading that are gathered into one: which cells moved there, and which were in play then."""

    moved: Mask
    in_play: Mask | None
    each: Heading | None
    name: str | None

    def others(self, codes: NDArray[np.integer]) -> Others:
        """The gathered member of all cells; `codes` (one a cell) tell the heading's own members."""
        return Others(len(different_values(codes[self._moved()])), self.name)

    def others_by(self, codes: NDArray[np.integer], groups: NDArray[np.integer], size: int) -> list[Others]:
        """One gathered member for each of `size` groups, that counts its own; `groups` has one entry a cell."""
        moved = self._moved()
        most = int(codes.max(initial=0)) + 1
        pairs = different_values(groups[moved].astype(np.int64) * most + codes[moved])
        return [Others(int(count), self.name) for count in np.bincount(pairs // most, minlength=size)]

    def _moved(self) -> Mask:
        return self.moved if self.in_play is None else self.moved & self.in_play


class Kept(msgspec.Struct, frozen=True, eq=False):
    """What keeping leaves: the cells still in play, what was gathered of which headings, and the headings whose
    members keeping has chosen, each with the heading that it was chosen within."""

    mask: Mask | None
    gathered: dict[Heading, Gathered]
    limited: dict[Heading, Heading | None]


def keep(keeps: tuple[Keep, ...], cells: Cells, mask: Mask | None, ask: Ask) -> Kept:
    """Each keep in turn, worked out on what `where` and the keeps before it left."""
    gathered: dict[Heading, Gathered] = {}
    for each in keeps:
        kept, dropped = _kept_cells(each, cells, mask, ask)
        if each.gather:
            if dropped:
                gathered[each.heading] = Gathered(~kept, mask, each.each, each.gathered_name)
        else:
            mask = kept if mask is None else mask & kept
    return Kept(mask, gathered, {each.heading: each.each for each in keeps})


def _kept_cells(keep: Keep, cells: Cells, mask: Mask | None, ask: Ask) -> tuple[Mask, bool]:
    """Which cells belong to kept members, and whether some members do not. Members without rows (empty bands) are
    none to choose from."""
    by = (keep.heading,) if keep.each is None else (keep.each, keep.heading)
    grid = ask(Phrase(measures=(keep.measure,), by=by), cells, mask)
    level = grid.rows.levels[len(by)]
    figures = grid.values[len(by), 0][0, :, 0]
    occurs = grid.cell_rows[len(by), 0][:, 0] > 0
    nodes = np.flatnonzero(occurs)
    if keep.each is None:
        chosen = _choose(keep, figures, nodes)
    else:
        chosen = _choose_in_each(keep, figures, nodes, level.parent[nodes])
    encoded = [cells.encoded(heading) for heading in by]
    size = encoded[-1].size
    kept = np.zeros(encoded[0].size * size if keep.each is not None else size, dtype=np.bool_)
    codes = level.codes[chosen]
    dropped = len(chosen) < int(np.count_nonzero(occurs))
    if keep.each is None:
        kept[codes[:, 0]] = True
        return kept[encoded[0].codes], dropped
    kept[codes[:, 0] * size + codes[:, 1]] = True
    pairs = encoded[0].codes.astype(np.int64) * size + encoded[1].codes
    return kept[pairs], dropped


def check_keep(keep: Keep) -> None:
    """Refuses a share of a figure that does not add up. The measure is one said in full."""
    if keep.percent and not is_part_of_all(keep.measure):
        raise Refusal(
            f"{print_measure(keep.measure)} does not add up, so no members reach {keep.number:g}% of it",
            "use a sum or a count, or keep a number of members",
        )


def _choose_in_each(
    keep: Keep, figures: NDArray[np.float64], nodes: NDArray[np.intp], parents: NDArray[np.intp]
) -> NDArray[np.intp]:
    """The kept ones among the nodes of each parent. `parents` has one entry a node; those of one are neighbours."""
    starts = np.flatnonzero(np.diff(parents, prepend=-1))
    if keep.percent:
        parts = [_choose(keep, figures, siblings) for siblings in np.split(nodes, starts[1:])]
        return np.concatenate([np.zeros(0, dtype=np.intp), *parts])
    order = np.lexsort((_keys(keep, figures[nodes]), parents))
    place = np.arange(len(nodes)) - np.repeat(starts, np.diff(starts, append=len(nodes)))
    return nodes[order[place < int(keep.number)]]


def _keys(keep: Keep, values: NDArray[np.float64]) -> NDArray[np.float64]:
    """What figures are ordered by, those kept first; blanks come last."""
    return np.where(np.isnan(values), np.inf, -values if keep.end == "top" else values)


def _choose(keep: Keep, figures: NDArray[np.float64], nodes: NDArray[np.intp]) -> NDArray[np.intp]:
    """The kept ones among `nodes` (in their own order). Ties go to the first."""
    values = figures[nodes]
    order = nodes[np.argsort(_keys(keep, values), kind="stable")]
    if not keep.percent:
        return order[: int(keep.number)]
    if len(values) and np.nanmin(np.append(values, 0.0)) < 0:
        raise Refusal(
            f"{print_measure(keep.measure)} is negative for some members, so no share of it can be reached",
            "keep a number of members instead",
        )
    running = np.cumsum(np.nan_to_num(figures[order]))
    if len(running) == 0:
        return order
    # The fewest whose figures together reach the share; a hair of rounding must not ask for one more.
    goal = running[-1] * keep.number / 100
    reached = np.flatnonzero(running >= goal - abs(goal) * 1e-12)
    count = int(reached[0]) + 1 if len(reached) else len(order)
    return order[:count]
