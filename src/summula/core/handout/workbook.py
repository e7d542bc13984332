"""A grid as an XLSX sheet others can go on with: real numbers under their patterns, merged heads, frozen panes.

Every text is written as a text, so that one which looks like a formula stays one.
"""

from __future__ import annotations

import io
import math
from itertools import groupby
from typing import Any

import numpy as np
import xlsxwriter

from summula.core.fields.labels import heading_name, label_of
from summula.core.summaries.dress import Dress, dress_of, dressed
from summula.core.summaries.figures import FigureStyle
from summula.core.summaries.grid import Grid
from summula.core.summaries.records import walk

_MOST_ROWS, _MOST_COLUMNS = 1_048_576, 16_384


def workbook_bytes(grid: Grid, name: str, phrase: str, dresses: tuple[Dress, ...] = ()) -> bytes:
    """The sheet `name` with the phrase above the figures, these under the patterns and scales of their dresses. Refuses
    nothing: the caller asks `fits` first."""
    styles = [dressed(style, dress_of(dresses, at)) for at, style in enumerate(grid.styles)]
    stream = io.BytesIO()
    book = xlsxwriter.Workbook(stream, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    sheet = book.add_worksheet(_sheet_name(name))
    formats = _Formats(book)
    sheet.write_string(0, 0, name, formats.of(bold=True, font_size=14))
    sheet.write_string(1, 0, phrase, formats.of(font_color="#665f58"))
    depth = max(grid.rows.depth, 1)
    top = 3
    columns = [
        (node, measure)
        for node in walk(grid.columns, grid.phrase, subtotals_last=True)
        for measure in range(len(grid.names))
    ]
    top = _heads(sheet, formats, grid, columns, top, depth)
    at = top
    for row in walk(grid.rows, grid.phrase):
        path = grid.rows.path(*row)
        total = row[0] < grid.rows.depth
        bottom = row[0] == 0 and grid.rows.depth > 0
        look = {"bold": total} | ({"top": 1, "bottom": 6} if bottom else {})
        labels = [label_of(h, m) for h, m in zip(grid.rows.headings, path, strict=False)]
        labels += ["All"] if total else []
        for place in range(depth):
            sheet.write_string(at, place, labels[place] if place < len(labels) else "", formats.of(**look))
        for place, (column, measure) in enumerate(columns):
            value = grid.figure(measure, row, column)
            pattern = formats.of(num_format=sheet_pattern(styles[measure]), **look)
            if np.isfinite(value):
                sheet.write_number(at, depth + place, value, pattern)
            else:
                sheet.write_blank(at, depth + place, None, pattern)
        at += 1
    sheet.freeze_panes(top, depth)
    sheet.set_column(0, depth - 1, 22)
    sheet.set_column(depth, depth + max(len(columns) - 1, 0), 14)
    book.close()
    return stream.getvalue()


def fits(grid: Grid) -> bool:
    """Whether a sheet can hold the grid."""
    rows = sum(level.size for level in grid.rows.levels) + 6
    columns = sum(level.size for level in grid.columns.levels) * len(grid.names) + grid.rows.depth
    return rows <= _MOST_ROWS and columns <= _MOST_COLUMNS


def _heads(
    sheet: Any, formats: _Formats, grid: Grid, columns: list[tuple[tuple[int, int], int]], top: int, depth: int
) -> int:
    """Column heads, a member over all its columns; returns the row below them."""
    head = formats.of(bold=True, bottom=1, align="center")
    for level, heading in enumerate(grid.columns.headings):
        sheet.write_string(top, 0, heading_name(heading), formats.of(bold=True))
        place = depth
        for (text, _), group in groupby(columns, key=lambda each: _head_text(grid, each[0], level)):
            width = len(list(group))
            if width > 1 and text:
                sheet.merge_range(top, place, top, place + width - 1, "", head)
            sheet.write_string(top, place, text, head)
            place += width
        top += 1
    for at, heading in enumerate(grid.rows.headings):
        sheet.write_string(top, at, heading_name(heading), formats.of(bold=True, bottom=1))
    for place, (_, measure) in enumerate(columns):
        sheet.write_string(top, depth + place, grid.names[measure], formats.of(bold=True, bottom=1, align="right"))
    return top + 1


def _head_text(grid: Grid, node: tuple[int, int], level: int) -> tuple[str, tuple[object, ...]]:
    path = grid.columns.path(*node)
    if level < len(path):
        return label_of(grid.columns.headings[level], path[level]), path[: level + 1]
    return ("All" if level == len(path) else ""), (*path, "all")


def sheet_pattern(style: FigureStyle) -> str:
    """The figure's pattern as a sheet writes it: CLDR and sheets share #,##0.00, % and semicolons between plus, minus
    and nothing; a unit is put in quotes; each comma at the end divides by a thousand."""
    if not style.pattern:
        return "General"
    parts = []
    for part in style.pattern.split(";"):
        figures = any(letter in part for letter in "#0")
        thousands = "," * round(math.log10(style.scale) / 3) if figures else ""
        unit = f'"{style.unit}"' if style.unit and figures else ""
        parts.append(f"{unit}{part}{thousands}" if figures else f'"{part}"')
    return ";".join(parts)


def _sheet_name(name: str) -> str:
    clean = "".join("-" if letter in "[]:*?/\\" else letter for letter in name).strip("' ")
    return clean[:31] or "Summary"


class _Formats:
    """Each look of a cell made once."""

    def __init__(self, book: Any) -> None:
        self.book = book
        self.known: dict[tuple[tuple[str, object], ...], Any] = {}

    def of(self, **look: object) -> Any:
        key = tuple(sorted(look.items()))
        if key not in self.known:
            self.known[key] = self.book.add_format(look)
        return self.known[key]
