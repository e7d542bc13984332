"""Beginning a board: whole ones, empty layouts, fields let fall on it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QPoint, QRect, QSize

from summula.core.boards.arrangement import free_place
from summula.core.boards.board import COLUMNS, Board, Place
from summula.core.boards.boardstate import BoardState
from summula.core.boards.panelkinds import kind_of
from summula.core.folio.offering import SLOT, BoardOffer, with_field_panel, with_layout, with_offer
from summula.core.phrases.editing import Clause, with_field
from summula.core.refusal import Refusal
from summula.core.tables.field import MEASURED

if TYPE_CHECKING:
    from summula.desk.board.canvas import Canvas
    from summula.desk.board.panelview import PanelView
    from summula.desk.session import Session


class Beginner(QObject):
    """Works on the board in view."""

    def __init__(
        self, session: Session, canvas: Canvas, panels: Mapping[str, PanelView], board: Callable[[], Board]
    ) -> None:
        super().__init__()
        self.session, self.canvas, self.panels, self._board = session, canvas, panels, board

    def take_offer(self, offer: BoardOffer) -> None:
        table_id = self.session.default_table()
        table = self.session.table(table_id)
        self.session.edit(
            with_offer(self.session.folio, table_id, table, offer, self._board()), f"Start with {offer.name}"
        )

    def take_layout(self, name: str) -> None:
        self.session.board_state = BoardState(arranging=True)
        self.session.edit(with_layout(self.session.folio, self._board(), name), f"Lay out {name}")

    def drop_field(self, name: str, place: QPoint) -> None:
        """A field let fall on the board makes its panel there; on a panel it goes to its rows, columns or figures, by
        where it is let go."""
        board, table_id = self._board(), self.session.default_table()
        table = self.session.table(table_id)
        if not table.has(name):
            return
        under = next((view for view in self.panels.values() if view.geometry().contains(place)), None)
        panel = under.panel if under is not None else None
        shown = kind_of(panel).uses(panel).summary if panel is not None else ""
        if panel is not None and under is not None and shown:
            self._field_onto(panel.title or "the panel", shown, name, place - under.pos(), under.size())
            return
        slot = panel.id if panel is not None and kind_of(panel).behind and panel.title == SLOT else ""
        if slot and panel is not None:
            where = panel.place
        else:
            wide, high = (6, 3) if table.field(name).kind in MEASURED else (12, 8)
            at = self.canvas.place(QRect(place.x(), place.y(), 1, 1))
            where = Place(min(at.column, COLUMNS - wide), at.row, wide, high)
            if any(where.overlaps(each.place) for each in board.panels):
                where = free_place(board, wide, high)
        folio, key = with_field_panel(self.session.folio, board, table_id, table, name, where, slot)
        self.session.board_state = BoardState(arranging=True, selection=(key,))
        self.session.edit(folio, f"Put {name} on {board.name}")

    def _field_onto(self, title: str, summary_id: str, name: str, place: QPoint, size: QSize) -> None:
        summary = self.session.folio.summary(summary_id)
        table = self.session.table(summary.table)
        if not table.has(name):
            self.session.refuse(Refusal(f"'{title}' asks a table without '{name}'", "drop it beside the panel"))
            return
        measured = table.field(name).kind in MEASURED
        clause: Clause = "measures" if measured else "by" if place.x() < size.width() / 2 else "across"
        self.session.set_phrase(summary, with_field(summary.phrase, table, name, clause), f"Put {name} on {title}")
