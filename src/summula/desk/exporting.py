"""Handing out what a page shows, in every format there is."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QFileDialog, QWidget

from summula.core.boards.board import Board
from summula.core.boards.playing import Play, playable
from summula.core.folio.model import Folio, Summary
from summula.core.handout.formats import Figures, Format
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid
    from summula.core.tables.table import Table
    from summula.desk.filewriting import FileWriting
    from summula.desk.session import Session


def _composed(page: Any, folio: Folio, tables: dict[str, Table], way: Format, size: tuple[float, float]) -> Any:
    """A page as it goes out where nothing is said of it: as large as it is seen, or on A4."""
    from summula.core.composition.paper import Paper
    from summula.core.handout.order import Order, composed

    return composed([page], folio, tables, way, Order(size, on=Paper()))


class Exporting:
    """Works for one window; `size` gives the page in view's size, `grid` the answer of the summary in view."""

    def __init__(
        self,
        window: QWidget,
        session: Session,
        writing: FileWriting,
        size: Callable[[], tuple[float, float]],
        grid: Callable[[], Grid | None],
    ) -> None:
        self.window, self.session, self.writing, self.size, self.grid = window, session, writing, size, grid

    def can(self, way: Format) -> bool:
        """Whether the page in view can be handed out so."""
        page = self.session.page()
        if page is None:
            return False
        match way.takes:
            case "page":
                return True
            case "board":
                return page[0] != "table"
            case "figures":
                return page[0] == "summary" and self.grid() is not None

    def export(self, way: Format) -> None:
        """Ask where to, and write it there."""
        content = self._content(way)
        name = self._ask_place(way) if content is not None else ""
        if name and content is not None:
            self.writing.write(name, lambda: way.make(content()))

    def can_step(self) -> bool:
        """Whether the page in view is a board that can be played."""
        board = self.session.page_of(Board)
        return board is not None and self.session.snapshot is None and self._play(board) is not None

    def _play(self, board: Board) -> Play | None:
        held = self.session.board_state.play
        return held if held is not None else playable(board, self.session.reckoning(board).tables)

    def export_steps(self, way: Format) -> None:
        """Ask where to, and write the board there at each step of play, a file each."""
        from summula.core.handout.played import played_pages, step_places

        board = self.session.page_of(Board)
        play = self._play(board) if board is not None else None
        name = self._ask_place(way) if play is not None else ""
        if not name or board is None or play is None:
            return
        folio, size = self.session.folio, self.size()
        tables = {entry.id: self.session.table(entry.id) for entry in folio.tables}
        try:
            places = step_places(Path(name), play.steps)
        except Refusal as refusal:
            self.session.refuse(refusal)
            return

        def pages() -> Iterator[bytes]:
            return (way.make(composition) for _, composition in played_pages(board, folio, tables, size, play))

        self.writing.write_all(places, pages)

    def _content(self, way: Format) -> Callable[[], Any] | None:
        """What the format is made of, worked out where it is made."""
        page = self.session.page()
        if page is None:
            return None
        folio, grid = self.session.folio, self.grid()
        if way.takes == "page":
            tables = {entry.id: self.session.table(entry.id) for entry in folio.tables}
            return partial(_composed, page[1], folio, tables, way, self.size())
        if way.takes == "board":
            return partial(self._board_content, page[1], folio, self.size())
        summary = self.session.page_of(Summary)
        if grid is None or summary is None:
            return None
        from summula.core.phrases.printing import print_phrase

        figures = Figures(grid, summary.name, print_phrase(summary.phrase), folio.look_of(summary))
        return lambda: figures

    def _board_content(self, page: Any, folio: Folio, size: tuple[float, float]) -> Any:
        from summula.core.handout.boardcontent import BoardContent, as_board, usual_live
        from summula.desk.pictures import scene_png

        tables = {entry.id: self.session.table(entry.id) for entry in folio.tables}
        live = usual_live(page) if isinstance(page, Board) else ()
        picture = partial(scene_png, palette=folio.palette)
        return BoardContent(as_board(page), folio, tables, size, live, picture=picture, watch=self.writing.work.stepped)

    def _ask_place(self, way: Format) -> str:
        page = self.session.page()
        suggested = str(page[1].name).replace("/", "-") if page is not None else "page"
        name, _ = QFileDialog.getSaveFileName(
            self.window, way.words, f"{suggested}.{way.suffix}", f"{way.name} (*.{way.suffix})"
        )
        return name
