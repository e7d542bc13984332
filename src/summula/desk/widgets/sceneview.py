"""A widget that shows a Scene made to its size, with tooltips and a keyboard walk over its marks."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property
from itertools import islice

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, QSize, Qt, QVariantAnimation, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QWidget

from summula.core.charts.chart import Canvas
from summula.core.charts.gliding import between
from summula.core.charts.places import Bounds, bounds, mark_at, part_at
from summula.core.charts.scene import Mark, Scene, Tag, Text
from summula.core.theme.typefaces import text_width
from summula.desk.theme import colour
from summula.desk.widgets.painter import paint_scene
from summula.desk.widgets.plaintext import hide_tip, show_tip
from summula.desk.widgets.tooltips import tip_asked

_GLIDE = 140  # ms
_SPOKEN = 24  # marks whose words describe a picture as a whole
_DRAWN = 6  # pixels that a press must move to be drawn over members
_BESIDE = 14.0  # pixels from the middle of names that count as beside them
MakeScene = Callable[[Canvas], Scene]


def tag_words(mark: Mark) -> str:
    if mark.tag is not None:
        return "\n".join(part for part in (mark.tag.title, mark.tag.text) if part)
    return mark.full if isinstance(mark, Text) else ""


def _rect(area: Bounds) -> QRectF:
    return QRectF(area.left, area.top, area.right - area.left, area.bottom - area.top)


class SceneView(QWidget):
    """Shows what `make` draws. Left and Right walk over the marks; their words go to the screen reader. A double click
    on a mark, or Enter, asks what is behind it. Where it is for `picking`, a click or Space picks a mark, with Ctrl one
    more."""

    asked = pyqtSignal(object)  # the Tag of a mark
    clicked = pyqtSignal(object, bool)  # the Tag of a mark, None beside all of them; whether it is added (Ctrl)
    pointed = pyqtSignal(object)  # the Mark that was clicked, None beside all of them
    drawn = pyqtSignal()  # a scene was drawn, at the size that it is shown at
    stretched = pyqtSignal(list)  # the Tags of the members that the mouse was drawn over, along their axis

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._make: MakeScene | None = None
        self._more: Callable[[Tag], str] | None = None
        self._drawn: Scene | None = None
        self._drawn_for = (0, 0)  # the size that it was drawn for: one that comes back is not drawn again
        self._at: int | None = None
        self._by_mouse = False
        self.pointing = False  # whether parts can be clicked, and members drawn over
        self.picking = False  # whether marks can be clicked
        self._hovered: Bounds | None = None
        self._pressed: QPointF | None = None
        self._drawn_to: QPointF | None = None
        self._before: Scene | None = None  # where points glide from
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def show_scene(self, make: MakeScene, more: Callable[[Tag], str] | None = None, *, glide: bool = False) -> None:
        """`more`: what a mark says beside its tag, when it is asked. `glide`: points go to their new places."""
        before = self._drawn if glide else None
        self._make, self._more = make, more
        self._redraw()
        if before is not None:
            self._before = before
            self._gliding.start()

    @cached_property
    def _gliding(self) -> QVariantAnimation:
        """Moves points: made when some do first."""
        gliding = QVariantAnimation(self)
        gliding.setDuration(_GLIDE)
        gliding.setStartValue(0.0)
        gliding.setEndValue(1.0)
        gliding.valueChanged.connect(lambda _: self.update())
        gliding.finished.connect(self._glided)
        return gliding

    def _glided(self) -> None:
        if self._gliding.state() == QVariantAnimation.State.Stopped:
            self._before = None
        self.update()

    @property
    def scene(self) -> Scene | None:
        """What is shown, drawn when it is first looked at: laying out a page changes sizes more than once."""
        size = (self.width(), self.height())
        if self._make is not None and (self._drawn is None or self._drawn_for != size):
            self._drawn, self._drawn_for = self._make(Canvas(*size)), size
            self._describe(self._drawn)
            self.drawn.emit()
        return self._drawn

    @property
    def drawn_scene(self) -> Scene | None:
        """What is shown, where it has been drawn: to ask draws nothing."""
        return self._drawn if self._drawn_for == (self.width(), self.height()) else None

    def _describe(self, scene: Scene) -> None:
        """What a screen reader tells of the whole: its first figures, and how many there are beside."""
        marks = scene.each_tagged()
        figures = [tag_words(mark).replace("\n", ": ") for mark in islice(marks, _SPOKEN)]
        more = sum(1 for _ in marks)
        if more:
            figures.append(f"{more:,} more, told one by one with the arrow keys")
        self.setAccessibleDescription("; ".join(figures))

    def _words(self, mark: Mark) -> str:
        """All that a mark says."""
        more = self._more(mark.tag) if self._more is not None and mark.tag is not None and mark.tag.text else ""
        return "\n".join(part for part in (tag_words(mark), more) if part)

    def sizeHint(self) -> QSize:
        return QSize(400, 260)

    def _redraw(self) -> None:
        self._drawn, self._at = None, None
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if self._before is not None:
            self._gliding.stop()
        self._before = self._at = None
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        scene = self.scene
        if scene is None:
            return
        painter = QPainter(self)
        way = 1.0 if self._before is None else float(self._gliding.currentValue() or 0.0)
        paint_scene(painter, scene if self._before is None else between(self._before, scene, way))
        if self._hovered is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("plum"), 1, Qt.PenStyle.DotLine))
            painter.drawRoundedRect(_rect(self._hovered).adjusted(-3, -2, 3, 2), 3, 3)
        if self._drawn_to is not None:
            veil = colour("plum")
            veil.setAlphaF(0.14)
            painter.fillRect(self._stretch(), veil)
        if self.hasFocus() and not (self._by_mouse and self._at is None):
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            painter.setPen(QPen(colour("plum"), 1.6))
            tagged = scene.tagged() if self._at is not None else []
            if self._at is not None and self._at < len(tagged):
                painter.drawRoundedRect(_rect(bounds(tagged[self._at], text_width)).adjusted(-3, -3, 3, 3), 3, 3)
            else:
                painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def event(self, event: QEvent | None) -> bool:
        if tip_asked(event):
            scene = self.scene
            mark = mark_at(scene, event.pos().x(), event.pos().y(), text_width) if scene else None
            if mark is None:
                hide_tip()
            else:
                show_tip(event.globalPos(), self._words(mark), self)
            return True
        return super().event(event)

    # -- pointing --------------------------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        scene = self.scene
        if event is None or scene is None:
            return
        if self.picking:
            over = self.tag_at(event.position().x(), event.position().y()) is not None
            self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)
        if not self.pointing:
            return
        place = event.position()
        if self._pressed is not None and self._along() is not None:
            if self._drawn_to is not None or (place - self._pressed).manhattanLength() > _DRAWN:
                self._drawn_to, self._hovered = place, None
                self.update()
            return
        found = part_at(scene, place.x(), place.y(), text_width)
        hovered = found[1] if found is not None else None
        if hovered != self._hovered:
            self._hovered = hovered
            self.setCursor(Qt.CursorShape.ArrowCursor if hovered is None else Qt.CursorShape.PointingHandCursor)
            self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        picked = self.pointing or self.picking
        if event is not None and picked and event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        scene, pressed = self.scene, self._pressed
        if event is None or scene is None or pressed is None:
            return
        if self._drawn_to is not None:
            members = self._members_in(self._stretch(), scene)
            self._pressed = self._drawn_to = None
            self.update()
            self.stretched.emit(members)
            return
        self._pressed = None
        if self.picking:
            adding = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            self.clicked.emit(self.tag_at(pressed.x(), pressed.y()), adding)
            return
        found = part_at(scene, pressed.x(), pressed.y(), text_width)
        self.pointed.emit(found[0] if found is not None else None)

    def _names(self) -> list[tuple[Text, Bounds]]:
        """The members' names along their axis."""
        scene = self.scene
        marks = scene.marks if scene is not None else ()
        return [(mark, bounds(mark, text_width)) for mark in marks if isinstance(mark, Text) and mark.part == "Members"]

    def _along(self) -> str:
        """Which way the members stand, where the mouse was pressed beside their names: "x", "y", or "" elsewhere."""
        names = self._names()
        if not names or self._pressed is None:
            return ""
        across = max(area.bottom for _, area in names) - min(area.top for _, area in names) < 2 * names[0][0].size
        place = self._pressed
        if across and abs(place.y() - (names[0][1].top + names[0][1].bottom) / 2) < _BESIDE:
            return "x"
        return "y" if not across and place.x() < max(area.right for _, area in names) + 6 else ""

    def _stretch(self) -> QRectF:
        start, end = self._pressed, self._drawn_to
        assert start is not None and end is not None
        if self._along() == "y":
            return QRectF(0, min(start.y(), end.y()), self.width(), abs(start.y() - end.y()))
        return QRectF(min(start.x(), end.x()), 0, abs(start.x() - end.x()), self.height())

    def _members_in(self, area: QRectF, scene: Scene) -> list[Tag]:
        """A tag for each member whose mark or name has its middle in the area, in their order."""
        found: dict[object, Tag] = {}
        for mark, x, y in scene.flat():
            if mark.tag is None or not mark.tag.by:
                continue
            own = bounds(mark, text_width)
            middle = QPointF((own.left + own.right) / 2 + x, (own.top + own.bottom) / 2 + y)
            if area.contains(middle):
                found.setdefault(mark.tag.by, mark.tag)
        return list(found.values())

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
        if event.key() == Qt.Key.Key_Space and self.picking and self._at is not None and self._at < len(tagged):
            self.clicked.emit(tagged[self._at].tag, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
            return
        if event.key() == Qt.Key.Key_Escape and self.pointing:
            self.pointed.emit(None)
            return
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()))
        if step is None or not tagged:
            super().keyPressEvent(event)
            return
        self._at = 0 if self._at is None else (self._at + step) % len(tagged)
        words = self._words(tagged[self._at])
        self.setAccessibleDescription(words)
        place = bounds(tagged[self._at], text_width)
        show_tip(self.mapToGlobal(QPoint(int(place.right), int(place.bottom))), words, self)
        self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hovered = None
        self.update()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self._by_mouse = event is not None and event.reason() == Qt.FocusReason.MouseFocusReason
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        if self._at is not None and self._drawn is not None:
            self._describe(self._drawn)  # no single figure any more
        self._at = None
        self.update()
        super().focusOutEvent(event)
