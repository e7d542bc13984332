"""From slicers to masks over cells. A slicer's mask is worked out once for each of its settings."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from summula.core.arrays import np
from summula.core.engine.cells import Cells
from summula.core.engine.conditions import holds_by_member
from summula.core.fields.heading import Heading
from summula.core.memory import Remembered
from summula.core.phrases.phrase import Condition
from summula.core.slicing.slicer import ListSlicer, Slicer
from summula.core.tables.column import Mask, take_at

_MASKS: Remembered[tuple[Heading, tuple[Any, ...]], Mask] = Remembered(
    "slicers' masks", most=48
)  # the last few settings of each
_JOINED: Remembered[str, tuple[list[Slicer], Mask | None]] = Remembered("joined masks", most=1)


def slicer_mask(slicer: Slicer, cells: Cells) -> Mask | None:
    """Which cells the slicer lets through; None when it narrows nothing."""
    if not slicer.narrows:
        return None
    key = (slicer.dimension, slicer.chosen if isinstance(slicer, ListSlicer) else (slicer.first, slicer.last))
    return _MASKS.of(
        cells.memo, key, lambda: take_at(_members_through(slicer, cells), cells.encoded(slicer.dimension).codes)
    )


def _members_through(slicer: Slicer, cells: Cells) -> Mask:
    encoded = cells.encoded(slicer.dimension)
    if isinstance(slicer, ListSlicer):
        values = tuple(choice for choice in slicer.chosen if choice is not None)
        through = holds_by_member(Condition(slicer.heading, "is", values), encoded, cells.table)
        through[-1] = None in slicer.chosen
        return through
    months = [str(member) for member in encoded.members]
    low, high = slicer.first or "", slicer.last or "9999-99"
    return np.array([*[low <= month <= high for month in months], False], dtype=np.bool_)


def joined_mask(slicers: Sequence[Slicer], cells: Cells) -> Mask | None:
    """The cells that every slicer lets through; None when none narrows anything."""
    # A board's panels mostly share their slicers: the last joining is remembered.
    last = _JOINED.get(cells.memo, "last")
    if last is not None and last[0] == slicers:
        return last[1]
    joined: Mask | None = None
    for slicer in slicers:
        mask = slicer_mask(slicer, cells)
        if mask is not None:
            joined = mask if joined is None else joined & mask
    _JOINED.put(cells.memo, "last", (list(slicers), joined))
    return joined
