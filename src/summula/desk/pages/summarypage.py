"""The summary page: a title, its phrase, and the answer as a grid or a chart."""

from __future__ import annotations

import math
import time
from typing import TYPE_CHECKING, Any, assert_never

from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, pyqtSignal
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from summula.core.arrays import np
from summula.core.charts import draw
from summula.core.charts.markwords import mark_words
from summula.core.charts.series import column_name
from summula.core.engine.answer import most_figures
from summula.core.fields.figures import plural
from summula.core.phrases.editing import default_keep, put, swap_axes, with_field
from summula.core.phrases.fitting import suiting, why_not
from summula.core.phrases.forms import FORMS, Form
from summula.core.phrases.lever import with_levers
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal
from summula.core.summaries import answer
from summula.desk.board.putonboard import open_boards
from summula.desk.frame.marginblocks import Note
from summula.desk.grid.pivotgrid import PivotGrid
from summula.desk.pages.answered import Answered, Drawn, keep
from summula.desk.pages.beginning import Beginning, asks_nothing
from summula.desk.pages.chartactions import ChartActions
from summula.desk.pages.chartsheet import ChartSheet, Toolbar
from summula.desk.pages.formbutton import FormButton
from summula.desk.pages.gridactions import GridActions
from summula.desk.pages.summarymargin import SummaryMargin
from summula.desk.pages.title import Title
from summula.desk.pages.trail import Trail
from summula.desk.phrase.formsheet import FormSheet
from summula.desk.phrase.phrasebar import PhraseBar
from summula.desk.phrase.phrasepopovers import open_word
from summula.desk.phrase.phrasewords import PhrasePart, Word
from summula.desk.phrase.popoverparts import remove_word
from summula.desk.pictures import PictureMime
from summula.desk.theme import worn
from summula.desk.widgets.flow import FlowLayout
from summula.desk.widgets.lastpopover import LastPopover
from summula.desk.widgets.plaintext import Button, set_tip
from summula.desk.widgets.sceneview import SceneView
from summula.desk.widgets.veil import Veil
from summula.desk.work import QUICK_FIGURES, QUICK_ROWS, Work

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.scene import Scene
    from summula.core.engine.grid import Grid
    from summula.core.folio.model import Summary
    from summula.core.phrases.phrase import Phrase
    from summula.desk.frame.margin import Margin
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.grid.copying import Cells
    from summula.desk.phrase.wordbutton import WordButton
    from summula.desk.session import Session
    from summula.desk.widgets.popover import Popover

MOST_COLUMNS = 5_000


_FORMS_SHOWN = 8  # in the strip; the word after "drawn as" opens all of them


class SummaryPage(QWidget):
    """Listens to the summary in view; every change goes through the session."""

    rows_found = pyqtSignal(object, object, list)  # a table, the rows behind a figure, the words that explain it
    popover: LastPopover[Popover] = LastPopover()

    def __init__(self, session: Session, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.session, self.margin, self.status = session, margin, status
        self.setObjectName("page")
        self.summary: Summary | None = None
        self.grid: Grid | None = None
        self.as_figures = False  # whether a chart is seen as the figures that it draws
        self._answers: dict[str, Answered] = {}  # by summary
        self._drawn: dict[str, Drawn] = {}
        self._shown: Summary | None = None  # the summary that the grid answers
        self.took = 0.0  # seconds that working it out took
        self.work = Work(self)
        self.work.busy.connect(self._busy)  # before the status line
        self.side_work = Work(self)  # for what is asked beside the answer: rows behind a figure, a bundle
        status.attend(self.work, "calculating …")
        status.attend(self.side_work, "calculating …")
        self.title = Title(session)
        self.phrase = PhraseBar()
        self.phrase.phrase_said.connect(self.say)
        self.phrase.word_opened.connect(self._open_word)
        self.phrase.word_removed.connect(lambda button: remove_word(button.word, self.phrase_now(), self.say))
        self.phrase.carrying.elsewhere = lambda place: self.pivot.clause_at(place)
        self.forms = {form: FormButton(form) for form in FORMS}
        self.pivot = PivotGrid()
        self.pivot.selected.connect(self._selected)
        self.pivot.field_dropped.connect(self.add_field)
        self.pivot.refused.connect(lambda wrong, remedy: session.refuse(Refusal(wrong, remedy)))
        self.pivot.phrase_asked.connect(self.copy_phrase)
        self.pivot.cells_asked.connect(lambda make: self.side_work.ask(make, self._copied, session.refuse))
        self.grid_actions = GridActions(self)
        self.trail = Trail()
        self.trail.asked.connect(self.grid_actions.back)
        self.chart = SceneView("Chart")
        self.summary_margin = SummaryMargin(self)
        self.chart.pointing = True
        self.chart_actions = ChartActions(self)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.pivot)
        self.sheet = ChartSheet(self.chart)
        self.sheet.field_dropped.connect(self.add_field)
        self.stack.addWidget(self.sheet)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 12, 20, 12)
        column.setSpacing(9)
        top = QHBoxLayout()
        top.addWidget(self.title, 1)
        self.type_button = Button("Type phrase")
        set_tip(self.type_button, "Edit the phrase as text (F2)")
        self.type_button.clicked.connect(self.phrase.show_text)
        self.board_button = Button("Add to board ▾")
        self.board_button.clicked.connect(self.put_on_board)
        top.addWidget(self.type_button)
        top.addWidget(self.board_button)
        column.addLayout(top)
        column.addWidget(self.phrase)
        self.toolbar = self._tools()
        column.addWidget(self.toolbar)
        column.addWidget(self.trail)
        column.addWidget(self.stack, 1)
        self.beginning = Beginning(self.add_field, lambda phrase, name: self.say(phrase, f"Ask for {name}"))
        self.beginning.hide()
        column.addWidget(self.beginning, 3)
        self.veil = Veil(self.stack)

    def _tools(self) -> QWidget:
        forms = QWidget()
        self._strip = FlowLayout(forms, 1, 2)
        self._offered: tuple[Form, ...] = ()
        for form in self.forms.values():
            form.chosen.connect(self.draw_as)
            self._strip.addWidget(form)
        grid_actions = QWidget()
        row = QHBoxLayout(grid_actions)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.tools: dict[str, Button] = {}
        for key, text, hint, run in (
            ("fold", "Collapse", "Collapse all", self.grid_actions.fold_all),
            ("unfold", "Expand", "Expand all", self.grid_actions.unfold_all),
            ("figures", "Values", "Show this chart as a grid, and back (Ctrl+G)", self.swap_figures),
            ("largest", "Largest first", "Sort by the first measure", self.grid_actions.largest_first),
            ("swap", "Swap axes", "Swap rows and columns", self.swap),
        ):
            button = Button(text)
            set_tip(button, hint)
            button.clicked.connect(run)
            self.tools[key] = button
            row.addWidget(button)
        return Toolbar(forms, _FORMS_SHOWN * (next(iter(self.forms.values())).minimumWidth() + 1), grid_actions)

    def for_readers(self) -> None:
        """Only what is read: no buttons."""
        for widget in (self.type_button, self.board_button, self.toolbar):
            widget.hide()
        self.phrase.for_readers()

    # -- showing ---------------------------------------------------------------------------------------

    def show_summary(self, summary: Summary) -> None:
        if self.summary is not None and self.summary.id != summary.id:
            self.phrase.show_words()
            self.as_figures = False
        self.summary = summary
        self.title.show_name(summary.id, summary.name)
        self.trail.show_drilled(summary.drilled)
        table = self.session.table(summary.table)
        self.phrase.show_phrase(summary.phrase, self.session.vocabulary(summary.table))
        self._offer_forms(summary.phrase)
        empty = asks_nothing(summary.phrase)
        self.beginning.setVisible(empty)
        if empty:
            self.beginning.show_table(table)
        phrase = with_levers(summary.phrase, self.session.folio.levers)
        others = self.session.others(summary.table)
        known = self._answers.get(summary.id)
        if known is not None and known.answers(phrase, table, others):
            self.work.cancel()  # what was asked in between
            self._take(summary, known)
            return
        started = time.perf_counter()
        quick = table.rows <= QUICK_ROWS and most_figures(phrase, table) <= QUICK_FIGURES

        asking = True

        def done(grid: Grid) -> None:
            found = Answered.of(phrase, table, others, grid, time.perf_counter() - started)
            self._take(summary, found, seen=asking or not self.isHidden())

        def refused(refusal: Refusal) -> None:
            if asking or not self.isHidden():
                self.refused(refusal)

        self.work.ask(lambda: answer(phrase, table, others=others), done, refused, soon=quick)
        asking = False

    def _take(self, summary: Summary, found: Answered, *, seen: bool = True) -> None:
        """An answer is there. It is not `seen` where the rows behind a figure are read meanwhile, margin and all."""
        for key in [key for key, each in self._answers.items() if key != summary.id and not each.is_light]:
            del self._answers[key]
            self._drawn.pop(key, None)
        keep(self._answers, summary.id, found)
        self._shown, self.grid, self.took = summary, found.grid, found.took
        if seen:
            self.show_grid(found.grid)

    def _draw(self, chart: Chart, key: str, canvas: Canvas) -> Scene:
        seen = self._drawn.get(key)
        if seen is None or not seen.shows(chart, worn(), canvas):
            seen = Drawn(chart, worn(), canvas.size, draw(chart, canvas))
            keep(self._drawn, key, seen)
        return seen.scene

    def _offer_forms(self, phrase: Phrase) -> None:
        """The few forms that suit the phrase, best first. All of them are offered by the word after "drawn as"."""
        suit = suiting(phrase, _FORMS_SHOWN)
        if suit != self._offered:
            self._offered = suit
            self._strip.setEnabled(False)  # each that is shown would have everything laid out anew
            while self._strip.count():
                self._strip.takeAt(0)
            for form, button in self.forms.items():
                if button.isHidden() == (form in suit):
                    button.setVisible(form in suit)
            for form in suit:
                self._strip.addWidget(self.forms[form])
            self._strip.setEnabled(True)
            self._strip.invalidate()
        for form, button in self.forms.items():
            button.set_state(form == phrase.form, why_not(phrase, form))

    def show_grid(self, grid: Grid) -> None:
        summary = self.summary
        assert summary is not None
        self.grid = grid
        form = summary.phrase.form
        if form == "grid" or (self.as_figures and self.can_swap_figures):
            if grid.empty:
                self.pivot.show_message("No rows match. Change or remove a condition after 'where'.")
            elif grid.columns.levels[-1].size * len(grid.names) > MOST_COLUMNS:
                columns = grid.columns.levels[-1].size * len(grid.names)
                self.pivot.show_message(
                    f"{columns:,} columns are too many to read. Swap rows and columns, or keep the top few."
                )
            else:
                look = self.session.folio.look_of(summary).grid
                self.pivot.show_grid(grid, summary.folded, look.measures, summary.layout, summary.folded_across)
            self.stack.setCurrentWidget(self.pivot)
        else:
            chart = self.chart_actions.chart_of(summary, grid)
            self.chart.setAccessibleName(f"{summary.name}, drawn as {form}")
            self.chart.show_scene(
                lambda canvas: self._draw(chart, summary.id, canvas), lambda tag: mark_words(chart, tag)
            )
            self.stack.setCurrentWidget(self.sheet)
            self.pivot.show_message("")  # nothing there is selected any more
            self._selected([])
        foldable = form == "grid" and max(grid.rows.depth, grid.columns.depth) > 1
        for key, possible in (
            ("fold", foldable),
            ("unfold", foldable),
            ("largest", grid.rows.depth > 0),
            ("swap", True),
            ("figures", self.can_swap_figures),
        ):
            self.tools[key].setEnabled(possible)
        self.tools["figures"].setVisible(self.can_swap_figures)
        self.tools["figures"].setText("Chart" if self.as_figures else "Values")
        self.tools["fold"].setVisible(form == "grid")
        self.tools["unfold"].setVisible(form == "grid")
        used = f" · {grid.rows_used:,} after “where” and “keeping”" if grid.rows_used != grid.rows_read else ""
        self.status.say(f"{plural(grid.rows_read, 'row')} read{used}", f"calculated in {_duration(self.took)}")
        self.summary_margin.show(grid)

    def refused(self, refusal: Refusal) -> None:
        words = "\n".join(refusal.sentences)
        self._show_none(words)
        self.status.say("", "")
        self.margin.show_blocks(["This summary", Note(words)], self.summary.id if self.summary is not None else "")

    def _busy(self, busy: bool) -> None:
        summary = self.summary
        if busy and summary is not None:
            self.status.say(f"{self.session.table(summary.table).rows:,} rows", "")
            if self._shown is None or self._shown.id != summary.id:  # another summary's answer would mislead
                self._show_none("Calculating …")
                # Not what the last page offered.
                self.margin.show_blocks(["This summary", Note("Calculating …")], summary.id)
        self.veil.lay(busy and self.grid is not None)

    def cancel(self) -> None:
        """Stop working out the answer, and go back to the question whose answer is shown."""
        self.side_work.cancel()
        if not self.work.waits:
            return
        self.work.cancel()
        now, shown = self.summary, self._shown
        if now is not None and shown is not None and shown.id == now.id and shown.phrase != now.phrase:
            self.say(shown.phrase, "cancel")
        else:
            self._show_none("Stopped before the answer was there.\nChange a word, or turn to this page again.")
            self.status.say("", "")

    def let_go(self) -> None:
        """Hold no answer any more: its folio has gone."""
        for work in (self.work, self.side_work):
            work.cancel()
        self.summary = None
        self.phrase.let_go()
        self._answers.clear()
        self._drawn.clear()
        self.beginning.let_go()
        self._show_none("")

    def _show_none(self, words: str) -> None:
        self.grid, self._shown = None, None
        self.pivot.show_message(words)
        self.stack.setCurrentWidget(self.pivot)

    def _selected(self, chosen: list[tuple[int, Any]]) -> None:
        """The selection's sum, mean and median; of its first measure where it holds several."""
        grid = self.grid
        measure, figures = next(((which, each) for which, each in chosen if len(each)), (0, ()))
        if not len(figures) or grid is None:
            self.status.select("")
            return
        write = grid.styles[measure].text
        total, median = math.fsum(figures), float(np.median(figures))
        of = "" if sum(len(each) for _, each in chosen) == len(figures) else f" of {column_name(grid, measure)}"
        account = f"sum {write(total)} · mean {write(total / len(figures))} · median {write(median)}"
        self.status.select(f"Selected {plural(len(figures), 'cell')}{of}: {account}")

    @property
    def can_swap_figures(self) -> bool:
        """Whether the page shows a chart of figures that a grid can hold."""
        grid = self.grid
        return (
            self.summary is not None
            and grid is not None
            and self.summary.phrase.form != "grid"
            and grid.samples is None
        )

    def swap_figures(self) -> None:
        """The chart as the figures it draws, and back."""
        if self.can_swap_figures and self.grid is not None:
            self.as_figures = not self.as_figures
            self.show_grid(self.grid)
            self.session.notice.emit(
                "The chart as a grid; Ctrl+G shows the chart again" if self.as_figures else "", False
            )
            (self.pivot if self.as_figures else self.chart).setFocus()

    # -- edits -----------------------------------------------------------------------------------------

    def phrase_now(self) -> Phrase:
        assert self.summary is not None
        return self.summary.phrase

    def say(self, phrase: Phrase, edit_name: str) -> None:
        if self.summary is not None:
            self.session.set_phrase(self.summary, phrase, edit_name)

    def _open_word(self, button: WordButton) -> None:
        assert self.summary is not None
        if button.word.role == "form":
            self.choose_form(button)
            return
        self._open(button.word, button)

    def _open(self, word: Word, anchor: QWidget) -> None:
        assert self.summary is not None
        vocabulary = self.session.vocabulary(self.summary.table)
        self.popover = open_word(anchor, word, self.phrase_now(), vocabulary, self.say)

    def change_part(self, part: PhrasePart) -> None:
        """Open what adds or changes a part of the phrase, as a click on its word does."""
        phrase, more = self.phrase_now(), self.phrase.button("add", clause="more")
        match part:
            case "where" | "by" | "across" | "multiples":
                self._open(Word("add", "+", part), more)
            case "measure" | "target":
                self._open(Word("add", "+", "measures"), more)
            case "order":
                self._open(Word("order", "", "order"), more)
            case "compare" | "aggregate":
                button = self.phrase.button("measures")
                self._open(button.word, button)
            case "keep" if phrase.keeping:
                button = self.phrase.button("keeping")
                self._open(button.word, button)
            case "keep":
                assert self.summary is not None
                keep = default_keep(phrase, self.session.table(self.summary.table))
                if keep is not None:
                    self.say(put(phrase, "keeping", None, keep), "Keep the top 5")
            case _:
                assert_never(part)

    def choose_form(self, anchor: QWidget) -> None:
        """The sheet of all forms, drawn of this summary."""
        summary = self.summary
        if summary is None:
            return
        table = self.session.table(summary.table)
        look = self.session.folio.look_of(summary)
        grid = self.grid if self._shown == summary else None
        self.popover = FormSheet(
            self, summary.phrase, grid, table, look, self.draw_as, self.session.others(summary.table)
        )
        self.popover.open_below(anchor)

    def add_field(self, name: str, clause: str | None = None) -> None:
        if self.summary is not None:
            table = self.session.table(self.summary.table)
            if table.has(name):
                self.say(with_field(self.phrase_now(), table, name, clause), f"Put {name} into the phrase")  # type: ignore[arg-type]

    def draw_as(self, form: Form) -> None:
        self.say(replace(self.phrase_now(), form=form), f"Draw as {form}")

    def swap(self) -> None:
        self.say(swap_axes(self.phrase_now()), "Swap rows and columns")

    def put_on_board(self) -> None:
        if self.summary is not None:
            self.popover = open_boards(self.board_button, self.session, self.summary)

    def as_mime(self) -> QMimeData | None:
        """What is shown, as other programs take it: cells, or a picture of the chart; None while nothing is there."""
        if self.stack.currentWidget() is self.pivot:
            cells = self.pivot.all_cells()
            return cells.mime() if cells is not None else None
        scene = self.chart.scene
        name = self.summary.name if self.summary is not None else ""
        return PictureMime(scene, name) if scene is not None else None

    def _copied(self, cells: Cells) -> None:
        cells.put()
        self.session.notice.emit(f"{cells.cells:,} cells on the clipboard", False)

    def copy_phrase(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None and self.summary is not None:
            clipboard.setText(print_phrase(self.summary.phrase))
            self.session.notice.emit("The phrase is on the clipboard", False)


def _duration(seconds: float) -> str:
    return f"{seconds * 1000:.0f} ms" if seconds < 1 else f"{seconds:.1f} s"
