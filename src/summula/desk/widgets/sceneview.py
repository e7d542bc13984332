"""A widget that shows a Scene made to its size, with tooltips and a keyboard walk over its marks."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from summula.core.charts.scene import Mark, Scene, Tag, Text, TextWidth
from summula.desk.theme import colour, text_width
from summula.desk.widgets.painter import bounds, mark_at, paint_scene

MakeScene = Callable[[tuple[float, float], TextWidth], Scene]


def tag_words(mark: Mark) -> str:
    if mark.tag is not None:
        return f"{mark.tag.title}\n{mark.tag.text}" if mark.tag.title else mark.tag.text
    return mark.full if isinstance(mark, Text) else ""


class SceneView(QWidget):
    """Shows what `make` draws. Left and Right walk over the marks; their words go to the screen reader. A double click
    on a mark, or Enter, asks what is behind it."""

    asked = pyqtSignal(object)  # the Tag of a mark

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._make: MakeScene | None = None
        self.scene: Scene | None = None
        self._at: int | None = None
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def show_scene(self, make: MakeScene) -> None:
        self._make = make
        self._redraw()

    def sizeHint(self) -> QSize:
        return QSize(400, 260)

    def _redraw(self) -> None:
        if self._make is not None:
            self.scene = self._make((self.width(), self.height()), text_width)
            self._at = None
            figures = [tag_words(mark).replace("\n", ": ") for mark in self.scene.tagged()[:24]]
            self.setAccessibleDescription("; ".join(figures))
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._redraw()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.scene is None:
            return
        painter = QPainter(self)
        paint_scene(painter, self.scene)
        tagged = self.scene.tagged()
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            painter.setPen(QPen(colour("plum"), 1.6))
            if self._at is not None and self._at < len(tagged):
                painter.drawRoundedRect(bounds(tagged[self._at]).adjusted(-3, -3, 3, 3), 3, 3)
            else:
                painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            mark = mark_at(self.scene, event.pos().x(), event.pos().y()) if self.scene else None
            if mark is None:
                QToolTip.hideText()
            else:
                QToolTip.showText(event.globalPos(), tag_words(mark), self)
            return True
        return super().event(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        tag = self.tag_at(event.position().x(), event.position().y()) if event is not None else None
        if tag is not None:
            self.asked.emit(tag)

    def tag_at(self, x: float, y: float) -> Tag | None:
        mark = mark_at(self.scene, x, y) if self.scene else None
        return mark.tag if mark is not None else None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.scene is None:
            return
        tagged = self.scene.tagged()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._at is not None and self._at < len(tagged):
            self.asked.emit(tagged[self._at].tag)
            return
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()))
        if step is None or not tagged:
            super().keyPressEvent(event)
            return
        self._at = 0 if self._at is None else (self._at + step) % len(tagged)
        words = tag_words(tagged[self._at])
        self.setAccessibleDescription(words)
        place = bounds(tagged[self._at]).bottomRight().toPoint()
        QToolTip.showText(self.mapToGlobal(QPoint(place.x(), place.y())), words, self)
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self._at = None
        self.update()
        super().focusOutEvent(event)
