"""What each member of a slicer holds: rows now (under the other slicers), and before any slicing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from summula.core.fields.labels import label_of
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicer import Choice, Slicer
from summula.core.summaries.cells import Cells
from summula.core.summaries.combinations import counted
from summula.core.summaries.fold import chosen_cells


@dataclass(frozen=True, slots=True)
class Holding:
    """One member of a slicer, its rows now and its rows before slicing."""

    choice: Choice
    label: str
    rows: int
    before: int


def holdings(slicer: Slicer, others: Sequence[Slicer], cells: Cells) -> list[Holding]:
    """The slicer's members in their own order; those that never occur are left out."""
    heading = slicer.dimension
    encoded = cells.encoded(heading)
    before = cells.memo.get(("holdings", heading))
    if before is None:
        before = counted(encoded.codes, encoded.size, cells.rows)
        cells.memo["holdings", heading] = before
    mask = joined_mask(others, cells)
    if mask is None:
        now = before
    else:
        through = chosen_cells(cells, mask)
        weights = None if cells.rows is None else cells.rows[through]
        now = counted(encoded.codes[through], encoded.size, weights)
    held = []
    for code in range(encoded.size):
        if before[code] > 0:
            member = encoded.member(code)
            choice: Choice
            if member is None or isinstance(member, str):
                choice = member
            elif isinstance(member, bool):
                choice = "true" if member else "false"
            elif isinstance(member, int | float):
                choice = float(member)
            else:
                choice = str(member)
            held.append(Holding(choice, label_of(heading, member), int(now[code]), int(before[code])))
    return held
