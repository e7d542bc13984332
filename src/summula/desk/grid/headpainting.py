"""Painting a pivot grid's heads, its corner and the rules of accounting between its rows."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, Qt
from PyQt6.QtGui import QPainter

from summula.desk.grid.gridlayout import HEAD, ROW, GridLayout
from summula.desk.theme import colour, font


def paint_row_heads(painter: QPainter, layout: GridLayout, rows: range) -> None:
    for row in rows:
        line = layout.rows[row]
        y = row * ROW
        indent = 8 + 16 * max(line.level - 1, 0)
        weight = (
            600
            if line.level == 0 and layout.grid.rows.depth
            else 500
            if line.total or layout.grid.rows.depth == 1
            else 400
        )
        painter.setPen(colour("ink" if line.total or layout.grid.rows.depth < 2 else "muted"))
        if line.foldable:
            painter.setFont(font(10))
            painter.drawText(QRectF(indent - 1, y, 14, ROW), Qt.AlignmentFlag.AlignVCenter, "▸" if line.folded else "▾")
        inner = indent + (13 if layout.folds else 0)
        painter.setFont(font(13, weight))
        text = painter.fontMetrics().elidedText(
            line.label, Qt.TextElideMode.ElideRight, int(layout.head_width - inner - 8)
        )
        painter.drawText(QRectF(inner, y, layout.head_width - inner - 4, ROW), Qt.AlignmentFlag.AlignVCenter, text)


def paint_rules(painter: QPainter, layout: GridLayout, rows: range, width: int) -> None:
    """A hairline above each outermost member, ink above the bottom line and double ink below it."""
    for row in rows:
        line = layout.rows[row]
        y = row * ROW
        if line.level == 0 and layout.grid.rows.depth:
            painter.setPen(colour("ink"))
            painter.drawLine(0, y, width, y)
            for below in (ROW - 1, ROW + 2):
                painter.drawLine(0, y + below, width, y + below)
        elif row and line.level == 1:
            painter.setPen(colour("hairline"))
            painter.drawLine(0, y, width, y)


def paint_column_heads(painter: QPainter, layout: GridLayout, columns: range, dx: int, seen: int) -> None:
    for level, spans in enumerate(layout.heads):
        y = level * HEAD
        lowest = level == len(layout.heads) - 1
        for span in spans:
            x = layout.lefts[span.start]
            end = layout.lefts[span.stop - 1] + layout.widths[span.stop - 1]
            if end < dx or x > dx + seen:
                continue
            painter.setFont(font(13, 600 if not lowest else 400, serif=not lowest))
            painter.setPen(colour("ink" if not lowest else "muted"))
            if span.stop - span.start == 1 and lowest:
                painter.drawText(
                    QRectF(x + 4, y, end - x - 12, HEAD),
                    Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                    span.text,
                )
            elif span.text:
                # A wide head stays in sight while its columns scroll by.
                left = max(x, dx) + 8
                text = painter.fontMetrics().elidedText(
                    span.text, Qt.TextElideMode.ElideRight, int(max(end - left - 4, 8))
                )
                if span.stop - span.start == 1:
                    painter.drawText(
                        QRectF(x + 4, y, end - x - 12, HEAD),
                        Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                        text,
                    )
                else:
                    painter.drawText(QRectF(left, y, end - left, HEAD), Qt.AlignmentFlag.AlignVCenter, text)
            if not lowest:
                painter.setPen(colour("hairline"))
                painter.drawLine(QPoint(int(x), y + HEAD - 1), QPoint(int(end), y + HEAD - 1))
            if span.start in layout.group_starts and span.start:
                painter.setPen(colour("hairline"))
                painter.drawLine(QPoint(int(x), y), QPoint(int(x), y + HEAD))


def paint_corner(painter: QPainter, layout: GridLayout, width: int) -> None:
    painter.fillRect(QRectF(0, 0, layout.head_width, layout.head_height), colour("sheet"))
    painter.setFont(font(12))
    painter.setPen(colour("muted"))
    y = layout.head_height - HEAD
    text = painter.fontMetrics().elidedText(layout.corner, Qt.TextElideMode.ElideRight, int(layout.head_width - 14))
    painter.drawText(QRectF(8, y, layout.head_width - 8, HEAD), Qt.AlignmentFlag.AlignVCenter, text)
    painter.setPen(colour("ink"))
    painter.drawLine(0, layout.head_height - 1, width, layout.head_height - 1)
