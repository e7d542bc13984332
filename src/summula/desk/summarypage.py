"""The summary page: a title, its phrase, and the answer as a grid or a chart."""

from __future__ import annotations

import math
import statistics
import time

import msgspec
from PyQt6.QtCore import QEvent, QObject, QPoint, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QStackedWidget, QVBoxLayout, QWidget

from summula.core.boards.reckoning import last_period_stops
from summula.core.charts import Look, draw, why_not
from summula.core.fields.labels import label_of
from summula.core.folio.model import Summary, with_summary
from summula.core.refusal import Refusal
from summula.core.secondlook import summary_looks
from summula.core.summaries import answer
from summula.core.summaries.editing import fields_in, ordered_by, swap_axes, with_field
from summula.core.summaries.grid import Grid
from summula.core.summaries.phrase import FORMS, Form, Phrase
from summula.core.summaries.printing import print_phrase
from summula.desk.margin import Block, Margin, Note, Pair
from summula.desk.phrasebar import PhraseBar, WordButton
from summula.desk.phrasepopovers import open_word, remove_word
from summula.desk.phrasewords import condition_words, heading_words, keep_words, measure_words
from summula.desk.pivotgrid import PivotGrid
from summula.desk.putonboard import open_boards
from summula.desk.sceneview import SceneView
from summula.desk.session import Session
from summula.desk.statusline import StatusLine
from summula.desk.theme import colour, font
from summula.desk.work import Work

QUICK_ROWS = 150_000  # an answer about so many rows takes well under 50 ms


class FormButton(QWidget):
    """A form's glyph and name. One that does not fit the phrase is pale and says why."""

    chosen = pyqtSignal(str)

    def __init__(self, form: Form) -> None:
        super().__init__()
        self.form, self.current, self.why = form, False, ""
        self.setFixedSize(62 if len(form) < 9 else 104, 46)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def set_state(self, current: bool, why: str) -> None:
        self.current, self.why = current, why
        self.setToolTip(why or f"Draw as {self.form}")
        self.setAccessibleName(f"Draw as {self.form}" + (", chosen" if current else ""))
        self.setAccessibleDescription(why)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if not self.why:
            self.chosen.emit(self.form)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and not self.why:
            self.chosen.emit(self.form)
        else:
            super().keyPressEvent(event)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        area = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        if self.current or self.hasFocus():
            painter.setPen(
                QPen(
                    colour("plum"),
                    1.4 if self.current else 1,
                    Qt.PenStyle.SolidLine if self.current else Qt.PenStyle.DotLine,
                )
            )
            painter.setBrush(colour("sheet") if self.current else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(area, 6, 6)
        elif self.underMouse() and not self.why:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("sheet"))
            painter.drawRoundedRect(area, 6, 6)
        token = "plum" if self.current else "muted"
        strength = 0.45 if self.why else 1.0
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, self.form == "lines")
        _paint_form(painter, self.form, self.width() / 2 - 11, 7, token, strength)
        painter.setFont(font(11.5, 600 if self.current else 400))
        painter.setPen(colour("faint" if self.why else token))
        painter.drawText(QRectF(0, 26, self.width(), 17), Qt.AlignmentFlag.AlignCenter, self.form)


def _paint_form(painter: QPainter, form: Form, x: float, y: float, token: str, strength: float) -> None:
    ink, pale = colour(token, strength, "paper"), colour(token, strength * 0.5, "paper")
    if form == "grid":
        painter.setPen(QPen(ink, 1.4))
        for at in range(4):
            painter.drawLine(QPoint(int(x), int(y + 1 + at * 5)), QPoint(int(x + 22), int(y + 1 + at * 5)))
        painter.drawLine(QPoint(int(x + 8), int(y + 1)), QPoint(int(x + 8), int(y + 16)))
    elif form in ("columns", "stacked columns"):
        for at, height in enumerate((9, 16, 12)):
            painter.fillRect(QRectF(x + at * 8, y + 17 - height, 6, height), ink)
            if form == "stacked columns":
                painter.fillRect(QRectF(x + at * 8, y + 17 - height, 6, height * 0.45), pale)
    elif form == "bars":
        for at, width in enumerate((22, 15, 9)):
            painter.fillRect(QRectF(x, y + 1 + at * 6, width, 4.5), ink)
    else:
        painter.setPen(QPen(ink, 2))
        for (x0, y0), (x1, y1) in (((0, 14), (7, 8)), ((7, 8), (13, 11)), ((13, 11), (22, 3))):
            painter.drawLine(QPoint(int(x + x0), int(y + y0)), QPoint(int(x + x1), int(y + y1)))


class Title(QLineEdit):
    """A page's name, changed where it stands: Enter takes it, Escape leaves it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self._page = session, ""
        self.setFont(font(22, 600, serif=True))
        self.setStyleSheet(
            "QLineEdit { border: 1px solid transparent; background: transparent; padding: 0; }"
            f"QLineEdit:hover {{ border-bottom: 1px solid {colour('hairline').name()}; }}"
            f"QLineEdit:focus {{ border: 1px solid {colour('plum').name()}; background: {colour('sheet').name()}; }}"
        )
        self.setAccessibleName("Name of this page")
        self.editingFinished.connect(self._take)
        self.installEventFilter(self)

    def show_name(self, page_id: str, name: str) -> None:
        self._page = page_id
        if not self.hasFocus() or self.text() != name:
            self.setText(name)
            self.setCursorPosition(0)

    def _take(self) -> None:
        self.session.rename(self._page, self.text())

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape:
            self.undo()
            self.clearFocus()
            return True
        return super().eventFilter(watched, event)


class SummaryPage(QWidget):
    """Listens to the summary in view; every change goes through the session."""

    def __init__(self, session: Session, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.session, self.margin, self.status = session, margin, status
        self.setObjectName("page")
        self.summary: Summary | None = None
        self.grid: Grid | None = None
        self._answered: object = None
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
        self.chart = SceneView("Chart")
        self.stack = QStackedWidget()
        self.stack.addWidget(self.pivot)
        self.sheet = _Sheet(self.chart)
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
        column.addLayout(self._tools())
        column.addWidget(self.stack, 1)

    def _tools(self) -> QHBoxLayout:
        row = QHBoxLayout()
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
        return row

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
        key = (id(table), summary.phrase)
        if key == self._answered and self.grid is not None:
            self._show(self.grid)
            return
        phrase = summary.phrase
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
                self.pivot.show_grid(grid, summary.folded)
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
        self.status.say(f"{grid.rows_read:,} rows read{used}", f"worked out in {_duration(took)}")
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
            blocks.append(Pair(measure_words(measure, phrase.measures[:at]), f"{style.unit} {style.pattern}".strip()))
        for axis in (grid.rows, grid.columns):
            for depth, heading in enumerate(axis.headings):
                codes = set(axis.levels[axis.depth].codes[:, depth].tolist())
                count = len(codes)
                first = label_of(heading, axis.members[depth][min(codes)]) if codes else ""
                blocks.append(Pair(heading_words(heading), f"{count:,} members" if count != 1 else first))
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
            blocks += ["Worth a second look", *looks]
        self.margin.show_blocks(blocks)

    def _selected(self, figures: list[float]) -> None:
        if len(figures) < 1:
            self.status.select("")
            return
        grid = self.grid
        style = grid.styles[0] if grid is not None and len(grid.styles) == 1 else None
        write = style.text if style is not None else lambda value: f"{value:,.6g}"
        total = math.fsum(figures)
        mean, median = total / len(figures), statistics.median(figures)
        cells = f"{len(figures):,} {'cell' if len(figures) == 1 else 'cells'}"
        self.status.select(f"Selected {cells}: sum {write(total)} · mean {write(mean)} · median {write(median)}")

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
    """A white sheet around a chart."""

    def __init__(self, inner: QWidget) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 16, 18, 12)
        column.addWidget(inner)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("sheet"))
        painter.setPen(colour("hairline"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))


def _duration(seconds: float) -> str:
    return f"{seconds * 1000:.0f} ms" if seconds < 1 else f"{seconds:.1f} s"
