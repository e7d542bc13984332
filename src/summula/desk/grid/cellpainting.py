"""Painting what a dressed cell shows beside its figure: bars, shades, marks; and a line's course."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from summula.core.charts.cellform import BAR, SHADE, cell_form, sparkline_of
from summula.desk.theme import colour
from summula.desk.widgets.writing import write

if TYPE_CHECKING:
    from summula.desk.grid.gridlayout import GridLayout


def paint_marks(painter: QPainter, layout: GridLayout, row: int, column: int, area: QRectF, ink: str) -> str:
    """Paint a cell's own; returns the ink that its figure is written in."""
    measure = layout.measure(row, column)
    finest = (layout.line(row).level, layout.columns[column].level) == layout.grid.finest
    form = cell_form(layout.measure_styles[measure], layout.value(row, column), layout.reaches[measure], finest=finest)
    if form.shade:
        strength = SHADE * abs(form.shade)
        painter.fillRect(area.adjusted(1, 1, -1, 0), colour(form.fill_token, strength, "sheet"))
    if form.bar is not None:
        left, room = area.x() + 5, area.width() - 10
        start, end = form.bar
        bar = QRectF(left + room * start, area.y() + 5, max(room * (end - start), 1.0), area.height() - 10)
        painter.fillRect(bar, colour(form.fill_token, BAR, "sheet"))
        if form.zero is not None:
            painter.fillRect(QRectF(left + room * form.zero, area.y() + 3, 1, area.height() - 6), colour("faint"))
    if form.mark:
        painter.setPen(colour(form.mark_token))
        write(painter, area.adjusted(7 if form.token else 6, 0, 0, 0), form.mark, 10 if form.token else 12)
    return form.token or ink


def paint_sparkline(painter: QPainter, layout: GridLayout, row: int, column: int, area: QRectF) -> None:
    """A line's figures over the members across. The last is marked; a faint rule stands at nothing where figures lie on
    both sides of it."""
    sparkline = sparkline_of(layout.sparkline(row, column))
    if not sparkline.runs:
        return
    room = area.adjusted(10, 6, -12, -6)

    def place(x: float, y: float) -> QPointF:
        return QPointF(room.x() + room.width() * x, room.bottom() - room.height() * y)

    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if sparkline.zero is not None:
        painter.setPen(QPen(colour("hairline"), 1))
        painter.drawLine(place(0, sparkline.zero), place(1, sparkline.zero))
    painter.setPen(QPen(colour("series 0"), 1.4))
    for run in sparkline.runs:
        painter.drawPolyline(QPolygonF([place(*point) for point in run]))
        if len(run) == 1:
            painter.drawPoint(place(*run[0]))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("series 0"))
    painter.drawEllipse(place(*sparkline.runs[-1][-1]), 2.3, 2.3)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
