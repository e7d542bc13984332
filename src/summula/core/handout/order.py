"""What is asked to be handed out, and how: the same for the menu, the preview and the command line."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.boards.board import Board
from summula.core.boards.linkedtables import LinkedTables
from summula.core.charts.scene import XY, Scene
from summula.core.composition.paper import Paper
from summula.core.folio.model import AnyPage, Folio, Summary
from summula.core.handout.boardcontent import BoardContent, as_board, unwatched
from summula.core.handout.book import compose_book
from summula.core.handout.formats import Figures, Format
from summula.core.handout.narrowing import folio_of, narrowed
from summula.core.handout.pages import Shown, compose_all
from summula.core.phrases.lever import with_levers
from summula.core.phrases.phrase import is_each_row
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal
from summula.core.summaries import answer

if TYPE_CHECKING:
    from summula.core.composition.composition import Composition
    from summula.core.tables.table import Table

MOST_SCALE = 4.0


class Order(msgspec.Struct, frozen=True):
    """`size`: pixels of a page that goes on no paper. `scale`: pixels of a picture for each of them, 1 to 4. `on`: the
    paper of what has pages. `foot`: whether each page says where its figures come from. `slices` and `period`: as in
    `narrowed`. `each`: the heading whose members each get a chapter; empty for none. `live`: headings that a page
    answers to, in `pairs` where wanted. `unsliced`: whether what leaves sliced shows what there was before slicing."""

    size: XY = (1280.0, 800.0)
    scale: float = 1.0
    on: Paper | None = None
    foot: bool = True
    slices: tuple[str, ...] = ()
    period: str = ""
    each: str = ""
    live: tuple[str, ...] = ()
    pairs: bool = False
    unsliced: bool = False

    @property
    def shown(self) -> Shown:
        return Shown(self.foot, self.unsliced)


def handed_out(
    pages: Sequence[AnyPage],
    folio: Folio,
    tables: dict[str, Table],
    way: Format,
    order: Order,
    picture: Callable[[Scene], bytes] | None = None,
    watch: Callable[[int, int], None] = unwatched,
) -> bytes:
    """The file's content. Raises Refusal for what cannot be made so."""
    if order.live and not way.live:
        raise Refusal(f"{way.name} does not answer to slicers", "export it as HTML, or choose no interactive slicers")
    match way.takes:
        case "board":
            return way.make(content_of(pages, folio, tables, order, picture, watch))
        case "page":
            return way.make(composed(pages, folio, tables, way, order, watch))
        case "figures":
            return way.make(figures_asked(pages, folio, tables, order))


def composed(
    pages: Sequence[AnyPage],
    folio: Folio,
    tables: dict[str, Table],
    way: Format,
    order: Order,
    watch: Callable[[int, int], None] = unwatched,
) -> Composition:
    """The pages as they go into the file: on paper, or as large as was asked."""
    shown = _narrowed(pages, folio, tables, order)
    if order.live:
        raise Refusal(f"{way.name} does not answer to slicers", "export it as HTML, or choose no interactive slicers")
    size = order.on.pixels(True) if way.pages and order.on is not None else order.size
    if order.each:
        board = shown[0]
        if len(shown) != 1 or not isinstance(board, Board):
            raise Refusal("a book is made of one board", "name one board")
        made = compose_book(board, _folio(folio, shown), tables, size, order.each, order.shown, watch)
    else:
        made = compose_all(shown, _folio(folio, shown), tables, size, order.shown)
    return replace(made, on=order.on if way.pages else None, scale=min(max(order.scale, 0.1), MOST_SCALE))


def content_of(
    pages: Sequence[AnyPage],
    folio: Folio,
    tables: dict[str, Table],
    order: Order,
    picture: Callable[[Scene], bytes] | None = None,
    watch: Callable[[int, int], None] = unwatched,
) -> BoardContent:
    """The one board that a format is made of."""
    shown = _narrowed(pages, folio, tables, order)
    if len(shown) != 1:
        raise Refusal("this format holds one board or summary", "name one page")
    if order.each:
        raise Refusal("a book goes on pages", "export it as PDF")
    folio = _folio(folio, shown)
    return BoardContent(
        as_board(shown[0]), folio, tables, order.size, order.live, order.pairs, order.foot, order.unsliced,
        picture, watch,
    )  # fmt: skip


def figures_asked(pages: Sequence[AnyPage], folio: Folio, tables: dict[str, Table], order: Order) -> Figures:
    """The answer of the one summary that a format of figures is made of."""
    shown = _narrowed(pages, folio, tables, order)
    summary = shown[0]
    if len(shown) != 1 or not isinstance(summary, Summary):
        raise Refusal("this format holds the figures of one summary", "name a summary")
    if order.each or order.live:
        raise Refusal("figures have neither chapters nor slicers", "export it as PDF or HTML")
    phrase = with_levers(summary.phrase, folio.levers)
    if any(is_each_row(measure.calculation) for measure in phrase.measures):
        raise Refusal("'each row' gives many values, which a list cannot hold", "draw it, or use the median")
    grid = answer(phrase, tables[summary.table], others=LinkedTables(summary.table, tables, folio.links))
    return Figures(grid, summary.name, print_phrase(summary.phrase), folio.look_of(summary))


def _narrowed(pages: Sequence[AnyPage], folio: Folio, tables: Mapping[str, Table], order: Order) -> list[AnyPage]:
    return [narrowed(page, folio, tables, order.slices, order.period) for page in pages]


def _folio(folio: Folio, pages: Sequence[AnyPage]) -> Folio:
    for page in pages:
        folio = folio_of(folio, page)
    return folio
