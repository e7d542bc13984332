"""From slicers to masks over cells. A slicer's mask is worked out once for each of its settings."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from summula.core.memory import Remembered
from summula.core.slicing.slicerkinds import needs_of, slicer_kind

if TYPE_CHECKING:
    from summula.core.engine.cells import Cells
    from summula.core.slicing.slicer import Narrowing
    from summula.core.tables.column import Mask

_MASKS: Remembered[tuple[Any, ...], Mask] = Remembered("slicers' masks", most=48)  # the last few settings of each
_JOINED: Remembered[str, tuple[list[Narrowing], Mask | None]] = Remembered("joined masks", most=1)


def slicer_mask(slicer: Narrowing, cells: Cells) -> Mask | None:
    """Which cells the slicer lets through; None when it narrows nothing."""
    if not slicer.narrows:
        return None
    kind = slicer_kind(slicer)
    key = (kind.word, needs_of(slicer, cells.table), kind.setting(slicer))
    return _MASKS.of(cells.memo, key, lambda: kind.mask(slicer, cells))


def joined_mask(slicers: Sequence[Narrowing], cells: Cells) -> Mask | None:
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
