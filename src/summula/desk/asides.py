"""Pages beside the folio's own: the rows behind a figure, what is handed out with its preview, the manual."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QStackedWidget, QWidget

from summula.core.boards.board import Board

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from summula.core.handout.formats import Format
    from summula.core.tables.table import Table
    from summula.desk.filewriting import FileWriting
    from summula.desk.frame.margin import Margin
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.pages.handoutpage import HandOutPage
    from summula.desk.pages.manualpage import ManualPages
    from summula.desk.pages.rowsbehindpage import RowsBehindPage
    from summula.desk.session import Session


class Asides:
    """Works for one window. `turn` shows one of them, `back` the page of the folio again; `size` is that of a page.
    Each is made when it is asked for."""

    def __init__(
        self,
        session: Session,
        frame: tuple[Margin, StatusLine],
        writing: FileWriting,
        pages: QStackedWidget,
        turn: Callable[[QWidget], None],
        back: Callable[[], None],
        size: Callable[[], tuple[float, float]],
    ) -> None:
        self.session, self.writing, self.pages = session, writing, pages
        self.margin, self.status = frame
        self._turn, self._back, self._size = turn, back, size

    @cached_property
    def rows_behind(self) -> RowsBehindPage:
        from summula.desk.pages.rowsbehindpage import RowsBehindPage

        page = RowsBehindPage(self.session, self.margin, self.status, self.writing)
        page.left.connect(self._back)
        self.session.adopted.connect(page.let_go)
        return page

    def show_rows_behind(self, table: Table, rows: NDArray[np.int64], words: list[str]) -> None:
        """The rows behind a figure, until one goes back or turns the page."""
        self._turn(self.rows_behind)
        self.rows_behind.show_rows(table, rows, words)

    @cached_property
    def handing_out(self) -> HandOutPage:
        from summula.desk.pages.handoutpage import HandOutPage

        page = HandOutPage(self.session, self.margin, self.status, self.writing)
        page.left.connect(self._back)
        self.session.adopted.connect(page.let_go)
        return page

    def hand_out(self, panel_id: str = "", way: Format | None = None) -> None:
        """Show how the page in view (or a panel of it) will be handed out, until one goes back."""
        from summula.core.handout.boardcontent import panel_alone
        from summula.desk.pages.handoutpage import Subject

        page = self.session.page()
        if page is None:
            return
        size = self._size()
        board = self.session.page_of(Board) if panel_id else None
        subject = Subject(page[1]) if board is None else Subject(panel_alone(board, panel_id), "This panel")
        self._turn(self.handing_out)
        self.handing_out.show_subject(subject, size, way)

    @cached_property
    def manual(self) -> ManualPages:
        from summula.desk.pages.manualpage import ManualPages

        page = ManualPages()
        page.left.connect(self._back)
        return page

    def open_manual_at(self, file: str, heading: str) -> None:
        """The manual, at a heading of a page."""
        if self.pages.currentWidget() is not self.__dict__.get("manual"):
            self._turn(self.manual)
            self.margin.setVisible(False)
        self.manual.open_at(file, heading)

    def open_manual(self, *, aside: bool) -> None:
        """The manual, at the page about what is in view (`aside`: one of these, or a file's preview); again, and it
        goes."""
        shown, made = self.pages.currentWidget(), self.__dict__
        if shown is made.get("manual"):
            self._back()
            return
        page = self.session.page()
        kind = page[0] if page is not None else ""
        if aside:
            kinds = {"handing_out": "hand out", "rows_behind": "rows behind"}
            kind = next((kind for name, kind in kinds.items() if made.get(name) is shown), "preview")
        self._turn(self.manual)
        self.margin.setVisible(False)
        self.manual.open_about(kind)
