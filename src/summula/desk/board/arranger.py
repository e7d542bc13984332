"""Arranging a board: panels selected, moved, resized, aligned, copied, by mouse and by keys."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QObject, QRect
from PyQt6.QtWidgets import QApplication

from summula.core.boards.arrangement import (
    Edge,
    aligned,
    chosen_panels,
    distributed,
    equalised,
    grown,
    locked,
    moved,
    ordered,
    with_places,
    without_panels,
)
from summula.core.fields.figures import plural
from summula.core.folio.carrying import MIME, carried, from_bytes, pasted, to_bytes
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.boards.board import Board, Place
    from summula.desk.board.canvas import Canvas
    from summula.desk.board.panelview import PanelView
    from summula.desk.session import Session

EDGES: tuple[tuple[Edge, str], ...] = (
    ("left", "left edges"), ("centre", "middles across"), ("right", "right edges"),
    ("top", "top edges"), ("middle", "middles down"), ("bottom", "bottom edges"),
)  # fmt: skip


class Arranger(QObject):
    """Works on the board in view; `refresh` shows what is selected anew."""

    def __init__(
        self,
        session: Session,
        canvas: Canvas,
        panels: Mapping[str, PanelView],
        board: Callable[[], Board],
        refresh: Callable[[], None],
    ) -> None:
        super().__init__()
        self.session, self.canvas, self._board, self._refresh = session, canvas, board, refresh
        self.panels = panels
        canvas.drawn_over.connect(self._rubber)

    @property
    def selection(self) -> tuple[str, ...]:
        """The panels that are selected, those that are still there."""
        return tuple(each for each in self.session.board_state.selection if each in self.panels)

    @property
    def arranging(self) -> bool:
        return self.session.board_state.arranging

    def select(self, ids: tuple[str, ...]) -> None:
        if ids == self.session.board_state.selection:
            return
        self.session.board_state = replace(self.session.board_state, selection=ids)
        for view in self.panels.values():
            view.selected = view.panel.id in ids
            view.update()
        self._refresh()

    def pick(self, panel_id: str, adding: bool) -> None:
        now = self.selection
        if not adding:
            if panel_id not in now:  # one of several that are selected moves all of them
                self.select((panel_id,))
        elif panel_id in now:
            self.select(tuple(each for each in now if each != panel_id))
        else:
            self.select((*now, panel_id))
        if panel_id in self.panels:
            self.panels[panel_id].setFocus()

    def select_all(self) -> None:
        self.select(tuple(panel.id for panel in self._board().panels))

    def _rubber(self, area: QRect, adding: bool) -> None:
        """All panels that the rubber band meets; a click on nothing selects none."""
        met = tuple(key for key, view in self.panels.items() if area.intersects(view.geometry()))
        met = () if area.width() < 4 and area.height() < 4 else met
        self.select((*self.selection, *(each for each in met if each not in self.selection)) if adding else met)

    # -- places ----------------------------------------------------------------------------------------

    def _edit(self, after: Board, words: str) -> None:
        if after != self._board():
            self.session.set_board(after, words)

    def _named(self, words: str) -> str:
        board, ids = self._board(), self.selection
        if len(ids) == 1:
            return f"{words} {board.panel(ids[0]).title}".strip()
        return f"{words} {plural(len(ids), 'panel')}"

    def dragged(self, panel_id: str, area: QRect) -> None:
        """While a panel is dragged: the others of the selection go with it, and guides show what it lines up with."""
        board = self._board()
        place = self.canvas.place(area)
        own = board.panel(panel_id).place
        for key in self.selection:
            if key != panel_id and not board.panel(key).locked:
                before = self.canvas.area(board.panel(key).place)
                gone = area.topLeft() - self.canvas.area(own).topLeft()
                self.panels[key].move(before.topLeft() + gone)
        others = [panel.place for panel in board.panels if panel.id not in (*self.selection, panel_id)]
        self.canvas.show_guides(place, others)

    def dropped(self, panel_id: str, area: QRect) -> None:
        self.canvas.show_guides(None, [])
        board = self._board()
        before = board.panel(panel_id).place
        place = self.canvas.place(area)
        if area.size() == self.canvas.area(before).size():  # moved, not resized: its size is not guessed anew
            ids = self.selection if panel_id in self.selection else (panel_id,)
            after = moved(board, ids, place.column - before.column, place.row - before.row)
        else:
            after = with_places(board, {panel_id: place})
        if after == board:
            for key, view in self.panels.items():
                view.setGeometry(self.canvas.area(board.panel(key).place))
        else:
            self._edit(
                after, self._named("Move") if panel_id in self.selection else f"Move {board.panel(panel_id).title}"
            )

    def keyed(self, panel_id: str, columns: int, rows: int, wider: int, taller: int) -> None:
        ids = self.selection or (panel_id,)
        if wider or taller:
            self._edit(grown(self._board(), ids, wider, taller), self._named("Resize"))
        else:
            self._edit(moved(self._board(), ids, columns, rows), self._named("Move"))

    def place_exactly(self, panel_id: str, place: Place) -> None:
        self._edit(with_places(self._board(), {panel_id: place}), self._named("Place"))

    def align(self, edge: Edge) -> None:
        self._edit(aligned(self._board(), self.selection, edge), f"Align {dict(EDGES)[edge]}")

    def equalise(self, *, width: bool, height: bool) -> None:
        words = "Same size" if width and height else "Same width" if width else "Same height"
        self._edit(equalised(self._board(), self.selection, width=width, height=height), words)

    def distribute(self, *, down: bool) -> None:
        self._edit(distributed(self._board(), self.selection, down=down), "Equal gaps")

    def order(self, *, behind: bool) -> None:
        self._edit(ordered(self._board(), self.selection, behind=behind), self._named("Behind" if behind else "Before"))

    def lock(self) -> None:
        board, ids = self._board(), self.selection
        lock = not all(board.panel(each).locked for each in ids)
        self._edit(locked(board, ids, lock=lock), self._named("Lock" if lock else "Unlock"))

    def remove(self) -> None:
        ids = self.selection
        words = self._named("Take")
        self._edit(without_panels(self._board(), ids), f"{words} away")

    # -- copies ----------------------------------------------------------------------------------------

    def copy(self) -> None:
        board, ids = self._board(), self.selection
        panels = tuple(panel for panel in board.panels if panel.id in ids)
        if not panels:
            return
        data = QMimeData()
        data.setData(MIME, to_bytes(carried(self.session.folio, panels)))
        data.setText("\n".join(panel.title for panel in panels))
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setMimeData(data)
        self.session.notice.emit(f"{plural(len(panels), 'panel')} copied", False)

    def cut(self) -> None:
        self.copy()
        self.remove()

    @property
    def can_paste(self) -> bool:
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData() if clipboard is not None else None
        return data is not None and data.hasFormat(MIME)

    def paste(self) -> None:
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData() if clipboard is not None else None
        if data is None or not data.hasFormat(MIME):
            return
        try:
            value = from_bytes(bytes(data.data(MIME).data()))
            folio, ids = pasted(self.session.folio, self._board().id, value)
        except Refusal as refusal:
            self.session.refuse(refusal)
            return
        self.session.board_state = replace(self.session.board_state, selection=ids)
        self.session.edit(folio, f"Paste {plural(len(ids), 'panel')}")

    def duplicate(self) -> None:
        board, ids = self._board(), self.selection
        panels = tuple(panel for panel in board.panels if panel.id in ids)
        if panels:
            folio, new = pasted(self.session.folio, board.id, carried(self.session.folio, panels))
            self.session.board_state = replace(self.session.board_state, selection=new)
            self.session.edit(folio, self._named("Duplicate"))

    @property
    def chosen(self) -> int:
        """How many can be moved."""
        return len(chosen_panels(self._board(), self.selection))
