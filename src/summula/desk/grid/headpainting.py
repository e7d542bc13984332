"""Painting a pivot grid's heads, its corner and the rules of accounting between its lines."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF
from PyQt6.QtGui import QPainter

from summula.desk.grid.gridlayout import HEAD, INDENT, ROW, GridLayout, HeadSpan
from summula.desk.theme import colour, pen, text_width
from summula.desk.widgets.writing import Side, elided, write


def paint_row_heads(painter: QPainter, layout: GridLayout, rows: range) -> None:
    depth = layout.grid.rows.depth
    for row in rows:
        line = layout.line(row)
        y = row * ROW
        right = layout.name_left - 6 if layout.below else layout.head_width
        if line.first:
            total = line.level < depth
            indent = 8 + INDENT * max(line.level - 1, 0)
            weight = 600 if line.level == 0 and depth else 500 if total or depth == 1 else 400
            painter.setPen(colour("ink" if total or depth < 2 else "muted"))
            if line.foldable:
                write(painter, QRectF(indent - 1, y, 14, ROW), "▸" if line.folded else "▾", 10)
            inner = indent + (13 if layout.folds else 0)
            room = right - inner
            write(painter, QRectF(inner, y, room, ROW), elided(line.label, int(room - 4), 13, weight), 13, weight)
        if line.measure is not None:
            painter.setPen(pen("muted"))
            room = layout.head_width - layout.name_left
            name = elided(layout.names[line.measure], int(room - 6), 12.5)
            write(painter, QRectF(layout.name_left, y, room, ROW), name, 12.5)


def paint_rules(painter: QPainter, layout: GridLayout, rows: range, width: int) -> None:
    """A hairline above each outermost member, a thin rule above a subtotal that closes its members, ink above the
    bottom line and double ink below it."""
    depth = layout.grid.rows.depth
    for row in rows:
        line = layout.line(row)
        y = row * ROW
        if line.level == 0 and depth:
            painter.setPen(colour("ink"))
            if line.first:
                painter.drawLine(0, y, width, y)
            if row == len(layout.rows) - 1 or layout.line(row + 1).level:
                for below in (ROW - 1, ROW + 2) if row else (ROW - 1,):
                    painter.drawLine(0, y + below, width, y + below)
        elif line.first and 0 < line.level < depth and not line.foldable:
            painter.setPen(colour("faint"))
            painter.drawLine(8 + INDENT * (line.level - 1), y, width, y)
        elif row and line.level == 1 and line.first:
            painter.setPen(colour("hairline"))
            painter.drawLine(0, y, width, y)


SIGN = 18  # pixels at the left of a column's own head, where the sign of its order stands


def paint_column_heads(
    painter: QPainter, layout: GridLayout, columns: range, dx: int, seen: int, hovered: int = -1
) -> None:
    """The heads in sight; the column under the mouse offers to be ordered by."""
    for level, spans in enumerate(layout.heads):
        lowest = level == len(layout.heads) - 1
        for span in spans:
            x = layout.lefts[span.start]
            end = layout.lefts[span.stop - 1] + layout.widths[span.stop - 1]
            if dx <= end and x <= dx + seen:
                area = QRectF(x, level * HEAD, end - x, HEAD)
                _paint_head(painter, layout, span, area, lowest, dx)
                if lowest and span.stop - span.start == 1 and not span.foldable:
                    _paint_order(painter, layout, span, area, hovered == span.start)


def _paint_head(painter: QPainter, layout: GridLayout, span: HeadSpan, area: QRectF, lowest: bool, dx: int) -> None:
    x, y, end = area.x(), area.y(), area.right()
    mark = ("▸ " if span.folded else "▾ ") if span.foldable else ""
    single = span.stop - span.start == 1
    weight, serif = 600 if not lowest else 400, not lowest
    painter.setPen(colour("ink" if not lowest else "muted"))
    # A wide head stays in sight while its columns scroll by.
    left = x + 4 if single else max(x, dx) + 8
    room = end - left - (8 if single else 4)
    if mark:
        write(painter, QRectF(left, y, 14, HEAD), mark.strip(), 10)
        left, room = left + 14, room - 14
    text = elided(span.text, int(max(room, 8)), 13, weight, serif=serif)
    side: Side = "right" if single else "left"
    write(painter, QRectF(left, y, room, HEAD), text, 13, weight, side=side, serif=serif)
    painter.setPen(colour("hairline"))
    if not lowest:
        painter.drawLine(QPoint(int(x), int(y) + HEAD - 1), QPoint(int(end), int(y) + HEAD - 1))
    if span.start in layout.group_starts and span.start:
        painter.drawLine(QPoint(int(x), int(y)), QPoint(int(x), int(y) + HEAD))


def _paint_order(painter: QPainter, layout: GridLayout, span: HeadSpan, area: QRectF, hovered: bool) -> None:
    sign = layout.order_sign(span.start)
    if sign or (hovered and layout.can_order(span.start)):
        painter.setPen(colour("plum" if sign else "faint"))
        write(painter, area.adjusted(5, 0, 0, 0), sign or "▾", 11)


def paint_corner(painter: QPainter, layout: GridLayout, width: int) -> None:
    painter.fillRect(QRectF(0, 0, layout.head_width, layout.head_height), colour("sheet"))
    painter.setPen(colour("muted"))
    y = layout.head_height - HEAD
    noted = text_width(layout.note, 12) + 14 if layout.note else 0
    room = int(layout.head_width - 14 - noted)
    write(painter, QRectF(8, y, room, HEAD), elided(layout.corner, room, 12), 12)
    write(painter, QRectF(0, y, layout.head_width - 10, HEAD), layout.note, 12, side="right")
    painter.setPen(colour("ink"))
    painter.drawLine(0, layout.head_height - 1, width, layout.head_height - 1)
