"""A list slicer: members with bars of what each holds now, and pale behind, before slicing.

Click takes one; Ctrl+click adds; dragging takes several. Keys: arrows move, Space adds, Enter takes one,
Escape clears.
"""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from summula.core.fields.labels import heading_name
from summula.core.slicing import Holding, ListSlicer
from summula.core.slicing.slicer import MemberChoice
from summula.desk.theme import colour, font, tint

_ROW = 28
_MOST_ROWS = 11  # a longer list scrolls
_SEARCHED = 12  # a longer list can be searched


class MemberRows(QWidget):
    """The members themselves."""

    chosen = pyqtSignal(object)  # the new tuple of choices

    def __init__(self, name: str) -> None:
        super().__init__()
        self.held: list[Holding] = []
        self.selection: tuple[MemberChoice, ...] = ()
        self._cursor = 0
        self._drag: tuple[int, int] | None = None
        self._adding = False
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"Slicer {name}")
        self._hover = -1

    def show_held(self, held: list[Holding], selection: tuple[MemberChoice, ...]) -> None:
        self.held, self.selection = held, selection
        self._cursor = min(self._cursor, max(len(held) - 1, 0))
        self.setFixedHeight(max(len(held), 1) * _ROW)
        self._describe()
        self.update()

    def _describe(self) -> None:
        if self.held:
            each = self.held[self._cursor]
            state = "chosen" if each.choice in self.selection else "not chosen"
            self.setAccessibleDescription(f"{each.label}, {each.rows:,} of {each.before:,} rows, {state}")

    def _previewed(self) -> tuple[MemberChoice, ...]:
        """The selection as it will be when the mouse is let go."""
        if self._drag is None:
            return self.selection
        first, last = sorted(self._drag)
        span = [each.choice for each in self.held[first : last + 1]]
        if not self._adding:
            return tuple(span)
        if len(span) == 1 and span[0] in self.selection:
            return tuple(choice for choice in self.selection if choice != span[0])
        return (*self.selection, *(choice for choice in span if choice not in self.selection))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        if not self.held:
            painter.setFont(font(12.5))
            painter.setPen(colour("muted"))
            painter.drawText(QRectF(0, 0, self.width(), _ROW), Qt.AlignmentFlag.AlignVCenter, "No such member")
            return
        most = max((each.before for each in self.held), default=1) or 1
        selection = self._previewed()
        area = event.rect() if event is not None else self.rect()
        for at in range(max(0, area.top() // _ROW), min(len(self.held), area.bottom() // _ROW + 1)):
            self._paint_row(painter, at, self.held[at], most, selection)

    def _paint_row(
        self, painter: QPainter, at: int, each: Holding, most: int, selection: tuple[MemberChoice, ...]
    ) -> None:
        y = at * _ROW
        chosen = each.choice in selection
        if at == self._hover or (self.hasFocus() and at == self._cursor):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("ghost", 0.45, "paper"))
            painter.drawRoundedRect(QRectF(0, y + 1, self.width(), _ROW - 2), 4, 4)
        if self.hasFocus() and at == self._cursor:
            painter.setPen(QPen(colour("plum"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(0.5, y + 1.5, self.width() - 1, _ROW - 3), 4, 4)
        painter.setPen(QPen(colour("plum"), 1.4))
        painter.setBrush(colour("plum") if chosen else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QRectF(3, y + 5.5, 8.4, 8.4))
        empty = each.rows == 0
        painter.setFont(font(12))
        number = f"{each.rows:,}"
        painter.setPen(colour("muted"))
        painter.drawText(
            QRectF(0, y, self.width() - 4, 21),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            number,
        )
        room = self.width() - 26 - painter.fontMetrics().horizontalAdvance(number)
        painter.setFont(font(13, 600 if chosen else 400))
        painter.setPen(colour("muted" if empty else "ink"))
        label = painter.fontMetrics().elidedText(each.label, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(18, y, room + 2, 21), Qt.AlignmentFlag.AlignVCenter, label)
        width = self.width() - 22
        painter.fillRect(QRectF(18, y + 21, max(width * each.before / most, 1), 3), colour("ghost"))
        if each.rows:
            strength = 1.0 if chosen or not selection else 0.45
            painter.fillRect(QRectF(18, y + 21, max(width * each.rows / most, 1), 3), colour("plum", strength, "paper"))

    def row_at(self, place: QPoint) -> int:
        return min(max(place.y() // _ROW, 0), len(self.held) - 1) if self.held else -1

    def row_centre(self, at: int) -> QPoint:
        return QPoint(self.width() // 2, at * _ROW + _ROW // 2)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or not self.held:
            return
        row = self.row_at(event.position().toPoint())
        self._adding = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        start = self._cursor if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else row
        self._drag = (start, row)
        self._cursor = row
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        row = self.row_at(event.position().toPoint())
        if self._drag is not None and row != self._drag[1]:
            self._drag = (self._drag[0], row)
        if row != self._hover or self._drag is not None:
            self._hover = row
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is None:
            return
        alone = self._drag[0] == self._drag[1] and not self._adding
        self._cursor = self._drag[1]
        wanted = self._previewed()
        self._drag = None
        # Clicking the only one chosen lets everything through again.
        self.chosen.emit(() if alone and wanted == self.selection else wanted)
        self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.held:
            return
        key = event.key()
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(key))
        choice = self.held[self._cursor].choice
        if step is not None:
            self._cursor = min(max(self._cursor + step, 0), len(self.held) - 1)
            self._describe()
            self._reveal()
            self.update()
        elif key == Qt.Key.Key_Space:
            kept = tuple(each for each in self.selection if each != choice)
            self.chosen.emit(kept if choice in self.selection else (*self.selection, choice))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.chosen.emit(() if self.selection == (choice,) else (choice,))
        elif key == Qt.Key.Key_Escape and self.selection:
            self.chosen.emit(())
        else:
            super().keyPressEvent(event)

    def _reveal(self) -> None:
        parent = self.parent()
        area = parent.parent() if parent is not None else None
        if isinstance(area, QScrollArea):
            area.ensureVisible(4, self._cursor * _ROW + _ROW // 2, 0, _ROW)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self.held:
            each = self.held[self.row_at(event.pos())]
            QToolTip.showText(
                event.globalPos(),
                f"{each.label}\n{each.rows:,} rows now · {each.before:,} before slicing",
                self,
            )
            return True
        return super().event(event)


class SlicerList(QWidget):
    """A heading, its members, a search when they are many, and a way to clear."""

    chosen = pyqtSignal(str, object)  # slicer id, the new choices
    removed = pyqtSignal(str)

    def __init__(self, slicer: ListSlicer) -> None:
        super().__init__()
        self.slicer = slicer
        self._held: list[Holding] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        head = QHBoxLayout()
        name = QLabel(heading_name(slicer.heading))
        name.setFont(font(15, 600, serif=True))
        self.count = QLabel()
        self.count.setFont(font(12))
        tint(self.count, "muted")
        self.clear = QPushButton("clear")
        self.clear.setProperty("quiet", "true")
        self.clear.setAccessibleName(f"Clear {slicer.heading.field}")
        self.clear.clicked.connect(lambda: self.chosen.emit(self.slicer.id, ()))
        self.remove = QPushButton("remove")
        self.remove.setProperty("quiet", "true")
        self.remove.setAccessibleName(f"Remove the slicer {slicer.heading.field}")
        self.remove.clicked.connect(lambda: self.removed.emit(self.slicer.id))
        head.addWidget(name, 1)
        head.addWidget(self.clear)
        head.addWidget(self.remove)
        head.addWidget(self.count)
        column.addLayout(head)
        rule = QWidget()
        rule.setFixedHeight(1)
        rule.setObjectName("rule")
        rule.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        column.addWidget(rule)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search")
        self.search.setAccessibleName(f"Search {slicer.heading.field}")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._narrow)
        column.addWidget(self.search)
        self.rows = MemberRows(heading_name(slicer.heading))
        self.rows.chosen.connect(self._chosen)
        self.area = QScrollArea()
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # what it holds is reached
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(self.rows)
        column.addWidget(self.area)

    def show_slicer(self, slicer: ListSlicer, held: list[Holding], *, arranging: bool) -> None:
        self.slicer, self._held = slicer, held
        self.search.setVisible(len(held) > _SEARCHED)
        chosen = len(slicer.chosen)
        self.count.setText(f"{chosen} of {len(held)}" if chosen else "all")
        self.clear.setVisible(bool(chosen) and not arranging)
        self.remove.setVisible(arranging)
        self._narrow(self.search.text())
        self.area.setFixedHeight(min(max(len(held), 1), _MOST_ROWS) * _ROW + 2)

    def _narrow(self, text: str) -> None:
        text = text.casefold() if self.search.isVisibleTo(self) else ""
        self.rows.show_held([each for each in self._held if text in each.label.casefold()], self.slicer.chosen)

    def _chosen(self, choices: tuple[MemberChoice, ...]) -> None:
        order = {each.choice: at for at, each in enumerate(self._held)}
        self.chosen.emit(self.slicer.id, tuple(sorted(choices, key=lambda choice: order.get(choice, len(order)))))

    def sizeHint(self) -> QSize:
        return QSize(174, 34 + min(len(self._held), _MOST_ROWS) * _ROW)
