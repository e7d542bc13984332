"""One table's part in a board: its slicers, and the cells that its panels and slicers are answered from."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence

import msgspec

from summula.core.boards.board import Board, KeyFigurePanel, Panel, SummaryPanel
from summula.core.boards.keyfigures import key_figure_dimensions
from summula.core.fields.heading import Heading
from summula.core.refusal import Refusal
from summula.core.slicing.slicer import Slicer
from summula.core.summaries.answer import dimensions_of, with_defaults
from summula.core.summaries.cells import Cells, Dimension, coarser, fold, unfolded
from summula.core.summaries.phrase import Phrase
from summula.core.tables.table import Table

_MANY = 16_384  # cells: with more, adding them up takes longer than all else of an answer
Phrases = Mapping[str, tuple[str, Phrase]]


class TableFold(msgspec.Struct, frozen=True, eq=False):
    """The table is folded once by all that the board asks of it (`needed`); what asks for less is answered from these
    cells folded once more, which are far fewer. A click changes what slicers let through, not what they ask of rows."""

    board: Board
    table: Table
    slicers: tuple[Slicer, ...]  # of this table, each with its field there
    slicer_dimensions: tuple[Heading, ...]
    phrases: Phrases
    needed: tuple[Dimension, ...]
    known: dict[str, Cells] = msgspec.field(default_factory=dict)

    @property
    def shared(self) -> Cells:
        """The cells of everything the board asks."""
        found = self.known.get("")
        if found is None:
            found = self.known[""] = fold(self.table, self.needed) if self.needed else unfolded(self.table)
        return found

    def of_panel(self, panel: Panel) -> Cells:
        """The cells a panel is answered from, under the slicers that reach it.

        Mostly they are those that many panels share, with all slicers. Where that makes them many, the panel has
        cells of its own, with only the slicers that narrow now: few others are clicked at the same time.
        """
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

    def _needed(self, panel: Panel, slicers: Sequence[Slicer]) -> list[Dimension]:
        reaching = [slicer.dimension for slicer in slicers if panel.id not in slicer.spares]
        asked = panel_dimensions(panel, self.phrases, self.table)
        for each in asked:
            self.table.field(field_of(each))  # refuses one that is not there
        return [*asked, *reaching]

    def of_slicers(self) -> Cells:
        """The cells that tell what the slicers' members hold."""
        found = self.known.get("slicers")
        if found is None:
            found = self.known["slicers"] = self._least(self.slicer_dimensions)
        return found

    def _least(self, needed: Sequence[Dimension]) -> Cells:
        if self.shared.folded:
            return coarser(self.shared, needed)
        return fold(self.table, needed)  # all together hardly fold the rows: each for itself


def table_fold(board: Board, table_id: str, table: Table, phrases: Phrases, last: TableFold | None) -> TableFold:
    """A table's part in a board; `last` serves on where the board asks the same of the same rows as it did then."""
    if last is not None and last.board is board and last.table is table and last.phrases is phrases:
        return last
    # A slicer whose field is missing (a new file may lack it) waits and narrows nothing.
    slicers = tuple([s for s in board.slicers if s.table == table_id and table.has(s.dimension.field)])
    dimensions = tuple([slicer.dimension for slicer in slicers])
    if last is not None and last.table is table and (last.slicer_dimensions, last.phrases) == (dimensions, phrases):
        reach = [slicer.spares for slicer in slicers] == [slicer.spares for slicer in last.slicers]
        if reach and last.board.panels == board.panels:
            return TableFold(board, table, slicers, dimensions, phrases, last.needed, last.known)
    needed: list[Dimension] = list(dimensions)
    for panel in board.panels:
        if panel_is_known(panel, phrases) and table_of(panel, phrases) == table_id:
            with contextlib.suppress(Refusal):  # what a panel lacks it says itself
                asked = panel_dimensions(panel, phrases, table)
                if all(table.has(field_of(each)) for each in asked):
                    needed.extend(asked)
    return TableFold(board, table, slicers, dimensions, phrases, tuple(needed))


def table_of(panel: Panel, phrases: Phrases) -> str:
    """The id of the table a panel asks."""
    return panel.table if isinstance(panel, KeyFigurePanel) else phrases[panel.summary][0]


def panel_is_known(panel: Panel, phrases: Phrases) -> bool:
    return isinstance(panel, KeyFigurePanel) or panel.summary in phrases


def panel_dimensions(panel: Panel, phrases: Phrases, table: Table) -> list[Dimension]:
    """What a panel needs its rows folded by, beside the slicers."""
    if isinstance(panel, SummaryPanel):
        return dimensions_of(phrases[panel.summary][1], table)
    phrase = with_defaults(Phrase((panel.measure,)), table)
    return [*key_figure_dimensions(table, panel.dated), *dimensions_of(phrase, table)]


def field_of(dimension: Dimension) -> str:
    return dimension.field if isinstance(dimension, Heading) else dimension.heading.field
