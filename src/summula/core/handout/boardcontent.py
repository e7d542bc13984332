"""What the formats that take a whole board are made of: a board of its own, or one made of a summary or a panel."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.boards.board import Board, Place, SummaryPanel
from summula.core.charts.scene import XY, Scene
from summula.core.folio.model import AnyPage, Folio, Summary, TableEntry
from summula.core.handout.pages import reckoning_of
from summula.core.phrases.printing import print_heading
from summula.core.refusal import Refusal, nearest
from summula.core.slicing.slicer import ListSlicer
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from summula.core.boards.reckoning import Reckoning


def unwatched(done: int, of: int) -> None:
    """Nobody waits."""


class BoardContent(msgspec.Struct, frozen=True, eq=False):
    """A board with all that it is answered from, `size` pixels large. `live`: headings whose members its page answers
    to; in `pairs`: to every two of them together. `picture` makes a scene into PNG. `foot`: whether it says where its
    figures come from. `unsliced`: whether it shows what there was before slicing.
    `watch` is told how many parts are done, of how many; it may raise to stop."""

    board: Board
    folio: Folio
    tables: dict[str, Table]
    size: XY
    live: tuple[str, ...] = ()
    pairs: bool = False
    foot: bool = True
    unsliced: bool = False
    picture: Callable[[Scene], bytes] | None = None
    watch: Callable[[int, int], None] = unwatched

    @property
    def tells_all(self) -> bool:
        """Whether nothing is sliced away, or what is may be told."""
        return self.unsliced or not any(slicer.narrows for slicer in self.board.slicers)

    def reckoning(self) -> Reckoning:
        return reckoning_of(self.folio, self.tables, unsliced=self.unsliced)


def as_board(page: AnyPage) -> Board:
    """A summary alone on a board; a board as it is. Refuses a table."""
    match page:
        case Board():
            return page
        case Summary():
            panel = SummaryPanel("handed out", Place(0, 0, 24, 16), page.id, page.name)
            return Board(f"board of {page.id}", page.name, (panel,))
        case TableEntry():
            raise Refusal(f"'{page.name}' is a table", "export a summary, a board, or its rows as CSV")


def usual_live(board: Board) -> tuple[str, ...]:
    """The headings that a page answers to where nothing is said: those of the board's lists that are not long."""
    lists = [each for each in board.slicers if isinstance(each, ListSlicer)]
    home = lists[0].table if lists else ""
    return tuple(print_heading(each.heading) for each in lists if each.table == home)


def panel_alone(board: Board, panel_id: str) -> Board:
    """The board with one of its panels alone, under the same slicers, filling it."""
    panel = board.panel(panel_id)
    place = replace(panel.place, column=0, row=0, width=24, height=16)
    title = getattr(panel, "title", "") or board.name
    return replace(board, name=title, panels=(replace(panel, place=place),))


def panel_called(pages: Sequence[AnyPage], title: str) -> Board:
    """The panel of that title alone, of whichever board has it. Refuses what there is not."""
    found = {
        str(getattr(each, "title", "")): (board, each.id)
        for board in pages
        if isinstance(board, Board)
        for each in board.panels
    }
    folded = {name.casefold(): place for name, place in found.items() if name}
    if title.casefold() not in folded:
        guess = nearest(title, [name for name in found if name])
        raise Refusal(f"no panel is called '{title}'", f"did you mean '{guess}'?" if guess else "give its title")
    return panel_alone(*folded[title.casefold()])
