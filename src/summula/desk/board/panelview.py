"""One panel of a board: a card with its title and scene; in arranging, something to move and resize."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QMimeData, QPoint, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDrag,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PyQt6.QtWidgets import QApplication, QWidget

from summula.core.boards.panelkinds import kind_of, panel_scene
from summula.core.charts.scene import Scene, message
from summula.core.composition.card import card, card_scene, content_area
from summula.core.theme.typefaces import text_width
from summula.desk.theme import colour
from summula.desk.widgets.painter import paint_marks
from summula.desk.widgets.sceneview import SceneView

if TYPE_CHECKING:
    from summula.core.boards.board import Frames, Panel
    from summula.core.boards.panelanswer import PanelAnswer
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.scene import Tag

_HANDLE = 9
# Which edges each handle pulls: (left, top, right, bottom).
_HANDLES = {
    (0.0, 0.0): (1, 1, 0, 0),
    (0.5, 0.0): (0, 1, 0, 0),
    (1.0, 0.0): (0, 1, 1, 0),
    (1.0, 0.5): (0, 0, 1, 0),
    (1.0, 1.0): (0, 0, 1, 1),
    (0.5, 1.0): (0, 0, 0, 1),
    (0.0, 1.0): (1, 0, 0, 1),
    (0.0, 0.5): (1, 0, 0, 0),
}


class PanelView(QWidget):
    """Shows a panel and its answer."""

    moved = pyqtSignal(str, QRect)  # panel id, the pixels it was dropped on
    dragged = pyqtSignal(str, QRect)  # panel id, where it is now, while it is dragged
    keyed = pyqtSignal(str, int, int, int, int)  # panel id; columns, rows to move; columns, rows to grow
    removed = pyqtSignal(str)
    picked = pyqtSignal(str, bool)  # panel id; whether it is added to those selected
    opened = pyqtSignal(str)  # a double click on its title
    menu_asked = pyqtSignal(str, QPoint)  # panel id, where on the screen

    def __init__(self, panel: Panel, live: QWidget | None = None) -> None:
        """`live`: what is moved by hand in it, in the place of a scene."""
        super().__init__()
        self.panel = panel
        self.live = live
        self.frames: Frames = "card"
        self.answer: PanelAnswer | None = None
        self.arranging = False
        self.selected = False
        self._pressed: QPoint | None = None  # where the mouse went down on a panel that is read
        self._grip: tuple[QPoint, QRect, tuple[int, int, int, int]] | None = None
        self.view = SceneView(panel.title, self)
        if live is not None:
            live.setParent(self)
            live.show()
            self.view.hide()

    def show_panel(self, panel: Panel, answer: PanelAnswer, *, arranging: bool, selected: bool) -> None:
        same = answer is self.answer and panel == self.panel
        self.panel, self.arranging, self.selected = panel, arranging, selected
        for each in (self.view, *([self.live] if self.live is not None else [])):
            each.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents, arranging)
        self.view.picking = not arranging
        self.view.setFocusPolicy(Qt.FocusPolicy.NoFocus if arranging else Qt.FocusPolicy.StrongFocus)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus if arranging else Qt.FocusPolicy.NoFocus)
        self.setAccessibleName(f"Panel {panel.title}")
        self.view.setAccessibleName(panel.title)
        if not same:
            self.answer = answer
            self._lay_out()
            chart = answer.chart
            more = None if chart is None else partial(_words_of, chart)
            played = chart is not None and chart.course is not None
            self.view.show_scene(lambda canvas: panel_scene(panel, answer, canvas), more, glide=played)
        self.update()

    def clear(self) -> None:
        """Show nothing until there is an answer."""
        if self.answer is not None:
            self.show_snapshot(self.panel, None)

    def show_snapshot(self, panel: Panel, scene: Scene | None) -> None:
        """Shows the panel as it was seen last, if it has the same size now."""
        self.panel, self.answer = panel, None
        self._lay_out()

        def seen(canvas: Canvas) -> Scene:
            same = scene is not None and (scene.width, scene.height) == canvas.size
            return scene if scene is not None and same else message("", canvas.size)

        self.view.show_scene(seen)
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._lay_out()

    def _lay_out(self) -> None:
        left, top, width, height = content_area(self.panel, (self.width(), self.height()))
        self.view.setGeometry(int(left), int(top), int(width), int(height))
        if self.live is not None:
            self.live.setGeometry(int(left), int(top), int(width), int(height))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        caption = self.answer.caption if self.answer is not None else None
        paint_marks(painter, card(self.panel, (self.width(), self.height()), text_width, caption, self.frames))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        if self.arranging and (self.selected or self.hasFocus()):
            painter.setPen(QPen(colour("plum"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5), 4, 4)
            painter.setBrush(colour("sheet"))
            painter.setPen(QPen(colour("plum"), 1.2))
            for x, y in _HANDLES:
                painter.drawRect(QRectF(x * (self.width() - 8), y * (self.height() - 8), 7, 7))

    # -- arranging -------------------------------------------------------------------------------------

    def _edges_at(self, place: QPoint) -> tuple[int, int, int, int]:
        """Which edges a press here pulls; none means the panel is moved."""
        if self.selected:
            for (x, y), edges in _HANDLES.items():
                middle = QPoint(int(x * (self.width() - 8)) + 4, int(y * (self.height() - 8)) + 4)
                if (middle - place).manhattanLength() <= _HANDLE:
                    return edges
        return (0, 0, 0, 0)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and not self.arranging and event.position().y() < self.view.y():
            self.opened.emit(self.panel.id)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None and not self.arranging:
            self.menu_asked.emit(self.panel.id, event.globalPos())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if not self.arranging:
            self._pressed = event.position().toPoint()
            return
        edges = self._edges_at(event.position().toPoint())
        self._grip = (event.globalPosition().toPoint(), self.geometry(), edges)
        if not kind_of(self.panel).behind:
            self.raise_()
        self.picked.emit(self.panel.id, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if not self.arranging:
            self._draw_out(event)
            return
        if self._grip is None:
            edges = self._edges_at(event.position().toPoint())
            self.setCursor(Qt.CursorShape.SizeAllCursor if not any(edges) else _cursor(edges))
            return
        start, area, (left, top, right, bottom) = self._grip
        gone = event.globalPosition().toPoint() - start
        if left or top or right or bottom:
            pulled = area.adjusted(left * gone.x(), top * gone.y(), right * gone.x(), bottom * gone.y())
            if pulled.width() > 40 and pulled.height() > 40:
                self.setGeometry(pulled)
        else:
            self.move(area.topLeft() + gone)
        self.dragged.emit(self.panel.id, self.geometry())

    def _draw_out(self, event: QMouseEvent) -> None:
        """Drawn by its title, a panel that is read goes out of the window as a picture."""
        start = self._pressed
        if start is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if (event.position().toPoint() - start).manhattanLength() < QApplication.startDragDistance():
            return
        self._pressed = None
        data = self.as_picture()
        if data is not None:
            drag = QDrag(self)
            drag.setMimeData(data)
            drag.exec(Qt.DropAction.CopyAction)

    def as_picture(self) -> QMimeData | None:
        """The panel as it is seen, as PNG and SVG; None while it shows nothing."""
        if self.answer is None:
            return None
        from summula.core.boards.panelanswer import without_unsliced
        from summula.desk.pictures import PictureMime

        answer = without_unsliced(self.answer)  # what goes elsewhere holds what slicers let through alone
        scene = card_scene(self.panel, answer, (self.width(), self.height()), self.frames)
        return PictureMime(scene, self.panel_name)

    @property
    def panel_name(self) -> str:
        return str(getattr(self.panel, "title", "")) or kind_of(self.panel).word

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._pressed = None
        if self._grip is None:
            return
        area = self._grip[1]
        self._grip = None
        if self.geometry() != area:
            self.moved.emit(self.panel.id, self.geometry())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.arranging:
            super().keyPressEvent(event)
            return
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }
        step = steps.get(Qt.Key(event.key()))
        if step is not None:
            grow = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.keyed.emit(self.panel.id, *((0, 0, *step) if grow else (*step, 0, 0)))
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.removed.emit(self.panel.id)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        mouse = event is not None and event.reason() == Qt.FocusReason.MouseFocusReason
        if self.arranging and not mouse:
            self.picked.emit(self.panel.id, False)
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.update()


def _words_of(chart: Chart, tag: Tag) -> str:
    from summula.core.charts.markwords import mark_words

    return mark_words(chart, tag)


def _cursor(edges: tuple[int, int, int, int]) -> Qt.CursorShape:
    left, top, right, bottom = edges
    if (left and top) or (right and bottom):
        return Qt.CursorShape.SizeFDiagCursor
    if (right and top) or (left and bottom):
        return Qt.CursorShape.SizeBDiagCursor
    return Qt.CursorShape.SizeHorCursor if left or right else Qt.CursorShape.SizeVerCursor
