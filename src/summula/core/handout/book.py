"""A book: a board once for each member of a heading, each a chapter, behind a page of contents."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.charts.scene import XY, Ink, Line, Mark, Scene, Text, fitted
from summula.core.composition.boardpages import compose_board
from summula.core.composition.composition import MARGIN, Composition, Foot, Page, PageLink, heading
from summula.core.handout.narrowing import chapters
from summula.core.handout.pages import Shown, board_foot, joined, reckoning_of
from summula.core.refusal import Refusal
from summula.core.theme.typefaces import text_width

if TYPE_CHECKING:
    from summula.core.boards.board import Board
    from summula.core.folio.model import Folio
    from summula.core.tables.table import Table

_LINE = 24.0  # pixels from entry to entry
_SIZE = 13.0


def compose_book(
    board: Board,
    folio: Folio,
    tables: dict[str, Table],
    size: XY,
    field: str,
    shown: Shown = Shown(),  # noqa: B008  a value
    watch: Callable[[int, int], None] = lambda done, of: None,
) -> Composition:
    """Contents, then the board for each member. `watch` is told after each chapter how many are done, of how many; it
    may raise to stop. Refuses a heading without members, or with very many."""
    reckoning = reckoning_of(folio, tables, unsliced=shown.unsliced)
    parts = []
    found = list(chapters(board, folio, tables, field, reckoning))
    if not found:
        raise Refusal(f"'{field}' has no members", "choose another heading")
    for done, (name, _, sliced) in enumerate(found, start=1):
        stated = board_foot(folio, sliced, reckoning) if shown.foot else Foot()
        parts.append((name, replace(compose_board(sliced, reckoning, size, stated), palette=folio.palette)))
        watch(done, len(found))
    return with_contents(joined(folio, parts, f"{board.name} by {field}"), size)


def with_contents(book: Composition, size: XY) -> Composition:
    """The document behind a page (or more) that lists its chapters, and leads to each."""
    entries = [(page.chapter, at) for at, page in enumerate(book.pages) if page.chapter]
    top = heading(book.title, [], size, text_width)[1] + 18
    high = max((each.scene.height for each in book.pages), default=size[1])
    room = max(int((max(high, size[1]) - top - MARGIN) // _LINE), 1)
    count = -(-len(entries) // room)
    pages = [
        _contents(book.title, entries[at * room : (at + 1) * room], count, (size[0], max(high, size[1])), first=not at)
        for at in range(count)
    ]
    return replace(book, pages=(*pages, *book.pages))


def _contents(title: str, entries: Sequence[tuple[str, int]], before: int, size: XY, *, first: bool) -> Page:
    """`before`: how many pages the contents take, behind which the others stand."""
    marks, y = heading(title if first else f"{title} (contents, continued)", [], size, text_width)
    marks = list[Mark](marks)
    links = []
    y += 18
    right = min(size[0] - MARGIN, MARGIN + 620.0)
    for name, page in entries:
        number = str(page + before + 1)
        wide = text_width(number, _SIZE, 400)
        text = fitted(name, right - MARGIN - wide - 30, _SIZE, 400, text_width)
        end = MARGIN + text_width(text, _SIZE, 400)
        marks.append(Text(MARGIN, y + 16, text, Ink("text"), _SIZE, full=name))
        if right - wide - 8 > end + 8:
            marks.append(Line(((end + 8, y + 12), (right - wide - 8, y + 12)), Ink("hairline"), 1.0, dashed=True))
        marks.append(Text(right, y + 16, number, Ink("muted"), _SIZE, align="right"))
        links.append(PageLink(MARGIN, y, right - MARGIN, _LINE, page + before))
        y += _LINE
    return Page(title, Scene(*size, tuple(marks)), chapter="Contents" if first else "", links=tuple(links))
