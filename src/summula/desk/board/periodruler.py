"""The period ruler: years, quarters and months on one strip. Click one, or drag over several.

Keys: Left and Right move the period, Shift with them makes it longer or shorter, Escape clears.
"""

from __future__ import annotations

import msgspec
from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from summula.core.fields.labels import MONTHS
from summula.core.slicing import Holding, PeriodSlicer, slicer_words
from summula.desk.theme import colour, font

HEIGHT = 74
_BARS, _LETTERS, _QUARTERS, _YEARS = 27, 41, 54, 70  # the bottoms of its four rows
_HANDLE = 7


class Month(msgspec.Struct, frozen=True):
    """A month of the strip: its key ("2024-05"), rows now and before slicing; known: inside the data."""

    key: str
    rows: int
    before: int
    known: bool

    @property
    def year(self) -> int:
        return int(self.key[:4])

    @property
    def number(self) -> int:
        return int(self.key[5:])


class PeriodRuler(QWidget):
    """Shows a PeriodSlicer; emits the first and last month that are asked for."""

    chosen = pyqtSignal(str, object)  # slicer id, (first, last) or None
    removed = pyqtSignal(str)
    refused = pyqtSignal(object)  # a Refusal
    restyled = pyqtSignal(object)  # the slicer of another field, or by days

    def __init__(self, slicer: PeriodSlicer) -> None:
        super().__init__()
        self.slicer = slicer
        self.months: list[Month] = []
        self._drag: tuple[int, int] | None = None  # the months where a drag began and is
        self._unit = 1
        self._pull: str | None = None
        self.setFixedHeight(HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(f"Period ruler, {slicer.field}")

    def show_slicer(self, slicer: PeriodSlicer, held: list[Holding], *, arranging: bool = False) -> None:
        self.slicer = slicer
        by_key = {str(each.choice): each for each in held if each.choice is not None}
        if by_key:
            years = range(int(min(by_key)[:4]), int(max(by_key)[:4]) + 1)
            keys = [f"{year:04d}-{month:02d}" for year in years for month in range(1, 13)]
            low, high = min(by_key), max(by_key)
            self.months = [
                Month(
                    key,
                    by_key[key].rows if key in by_key else 0,
                    by_key[key].before if key in by_key else 0,
                    low <= key <= high,
                )
                for key in keys
            ]
        else:
            self.months = []
        self.setAccessibleDescription(slicer_words(slicer) or "all periods")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, HEIGHT)

    # -- places ----------------------------------------------------------------------------------------

    def _step(self) -> float:
        return (self.width() - 4) / max(len(self.months), 1)

    def _left(self, at: int) -> float:
        return 2 + at * self._step()

    def _month_at(self, x: float) -> int:
        return min(max(int((x - 2) // self._step()), 0), len(self.months) - 1)

    def _unit_at(self, y: float) -> int:
        """How many months one click takes at this height: a month, a quarter or a year."""
        return 1 if y <= _LETTERS else 3 if y <= _QUARTERS else 12

    def place_of(self, key: str, unit: int = 1) -> QPoint:
        """The middle of a month (of its quarter with unit 3, its year with unit 12), for clicking there."""
        at = next(at for at, month in enumerate(self.months) if month.key == key)
        at -= at % unit
        y = {1: (_BARS + _LETTERS) / 2, 3: (_LETTERS + _QUARTERS) / 2, 12: (_QUARTERS + _YEARS) / 2}[unit]
        return QPoint(int(self._left(at) + self._step() * unit / 2), int(y))

    def _chosen_span(self) -> tuple[int, int] | None:
        if self._drag is not None:
            first, last = sorted(self._drag)
            return first - first % self._unit, min(last - last % self._unit + self._unit - 1, len(self.months) - 1)
        if not self.slicer.narrows or not self.months:
            return None
        keys = [month.key for month in self.months]
        low, high = self.slicer.first or keys[0], self.slicer.last or keys[-1]
        inside = [at for at, key in enumerate(keys) if low <= key <= high]
        return (inside[0], inside[-1]) if inside else None

    # -- painting --------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        if not self.months:
            painter.setFont(font(13))
            painter.setPen(colour("muted"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, f"{self.slicer.field} holds no dates")
            return
        span = self._chosen_span()
        step, most = self._step(), max((m.before for m in self.months), default=1) or 1
        for at, month in enumerate(self.months):
            inside = span is None or span[0] <= at <= span[1]
            x = self._left(at)
            self._bar(painter, x, step, month, most, inside)
            if step >= 9 and (step >= 12 or month.number % 3 == 1):
                painter.setFont(font(10.5, 500 if inside and month.known else 400))
                painter.setPen(colour("ink" if inside and month.known else "muted"))
                painter.drawText(
                    QRectF(x, _BARS, step, _LETTERS - _BARS),
                    Qt.AlignmentFlag.AlignCenter,
                    MONTHS[month.number - 1][0],
                )
            if month.number % 3 == 1:
                self._quarter(painter, x, step, month, inside)
            if month.number == 1:
                painter.setPen(colour("faint"))
                painter.drawLine(QPoint(int(x), _BARS), QPoint(int(x), _YEARS))
                painter.setFont(font(12, 600))
                painter.setPen(colour("ink"))
                if step * 12 >= 34:
                    painter.drawText(
                        QRectF(x + 5, _QUARTERS, step * 12, _YEARS - _QUARTERS),
                        Qt.AlignmentFlag.AlignVCenter,
                        str(month.year),
                    )
        if span is not None:
            self._frame(painter, span, step)
        if self.hasFocus() and span is None:
            painter.setPen(QPen(colour("plum"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def _bar(self, painter: QPainter, x: float, step: float, month: Month, most: int, inside: bool) -> None:
        if not month.before:
            return
        width = max(step - 2, 1)
        tall = (_BARS - 4) * month.before / most
        painter.fillRect(
            QRectF(x + 1, _BARS - tall, width, tall),
            colour("ghost" if inside else "series 7", 1.0 if inside else 0.38, "paper"),
        )
        now = (_BARS - 4) * month.rows / most
        if inside and now:
            painter.fillRect(QRectF(x + 1, _BARS - now, width, now), colour("plum", 0.85, "paper"))

    def _quarter(self, painter: QPainter, x: float, step: float, month: Month, inside: bool) -> None:
        if step * 3 < 24:
            return
        painter.setFont(font(10.5))
        painter.setPen(colour("ink" if inside and month.known else "muted"))
        area = QRectF(x, _LETTERS, step * 3, _QUARTERS - _LETTERS)
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, f"Q{(month.number + 2) // 3}")
        if month.number != 1:
            painter.setPen(colour("hairline"))
            painter.drawLine(QPoint(int(x), _LETTERS + 2), QPoint(int(x), _QUARTERS - 2))

    def _frame(self, painter: QPainter, span: tuple[int, int], step: float) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        left, right = self._left(span[0]), self._left(span[1]) + step
        painter.setPen(QPen(colour("plum"), 1.8 if not self.hasFocus() else 2.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(left, 1.5, right - left, HEIGHT - 4), 3, 3)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("plum"))
        for x in (left, right):
            painter.drawRoundedRect(QRectF(x - 3, 14, 6, 20), 2.5, 2.5)

    # -- events ----------------------------------------------------------------------------------------

    def _handle_at(self, x: float, y: float) -> str | None:
        span = self._chosen_span()
        if span is None or not 8 <= y <= 42:
            return None
        left, right = self._left(span[0]), self._left(span[1]) + self._step()
        if abs(x - left) <= _HANDLE:
            return "first"
        return "last" if abs(x - right) <= _HANDLE else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton or not self.months:
            return
        x, y = event.position().x(), event.position().y()
        self._pull = self._handle_at(x, y)
        span = self._chosen_span()
        if self._pull is not None and span is not None:
            self._unit = 1
            self._drag = (span[1], span[0]) if self._pull == "first" else (span[0], span[1])
        else:
            self._unit = self._unit_at(y)
            at = self._month_at(x)
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
        self._drag = (self._drag[0], self._month_at(x))
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
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self.months:
            month = self.months[self._month_at(event.pos().x())]
            name = f"{MONTHS[month.number - 1]} {month.year}"
            words = f"{name}\n{month.rows:,} rows now · {month.before:,} before slicing"
            QToolTip.showText(event.globalPos(), f"{words}\nby {self.slicer.field}", self)
            return True
        return super().event(event)
