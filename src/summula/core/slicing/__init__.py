"""Slicers: controls that narrow the rows in play, as masks over cells, and what their members hold."""

from summula.core.slicing.holdings import Holding, holdings
from summula.core.slicing.masks import joined_mask, slicer_mask
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer, Slicer, slicer_words

__all__ = [
    "Holding",
    "ListSlicer",
    "PeriodSlicer",
    "Slicer",
    "holdings",
    "joined_mask",
    "slicer_mask",
    "slicer_words",
]
