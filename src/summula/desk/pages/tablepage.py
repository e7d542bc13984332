"""The table page: how the table was prepared, and its rows under heads that show each field's shape."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from summula.core.fields.figures import plural
from summula.core.folio.model import TableEntry, with_table
from summula.core.preparation.editing import with_kind
from summula.core.preparation.steps import AnyStep, Replace, Step
from summula.core.refusal import Refusal
from summula.core.secondlook.fields import alike_members
from summula.desk.grid.rowsview import RowsView
from summula.desk.naming import may_read
from summula.desk.pages.fieldmargin import FieldMargin
from summula.desk.pages.rowsinview import RowsInView
from summula.desk.preparing.sourcepopover import source_popover
from summula.desk.preparing.stepmaker import StepMaker
from summula.desk.preparing.stepstrip import StepStrip
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.swaparea import let_go
from summula.desk.work import QUICK_ROWS, Work

if TYPE_CHECKING:
    from collections.abc import Callable

    from summula.core.phrases.phrase import Phrase
    from summula.core.tables.field import Field
    from summula.core.tables.table import Table
    from summula.desk.frame.margin import Margin
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.session import Session

_MOST_PUT = 40  # texts that are made one with others, at one go


class TablePage(QWidget):
    """One table: its name, where it came from, its preparation, its rows."""

    again_asked = pyqtSignal()  # the table's sources are to be read again
    preview_asked = pyqtSignal(object)  # the entry whose source is to be read otherwise

    def __init__(self, session: Session, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.session, self.margin, self.status = session, margin, status
        self.setObjectName("page")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(20, 16, 0, 0)
        self.column.setSpacing(10)
        self.title, self.about = Label(), Label()
        self.title.setFont(font(22, 600, serif=True))
        tint(self.about, "muted")
        heading = QVBoxLayout()
        heading.setSpacing(1)
        for label in (self.title, self.about):
            label.setWordWrap(True)  # in a narrow window
            heading.addWidget(label)
        top = QHBoxLayout()
        top.addLayout(heading, 1)
        self.again = Button("Refresh")
        set_tip(self.again, "Read the source file again (F5)")
        self.again.clicked.connect(self.again_asked)
        self.more = Button("Add rows from …")
        set_tip(self.more, "Append other files with the same fields")
        self.more.clicked.connect(self.ask_rows)
        self.summarise = Button("Summarise ▾")
        self.summarise.setProperty("strong", "true")
        set_tip(self.summarise, "Suggested summaries, as small pictures")
        self.summarise.clicked.connect(self.show_starting_points)
        top.addWidget(self.again)
        top.addWidget(self.more)
        top.addWidget(self.summarise)
        top.setContentsMargins(0, 0, 20, 0)
        self.column.addLayout(top)
        self.strip = StepStrip()
        self.step_maker = StepMaker(self, session, self.put_steps, self.ask_rows)
        self.strip.new_asked.connect(self.step_maker.choose)
        self.strip.step_asked.connect(self.step_maker.change)
        self.strip.source_asked.connect(self._ask_source)
        strip = QHBoxLayout()
        strip.setContentsMargins(0, 0, 20, 0)
        strip.addWidget(self.strip, 1)
        self.column.addLayout(strip)
        self.finding = RowsInView(session, status)
        found = QHBoxLayout()
        found.setContentsMargins(0, 0, 20, 0)
        found.addWidget(self.finding)
        self.column.addLayout(found)
        self.rows: RowsView | None = None
        self._shown: Table | None = None
        self.work = Work(self)
        status.attend(self.work)
        self._field = 0
        self.field_margin = FieldMargin(
            self,
            self._put_field,
            self.rename,
            self.finding.show_bar,
            self.finding.show_extreme,
            self.make,
            self.remedy,
            self.finding.order_by,
            self.begin_year,
        )

    # -- showing ---------------------------------------------------------------------------------------

    def show_table(self, entry: TableEntry) -> None:
        table = self.session.table(entry.id)
        source = entry.source.place.rsplit("/", 1)[-1]
        read = f" · read {_day_and_time(entry.source.read_at)}" if entry.source.read_at else ""
        size = f"{plural(table.rows, 'row')} · {plural(len(table.fields), 'field')}"
        about = f"{source + ' · ' if source else ''}{size}{read}"
        about = about.replace(" ", "\u00a0").replace("·\u00a0", "· ")  # where it must break, between its parts
        self.title.setText(entry.name)
        self.about.setText(about)
        effects = self.session.prepared(entry.id).effects
        self.strip.show_steps(source, _how(entry), entry.steps, effects)
        if table is not self._shown:
            self._show_rows_of(table)
        refused, lacking = table.refused_count(), sum(1 for effect in effects if effect.lacks)
        trouble = f" · {plural(lacking, 'step')} lacking something" if lacking else ""
        self.status.say(f"{size} · {plural(refused, 'value')} refused{trouble}")
        self.status.select("")
        self._margin()

    def _show_rows_of(self, table: Table) -> None:
        if self._shown is None or self._shown.name != table.name:
            self._field = 0
        elif self._shown.fields:
            name = self._shown.fields[min(self._field, len(self._shown.fields) - 1)].name
            self._field = table.place(name) if table.has(name) else min(self._field, len(table.fields) - 1)
        self._shown = table
        scrolled = None
        if self.rows is not None:
            scrolled = self.rows.scrolled()
            self.column.removeWidget(self.rows)
            let_go(self.rows)
        self.rows = RowsView(table)
        self.rows.refused.connect(lambda wrong, remedy: self.session.refuse(Refusal(wrong, remedy)))
        self.column.addWidget(self.rows, 1)
        model = self.rows.model()
        assert model is not None
        self.rows.setCurrentIndex(model.index(0, min(self._field, len(table.fields) - 1)))
        self.rows.field_chosen.connect(self._choose)  # not before: the margin is made once
        if scrolled is not None:
            self.rows.scroll_back(scrolled)
        self.finding.show_rows_of(table, self.rows)

    def _margin(self) -> None:
        table = self._shown
        if table is not None and table.fields:
            at = min(self._field, len(table.fields) - 1)
            self.margin.show_blocks(self.field_margin.blocks(table, at), self._entry().id)

    def let_go(self) -> None:
        """Hold no rows any more: their folio has gone."""
        self.cancel()
        self._shown = None
        if self.rows is not None:
            self.column.removeWidget(self.rows)
            let_go(self.rows)
            self.rows = None
        self.finding.show_rows_of(None, None)

    def choose_field(self, name: str) -> None:
        if self._shown is not None and self.rows is not None and self._shown.has(name):
            self.rows.choose(self._shown.place(name))

    def chosen_field(self) -> str:
        """The name of the selected field."""
        assert self._shown is not None
        return self._shown.fields[min(self._field, len(self._shown.fields) - 1)].name

    def _choose(self, at: int) -> None:
        if at != self._field:  # else it is another row of the same field
            self._field = at
            if self.session.page_of(TableEntry) is not None:  # else another page has just been turned to
                self._margin()

    def show_starting_points(self) -> None:
        """Summaries worth asking of this table, as small live pictures."""
        from summula.desk.pages.startingpoints import StartingPoints

        table, table_id = self._shown, self._entry().id
        if table is not None:

            def begin(name: str, phrase: Phrase | None) -> None:
                self.session.new_summary(table_id, phrase, name)

            points = StartingPoints(self, table, begin)
            self.starting = points
            points.open_below(self.summarise)
            points.focus_in()

    def cancel(self) -> None:
        """Stop reading, preparing and looking; the table stays as it is."""
        self.work.cancel()
        self.finding.work.cancel()

    # -- what is worth a second look ---------------------------------------------------------------------

    def remedy(self, edit_name: str, name: str) -> None:
        table = self._shown
        assert table is not None
        if edit_name == "blank":
            self.finding.show_blank(name)
        elif edit_name == "refused":
            self.finding.show_refused(name)
        elif edit_name == "ragged":
            self.finding.show_ragged()
        elif edit_name == "largest":
            self.finding.order_by(name, "largest")
        elif edit_name in ("number", "code"):
            self._put_field(replace(table.field(name), kind=edit_name), f"{name} is a {edit_name}")
        elif edit_name in ("day first", "month first"):
            self.put_steps(with_kind(self._entry().steps, name, "date", edit_name), f"{name} is read {edit_name}")
        elif edit_name == "alike":
            alike = alike_members(table, name)
            put = tuple(Replace(name, each, kept, whole=True) for kept, others in alike for each in others)
            self.put_steps((*self._entry().steps, *put[:_MOST_PUT]), f"values of {name} made one")
        elif edit_name == "preview":
            self.preview_asked.emit(self._entry())

    def _ask_source(self, anchor: QWidget) -> None:
        entry = self._entry()
        source_popover(
            self,
            self.session,
            entry,
            anchor,
            self.again_asked.emit,
            self.read_from,
            lambda: self.preview_asked.emit(entry),
        )

    # -- sources -----------------------------------------------------------------------------------------

    def read_from(self, place: Path) -> None:
        """Another file takes the place of the source; the preparation stays."""
        entry = self._entry()
        rest = [replace(entry, source=entry.appended[0], appended=entry.appended[1:])] if entry.appended else []
        if not may_read(self, self.session, rest):
            return
        self.session.name_files(place)
        self.status.begin(f"reading {place.name} …")
        work = self.session.tables.rereading(self._entry().id, self._watch, place)
        self.work.ask(work, lambda take: take(), self._not_read)

    def ask_rows(self) -> None:
        """Files whose rows are appended, by field name."""
        from summula.core.reading.naming import READABLE

        kinds = " ".join(f"*{ending}" for ending in READABLE)
        names, _ = QFileDialog.getOpenFileNames(self, "Add the rows of other files", "", f"Tables ({kinds})")
        if names:
            self.add_rows([Path(name) for name in names])

    def add_rows(self, paths: list[Path]) -> None:
        self.session.name_files(*paths)
        self.status.begin("reading …")
        read = self.session.tables.appending(self._entry().id, paths, self._watch)
        self.work.ask(read, lambda take: take(), self._not_read)

    def _watch(self, rows: int) -> None:
        self.work.progressed(rows)

    def _not_read(self, refusal: Refusal) -> None:
        entry = self.session.page_of(TableEntry)
        if entry is not None:  # another page may be in view by now
            self.show_table(entry)
        self.session.refuse(refusal)

    # -- edits -------------------------------------------------------------------------------------------

    def entry(self) -> TableEntry:
        return self._entry()

    def _entry(self) -> TableEntry:
        entry = self.session.page_of(TableEntry)
        assert entry is not None
        return entry

    def make(self, step: type[Step], anchor: QWidget, field: str) -> None:
        self.step_maker.make(step, anchor, field)

    def begin_year(self, month: int) -> None:
        """The fiscal year of the whole folio begins with another month."""
        folio = replace(self.session.folio, year_begins=month)
        self.session.edit(folio, f"The fiscal year starts in month {month}")

    def _put_field(self, new: Field, edit_name: str) -> None:
        """A field described otherwise; a kind of its own is a step of the preparation."""
        entry = self._entry()
        assert self._shown is not None
        if new.kind != self._shown.field(new.name).kind:
            self.put_steps(with_kind(entry.steps, new.name, new.kind), edit_name)
            return
        fields = tuple(new if field.name == new.name else field for field in entry.fields)
        self.session.edit(with_table(self.session.folio, replace(entry, fields=fields)), edit_name)

    def put_steps(self, steps: tuple[AnyStep, ...], edit_name: str) -> None:
        """The table prepared by other steps; in a worker where there are many rows."""
        known = {field.name for field in self._shown.fields} if self._shown is not None else set()

        def take(put: Callable[[], None]) -> None:
            put()
            new = [field.name for field in self._shown.fields if field.name not in known] if self._shown else []
            if new:  # what has just been made is what one looks at
                self.choose_field(new[-1])
                if self.rows is not None:
                    self.rows.scrollTo(self.rows.currentIndex())

        self._do(self.session.tables.stepping(self._entry().id, steps, edit_name), take)

    def rename(self, old: str, new: str) -> None:
        """Call a field otherwise; refuses a name that is taken."""
        self._do(self.session.tables.renaming(self._entry().id, old, new), lambda put: put())

    def _do(self, work: Callable[[], Callable[[], None]], take: Callable[[Callable[[], None]], None]) -> None:
        entry = self._entry()
        self.work.ask(work, take, self.session.refuse, soon=max(entry.rows, entry.source.rows) <= QUICK_ROWS)
        if self.work.waits:
            self.status.begin("preparing …")


def _how(entry: TableEntry) -> str:
    """How the source was read, for the tooltip of the first step."""
    said_so = [plural(len(entry.source.fields), "field"), plural(entry.source.rows, "row")]
    return f"{entry.source.place or 'no file'}\n{' · '.join(said_so)}"


def _day_and_time(stamp: str) -> str:
    """ "today 09:12", or the day with it."""
    day, _, time = stamp.partition(" ")
    return f"today {time}" if day == date.today().isoformat() else stamp
