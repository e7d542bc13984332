"""What is around a summary's answer: the white sheet of its chart, and the forms and actions above it."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QVBoxLayout, QWidget

from summula.desk.frame.contents import dragged_field
from summula.desk.theme import colour


class Toolbar(QWidget):
    """The forms and what else can be done: beside each other, or below where there is no room."""

    def __init__(self, forms: QWidget, width: int, grid_actions: QWidget) -> None:
        super().__init__()
        self._width, self._actions = width, grid_actions
        self._row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._row.setContentsMargins(0, 0, 4, 0)
        self._row.setSpacing(8)
        self._row.addWidget(forms, 1)
        self._row.addWidget(grid_actions, 0, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)

    def minimumSizeHint(self) -> QSize:
        return QSize(self._actions.minimumSizeHint().width() + 4, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        fits = self.width() >= self._width + self._actions.sizeHint().width() + 12
        directions = QBoxLayout.Direction
        self._row.setDirection(directions.LeftToRight if fits else directions.TopToBottom)


class ChartSheet(QWidget):
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
