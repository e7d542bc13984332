"""Presenting a board: the whole screen, no chrome, a pointer that fades."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from summula.core.boards.boardstate import BoardState

if TYPE_CHECKING:
    from summula.desk.window import Window

_FADES = 2_000  # ms after the pointer was moved last


class Presenting(QObject):
    """Turns a window into a screen that shows boards, and back into what it was."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window = window
        self._was_full = False
        self._hidden: list[object] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_FADES)
        self._timer.timeout.connect(self._fade)

    def begin(self) -> None:
        window = self._window
        self._was_full = window.isFullScreen()
        chrome = (window.header, window.contents, window.status, window.news, window.margin)
        shown = [each for each in chrome if each.isVisible()]
        window.session.set_board_state(BoardState(presenting=True))
        self._hidden = list(shown)
        for each in shown:
            each.hide()
        window.showFullScreen()
        application = QApplication.instance()
        if application is not None:
            application.installEventFilter(self)
        self._timer.start()

    def end(self) -> None:
        window = self._window
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self)
        self._timer.stop()
        while QApplication.overrideCursor() is not None:
            QApplication.restoreOverrideCursor()
        for each in (window.header, window.contents, window.status):
            if each in self._hidden:
                each.show()
        if not self._was_full:
            window.showNormal()
        window.session.set_board_state(replace(window.session.board_state, presenting=False))

    def step(self, by: int) -> None:
        """The next board, or the one before."""
        session = self._window.session
        boards = [board.id for board in session.folio.boards]
        if session.page_id in boards and len(boards) > 1:
            session.turn_to(boards[(boards.index(session.page_id) + by) % len(boards)])
            session.board_state = BoardState(presenting=True)

    def _fade(self) -> None:
        if QApplication.overrideCursor() is None:
            QApplication.setOverrideCursor(Qt.CursorShape.BlankCursor)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in (QEvent.Type.MouseMove, QEvent.Type.MouseButtonPress):
            if QApplication.overrideCursor() is not None:
                QApplication.restoreOverrideCursor()
            self._timer.start()
        return False
