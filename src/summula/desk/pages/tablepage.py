"""The table page: the rows as they came, under heads that show each field's shape."""

from __future__ import annotations

from datetime import date
from typing import Literal

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from summula.core.folio.model import TableEntry, with_table
from summula.core.preparation.editing import with_kind
from summula.core.preparation.steps import AnyStep
from summula.core.refusal import Refusal
from summula.core.secondlook import field_looks
from summula.core.statistics.distribution import distribution
from summula.core.summaries.figures import FigureStyle, said
from summula.core.tables.field import Field, Kind
from summula.core.tables.table import Table
from summula.desk.frame.margin import Block, Margin, Note, Pair
from summula.desk.frame.statusline import StatusLine
from summula.desk.grid.rowsview import RowsView, date_of_any, style_of
from summula.desk.session import Session
from summula.desk.theme import colour
from summula.desk.widgets.glyphs import KIND_WORDS
from summula.desk.widgets.picklist import Choice, PickList
from summula.desk.widgets.popover import Popover
from summula.desk.work import QUICK_ROWS, Work


class TablePage(QWidget):
    """One table: its name, where it came from, its rows."""

    def __init__(self, session: Session, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.session, self.margin, self.status = session, margin, status
        self.setObjectName("page")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(20, 16, 0, 0)
        self.column.setSpacing(10)
        self.title = QLabel()
        self.title.setTextFormat(Qt.TextFormat.RichText)
        top = QHBoxLayout()
        top.addWidget(self.title, 1)
        self.again = QPushButton("Read again")
        self.again.setToolTip("Read the source again (F5)")
        self.again.clicked.connect(self.read_again)
        top.addWidget(self.again)
        top.setContentsMargins(0, 0, 20, 0)
        self.column.addLayout(top)
        self.rows: RowsView | None = None
        self._shown: Table | None = None
        self.work = Work(self)
        self._field = 0

    def show_table(self, entry: TableEntry) -> None:
        table = self.session.table(entry.id)
        source = entry.source.place.rsplit("/", 1)[-1]
        read = f" · read {_day_and_time(entry.source.read_at)}" if entry.source.read_at else ""
        size = f"{said(table.rows, 'row')} · {said(len(table.fields), 'field')}"
        about = f"{source + ' · ' if source else ''}{size}{read}"
        self.title.setText(
            f"<span style=\"font-family:'Source Serif 4';font-size:22px;font-weight:600\">{_escaped(entry.name)}</span>"
            f'&nbsp;&nbsp;&nbsp;<span style="color:{colour("muted").name()};font-size:13px">{_escaped(about)}</span>'
        )
        if table is not self._shown:
            if self._shown is None or self._shown.name != table.name:
                self._field = 0
            self._shown = table
            if self.rows is not None:
                self.column.removeWidget(self.rows)
                self.rows.deleteLater()
            self.rows = RowsView(table)
            self.rows.field_chosen.connect(self._choose)
            self.column.addWidget(self.rows, 1)
            model = self.rows.model()
            assert model is not None
            self.rows.setCurrentIndex(model.index(0, min(self._field, len(table.fields) - 1)))
        refused = table.refused_count()
        self.status.say(f"{size} · {said(refused, 'value')} refused")
        self.status.select("")
        self._margin()

    def read_again(self) -> None:
        """Read the table's source again, in a worker; the rows that are there stay until the new ones are."""
        read = self.session.rereading(self._entry().id)
        self.status.say("", f"reading {self._entry().name} again …")
        self.work.ask(read, lambda take: take(), self._not_read)

    def _not_read(self, refusal: Refusal) -> None:
        page = self.session.page()
        if page is not None and page[0] == "table":  # another page may be in view by now
            self.show_table(page[1])
        self.session.refuse(refusal)

    def choose_field(self, name: str) -> None:
        if self._shown is not None and self.rows is not None and self._shown.has(name):
            at = [f.name for f in self._shown.fields].index(name)
            self.rows.setCurrentIndex(self.rows.model().index(0, at))  # type: ignore[union-attr]
            self._choose(at)

    def _choose(self, at: int) -> None:
        self._field = at
        self._margin()

    def _margin(self) -> None:
        table = self._shown
        if table is None or not table.fields:
            return
        field = table.fields[min(self._field, len(table.fields) - 1)]
        shape = distribution(table, field.name)
        style = style_of(table, self._field)
        blocks: list[Block] = [
            f"Selected · {field.name}",
            Pair("Kind", KIND_WORDS[field.kind].split(":")[0].capitalize() + " ▾", self._change_kind),
        ]
        if field.kind == "number":
            blocks.append(
                Pair(
                    "When summarised",
                    {"sum": "Summed ▾", "mean": "Averaged ▾"}[field.total],
                    self._change_total,
                )
            )
        else:
            blocks.append(Pair("When summarised", "Counted"))
        blocks += [Pair("Distinct", f"{shape.distinct:,}"), Pair("Blank", f"{shape.blank:,}")]
        if shape.median is not None and shape.mean is not None:
            blocks += [
                Pair("Median", style.text(shape.median, unit=True)),
                Pair("Mean", FigureStyle("#,##0.00", style.unit).text(shape.mean, unit=True)),
                Pair("Least", style.text(float(str(shape.least)), unit=True)),
                Pair("Greatest", style.text(float(str(shape.most)), unit=True)),
            ]
        elif field.kind == "date" and shape.least is not None:
            blocks += [Pair("First", date_of_any(shape.least)), Pair("Last", date_of_any(shape.most))]
        blocks += ["What it means", Note(field.description or "Nobody has written it down yet.")]
        blocks.append(Pair("Description", "change ▾" if field.description else "write ▾", self._change_meaning))
        if shape.heights and field.kind != "code":
            blocks += ["How it is spread", shape]
            if field.kind == "category":
                top = [f"{label}  {height:,}" for label, height in zip(shape.labels[:5], shape.heights, strict=False)]
                blocks.append(Note("\n".join(top)))
        looks = field_looks(table, field.name)
        if looks:
            blocks += ["Worth a second look", *looks]
        self.margin.show_blocks(blocks)

    def _change_kind(self, beside: QWidget) -> None:
        popover = Popover(self, "Kind", 250)
        now = self._field_now()
        choices = [Choice(("✓ " if kind == now.kind else "    ") + words, kind) for kind, words in KIND_WORDS.items()]
        picks = PickList(choices, name="kinds", search=False)

        def change(kind: Kind) -> None:
            popover.close()
            self._put_field(msgspec.structs.replace(now, kind=kind), f"{now.name} is a {kind}")

        picks.picked.connect(change)
        popover.column.addWidget(picks)
        popover.open_below(beside)
        picks.focus_in()

    def _change_meaning(self, beside: QWidget) -> None:
        popover = Popover(self, "What it means", 320)
        now = self._field_now()
        line = QLineEdit(now.description)
        line.setAccessibleName("what the field means")

        def change() -> None:
            popover.close()
            said = " ".join(line.text().split())
            self._put_field(msgspec.structs.replace(now, description=said), f"Describe {now.name}")

        line.returnPressed.connect(change)
        popover.column.addWidget(line)
        popover.open_below(beside)
        line.setFocus()

    def _entry(self) -> TableEntry:
        page = self.session.page()
        assert page is not None
        entry: TableEntry = page[1]
        return entry

    def _put_field(self, new: Field, deed: str) -> None:
        """The selected field described otherwise; a kind of its own is a step of the preparation."""
        entry = self._entry()
        now = self._field_now()
        if new.kind != now.kind:
            self.put_steps(with_kind(entry.steps, now.name, new.kind), deed)
            return
        fields = tuple(new if field.name == new.name else field for field in entry.fields)
        self.session.edit(with_table(self.session.folio, msgspec.structs.replace(entry, fields=fields)), deed)

    def put_steps(self, steps: tuple[AnyStep, ...], deed: str) -> None:
        """The table prepared by other steps; in a worker where there are many rows."""
        entry = self._entry()
        work = self.session.stepping(entry.id, steps, deed)
        if max(entry.rows, entry.source.rows) <= QUICK_ROWS:
            work()()
        else:
            self.status.say("", "preparing …")
            self.work.ask(work, lambda take: take(), self.session.refuse)

    def _field_now(self) -> Field:
        assert self._shown is not None
        return self._shown.fields[min(self._field, len(self._shown.fields) - 1)]

    def _change_total(self, beside: QWidget) -> None:
        popover = Popover(self, "When summarised", 210)
        now = self._field_now()
        choices = [Choice("Summed", "sum", "a bare name means its sum"), Choice("Averaged", "mean", "its mean")]
        picks = PickList(choices, name="default total", search=False)
        popover.column.addWidget(picks)

        def change(total: Literal["sum", "mean"]) -> None:
            popover.close()
            self._put_field(msgspec.structs.replace(now, total=total), f"{now.name}: {total} by default")

        picks.picked.connect(change)
        popover.open_below(beside)
        picks.focus_in()


def _day_and_time(stamp: str) -> str:
    """ "today 09:12", or the day with it."""
    day, _, time = stamp.partition(" ")
    return f"today {time}" if day == date.today().isoformat() else stamp


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
