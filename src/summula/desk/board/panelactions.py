"""What a person does with one panel of the board in view that is no edit: opened, copied, handed out, looked behind."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QPoint, pyqtSignal
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QWidget

from summula.core.boards.panelkinds import kind_of
from summula.desk.widgets.menu import add, passing_menu
from summula.desk.work import QUICK_ROWS, Work

if TYPE_CHECKING:
    from summula.core.boards.board import Board, Panel
    from summula.core.charts.scene import Tag
    from summula.desk.board.panelview import PanelView
    from summula.desk.session import Session


class PanelActions(QObject):
    """Works for the board that `board` gives; `sliced` gives it as it is seen, play among its slicers."""

    handed_out = pyqtSignal(str)  # the panel that is to be handed out alone
    rows_found = pyqtSignal(object, object, list)  # a table, the rows behind a mark, the words that explain it

    def __init__(
        self,
        page: QWidget,
        session: Session,
        board: Callable[[], Board],
        sliced: Callable[[Board], Board],
        panels: Mapping[str, PanelView],
    ) -> None:
        super().__init__(page)
        self._page, self._session, self._panels = page, session, panels
        self._board, self._sliced = board, sliced
        self.work = Work(self)  # beside the board's answer: rows behind a figure

    def in_hand(self) -> str:
        """The panel that the keys are in, or that is selected, or that echoes; empty where there is none."""
        window, state = self._page.window(), self._session.board_state
        focused = window.focusWidget() if window is not None else None
        for key, view in self._panels.items():
            if focused is not None and (view is focused or view.isAncestorOf(focused)):
                return key
        if state.arranging and state.selection:
            return state.selection[0]
        return state.echo.panel if state.echo is not None and state.echo.panel in self._panels else ""

    def open(self, panel_id: str) -> None:
        """Turn to the summary that a panel shows, if it shows one."""
        summary = _summary_of(self._board().panel(panel_id))
        if summary:
            self._session.turn_to(summary)

    def copy(self, panel_id: str = "") -> None:
        """Put a panel on the clipboard, as a picture."""
        view, clipboard = self._panels.get(panel_id or self.in_hand()), QGuiApplication.clipboard()
        data = view.as_picture() if view is not None else None
        if view is not None and data is not None and clipboard is not None:
            clipboard.setMimeData(data)
            self._session.notice.emit(f"{view.panel_name} is on the clipboard, as a picture", False)

    def open_menu(self, panel_id: str, place: QPoint) -> None:
        menu = passing_menu(self._page)
        add(menu, "Copy panel", lambda: self.copy(panel_id))
        add(menu, "Export panel …", lambda: self.handed_out.emit(panel_id))
        if _summary_of(self._board().panel(panel_id)):
            add(menu, "Open summary", lambda: self.open(panel_id))
        menu.exec(place)

    def look_behind(self, panel_id: str, tag: Tag) -> None:
        """The rows behind a mark, under the slicers of the moment."""
        board = self._sliced(self._board())
        reckoning, echo = self._session.reckoning(self._board()), self._session.board_state.echo
        panel = next(each for each in board.panels if each.id == panel_id)

        def shown(found: Any) -> None:
            if found is not None and not self._page.isHidden() and self._board().id == board.id:  # else one has gone on
                self.rows_found.emit(*found)

        few = self._session.table(reckoning.table_of(panel)).rows <= QUICK_ROWS
        self.work.ask(lambda: reckoning.rows_behind(board, panel, tag, echo), shown, self._session.refuse, soon=few)


def _summary_of(panel: Panel | None) -> str:
    return kind_of(panel).uses(panel).summary if panel is not None else ""
