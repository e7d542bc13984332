"""Painting a period ruler: bars of what each unit holds, letters, quarters or weeks, years or months; the chosen."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from summula.core.fields.labels import MONTHS
from summula.desk.board.rulerstrip import BARS, HEIGHT, LETTERS, QUARTERS, YEARS, Strip, Unit
from summula.desk.theme import colour, pen
from summula.desk.widgets.writing import write

_LETTER = {False: 12.0, True: 16.0}  # pixels a unit from which each has its letter: months, days
_FEW = {False: 9.0, True: 2.6}  # from which every third month has one, and the first day of each week
_NAMED = {False: 34.0, True: 62.0}  # of a year, of a month by days


def paint_strip(painter: QPainter, strip: Strip, span: tuple[int, int] | None) -> None:
    """All units in view; those outside `span` are pale."""
    view, step = strip.in_view, strip.step
    most = max((month.before for month in strip.months), default=1) or 1
    for at in view:
        month, x = strip.months[at], strip.left(at)
        inside = span is None or span[0] <= at <= span[1]
        _bar(painter, x, step, month, most, inside)
        _letter(painter, x, step, month, inside)
        first, last = strip.span_of(at, 3)
        if at in (first, strip.first):
            _quarter(painter, x, strip.left(min(last + 1, view[-1] + 1)) - x, month, inside)
        first, last = strip.span_of(at, 12)
        if at in (first, strip.first):
            _year(painter, x, strip.left(last + 1) - x, month, begins=at == strip.first)


def _bar(painter: QPainter, x: float, step: float, month: Unit, most: int, inside: bool) -> None:
    if not month.before:
        return
    width = max(step - 2, 1)
    tall = (BARS - 4) * month.before / most
    pale = colour("ghost" if inside else "faint", 1.0 if inside else 0.42, "paper")
    painter.fillRect(QRectF(x + 1, BARS - tall, width, tall), pale)
    now = (BARS - 4) * month.rows / most
    if inside and now:
        painter.fillRect(QRectF(x + 1, BARS - now, width, now), colour("plum", 0.85, "paper"))


def _letter(painter: QPainter, x: float, step: float, month: Unit, inside: bool) -> None:
    few = month.day.weekday() == 0 if month.is_day else month.number % 3 == 1
    if step < _FEW[month.is_day] or not (few or step >= _LETTER[month.is_day]):
        return
    strong = inside and month.known
    painter.setPen(pen("ink" if strong else "muted"))
    wide = step if step >= 16 or not month.is_day else 16.0
    area = QRectF(x, BARS, wide, LETTERS - BARS)
    write(painter, area, month.letter, 10.5, 500 if strong else 400, side="middle")


def _quarter(painter: QPainter, x: float, wide: float, month: Unit, inside: bool) -> None:
    if wide < 24:
        return
    painter.setPen(pen("ink" if inside and month.known else "muted"))
    write(painter, QRectF(x, LETTERS, wide, QUARTERS - LETTERS), month.group, 10.5, side="middle")
    if month.is_day or month.number != 1:
        painter.setPen(pen("hairline"))
        painter.drawLine(QPoint(int(x), LETTERS + 2), QPoint(int(x), QUARTERS - 2))


def _year(painter: QPainter, x: float, wide: float, month: Unit, *, begins: bool) -> None:
    painter.setPen(pen("faint"))
    inner = month.is_day and wide < _NAMED[True] and month.number != 1  # a year's name runs on below its months
    painter.drawLine(QPoint(int(x), BARS), QPoint(int(x), QUARTERS if inner else YEARS))
    painter.setPen(pen("ink"))
    if wide >= _NAMED[month.is_day]:
        write(painter, QRectF(x + 5, QUARTERS, wide, YEARS - QUARTERS), month.whole, 12, 600)
    elif month.is_day:
        _narrow_month(painter, QRectF(x, LETTERS, wide, QUARTERS - LETTERS), month, begins=begins)


def _narrow_month(painter: QPainter, area: QRectF, month: Unit, *, begins: bool) -> None:
    """A month too narrow for its name: its letter where there is room, and the year where it begins."""
    if month.number == 1 or begins:
        write(painter, QRectF(area.x() + 5, QUARTERS, 60, YEARS - QUARTERS), str(month.year), 12, 600)
    if area.width() >= 10:
        write(painter, area, MONTHS[month.number - 1][0], 10.5, side="middle")


def paint_frame(painter: QPainter, strip: Strip, span: tuple[int, int], *, focused: bool) -> None:
    """Around what is chosen, with its handles."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    left, right = strip.left(span[0]), strip.left(span[1]) + strip.step
    painter.setPen(QPen(colour("plum"), 2.4 if focused else 1.8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(QRectF(left, 1.5, right - left, HEIGHT - 4), 3, 3)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("plum"))
    for x in (left, right):
        painter.drawRoundedRect(QRectF(x - 3, 14, 6, 20), 2.5, 2.5)
