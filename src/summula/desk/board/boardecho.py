"""A click on a mark of a board: the other panels answer with that part of themselves, or the board is sliced by it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.boards.echoing import Part, echoed, headings_picked, part_of, sliced_by, sliced_on
from summula.core.boards.panelkinds import kind_of
from summula.core.fields.figures import percent_text, plural
from summula.core.folio.model import taken_id, with_board
from summula.core.refusal import Refusal
from summula.core.slicing.slicerkinds import slicer_words

if TYPE_CHECKING:
    from summula.core.boards.board import Board, Panel
    from summula.core.charts.scene import Tag
    from summula.core.slicing.slicer import Echo
    from summula.desk.board.panelview import PanelView
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.session import Session


class BoardEcho:
    """Answers clicks on the marks of the board in view. `rows`: how many rows what echoes stands for. `redraw`: shows
    the board as the session's state says."""

    def __init__(
        self,
        session: Session,
        board: Callable[[], Board],
        panels: Mapping[str, PanelView],
        status: StatusLine,
        redraw: Callable[[], None],
    ) -> None:
        self._session, self._board, self._panels, self._status = session, board, panels, status
        self._redraw = redraw
        self.rows = 0

    def pick(self, panel_id: str, tag: Tag | None, *, adding: bool) -> None:
        """A click on a mark: all other panels show that part of themselves; on nothing: no more."""
        board = self._board()
        panel = next(each for each in board.panels if each.id == panel_id)
        answer = self._panels[panel_id].answer
        grid = answer.grid if answer is not None else None
        if kind_of(panel).slices(panel):
            if tag is not None and grid is not None:
                self._slice_on(panel, part_of(tag, grid), adding=adding)
            return
        echo = None
        if tag is not None and grid is not None:
            table = self._session.reckoning(board).table_of(panel)
            echo = echoed(self._session.board_state.echo, panel_id, table, part_of(tag, grid), adding=adding)
        self.show(echo)

    def _slice_on(self, panel: Panel, part: Part, *, adding: bool) -> None:
        """A click on a mark of a panel that slices: an edit, as any slicer's."""
        board = self._board()
        reckoning = self._session.reckoning(board)
        try:
            folio, next_id = taken_id(self._session.folio, "l")
            headings = headings_picked(reckoning.phrases[kind_of(panel).uses(panel).summary][1])
            after = sliced_on(board, panel.id, reckoning.table_of(panel), headings, part, next_id, adding=adding)
        except Refusal as refusal:
            self._session.refuse(refusal)
            return
        self._session.edit(with_board(folio, after), f"Slice on {panel.title or 'a panel'}")

    def show(self, echo: Echo | None) -> None:
        """Let the panels answer with a part of themselves, or (None) with all of it again."""
        state = self._session.board_state
        if echo != state.echo:
            self._session.board_state = replace(state, echo=echo)
            self._redraw()

    def say(self, in_play: dict[str, int]) -> None:
        """What echoes, in the status line. `in_play`: rows that the slicers let through, of each table."""
        echo, status = self._session.board_state.echo, self._status
        assert echo is not None
        whole = in_play.get(echo.table, 0)
        share = f", {percent_text(self.rows / whole)} of those in play" if whole else ""
        words = f"{slicer_words(echo)}: {plural(self.rows, 'row')}{share}"
        status.say(words, "S slices by it · Ctrl+click adds · Escape ends it")
        status.clear.setVisible(any(slicer.narrows for slicer in self._board().slicers))

    def slice(self) -> None:
        """What echoes becomes a slicing."""
        state, board = self._session.board_state, self._board()
        if state.echo is None:
            return
        try:
            folio, next_id = taken_id(self._session.folio, "l")
            after = sliced_by(board, state.echo, next_id)
        except Refusal as refusal:
            self._session.refuse(refusal)
            return
        self._session.board_state = replace(state, echo=None)
        self._session.edit(with_board(folio, after), f"Slice: {slicer_words(state.echo)}")
