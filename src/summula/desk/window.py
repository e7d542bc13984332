"""The window: header, Contents, the page in view, margin, status line."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QMimeData, QPoint, Qt, QTimer
from PyQt6.QtGui import (
    QCloseEvent,
    QDrag,
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QPaintEvent,
    QResizeEvent,
    QShowEvent,
)
from PyQt6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QVBoxLayout,
    QWidget,
)

from summula.core.boards.board import Board
from summula.core.theme.palettes import theme_of
from summula.desk.actions import Actions
from summula.desk.frame.contents import Contents, dragged_field
from summula.desk.frame.header import Header
from summula.desk.frame.margin import Margin
from summula.desk.frame.newsbar import NewsBar
from summula.desk.frame.statusline import StatusLine
from summula.desk.importing import Importing
from summula.desk.keeping import Keeping
from summula.desk.opening import Opening
from summula.desk.pages.pagestack import PageStack
from summula.desk.saving import Saving
from summula.desk.session import Session
from summula.desk.theme import wear
from summula.desk.widgets.lastpopover import LastPopover
from summula.desk.work import Work

if TYPE_CHECKING:
    from summula.core.folio.change import Change
    from summula.core.folio.history import History
    from summula.desk.actions import Action
    from summula.desk.asides import Asides
    from summula.desk.exporting import Exporting
    from summula.desk.filewriting import FileWriting
    from summula.desk.frame.tourbar import TourBar
    from summula.desk.presenting import Presenting
    from summula.desk.widgets.popover import Popover

_LISTENS_AFTER = 50  # to the keys of actions, once painted; until then the window asks for each by itself
_MOST_PROBLEMS = 5  # sentences told at once
CRAMPED = 1080  # pixels of width, below which the contents narrow to numbers


class Window(QMainWindow):
    """One folio on one desk."""

    finder: LastPopover[Popover] = LastPopover()  # what finds anything
    session: Session
    header: Header
    importing: Importing
    saving: Saving
    opening: Opening
    keeping: Keeping
    pages: PageStack

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        self.session = session or Session()
        self.setWindowTitle("Summula")
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.actions_ = Actions(self, self._declared_actions)
        self.header = Header(self.session, self.actions_)
        self.contents = Contents(self.session)
        self.margin = Margin()
        self.status = StatusLine()
        self.news = NewsBar()
        self.reading = Work(self)
        self.pages = PageStack(self.session, self.margin, self.status)
        middle = QHBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self.contents)
        middle.addWidget(self.pages, 1)
        middle.addWidget(self.margin)
        frame = QWidget()
        frame.setObjectName("frame")
        self._column = column = QVBoxLayout(frame)
        self.tour: TourBar | None = None  # made when it is first taken
        self._tour_wanted = False  # once the demo is there
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        column.addWidget(self.news)
        column.addLayout(middle, 1)
        column.addWidget(self.status)
        self.setCentralWidget(frame)
        frame_parts = (self.margin, self.status, self.news)
        self.importing = Importing(
            self,
            self.session,
            self.reading,
            frame_parts,
            self.turn,
            self.refresh,
            lambda path: self.opening.open_path(path),
        )
        self.saving = Saving(self, self.session, self.reading, self.status)
        self.opening = Opening(
            self, self.session, self.reading, self.importing, self.status, lambda: self.may_leave(), self.pages.sight
        )
        self.beside: list[Window] = []  # windows that this one has opened: else nobody holds them
        self.keeping = Keeping(
            self, self.session, self.news, self.opening.read_folio, lambda: self.may_leave(), self._open_beside
        )
        self._attend_pages()
        self.header.finder.clicked.connect(self.find_anything)
        self.contents.field_asked.connect(self.ask_field)
        self.contents.drawn_out.connect(lambda _: self.draw_out())
        self.status.link.connect(lambda: self.actions_.run("clear slicing"))
        self.status.cancelled.connect(self.cancel)
        self.actions_.asleep = lambda: self.session.snapshot is not None
        self._told = ""  # the last sentences on what was set aside
        self._listens = QTimer(self)  # goes with the window
        self._listens.setSingleShot(True)
        self._listens.timeout.connect(self.actions_.listen)
        self.status.attend(self.reading, "reading …")
        self.session.notice.connect(self.status.tell)
        self.session.changed.connect(self._changed)
        self.session.page_changed.connect(self._tour_when_there)
        self.session.page_changed.connect(self._turn)
        self.session.page_changed.connect(self._awake)
        self.session.page_changed.connect(self._tell_problems)
        self.header.refresh()
        self.pages.setFocus()

    def _attend_pages(self) -> None:
        """What pages ask for and others do."""
        self.pages.open_asked.connect(lambda: self.actions_.run("open"))
        self.pages.demo_asked.connect(self.opening.open_demo)
        self.pages.tour_asked.connect(self.begin_tour)
        self.pages.file_chosen.connect(self.opening.open_path)
        self.pages.preview_asked.connect(self.importing.preview_again)
        self.pages.again_asked.connect(self.importing.read_again)
        self.pages.rows_found.connect(lambda table, rows, words: self.asides.show_rows_behind(table, rows, words))
        self.pages.handed_out.connect(lambda panel_id: self.asides.hand_out(panel_id))

    # -- what a window is painted without -----------------------------------------------------------------------

    def _declared_actions(self) -> Iterable[Action]:
        from summula.desk.windowactions import declared

        return declared(self)

    @cached_property
    def writing(self) -> FileWriting:
        from summula.desk.filewriting import FileWriting

        return FileWriting(self, self.session, self.status)

    @cached_property
    def exporting(self) -> Exporting:
        from summula.desk.exporting import Exporting

        return Exporting(self, self.session, self.writing, self._page_size, lambda: self.pages.summary.grid)

    @cached_property
    def asides(self) -> Asides:
        from summula.desk.asides import Asides

        beside = (self.margin, self.status)
        return Asides(self.session, beside, self.writing, self.pages, self.turn, self.refresh, self._page_size)

    # -- finding and turning ---------------------------------------------------------------------------

    def turn(self, page: QWidget) -> None:
        """Show a page that is none of the folio's, with the margin beside it."""
        self.pages.turn(page)
        self.header.aside = True
        self.header.refresh()
        self.status.clear.hide()
        self.margin.setVisible(True)

    def may_leave(self) -> bool:
        """Whether the present folio may be left; asks when it has changes that are not saved."""
        return self.saving.may_leave()

    def present(self, on: bool) -> None:
        """Boards on the whole screen, or the window again."""
        if on != self.session.board_state.presenting:
            self.presenting.begin() if on else self.presenting.end()

    def step_board(self, step: int) -> None:
        self.presenting.step(step)

    def read_board(self) -> None:
        """What Escape does on a board: one thing after the other comes to its end."""
        state = self.session.board_state
        if state.presenting and state.echo is None and state.play is None:
            self.present(False)
        else:
            self.pages.board.read()

    @cached_property
    def presenting(self) -> Presenting:
        from summula.desk.presenting import Presenting

        return Presenting(self)

    def step_page(self, step: int) -> None:
        pages = [page.id for _, page in self.session.folio.pages()]
        at = pages.index(self.session.page_id)
        self.session.turn_to(pages[(at + step) % len(pages)])

    def _tell_problems(self) -> None:
        """What was set aside of the folio, and of the page in view, when it was opened."""
        if self._told and self.news.text.text() == self._told:
            self.news.hide()  # it was of another page
        problems = [*self.session.problems.pop("", []), *self.session.problems.get(self.session.page_id, [])]
        if problems:
            shown = problems[:_MOST_PROBLEMS]
            more = len(problems) - len(shown)
            self._told = "\n".join([*shown, *([f"… and {more} more."] if more else [])])
            self.news.tell(self._told)

    def begin_tour(self) -> None:
        """The tour of the demo, which is opened where it is not."""
        from summula.desk.frame.tourbar import STOPS, TourBar

        if self.tour is None:
            self.tour = TourBar(self.session.turn_to)
            self._column.insertWidget(2, self.tour)
        known = {page.id for _, page in self.session.folio.pages()}
        if {stop.page for stop in STOPS} <= known:
            self.tour.show_stop(0)
        else:
            self._tour_wanted = True
            self.opening.open_demo()

    def _tour_when_there(self) -> None:
        if self._tour_wanted and self.session.snapshot is None and self.session.folio.tables:
            self._tour_wanted = False
            QTimer.singleShot(0, self.begin_tour)

    def find_anything(self) -> None:
        from summula.desk.finding.finder import open_finder

        place = self.header.finder.mapToGlobal(QPoint(-50, self.header.finder.height() + 3))
        self.finder = open_finder(self, place)

    def find_field(self, table_id: str, name: str) -> None:
        """Turn to a field's table with it selected."""
        self.session.turn_to(table_id)
        self.pages.table.choose_field(name)

    def ask_field(self, name: str) -> None:
        """A field of the list was asked about: it joins the summary in view, or begins one."""
        page = self.session.page()
        if page is not None and page[0] == "summary":
            self.pages.summary.add_field(name)
        elif page is not None and page[0] == "table":
            self.pages.table.choose_field(name)

    def cancel(self) -> None:
        self.importing.cancel()
        if self.session.snapshot is not None:
            self.session.show_snapshot(None)
        self.writing.work.cancel()
        self.pages.cancel()
        self.session.notice.emit("Cancelled", False)

    def _open_beside(self) -> Keeping:
        """Another window, as large as this one, with nothing open yet."""
        beside = Window()
        self.beside.append(beside)
        beside.resize(self.size())
        beside.show()
        return beside.keeping

    def go_to(self, history: History) -> None:
        """Undo or redo: at once, or when tables of many rows have been prepared as they were then."""
        prepare = self.session.preparing_for(history)
        if prepare is None:
            self.session.go_to(history)
        else:
            self.status.begin("preparing the table as it was …")
            self.reading.ask(prepare, lambda go: go(), self.session.refuse)

    # -- events ------------------------------------------------------------------------------------------------

    def _awake(self) -> None:
        """What is only seen cannot be used (but cancelled, in the status line); it can once its rows are there."""
        awake = self.session.snapshot is None
        if self.pages.isEnabled() == awake:
            return
        for part in (self.header, self.news, self.contents, self.pages, self.margin):
            part.setEnabled(awake)
        if awake:
            self.pages.focus()

    def showEvent(self, event: QShowEvent | None) -> None:
        if not self.pages.count():  # nothing was opened before
            self.refresh()
        super().showEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self.actions_.heard and not self._listens.isActive():
            self._listens.start(_LISTENS_AFTER)
        self.opening.painted()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.contents.cramp(self.width() < CRAMPED)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None and not self.may_leave():
            event.ignore()
        else:
            self.keeping.end()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.actions_.run_late(event):
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        mime = event.mimeData() if event is not None and self.session.snapshot is None else None
        if event is not None and mime is not None and (mime.hasUrls() or _holds_cells(mime)):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """A file is opened; cells become a table of their own, with a preview first."""
        mime = event.mimeData() if event is not None and self.session.snapshot is None else None
        if event is None or mime is None:
            return
        event.acceptProposedAction()
        paths = [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()]
        if paths:
            self.opening.open_paths(paths)
            return
        if _holds_cells(mime):
            self.importing.take_cells(mime.text())

    # -- handing out -----------------------------------------------------------------------------------

    def _page_size(self) -> tuple[float, float]:
        """The size of the page in view, without the frame."""
        return float(self.pages.width()), float(self.pages.height())

    def draw_out(self) -> None:
        """The summary in view, dragged into another program: as cells, or as the picture of its chart."""
        page = self.session.page()
        if page is None or page[0] != "summary":
            return
        data = self.pages.summary.as_mime()
        if data is not None:
            drag = QDrag(self)
            drag.setMimeData(data)
            drag.exec(Qt.DropAction.CopyAction)

    # -- showing ---------------------------------------------------------------------------------------

    def _turn(self) -> None:
        """Another page is in view: show it, and let the keys go to it."""
        self.refresh()
        self.pages.focus()

    def _changed(self, change: Change) -> None:
        """The folio has become another: show the page in view anew where that concerns it."""
        page = self.session.page()
        if self.header.aside or change.concerns(None if page is None else page[1]):
            self.refresh()
            return
        self._close_passing()
        self.setWindowTitle(f"{self.session.folio.name} · Summula")

    def _close_passing(self) -> None:
        if (popup := QApplication.activePopupWidget()) is None:
            return
        from summula.desk.widgets.popover import Popover

        if isinstance(popup, Popover) and not popup.stays:  # it is about a folio that has just become another
            popup.close()

    def _show_contents(self, shown: bool) -> None:
        """What is in the folio, at the left; the page beside has its room at once, before it is shown."""
        if self.contents.isHidden() != shown:
            return
        self.contents.setVisible(shown)
        frame = self.centralWidget()
        layout = frame.layout() if frame is not None else None
        if layout is not None:
            layout.activate()

    def refresh(self) -> None:
        """Show the page in view of the present folio."""
        self._close_passing()
        wear(theme_of(self.session.folio.palette))
        page = self.session.page()
        value = page[1] if page is not None else None
        self.setWindowTitle(f"{self.session.folio.name} · Summula")
        if self.header.aside:
            self.header.aside = False
            self.header.refresh()
        self.margin.setVisible(
            page is not None and (not isinstance(value, Board) or self.session.board_state.arranging)
        )
        if not isinstance(value, Board):
            self.status.clear.hide()
        self._show_contents(value is not None)
        self.pages.show_page(value)


def _holds_cells(mime: QMimeData) -> bool:
    """Whether what is dragged is a block of cells: text in several columns or lines, and no field of ours."""
    return mime.hasText() and dragged_field(mime) is None and any(sign in mime.text() for sign in "\t\n")
