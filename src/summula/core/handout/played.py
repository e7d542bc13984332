"""A board played through time, as a page for each step."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.composition.boardpages import compose_board
from summula.core.handout.pages import board_foot, reckoning_of
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.boards.board import Board
    from summula.core.boards.playing import Play
    from summula.core.composition.composition import Composition
    from summula.core.folio.model import Folio
    from summula.core.tables.table import Table


def played_pages(
    board: Board,
    folio: Folio,
    tables: dict[str, Table],
    size: tuple[float, float],
    play: Play,
    *,
    unsliced: bool = False,
) -> Iterator[tuple[str, Composition]]:
    """For each step of play the month that it begins with ("2024-04"), and the board as it is shown then."""
    reckoning = reckoning_of(folio, tables, unsliced=unsliced)
    for at in play.steps:
        stands = replace(play, at=at)
        stepped = replace(board, slicers=(*board.slicers, stands.slicer))
        stated = board_foot(folio, stepped, reckoning)
        yield at, replace(compose_board(board, reckoning, size, stated, stands), palette=folio.palette)


def step_places(to: Path, steps: Sequence[str]) -> list[Path]:
    """A file for each step, beside `to`: "season 2024-04.svg". Refuses to take the place of one that is there."""
    places = [to.with_name(f"{to.stem} {at}{to.suffix}") for at in steps]
    there = next((place for place in places if place.exists()), None)
    if there is not None:
        raise Refusal(f"'{there.name}' is there already", "choose another name")
    return places
