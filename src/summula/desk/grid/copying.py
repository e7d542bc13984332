"""What a grid puts on the clipboard: text with tabs, a table in HTML, a picture."""

from __future__ import annotations

from html import escape
from typing import NamedTuple

from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QGuiApplication, QPainter, QPixmap

from summula.core.handout.delimited import csv_text
from summula.desk.grid.gridlayout import ROW, GridLayout
from summula.desk.grid.gridpainting import paint_grid

Span = tuple[int, int, int, int]  # first line, first column, last line, last column
MOST_CELLS = 400_000
QUICK_CELLS = 8_000  # so many are made in an instant; more are made in a worker
_MOST_PIXELS = 8_000


def whole(layout: GridLayout) -> Span:
    """All cells of a grid."""
    return 0, 0, len(layout.rows) - 1, len(layout.lefts) - 1


def heads_of(layout: GridLayout, span: Span) -> list[list[str]]:
    """The heads over a part of the grid, a line a level."""
    lines = []
    for level in layout.heads:
        texts = {at: part.text for part in level for at in range(part.start, part.stop)}
        lines.append([texts.get(at, "") for at in range(span[1], span[3] + 1)])
    return lines


def labels_of(layout: GridLayout, row: int) -> list[str]:
    """What stands before a line's figures: its label, and its measure where measures are lines."""
    line = layout.line(row)
    return [line.label, layout.names[line.measure] if line.measure is not None else ""][: 1 + layout.below]


def as_text(layout: GridLayout, span: Span) -> str:
    """Tab-separated text with its heads; figures in full. A name that begins like a formula stays text."""
    indent = [""] * (1 + layout.below)
    lines = [[*indent, *line] for line in heads_of(layout, span)]
    for row in range(span[0], span[2] + 1):
        figures = [layout.exact(row, column) for column in range(span[1], span[3] + 1)]
        lines.append([*labels_of(layout, row), *figures])
    return csv_text(lines, "\t").removesuffix("\n")


def as_html(layout: GridLayout, span: Span) -> str:
    """A table that a letter or a sheet takes: figures as they read, right-aligned, totals bold."""
    parts = ['<table style="border-collapse:collapse">']
    blank = '<th align="left"></th>' * (1 + layout.below)
    for texts in heads_of(layout, span):
        cells = "".join(f'<th align="right">{escape(text)}</th>' for text in texts)
        parts.append(f"<tr>{blank}{cells}</tr>")
    for row in range(span[0], span[2] + 1):
        line = layout.line(row)
        weight = ' style="font-weight:bold"' if line.level < layout.grid.rows.depth else ""
        labels = "".join(f'<td align="left">{escape(text)}</td>' for text in labels_of(layout, row))
        figures = "".join(
            f'<td align="right">{escape(layout.text(row, column))}</td>' for column in range(span[1], span[3] + 1)
        )
        parts.append(f"<tr{weight}>{labels}{figures}</tr>")
    parts.append("</table>")
    return "\n".join(parts)


class Cells(NamedTuple):
    """A part of the grid both ways, so that whatever takes it can choose."""

    text: str
    html: str
    cells: int

    def mime(self) -> QMimeData:
        """As other programs take them."""
        data = QMimeData()
        data.setText(self.text)
        data.setHtml(self.html)
        return data

    def put(self) -> None:
        """Put them on the clipboard."""
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setMimeData(self.mime())


def as_cells(layout: GridLayout, span: Span) -> Cells:
    return Cells(as_text(layout, span), as_html(layout, span), cells_in(span))


def cells_in(span: Span) -> int:
    first, left, last, right = span
    return (last - first + 1) * (right - left + 1)


def as_picture(layout: GridLayout) -> QPixmap:
    """The whole grid as it looks, as far as a picture of sensible size holds it; twice as fine as on screen."""
    width = min(int(layout.width) + 1, _MOST_PIXELS // 2)
    height = min(layout.head_height + len(layout.rows) * ROW + 6, _MOST_PIXELS // 2)
    picture = QPixmap(width * 2, height * 2)
    picture.setDevicePixelRatio(2)
    picture.fill()
    painter = QPainter(picture)
    paint_grid(painter, layout, (0, 0), (width, height))
    painter.end()
    return picture
