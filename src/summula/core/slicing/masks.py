"""From slicers to masks over cells. A slicer's mask is worked out once for each of its settings."""

from __future__ import annotations

from collections.abc import Iterable
from typing import cast

import numpy as np

from summula.core.slicing.slicer import ListSlicer, Slicer
from summula.core.summaries.cells import Cells
from summula.core.summaries.conditions import holds_by_member
from summula.core.summaries.phrase import Condition
from summula.core.tables.column import Mask


def slicer_mask(slicer: Slicer, cells: Cells) -> Mask | None:
    """Which cells the slicer lets through; None when it narrows nothing."""
    if not slicer.narrows:
        return None
    if isinstance(slicer, ListSlicer):
        key = ("slicer", slicer.heading, slicer.chosen)
    else:
        key = ("slicer", slicer.dimension, (slicer.first, slicer.last))
    found: Mask | None = cells.memo.get(key)
    if found is None:
        encoded = cells.encoded(slicer.dimension)
        found = _members_through(slicer, cells)[encoded.codes]
        stale = [old for old in cells.memo if isinstance(old, tuple) and old[:2] == key[:2]]
        for old in stale[:-8]:  # the last few settings of a slicer are remembered, not every one ever made
            del cells.memo[old]
        cells.memo[key] = found
    return found


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


def joined_mask(slicers: Iterable[Slicer], cells: Cells) -> Mask | None:
    """The cells that every slicer lets through; None when none narrows anything."""
    masks = [mask for mask in (slicer_mask(slicer, cells) for slicer in slicers) if mask is not None]
    if len(masks) < 2:
        return masks[0] if masks else None
    # A board's panels mostly share their slicers: the last joining is remembered.
    last = cells.memo.get("joined")
    if last is not None and len(last[0]) == len(masks) and all(a is b for a, b in zip(last[0], masks, strict=True)):
        return cast(Mask, last[1])
    joined = masks[0]
    for mask in masks[1:]:
        joined = joined & mask
    cells.memo["joined"] = (masks, joined)
    return joined
