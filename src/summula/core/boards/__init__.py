"""Boards: panels on a grid of 24 columns, the slicers that move them, and the answers they show."""

from summula.core.boards.board import COLUMNS, Board, KeyFigurePanel, Panel, Place, SummaryPanel
from summula.core.boards.reckoning import PanelAnswer, Reckoning

__all__ = ["COLUMNS", "Board", "KeyFigurePanel", "Panel", "PanelAnswer", "Place", "Reckoning", "SummaryPanel"]
