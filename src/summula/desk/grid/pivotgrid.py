"""The pivot grid: nested heads that stay in view, folding, totals under accounting's rules, selection.

Painted, not made of widgets: only the cells in view cost anything.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable

from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QFocusEvent,
    QGuiApplication,
    QHelpEvent,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import QAbstractScrollArea, QMenu, QToolTip, QWidget

from summula.core.summaries.behind import Place
from summula.core.summaries.dress import PLAIN, Dress
from summula.core.summaries.editing import Clause
from summula.core.summaries.grid import Grid
from summula.desk.frame.contents import dragged_field
from summula.desk.grid.dressing import paint_dress
from summula.desk.grid.gridlayout import ROW, GridLayout
from summula.desk.grid.headpainting import paint_column_heads, paint_corner, paint_row_heads, paint_rules
from summula.desk.theme import colour, font


class PivotGrid(QAbstractScrollArea):
    """Shows a Grid. Arrow keys move, Shift extends, Ctrl+C copies, + and - unfold and fold."""

    folded = pyqtSignal(object)  # the path of labels to fold or unfold
    selected = pyqtSignal(object)  # the figures selected, as a list of (measure, figure)
    field_dropped = pyqtSignal(str, str)  # field, clause
    rows_asked = pyqtSignal()  # the rows behind the figure under the cursor
    member_asked = pyqtSignal(str)  # "only", "not", "into": the member of the row under the cursor
    order_asked = pyqtSignal(int, str)  # a measure, and "largest", "smallest" or "" for the members' own order
    menu_asked = pyqtSignal(QMenu)  # a menu about the member under the cursor, to be added to

    def __init__(self) -> None:
        super().__init__()
        self.layout_: GridLayout | None = None
        self.message = ""
        self._anchor: tuple[int, int] | None = None
        self._cursor: tuple[int, int] | None = None
        self._drop: Clause | None = None
        self.setFrameShape(self.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Summary grid")
        self.setAcceptDrops(True)
        viewport = self.viewport()
        assert viewport is not None
        viewport.setMouseTracking(True)
        viewport.setAutoFillBackground(False)

    # -- content -------------------------------------------------------------------------------------

    def show_grid(self, grid: Grid, folded: Iterable[tuple[str, ...]], dresses: tuple[Dress, ...] = ()) -> None:
        before = self.layout_
        self.message = ""
        self.layout_ = GridLayout(grid, frozenset(folded), dresses)
        same = before is not None and before.grid is grid
        if not same:
            self._anchor = self._cursor = None
            self.selected.emit([])
        self._bars()
        self._view().update()

    def show_message(self, text: str) -> None:
        """Say something in the place of a grid."""
        self.message, self.layout_ = text, None
        self._bars()
        self._view().update()

    def _view(self) -> QWidget:
        viewport = self.viewport()
        assert viewport is not None
        return viewport

    def _bars(self) -> None:
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        assert across is not None and down is not None
        layout = self.layout_
        width = layout.width - layout.head_width if layout else 0
        height = len(layout.rows) * ROW + 6 if layout else 0
        room = self._view().size()
        seen_width = room.width() - (layout.head_width if layout else 0)
        seen_height = room.height() - (layout.head_height if layout else 0)
        across.setRange(0, max(0, int(width - seen_width)))
        across.setPageStep(max(1, int(seen_width)))
        across.setSingleStep(40)
        down.setRange(0, max(0, int(height - seen_height)))
        down.setPageStep(max(1, int(seen_height)))
        down.setSingleStep(ROW)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._bars()

    def sizeHint(self) -> QSize:
        return QSize(600, 400)

    def _offset(self) -> tuple[int, int]:
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        return (across.value() if across else 0), (down.value() if down else 0)

    # -- painting ------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self._view())
        layout = self.layout_
        if layout is None:
            painter.fillRect(self._view().rect(), colour("sheet"))
            painter.setFont(font(14))
            painter.setPen(colour("muted"))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self._view().rect().adjusted(40, 0, -40, 0), flags, self.message)
            self._paint_drop(painter)
            return
        dx, dy = self._offset()
        width = min(self._view().width(), int(layout.width))
        height = min(self._view().height(), int(layout.head_height + len(layout.rows) * ROW + 5))
        painter.fillRect(0, 0, width, height, colour("sheet"))
        first = max(0, dy // ROW)
        last = min(len(layout.rows), (dy + self._view().height() - layout.head_height) // ROW + 2)
        columns = layout.columns_between(dx, dx + self._view().width() - layout.head_width)
        painter.save()
        painter.setClipRect(QRectF(layout.head_width, layout.head_height, width, height))
        painter.translate(layout.head_width - dx, layout.head_height - dy)
        self._paint_figures(painter, layout, range(first, last), columns)
        painter.restore()
        painter.save()
        painter.setClipRect(QRectF(0, layout.head_height, width, height))
        painter.translate(0, layout.head_height - dy)
        paint_row_heads(painter, layout, range(first, last))
        paint_rules(painter, layout, range(first, last), width)
        painter.restore()
        painter.save()
        painter.setClipRect(QRectF(layout.head_width, 0, width - layout.head_width, layout.head_height))
        painter.translate(layout.head_width - dx, 0)
        paint_column_heads(painter, layout, columns, dx, self._view().width())
        painter.restore()
        paint_corner(painter, layout, width)
        if self.hasFocus() and self._cursor is None:
            painter.setPen(QPen(colour("plum"), 1))
            painter.drawRect(0, 0, width - 1, height - 1)
        self._paint_drop(painter)

    def _paint_figures(self, painter: QPainter, layout: GridLayout, rows: range, columns: range) -> None:
        span = self._span()
        for row in rows:
            line = layout.rows[row]
            y = row * ROW
            weight = 600 if line.total and line.level == 0 else 500 if line.total else 400
            painter.setFont(font(13, weight))
            for column in columns:
                x, width = layout.lefts[column], layout.widths[column]
                chosen = span is not None and span[0] <= row <= span[2] and span[1] <= column <= span[3]
                if chosen:
                    painter.fillRect(QRectF(x, y, width, ROW), colour("plum wash"))
                text = layout.text(row, column)
                ink = "plum" if chosen else "ink" if line.total or layout.grid.rows.depth < 2 else "muted"
                measure = layout.columns[column][1]
                if layout.dresses[measure] != PLAIN:
                    ink = paint_dress(painter, layout, row, column, QRectF(x, y, width, ROW), ink)
                painter.setPen(colour(ink))
                painter.drawText(
                    QRectF(x + 4, y, width - 12, ROW),
                    Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                    text,
                )
                if self._cursor == (row, column) and self.hasFocus():
                    painter.setPen(QPen(colour("plum"), 1.4))
                    painter.drawRect(QRectF(x + 1, y + 1, width - 2, ROW - 2))
        painter.setPen(colour("hairline"))
        for column in columns:
            if column in layout.group_starts and column:
                x = layout.lefts[column]
                painter.drawLine(QPoint(int(x), rows.start * ROW), QPoint(int(x), rows.stop * ROW))

    def _paint_drop(self, painter: QPainter) -> None:
        if self._drop is None:
            return
        layout = self.layout_
        left = layout.head_width if layout else 150
        top = layout.head_height if layout else 54
        width, height = self._view().width(), self._view().height()
        area, words = {
            "by": (QRectF(0, top, left, height - top), "by"),
            "across": (QRectF(left, 0, width - left, top), "across"),
            "measures": (QRectF(left, top, width - left, height - top), "show"),
        }.get(self._drop, (QRectF(), ""))
        wash = QColor(colour("plum wash"))
        wash.setAlpha(225)  # what lies below shows through, without disturbing the word
        painter.fillRect(area, wash)
        painter.setPen(QPen(colour("plum"), 1.5, Qt.PenStyle.DashLine))
        painter.drawRect(area.adjusted(1, 1, -2, -2))
        painter.setFont(font(17, 400, serif=True, italic=True))
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, words)

    # -- places ----------------------------------------------------------------------------------------

    def cell_at(self, place: QPoint) -> tuple[int, int] | None:
        """The (row, column) under a place of the viewport; -1 for a head; None outside."""
        layout = self.layout_
        if layout is None:
            return None
        dx, dy = self._offset()
        row = -1 if place.y() < layout.head_height else (place.y() - layout.head_height + dy) // ROW
        if row >= len(layout.rows):
            return None
        if place.x() < layout.head_width:
            return row, -1
        column = layout.column_at(place.x() - layout.head_width + dx)
        return None if column is None else (row, column)

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell (column -1: the row's head) stands in the viewport."""
        layout = self.layout_
        assert layout is not None
        dx, dy = self._offset()
        y = layout.head_height + row * ROW - dy
        if column < 0:
            return QRectF(0, y, layout.head_width, ROW)
        return QRectF(layout.head_width + layout.lefts[column] - dx, y, layout.widths[column], ROW)

    # -- selection -------------------------------------------------------------------------------------

    def _span(self) -> tuple[int, int, int, int] | None:
        if self._anchor is None or self._cursor is None:
            return None
        (r0, c0), (r1, c1) = self._anchor, self._cursor
        return min(r0, r1), min(c0, c1), max(r0, r1), max(c0, c1)

    def select(self, anchor: tuple[int, int], cursor: tuple[int, int]) -> None:
        self._anchor, self._cursor = anchor, cursor
        layout, span = self.layout_, self._span()
        if layout is not None and span is not None:
            rows, columns = range(span[0], span[2] + 1), range(span[1], span[3] + 1)
            if len(rows) * len(columns) <= 400_000:
                figures = [(layout.columns[column][1], layout.value(row, column)) for column in columns for row in rows]
                self.selected.emit([each for each in figures if not math.isnan(each[1])])
            words = f"{layout.rows[cursor[0]].label}, {layout.column_words(cursor[1])}: {layout.text(*cursor)}"
            self.setAccessibleDescription(words)
        self._view().update()

    def current(self) -> tuple[int, Place, Place] | None:
        """The figure under the cursor: its measure, and its nodes on the rows and columns."""
        layout = self.layout_
        if layout is None or self._cursor is None:
            return None
        row, column = self._cursor
        node, measure = layout.columns[column]
        return measure, (layout.rows[row].level, layout.rows[row].node), node

    def _reveal(self, row: int, column: int) -> None:
        layout = self.layout_
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        if layout is None or across is None or down is None:
            return
        top, bottom = row * ROW, (row + 1) * ROW
        room = self._view().height() - layout.head_height
        down.setValue(int(min(max(down.value(), bottom - room + 4), top)))
        left, right = layout.lefts[column], layout.lefts[column] + layout.widths[column]
        wide = self._view().width() - layout.head_width
        across.setValue(int(min(max(across.value(), right - wide), left)))

    def copied(self) -> str:
        """What is selected (or the whole grid) as tab-separated text, with its heads."""
        layout = self.layout_
        if layout is None:
            return ""
        span = self._span() or (0, 0, len(layout.rows) - 1, len(layout.lefts) - 1)
        lines = []
        for level in layout.heads:
            texts = {at: part.text for part in level for at in range(part.start, part.stop)}
            lines.append("\t".join(["", *(texts.get(at, "") for at in range(span[1], span[3] + 1))]))
        for row in range(span[0], span[2] + 1):
            figures = [layout.exact(row, column) for column in range(span[1], span[3] + 1)]
            lines.append("\t".join([layout.rows[row].label, *figures]))
        return "\n".join(lines)

    def copy(self) -> None:
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.copied())

    # -- events ----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        layout = self.layout_
        if event is None or layout is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = self.cell_at(event.position().toPoint())
        if at is None or not layout.rows or not layout.lefts:
            return
        row, column = at
        last_row, last_column = len(layout.rows) - 1, len(layout.lefts) - 1
        if column == -1 and row >= 0:
            line = layout.rows[row]
            if line.foldable and event.position().x() < 8 + 16 * max(line.level - 1, 0) + 16:
                self.folded.emit(line.path)
                return
            self.select((row, 0), (row, last_column))
        elif row == -1 and column >= 0:
            self.select((0, column), (last_row, column))
        elif row == -1:
            self.select((0, 0), (last_row, last_column))
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier and self._anchor:
            self.select(self._anchor, at)
        else:
            self.select(at, at)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not event.buttons() & Qt.MouseButton.LeftButton or self._anchor is None:
            return
        at = self.cell_at(event.position().toPoint())
        if at is not None and at[0] >= 0 and at[1] >= 0 and at != self._cursor:
            self.select(self._anchor, at)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        at = self.cell_at(event.position().toPoint()) if event is not None else None
        if at is None or self.layout_ is None:
            return
        if at[0] < 0:
            if at[1] >= 0:
                self.order_asked.emit(self.layout_.columns[at[1]][1], self._next_order(self.layout_.columns[at[1]][1]))
            return
        if at[1] >= 0:
            self.select(at, at)
            self.rows_asked.emit()
        elif self.layout_.rows[at[0]].foldable:
            self.folded.emit(self.layout_.rows[at[0]].path)
        elif self.layout_.rows[at[0]].level:
            self.select((at[0], 0), (at[0], 0))
            self.member_asked.emit("into")

    def _next_order(self, measure: int) -> str:
        """Largest first, then smallest first, then the members' own order again."""
        layout = self.layout_
        assert layout is not None
        order, calculation = layout.grid.phrase.order, layout.grid.phrase.measures[measure].calculation
        if order is None or order.measure is None or order.measure.calculation != calculation:
            return "largest"
        return "smallest" if order.largest else ""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        layout = self.layout_
        if event is None or layout is None or not layout.rows:
            return
        if event.matches(QKeySequence.StandardKey.Copy):
            self.copy()
            return
        last = (len(layout.rows) - 1, len(layout.lefts) - 1)
        if event.matches(QKeySequence.StandardKey.SelectAll):
            self.select((0, 0), last)
            return
        at = self._cursor or (0, 0)
        page = max(1, (self._view().height() - layout.head_height) // ROW - 1)
        steps = {
            Qt.Key.Key_Up: (-1, 0),
            Qt.Key.Key_Down: (1, 0),
            Qt.Key.Key_Left: (0, -1),
            Qt.Key.Key_Right: (0, 1),
            Qt.Key.Key_PageUp: (-page, 0),
            Qt.Key.Key_PageDown: (page, 0),
            Qt.Key.Key_Home: (0, -last[1] - 1),
            Qt.Key.Key_End: (0, last[1] + 1),
        }
        key = Qt.Key(event.key())
        if key in steps:
            step = steps[key] if self._cursor is not None else (0, 0)
            moved = (min(max(at[0] + step[0], 0), last[0]), min(max(at[1] + step[1], 0), last[1]))
            held = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.select(self._anchor if held and self._anchor else moved, moved)
            self._reveal(*moved)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Space) and layout.rows[at[0]].foldable:
            if key == Qt.Key.Key_Space or (key == Qt.Key.Key_Plus) == layout.rows[at[0]].folded:
                self.folded.emit(layout.rows[at[0]].path)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._cursor is not None:
            self.rows_asked.emit()
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None or self.layout_ is None:
            return
        at = self.cell_at(event.pos())
        if at is not None and at[0] < 0 <= at[1]:
            self._head_menu(at[1]).exec(event.globalPos())
            return
        if at is not None and at[0] >= 0 and self.layout_.lefts and (self._span() is None or at[1] < 0):
            self.select((at[0], max(at[1], 0)), (at[0], max(at[1], 0)))
        menu = QMenu(self)
        line = self.layout_.rows[self._cursor[0]] if self._cursor is not None else None
        deeds: list[tuple[str, Callable[[], object]]] = [("Copy", self.copy)]
        if line is not None:
            deeds.append(("Rows behind this figure", self.rows_asked.emit))
            if line.level:
                deeds.append((f"Only {line.label}", lambda: self.member_asked.emit("only")))
                deeds.append((f"Without {line.label}", lambda: self.member_asked.emit("not")))
                deeds.append((f"Look into {line.label}", lambda: self.member_asked.emit("into")))
        for text, run in deeds:
            made = menu.addAction(text)
            assert made is not None
            made.triggered.connect(lambda _, run=run: run())
        if line is not None and line.level:
            self.menu_asked.emit(menu)
        menu.exec(event.globalPos())

    def _head_menu(self, column: int) -> QMenu:
        """The orders that a measure's head offers."""
        menu, measure = QMenu(self), self.layout_.columns[column][1] if self.layout_ is not None else 0
        for text, how in (
            ("Largest first", "largest"),
            ("Smallest first", "smallest"),
            ("In the members' own order", ""),
        ):
            made = menu.addAction(text)
            assert made is not None
            made.triggered.connect(lambda _, how=how: self.order_asked.emit(measure, how))
        return menu

    def viewportEvent(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self.layout_ is not None:
            at = self.cell_at(event.pos())
            text = self.layout_.words(*at) if at is not None else ""
            if text:
                QToolTip.showText(event.globalPos(), text, self)
            else:
                QToolTip.hideText()
            return True
        return super().viewportEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self._view().update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self._view().update()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dragged_field(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and dragged_field(event.mimeData()) is not None:
            self._drop = self._drop_clause(event.position().toPoint())
            event.acceptProposedAction()
            self._view().update()

    def _drop_clause(self, place: QPoint) -> Clause:
        layout = self.layout_
        left, top = (layout.head_width, layout.head_height) if layout else (150, 54)
        if place.y() < top and place.x() >= left:
            return "across"
        return "by" if place.x() < left else "measures"

    def dragLeaveEvent(self, event: QDragLeaveEvent | None) -> None:
        self._drop = None
        self._view().update()

    def dropEvent(self, event: QDropEvent | None) -> None:
        name = dragged_field(event.mimeData()) if event is not None else None
        self._drop = None
        self._view().update()
        if event is not None and name is not None:
            event.acceptProposedAction()
            self.field_dropped.emit(name, self._drop_clause(event.position().toPoint()))
