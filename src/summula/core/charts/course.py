"""Where marks have been: the steps that a chart is played through, on scales that stay."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.engine.aligning import path_key
from summula.core.engine.grid import Grid

if TYPE_CHECKING:
    from summula.core.engine.axis import Axis
    from summula.core.fields.heading import Member

_LENGTH = 12  # steps back, at most: a longer trail is a tangle


class Course(msgspec.Struct, frozen=True, eq=False, dict=True):
    """The same grid at each step of play, and at which of them it stands; whether the places before are shown."""

    steps: tuple[Grid, ...]
    at: int
    trail: bool = False

    @cached_property
    def _nodes(self) -> list[tuple[dict[object, int], dict[object, int]]]:
        begin = max(0, self.at - _LENGTH)
        return [(_by_path(grid.rows), _by_path(grid.columns)) for grid in self.steps[begin : self.at]]

    def extent(self, measure: int, low: float, high: float) -> tuple[float, float]:
        """From the least to the greatest of a measure at any step, `low` and `high` included."""
        blocks = [grid.values[grid.finest][measure].ravel() for grid in self.steps]
        figures = np.concatenate([np.array([low, high]), *blocks])
        return float(np.nanmin(figures)), float(np.nanmax(figures))

    def before(
        self, by: tuple[Member, ...], across: tuple[Member, ...], measures: tuple[int, int]
    ) -> list[tuple[float, float]]:
        """The two figures of a member's mark at the steps before, the oldest first; without those at which it has
        none."""
        found = []
        begin = max(0, self.at - _LENGTH)
        for grid, (rows, columns) in zip(self.steps[begin : self.at], self._nodes, strict=True):
            row, column = rows.get(path_key(by), -1), columns.get(path_key(across), -1)
            if row >= 0 and column >= 0:
                block = grid.values[grid.finest]
                up, along = float(block[measures[0], row, column]), float(block[measures[1], row, column])
                if not np.isnan(up + along):
                    found.append((up, along))
        return found


def _by_path(axis: Axis) -> dict[object, int]:
    return {path_key(axis.path(axis.depth, node)): node for node in range(axis.levels[axis.depth].size)}
