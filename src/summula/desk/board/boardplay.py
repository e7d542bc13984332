"""A board played through time: which step it stands at. No edit, so no part of the history."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.boards.playing import Play, playable

if TYPE_CHECKING:
    from summula.core.boards.board import Board
    from summula.desk.board.playbar import PlayBar
    from summula.desk.session import Session


class BoardPlay:
    """Steps through the periods of the board in view. `bar`: made when it is asked for first; `redraw`: shows the board
    as the session's state says."""

    def __init__(
        self, session: Session, board: Callable[[], Board], bar: Callable[[], PlayBar], redraw: Callable[[], None]
    ) -> None:
        self._session, self._board, self._bar, self._redraw = session, board, bar, redraw

    def sliced(self, board: Board) -> Board:
        """The board as it is sliced by what is played."""
        play = self._session.board_state.play
        return board if play is None else replace(board, slicers=(*board.slicers, play.slicer))

    def found(self) -> Play | None:
        """What the board can be played through."""
        board = self._board()
        return playable(board, self._session.reckoning(board).tables)

    def show(self, play: Play | None) -> None:
        """Show the board at a period, or (None) at all of them again."""
        state = self._session.board_state
        if play != state.play:
            self._session.board_state = replace(state, play=play)
            self._redraw()

    def begin(self) -> None:
        """Play from the first period; where it is played, pause or go on."""
        if self._session.board_state.play is None:
            self.show(self.found())
        self._bar().toggle()
