"""A layout that sets widgets like words: left to right, wrapping at the edge."""

from __future__ import annotations

from PyQt6.QtCore import QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    def __init__(self, parent: QWidget, gap: int = 6, line_gap: int = 4) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._heights: dict[int, int] = {}  # by width: asked hundreds of times between two changes
        self._sizes: list[tuple[int, int]] = []  # of the items, likewise
        self._least: QSize | None = None
        self._line = (0, 0)  # width and height of all in one line
        self._gap, self._line_gap = gap, line_gap
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)
            self._forget()

    def _forget(self) -> None:
        self._heights.clear()
        self._least = None
        self._sizes = []  # a new one: placing a widget may come by here

    def invalidate(self) -> None:
        self._forget()
        super().invalidate()

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        self._forget()
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        found = self._heights.get(width)
        if found is None:
            self._measure()
            if width >= self._line[0]:
                return self._line[1]  # all in one line: wider makes no difference
            found = self._heights[width] = self._set(QRect(0, 0, width, 0), place=False)
        return found

    def setGeometry(self, area: QRect) -> None:
        super().setGeometry(area)
        self._set(area, place=True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        if self._least is None:
            self._least = QSize()
            for item in self._items:
                self._least = self._least.expandedTo(item.minimumSize())
        return QSize(self._least)

    def _measure(self) -> None:
        if not self._sizes:
            hints = [item.sizeHint() for item in self._items]
            self._sizes = [(hint.width(), hint.height()) for hint in hints]
            widths, heights = [width for width, _ in self._sizes], [height for _, height in self._sizes]
            self._line = (sum(widths) + self._gap * max(len(widths) - 1, 0), max(heights, default=0))

    def _set(self, area: QRect, *, place: bool) -> int:
        self._measure()
        left, room = area.x(), area.width()
        x, y, line = left, area.y(), 0
        for item, (wanted, height) in zip(self._items, self._sizes, strict=True):
            width = min(wanted, room)
            if x > left and x + width > left + room:
                x, y, line = left, y + line + self._line_gap, 0
            if place:
                item.setGeometry(QRect(x, y, width, height))
            x += width + self._gap
            line = max(line, height)
        return y + line - area.y()
