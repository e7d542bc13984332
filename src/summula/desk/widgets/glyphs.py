"""Small drawn glyphs: the kinds of fields, and a field's distribution."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from summula.desk.theme import colour, font

if TYPE_CHECKING:
    from summula.core.tables.field import Kind

KIND_WORDS: dict[Kind, str] = {
    "category": "category",
    "number": "number",
    "duration": "duration",
    "code": "code: counted, never summed",
    "date": "date",
    "flag": "yes or no",
}


def paint_kind(painter: QPainter, kind: Kind, x: float, y: float, token: str = "muted", size: float = 13) -> None:
    """A field kind's glyph in a square of `size`, its top left at (x, y)."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, kind in ("date", "flag"))
    ink = colour(token)
    unit = size / 13
    if kind == "category":
        for at, length in enumerate((6, 11, 8)):
            painter.fillRect(QRectF(x + unit, y + (2 + at * 4) * unit, length * unit, 2 * unit), ink)
    elif kind == "number":
        for at, height in enumerate((5, 10, 7)):
            painter.fillRect(QRectF(x + (1 + at * 4) * unit, y + (12 - height) * unit, 3 * unit, height * unit), ink)
    elif kind == "code":
        for at, width in ((0, 1), (2, 2), (5, 1), (7, 1), (9, 2), (12, 1)):
            painter.fillRect(QRectF(x + at * unit, y + 2 * unit, width * unit, 9 * unit), ink)
    elif kind == "date":
        painter.setPen(QPen(ink, 1.5 * unit))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        middle = QPointF(x + 6.5 * unit, y + 6.5 * unit)
        painter.drawEllipse(middle, 5.3 * unit, 5.3 * unit)
        painter.drawLine(middle, QPointF(middle.x(), y + 3.4 * unit))
        painter.drawLine(middle, QPointF(x + 9 * unit, middle.y() + 1 * unit))
    elif kind == "duration":  # from one moment to another
        painter.fillRect(QRectF(x + unit, y + 2 * unit, 1.5 * unit, 9 * unit), ink)
        painter.fillRect(QRectF(x + 10.5 * unit, y + 2 * unit, 1.5 * unit, 9 * unit), ink)
        painter.fillRect(QRectF(x + 2 * unit, y + 5.75 * unit, 9 * unit, 1.5 * unit), ink)
    else:
        painter.setPen(QPen(ink, 1.5 * unit))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(x + unit, y + 3.5 * unit, 11 * unit, 6.5 * unit), 3.2 * unit, 3.2 * unit)
        painter.setBrush(ink)
        painter.drawEllipse(QPointF(x + 8.8 * unit, y + 6.75 * unit), 1.6 * unit, 1.6 * unit)
    painter.restore()


def paint_shape(painter: QPainter, heights: Sequence[int], area: QRectF, token: str = "shape") -> None:
    """A small distribution: one bar a height, the tallest filling the area."""
    top = max(heights, default=0)
    if top <= 0:
        return
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    step = area.width() / len(heights)
    for at, height in enumerate(heights):
        if height:
            tall = max(1.0, area.height() * height / top)
            bar = QRectF(area.x() + at * step, area.bottom() - tall, max(step - 1, 1), tall)
            painter.fillRect(bar, colour(token))
    painter.restore()


def paint_mark(painter: QPainter, x: float, y: float, size: float = 20) -> None:
    """Our own sign: a sum over a table's foot, with an amber point for what stands out."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    painter.setFont(font(size * 1.15, 600, serif=True))
    painter.setPen(QPen(colour("plum"), 2.2))
    unit = size / 20
    points = [(16, 3), (3, 3), (9.5, 10), (3, 17), (16, 17)]
    for (x0, y0), (x1, y1) in pairwise(points):
        painter.drawLine(QPointF(x + x0 * unit, y + y0 * unit), QPointF(x + x1 * unit, y + y1 * unit))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("series 1"))
    painter.drawEllipse(QPointF(x + 16.5 * unit, y + 10 * unit), 2.1 * unit, 2.1 * unit)
    painter.restore()
