"""Drawing a page of a folio, or a chart of a table, to a file, without showing a window."""

from __future__ import annotations

from pathlib import Path

from summula.core.boards.board import Board
from summula.core.boards.playing import PlayPart, playable
from summula.core.charts.scene import XY
from summula.core.composition.composition import Composition
from summula.core.folio.opened import Opened
from summula.core.handout.formats import format_for
from summula.core.handout.pages import compose, page_named
from summula.core.handout.played import played_pages, step_places
from summula.core.refusal import Refusal
from summula.desk.pictures import ALL_FORMATS


def render_page(opened: Opened, wanted: str, to: Path, size: XY) -> None:
    """The page called `wanted` (or with that number in the Contents), `size` pixels or more."""
    format_for(to.name, ALL_FORMATS, "page")  # before anything is worked out
    put(compose(page_named(opened.folio, wanted), opened.folio, opened.prepared(), size), to)


def render_steps(opened: Opened, wanted: str, to: Path, size: XY, part: PlayPart) -> int:
    """A board at each step of play, a file each; how many."""
    way = format_for(to.name, ALL_FORMATS, "page")
    board, tables = page_named(opened.folio, wanted), opened.prepared()
    play = playable(board, tables, part) if isinstance(board, Board) else None
    if not isinstance(board, Board) or play is None:
        raise Refusal(f"'{wanted}' cannot be played", "name a board whose table has a date")
    places = step_places(to, play.steps)
    pages = played_pages(board, opened.folio, tables, size, play)
    for place, (_, composition) in zip(places, pages, strict=True):
        written(place, way.make(composition))
    return len(places)


def put(composition: Composition, to: Path) -> None:
    """Write a composition in the format that the file's name asks for."""
    written(to, format_for(to.name, ALL_FORMATS, "page").make(composition))


def written(to: Path, made: bytes) -> None:
    try:
        to.write_bytes(made)
    except OSError as fault:
        wrong = f"'{to}' could not be written ({fault.strerror or fault})"
        raise Refusal(wrong, "choose another folder") from None
