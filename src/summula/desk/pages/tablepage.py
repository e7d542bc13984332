"""The table page: the rows as they came, under heads that show each field's shape."""

from __future__ import annotations

from typing import Any, Literal

import msgspec
import numpy as np
from PyQt6.QtCore import QAbstractTableModel, QEvent, QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QHelpEvent, QKeyEvent, QKeySequence, QPainter
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableView,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from summula.core.fields.labels import MONTHS
from summula.core.folio.model import TableEntry, with_table
from summula.core.refusal import Refusal
from summula.core.secondlook import field_looks
from summula.core.statistics.distribution import distribution
from summula.core.summaries.figures import FigureStyle, plain_pattern, said, split_unit
from summula.core.tables.column import CodedColumn, DateColumn, NumberColumn, date_of
from summula.core.tables.field import Field, Kind
from summula.core.tables.table import Table
from summula.desk.frame.margin import Block, Margin, Note, Pair
from summula.desk.frame.statusline import StatusLine
from summula.desk.session import Session
from summula.desk.theme import colour, font, text_width
from summula.desk.widgets.glyphs import KIND_WORDS, paint_kind, paint_shape
from summula.desk.widgets.picklist import Choice, PickList
from summula.desk.widgets.popover import Popover
from summula.desk.work import QUICK_ROWS, Work

_HEAD = 76
_ROW = 27


class TableModel(QAbstractTableModel):
    """Cells are made when they come into view: a million rows cost what a screenful does."""

    def __init__(self, table: Table) -> None:
        super().__init__()
        self.table = table
        self.styles = [_style(table, at) for at in range(len(table.fields))]
        self._refused = [{each.row: each.text for each in column.refused} for column in table.columns]

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else self.table.rows

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.table.fields)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole:
            return self.text(index.row(), index.column())
        column = self.table.columns[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if isinstance(column, NumberColumn) else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.ForegroundRole:
            if index.row() in self._refused[index.column()]:
                return colour("loss")
            if self.table.fields[index.column()].kind == "code":
                return colour("muted")
        if role == Qt.ItemDataRole.ToolTipRole:
            text = self.text(index.row(), index.column())
            if index.row() in self._refused[index.column()]:
                return f"{text}\ndoes not fit the field's kind: kept as it was, counted as blank"
            return text if len(text) > 24 else None
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole:
            if orientation == Qt.Orientation.Horizontal:
                return self.table.fields[section].name
            return f"{section + 1:,}"
        return None

    def text(self, row: int, at: int) -> str:
        """A cell as it reads; empty when blank, the original text when it was refused."""
        refused = self._refused[at].get(row)
        if refused is not None:
            return refused
        column = self.table.columns[at]
        if isinstance(column, CodedColumn):
            code = int(column.codes[row])
            if code == len(column.members):
                return ""
            member = column.members[code]
            return {"true": "yes", "false": "no"}[member] if self.table.fields[at].kind == "flag" else member
        if column.blank is not None and column.blank[row]:
            return ""
        if isinstance(column, NumberColumn):
            return self.styles[at].text(float(column.values[row]) / column.unit)
        day = date_of(int(column.days[row]))
        text = f"{day.day} {MONTHS[day.month - 1]} {day.year}"
        if column.seconds is not None:
            seconds = int(column.seconds[row])
            text += f" {seconds // 3600:02d}:{seconds // 60 % 60:02d}"
        return text


def _style(table: Table, at: int) -> FigureStyle:
    column = table.columns[at]
    decimals = column.decimals if isinstance(column, NumberColumn) else 0
    unit, _ = split_unit(table.fields[at].pattern)
    if isinstance(column, NumberColumn) and decimals == 0 and np.any(column.values != np.rint(column.values)):
        decimals = 4
    return FigureStyle(plain_pattern(decimals), unit)


class FieldHeads(QHeaderView):
    """A head for each field: glyph, name, small distribution, and what the field holds."""

    def __init__(self, table: Table, parent: QWidget) -> None:
        super().__init__(Qt.Orientation.Horizontal, parent)
        self.table = table
        self.setSectionsClickable(True)
        self.setFixedHeight(_HEAD)
        self.setAccessibleName("Fields")
        self.setMinimumSectionSize(60)

    def sizeHint(self) -> QSize:
        return QSize(super().sizeHint().width(), _HEAD)

    def paintSection(self, painter: QPainter | None, rect: Any, section: int) -> None:
        if painter is None:
            return
        field = self.table.fields[section]
        shape = distribution(self.table, field.name)
        view = self.parent()
        current = isinstance(view, QTableView) and view.currentIndex().column() == section
        area = QRectF(rect)
        painter.save()
        painter.fillRect(area, colour("plum wash" if current else "sheet"))
        if current:
            painter.fillRect(QRectF(area.x(), area.y(), area.width(), 3), colour("plum"))
        painter.setPen(colour("hairline"))
        painter.fillRect(QRectF(area.right() - 1, area.y(), 1, area.height()), colour("hairline"))
        painter.fillRect(QRectF(area.x(), area.bottom() - 1, area.width(), 1), colour("ink"))
        painter.setPen(colour("ink"))
        x = area.x() + 10
        paint_kind(painter, field.kind, x, area.y() + 11)
        painter.setFont(font(13, 600))
        unit = split_unit(field.pattern)[0]
        name = f"{field.name} ({unit})" if unit else field.name
        name = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, int(area.width() - 36))
        painter.drawText(QRectF(x + 20, area.y() + 8, area.width() - 30, 19), Qt.AlignmentFlag.AlignVCenter, name)
        if field.kind == "code":
            painter.setFont(font(12))
            painter.setPen(colour("muted"))
            painter.drawText(
                QRectF(x, area.y() + 30, area.width() - 12, 18),
                Qt.AlignmentFlag.AlignVCenter,
                "never totalled",
            )
        else:
            paint_shape(painter, shape.heights, QRectF(x, area.y() + 30, min(area.width() - 20, 84), 20))
        painter.setFont(font(11))
        painter.setPen(colour("muted"))
        about = painter.fontMetrics().elidedText(
            head_words(self.table, section), Qt.TextElideMode.ElideRight, int(area.width() - 16)
        )
        painter.drawText(QRectF(x, area.y() + 53, area.width() - 12, 18), Qt.AlignmentFlag.AlignVCenter, about)
        painter.restore()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            section = self.logicalIndexAt(event.pos())
            if section >= 0:
                field = self.table.fields[section]
                words = f"{field.name} · {KIND_WORDS[field.kind]}\n{head_words(self.table, section)}"
                QToolTip.showText(event.globalPos(), f"{words}\n{field.description}".strip(), self)
            return True
        return super().event(event)


def head_words(table: Table, section: int) -> str:
    """What a field holds, in a few words."""
    field, column = table.fields[section], table.columns[section]
    shape = distribution(table, field.name)
    if field.kind == "code":
        return f"code · {shape.distinct:,} distinct"
    if isinstance(column, NumberColumn) and shape.median is not None:
        style = FigureStyle()
        low, high = (
            style.tick(float(str(shape.least))),
            style.tick(float(str(shape.most))),
        )
        return f"{low} – {high} · median {style.tick(shape.median)}"
    if isinstance(column, DateColumn) and shape.least is not None:
        first, last = date_of_any(shape.least), date_of_any(shape.most)
        return f"{first} – {last}"
    return f"{shape.distinct:,} {'value' if shape.distinct == 1 else 'values'}"


def date_of_any(value: Any) -> str:
    return f"{value.day} {MONTHS[value.month - 1]} {value.year}"


class RowsView(QTableView):
    """The rows. Ctrl+C copies what is selected."""

    field_chosen = pyqtSignal(int)

    def __init__(self, table: Table) -> None:
        super().__init__()
        self.setModel(TableModel(table))
        self.heads = FieldHeads(table, self)
        self.setHorizontalHeader(self.heads)
        self.setAccessibleName(f"Rows of {table.name}")
        vertical = self.verticalHeader()
        assert vertical is not None
        vertical.setVisible(False)
        vertical.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        vertical.setDefaultSectionSize(_ROW)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setWordWrap(False)
        for at, width in enumerate(_widths(table)):
            self.setColumnWidth(at, width)
        self.heads.sectionClicked.connect(self._head_clicked)
        selection = self.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(lambda now, _: self._chosen(now.column()))

    def _head_clicked(self, section: int) -> None:
        self.setCurrentIndex(self.model().index(0, section))  # type: ignore[union-attr]
        self._chosen(section)

    def _chosen(self, column: int) -> None:
        self.heads.viewport().update()  # type: ignore[union-attr]
        if column >= 0:
            self.field_chosen.emit(column)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
            return
        super().keyPressEvent(event)

    def copy(self) -> None:
        model, selection = self.model(), self.selectionModel()
        if not isinstance(model, TableModel) or selection is None:
            return
        lines = []
        chosen = selection.selection()
        for span in (chosen[at] for at in range(chosen.count())):
            for row in range(span.top(), min(span.bottom() + 1, span.top() + 100_000)):
                lines.append("\t".join(model.text(row, column) for column in range(span.left(), span.right() + 1)))
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None and lines:
            clipboard.setText("\n".join(lines))


def _widths(table: Table) -> list[int]:
    """Widths that fit the heads and the first rows."""
    model = TableModel(table)
    widths = []
    for at, field in enumerate(table.fields):
        texts = [model.text(row, at) for row in range(min(table.rows, 200))]
        widest = max((text_width(text, 13) for text in texts), default=0) + 24
        head = text_width(field.name, 13, 600) + 58
        about = text_width(head_words(table, at), 11) + 22
        widths.append(int(min(max(widest, head, about, 90), 320)))
    return widths


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
        source = entry.source.rsplit("/", 1)[-1]
        read = f" · read at {entry.read_at}" if entry.read_at else ""
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
        try:
            read = self.session.rereading(self._entry().id)
        except Refusal as refusal:
            self.session.refuse(refusal)
            return
        self.status.say("", f"reading {self._entry().name} again …")
        self.work.ask(read, lambda take: take(), self._not_read)

    def _not_read(self, refusal: Refusal) -> None:
        self.show_table(self._entry())
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
        style = _style(table, self._field)
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
        now = self._entry().fields[self._field]
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
        now = self._entry().fields[self._field]
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
        """The selected field described otherwise; read anew in a worker where there are many rows."""
        entry = self._entry()
        fields = tuple(new if at == self._field else field for at, field in enumerate(entry.fields))
        changed = msgspec.structs.replace(entry, fields=fields)

        def take(_: object = None) -> None:
            self.session.edit(with_table(self.session.folio, changed), deed)

        if entry.rows <= QUICK_ROWS or new.kind == entry.fields[self._field].kind:
            take()
        else:
            self.status.say("", "reading the field anew …")
            self.work.ask(lambda: self.session.view(entry, fields), take, self.session.refuse)

    def _change_total(self, beside: QWidget) -> None:
        popover = Popover(self, "When summarised", 210)
        now = self._entry().fields[self._field]
        choices = [Choice("Summed", "sum", "a bare name means its sum"), Choice("Averaged", "mean", "its mean")]
        picks = PickList(choices, name="default total", search=False)
        popover.column.addWidget(picks)

        def change(total: Literal["sum", "mean"]) -> None:
            popover.close()
            self._put_field(msgspec.structs.replace(now, total=total), f"{now.name}: {total} by default")

        picks.picked.connect(change)
        popover.open_below(beside)
        picks.focus_in()


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
