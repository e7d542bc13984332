"""Figures on top of each other, as shares of their whole, or side by side: places along a scale, apart from marks."""

from __future__ import annotations

import math
from collections.abc import Sequence


def stacked(figures: Sequence[float]) -> list[tuple[float, float]]:
    """Where each figure begins and ends when they are stacked in their order: those above nothing upward, those below
    it downward. A blank begins and ends where the one before it ended."""
    above = below = 0.0
    places = []
    for figure in figures:
        if math.isnan(figure):
            places.append((above, above))
        elif figure >= 0:
            places.append((above, above + figure))
            above += figure
        else:
            places.append((below, below + figure))
            below += figure
    return places


def shares(figures: Sequence[float]) -> list[float]:
    """Each figure as a fraction of their total; blank where it is, or where there is no total."""
    total = math.fsum(figure for figure in figures if not math.isnan(figure))
    return [figure / total if total > 0 else math.nan for figure in figures]


def side_by_side(count: int, room: float, filled: float = 0.72) -> tuple[float, float]:
    """Where the first of `count` neighbours begins in a room, and how wide each is; `filled` of the room is used."""
    return room * (1 - filled) / 2, room * filled / max(count, 1)
