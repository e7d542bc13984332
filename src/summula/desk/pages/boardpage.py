"""The board page: slicers at the left, the period ruler on top, panels on their grid."""

from __future__ import annotations

import time
from functools import cached_property
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QImage, QKeyEvent, QKeySequence, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from summula.core.boards.boardstate import BoardState
from summula.core.boards.panelkinds import kind_of
from summula.core.fields.figures import plural
from summula.core.folio.snapshot import Snapshot, bare
from summula.core.slicing.slicerkinds import slicer_words
from summula.desk.board.arranger import Arranger
from summula.desk.board.boardecho import BoardEcho
from summula.desk.board.boardface import BoardFace, Faces, made_of
from summula.desk.board.boardplay import BoardPlay
from summula.desk.board.boardslicing import BoardSlicing
from summula.desk.board.canvas import Canvas
from summula.desk.board.panelactions import PanelActions
from summula.desk.widgets.veil import Veil
from summula.desk.work import QUICK_ROWS, Work

if TYPE_CHECKING:
    from summula.core.boards.board import Board, Panel
    from summula.core.boards.panelanswer import PanelAnswer
    from summula.core.refusal import Refusal
    from summula.core.slicing.slicer import Holding, Slicer
    from summula.core.tables.field import Field
    from summula.desk.board.beginner import Beginner
    from summula.desk.board.boardoffers import BoardOffers
    from summula.desk.board.panelview import PanelView
    from summula.desk.board.playbar import PlayBar
    from summula.desk.frame.margin import Margin
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.session import Session

RAIL = 200

_FEW_STEPS = 60  # of play, which are answered at once: more go to a worker


class BoardPage(QWidget):
    """Listens to the board in view. Reading is safe: nothing moves unless arranging."""

    def __init__(self, session: Session, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.session, self.margin, self.status = session, margin, status
        self.setObjectName("page")
        self.board: Board | None = None
        self._shown: Board | None = None  # the board that the figures answer
        self._held: dict[str, list[Holding]] = {}
        self.panels: dict[str, PanelView] = {}
        self.slicers: dict[str, Any] = {}  # their views (see `slicerviews.py`)
        self._faces = Faces(self._build)
        self.work = Work(self)
        self.work.busy.connect(self._busy)
        status.attend(self.work, "folding the rows …")
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 12, 0, 0)
        row.setSpacing(20)
        self.rails = QStackedWidget()
        self.rails.setFixedWidth(RAIL)
        row.addWidget(self.rails)
        self._right = right = QVBoxLayout()
        right.setSpacing(10)
        right.setContentsMargins(0, 2, 18, 0)
        self.strip = QVBoxLayout()
        self.strip.setSpacing(6)
        right.addLayout(self.strip)
        self.canvas = Canvas()
        self.area = QScrollArea()
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what it holds is reached
        self.area.setWidget(self.canvas)
        self.veil = Veil(self.area)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        viewport = self.area.viewport()
        assert viewport is not None
        viewport.installEventFilter(self)
        right.addWidget(self.area, 1)
        row.addLayout(right, 1)
        self.canvas.let_fall.connect(lambda name, place: self.beginner.drop_field(name, place))
        self.arranger = Arranger(session, self.canvas, self.panels, self.shown_board, self._show_margin)
        self.echoing, self.playing = (
            BoardEcho(session, self.shown_board, self.panels, status, self._redraw),
            BoardPlay(session, self.shown_board, lambda: self.play_bar, self._redraw),
        )
        self.slicing = BoardSlicing(self, session, self.shown_board)
        self.acting = PanelActions(self, session, self.shown_board, self.playing.sliced, self.panels)
        status.attend(self.acting.work, "calculating …")
        self.canvas.clicked.connect(lambda: self.echoing.show(None))

    @cached_property
    def play_bar(self) -> PlayBar:
        """Below what lies on top: made when a board is played first."""
        from summula.desk.board.playbar import PlayBar

        bar = PlayBar()
        bar.moved.connect(lambda play: self.playing.show(play))
        self._right.insertWidget(1, bar)
        return bar

    @cached_property
    def beginner(self) -> Beginner:
        from summula.desk.board.beginner import Beginner

        return Beginner(self.session, self.canvas, self.panels, self.shown_board)

    @cached_property
    def offers(self) -> BoardOffers:
        """What stands on a board without panels."""
        from summula.desk.board.boardoffers import BoardOffers

        offers = BoardOffers(self.beginner.take_offer, self.beginner.take_layout)
        offers.setParent(self.canvas)
        return offers

    @property
    def state(self) -> BoardState:
        return self.session.board_state

    def shown_board(self) -> Board:
        assert self.board is not None
        return self.board

    def _redraw(self) -> None:
        """The board as the session's state says it is seen now."""
        self.show_board(self.shown_board())

    # -- showing ---------------------------------------------------------------------------------------

    def show_board(self, board: Board) -> None:
        self.board = board
        self._turn_to(board)
        if self.session.snapshot is not None:
            self._show_snapshot(board, self.session.snapshot)
            return
        started = time.perf_counter()
        reckoning, echo = self.session.reckoning(board), self.state.echo
        sliced, play = self.playing.sliced(board), self.state.play

        def work_out() -> dict[str, Any]:
            answers = {panel.id: reckoning.panel(sliced, panel, echo) for panel in board.panels}
            if play is not None and echo is None:
                answers = {panel.id: reckoning.played(board, panel, play, answers[panel.id]) for panel in board.panels}
            held = {slicer.id: reckoning.held(sliced, slicer) for slicer in board.slicers}
            tables = list(dict.fromkeys(slicer.table for slicer in sliced.slicers))
            in_play = {table: reckoning.rows_in_play(sliced, table) for table in tables if table in reckoning.tables}
            echoing = reckoning.rows_in_play(sliced, echo.table, echo) if echo is not None else 0
            return {"answers": answers, "held": held, "in play": in_play, "echoing": echoing}

        asking = True

        def done(found: dict[str, Any]) -> None:
            if self.isHidden() and not asking:  # another page is in view by now, with a status of its own
                return
            self._shown = board
            self._show(found["answers"], found["held"], found["in play"])
            self.echoing.rows = found["echoing"]
            self._say_status(found["in play"], time.perf_counter() - started)

        soon = self._is_quick(sliced) and (play is None or len(play.steps) <= _FEW_STEPS)
        self.work.ask(work_out, done, self._refused, soon=soon)
        asking = False

    def _show_snapshot(self, board: Board, seen: Snapshot) -> None:
        self.work.cancel()
        self._shown = None
        self._lay_out()
        for panel in board.panels:
            self.panels[panel.id].show_snapshot(panel, seen.scenes.get(panel.id))
        self._show_slicers(board, seen.held, arranging=False)
        self.status.say(seen.words, "reading the rows …")

    def snapshot(self) -> Snapshot | None:
        """The board as it is painted now; None where it is not (or not yet) what is asked, or is being arranged."""
        if self._shown is None or self._shown is not self.board or self.state.arranging or self.session.snapshot:
            return None
        scenes = {key: bare(view.view.scene) for key, view in self.panels.items() if view.view.scene is not None}
        return Snapshot.of(self.session.folio, self._shown, scenes, self._held, self.status.account.text())

    def _busy(self, busy: bool) -> None:
        same = self.board is not None and self._shown is not None and self._shown.id == self.board.id
        if busy and not same:  # what it showed when it was in view last is not told again for new
            for view in self.panels.values():
                view.clear()
        self.veil.lay(busy and same)

    def cancel(self) -> None:
        """Stop working out the figures, and go back to the board whose figures are shown."""
        self.acting.work.cancel()
        if not self.work.waits:
            return
        self.work.cancel()
        now, shown = self.board, self._shown
        if now is not None and shown is not None and shown.id == now.id and shown != now:
            self.session.set_board(shown, "cancel")

    def _is_quick(self, board: Board) -> bool:
        """Whether an answer takes well under 50 ms: few rows, or rows folded already and figures that add up."""
        reckoning = self.session.reckoning(board)
        tables = [
            t
            for t in {s.table for s in board.slicers} | {entry.id for entry in self.session.folio.tables}
            if t in reckoning.tables
        ]
        if all(reckoning.tables[t].rows <= QUICK_ROWS for t in tables):
            return True
        return reckoning.is_folded(board)

    def _refused(self, refusal: Refusal) -> None:
        self.session.refuse(refusal)

    def _turn_to(self, board: Board) -> None:
        boards = {each.id for each in self.session.folio.boards}
        if self._faces.turn_to(board, made_of(board, self._fields_of), boards) and self._faces.now is not None:
            self.slicers = self._faces.now.slicers
            self.panels.clear()
            self.panels.update(self._faces.now.panels)

    def _build(self, board: Board) -> BoardFace:
        face = BoardFace(board, self.rails, self.strip, self.canvas, self._fields_of, self._live)
        for widget in face.slicers.values():
            widget.chosen.connect(self.slicing.choose)
            widget.removed.connect(self.slicing.remove)
            widget.restyled.connect(self.slicing.restyle)
            widget.refused.connect(self.session.refuse)
        face.add_slicer.clicked.connect(lambda: self.slicing.open_new(face.add_slicer))
        face.slicings.clicked.connect(lambda: self.slicing.open_kept(face.slicings))
        for panel, view in face.panels.items():
            view.moved.connect(self.arranger.dropped)
            view.dragged.connect(self.arranger.dragged)
            view.keyed.connect(self.arranger.keyed)
            view.removed.connect(lambda _: self.arranger.remove())
            view.picked.connect(self.arranger.pick)
            view.opened.connect(self.acting.open)
            view.menu_asked.connect(self.acting.open_menu)
            view.view.asked.connect(lambda tag, panel=panel: self.acting.look_behind(panel, tag))
            view.view.clicked.connect(lambda tag, adding, panel=panel: self.echoing.pick(panel, tag, adding=adding))
        return face

    def let_go(self) -> None:
        """Hold nothing of a folio that has gone, but for the face in view: it may serve the next."""
        self._faces.let_go()
        for view in self.panels.values():
            view.clear()
        self._shown = None

    def _live(self, panel: Panel) -> QWidget | None:
        """What is moved by hand on a panel, beside slicers."""
        if not kind_of(panel).by_hand:
            return None
        from summula.desk.board.paneleditors import EDITORS

        return EDITORS[type(panel)].live(self.session, panel)

    def _fields_of(self, slicer: Slicer) -> tuple[Field, ...]:
        """The fields of a slicer's table, known before its rows are read."""
        return next((each.fields for each in self.session.folio.tables if each.id == slicer.table), ())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.matches(QKeySequence.StandardKey.Copy) and not self.state.arranging:
            self.acting.copy()
        else:
            super().keyPressEvent(event)

    def _show(self, answers: dict[str, PanelAnswer], held: dict[str, list[Holding]], in_play: dict[str, int]) -> None:
        board, arranging = self.shown_board(), self.state.arranging
        self.canvas.arranging = arranging
        self._lay_out()
        for panel in board.panels:
            view = self.panels.get(panel.id)
            if view is not None and panel.id in answers:
                answer = answers[panel.id]
                view.frames = board.frames
                view.show_panel(panel, answer, arranging=arranging, selected=panel.id in self.state.selection)
                follow = getattr(view.live, "follow", None)
                if follow is not None:
                    follow(self.session)
        self._held = held
        self._show_slicers(board, held, arranging=arranging)
        if not board.panels and self.session.folio.tables:
            table_id = self.session.default_table()
            self.offers.show_offers(self.session.folio, table_id, self.session.table(table_id))
            self._lay_out()  # the offers say how high they are
        if not board.panels or "offers" in self.__dict__:  # made already
            self.offers.setVisible(not board.panels)
        self.canvas.update()
        self.canvas.underlay = self._underlay(board)
        if self.state.play is not None or "play_bar" in self.__dict__:  # made already
            self.play_bar.show_play(self.state.play)
        if arranging:
            self._show_margin()

    def _show_slicers(self, board: Board, held: dict[str, list[Holding]], *, arranging: bool) -> None:
        for slicer in board.slicers:
            if slicer.id in self.slicers:
                self.slicers[slicer.id].show_slicer(slicer, held.get(slicer.id, []), arranging=arranging)
        face = self._faces.now
        if face is not None:
            face.add_slicer.setVisible(arranging or not board.slicers)
            face.slicings.setVisible(bool(board.slicers) and (arranging or bool(board.slicings)))

    def _lay_out(self) -> None:
        if self.board is None:
            return
        viewport = self.area.viewport()
        assert viewport is not None
        self.canvas.board_rows = self.board.rows
        self.canvas.fit_height = viewport.height() - 14
        self.canvas.resize(viewport.width(), self.canvas.height())
        down = self.canvas.grid.down
        height = round(self.board.rows * down) + (120 if self.state.arranging else 2)
        if not self.board.panels:
            height = max(viewport.height(), self.offers.height_in(viewport.width() - 16) + 8)
            self.offers.setGeometry(8, 4, viewport.width() - 16, height - 8)
        self.canvas.resize(viewport.width(), height)
        for panel in self.board.panels:
            if panel.id in self.panels:
                self.panels[panel.id].setGeometry(self.canvas.area(panel.place))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QResizeEvent):  # of the viewport, as scroll bars come and go
            self._lay_out()
        return super().eventFilter(watched, event)

    def _say_status(self, in_play: dict[str, int], seconds: float) -> None:
        board = self.shown_board()
        if self.state.arranging:
            self.status.say(
                "Arrow keys move · Shift+arrows resize · Delete removes · Escape finishes",
                "",
            )
            self.status.clear.hide()
            return
        if self.state.echo is not None:
            self.echoing.say(in_play)
            return
        counts = [f"{rows:,} of {self.session.folio.table(table).rows:,} rows" for table, rows in in_play.items()]
        stories = [slicer_words(slicer) for slicer in board.slicers if slicer.narrows]
        panels = plural(len(board.panels), "panel")
        taken = f"{panels} redrawn in {seconds * 1000:.0f} ms" if board.panels else ""
        self.status.say(" · ".join([*counts, *stories]), taken)
        self.status.clear.setVisible(bool(stories))

    # -- what may be asked ---------------------------------------------------------------------------------------

    @property
    def has_reach(self) -> bool:
        return self.board is not None and bool(self.board.slicers and self.board.panels)

    @property
    def can_play(self) -> bool:
        return self.board is not None and bool(self.board.panels) and self.playing.found() is not None

    @property
    def is_sliced(self) -> bool:
        return self.board is not None and any(slicer.narrows for slicer in self.board.slicers)

    # -- arranging -------------------------------------------------------------------------------------

    def set_arranging(self, arranging: bool) -> None:
        selection = self.arranger.selection
        if arranging and not selection and self.shown_board().panels:
            selection = (self.shown_board().panels[0].id,)
        self.session.set_board_state(BoardState(arranging, selection))

    def _show_margin(self) -> None:
        from summula.desk.board.arranging import arranging_blocks

        if self.state.arranging:
            self.margin.show_blocks(
                arranging_blocks(self.session, self.shown_board(), self.arranger), self.shown_board().id
            )

    def _underlay(self, board: Board) -> tuple[QImage, float] | None:
        """The sketch under the board, while it is arranged."""
        if board.underlay is None or not self.state.arranging:
            return None
        found = next((each for each in self.session.folio.pictures if each.id == board.underlay.picture), None)
        return None if found is None else (QImage.fromData(found.data), board.underlay.strength)

    def read(self) -> None:
        """Only read: be done arranging, let nothing echo any more, end play."""
        if self.state.arranging:
            self.set_arranging(False)
        elif self.state.echo is not None:
            self.echoing.show(None)
        else:
            self.playing.show(None)
