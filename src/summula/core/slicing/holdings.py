"""What each member of a slicer holds: rows now (under the other slicers), and before any slicing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.engine.combinations import counted
from summula.core.engine.fold import chosen_cells, chosen_weights
from summula.core.fields.labels import label_of
from summula.core.memory import Remembered
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicer import Holding, MemberChoice, Narrowing, Slicer, choice_of

if TYPE_CHECKING:
    from summula.core.engine.cells import Cells
    from summula.core.fields.heading import Heading


_BEFORE: Remembered[Heading, list[tuple[int, MemberChoice, str, int]]] = Remembered("holdings before slicing")


def holdings(slicer: Slicer, others: Sequence[Narrowing], cells: Cells) -> list[Holding]:
    """The slicer's members in their own order; those that never occur are left out."""
    heading = slicer.dimension
    encoded = cells.encoded(heading)
    known = _BEFORE.get(cells.memo, heading)
    if known is None:
        before = counted(encoded.codes, encoded.size, cells.rows)
        known = [
            (code, choice_of(encoded.member(code)), label_of(heading, encoded.member(code)), int(before[code]))
            for code in np.flatnonzero(before).tolist()
        ]
        _BEFORE.put(cells.memo, heading, known)
    mask = joined_mask(others, cells)
    if mask is None:
        return [Holding(choice, label, before, before) for _, choice, label, before in known]
    through = chosen_cells(cells, mask)
    weights = None if cells.rows is None else chosen_weights(cells, through, cells.rows)
    now = counted(encoded.codes.take(through), encoded.size, weights).astype(np.int64).tolist()
    return [Holding(choice, label, now[code], before) for code, choice, label, before in known]
