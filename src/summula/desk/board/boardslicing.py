"""What a person does with the slicers of the board in view: each is an edit of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace

from summula.core.boards.arrangement import with_slicer, without_slicer
from summula.core.boards.panelkinds import is_known
from summula.core.slicing.linking import linked_slicer
from summula.core.slicing.slicerkinds import cleared, slicer_kind, slicer_words

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QWidget

    from summula.core.boards.board import Board
    from summula.core.slicing.slicer import Slicer
    from summula.desk.session import Session


class BoardSlicing:
    """Slices the board in view, and opens what slicers are reached and kept by."""

    def __init__(self, page: QWidget, session: Session, board: Callable[[], Board]) -> None:
        self._page = page
        self._session, self._board = session, board

    def choose(self, slicer_id: str, asked: Any) -> None:
        """Set a slicer: choices for a list, (first, last) months or None for the ruler, limits for a range."""
        board = self._board()
        slicer: Slicer = board.slicer(slicer_id)
        new: Slicer = slicer_kind(slicer).chosen(slicer, asked)
        edit_name = slicer_words(new) or f"Clear {slicer.dimension.field}"
        self._session.set_board(with_slicer(board, new), f"Slice: {edit_name}", going_on=True)

    def restyle(self, slicer: Slicer) -> None:
        name = slicer.dimension.field
        self._session.set_board(with_slicer(self._board(), slicer), f"Settings of the slicer {name}", going_on=True)

    def remove(self, slicer_id: str) -> None:
        board = self._board()
        name = board.slicer(slicer_id).dimension.field
        self._session.set_board(without_slicer(board, slicer_id), f"Remove the slicer {name}")

    def clear(self) -> None:
        """Let all rows through."""
        board = self._board()
        slicers = tuple(cleared(slicer) for slicer in board.slicers)
        self._session.set_board(replace(board, slicers=slicers), "Clear slicing")

    def open_new(self, anchor: QWidget) -> None:
        from summula.desk.board.arranging import open_slicers

        open_slicers(anchor, self._session, self._board())

    def open_reach(self, anchor: QWidget) -> None:
        """Which slicers move which panels, in one place."""
        board, links = self._board(), self._session.folio.links
        reckoning = self._session.reckoning(board)
        tables = {p.id: reckoning.table_of(p) if is_known(p, reckoning.asked) else "" for p in board.panels}
        slicers = {each.id: each for each in board.slicers}

        def can(slicer: str, panel: str) -> bool:
            return bool(tables[panel]) and linked_slicer(links, slicers[slicer], tables[panel]) is not None

        def put(after: Board) -> None:
            self._session.set_board(after, "Which slicers affect which panels", going_on=True)

        from summula.desk.board.reachmatrix import ReachPopover

        ReachPopover(self._page, board, can, put).open_below(anchor)

    def open_kept(self, anchor: QWidget) -> None:
        """The slicings kept under names."""
        from summula.desk.board.slicings import SlicingsPopover

        SlicingsPopover(self._page, self._session, self._board().id).open_below(anchor)
