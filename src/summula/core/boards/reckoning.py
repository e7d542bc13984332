"""Answering a board: one fold a table, then every panel and slicer from its cells.

Only what a changed slicer reaches is worked out again; everything else is as it was.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.boards.board import Board, KeyFigurePanel, Panel, SummaryPanel
from summula.core.boards.keyfigures import key_figure
from summula.core.boards.tablefold import TableFold, field_of, panel_is_known, table_fold, table_of
from summula.core.charts.chart import PLAIN, Chart, SummaryLook, chart_of
from summula.core.charts.keyfigure import KeyFigure
from summula.core.charts.scene import Tag
from summula.core.refusal import Refusal
from summula.core.slicing.holdings import Holding, holdings
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicer import Slicer
from summula.core.slicing.slicer import story as slicer_words
from summula.core.summaries.aggregates import ADDITIVE
from summula.core.summaries.answer import answer, with_defaults
from summula.core.summaries.behind import place_of, rows_behind, story
from summula.core.summaries.cells import Cells, is_folded
from summula.core.summaries.forms import FORMS
from summula.core.summaries.grid import Grid
from summula.core.summaries.language.printing import print_condition
from summula.core.summaries.lever import LeverSetting, with_levers
from summula.core.summaries.phrase import Measure, Phrase, aggregates_of, figures_shown
from summula.core.tables.column import Mask
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from numpy.typing import NDArray


class PanelAnswer(msgspec.Struct, frozen=True, eq=False):
    """What a panel shows: a chart, a key figure (with the grid of its course), or why it can show nothing."""

    chart: Chart | None = None
    course: Grid | None = None
    key_figure: KeyFigure | None = None
    refusal: str = ""

    @property
    def grid(self) -> Grid | None:
        """The grid that its marks stand for figures of."""
        return self.chart.grid if self.chart is not None else self.course


class Reckoning(msgspec.Struct, eq=False):
    """Answers one board's questions from `tables` (by id) and `phrases` (by summary id, with table id). `looks` tell
    how summaries look.

    Keeps the last answer of every panel with what it was worked out from.
    """

    tables: Mapping[str, Table]
    phrases: Mapping[str, tuple[str, Phrase]]
    looks: Mapping[str, SummaryLook] = msgspec.field(default_factory=dict)
    levers: tuple[LeverSetting, ...] = ()
    _last: dict[str, tuple[Any, PanelAnswer]] = msgspec.field(default_factory=dict)
    _last_held: dict[str, tuple[Any, list[Holding]]] = msgspec.field(default_factory=dict)
    _folds: dict[str, TableFold] = msgspec.field(default_factory=dict)

    def table_of(self, panel: Panel) -> str:
        return table_of(panel, self.phrases)

    def fold_of(self, board: Board, table_id: str) -> TableFold:
        """A table's part in the board; kept from click to click."""
        last = self._folds.get(table_id)
        found = table_fold(board, table_id, self.tables[table_id], self.phrases, last)
        if found is not last:
            self._folds[table_id] = found
        return found

    def reaching(self, board: Board, panel: Panel) -> list[Slicer]:
        """The slicers that move a panel: all of its table that do not spare it."""
        slicers = self.fold_of(board, self.table_of(panel)).slicers
        return [s for s in slicers if panel.id not in s.spares]

    def panel(self, board: Board, panel: Panel) -> PanelAnswer:
        """The panel's answer; the same object as before when nothing it depends on has changed."""
        try:
            folded = self.fold_of(board, self.table_of(panel))
        except KeyError:
            return PanelAnswer(refusal="What this panel showed is not in the folio any more")
        slicers = [s for s in folded.slicers if panel.id not in s.spares]
        if isinstance(panel, SummaryPanel):
            content: Any = (self.phrases[panel.summary], panel.emphasis, self.looks.get(panel.summary))
        else:
            panel = replace(panel, measure=self._with_levers(panel.measure))
            content = (panel.measure, panel.dated, panel.title, panel.rising)
        key = (folded.table, content, slicers)
        last = self._last.get(panel.id)
        if last is not None and last[0] == key:
            return last[1]
        try:
            found = self._work_out(panel, folded, slicers)
        except Refusal as refusal:
            found = PanelAnswer(refusal=f"{refusal.wrong}. {refusal.remedy[:1].upper()}{refusal.remedy[1:]}.")
        self._last[panel.id] = (key, found)
        return found

    def _work_out(self, panel: Panel, folded: TableFold, slicers: list[Slicer]) -> PanelAnswer:
        table, cells = folded.table, folded.of_panel(panel)
        if isinstance(panel, KeyFigurePanel):
            figure, course = key_figure(panel, cells, slicers)
            return PanelAnswer(course=course, key_figure=figure)
        phrase = self.phrases[panel.summary][1]
        mask = joined_mask(slicers, cells)
        grid = answer(phrase, table, cells, mask)
        ghost = None
        if mask is not None and FORMS[phrase.form].ghost:
            ghost = self._ghost(phrase, table, cells)
        if grid.empty:
            odds = at_odds(phrase, slicers)
            if odds:
                return PanelAnswer(refusal=odds)
        look = self.looks.get(panel.summary, PLAIN)
        if panel.emphasis is not None:
            look = replace(look, style=replace(look.style, emphasis=panel.emphasis))
        return PanelAnswer(chart_of(grid, table, look, ghost))

    def _ghost(self, phrase: Phrase, table: Table, cells: Cells) -> Grid | None:
        found: Grid | None = cells.memo.get(("ghost", phrase))
        if found is None:
            if any(m.comparison is not None for m in phrase.measures) or not _adds_up(phrase, table):
                return None  # a mean before slicing is no longer bar behind a shorter one
            found = answer(phrase, table, cells)
            cells.memo["ghost", phrase] = found
        return found

    def _with_levers(self, measure: Measure) -> Measure:
        return with_levers(Phrase((measure,)), self.levers).measures[0]

    def held(self, board: Board, slicer: Slicer) -> list[Holding]:
        """What each member of a slicer holds under the board's other slicers of its table."""
        if slicer.table not in self.tables or not self.tables[slicer.table].has(slicer.dimension.field):
            return []
        folded = self.fold_of(board, slicer.table)
        others = [s for s in folded.slicers if s.id != slicer.id and s.narrows]
        key = (folded.table, slicer.dimension, others)
        last = self._last_held.get(slicer.id)
        if last is not None and last[0] == key:  # its own choice has no say in what it holds
            return last[1]
        found = holdings(slicer, others, folded.of_slicers())
        self._last_held[slicer.id] = (key, found)
        return found

    def is_folded(self, board: Board) -> bool:
        """Whether every panel can be answered from cells that are there already, without the rows."""
        try:
            return all(
                is_folded(self.tables[self.table_of(panel)], self.fold_of(board, self.table_of(panel)).needed)
                and self._adds_up(panel, self.tables[self.table_of(panel)])
                for panel in board.panels
                if panel_is_known(panel, self.phrases)
            )
        except Refusal:
            return False

    def _adds_up(self, panel: Panel, table: Table) -> bool:
        phrase = Phrase((panel.measure,)) if isinstance(panel, KeyFigurePanel) else self.phrases[panel.summary][1]
        full = with_defaults(phrase, table)
        return all(a.function in ADDITIVE for m in figures_shown(full) for a in aggregates_of(m.calculation))

    def rows_behind(self, board: Board, panel: Panel, tag: Tag) -> tuple[Table, NDArray[np.int64], list[str]] | None:
        """The rows behind a mark of a panel, under the slicers that reach it, and the words that explain it; None where
        the mark stands for no figure of a grid."""
        grid = self.panel(board, panel).grid
        if grid is None or not tag.has_rows:
            return None
        row, column = place_of(grid.rows, tag.members), place_of(grid.columns, tag.members_across)
        if row is None or column is None:
            return None
        table = self.tables[self.table_of(panel)]
        slicers = [slicer for slicer in self.reaching(board, panel) if slicer.narrows]
        sliced = [slicer.dimension for slicer in slicers]
        measure = max(tag.measure, 0)

        def narrow(cells: Cells) -> Mask | None:
            return joined_mask(slicers, cells)

        rows = rows_behind(grid, table, measure, row, column, sliced, narrow, tag.within)
        words = story(grid, table, measure, row, column, rows, tag.within)
        words[2:2] = [f"sliced: {slicer_words(slicer)}" for slicer in slicers]
        return table, rows, words

    def rows_in_play(self, board: Board, table_id: str) -> int:
        folded = self.fold_of(board, table_id)
        cells = folded.of_slicers()
        mask = joined_mask([*folded.slicers], cells)
        if mask is None:
            return folded.table.rows
        return int(mask.sum() if cells.rows is None else cells.rows[mask].sum())


def _adds_up(phrase: Phrase, table: Table) -> bool:
    full = with_defaults(phrase, table)
    functions = [a.function for m in figures_shown(full) for a in aggregates_of(m.calculation)]
    return all(function in ("sum", "rows", "count") for function in functions)


def at_odds(phrase: Phrase, slicers: list[Slicer]) -> str:
    """Why nothing is left: a condition of the summary and a slicer on the same field. Empty where they agree."""
    for condition in phrase.where:
        for slicer in slicers:
            if slicer.narrows and field_of(slicer.dimension) == condition.heading.field:
                name = condition.heading.field
                return (
                    f"This summary asks where {print_condition(condition)}; the slicer of {name} leaves none of it. "
                    "Clear the slicer, or let it spare this panel (Arrange)."
                )
    return ""
