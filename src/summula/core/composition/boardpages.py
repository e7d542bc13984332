"""A board as a page: its name, what slices it in words, its panels on their grid."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.boards.panelkinds import kind_of, panel_scene
from summula.core.charts.chart import Canvas
from summula.core.charts.scene import XY, Group, Mark, Scene
from summula.core.composition.boardgrid import BoardGrid
from summula.core.composition.card import card, content_area
from summula.core.composition.composition import MARGIN, Composition, Foot, Page, foot, heading
from summula.core.slicing.slicerkinds import slicer_words
from summula.core.theme.typefaces import text_width

if TYPE_CHECKING:
    from summula.core.boards.board import Board
    from summula.core.boards.playing import Play
    from summula.core.boards.reckoning import Reckoning


def compose_board(
    board: Board,
    reckoning: Reckoning,
    size: XY,
    stated: Foot = Foot(),  # noqa: B008
    play: Play | None = None,
) -> Composition:
    """One page, as wide as asked and at least as high; a tall board makes a taller page, and loses nothing. At a step
    of `play` it is the board of that period."""
    resting = board
    if play is not None:
        board = replace(board, slicers=(*board.slicers, play.slicer))
    stories = [slicer_words(slicer) for slicer in board.slicers if slicer.narrows]
    lines = [" · ".join(stories)] if stories else []
    marks, top = heading(board.name, lines, size, text_width)
    below = 34.0
    grid = BoardGrid.of(size[0] - 2 * MARGIN, size[1] - top - below, board.rows)
    height = max(size[1], top + grid.down * board.rows + below)
    for panel in sorted(board.panels, key=lambda panel: not kind_of(panel).behind):
        left, y, width, high = grid.area(panel.place)
        answer = reckoning.panel(board, panel)
        if play is not None:
            answer = reckoning.played(resting, panel, play, answer)
        names = answer.grid.names if answer.grid is not None else ()
        inner = content_area(panel, (width, high))
        content = panel_scene(panel, answer, Canvas(inner[2], inner[3]))
        parts: tuple[Mark, ...] = (
            *card(panel, (width, high), text_width, answer.caption, board.frames),
            Group(inner[0], inner[1], content.marks, clip=(inner[2], inner[3]), measures=names),
        )
        marks.append(Group(MARGIN + left, top + y, parts))
    marks += foot(stated, "", (size[0], height), text_width)
    return Composition(board.name, (Page(board.name, Scene(size[0], height, tuple(marks))),))
