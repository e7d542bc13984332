"""Boards: panels on a grid of 24 columns, the slicers that move them, and the answers they show."""

from summula.core.boards.board import (
    COLUMNS,
    Board,
    FramePanel,
    KeyFigurePanel,
    LeverPanel,
    NotePanel,
    Panel,
    PicturePanel,
    Place,
    RulePanel,
    SlicerPanel,
    SummaryPanel,
)
from summula.core.boards.panelkinds import PANEL_KINDS, PanelAnswer
from summula.core.boards.reckoning import Reckoning

__all__ = [
    "COLUMNS",
    "PANEL_KINDS",
    "Board",
    "FramePanel",
    "KeyFigurePanel",
    "LeverPanel",
    "NotePanel",
    "Panel",
    "PanelAnswer",
    "PicturePanel",
    "Place",
    "Reckoning",
    "RulePanel",
    "SlicerPanel",
    "SummaryPanel",
]
