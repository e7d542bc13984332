"""Answering a board: one fold a table, then every panel and slicer from its cells.

Only what a changed slicer reaches is worked out again; everything else is as it was.
"""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from summula.core.boards.board import Board, KeyFigurePanel, Panel, SummaryPanel
from summula.core.boards.keyfigures import key_figure, key_figure_dimensions
from summula.core.charts.keyfigure import KeyFigure
from summula.core.charts.look import PLAIN_WORN, Look, Worn
from summula.core.charts.scene import Tag
from summula.core.fields.heading import Heading
from summula.core.refusal import Refusal
from summula.core.slicing.holdings import Holding, holdings
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicer import Slicer
from summula.core.slicing.slicer import story as slicer_words
from summula.core.summaries.aggregates import ADDITIVE
from summula.core.summaries.answer import answer, dimensions_of, with_defaults
from summula.core.summaries.behind import place_of, rows_behind, story
from summula.core.summaries.cells import Cells, Dimension, fold, is_folded, unfolded
from summula.core.summaries.grid import Grid
from summula.core.summaries.language.printing import print_condition
from summula.core.summaries.periods import last_part_way
from summula.core.summaries.phrase import Phrase, aggregates_of
from summula.core.tables.table import Table


@dataclass(frozen=True, eq=False)
class PanelAnswer:
    """What a panel shows: a grid under its look, a key figure, or why it can show nothing."""

    grid: Grid | None = None
    look: Look = field(default_factory=Look)
    key_figure: KeyFigure | None = None
    refusal: str = ""


@dataclass(eq=False)
class Reckoning:
    """Answers one board's questions from `tables` (by id) and `phrases` (by summary id, with table id). `worn` tells
    how the grids of summaries are laid out and dressed.

    Keeps the last answer of every panel with what it was worked out from.
    """

    tables: Mapping[str, Table]
    phrases: Mapping[str, tuple[str, Phrase]]
    worn: Mapping[str, Worn] = field(default_factory=dict)
    _last: dict[str, tuple[Any, PanelAnswer]] = field(default_factory=dict)
    _dims: dict[str, tuple[Any, list[Dimension]]] = field(default_factory=dict)

    def table_of(self, panel: Panel) -> str:
        if isinstance(panel, KeyFigurePanel):
            return panel.table
        return self.phrases[panel.summary][0]

    def reaching(self, board: Board, panel: Panel) -> list[Slicer]:
        """The slicers that move a panel: all of its table that do not spare it."""
        table = self.table_of(panel)
        return [s for s in self._slicers(board, table) if panel.id not in s.spares]

    def _slicers(self, board: Board, table_id: str) -> list[Slicer]:
        """The table's slicers; one whose field is missing (a new file may lack it) waits and narrows nothing."""
        table = self.tables[table_id]
        return [s for s in board.slicers if s.table == table_id and table.has(s.dimension.field)]

    def panel(self, board: Board, panel: Panel) -> PanelAnswer:
        """The panel's answer; the same object as before when nothing it depends on has changed."""
        try:
            slicers = self.reaching(board, panel)
            table = self.tables[self.table_of(panel)]
        except KeyError:
            return PanelAnswer(refusal="What this panel showed is not in the folio any more")
        phrase = self.phrases[panel.summary] if isinstance(panel, SummaryPanel) else None
        shape = tuple(slicer.dimension for slicer in slicers)
        content = (
            (panel.strong, self.worn.get(panel.summary))
            if isinstance(panel, SummaryPanel)
            else (panel.measure, panel.dated, panel.title, panel.rising)
        )
        key = (id(table), phrase, content, tuple(slicers), shape)
        last = self._last.get(panel.id)
        if last is not None and last[0] == key:
            return last[1]
        try:
            found = self._work_out(board, panel, table, slicers)
        except Refusal as refusal:
            found = PanelAnswer(refusal=f"{refusal.wrong}. {refusal.remedy[:1].upper()}{refusal.remedy[1:]}.")
        self._last[panel.id] = (key, found)
        return found

    def _work_out(self, board: Board, panel: Panel, table: Table, slicers: list[Slicer]) -> PanelAnswer:
        cells = self.cells_for(board, panel, table)
        if isinstance(panel, KeyFigurePanel):
            return PanelAnswer(key_figure=key_figure(panel, cells, slicers))
        phrase = self.phrases[panel.summary][1]
        mask = joined_mask(slicers, cells)
        grid = answer(phrase, table, cells, mask)
        ghost = None
        if mask is not None and phrase.form in ("bars", "columns"):
            ghost = self._ghost(phrase, table, cells)
        if grid.empty:
            odds = at_odds(phrase, slicers)
            if odds:
                return PanelAnswer(refusal=odds)
        part = last_part_way(table, grid)
        worn = self.worn.get(panel.summary, PLAIN_WORN)
        until = part.edge_words if part else ""
        return PanelAnswer(grid, Look(panel.strong, ghost, part is not None, until, worn))

    def _ghost(self, phrase: Phrase, table: Table, cells: Cells) -> Grid | None:
        found: Grid | None = cells.memo.get(("ghost", phrase))
        if found is None:
            if any(m.comparison is not None for m in phrase.measures) or not _adds_up(phrase, table):
                return None  # a mean before slicing is no longer bar behind a shorter one
            found = answer(phrase, table, cells)
            cells.memo["ghost", phrase] = found
        return found

    def cells_for(self, board: Board, panel: Panel, table: Table) -> Cells:
        """The board's one fold of a table if rows shrink in it; else a fold of this panel's own."""
        shared = self.shared_cells(board, self.table_of(panel))
        if shared.cell_of_row is not None:
            return shared
        return fold(table, [*self._dimensions(panel, table), *(s.dimension for s in self.reaching(board, panel))])

    def shared_cells(self, board: Board, table_id: str) -> Cells:
        table, needed = self.tables[table_id], self._needed(board, table_id)
        return fold(table, needed) if needed else unfolded(table)

    def _needed(self, board: Board, table_id: str) -> list[Dimension]:
        """Everything that the board's slicers and panels ask of one table's rows."""
        table = self.tables[table_id]
        needed: list[Dimension] = [s.dimension for s in self._slicers(board, table_id)]
        key = (id(table), board.panels, tuple(needed), self.phrases)
        last = self._dims.get(table_id)
        if last is not None and last[0] == key:  # a click changes what slicers let through, not what they ask of rows
            return last[1]
        for panel in board.panels:
            if panel_is_known(panel, self.phrases) and self.table_of(panel) == table_id:
                with contextlib.suppress(Refusal):  # what a panel lacks it says itself
                    asked = self._dimensions(panel, table)
                    if all(table.has(_field_of(each)) for each in asked):
                        needed.extend(asked)
        self._dims[table_id] = (key, needed)
        return needed

    def _dimensions(self, panel: Panel, table: Table) -> list[Dimension]:
        if isinstance(panel, KeyFigurePanel):
            phrase = with_defaults(Phrase((panel.measure,)), table)
            return [*key_figure_dimensions(table, panel.dated), *dimensions_of(phrase, table)]
        return dimensions_of(self.phrases[panel.summary][1], table)

    def held(self, board: Board, slicer: Slicer) -> list[Holding]:
        """What each member of a slicer holds under the board's other slicers of its table."""
        if slicer.table not in self.tables or not self.tables[slicer.table].has(slicer.dimension.field):
            return []
        cells = self.shared_cells(board, slicer.table)
        if cells.cell_of_row is None:
            dims: list[Dimension] = [s.dimension for s in self._slicers(board, slicer.table)]
            cells = fold(self.tables[slicer.table], dims)
        others = [s for s in self._slicers(board, slicer.table) if s.id != slicer.id]
        return holdings(slicer, others, cells)

    def is_folded(self, board: Board) -> bool:
        """Whether every panel can be answered from cells that are there already, without the rows."""
        try:
            return all(
                is_folded(self.tables[self.table_of(panel)], self._needed(board, self.table_of(panel)))
                and self._adds_up(panel, self.tables[self.table_of(panel)])
                for panel in board.panels
                if panel_is_known(panel, self.phrases)
            )
        except Refusal:
            return False

    def _adds_up(self, panel: Panel, table: Table) -> bool:
        phrase = Phrase((panel.measure,)) if isinstance(panel, KeyFigurePanel) else self.phrases[panel.summary][1]
        full = with_defaults(phrase, table)
        return all(a.function in ADDITIVE for m in full.measures for a in aggregates_of(m.calculation))

    def rows_behind(self, board: Board, panel: Panel, tag: Tag) -> tuple[Table, NDArray[np.int64], list[str]] | None:
        """The rows behind a mark of a panel, under the slicers that reach it, and the words that explain it; None where
        the mark stands for no figure of a grid."""
        grid = self.panel(board, panel).grid
        if grid is None:
            return None
        row, column = place_of(grid.rows, tag.by), place_of(grid.columns, tag.across)
        if row is None or column is None:
            return None
        table = self.tables[self.table_of(panel)]
        slicers = [slicer for slicer in self.reaching(board, panel) if slicer.narrows]
        sliced = [slicer.dimension for slicer in slicers]
        rows = rows_behind(grid, table, tag.measure, row, column, sliced, lambda cells: joined_mask(slicers, cells))
        words = story(grid, table, tag.measure, row, column, rows)
        words[2:2] = [f"sliced: {slicer_words(slicer)}" for slicer in slicers]
        return table, rows, words

    def rows_in_play(self, board: Board, table_id: str) -> int:
        cells = self.shared_cells(board, table_id)
        mask = joined_mask(self._slicers(board, table_id), cells)
        if mask is None:
            return self.tables[table_id].rows
        return int(mask.sum() if cells.rows is None else cells.rows[mask].sum())


def _field_of(dimension: Dimension) -> str:
    return dimension.field if isinstance(dimension, Heading) else dimension.heading.field


def panel_is_known(panel: Panel, phrases: Mapping[str, tuple[str, Phrase]]) -> bool:
    return isinstance(panel, KeyFigurePanel) or panel.summary in phrases


def _adds_up(phrase: Phrase, table: Table) -> bool:
    full = with_defaults(phrase, table)
    functions = [a.function for m in full.measures for a in aggregates_of(m.calculation)]
    return all(function in ("sum", "rows", "count") for function in functions)


def at_odds(phrase: Phrase, slicers: list[Slicer]) -> str:
    """Why nothing is left: a condition of the summary and a slicer on the same field. Empty where they agree."""
    for condition in phrase.where:
        for slicer in slicers:
            if slicer.narrows and _field_of(slicer.dimension) == condition.heading.field:
                name = condition.heading.field
                return (
                    f"This summary asks where {print_condition(condition)}; the slicer of {name} leaves none of it. "
                    "Clear the slicer, or let it spare this panel (Arrange)."
                )
    return ""
