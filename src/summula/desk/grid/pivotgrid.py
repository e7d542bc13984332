"""The pivot grid: nested heads that stay in view, folding, totals under accounting's rules, selection.

Painted, not made of widgets: only the cells in view cost anything.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QFocusEvent,
    QGuiApplication,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import QAbstractScrollArea, QMenu, QWidget

from summula.core.fields.figures import plural
from summula.core.grids.layout import PLAIN, Labels, Layout
from summula.desk.frame.contents import dragged_field
from summula.desk.grid import copying
from summula.desk.grid.gridkeys import key_pressed
from summula.desk.grid.gridlayout import ROW, GridLayout
from summula.desk.grid.gridmenu import cell_menu, head_menu
from summula.desk.grid.gridmouse import GridMouse
from summula.desk.grid.gridpainting import paint_drop, paint_grid, paint_landing
from summula.desk.grid.gridselection import Cell, ChosenMembers, Selection
from summula.desk.theme import colour, font
from summula.desk.widgets.plaintext import hide_tip, show_tip
from summula.desk.widgets.tooltips import tip_asked

if TYPE_CHECKING:
    from summula.core.engine.axis import GridPlace
    from summula.core.engine.grid import Grid
    from summula.core.grids.measurestyle import MeasureStyle
    from summula.core.phrases.editing import Clause


class PivotGrid(QAbstractScrollArea):
    """Shows a Grid. Arrow keys move, Shift extends, Ctrl+C copies, + and - unfold and fold, Alt+Up and Alt+Down move a
    member among its neighbours, Shift+Space and Ctrl+Space select the whole line and column, the menu key offers what
    can be done with them. Members are carried by their heads, columns pulled at their edges."""

    folded = pyqtSignal(object, bool)  # the path of labels to fold or unfold; whether across
    level_folded = pyqtSignal(int, bool, bool)  # a level, whether across, whether to fold
    selected = pyqtSignal(object)  # the figures selected, as a list of (measure, its figures)
    field_dropped = pyqtSignal(str, str)  # field, clause
    rows_asked = pyqtSignal()  # the rows behind the figure under the cursor
    member_asked = pyqtSignal(str)  # "only", "not", "into", "bundle": of the chosen members
    member_moved = pyqtSignal(bool, int, int, int, bool)  # across, level, node, the node beside it, whether after that
    order_asked = pyqtSignal(int, str)  # a column, and "largest", "smallest" or "" for the members' own order
    width_set = pyqtSignal(int, int)  # a column (-1: the lines' heads) and its width; 0: as wide as it needs
    menu_asked = pyqtSignal(QMenu)  # a menu about the chosen member, to be added to
    refused = pyqtSignal(str, str)  # what cannot be done, and what can
    phrase_asked = pyqtSignal()  # the phrase, to be copied
    cells_asked = pyqtSignal(object)  # what makes many cells, to be copied once it has

    def __init__(self) -> None:
        super().__init__()
        self.layout_: GridLayout | None = None
        self.message = ""
        self.selection: Selection | None = None
        self._drop: Clause | None = None
        self.mouse = GridMouse(self)
        self.setFrameShape(self.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Summary grid")
        self.setAcceptDrops(True)
        viewport = self.viewport()
        assert viewport is not None
        viewport.setMouseTracking(True)
        viewport.setAutoFillBackground(False)

    # -- content -------------------------------------------------------------------------------------

    def show_grid(
        self,
        grid: Grid,
        folded: Iterable[Labels],
        measure_styles: tuple[MeasureStyle, ...] = (),
        layout: Layout = PLAIN,
        folded_across: Iterable[Labels] = (),
    ) -> None:
        before = self.layout_
        self.message = ""
        self.layout_ = GridLayout(grid, frozenset(folded), measure_styles, layout, frozenset(folded_across))
        same = before is not None and before.grid is grid and len(before.rows) == len(self.layout_.rows)
        if not same or (before is not None and len(before.columns) != len(self.layout_.columns)):
            self.selection = None
            self.selected.emit([])
        self._describe()
        self.mouse.forget()
        self.refit()
        self.view().update()

    def _describe(self) -> None:
        """What a screen reader tells: what is selected, else how large the grid is, else what stands in its place."""
        layout = self.layout_
        if layout is None:
            words = self.message
        elif self.selection is not None:
            words = self.selection.words(layout)
        else:
            size = f"{plural(len(layout.rows), 'line')}, {plural(len(layout.columns), 'column')} of figures"
            words = f"{size}; the arrow keys go through them"
        self.setAccessibleDescription(words)

    def show_message(self, text: str) -> None:
        """Say something in the place of a grid."""
        self.message, self.layout_ = text, None
        self.selection = None
        self._describe()
        self.mouse.forget()
        self.refit()
        self.view().update()

    def view(self) -> QWidget:
        viewport = self.viewport()
        assert viewport is not None
        return viewport

    def refit(self) -> None:
        """Scroll bars for the layout as it is now."""
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        assert across is not None and down is not None
        layout = self.layout_
        width = layout.width - layout.head_width if layout else 0
        height = len(layout.rows) * ROW + 6 if layout else 0
        room = self.view().size()
        seen_width = room.width() - (layout.head_width if layout else 0)
        seen_height = room.height() - (layout.head_height if layout else 0)
        across.setRange(0, max(0, int(width - seen_width)))
        across.setPageStep(max(1, int(seen_width)))
        across.setSingleStep(40)
        down.setRange(0, max(0, int(height - seen_height)))
        down.setPageStep(max(1, int(seen_height)))
        down.setSingleStep(ROW)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.refit()

    def sizeHint(self) -> QSize:
        return QSize(600, 400)

    def offset(self) -> tuple[int, int]:
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        return (across.value() if across else 0), (down.value() if down else 0)

    # -- painting ------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self.view())
        layout, room = self.layout_, (self.view().width(), self.view().height())
        if layout is None:
            painter.fillRect(self.view().rect(), colour("sheet"))
            painter.setFont(font(14))
            painter.setPen(colour("muted"))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.view().rect().adjusted(40, 0, -40, 0), flags, self.message)
            paint_drop(painter, self._drop, self.head_room(), room)
            return
        cursor = self.selection.cursor if self.selection is not None and self.hasFocus() else None
        paint_grid(painter, layout, self.offset(), room, self._is_chosen, cursor, self.mouse.hovered)
        if self.hasFocus() and self.selection is None:
            painter.setPen(QPen(colour("plum"), 1))
            height = min(room[1], int(layout.head_height + len(layout.rows) * ROW + 5))
            painter.drawRect(0, 0, min(room[0], int(layout.width)) - 1, height - 1)
        if self.mouse.landing is not None and self.mouse.carried is not None:
            paint_landing(painter, layout, self.mouse.carried, self.mouse.landing, self.offset(), room)
        paint_drop(painter, self._drop, self.head_room(), room)

    def head_room(self) -> tuple[int, int]:
        return (self.layout_.head_width, self.layout_.head_height) if self.layout_ else (150, 54)

    # -- places ----------------------------------------------------------------------------------------

    def cell_at(self, place: QPoint) -> Cell | None:
        """The (line, column) under a place of the viewport; -1 for a head; None outside."""
        layout = self.layout_
        if layout is None:
            return None
        dx, dy = self.offset()
        row = -1 if place.y() < layout.head_height else (place.y() - layout.head_height + dy) // ROW
        if row >= len(layout.rows):
            return None
        if place.x() < layout.head_width:
            return row, -1
        column = layout.column_at(place.x() - layout.head_width + dx)
        return None if column is None else (row, column)

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell (column -1: the line's head) stands in the viewport."""
        layout = self.layout_
        assert layout is not None
        dx, dy = self.offset()
        y = layout.head_height + row * ROW - dy
        if column < 0:
            return QRectF(0, y, layout.head_width, ROW)
        return QRectF(layout.head_width + layout.lefts[column] - dx, y, layout.widths[column], ROW)

    # -- selection -------------------------------------------------------------------------------------

    def _is_chosen(self, row: int, column: int) -> bool:
        return self.selection is not None and self.selection.holds(row, column)

    def select(self, anchor: Cell, cursor: Cell, head_level: int = -1) -> None:
        self.selection, layout = Selection(anchor, cursor, head_level), self.layout_
        if layout is not None:
            top, left, bottom, right = self.selection.span
            self.selected.emit(layout.figures(range(top, bottom + 1), range(left, right + 1)))
            self._describe()
        self.view().update()

    def current(self) -> tuple[int, GridPlace, GridPlace] | None:
        """The figure under the cursor: its measure, and its nodes on the lines and columns."""
        if self.layout_ is None or self.selection is None:
            return None
        return self.selection.figure(self.layout_)

    def chosen(self) -> ChosenMembers | None:
        """The chosen members; None where nothing but totals of everything is selected."""
        if self.layout_ is None or self.selection is None:
            return None
        return self.selection.members(self.layout_)

    def reveal(self, row: int, column: int) -> None:
        layout = self.layout_
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        if layout is None or across is None or down is None:
            return
        top, bottom = row * ROW, (row + 1) * ROW
        room = self.view().height() - layout.head_height
        down.setValue(int(min(max(down.value(), bottom - room + 4), top)))
        left, right = layout.lefts[column], layout.lefts[column] + layout.widths[column]
        wide = self.view().width() - layout.head_width
        across.setValue(int(min(max(across.value(), right - wide), left)))

    # -- the clipboard ---------------------------------------------------------------------------------

    def copied(self) -> str:
        """What is selected (or the whole grid) as tab-separated text, with its heads."""
        layout = self.layout_
        if layout is None or not len(layout.rows):
            return ""
        return copying.as_text(layout, self.selection.span if self.selection is not None else copying.whole(layout))

    def copy(self) -> None:
        layout = self.layout_
        if layout is None or not len(layout.rows):
            return
        span = self.selection.span if self.selection is not None else copying.whole(layout)
        cells = copying.cells_in(span)
        if cells > copying.MOST_CELLS:
            self.refused.emit("too many cells for the clipboard", "export them as CSV or XLSX")
        elif cells > copying.QUICK_CELLS:
            self.cells_asked.emit(lambda: copying.as_cells(layout, span))
        else:
            copying.as_cells(layout, span).put()

    def all_cells(self) -> copying.Cells | None:
        """All of it; None where there is nothing, or more than another program should be handed at once."""
        layout = self.layout_
        if layout is None or not len(layout.rows):
            return None
        span = copying.whole(layout)
        return copying.as_cells(layout, span) if copying.cells_in(span) <= copying.QUICK_CELLS else None

    def copy_picture(self) -> None:
        clipboard, layout = QGuiApplication.clipboard(), self.layout_
        if clipboard is not None and layout is not None:
            clipboard.setPixmap(copying.as_picture(layout))

    # -- the mouse -------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.mouse.press(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.mouse.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.mouse.release(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.mouse.double_click(event)

    # -- the keyboard ----------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        layout = self.layout_
        if event is None or layout is None or not len(layout.rows):
            return
        if not key_pressed(self, layout, event):
            super().keyPressEvent(event)

    def choose_column(self, column: int) -> None:
        """Select a whole column, and with it the member that it stands for."""
        if self.layout_ is not None:
            level = len(self.layout_.columns[column].path) - 1
            self.select((len(self.layout_.rows) - 1, column), (0, column), level)

    def step_member(self, step: int) -> None:
        """Move the chosen member one place back (-1) or on (1) among its neighbours."""
        chosen, layout = self.chosen(), self.layout_
        if chosen is None or layout is None:
            return
        axis = layout.grid.columns if chosen.across else layout.grid.rows
        level = axis.levels[chosen.level]
        node, anchor = chosen.nodes[0], chosen.nodes[0] + step
        if 0 <= anchor < level.size and level.parent[anchor] == level.parent[node]:
            self.member_moved.emit(chosen.across, chosen.level, node, anchor, step > 0)

    # -- menus and tooltips ----------------------------------------------------------------------------

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None or self.layout_ is None:
            return
        if event.reason() == QContextMenuEvent.Reason.Keyboard and self.selection is not None:
            cursor = self.selection.cursor
            menu = head_menu(self, cursor[1]) if self.selection.head_level >= 0 else cell_menu(self)
            menu.exec(self.view().mapToGlobal(self.cell_rect(*cursor).center().toPoint()))
            return
        self.menu_at(event.pos()).exec(event.globalPos())

    def menu_at(self, place: QPoint) -> QMenu:
        """The menu of a place of the viewport; what lies there is selected, unless it is already."""
        at, layout = self.cell_at(place), self.layout_
        assert layout is not None
        if at is not None and at[0] < 0 <= at[1]:
            if self.selection is None or self.selection.head_level < 0 or not self._is_chosen(0, at[1]):
                self.mouse.press_head(layout, place, held=False)
                self.mouse.forget()
            return head_menu(self, at[1])
        if at is not None and at[0] >= 0 and layout.lefts and not self._is_chosen(at[0], max(at[1], 0)):
            self.select((at[0], max(at[1], 0)), (at[0], max(at[1], 0)))
        return cell_menu(self)

    def viewportEvent(self, event: QEvent | None) -> bool:
        if tip_asked(event) and self.layout_ is not None:
            at = self.cell_at(event.pos())
            text = self._head_words(event.pos()) if at is not None and at[0] < 0 else ""
            text = text or (self.layout_.words(*at) if at is not None else "")
            if text:
                show_tip(event.globalPos(), text, self)
            else:
                hide_tip()
            return True
        return super().viewportEvent(event)

    def _head_words(self, place: QPoint) -> str:
        layout = self.layout_
        if layout is None or place.x() < layout.head_width:
            return layout.corner if layout else ""
        span = layout.span_at(place.x() - layout.head_width + self.offset()[0], place.y())
        return " › ".join(span.path) or span.text if span is not None else ""

    def leaveEvent(self, event: QEvent | None) -> None:
        self.mouse.hover(-1)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.view().update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.view().update()

    # -- fields dropped --------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dragged_field(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and dragged_field(event.mimeData()) is not None:
            self._drop = self._drop_clause(event.position().toPoint())
            event.acceptProposedAction()
            self.view().update()

    def _drop_clause(self, place: QPoint) -> Clause:
        left, top = self.head_room()
        if place.y() < top and place.x() >= left:
            return "across"
        return "by" if place.x() < left else "measures"

    def clause_at(self, place: QPoint) -> Clause | None:
        """The clause that a place on the screen stands for; None outside the grid."""
        here = self.view().mapFromGlobal(place)
        return self._drop_clause(here) if self.isVisible() and self.view().rect().contains(here) else None

    def dragLeaveEvent(self, event: QDragLeaveEvent | None) -> None:
        self._drop = None
        self.view().update()

    def dropEvent(self, event: QDropEvent | None) -> None:
        name = dragged_field(event.mimeData()) if event is not None else None
        self._drop = None
        self.view().update()
        if event is not None and name is not None:
            event.acceptProposedAction()
            self.field_dropped.emit(name, self._drop_clause(event.position().toPoint()))
