"""Boards: panels on a grid of 24 columns, the slicers that move them, and the answers they show."""

from summula.core.boards.board import COLUMNS, Board, KeyFigurePanel, NotePanel, Panel, Place, SummaryPanel
from summula.core.boards.panelkinds import PANEL_KINDS, PanelAnswer
from summula.core.boards.reckoning import Reckoning

__all__ = [
    "COLUMNS",
    "PANEL_KINDS",
    "Board",
    "KeyFigurePanel",
    "NotePanel",
    "Panel",
    "PanelAnswer",
    "Place",
    "Reckoning",
    "SummaryPanel",
]
