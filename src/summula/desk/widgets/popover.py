"""A small frame near the thing it is about. Escape or a click elsewhere closes it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Label


class Popover(QFrame):
    """`stays` says that it stays open while what it is about changes, since it is what changes it."""

    stays = False
    closed = pyqtSignal()

    def __init__(self, parent: QWidget, title: str, width: int = 280) -> None:
        super().__init__(parent.window(), Qt.WindowType.Popup)  # the parent may go before the popover does
        self.setObjectName("popover")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAccessibleName(title)
        self.setFixedWidth(width)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(12, 10, 12, 12)
        self.column.setSpacing(8)
        self.column.setAlignment(Qt.AlignmentFlag.AlignTop)
        if title:
            self.column.addWidget(small_heading(title))

    def goes_with(self, widget: QWidget) -> None:
        """Close when a widget goes out of view, or for good, whose answers this one calls."""
        widget.destroyed.connect(self.close)
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Hide and not event.spontaneous():
            self.close()
        return super().eventFilter(watched, event)

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.closed.emit()
        super().hideEvent(event)

    def open_below(self, widget: QWidget) -> None:
        """Show under a widget, kept on its screen."""
        self.open_at(widget.mapToGlobal(QPoint(0, widget.height() + 4)), widget)

    def open_at(self, place: QPoint, widget: QWidget) -> None:
        self.adjustSize()
        screen = widget.screen()
        area = screen.availableGeometry() if screen is not None else QRect(0, 0, 4000, 4000)
        x = min(max(place.x(), area.left()), area.right() - self.width())
        y = min(max(place.y(), area.top()), area.bottom() - self.height())
        self.move(x, y)
        self.show()


def small_heading(text: str) -> Label:
    label = Label(text.upper())
    label.setWordWrap(True)
    face = font(11, 500)
    face.setLetterSpacing(face.SpacingType.AbsoluteSpacing, 0.8)
    label.setFont(face)
    tint(label, "muted")
    return label
