"""The period ruler: years, quarters and months on one strip; months, weeks and days when it is zoomed (wheel, + and -).
Click one, or drag over several.

Keys: Left and Right move the period, Shift with them makes it longer or shorter, Y takes the same stretch a year
earlier, Escape clears.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from summula.core.slicing.slicerkinds import slicer_words
from summula.desk.board.rulerpainting import paint_frame, paint_strip
from summula.desk.board.rulerstrip import BARS, HEIGHT, LETTERS, QUARTERS, YEARS, Strip, Unit, row_at, units_of
from summula.desk.theme import colour
from summula.desk.widgets.plaintext import show_tip
from summula.desk.widgets.tooltips import tip_asked
from summula.desk.widgets.writing import write

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Holding, PeriodSlicer
    from summula.core.tables.field import Field

_HANDLE = 7
_LEAST, _DAYS_FROM, _DAYS_UP_TO = 6, 7, 400  # units in view; months from which on days are shown, and how many days


class PeriodRuler(QWidget):
    """Shows a PeriodSlicer; emits the first and last month that are asked for."""

    chosen = pyqtSignal(str, object)  # slicer id, (first, last) or None
    removed = pyqtSignal(str)
    refused = pyqtSignal(object)  # a Refusal
    restyled = pyqtSignal(object)  # the slicer of another field, or by days

    def __init__(self, slicer: PeriodSlicer, fields: Sequence[Field] = ()) -> None:
        super().__init__()
        self.dates = [field.name for field in fields if field.kind == "date"]
        self.slicer = slicer
        self.strip = Strip([])
        self._drag: tuple[int, int] | None = None  # the months where a drag began and is
        self._unit = 1
        self._pull: str | None = None
        self.setFixedHeight(HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(f"Period ruler, {slicer.field}")

    @property
    def months(self) -> list[Unit]:
        return self.strip.months

    def show_slicer(self, slicer: PeriodSlicer, held: list[Holding], *, arranging: bool = False) -> None:
        self.slicer, before, months = slicer, self.strip, units_of(slicer, held)
        window = before.window
        if before.months and months and before.by_days != months[0].is_day:
            window = before.same_window(months)
        self.strip = Strip(months, self.width(), window)
        self.setAccessibleDescription(slicer_words(slicer) or "all periods")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, HEIGHT)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.strip.width = self.width()

    def zoom(self, closer: bool, at: int) -> None:
        """Half or twice as much of the strip, around a unit; from months to days and back."""
        strip = self.strip
        count = max(_LEAST, round(strip.count * (0.5 if closer else 2)))
        if closer and not strip.by_days and strip.count <= _DAYS_FROM:
            self.restyled.emit(replace(self.slicer, grain="day"))
        elif not closer and strip.by_days and count > _DAYS_UP_TO:
            self.restyled.emit(replace(self.slicer, grain="month"))
        else:
            strip.window = strip.window_around(at, count)
            self.update()

    def place_of(self, key: str, unit: int = 1) -> QPoint:
        """The middle of a month (of its quarter with unit 3, its year with unit 12), for clicking there."""
        at = next(at for at, month in enumerate(self.months) if month.key == key)
        first, last = self.strip.span_of(at, unit)
        y = {1: (BARS + LETTERS) / 2, 3: (LETTERS + QUARTERS) / 2, 12: (QUARTERS + YEARS) / 2}[unit]
        return QPoint(int((self.strip.left(first) + self.strip.left(last + 1)) / 2), int(y))

    def _chosen_span(self) -> tuple[int, int] | None:
        if self._drag is None:
            return self.strip.chosen(self.slicer)
        first, last = sorted(self._drag)
        return self.strip.span_of(first, self._unit)[0], self.strip.span_of(last, self._unit)[1]

    def _date_area(self) -> QRectF:
        """Where the date is named that the ruler is of, if a table has several."""
        return QRectF(self.width() - 170, YEARS - 14, 168, 14)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        if not self.months:
            painter.setPen(colour("muted"))
            write(painter, QRectF(self.rect()), f"{self.slicer.field} holds no dates", 13)
            return
        span = self._chosen_span()
        paint_strip(painter, self.strip, span)
        if len(self.dates) > 1:
            painter.setPen(colour("muted"))
            write(painter, self._date_area(), f"by {self.slicer.field} ▾", 10.5, side="right")
        if span is not None:
            paint_frame(painter, self.strip, span, focused=self.hasFocus())
        elif self.hasFocus():
            painter.setPen(QPen(colour("plum"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    # -- events ----------------------------------------------------------------------------------------

    def _handle_at(self, x: float, y: float) -> str | None:
        span = self._chosen_span()
        if span is None or not 8 <= y <= 42:
            return None
        left, right = self.strip.left(span[0]), self.strip.left(span[1]) + self.strip.step
        near = min(_HANDLE, (right - left) / 8)  # of a narrow stretch most can be clicked still
        if abs(x - left) <= near or left - _HANDLE <= x < left:
            return "first"
        return "last" if abs(x - right) <= near or right < x <= right + _HANDLE else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or not self.months:
            return
        x, y = event.position().x(), event.position().y()
        if len(self.dates) > 1 and self._date_area().contains(event.position()) and x > self.width() - 120:
            self._choose_date()
            return
        self._pull = self._handle_at(x, y)
        span = self._chosen_span()
        if self._pull is not None and span is not None:
            self._unit = 1
            self._drag = (span[1], span[0]) if self._pull == "first" else (span[0], span[1])
        else:
            self._unit = row_at(y)
            at = self.strip.unit_at(x)
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and span is not None:
                far = span[0] if at >= span[0] else span[1]
                self._drag = (far, at)
            else:
                self._drag = (at, at)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self.months:
            return
        x, y = event.position().x(), event.position().y()
        if self._drag is None:
            pulled = self._handle_at(x, y) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if pulled else Qt.CursorShape.PointingHandCursor)
            return
        self._drag = (self._drag[0], self.strip.unit_at(x))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is None:
            return
        before = None if not self.slicer.narrows else (self.slicer.first, self.slicer.last)
        moved = self._drag[0] != self._drag[1] or self._pull is not None
        span = self._chosen_span()
        self._drag, self._pull = None, None
        if span is not None:
            asked = (self.months[span[0]].key, self.months[span[1]].key)
            # Clicking the very period that is chosen lets everything through again.
            self._say(None if asked == before and not moved else asked)
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and self.months:
            self.zoom(event.angleDelta().y() > 0, self.strip.unit_at(event.position().x()))
            event.accept()

    def _choose_date(self) -> None:
        """Which of the table's dates the ruler is of."""
        from summula.desk.widgets.picklist import Pick, PickList
        from summula.desk.widgets.popover import Popover

        popover = Popover(self, "Dates of the period ruler", 220)
        picks = PickList([Pick(name, name) for name in self.dates], name="dates", search=False)

        def take(name: str) -> None:
            popover.close()
            if name != self.slicer.field:
                self.restyled.emit(replace(self.slicer, field=name, first=None, last=None))

        picks.picked.connect(take)
        popover.column.addWidget(picks)
        popover.goes_with(self)
        popover.open_at(self.mapToGlobal(self._date_area().bottomLeft().toPoint()), self)
        picks.focus_in()

    def _a_year_earlier(self, span: tuple[int, int]) -> None:
        """The same stretch of the year before, if the strip reaches so far."""
        back = {month.key: at for at, month in enumerate(self.months)}
        ends = [f"{int(self.months[at].key[:4]) - 1}{self.months[at].key[4:]}" for at in span]
        ends = [key.replace("-02-29", "-02-28") for key in ends]
        if all(key in back for key in ends):
            self._say((ends[0], ends[1]))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self._drag = None

    def _say(self, asked: tuple[str, str] | None) -> None:
        if asked is not None and asked[0] <= self.months[0].key and asked[1] >= self.months[-1].key:
            asked = None  # everything is no narrowing
        self.chosen.emit(self.slicer.id, asked)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.months:
            return
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()))
        span = self._chosen_span()
        last = len(self.months) - 1
        if event.key() == Qt.Key.Key_Escape and span is not None:
            self._say(None)
        elif event.key() == Qt.Key.Key_Y and span is not None:
            self._a_year_earlier(span)
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            middle = span[0] if span is not None else self.strip.first + self.strip.count // 2
            self.zoom(event.key() == Qt.Key.Key_Plus, middle)
        elif step is None:
            super().keyPressEvent(event)
        elif span is None:
            known = [at for at, month in enumerate(self.months) if month.known]
            at = known[-1] if known else last
            self._say((self.months[at].key, self.months[at].key))
        else:
            first, end = span
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                end = min(max(end + step, first), last)
            elif first + step >= 0 and end + step <= last:
                first, end = first + step, end + step
            self._say((self.months[first].key, self.months[end].key))

    def event(self, event: QEvent | None) -> bool:
        if tip_asked(event) and self.months:
            month = self.months[self.strip.unit_at(event.pos().x())]
            words = f"{month.words}\n{month.rows:,} rows now · {month.before:,} before slicing"
            show_tip(event.globalPos(), f"{words}\nby {self.slicer.field}", self)
            return True
        return super().event(event)
