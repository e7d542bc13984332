"""The period ruler: years, quarters and months on one strip; months, weeks and days when it is zoomed (wheel, + and -).
Click one, or drag over several.

Keys: Left and Right move the period, Shift with them makes it longer or shorter, Y takes the same stretch a year
earlier, Escape clears.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, timedelta
from itertools import groupby
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace
from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from summula.core.fields.labels import MONTHS
from summula.core.slicing.slicerkinds import period_label, slicer_words
from summula.desk.theme import colour, pen
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.popover import Popover
from summula.desk.widgets.writing import write

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Holding, PeriodSlicer
    from summula.core.tables.field import Field

HEIGHT = 74
_BARS, _LETTERS, _QUARTERS, _YEARS = 27, 41, 54, 70  # the bottoms of its four rows
_HANDLE = 7
_LEAST, _DAYS_FROM, _DAYS_UP_TO = 6, 7, 400  # units in view; months from which on days are shown, and how many days


def _keys(known: Mapping[str, Holding], grain: str) -> list[str]:
    """All months of the years that are known, or all days from the first to the last."""
    if not known:
        return []
    low, high = min(known), max(known)
    if grain == "month":
        return [f"{year:04d}-{month:02d}" for year in range(int(low[:4]), int(high[:4]) + 1) for month in range(1, 13)]
    first, last = date.fromisoformat(low), date.fromisoformat(high)
    return [(first + timedelta(days=at)).isoformat() for at in range(min((last - first).days + 1, _MOST_DAYS))]


_MOST_DAYS = 40_000


class Unit(msgspec.Struct, frozen=True):
    """A month or a day of the strip: its key ("2024-05", "2024-05-31"), rows now and before slicing; known: inside the
    data."""

    key: str
    rows: int
    before: int
    known: bool

    @property
    def year(self) -> int:
        return int(self.key[:4])

    @property
    def number(self) -> int:
        """The month's number."""
        return int(self.key[5:7])

    @property
    def day(self) -> date:
        return date.fromisoformat(self.key if len(self.key) > 7 else f"{self.key}-01")

    @property
    def is_day(self) -> bool:
        return len(self.key) > 7

    @property
    def letter(self) -> str:
        return str(int(self.key[8:])) if self.is_day else MONTHS[self.number - 1][0]

    @property
    def group(self) -> str:
        """Its quarter, or its week, in a word."""
        return f"W{self.day.isocalendar().week}" if self.is_day else f"Q{(self.number + 2) // 3}"

    @property
    def whole(self) -> str:
        """Its year, or its month, in a word."""
        return f"{MONTHS[self.number - 1]} {self.year}" if self.is_day else str(self.year)

    @property
    def words(self) -> str:
        return period_label(self.key)


def _spans(units: list[Unit], unit: int) -> list[tuple[int, int]]:
    """Of each unit the first and last that belong together with it: by quarter or week (3), by year or month (12)."""

    def belongs(each: Unit) -> tuple[int, str]:
        if unit == 3:
            return (each.day.isocalendar().year if each.is_day else each.year), each.group
        return each.year, each.whole

    found: list[tuple[int, int]] = []
    for _, together in groupby(units, key=belongs):
        first, count = len(found), len(list(together))
        found += [(first, first + count - 1)] * count
    return found


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
        self.months: list[Unit] = []
        self._spans: dict[int, list[tuple[int, int]]] = {}  # of the months, by unit, when they are asked for
        self._window: tuple[int, int] | None = None  # the first unit in view and how many; None: all
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
        keys = _keys(by_key, slicer.grain)
        low, high = (min(by_key), max(by_key)) if by_key else ("", "")
        if self.months and keys and self.months[0].is_day != (len(keys[0]) > 7):
            self._window = self._same_window(keys)
        self.months = [
            Unit(key, by_key[key].rows, by_key[key].before, True)
            if key in by_key
            else Unit(key, 0, 0, low <= key <= high)
            for key in keys
        ]
        self._spans = {}
        self.setAccessibleDescription(slicer_words(slicer) or "all periods")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, HEIGHT)

    # -- places ----------------------------------------------------------------------------------------

    @property
    def _first(self) -> int:
        return self._window[0] if self._window is not None else 0

    @property
    def _count(self) -> int:
        return self._window[1] if self._window is not None else len(self.months)

    def _step(self) -> float:
        return (self.width() - 4) / max(self._count, 1)

    def _left(self, at: int) -> float:
        return 2 + (at - self._first) * self._step()

    def _month_at(self, x: float) -> int:
        at = self._first + int((x - 2) // self._step())
        return min(max(at, self._first), min(self._first + self._count, len(self.months)) - 1)

    def _in_view(self) -> range:
        return range(max(self._first, 0), min(self._first + self._count, len(self.months)))

    def _same_window(self, keys: list[str]) -> tuple[int, int] | None:
        """The stretch in view, in other units."""
        view = self._in_view()
        first, last = self.months[view[0]].key[:7], self.months[view[-1]].key[:7]
        inside = [at for at, key in enumerate(keys) if first <= key[:7] <= last]
        return (inside[0], len(inside)) if inside and len(inside) < len(keys) else None

    def zoom(self, closer: bool, at: int) -> None:
        """Half or twice as much of the strip, around a unit; from months to days and back."""
        count = max(_LEAST, round(self._count * (0.5 if closer else 2)))
        by_days = bool(self.months) and self.months[0].is_day
        if closer and not by_days and self._count <= _DAYS_FROM:
            self.restyled.emit(replace(self.slicer, grain="day"))
            return
        if not closer and by_days and count > _DAYS_UP_TO:
            self.restyled.emit(replace(self.slicer, grain="month"))
            return
        if count >= len(self.months):
            self._window = None
        else:
            share = (at - self._first) / max(self._count, 1)
            first = min(max(round(at - share * count), 0), len(self.months) - count)
            self._window = (first, count)
        self.update()

    def _unit_at(self, y: float) -> int:
        """Which row of the strip: 1 a month or day, 3 a quarter or week, 12 a year or month."""
        return 1 if y <= _LETTERS else 3 if y <= _QUARTERS else 12

    def _span_of(self, at: int, unit: int) -> tuple[int, int]:
        """The units that belong together with one."""
        if unit == 1:
            return at, at
        if unit not in self._spans:
            self._spans[unit] = _spans(self.months, unit)
        return self._spans[unit][at]

    def place_of(self, key: str, unit: int = 1) -> QPoint:
        """The middle of a month (of its quarter with unit 3, its year with unit 12), for clicking there."""
        at = next(at for at, month in enumerate(self.months) if month.key == key)
        first, last = self._span_of(at, unit)
        y = {1: (_BARS + _LETTERS) / 2, 3: (_LETTERS + _QUARTERS) / 2, 12: (_QUARTERS + _YEARS) / 2}[unit]
        return QPoint(int((self._left(first) + self._left(last + 1)) / 2), int(y))

    def _chosen_span(self) -> tuple[int, int] | None:
        if self._drag is not None:
            first, last = sorted(self._drag)
            return self._span_of(first, self._unit)[0], self._span_of(last, self._unit)[1]
        if not self.slicer.narrows or not self.months:
            return None
        keys = [month.key for month in self.months]
        low, high = self.slicer.first or keys[0], (self.slicer.last or keys[-1]) + "~"
        inside = [at for at, key in enumerate(keys) if low[: len(key)] <= key <= high]
        return (inside[0], inside[-1]) if inside else None

    # -- painting --------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        if not self.months:
            painter.setPen(colour("muted"))
            write(painter, QRectF(self.rect()), f"{self.slicer.field} holds no dates", 13)
            return
        span = self._chosen_span()
        step, most = self._step(), max((m.before for m in self.months), default=1) or 1
        for at in self._in_view():
            month = self.months[at]
            inside = span is None or span[0] <= at <= span[1]
            x = self._left(at)
            self._bar(painter, x, step, month, most, inside)
            shown = step >= (16 if month.is_day else 12) or (
                month.day.weekday() == 0 if month.is_day else month.number % 3 == 1
            )
            if step >= (2.6 if month.is_day else 9) and shown:
                painter.setPen(pen("ink" if inside and month.known else "muted"))
                wide = step if step >= 16 or not month.is_day else 16.0
                area = QRectF(x, _BARS, wide, _LETTERS - _BARS)
                write(painter, area, month.letter, 10.5, 500 if inside and month.known else 400, side="middle")
            first, last = self._span_of(at, 3)
            if at in (first, self._first):
                wide = self._left(min(last + 1, self._in_view()[-1] + 1)) - x
                self._quarter(painter, x, wide, month, inside)
            first, last = self._span_of(at, 12)
            if at in (first, self._first):
                painter.setPen(colour("faint"))
                wide = self._left(last + 1) - x
                inner = month.is_day and wide < 62 and month.number != 1  # a year's name runs on below its months
                painter.drawLine(QPoint(int(x), _BARS), QPoint(int(x), _QUARTERS if inner else _YEARS))
                painter.setPen(colour("ink"))
                area = QRectF(x + 5, _QUARTERS, wide, _YEARS - _QUARTERS)
                if wide >= (62 if month.is_day else 34):
                    write(painter, area, month.whole, 12, 600)
                elif month.is_day:
                    self._narrow_month(painter, QRectF(x, _LETTERS, wide, _QUARTERS - _LETTERS), month, at)
        if len(self.dates) > 1:
            painter.setPen(colour("muted"))
            write(painter, self._date_area(), f"by {self.slicer.field} ▾", 10.5, side="right")
        if span is not None:
            self._frame(painter, span, step)
        if self.hasFocus() and span is None:
            painter.setPen(QPen(colour("plum"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))

    def _narrow_month(self, painter: QPainter, area: QRectF, month: Unit, at: int) -> None:
        """A month too narrow for its name: its letter where there is room, and the year where it begins."""
        if month.number == 1 or at == self._first:
            below = QRectF(area.x() + 5, _QUARTERS, 60, _YEARS - _QUARTERS)
            write(painter, below, str(month.year), 12, 600)
        if area.width() >= 10:
            write(painter, area, MONTHS[month.number - 1][0], 10.5, side="middle")

    def _bar(self, painter: QPainter, x: float, step: float, month: Unit, most: int, inside: bool) -> None:
        if not month.before:
            return
        width = max(step - 2, 1)
        tall = (_BARS - 4) * month.before / most
        painter.fillRect(
            QRectF(x + 1, _BARS - tall, width, tall),
            colour("ghost" if inside else "faint", 1.0 if inside else 0.42, "paper"),
        )
        now = (_BARS - 4) * month.rows / most
        if inside and now:
            painter.fillRect(QRectF(x + 1, _BARS - now, width, now), colour("plum", 0.85, "paper"))

    def _date_area(self) -> QRectF:
        """Where the date is named that the ruler is of, if a table has several."""
        return QRectF(self.width() - 170, _YEARS - 14, 168, 14)

    def _quarter(self, painter: QPainter, x: float, wide: float, month: Unit, inside: bool) -> None:
        if wide < 24:
            return
        painter.setPen(colour("ink" if inside and month.known else "muted"))
        write(painter, QRectF(x, _LETTERS, wide, _QUARTERS - _LETTERS), month.group, 10.5, side="middle")
        if month.is_day or month.number != 1:
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

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and self.months:
            self.zoom(event.angleDelta().y() > 0, self._month_at(event.position().x()))
            event.accept()

    def _choose_date(self) -> None:
        """Which of the table's dates the ruler is of."""
        popover = Popover(self, "The dates of the ruler", 220)
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
            middle = span[0] if span is not None else self._first + self._count // 2
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
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self.months:
            month = self.months[self._month_at(event.pos().x())]
            words = f"{month.words}\n{month.rows:,} rows now · {month.before:,} before slicing"
            QToolTip.showText(event.globalPos(), f"{words}\nby {self.slicer.field}", self)
            return True
        return super().event(event)
