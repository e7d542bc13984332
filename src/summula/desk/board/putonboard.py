"""Putting a summary on a board: choose one, or begin one."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QWidget

from summula.core.boards.arrangement import free_place, with_panel, with_slicer
from summula.core.boards.board import Board, Place, SummaryPanel
from summula.core.folio.model import Summary, taken_id, with_board
from summula.core.slicing.making import slicer_for
from summula.core.slicing.slicer import PeriodSlicer
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.desk.session import Session

_SIZE = (12, 9)


def open_boards(anchor: QWidget, session: Session, summary: Summary) -> Popover:
    popover = Popover(anchor, "Add to board", 260)
    choices = [Pick(board.name, board.id, f"{len(board.panels)} panels") for board in session.folio.boards]
    choices.append(Pick("New board", "", "starts with this summary"))
    picks = PickList(choices, name="boards", search=False)

    def put(board_id: str) -> None:
        popover.close()
        put_on_board(session, summary, board_id)

    picks.picked.connect(put)
    popover.column.addWidget(picks)
    popover.open_below(anchor)
    picks.focus_in()
    return popover


def put_on_board(session: Session, summary: Summary, board_id: str = "") -> None:
    """One step: the panel in the first free place; a new board also gets the table's own ruler."""
    folio, panel_id = taken_id(session.folio, "p")
    if board_id:
        board = folio.board(board_id)
        place = free_place(board, *_SIZE)
    else:
        folio, new_id = taken_id(folio, "b")
        taken = {each.name for each in folio.boards}
        name = next(n for n in ["New board", *(f"New board {at}" for at in range(2, 999))] if n not in taken)
        board, place = Board(new_id, name), Place(0, 0, *_SIZE)
        dates = [f.name for f in session.table(summary.table).fields if f.kind == "date"]
        if dates:
            folio, slicer_id = taken_id(folio, "l")
            board = with_slicer(board, PeriodSlicer(slicer_id, summary.table, dates[0]))
    board = with_panel(board, SummaryPanel(panel_id, place, summary.id, summary.name))
    session.edit(with_board(folio, board), f"Put {summary.name} on {board.name}")
    session.turn_to(board.id)


def add_slicer(session: Session, board: Board, table_id: str, name: str) -> None:
    """A slicer for a field, of the kind that suits it."""
    folio, slicer_id = taken_id(session.folio, "l")
    slicer = slicer_for(session.table(table_id), table_id, name, slicer_id)
    session.edit(with_board(folio, with_slicer(board, slicer)), f"Slice by {name}")
