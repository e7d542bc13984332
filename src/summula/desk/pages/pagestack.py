"""The pages of the folio, one of them in view. Each is made when first turned to: the first one is there soon."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING, TypeVar, assert_never

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QWidget

from summula.core.boards.board import Board
from summula.core.folio.model import Summary, TableEntry

if TYPE_CHECKING:
    from summula.core.folio.snapshot import Snapshot
    from summula.desk.frame.margin import Margin
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.pages.boardpage import BoardPage
    from summula.desk.pages.emptypage import EmptyPage
    from summula.desk.pages.summarypage import SummaryPage
    from summula.desk.pages.tablepage import TablePage
    from summula.desk.session import Session

Page = TypeVar("Page", bound=QWidget)


class PageStack(QStackedWidget):
    """Tables, summaries and boards, and what stands there when nothing is open."""

    open_asked = pyqtSignal()
    demo_asked = pyqtSignal()
    tour_asked = pyqtSignal()
    file_chosen = pyqtSignal(object)  # the path of a folio that was open before
    preview_asked = pyqtSignal(object)  # the entry whose source is to be read otherwise
    again_asked = pyqtSignal()  # the sources of the table in view are to be read again
    rows_found = pyqtSignal(object, object, list)  # a table, the rows behind a figure, the words that explain it
    handed_out = pyqtSignal(str)  # the panel that is to be handed out alone

    def __init__(self, session: Session, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.session, self.margin, self.status = session, margin, status

    @cached_property
    def empty(self) -> EmptyPage:
        from summula.desk.pages.emptypage import EmptyPage

        page = self._added(EmptyPage(self.session))
        page.opened.connect(self.open_asked)
        page.demo.connect(self.demo_asked)
        page.tour.connect(self.tour_asked)
        page.chosen.connect(self.file_chosen)
        return page

    @cached_property
    def table(self) -> TablePage:
        from summula.desk.pages.tablepage import TablePage

        page = self._added(TablePage(self.session, self.margin, self.status))
        self.session.adopted.connect(page.let_go)
        page.preview_asked.connect(self.preview_asked)
        page.again_asked.connect(self.again_asked)
        return page

    @cached_property
    def summary(self) -> SummaryPage:
        from summula.desk.pages.summarypage import SummaryPage

        page = self._added(SummaryPage(self.session, self.margin, self.status))
        self.session.adopted.connect(page.let_go)
        page.rows_found.connect(self.rows_found)
        return page

    @cached_property
    def board(self) -> BoardPage:
        from summula.desk.pages.boardpage import BoardPage

        page = self._added(BoardPage(self.session, self.margin, self.status))
        self.session.adopted.connect(page.let_go)
        page.acting.handed_out.connect(self.handed_out)
        page.acting.rows_found.connect(self.rows_found)
        return page

    def _added(self, page: Page) -> Page:
        self.addWidget(page)
        return page

    def show_page(self, value: TableEntry | Summary | Board | None) -> None:
        """Show what is in view; before it is seen, where that spares laying out twice."""
        match value:
            case TableEntry():
                self.table.show_table(value)
                self.setCurrentWidget(self.table)
            case Summary():
                self.summary.show_summary(value)
                self.setCurrentWidget(self.summary)
            case Board():
                self.setCurrentWidget(self.board)
                self.status.select("")
                self.board.show_board(value)
            case None:
                self.setCurrentWidget(self.empty)
                self.status.say("Nothing is open")
            case _:
                assert_never(value)

    def turn(self, page: QWidget) -> None:
        """Show a page that is none of the folio's."""
        if self.indexOf(page) < 0:
            self.addWidget(page)
        self.setCurrentWidget(page)

    def focus(self) -> None:
        """Let the keys go to the page in view."""
        page = self.currentWidget()
        if page is not None:
            page.setFocus()

    def cancel(self) -> None:
        """Stop what the pages are at."""
        for name in ("table", "summary", "board"):
            if name in self.__dict__:  # made already
                getattr(self, name).cancel()

    def sight(self) -> Snapshot | None:
        """What is seen of the board in view, as it is kept beside the folio; None where there is none."""
        return self.board.snapshot() if "board" in self.__dict__ else None
