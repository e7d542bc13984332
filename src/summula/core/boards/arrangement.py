"""Moving, resizing and removing panels: always inside the grid, never on top of one another."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from summula.core.boards.board import COLUMNS, Board, Panel, Place
from summula.core.boards.panelkinds import kind_of
from summula.core.slicing.slicer import Slicer

MOST_ROWS = 400


def placed(board: Board, panel_id: str, place: Place) -> Board:
    """The board with one panel at `place` (kept inside the grid); panels in its way move down."""
    least = kind_of(board.panel(panel_id)).smallest
    width = min(max(place.width, least[0]), COLUMNS)
    height = min(max(place.height, least[1]), MOST_ROWS)
    column = min(max(place.column, 0), COLUMNS - width)
    row = min(max(place.row, 0), MOST_ROWS)
    fixed = Place(column, row, width, height)
    panels = tuple(_at(panel, fixed) if panel.id == panel_id else panel for panel in board.panels)
    return replace(board, panels=_settled(panels, panel_id))


def _at(panel: Panel, place: Place) -> Panel:
    return replace(panel, place=place)


def _settled(panels: tuple[Panel, ...], first: str) -> tuple[Panel, ...]:
    """Panels that overlap one settled before them move down, from the top."""
    settled: dict[str, Panel] = {}
    order = sorted(panels, key=lambda p: (p.id != first, p.place.row, p.place.column))
    for panel in order:
        place = panel.place
        while any(place.overlaps(other.place) for other in settled.values()):
            place = Place(place.column, place.row + 1, place.width, place.height)
        settled[panel.id] = _at(panel, place)
    return tuple(settled[panel.id] for panel in panels)


def free_place(board: Board, width: int, height: int) -> Place:
    """The first free place of this size, from the top left."""
    for row in range(board.rows + 1):
        for column in range(COLUMNS - width + 1):
            place = Place(column, row, width, height)
            if not any(place.overlaps(panel.place) for panel in board.panels):
                return place
    return Place(0, board.rows, width, height)


def with_panel(board: Board, panel: Panel) -> Board:
    return replace(board, panels=(*board.panels, panel))


def without_panel(board: Board, panel_id: str) -> Board:
    """The board without a panel, and without what slicers said of it."""
    slicers = tuple(replace(s, spares=tuple(each for each in s.spares if each != panel_id)) for s in board.slicers)
    panels = tuple(panel for panel in board.panels if panel.id != panel_id)
    return replace(board, panels=panels, slicers=slicers)


def with_panel_changed(board: Board, panel_id: str, **changes: Any) -> Board:
    panels = tuple(replace(panel, **changes) if panel.id == panel_id else panel for panel in board.panels)
    return replace(board, panels=panels)


def with_slicer(board: Board, slicer: Slicer) -> Board:
    """The board with a slicer added, or in the place of the one with its id."""
    if any(each.id == slicer.id for each in board.slicers):
        slicers = tuple(slicer if each.id == slicer.id else each for each in board.slicers)
    else:
        slicers = (*board.slicers, slicer)
    return replace(board, slicers=slicers)


def without_slicer(board: Board, slicer_id: str) -> Board:
    return replace(board, slicers=tuple(each for each in board.slicers if each.id != slicer_id))
