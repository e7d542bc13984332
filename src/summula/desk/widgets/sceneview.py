"""A widget that shows a Scene made to its size, with tooltips and a keyboard walk over its marks."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from summula.core.charts.chart import Canvas
from summula.core.charts.places import Bounds, bounds, mark_at
from summula.core.charts.scene import Mark, Scene, Tag, Text
from summula.core.theme.typefaces import text_width
from summula.desk.theme import colour
from summula.desk.widgets.painter import paint_scene

MakeScene = Callable[[Canvas], Scene]


def tag_words(mark: Mark) -> str:
    if mark.tag is not None:
        return f"{mark.tag.title}\n{mark.tag.text}" if mark.tag.title else mark.tag.text
    return mark.full if isinstance(mark, Text) else ""


def _rect(area: Bounds) -> QRectF:
    return QRectF(area.left, area.top, area.right - area.left, area.bottom - area.top)


class SceneView(QWidget):
    """Shows what `make` draws. Left and Right walk over the marks; their words go to the screen reader. A double click
    on a mark, or Enter, asks what is behind it."""

    asked = pyqtSignal(object)  # the Tag of a mark

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._make: MakeScene | None = None
        self._drawn: Scene | None = None
        self._at: int | None = None
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def show_scene(self, make: MakeScene) -> None:
        self._make = make
        self._redraw()

    @property
    def scene(self) -> Scene | None:
        """What is shown, drawn when it is first looked at: laying out a page changes sizes more than once."""
        if self._drawn is None and self._make is not None:
            self._drawn = self._make(Canvas(self.width(), self.height()))
            figures = [tag_words(mark).replace("\n", ": ") for mark in self._drawn.tagged()[:24]]
            self.setAccessibleDescription("; ".join(figures))
        return self._drawn

    def sizeHint(self) -> QSize:
        return QSize(400, 260)

    def _redraw(self) -> None:
        self._drawn, self._at = None, None
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._redraw()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        scene = self.scene
        if scene is None:
            return
        painter = QPainter(self)
        paint_scene(painter, scene)
        tagged = scene.tagged()
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            painter.setPen(QPen(colour("plum"), 1.6))
            if self._at is not None and self._at < len(tagged):
                painter.drawRoundedRect(_rect(bounds(tagged[self._at], text_width)).adjusted(-3, -3, 3, 3), 3, 3)
            else:
                painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            scene = self.scene
            mark = mark_at(scene, event.pos().x(), event.pos().y(), text_width) if scene else None
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
        scene = self.scene
        mark = mark_at(scene, x, y, text_width) if scene else None
        return mark.tag if mark is not None else None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        scene = self.scene
        if event is None or scene is None:
            return
        tagged = scene.tagged()
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
        place = bounds(tagged[self._at], text_width)
        QToolTip.showText(self.mapToGlobal(QPoint(int(place.right), int(place.bottom))), words, self)
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self._at = None
        self.update()
        super().focusOutEvent(event)
