"""Keeping the top or bottom members, and gathering the rest into one."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, TypeAlias

import msgspec

from summula.core.arrays import np
from summula.core.fields.heading import Heading, Others
from summula.core.summaries.cells import Cells
from summula.core.summaries.grid import Grid
from summula.core.summaries.phrase import Keep, Phrase
from summula.core.tables.column import Mask

if TYPE_CHECKING:
    from numpy.typing import NDArray

Ask: TypeAlias = "Callable[[Phrase, Cells, Mask | None], Grid]"


class Kept(msgspec.Struct, frozen=True, eq=False):
    """What keeping leaves: the cells still in play, for gathered headings which cells moved to the
    gathered member, and the headings whose members keeping has chosen."""

    mask: Mask | None
    gathered: dict[Heading, tuple[Mask, Others]]
    limited: frozenset[Heading]


def keep(keeps: tuple[Keep, ...], cells: Cells, mask: Mask | None, ask: Ask) -> Kept:
    """Each keep in turn, worked out on what `where` and the keeps before it left."""
    gathered: dict[Heading, tuple[Mask, Others]] = {}
    for each in keeps:
        kept, dropped = _kept_cells(each, cells, mask, ask)
        if each.gather:
            if dropped:
                gathered[each.heading] = (~kept, Others(dropped, each.gathered_name))
        else:
            mask = kept if mask is None else mask & kept
    return Kept(mask, gathered, frozenset(each.heading for each in keeps))


def _kept_cells(keep: Keep, cells: Cells, mask: Mask | None, ask: Ask) -> tuple[Mask, int]:
    """Which cells belong to kept members, and how many members do not."""
    by = (keep.heading,) if keep.each is None else (keep.each, keep.heading)
    grid = ask(Phrase(measures=(keep.measure,), by=by), cells, mask)
    level = grid.rows.levels[len(by)]
    figures = grid.values[len(by), 0][0, :, 0]
    chosen: list[int] = []
    if keep.each is None:
        chosen.extend(_choose(keep, figures, np.arange(level.size)))
    else:
        for parent in range(grid.rows.levels[1].size):
            chosen.extend(_choose(keep, figures, np.flatnonzero(level.parent == parent)))
    encoded = [cells.encoded(heading) for heading in by]
    size = encoded[-1].size
    kept = np.zeros(encoded[0].size * size if keep.each is not None else size, dtype=np.bool_)
    codes = level.codes[np.array(chosen, dtype=np.intp)]
    if keep.each is None:
        kept[codes[:, 0]] = True
        left_out = level.size - len(chosen)
        return kept[encoded[0].codes], left_out
    kept[codes[:, 0] * size + codes[:, 1]] = True
    pairs = encoded[0].codes.astype(np.int64) * size + encoded[1].codes
    dropped = np.setdiff1d(np.arange(level.size), chosen)
    return kept[pairs], len(np.unique(level.codes[dropped, 1]))


def _choose(keep: Keep, figures: NDArray[np.float64], nodes: NDArray[np.intp]) -> list[int]:
    """The kept ones among `nodes` (in their own order). Ties go to the first; blanks come last."""
    values = figures[nodes]
    keys = np.where(np.isnan(values), np.inf, -values if keep.end == "top" else values)
    order = nodes[np.argsort(keys, kind="stable")]
    if not keep.percent:
        return [int(node) for node in order[: int(keep.number)]]
    running = np.cumsum(np.nan_to_num(figures[order]))
    if len(running) == 0:
        return []
    # The fewest whose figures together reach the share; a hair of rounding must not ask for one more.
    goal = running[-1] * keep.number / 100
    reached = np.flatnonzero(running >= goal - abs(goal) * 1e-12)
    count = int(reached[0]) + 1 if len(reached) else len(order)
    return [int(node) for node in order[:count]]
