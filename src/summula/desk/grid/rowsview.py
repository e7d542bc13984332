"""The rows of a table as they came, under heads that show each field's shape."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from msgspec.structs import replace
from PyQt6.QtCore import QAbstractTableModel, QEvent, QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QKeySequence, QPainter
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QTableView,
    QWidget,
)

from summula.core.arrays import np
from summula.core.fields.figures import FigureStyle, decimals_for, plain_pattern, split_unit
from summula.core.fields.labels import MONTHS
from summula.core.statistics.distribution import distribution
from summula.core.tables.column import CodedColumn, DateColumn, NumberColumn, date_of
from summula.desk.grid.copying import MOST_CELLS
from summula.desk.grid.rowcells import CellLook, RowCells
from summula.desk.theme import colour, font, text_width
from summula.desk.widgets.glyphs import KIND_WORDS, paint_kind, paint_shape
from summula.desk.widgets.plaintext import plain_tip, show_tip
from summula.desk.widgets.tooltips import tip_asked
from summula.desk.widgets.writing import elided, write

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.tables.table import Table

_HEAD = 76
_ROW = 27
_LONGEST = 400  # letters of a value that are shown; copied, it is whole
_MEASURED = 80  # rows by which the widths are set, of a table of few fields
_MEASURED_CELLS = 6_000


_APART = "a total, balance or note, not a data row"


class TableModel(QAbstractTableModel):
    """Cells are made when they come into view: a million rows cost what a screenful does."""

    def __init__(self, table: Table, apart: frozenset[int] = frozenset()) -> None:
        """`apart` are rows that seem to be none of the table's: they are shown so."""
        super().__init__()
        self.table, self.apart = table, apart
        self.order: NDArray[np.int64] | None = None  # the rows in view and their order; None: all, as they came
        self.styles = [style_of(table, at) for at in range(len(table.fields))]
        self._refused = [{each.row: each.text for each in column.refused} for column in table.columns]

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        if parent.isValid():
            return 0
        return self.table.rows if self.order is None else len(self.order)

    def show_rows(self, order: NDArray[np.int64] | None) -> None:
        """Show these rows of the table, in this order."""
        self.beginResetModel()
        self.order = order
        self.endResetModel()

    def row_of(self, row: int) -> int:
        """The table's row that stands in a row of the view."""
        return row if self.order is None else int(self.order[row])

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.table.fields)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole:
            return self.look(index.row(), index.column()).text
        if role == Qt.ItemDataRole.ToolTipRole:
            tip = self._tip(index.row(), index.column())
            return None if tip is None else plain_tip(tip)
        return None

    def look(self, row: int, at: int) -> CellLook:
        """How a cell of the view reads and is written."""
        text = self.text(row, at)
        if len(text) > _LONGEST:
            text = text[:_LONGEST] + " …"
        right, of_table = isinstance(self.table.columns[at], NumberColumn), self.row_of(row)
        if of_table in self.apart:
            return CellLook(text, "muted", right, struck=True)
        if of_table in self._refused[at]:
            return CellLook(text, "loss", right)
        return CellLook(text, "muted" if self.table.fields[at].kind == "code" else "ink", right)

    def _tip(self, row: int, at: int) -> str | None:
        of_table, text = self.row_of(row), self.text(row, at)[:1000]
        if of_table in self.apart:
            return _APART
        if of_table in self._refused[at]:
            return f"{text}\ndoes not fit the field's type: kept as written, counted as blank"
        return text if len(text) > 24 else None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.DisplayRole:
            if orientation == Qt.Orientation.Horizontal:
                return self.table.fields[section].name
            return f" {self.row_of(section) + 1:,}  "
        if role == Qt.ItemDataRole.ForegroundRole:
            return colour("muted")
        if role == Qt.ItemDataRole.TextAlignmentRole and orientation == Qt.Orientation.Vertical:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        return None

    def text(self, row: int, at: int) -> str:
        """A cell as it reads; empty when blank, the original text when it was refused."""
        row = self.row_of(row)
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


def style_of(table: Table, at: int) -> FigureStyle:
    column = table.columns[at]
    decimals = column.decimals if isinstance(column, NumberColumn) else 0
    if table.fields[at].kind == "duration":
        return FigureStyle(clock=True)
    unit, pattern = split_unit(table.fields[at].pattern)
    number = isinstance(column, NumberColumn) and decimals == 0
    shape = distribution(table, table.fields[at].name) if number else None
    if shape is not None and not shape.whole:  # held as they are, to the last place
        sizes = [abs(each) for each in (shape.least, shape.most) if isinstance(each, int | float)]
        decimals = max(4, decimals_for(max(sizes, default=0.0)) + 1)
    if "%" in pattern:
        return FigureStyle(pattern, unit, percent=True)
    return FigureStyle(plain_pattern(decimals, pattern), unit)


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
        unit = split_unit(field.pattern)[0]
        name = f"{field.name} ({unit})" if unit else field.name
        name = elided(name, int(area.width() - 36), 13, 600)
        write(painter, QRectF(x + 20, area.y() + 8, area.width() - 30, 19), name, 13, 600)
        if field.kind == "code":
            painter.setPen(colour("muted"))
            write(painter, QRectF(x, area.y() + 30, area.width() - 12, 18), "never summed", 12)
        else:
            paint_shape(painter, shape.heights, QRectF(x, area.y() + 30, min(area.width() - 20, 84), 20))
        painter.setPen(colour("muted"))
        about = elided(head_words(self.table, section), int(area.width() - 16), 11)
        write(painter, QRectF(x, area.y() + 53, area.width() - 12, 18), about, 11)
        painter.restore()

    def event(self, event: QEvent | None) -> bool:
        if tip_asked(event):
            section = self.logicalIndexAt(event.pos())
            if section >= 0:
                field = self.table.fields[section]
                words = f"{field.name} · {KIND_WORDS[field.kind]}\n{head_words(self.table, section)}"
                show_tip(event.globalPos(), f"{words}\n{field.description}".strip(), self)
            return True
        return super().event(event)


def head_words(table: Table, section: int) -> str:
    """What a field holds, in a few words."""
    field, column = table.fields[section], table.columns[section]
    shape = distribution(table, field.name)
    if field.kind == "code":
        return f"code · {shape.distinct:,} distinct"
    if isinstance(column, NumberColumn) and shape.median is not None:
        style = replace(style_of(table, section), unit="")  # it stands beside the name
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


class RowNumbers(QHeaderView):
    """The rows' numbers, as wide as the last: Qt would measure hundreds of them at each change."""

    def __init__(self, table: Table, parent: QWidget) -> None:
        super().__init__(Qt.Orientation.Vertical, parent)
        self._width = int(text_width(f" {table.rows:,}  ", 11)) + 18

    def sizeHint(self) -> QSize:
        return QSize(self._width, super().minimumSizeHint().height())


class RowsView(QTableView):
    """The rows. Ctrl+C copies what is selected, every value in full."""

    field_chosen = pyqtSignal(int)
    refused = pyqtSignal(str, str)  # what is wrong, and what to do

    def __init__(self, table: Table, apart: frozenset[int] = frozenset()) -> None:
        super().__init__()
        vertical = RowNumbers(table, self)
        self.setVerticalHeader(vertical)
        vertical.setVisible(False)
        vertical.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        vertical.setDefaultSectionSize(_ROW)
        vertical.setFont(font(11))
        self.heads = FieldHeads(table, self)
        self.setHorizontalHeader(self.heads)
        model = TableModel(table, apart)
        model.setParent(self)  # it lasts as long
        self.setItemDelegate(RowCells(model))
        self.setModel(model)  # last: a million rows are measured by what has been said of them
        self.setAccessibleName(f"Rows of {table.name}")
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setWordWrap(False)
        for at, width in enumerate(_widths(model)):
            self.setColumnWidth(at, width)
        self.heads.sectionClicked.connect(self.choose)
        selection = self.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._moved)

    def show_rows(self, order: NDArray[np.int64] | None) -> None:
        """Only these rows, in this order, with their numbers in the table; None: all, as they came."""
        model = self.model()
        assert isinstance(model, TableModel)
        column = max(self.currentIndex().column(), 0)
        model.show_rows(order)
        vertical = self.verticalHeader()
        assert vertical is not None
        vertical.setVisible(order is not None)
        self.setCurrentIndex(model.index(0, column))

    def reveal(self, row: int, column: int) -> None:
        """Select a cell and bring it into view."""
        model = self.model()
        assert model is not None
        self.setCurrentIndex(model.index(row, column))
        self.scrollTo(self.currentIndex(), QAbstractItemView.ScrollHint.PositionAtCenter)

    def scrolled(self) -> tuple[int, int]:
        """How far it is scrolled, to the right and down."""
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        return (across.value() if across else 0, down.value() if down else 0)

    def scroll_back(self, to: tuple[int, int]) -> None:
        for bar, value in zip((self.horizontalScrollBar(), self.verticalScrollBar()), to, strict=True):
            if bar is not None:
                bar.setValue(value)

    def choose(self, column: int) -> None:
        """Select a field, by its first row where there is one."""
        index = self.model().index(0, column)  # type: ignore[union-attr]
        if index.isValid() and index != self.currentIndex():
            self.setCurrentIndex(index)  # which tells so
        else:
            self._chosen(column)

    def _moved(self, now: QModelIndex, _before: QModelIndex) -> None:
        self._chosen(now.column())

    def _chosen(self, column: int) -> None:
        self.heads.viewport().update()  # type: ignore[union-attr]
        if column >= 0:
            self.field_chosen.emit(column)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
            return
        super().keyPressEvent(event)

    def keyboardSearch(self, search: str | None) -> None:
        """A letter typed looks through no column: of many rows that would hold the window up. Finding is elsewhere."""

    def copy(self) -> None:
        model, selection = self.model(), self.selectionModel()
        if not isinstance(model, TableModel) or selection is None:
            return
        chosen = selection.selection()
        spans = sorted((chosen[at] for at in range(chosen.count())), key=lambda span: (span.top(), span.left()))
        if sum(span.width() * span.height() for span in spans) > MOST_CELLS:
            self.refused.emit("too many cells for the clipboard", "select fewer cells")
            return
        from summula.core.handout.rows import rows_text

        parts = []
        for span in spans:
            rows = np.array([model.row_of(row) for row in range(span.top(), span.bottom() + 1)], dtype=np.int64)
            names = [model.table.fields[column].name for column in range(span.left(), span.right() + 1)]
            parts.append(rows_text(model.table, rows, names, "\t", heads=False))
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None and parts:
            clipboard.setText("".join(parts).removesuffix("\n"))


def _widths(model: TableModel) -> list[int]:
    """Widths that fit the heads and the first rows."""
    table, widths = model.table, []
    rows = min(table.rows, max(6, min(_MEASURED, _MEASURED_CELLS // max(1, len(table.fields)))))
    for at, field in enumerate(table.fields):
        texts = sorted((model.text(row, at) for row in range(rows)), key=len)[-3:]
        widest = max((text_width(text[:_LONGEST], 13) for text in texts), default=0) + 24
        head = text_width(field.name, 13, 600) + 58
        about = text_width(head_words(table, at), 11) + 22
        widths.append(int(min(max(widest, head, about, 90), 320)))
    return widths
