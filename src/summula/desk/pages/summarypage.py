"""The summary page: a title, its phrase, and the answer as a grid or a chart."""

from __future__ import annotations

import math
import statistics
import time
from typing import Any

import msgspec
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from summula.core.boards.reckoning import last_period_stops
from summula.core.charts import Look, draw, why_not
from summula.core.charts.series import column_name
from summula.core.fields.heading import Heading, Member
from summula.core.fields.labels import label_of
from summula.core.folio.model import Summary, with_summary
from summula.core.refusal import Refusal
from summula.core.secondlook import SecondLook, mended, summary_looks
from summula.core.summaries import answer
from summula.core.summaries.behind import rows_behind, story
from summula.core.summaries.dress import Dress, dress_of, dressed, with_dress
from summula.core.summaries.editing import (
    deeper,
    fields_in,
    looked_into,
    ordered_by,
    swap_axes,
    with_field,
    with_member,
)
from summula.core.summaries.figures import said
from summula.core.summaries.grid import Grid
from summula.core.summaries.lever import with_levers
from summula.core.summaries.phrase import FORMS, Form, Phrase
from summula.core.summaries.printing import print_phrase
from summula.core.tables.table import Table
from summula.desk.board.putonboard import open_boards
from summula.desk.frame.contents import dragged_field
from summula.desk.frame.margin import Block, LookBlock, Margin, Note, Pair
from summula.desk.frame.statusline import StatusLine
from summula.desk.grid.pivotgrid import PivotGrid
from summula.desk.pages.formbutton import FormButton
from summula.desk.pages.title import Title
from summula.desk.phrase.phrasebar import PhraseBar, WordButton
from summula.desk.phrase.phrasepopovers import open_word
from summula.desk.phrase.phrasewords import condition_words, heading_words, keep_words, measure_words
from summula.desk.phrase.popoverparts import remove_word
from summula.desk.session import Session
from summula.desk.theme import colour
from summula.desk.widgets.popover import Popover
from summula.desk.widgets.sceneview import SceneView
from summula.desk.work import QUICK_ROWS, Work


class SummaryPage(QWidget):
    """Listens to the summary in view; every change goes through the session."""

    rows_found = pyqtSignal(object, object, list)  # a table, the rows behind a figure, the words that explain it

    def __init__(self, session: Session, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.session, self.margin, self.status = session, margin, status
        self.setObjectName("page")
        self.summary: Summary | None = None
        self.grid: Grid | None = None
        self._answered: object = None
        self.popover: Popover | None = None  # the one opened last
        self.work = Work(self)
        self.work.busy.connect(self._busy)
        self.title = Title(session)
        self.phrase = PhraseBar()
        self.phrase.phrase_said.connect(self.say)
        self.phrase.word_opened.connect(self._open_word)
        self.phrase.word_removed.connect(lambda button: remove_word(button.word, self._phrase(), self.say))
        self.forms = {form: FormButton(form) for form in FORMS}
        self.pivot = PivotGrid()
        self.pivot.folded.connect(self._fold)
        self.pivot.selected.connect(self._selected)
        self.pivot.field_dropped.connect(self.add_field)
        self.pivot.rows_asked.connect(self.show_rows_behind)
        self.pivot.member_asked.connect(self._ask_member)
        self.pivot.order_asked.connect(self._order_by)
        self.pivot.menu_asked.connect(self._add_ways_in)
        self.chart = SceneView("Chart")
        self.stack = QStackedWidget()
        self.stack.addWidget(self.pivot)
        self.sheet = _Sheet(self.chart)
        self.sheet.field_dropped.connect(self.add_field)
        self.stack.addWidget(self.sheet)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 12, 20, 12)
        column.setSpacing(9)
        top = QHBoxLayout()
        top.addWidget(self.title, 1)
        self.type_button = QPushButton("Type it")
        self.type_button.setToolTip("Write the phrase as text (F2)")
        self.type_button.clicked.connect(self.phrase.show_text)
        self.board_button = QPushButton("Put on a board ▾")
        self.board_button.clicked.connect(self.put_on_board)
        top.addWidget(self.type_button)
        top.addWidget(self.board_button)
        column.addLayout(top)
        column.addWidget(self.phrase)
        self.toolbar = self._tools()
        column.addWidget(self.toolbar)
        column.addWidget(self.stack, 1)

    def _tools(self) -> QWidget:
        bar = QWidget()
        row = QHBoxLayout(bar)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        for form in self.forms.values():
            form.chosen.connect(self.draw_as)
            row.addWidget(form)
        row.addStretch(1)
        self.tools: dict[str, QPushButton] = {}
        for key, text, hint, run in (
            ("fold", "Fold all", "Show only the outermost members", self.fold_all),
            ("unfold", "Unfold all", "Show every member", self.unfold_all),
            ("largest", "Largest first", "Order by the first figure", self.largest_first),
            ("swap", "Swap by / across", "Change the axes for each other", self.swap),
        ):
            button = QPushButton(text)
            button.setToolTip(hint)
            button.clicked.connect(run)
            self.tools[key] = button
            row.addWidget(button)
            row.addSpacing(4)
        return bar

    def for_readers(self) -> None:
        """Only what is read: no buttons."""
        for widget in (self.type_button, self.board_button, self.toolbar):
            widget.hide()
        self.phrase.for_readers()

    # -- showing ---------------------------------------------------------------------------------------

    def show_summary(self, summary: Summary) -> None:
        if self.summary is not None and self.summary.id != summary.id:
            self.phrase.show_words()
        self.summary = summary
        self.title.show_name(summary.id, summary.name)
        table = self.session.table(summary.table)
        self.phrase.show_phrase(summary.phrase, self.session.vocabulary(summary.table))
        for form, button in self.forms.items():
            button.set_state(form == summary.phrase.form, why_not(summary.phrase, form))
        phrase = with_levers(summary.phrase, self.session.folio.levers)
        key = (id(table), phrase)
        if key == self._answered and self.grid is not None:
            self._show(self.grid)
            return
        started = time.perf_counter()

        def done(grid: Grid) -> None:
            self._answered = key
            self.took = time.perf_counter() - started
            self._show(grid)

        if table.rows <= QUICK_ROWS:
            self.work.cancel()
            try:
                grid = answer(phrase, table)
            except Refusal as refusal:
                self._refused(refusal)
            else:
                done(grid)
        else:
            self.status.say(f"{table.rows:,} rows", "")
            self.work.ask(lambda: answer(phrase, table), done, self._refused)

    def _show(self, grid: Grid) -> None:
        summary = self.summary
        assert summary is not None
        self.grid = grid
        form = summary.phrase.form
        if form == "grid":
            if grid.empty:
                self.pivot.show_message("No rows are left. Loosen a condition after 'where', or take it away.")
            else:
                self.pivot.show_grid(grid, summary.folded, summary.dresses)
            self.stack.setCurrentWidget(self.pivot)
        else:
            until = last_period_stops(summary.phrase, self.session.table(summary.table), grid)
            look = Look(part_way=bool(until), until=until)
            self.chart.setAccessibleName(f"{summary.name}, drawn as {form}")
            self.chart.show_scene(lambda size, width: draw(grid, form, look, size, width))
            self.stack.setCurrentWidget(self.sheet)
            self._selected([])
        foldable = form == "grid" and grid.rows.depth > 1
        for key, possible in (
            ("fold", foldable),
            ("unfold", foldable),
            ("largest", grid.rows.depth > 0),
            ("swap", True),
        ):
            self.tools[key].setEnabled(possible)
        self.tools["fold"].setVisible(form == "grid")
        self.tools["unfold"].setVisible(form == "grid")
        used = f" · {grid.rows_used:,} after “where” and “keeping”" if grid.rows_used != grid.rows_read else ""
        took = getattr(self, "took", 0.0)
        self.status.say(f"{said(grid.rows_read, 'row')} read{used}", f"worked out in {_duration(took)}")
        self._margin(grid)

    def _refused(self, refusal: Refusal) -> None:
        self.grid, self._answered = None, None
        words = f"{refusal.wrong[:1].upper()}{refusal.wrong[1:]}.\n{refusal.remedy[:1].upper()}{refusal.remedy[1:]}."
        self.pivot.show_message(words)
        self.stack.setCurrentWidget(self.pivot)
        self.status.say("", "")
        self.margin.show_blocks(["This summary", Note(words)])

    def _busy(self, busy: bool) -> None:
        self.status.work(busy, "working it out …")

    def _margin(self, grid: Grid) -> None:
        summary = self.summary
        assert summary is not None
        phrase = summary.phrase
        blocks: list[Block] = ["In this summary"]
        for at, measure in enumerate(phrase.measures):
            style = grid.styles[at]
            style = dressed(style, dress_of(summary.dresses, at))
            pattern = f"{style.unit} {style.pattern}".strip()
            words = measure_words(measure, phrase.measures[:at])
            if phrase.form == "grid":
                blocks.append(Pair(words, f"{pattern} ▾", lambda beside, at=at: self._dress(at, beside)))  # type: ignore[misc]
            else:
                blocks.append(Pair(words, pattern))
        for axis in (grid.rows, grid.columns):
            for depth, heading in enumerate(axis.headings):
                codes = set(axis.levels[axis.depth].codes[:, depth].tolist())
                count = len(codes)
                first = label_of(heading, axis.members[depth][min(codes)]) if codes else ""
                blocks.append(Pair(heading_words(heading), said(count, "member") if count != 1 else first))
        if phrase.where or phrase.keeping:
            blocks.append("Which rows")
            blocks += [Note(f"where {condition_words(c)}") for c in phrase.where]
            blocks += [Note(f"keeping {keep_words(k)}") for k in phrase.keeping]
            blocks.append(Note(f"{grid.rows_used:,} of {grid.rows_read:,} rows"))
        table = self.session.table(summary.table)
        meanings = [(f.name, f.description) for f in table.fields if f.description and f.name in fields_in(phrase)]
        if meanings:
            blocks.append("What it means")
            blocks += [Note(f"{name}: {text}") for name, text in meanings[:4]]
        looks = summary_looks(phrase, table, grid)
        if looks:
            blocks += ["Worth a second look", *(self._look(look) for look in looks)]
        self.margin.show_blocks(blocks)

    def _look(self, look: SecondLook) -> Block:
        def mend() -> None:
            assert self.summary is not None and self.grid is not None
            table = self.session.table(self.summary.table)
            self.say(mended(look.deed, self._phrase(), table, self.grid), look.remedy)

        return LookBlock(look, mend if look.deed else None)

    def _selected(self, chosen: list[tuple[int, float]]) -> None:
        """The selection's sum, mean and median; of its first measure where it holds several."""
        grid = self.grid
        if not chosen or grid is None:
            self.status.select("")
            return
        measure = chosen[0][0]
        figures = [figure for which, figure in chosen if which == measure]
        write = grid.styles[measure].text
        total, median = math.fsum(figures), statistics.median(figures)
        of = "" if len(figures) == len(chosen) else f" of {column_name(grid, measure)}"
        account = f"sum {write(total)} · mean {write(total / len(figures))} · median {write(median)}"
        self.status.select(f"Selected {said(len(figures), 'cell')}{of}: {account}")

    def _dress(self, measure: int, beside: QWidget) -> None:
        """How the figures of a measure look: a popover that shows every choice at once."""
        from summula.desk.pages.dresspopover import DressPopover

        summary, grid = self.summary, self.grid
        assert summary is not None and grid is not None
        figures = grid.values[grid.finest][measure].ravel()
        present = sorted(float(each) for each in figures if math.isfinite(each))
        examples = [present[0], present[len(present) // 2], present[-1]] if len(present) > 2 else present

        def put(dress: Dress) -> None:
            now = self.summary
            assert now is not None
            dresses = with_dress(now.dresses, measure, dress)
            changed = msgspec.structs.replace(now, dresses=dresses)
            self.session.edit(with_summary(self.session.folio, changed), f"Figures of {grid.names[measure]}")

        name = measure_words(summary.phrase.measures[measure], summary.phrase.measures[:measure])
        style, dress = grid.styles[measure], dress_of(summary.dresses, measure)
        popover = DressPopover(self, name, style, examples, dress, put)
        popover.stays = True
        popover.open_below(beside)
        self.popover = popover

    # -- behind a figure --------------------------------------------------------------------------------

    def show_rows_behind(self) -> None:
        """Ask for the rows behind the figure under the cursor (without one: behind the bottom line)."""
        grid, summary = self.grid, self.summary
        if grid is None or summary is None:
            return
        measure, row, column = self.pivot.current() or (0, (0, 0), (0, 0))
        table = self.session.table(summary.table)

        def work() -> tuple[Table, Any, list[str]]:
            rows = rows_behind(grid, table, measure, row, column)
            return table, rows, story(grid, table, measure, row, column, rows)

        if table.rows <= QUICK_ROWS:
            self.rows_found.emit(*work())
        else:
            self.work.ask(work, lambda found: self.rows_found.emit(*found), self.session.refuse)

    def _ask_member(self, which: str) -> None:
        """Keep only, or leave out, the member of the row under the cursor."""
        grid, at = self.grid, self.pivot.current()
        if grid is None or at is None or at[1][0] == 0:
            return
        level, node = at[1]
        heading, member = grid.rows.headings[level - 1], grid.rows.path(level, node)[-1]
        if which == "into":
            self._look_into(heading, member)
            return
        changed = with_member(self._phrase(), heading, member, only=which == "only")
        if changed is None:
            self.session.told.emit("This is not one member: change the words after “keeping” instead.", True)
            return
        self.say(changed, f"{'Only' if which == 'only' else 'Without'} {label_of(heading, member)}")

    def _look_into(self, heading: Heading, member: Member, by: Heading | None = None) -> None:
        """One member alone, a heading deeper: by the heading chosen, or the first that suits."""
        assert self.summary is not None
        ways = deeper(self._phrase(), self.session.table(self.summary.table), heading)
        by = by or (ways[0] if ways else None)
        changed = looked_into(self._phrase(), heading, member, by) if by is not None else None
        if changed is None or by is None:
            self.session.told.emit("There is nothing more to look into it by.", True)
            return
        self.say(changed, f"Look into {label_of(heading, member)} by {heading_words(by)}")

    def _add_ways_in(self, menu: QMenu) -> None:
        """The headings that the member under the cursor can be looked into by."""
        grid, at = self.grid, self.pivot.current()
        if grid is None or at is None or self.summary is None or at[1][0] == 0:
            return
        heading, member = grid.rows.headings[at[1][0] - 1], grid.rows.path(*at[1])[-1]
        inner = menu.addMenu(f"Look into {label_of(heading, member)} by")
        assert inner is not None
        for by in deeper(self._phrase(), self.session.table(self.summary.table), heading):
            made = inner.addAction(heading_words(by))
            assert made is not None
            made.triggered.connect(lambda _, by=by: self._look_into(heading, member, by))

    def back(self) -> None:
        """Out of the member that was looked into last."""
        if self.session.history.undo_deed.startswith("Look into"):
            self.session.undo()

    def _order_by(self, measure: int, how: str) -> None:
        if not how:
            self.say(msgspec.structs.replace(self._phrase(), order=None), "In the members' own order")
            return
        ordered = ordered_by(self._phrase(), self._phrase().measures[measure], largest=how == "largest")
        self.say(ordered, f"{how.capitalize()} first")

    # -- edits -----------------------------------------------------------------------------------------

    def _phrase(self) -> Phrase:
        assert self.summary is not None
        return self.summary.phrase

    def say(self, phrase: Phrase, deed: str) -> None:
        if self.summary is not None:
            self.session.set_phrase(self.summary, phrase, deed)

    def _open_word(self, button: WordButton) -> None:
        assert self.summary is not None
        self.popover = open_word(
            button, button.word, self._phrase(), self.session.vocabulary(self.summary.table), self.say
        )

    def add_field(self, name: str, clause: str | None = None) -> None:
        if self.summary is not None:
            table = self.session.table(self.summary.table)
            if table.has(name):
                self.say(with_field(self._phrase(), table, name, clause), f"Put {name} into the phrase")  # type: ignore[arg-type]

    def draw_as(self, form: Form) -> None:
        self.say(msgspec.structs.replace(self._phrase(), form=form), f"Draw as {form}")

    def largest_first(self) -> None:
        self.say(ordered_by(self._phrase(), self._phrase().measures[0], largest=True), "Largest first")

    def swap(self) -> None:
        self.say(swap_axes(self._phrase()), "Swap by and across")

    def _fold(self, path: tuple[str, ...]) -> None:
        assert self.summary is not None
        folded = set(self.summary.folded)
        deed = "Unfold" if path in folded else "Fold"
        folded ^= {path}
        self._set_folded(tuple(sorted(folded)), f"{deed} {path[-1]}")

    def fold_all(self) -> None:
        layout = self.pivot.layout_
        if layout is not None:
            self._set_folded(tuple(line.path for line in layout.rows if line.foldable and line.level == 1), "Fold all")

    def unfold_all(self) -> None:
        self._set_folded((), "Unfold all")

    def _set_folded(self, folded: tuple[tuple[str, ...], ...], deed: str) -> None:
        if self.summary is not None:
            self.session.edit(
                with_summary(self.session.folio, msgspec.structs.replace(self.summary, folded=folded)), deed
            )

    def put_on_board(self) -> None:
        if self.summary is not None:
            self.popover = open_boards(self.board_button, self.session, self.summary)

    def copy_phrase(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None and self.summary is not None:
            clipboard.setText(print_phrase(self.summary.phrase))
            self.session.told.emit("The phrase is on the clipboard", False)


class _Sheet(QWidget):
    """A white sheet around a chart. A field dropped on it goes where fields of its kind belong."""

    field_dropped = pyqtSignal(str)

    def __init__(self, inner: QWidget) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 16, 18, 12)
        column.addWidget(inner)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dragged_field(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        name = dragged_field(event.mimeData()) if event is not None else None
        if event is not None and name is not None:
            event.acceptProposedAction()
            self.field_dropped.emit(name)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("sheet"))
        painter.setPen(colour("hairline"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


def _duration(seconds: float) -> str:
    return f"{seconds * 1000:.0f} ms" if seconds < 1 else f"{seconds:.1f} s"
