"""Handing out pages of a folio, or a chart of a table, to a file, without showing a window."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from summula.core.boards.board import Board
from summula.core.boards.playing import PlayPart, playable
from summula.core.handout.boardcontent import panel_called
from summula.core.handout.formats import format_for
from summula.core.handout.order import Order, content_of, handed_out
from summula.core.handout.pages import page_named
from summula.core.handout.place import check_not_read, put_in_place
from summula.core.handout.played import played_pages, step_places
from summula.core.refusal import Refusal
from summula.desk.pictures import ALL_FORMATS, scene_png

if TYPE_CHECKING:
    from summula.core.charts.scene import XY, Scene
    from summula.core.composition.composition import Composition
    from summula.core.folio.model import AnyPage
    from summula.core.folio.opened import Opened


def pages_named(opened: Opened, wanted: Sequence[str]) -> list[AnyPage]:
    """The pages called so (or numbered so in the Contents); all boards where none is named, else all summaries."""
    if wanted:
        return [page_named(opened.folio, each) for each in wanted]
    found: list[AnyPage] = [*opened.folio.boards] or [*opened.folio.summaries]
    if not found:
        raise Refusal(f"'{opened.folio.name}' has no board and no summary", "name a table")
    return found


def render_pages(
    opened: Opened, wanted: Sequence[str], to: Path, order: Order, panel: str = "", read: tuple[Path, ...] = ()
) -> str:
    """Write pages of a folio (or a `panel` of one, by its title) in the format that the file's name asks for; says what
    it is, where that is worth it. None of the files that were `read`, nor of the folio's sources, is written over."""
    read = (*read, *opened.folio.places())
    check_not_read(to, read)
    way = format_for(to.name, ALL_FORMATS, "page", "board", "figures")  # before anything is worked out
    pages = pages_named(opened, wanted)
    if way.takes == "board" and not wanted:
        pages = pages[:1]
    if panel:
        pages = [panel_called(pages, panel)]
    tables, palette = opened.prepared(), opened.folio.palette

    def picture(scene: Scene) -> bytes:
        return scene_png(scene, palette)

    said = ""
    if order.live and way.live:
        from summula.core.handout.livepage import estimate

        said = estimate(content_of(pages, opened.folio, tables, order)).words
    put_in_place(to, handed_out(pages, opened.folio, tables, way, order, picture), read)
    return said


def render_steps(
    opened: Opened, wanted: str, to: Path, size: XY, part: PlayPart, read: tuple[Path, ...] = ()
) -> int:
    """A board at each step of play, a file each; how many. None of the files that were `read` is written over."""
    way = format_for(to.name, ALL_FORMATS, "page")
    board, tables = page_named(opened.folio, wanted), opened.prepared()
    play = playable(board, tables, part) if isinstance(board, Board) else None
    if not isinstance(board, Board) or play is None:
        raise Refusal(f"'{wanted}' cannot be played", "name a board whose table has a date")
    places = step_places(to, play.steps)
    pages = played_pages(board, opened.folio, tables, size, play)
    for place, (_, composition) in zip(places, pages, strict=True):
        put_in_place(place, way.make(composition), (*read, *opened.folio.places()))
    return len(places)


def put(composition: Composition, to: Path, read: tuple[Path, ...]) -> None:
    """Write a composition in the format that the file's name asks for, over none of the files that were `read`."""
    put_in_place(to, format_for(to.name, ALL_FORMATS, "page").make(composition), read)
