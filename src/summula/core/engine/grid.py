"""The answer to a phrase: figures at every level of both axes, totals included."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeAlias

import msgspec

from summula.core.arrays import np
from summula.core.engine.axis import Axis
from summula.core.engine.samples import Samples
from summula.core.fields.figures import FigureStyle
from summula.core.phrases.phrase import Phrase

if TYPE_CHECKING:
    from numpy.typing import NDArray

Block: TypeAlias = "NDArray[np.float64]"
LevelPair = tuple[int, int]


class Grid(msgspec.Struct, frozen=True, eq=False):
    """`values[i, j]` holds the figures of row level i by column level j: (measures, rows, columns).

    Level 0 of an axis is its total, the last level its finest members. A blank figure is NaN.
    `cell_rows[i, j]` tells how many rows of the table stand behind each figure.
    """

    phrase: Phrase
    names: tuple[str, ...]
    styles: tuple[FigureStyle, ...]
    rows: Axis
    columns: Axis
    values: dict[LevelPair, Block]
    cell_rows: dict[LevelPair, NDArray[np.float64]]
    rows_read: int
    rows_used: int
    samples: Samples | None = None  # the values themselves, where the phrase asks for them
    several: bool = False  # small multiples: one for each member of the rows' first heading

    @property
    def finest(self) -> LevelPair:
        return (self.rows.depth, self.columns.depth)

    def figure(self, measure: int, row: tuple[int, int], column: tuple[int, int]) -> float:
        """One figure; `row` and `column` are (level, node)."""
        return float(self.values[row[0], column[0]][measure, row[1], column[1]])

    def bottom_line(self, measure: int = 0) -> float:
        block = self.values[0, 0]
        return float(block[measure, 0, 0]) if block.size else float("nan")

    @property
    def empty(self) -> bool:
        return self.rows_used == 0
