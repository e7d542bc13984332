"""Which slicers move which panels; and slicings kept under a name."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.boards.board import Board, NamedSlicing
from summula.core.refusal import Refusal
from summula.core.slicing.slicerkinds import cleared

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Slicer

_MOST_SLICINGS = 100


def with_reach(board: Board, slicers: Collection[str], panels: Collection[str], *, moves: bool) -> Board:
    """The board in which these slicers move these panels, or spare them."""

    def reaching(slicer: Slicer) -> Slicer:
        if slicer.id not in slicers:
            return slicer
        kept = tuple(each for each in slicer.spares if each not in panels)
        return replace(slicer, spares=kept if moves else (*kept, *(p.id for p in board.panels if p.id in panels)))

    return replace(board, slicers=tuple(map(reaching, board.slicers)))


def keeping_slicing(board: Board, name: str) -> Board:
    """The board with its slicing kept under a name, in the place of one that has it already."""
    name = " ".join(name.split())
    if not name:
        raise Refusal("a selection needs a name", "enter one, such as Winter")
    others = tuple(each for each in board.slicings if each.name.casefold() != name.casefold())
    if len(others) >= _MOST_SLICINGS:
        raise Refusal(f"the board keeps {_MOST_SLICINGS} slicings already", "remove one first")
    return replace(board, slicings=(*others, NamedSlicing(name, board.slicers)))


def sliced_as(board: Board, name: str) -> Board:
    """The board sliced as it was under a name: slicers that came later let everything through, those that are gone stay
    away; which panels they reach is as it is now."""
    found = next(each for each in board.slicings if each.name == name)
    known = {each.id: each for each in found.slicers}

    def as_kept(slicer: Slicer) -> Slicer:
        own = known.get(slicer.id)
        if own is None or type(own) is not type(slicer):
            return cleared(slicer)  # type: ignore[no-any-return]
        return replace(own, spares=slicer.spares)

    return replace(board, slicers=tuple(map(as_kept, board.slicers)))


def without_slicing(board: Board, name: str) -> Board:
    return replace(board, slicings=tuple(each for each in board.slicings if each.name != name))


def slicing_now(board: Board) -> str:
    """The name of the slicing that the board stands in; empty where it has none."""
    for each in board.slicings:
        if sliced_as(board, each.name).slicers == board.slicers:
            return each.name
    return ""
