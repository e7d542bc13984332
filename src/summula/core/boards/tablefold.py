"""One table's part in a board: its slicers, and the cells that its panels and slicers are answered from."""

from __future__ import annotations

import contextlib
from collections.abc import Sequence

import msgspec

from summula.core.boards.board import Board, Panel
from summula.core.boards.panelanswer import Asked
from summula.core.boards.panelkinds import kind_of
from summula.core.engine.cells import Cells, Dimension, coarser, fold, tells, unfolded
from summula.core.fields.heading import Heading
from summula.core.refusal import Refusal
from summula.core.slicing.linking import heard_by
from summula.core.slicing.slicer import Narrowing, Slicer
from summula.core.slicing.slicerkinds import needs_of
from summula.core.tables.table import Table

_MANY = 16_384  # cells: with more, adding them up takes longer than all else of an answer


class TableFold(msgspec.Struct, frozen=True, eq=False):
    """The table is folded once by all that the board asks of it (`needed`); what asks for less is answered from these
    cells folded once more, which are far fewer. A click changes what slicers let through, not what they ask of rows."""

    board: Board
    table: Table
    slicers: tuple[Slicer, ...]  # that move this table, each with its field there: of linked tables, too
    slicer_dimensions: tuple[Dimension, ...]
    asked: Asked
    needed: tuple[Dimension, ...]
    known: dict[str, Cells] = msgspec.field(default_factory=dict)

    @property
    def whole(self) -> Cells:
        """The cells of everything the board asks."""
        found = self.known.get("")
        if found is None:
            found = self.known[""] = fold(self.table, self.needed) if self.needed else unfolded(self.table)
        return found

    def of_panel(self, panel: Panel, also: Narrowing | None = None) -> Cells:
        """The cells a panel is answered from, under the slicers that reach it, and `also` another: then under those
        alone that narrow, since marks are clicked while slicers rest.

        Mostly they are those that many panels share, with all slicers. Where that makes them many, the panel has
        cells of its own, with only the slicers that narrow now: few others are clicked at the same time.
        """
        if also is not None:
            narrowing = [slicer for slicer in self.slicers if slicer.narrows]
            needed = self._needed(panel, [*narrowing, also])
            if self.whole.folded and all(_is_told(self.whole, each) for each in needed):
                return coarser(self.whole, needed)
            return fold(self.table, needed)
        found = self.known.get(f"panel {panel.id}")
        if found is None:
            found = self.known[f"panel {panel.id}"] = self._least(self._needed(panel, [*self.slicers]))
        if found.size <= _MANY or not found.folded:
            return found
        narrowing = [slicer for slicer in self.slicers if slicer.narrows]
        key = f"panel {panel.id} under {' '.join([slicer.id for slicer in narrowing])}"
        fewer = self.known.get(key)
        if fewer is None:
            fewer = self.known[key] = coarser(found, self._needed(panel, narrowing))
        return fewer

    def _needed(self, panel: Panel, slicers: Sequence[Narrowing]) -> list[Dimension]:
        reaching = [
            each for slicer in slicers if panel.id not in slicer.spares for each in needs_of(slicer, self.table)
        ]
        needed = kind_of(panel).dimensions(panel, self.asked, self.table)
        for each in needed:
            self.table.field(field_of(each))  # refuses one that is not there
        return [*needed, *reaching]

    def of_slicers(self) -> Cells:
        """The cells that tell what the slicers' members hold."""
        found = self.known.get("slicers")
        if found is None:
            found = self.known["slicers"] = self._least(self.slicer_dimensions)
        return found

    def of_slicers_and(self, also: Narrowing) -> Cells:
        """The cells that tell what slicers and `also` another leave together."""
        narrowing = [each for slicer in self.slicers if slicer.narrows for each in needs_of(slicer, self.table)]
        needed = [*narrowing, *needs_of(also, self.table)]
        if self.whole.folded and all(_is_told(self.whole, each) for each in needed):
            return coarser(self.whole, needed)
        return fold(self.table, needed)

    def _least(self, needed: Sequence[Dimension]) -> Cells:
        if self.whole.folded:
            return coarser(self.whole, needed)
        return fold(self.table, needed)  # all together hardly fold the rows: each for itself


def _is_told(cells: Cells, dimension: Dimension) -> bool:
    return any(base == dimension or (isinstance(dimension, Heading) and tells(base, dimension)) for base in cells.bases)


def table_fold(board: Board, table_id: str, table: Table, asked: Asked, last: TableFold | None) -> TableFold:
    """A table's part in a board; `last` serves on where the board asks the same of the same rows as it did then."""
    if (
        last is not None
        and last.board is board
        and last.table is table
        and last.asked.phrases is asked.phrases
        and last.asked.levers == asked.levers
        and last.asked.links == asked.links
    ):
        return last
    moved = [heard_by(asked.links, slicer, table_id, table) for slicer in board.slicers]
    slicers = tuple([each for each in moved if each is not None])
    dimensions = tuple([each for slicer in slicers for each in needs_of(slicer, table)])
    if (
        last is not None
        and last.table is table
        and same_asked(last.asked, asked)
        and last.slicer_dimensions == dimensions
    ):
        reach = [slicer.spares for slicer in slicers] == [slicer.spares for slicer in last.slicers]
        if reach and last.board.panels == board.panels:
            return TableFold(board, table, slicers, dimensions, asked, last.needed, last.known)
    needed: list[Dimension] = list(dimensions)
    for panel in board.panels:
        kind = kind_of(panel)
        with contextlib.suppress(Refusal, KeyError):  # what a panel lacks it says itself
            if kind.table_of(panel, asked) == table_id:
                own = kind.dimensions(panel, asked, table)
                if all(table.has(field_of(each)) for each in own):
                    needed.extend(own)
    return TableFold(board, table, slicers, dimensions, asked, tuple(needed))


def same_asked(first: Asked, second: Asked) -> bool:
    """Whether two states of a folio ask the same; how it looks has no say in that."""
    return first.phrases == second.phrases and first.levers == second.levers and first.links == second.links


def field_of(dimension: Dimension) -> str:
    return dimension.field if isinstance(dimension, Heading) else dimension.heading.field
