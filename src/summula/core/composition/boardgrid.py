"""The grid of a board in pixels: 24 columns, rows as high as the room lets them be."""

from __future__ import annotations

import msgspec

from summula.core.boards.board import COLUMNS, Place

GAP = 12
_LEAST_ROW, _MOST_ROW = 28, 42


class BoardGrid(msgspec.Struct, frozen=True):
    """`across` and `down`: pixels from one column, and one row, to the next."""

    across: float
    down: float

    @classmethod
    def of(cls, width: float, height: float, rows: int) -> BoardGrid:
        """For a board of so many rows in so much room; a tall one grows out of it."""
        tall = (height + GAP) / max(rows, 1)
        return cls((width + GAP) / COLUMNS, min(max(tall, _LEAST_ROW), _MOST_ROW))

    def area(self, place: Place) -> tuple[int, int, int, int]:
        """Left, top, width and height of a place."""
        left, top = round(place.column * self.across), round(place.row * self.down)
        right = round((place.column + place.width) * self.across - GAP)
        bottom = round((place.row + place.height) * self.down - GAP)
        return left, top, right - left, bottom - top

    def place(self, left: float, top: float, width: float, height: float) -> Place:
        """The nearest place to an area in pixels."""
        column, row = round(left / self.across), round(top / self.down)
        wide, high = round((width + GAP) / self.across), round((height + GAP) / self.down)
        return Place(max(column, 0), max(row, 0), max(wide, 1), max(high, 1))
