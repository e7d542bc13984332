"""The summary page: a title, its phrase, and the answer as a grid or a chart."""

from __future__ import annotations

import math
import time
from typing import Any

from msgspec.structs import replace
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QHBoxLayout, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from summula.core.arrays import np
from summula.core.boards.livefigures import LiveRows, has_live, live_words, with_live_words
from summula.core.charts import chart_of, draw, why_not
from summula.core.charts.chart import Chart
from summula.core.charts.drawers import DRAWERS
from summula.core.charts.frame import LEGEND
from summula.core.charts.markwords import mark_words
from summula.core.charts.scene import Mark, Tag, Text
from summula.core.charts.series import column_name
from summula.core.charts.settings import heeded, with_member_set_off
from summula.core.charts.style import PLAIN_STYLE, ChartStyle, Words
from summula.core.engine.answer import most_figures
from summula.core.engine.grid import Grid
from summula.core.fields.figures import plural
from summula.core.fields.heading import Heading, Member
from summula.core.fields.labels import label_of
from summula.core.folio.model import Summary, with_summary
from summula.core.phrases.editing import swap_axes, with_field
from summula.core.phrases.fitting import suiting
from summula.core.phrases.forms import FORMS, Form
from summula.core.phrases.lever import with_levers
from summula.core.phrases.members import with_stretch
from summula.core.phrases.phrase import Phrase
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal
from summula.core.summaries import answer
from summula.desk.board.putonboard import open_boards
from summula.desk.frame.contents import dragged_field
from summula.desk.frame.margin import Margin, Note
from summula.desk.frame.statusline import StatusLine
from summula.desk.grid.copying import Cells
from summula.desk.grid.pivotgrid import PivotGrid
from summula.desk.pages.beginning import Beginning, asks_nothing
from summula.desk.pages.formbutton import FormButton
from summula.desk.pages.gridactions import GridActions
from summula.desk.pages.summarymargin import SummaryMargin
from summula.desk.pages.title import Title
from summula.desk.pages.trail import Trail
from summula.desk.phrase.formsheet import FormSheet
from summula.desk.phrase.phrasebar import PhraseBar
from summula.desk.phrase.phrasepopovers import open_word
from summula.desk.phrase.popoverparts import remove_word
from summula.desk.phrase.wordbutton import WordButton
from summula.desk.session import Session
from summula.desk.theme import colour
from summula.desk.widgets.flow import FlowLayout
from summula.desk.widgets.popover import Popover
from summula.desk.widgets.sceneview import SceneView
from summula.desk.widgets.veil import Veil
from summula.desk.work import QUICK_FIGURES, QUICK_ROWS, Work

MOST_COLUMNS = 5_000


_FORMS_SHOWN = 8  # in the strip; the word after "drawn as" opens all of them


class SummaryPage(QWidget):
    """Listens to the summary in view; every change goes through the session."""

    rows_found = pyqtSignal(object, object, list)  # a table, the rows behind a figure, the words that explain it

    def __init__(self, session: Session, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.session, self.margin, self.status = session, margin, status
        self.setObjectName("page")
        self.summary: Summary | None = None
        self.grid: Grid | None = None
        self.as_figures = False  # whether a chart is seen as the figures that it draws
        self.copied_style: ChartStyle | None = None
        self._answered: object = None
        self._live: tuple[object, Words] | None = None  # the last words with live figures, and what they depend on
        self._shown: Summary | None = None  # the summary that the grid answers
        self.popover: Popover | None = None  # the one opened last
        self.work = Work(self)
        self.work.busy.connect(self._busy)
        self.side_work = Work(self)  # for what is asked beside the answer: rows behind a figure, a bundle
        status.attend(self.work, "working it out …")
        status.attend(self.side_work, "working …")
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
        self.summary_margin = SummaryMargin(self)
        self.trail = Trail()
        self.trail.asked.connect(self.grid_actions.back)
        self.chart = SceneView("Chart")
        self.chart.pointing = True
        self.chart.asked.connect(self._asked_of_chart)
        self.chart.pointed.connect(self._pointed)
        self.chart.stretched.connect(self._stretched)
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
        self.tools: dict[str, QPushButton] = {}
        for key, text, hint, run in (
            ("fold", "Fold", "Show only the outermost members", self.grid_actions.fold_all),
            ("unfold", "Unfold", "Show every member", self.grid_actions.unfold_all),
            ("figures", "Figures", "The figures of this chart, and back (Ctrl+G)", self.swap_figures),
            ("largest", "Largest first", "Order by the first figure", self.grid_actions.largest_first),
            ("swap", "Swap axes", "Put what stands by across, and the other way round", self.swap),
        ):
            button = QPushButton(text)
            button.setToolTip(hint)
            button.clicked.connect(run)
            self.tools[key] = button
            row.addWidget(button)
        return _Toolbar(forms, _FORMS_SHOWN * (next(iter(self.forms.values())).minimumWidth() + 1), grid_actions)

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
        key = (id(table), phrase)
        if key == self._answered and self.grid is not None:
            self.work.cancel()  # what was asked in between
            self._show(self.grid)
            return
        started = time.perf_counter()
        quick = table.rows <= QUICK_ROWS and most_figures(phrase, table) <= QUICK_FIGURES
        others = self.session.others(summary.table)

        def done(grid: Grid) -> None:
            self._answered, self._shown, self.grid = key, summary, grid
            self.took = time.perf_counter() - started
            if quick or self.isVisible():  # else the rows behind a figure are read meanwhile, margin and all
                self._show(grid)

        if quick:
            self.work.cancel()
            try:
                grid = answer(phrase, table, others=others)
            except Refusal as refusal:
                self._refused(refusal)
            else:
                done(grid)
        else:
            self.status.say(f"{table.rows:,} rows", "")
            if self._shown is None or self._shown.id != summary.id:  # another summary's answer would mislead
                self._show_none("Working it out …")
                self.margin.show_blocks(["This summary", Note("Working it out …")])  # not what the last page offered
            self.work.ask(lambda: answer(phrase, table, others=others), done, self._refused)

    def _offer_forms(self, phrase: Phrase) -> None:
        """The few forms that suit the phrase, best first. All of them are offered by the word after "drawn as"."""
        suit = suiting(phrase, _FORMS_SHOWN)
        if suit != self._offered:
            self._offered = suit
            while self._strip.count():
                self._strip.takeAt(0)
            for form, button in self.forms.items():
                if button.isHidden() == (form in suit):
                    button.setVisible(form in suit)
            for form in suit:
                self._strip.addWidget(self.forms[form])
        for form, button in self.forms.items():
            button.set_state(form == phrase.form, why_not(phrase, form))

    def _show(self, grid: Grid) -> None:
        summary = self.summary
        assert summary is not None
        self.grid = grid
        form = summary.phrase.form
        if form == "grid" or (self.as_figures and self.can_swap_figures):
            if grid.empty:
                self.pivot.show_message("No rows are left. Loosen a condition after 'where', or take it away.")
            elif grid.columns.levels[-1].size * len(grid.names) > MOST_COLUMNS:
                columns = grid.columns.levels[-1].size * len(grid.names)
                self.pivot.show_message(
                    f"{columns:,} columns are more than can be read. Swap by and across, or keep the top few."
                )
            else:
                look = self.session.folio.look_of(summary).grid
                self.pivot.show_grid(grid, summary.folded, look.measures, summary.layout, summary.folded_across)
            self.stack.setCurrentWidget(self.pivot)
        else:
            chart = self._chart_of(summary, grid)
            self.chart.setAccessibleName(f"{summary.name}, drawn as {form}")
            self.chart.show_scene(lambda canvas: draw(chart, canvas), lambda tag: mark_words(chart, tag))
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
        self.tools["figures"].setText("Chart" if self.as_figures else "Figures")
        self.tools["fold"].setVisible(form == "grid")
        self.tools["unfold"].setVisible(form == "grid")
        used = f" · {grid.rows_used:,} after “where” and “keeping”" if grid.rows_used != grid.rows_read else ""
        took = getattr(self, "took", 0.0)
        self.status.say(f"{plural(grid.rows_read, 'row')} read{used}", f"worked out in {_duration(took)}")
        self.summary_margin.show(grid)

    def _refused(self, refusal: Refusal) -> None:
        words = f"{refusal.wrong[:1].upper()}{refusal.wrong[1:]}.\n{refusal.remedy[:1].upper()}{refusal.remedy[1:]}."
        self._show_none(words)
        self.status.say("", "")
        self.margin.show_blocks(["This summary", Note(words)])

    def _busy(self, busy: bool) -> None:
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

    def _show_none(self, words: str) -> None:
        self.grid, self._answered, self._shown = None, None, None
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

    def _chart_of(self, summary: Summary, grid: Grid) -> Chart:
        """The chart of the answer, its live figures answered on the summary's own rows."""
        table, folio = self.session.table(summary.table), self.session.folio
        where = with_levers(summary.phrase, folio.levers).where
        rows = LiveRows(table, None, (), where, folio.levers, folio.read_at()[summary.table])
        chart = chart_of(grid, table, folio.look_of(summary))
        key = (id(table), chart.style.words, where, folio.levers)
        if self._live is not None and self._live[0] == key:
            style = replace(chart.style, words=self._live[1])
            return replace(chart, look=replace(chart.look, style=style))
        if table.rows <= QUICK_ROWS or not has_live(chart.style.words):
            return with_live_words(chart, rows)

        def answered(words: Words) -> None:
            self._live = (key, words)
            if self.summary == summary and self.grid is grid:
                self._show(grid)

        self.side_work.ask(lambda: live_words(chart.style.words, rows), answered, self._refused)
        return chart

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
            self._show(self.grid)
            self.session.notice.emit(
                "The figures of the chart; Ctrl+G draws them again" if self.as_figures else "", False
            )
            (self.pivot if self.as_figures else self.chart).setFocus()

    def copy_style(self) -> None:
        if self.summary is not None:
            self.copied_style = self.summary.style
            self.session.notice.emit("Turn to another summary and let it look like this one (Ctrl+Alt+V)", False)

    def paste_style(self) -> None:
        if self.copied_style is not None:
            self._style(self.copied_style, "Look like another chart")

    def plain_style(self) -> None:
        self._style(PLAIN_STYLE, "Look as it comes")

    def _style(self, style: ChartStyle, edit_name: str) -> None:
        if self.summary is not None:
            self.session.edit(with_summary(self.session.folio, replace(self.summary, style=style)), edit_name)

    def make_default_style(self) -> None:
        """What is new in the folio looks like this summary: all but its own words and its chosen members."""
        if self.summary is not None:
            style = self.summary.style
            words, emphasis = Words(), style.emphasis
            emphasis = replace(emphasis, end="", members="") if emphasis.end == "members" else emphasis
            style = replace(style, words=words, emphasis=emphasis)
            self.session.edit(replace(self.session.folio, style=style), "Let new charts look like this one")

    # -- the chart, by hand ----------------------------------------------------------------------------

    def _asked_of_chart(self, tag: Tag) -> None:
        """A double click: the rows behind a figure; a member's name leads a heading deeper."""
        if tag.text:
            self.grid_actions.show_rows_of(tag)
        elif tag.by:
            self.grid_actions.look_into(*tag.by[-1])

    def _pointed(self, mark: Mark | None) -> None:
        """A click: the settings of what was clicked stand in the margin. An entry of the legend sets its member off."""
        part = None if mark is None else getattr(mark, "part", "")
        if isinstance(mark, Text) and part == LEGEND and mark.full and self.summary is not None:
            style = with_member_set_off(self.summary.style, mark.full)
            if "Emphasis" in {each.group for each in heeded(self.summary.phrase.form)}:
                self.session.edit(
                    with_summary(self.session.folio, replace(self.summary, style=style)), f"Set off {mark.full}"
                )
        self.summary_margin.point_at(part, self._member_of(mark))

    def _member_of(self, mark: Mark | None) -> tuple[Heading, Member] | None:
        """Whose ink a mark or an entry of the legend is drawn in; None where inks do not go by members."""
        grid = self.grid
        if grid is None or mark is None or self.summary is None:
            return None
        by_members = DRAWERS[self.summary.phrase.form].told == "members" or self.summary.style.colour.by == "member"
        axis = grid.rows if by_members else grid.columns
        if not axis.headings or len(grid.phrase.measures) > 1:
            return None
        if mark.tag is not None and mark.tag.text:
            pairs = mark.tag.by if by_members else mark.tag.across
            return pairs[-1] if pairs else None
        if isinstance(mark, Text) and mark.part == LEGEND:
            heading = axis.headings[-1]
            found = [each for each in axis.members[-1] if label_of(heading, each) == mark.full.split(" · ")[-1]]
            return (heading, found[0]) if found else None
        return None

    def _stretched(self, tags: list[Tag]) -> None:
        """Members that the mouse was drawn over: they alone are kept, by a condition of the phrase."""
        several = self.phrase_now().multiples is not None
        paths = [tag.by[1:] if several else tag.by for tag in tags]
        phrase = with_stretch(self.phrase_now(), [each for each in paths if each])
        if phrase is None:
            self.session.refuse(
                Refusal("no condition keeps just these", "draw over others, or choose them after 'where'")
            )
        elif phrase != self.phrase_now():
            self.say(phrase, "Keep a stretch of the axis")

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
        self.popover = open_word(
            button, button.word, self.phrase_now(), self.session.vocabulary(self.summary.table), self.say
        )

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
        self.say(swap_axes(self.phrase_now()), "Swap by and across")

    def put_on_board(self) -> None:
        if self.summary is not None:
            self.popover = open_boards(self.board_button, self.session, self.summary)

    def _copied(self, cells: Cells) -> None:
        cells.put()
        self.session.notice.emit(f"{cells.cells:,} cells on the clipboard", False)

    def copy_phrase(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None and self.summary is not None:
            clipboard.setText(print_phrase(self.summary.phrase))
            self.session.notice.emit("The phrase is on the clipboard", False)


class _Toolbar(QWidget):
    """The forms and what else can be done: beside each other, or below where there is no room."""

    def __init__(self, forms: QWidget, width: int, grid_actions: QWidget) -> None:
        super().__init__()
        self._width, self._deeds = width, grid_actions
        self._row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._row.setContentsMargins(0, 0, 4, 0)
        self._row.setSpacing(8)
        self._row.addWidget(forms, 1)
        self._row.addWidget(grid_actions, 0, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)

    def minimumSizeHint(self) -> QSize:
        return QSize(self._deeds.minimumSizeHint().width() + 4, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        fits = self.width() >= self._width + self._deeds.sizeHint().width() + 12
        directions = QBoxLayout.Direction
        self._row.setDirection(directions.LeftToRight if fits else directions.TopToBottom)


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
