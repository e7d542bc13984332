"""Answering a board: one fold a table, then every panel and slicer from its cells.

Only what a changed slicer reaches is worked out again; everything else is as it was.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

import msgspec

from summula.core.boards.echoing import choice_by, headings_picked
from summula.core.boards.linkedtables import LinkedTables
from summula.core.boards.panelanswer import Asked, PanelAnswer
from summula.core.boards.panelkinds import is_known, kind_of
from summula.core.boards.rowsbehind import behind
from summula.core.boards.tablefold import TableFold, table_fold
from summula.core.charts.chart import SummaryLook
from summula.core.charts.course import Course
from summula.core.charts.foliopicture import FolioPicture
from summula.core.engine.aggregates import ADDITIVE
from summula.core.engine.answer import with_defaults
from summula.core.engine.axis import place_of
from summula.core.engine.cells import Cells, is_folded
from summula.core.memory import Memory, Remembered
from summula.core.phrases.forms import FORMS
from summula.core.phrases.lever import LeverSetting
from summula.core.phrases.phrase import Phrase, aggregates_of, figures_shown
from summula.core.refusal import Refusal
from summula.core.slicing.holdings import holdings
from summula.core.slicing.linking import Link, heard_by
from summula.core.slicing.masks import joined_mask
from summula.core.slicing.slicerkinds import needs_of, slicer_words
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.arrays import np
    from summula.core.boards.board import Board, Panel
    from summula.core.boards.playing import Play
    from summula.core.charts.scene import Tag
    from summula.core.engine.grid import Grid
    from summula.core.slicing.slicer import Echo, Holding, Narrowing, Slicer
    from summula.core.tables.column import Mask


# The last of each panel and slicer with what it was worked out from, and of each table.
_ANSWERS: Remembered[str, tuple[Any, PanelAnswer]] = Remembered("panels' answers", most=200)
_COURSES: Remembered[str, tuple[Any, list[tuple[int, Grid]]]] = Remembered("panels played", most=50)
_HELD: Remembered[str, tuple[Any, list[Holding]]] = Remembered("what slicers hold", most=100)
_FOLDS: Remembered[str, TableFold] = Remembered("tables' folds", most=32)


class Reckoning(msgspec.Struct, frozen=True, eq=False):
    """Answers boards from `tables` (by id), `phrases` (by summary id, with table id), their `looks` and the `levers`.

    `unsliced`: whether panels show what there was before slicing, too.
    Keeps the last answer of every panel with what it was worked out from. A newer state of the folio is another value
    that shares what is kept: whoever works with this one is not disturbed.
    """

    tables: Mapping[str, Table]
    phrases: Mapping[str, tuple[str, Phrase]]
    looks: Mapping[str, SummaryLook] = msgspec.field(default_factory=dict)
    levers: tuple[LeverSetting, ...] = ()
    read_at: Mapping[str, str] = msgspec.field(default_factory=dict)
    links: tuple[Link, ...] = ()
    pictures: tuple[FolioPicture, ...] = ()
    unsliced: bool = True
    memo: Memory = msgspec.field(default_factory=Memory)

    @property
    def asked(self) -> Asked:
        return Asked(
            self.phrases, self.looks, self.levers, self.read_at, self.links, self.pictures, self.tables,
            unsliced=self.unsliced,
        )  # fmt: skip

    def table_of(self, panel: Panel) -> str:
        """The id of the table a panel asks; KeyError where what it shows is not in the folio."""
        return kind_of(panel).table_of(panel, self.asked)

    def fold_of(self, board: Board, table_id: str) -> TableFold:
        """A table's part in the board; kept from click to click."""
        last = _FOLDS.get(self.memo, table_id)
        found = table_fold(board, table_id, self.tables[table_id], self.asked, last)
        if found is not last:
            _FOLDS.put(self.memo, table_id, found)
        return found

    def reaching(self, board: Board, panel: Panel) -> list[Slicer]:
        """The slicers that move a panel: all of its table that do not spare it."""
        slicers = self.fold_of(board, self.table_of(panel)).slicers
        return [s for s in slicers if panel.id not in s.spares]

    def panel(self, board: Board, panel: Panel, echo: Echo | None = None) -> PanelAnswer:
        """The panel's answer, under an `echo` of another's marks; the same object as before when nothing it depends on
        has changed."""
        kind = kind_of(panel)
        summary = kind.uses(panel).summary
        if kind.slices(panel) and summary in self.phrases:
            home, phrase = self.phrases[summary]
            echo = choice_by(board, panel.id, home, headings_picked(phrase)) or echo
        moving = tuple(each for each in board.slicers if panel.id not in each.spares)
        heard_of = [echo] if echo is not None else []
        asked = msgspec.structs.replace(self.asked, slicers=(*moving, *heard_of), board=board)
        try:
            table_id = kind.table_of(panel, asked)
            folded = self.fold_of(board, table_id) if table_id else None
        except KeyError:
            return PanelAnswer(refusal="The content of this panel is no longer in the folio")
        slicers: list[Narrowing] = []
        heard = None
        if folded is not None:
            slicers += [s for s in folded.slicers if panel.id not in s.spares]
            heard = self.heard(echo, table_id)
            slicers += [heard] if heard is not None else []
        key = (folded.table if folded is not None else None, kind.content(panel, asked), slicers)
        last = _ANSWERS.get(self.memo, panel.id)
        if last is not None and last[0] == key:
            return last[1]
        try:
            cells = folded.of_panel(panel, heard) if folded is not None else None
            found: PanelAnswer = kind.answer(panel, asked, cells, slicers)  # type: ignore[arg-type]
        except Refusal as refusal:
            found = PanelAnswer(refusal=" ".join(refusal.sentences))
        _ANSWERS.put(self.memo, panel.id, (key, found))
        return found

    def played(self, board: Board, panel: Panel, play: Play, answer: PanelAnswer) -> PanelAnswer:
        """A panel's answer at a step of play, `board` without its slicer: where play moves marks, on scales that stay
        from step to step, with where the marks stood before."""
        chart = answer.chart
        if chart is None or not FORMS[chart.form].moves or chart.grid.samples is not None:
            return answer
        key = (self.tables[self.table_of(panel)], kind_of(panel).content(panel, self.asked), board.slicers, play.still)
        last = _COURSES.get(self.memo, panel.id)
        if last is None or last[0] != key:
            found = []
            for at in range(len(play.steps)):
                stands = msgspec.structs.replace(play, at=play.steps[at]).slicer
                step = self.panel(msgspec.structs.replace(board, slicers=(*board.slicers, stands)), panel)
                if step.chart is not None:
                    found.append((at, step.chart.grid))
            last = _COURSES.put(self.memo, panel.id, (key, found))
        steps = last[1]
        course = Course(tuple(grid for _, grid in steps), sum(at < play.index for at, _ in steps), play.trail)
        return msgspec.structs.replace(answer, chart=msgspec.structs.replace(chart, ghost=None, course=course))

    def heard(self, echo: Echo | None, table_id: str) -> Echo | None:
        """An echo as a table hears it; None where it has no part in it."""
        if echo is None:
            return None
        found: Echo | None = heard_by(self.links, echo, table_id, self.tables[table_id])
        return found

    def held(self, board: Board, slicer: Slicer) -> list[Holding]:
        """What each member of a slicer holds under the board's other slicers of its table."""
        if slicer.table not in self.tables or not self.tables[slicer.table].has(slicer.dimension.field):
            return []
        folded = self.fold_of(board, slicer.table)
        others = [s for s in folded.slicers if s.id != slicer.id and s.narrows]
        key = (folded.table, slicer.dimension, others)
        last = _HELD.get(self.memo, slicer.id)
        if last is not None and last[0] == key:  # its own choice has no say in what it holds
            return last[1]
        found = holdings(slicer, others, folded.of_slicers())
        _HELD.put(self.memo, slicer.id, (key, found))
        return found

    def is_folded(self, board: Board) -> bool:
        """Whether every panel can be answered from cells that are there already, without the rows."""
        asked = self.asked
        try:
            for panel in board.panels:
                if is_known(panel, asked) and (table_id := self.table_of(panel)):
                    table = self.tables[table_id]
                    if not is_folded(table, self.fold_of(board, table_id).needed):
                        return False
                    if not _asks_only_sums(panel, asked, table):
                        return False
        except Refusal:
            return False
        return True

    def rows_behind(
        self, board: Board, panel: Panel, tag: Tag, echo: Echo | None = None
    ) -> tuple[Table, NDArray[np.int64], list[str]] | None:
        """The rows behind a mark of a panel, under the slicers that reach it and the echo, and the words that explain
        it; None where the mark stands for no figure of a grid."""
        grid = self.panel(board, panel, echo).grid
        if grid is None or not tag.has_rows:
            return None
        row, column = place_of(grid.rows, tag.members), place_of(grid.columns, tag.members_across)
        if row is None or column is None:
            return None
        table = self.tables[self.table_of(panel)]
        slicers: list[Narrowing] = [slicer for slicer in self.reaching(board, panel) if slicer.narrows]
        heard = self.heard(echo, self.table_of(panel))
        slicers += [heard] if heard is not None else []
        sliced = [each for slicer in slicers for each in needs_of(slicer, table)]
        measure = max(tag.measure, 0)

        def narrow(cells: Cells) -> Mask | None:
            return joined_mask(slicers, cells)

        moving = tuple(each for each in board.slicers if panel.id not in each.spares)
        heard_echo = (*moving, *([echo] if echo is not None else []))
        others = LinkedTables(self.table_of(panel), self.tables, self.links, heard_echo)
        found, rows, words = behind(grid, table, measure, row, column, others, sliced, narrow, tag.within)
        words[2:2] = [f"sliced: {slicer_words(slicer)}" for slicer in slicers]
        return found, rows, words

    def rows_in_play(self, board: Board, table_id: str, echo: Echo | None = None) -> int:
        folded = self.fold_of(board, table_id)
        slicers: list[Narrowing] = [*folded.slicers]
        heard = self.heard(echo, table_id)
        cells = folded.of_slicers()
        if heard is not None:
            slicers.append(heard)
            cells = folded.of_slicers_and(heard)
        mask = joined_mask(slicers, cells)
        if mask is None:
            return folded.table.rows
        return int(mask.sum() if cells.rows is None else cells.rows[mask].sum())


def _asks_only_sums(panel: Panel, asked: Asked, table: Table) -> bool:
    """Whether its figures are put together from parts of cells, without going to the rows."""
    phrase = kind_of(panel).phrase(panel, asked)
    if phrase is None:
        return True
    full = with_defaults(phrase, table)
    return all(a.function in ADDITIVE for m in figures_shown(full) for a in aggregates_of(m.calculation))
