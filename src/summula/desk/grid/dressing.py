"""What is painted behind and beside a figure: bars, shades, sign marks; and a line's course over the across axis."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from summula.core.summaries.dress import status
from summula.desk.grid.gridlayout import GridLayout
from summula.desk.theme import colour, font

_BAR = 0.42  # of full strength, so that figures over it are read
_SHADE = 0.5
_STATUS = {"reached": ("gain", "●"), "near": ("amber", "◐"), "missed": ("loss", "○")}  # told apart without colours too


def paint_dress(painter: QPainter, layout: GridLayout, row: int, column: int, area: QRectF, ink: str) -> str:
    """Paint a cell's dress; returns the ink that its figure is written in.

    Bars and shades are for members: a total, being the sum of all, would dwarf them.
    """
    measure = layout.measure(row, column)
    dress, value = layout.dresses[measure], layout.value(row, column)
    if not math.isfinite(value):
        return ink
    low, high = layout.reaches[measure]
    finest = (layout.line(row).level, layout.columns[column].level) == layout.grid.finest
    if dress.fill == "shade" and finest and high > low:
        size = abs(value) / max(high, -low)
        token = "series 3" if value < 0 else "series 2"
        painter.fillRect(area.adjusted(1, 1, -1, 0), colour(token, _SHADE * size, "sheet"))
    elif dress.fill == "bars" and finest and high > low:
        room = area.width() - 10
        zero = area.x() + 5 + room * (-low / (high - low))
        length = room * value / (high - low)
        bar = QRectF(min(zero, zero + length), area.y() + 5, max(abs(length), 1.0), area.height() - 10)
        painter.fillRect(bar, colour("loss" if value < 0 else "shape", _BAR, "sheet"))
        if low < 0:
            painter.fillRect(QRectF(zero, area.y() + 3, 1, area.height() - 6), colour("faint"))
    standing = status(dress, value) if finest else ""
    if standing:
        token, sign = _STATUS[standing]
        face = painter.font()
        painter.setFont(font(12))
        painter.setPen(colour(token))
        painter.drawText(area.adjusted(6, 0, 0, 0), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, sign)
        painter.setFont(face)
        return ink
    if dress.signs and value:
        token = "gain" if value > 0 else "loss"
        face = painter.font()
        painter.setFont(font(10))
        painter.setPen(colour(token))
        mark = area.adjusted(7, 0, 0, 0)
        painter.drawText(mark, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, "▲" if value > 0 else "▼")
        painter.setFont(face)
        return token
    return ink


def paint_course(painter: QPainter, layout: GridLayout, row: int, column: int, area: QRectF) -> None:
    """A line's figures over the members across, from its own least to its own greatest; a gap where there is none. The
    last is marked; a faint rule stands at nothing where figures lie on both sides of it."""
    figures = layout.course(row, column)
    known = np.flatnonzero(np.isfinite(figures))
    if len(known) == 0:
        return
    low, high = float(figures[known].min()), float(figures[known].max())
    room = area.adjusted(10, 6, -12, -6)

    def place(at: int) -> QPointF:
        x = room.x() + room.width() * (at / (len(figures) - 1) if len(figures) > 1 else 0.5)
        part = (float(figures[at]) - low) / (high - low) if high > low else 0.5
        return QPointF(x, room.bottom() - room.height() * part)

    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if low < 0 < high:
        y = room.bottom() - room.height() * (-low / (high - low))
        painter.setPen(QPen(colour("hairline"), 1))
        painter.drawLine(QPointF(room.x(), y), QPointF(room.right(), y))
    painter.setPen(QPen(colour("series 0"), 1.4))
    for run in np.split(known, np.flatnonzero(np.diff(known) > 1) + 1):
        painter.drawPolyline(QPolygonF([place(int(at)) for at in run]))
        if len(run) == 1:
            painter.drawPoint(place(int(run[0])))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("series 0"))
    painter.drawEllipse(place(int(known[-1])), 2.3, 2.3)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
