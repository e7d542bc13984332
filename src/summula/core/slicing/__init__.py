"""Slicers: controls that narrow the rows in play, as masks over cells, and what their members hold."""

from summula.core.slicing.holdings import Holding, holdings
from summula.core.slicing.masks import joined_mask, slicer_mask
from summula.core.slicing.slicer import (
    Echo,
    ListSlicer,
    Narrowing,
    NumberSlicer,
    PeriodSlicer,
    Slicer,
    TextSlicer,
)
from summula.core.slicing.slicerkinds import SLICER_KINDS, cleared, slicer_kind, slicer_words

__all__ = [
    "SLICER_KINDS",
    "Echo",
    "Holding",
    "ListSlicer",
    "Narrowing",
    "NumberSlicer",
    "PeriodSlicer",
    "Slicer",
    "TextSlicer",
    "cleared",
    "holdings",
    "joined_mask",
    "slicer_kind",
    "slicer_mask",
    "slicer_words",
]
