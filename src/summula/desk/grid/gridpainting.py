"""Painting a pivot grid's figures, and what is shown while something is carried over it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from summula.core.grids.measurestyle import PLAIN
from summula.desk.grid.carrying import Carried, Landing, edge_place
from summula.desk.grid.cellpainting import paint_marks, paint_sparkline
from summula.desk.grid.gridlayout import ROW, GridLayout
from summula.desk.grid.headpainting import paint_column_heads, paint_corner, paint_row_heads, paint_rules
from summula.desk.theme import colour, font, pen
from summula.desk.widgets.writing import write

if TYPE_CHECKING:
    from summula.core.phrases.editing import Clause


def paint_grid(
    painter: QPainter,
    layout: GridLayout,
    offset: tuple[int, int],
    room: tuple[int, int],
    chosen: Callable[[int, int], bool] = lambda row, column: False,
    cursor: tuple[int, int] | None = None,
    hovered: int = -1,
) -> None:
    """The grid as far as a room (width, height) shows it, scrolled by an offset (x, y)."""
    dx, dy = offset
    width = min(room[0], int(layout.width))
    height = min(room[1], int(layout.head_height + len(layout.rows) * ROW + 5))
    painter.fillRect(0, 0, width, height, colour("sheet"))
    first = max(0, dy // ROW)
    rows = range(first, max(first, min(len(layout.rows), (dy + room[1] - layout.head_height) // ROW + 2)))
    columns = layout.columns_between(dx, dx + room[0] - layout.head_width)
    painter.save()
    painter.setClipRect(QRectF(layout.head_width, layout.head_height, width, height))
    painter.translate(layout.head_width - dx, layout.head_height - dy)
    _paint_figures(painter, layout, rows, columns, chosen, cursor)
    painter.restore()
    painter.save()
    painter.setClipRect(QRectF(0, layout.head_height, width, height))
    painter.translate(0, layout.head_height - dy)
    paint_row_heads(painter, layout, rows)
    paint_rules(painter, layout, rows, width)
    painter.restore()
    painter.save()
    painter.setClipRect(QRectF(layout.head_width, 0, width - layout.head_width, layout.head_height))
    painter.translate(layout.head_width - dx, 0)
    paint_column_heads(painter, layout, columns, dx, room[0], hovered)
    painter.restore()
    paint_corner(painter, layout, width)


def _paint_figures(
    painter: QPainter,
    layout: GridLayout,
    rows: range,
    columns: range,
    chosen: Callable[[int, int], bool],
    cursor: tuple[int, int] | None,
) -> None:
    for row in rows:
        line = layout.line(row)
        y = row * ROW
        weight = (
            600 if line.level == 0 and layout.grid.rows.depth else 500 if line.level < layout.grid.rows.depth else 400
        )
        for column in columns:
            area = QRectF(layout.lefts[column], y, layout.widths[column], ROW)
            is_chosen = chosen(row, column)
            if is_chosen:
                painter.fillRect(area, colour("plum wash"))
            if layout.is_sparkline(column):
                paint_sparkline(painter, layout, row, column, area)
            elif line.figures:
                total = line.level < layout.grid.rows.depth
                ink = "plum" if is_chosen else "ink" if total or layout.grid.rows.depth < 2 else "muted"
                if layout.measure_styles[layout.measure(row, column)] != PLAIN:
                    ink = paint_marks(painter, layout, row, column, area, ink)
                painter.setPen(pen(ink))
                write(painter, area.adjusted(4, 0, -8, 0), layout.text(row, column), 13, weight, side="right")
            if cursor == (row, column):
                painter.setPen(QPen(colour("plum"), 1.4))
                painter.drawRect(area.adjusted(1, 1, -1, -1))
    painter.setPen(colour("hairline"))
    for column in columns:
        if column in layout.group_starts and column:
            x = int(layout.lefts[column])
            painter.drawLine(QPoint(x, rows.start * ROW), QPoint(x, rows.stop * ROW))


def paint_landing(
    painter: QPainter,
    layout: GridLayout,
    carried: Carried,
    place: Landing,
    offset: tuple[int, int],
    room: tuple[int, int],
) -> None:
    """Where a member that is carried would be put down, on a grid scrolled by an offset."""
    painter.setPen(QPen(colour("plum"), 2.5))
    edge = edge_place(layout, place, carried.across)
    if carried.across:
        x = int(layout.head_width + edge - offset[0])
        painter.drawLine(x, 0, x, min(room[1], layout.head_height + len(layout.rows) * ROW))
    else:
        y = int(layout.head_height + edge - offset[1])
        painter.drawLine(0, y, min(room[0], int(layout.width)), y)


def paint_drop(painter: QPainter, clause: Clause | None, heads: tuple[int, int], room: tuple[int, int]) -> None:
    """The part of a phrase that a field would be put down in, beside or below the heads (their width and height); none
    while no field is carried."""
    (left, top), (width, height) = heads, room
    match clause:
        case "by":
            area, words = QRectF(0, top, left, height - top), "by"
        case "across":
            area, words = QRectF(left, 0, width - left, top), "across"
        case "measures":
            area, words = QRectF(left, top, width - left, height - top), "show"
        case _:
            return
    wash = QColor(colour("plum wash"))
    wash.setAlpha(225)  # what lies below shows through, without disturbing the word
    painter.fillRect(area, wash)
    painter.setPen(QPen(colour("plum"), 1.5, Qt.PenStyle.DashLine))
    painter.drawRect(area.adjusted(1, 1, -2, -2))
    painter.setFont(font(17, 400, serif=True, italic=True))
    painter.drawText(area, Qt.AlignmentFlag.AlignCenter, words)
