"""A grid as an XLSX sheet others can go on with: real numbers under their patterns, merged heads, frozen panes.

Every text is written as a text, so that one which looks like a formula stays one.
"""

from __future__ import annotations

import io
import math
from itertools import groupby
from typing import TYPE_CHECKING, Any

import xlsxwriter
from xlsxwriter.worksheet import Worksheet

from summula.core.arrays import np
from summula.core.fields.figures import CURRENCY_MARKS, FigureStyle
from summula.core.fields.labels import heading_name
from summula.core.grids.layout import PLAIN, Layout
from summula.core.grids.lines import (
    Column,
    as_rows,
    column_label,
    columns_of,
    figure_at,
    measure_at,
    row_titles,
    rows_of,
)
from summula.core.grids.measurestyle import MeasureStyle, style_at, styled
from summula.core.grids.records import total_label
from summula.core.handout.cleantext import printable

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid

_MOST_ROWS, _MOST_COLUMNS = 1_048_576, 16_384
_MOST_LETTERS = 32_767  # of a cell


def workbook_bytes(
    grid: Grid, name: str, phrase: str, measure_styles: tuple[MeasureStyle, ...] = (), layout: Layout = PLAIN
) -> bytes:
    """The sheet `name` with the phrase above the figures, in their patterns and scales. Refuses
    nothing: the caller asks `fits` first."""
    stream = io.BytesIO()
    book = new_book(stream)
    put_grid(book.add_worksheet(sheet_name(name)), SheetFormats(book), grid, name, phrase, measure_styles, layout)
    book.close()
    return stream.getvalue()


class _PlainSheet(Worksheet):  # type: ignore[misc]
    """A sheet that takes any text: without what XML has no place for, cut where a cell holds no more."""

    def _write_string(self, row: int, col: int, string: str, cell_format: Any = None) -> Any:
        string = printable(string)
        if len(string) > _MOST_LETTERS:
            string = string[: _MOST_LETTERS - 1] + "…"
        return super()._write_string(row, col, string, cell_format)


def new_book(stream: io.BytesIO) -> Any:
    """A workbook in which every text stays a text, and which names neither person nor machine."""
    options = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "nan_inf_to_errors": False}
    book = xlsxwriter.Workbook(stream, options)
    book.worksheet_class = _PlainSheet
    book.set_properties({"author": "", "company": "", "comments": ""})
    return book


def put_grid(
    sheet: Any,
    formats: SheetFormats,
    grid: Grid,
    name: str,
    phrase: str,
    measure_styles: tuple[MeasureStyle, ...] = (),
    layout: Layout = PLAIN,
) -> None:
    """The grid on a sheet, its name and phrase above it."""
    styles = [styled(style, style_at(measure_styles, at)) for at, style in enumerate(grid.styles)]
    sheet.write_string(0, 0, name, formats.of(bold=True, font_size=14))
    sheet.write_string(1, 0, phrase, formats.of(font_color="#665f58"))
    titles = (row_titles(grid) or [""]) + ["Measure"] * as_rows(grid, layout)
    depth = len(titles)
    columns = list(columns_of(grid, layout))
    top = _heads(sheet, formats, grid, layout, columns, 3, titles)
    at = top
    for row in rows_of(grid, layout):
        total = row.level < grid.rows.depth
        bottom = row.level == 0 and grid.rows.depth > 0
        look = {"bold": total} | ({"top": 1, "bottom": 6} if bottom else {})
        labels = [*row.path, *([total_label(layout, row)] if total else [])]
        labels += [""] * (len(row_titles(grid)) - len(labels))
        labels += [grid.names[row.measure]] if row.measure is not None else []
        for place in range(depth):
            sheet.write_string(at, place, labels[place] if place < len(labels) else "", formats.of(**look))
        for place, column in enumerate(columns):
            value = figure_at(grid, row, column)
            pattern = formats.of(num_format=sheet_pattern(styles[measure_at(row, column)]), **look)
            if np.isfinite(value):
                days = styles[measure_at(row, column)].clock
                sheet.write_number(at, depth + place, value / 24 if days else value, pattern)
            else:
                sheet.write_blank(at, depth + place, None, pattern)
        at += 1
    sheet.freeze_panes(top, depth)
    sheet.set_column(0, depth - 1, 22)
    sheet.set_column(depth, depth + max(len(columns) - 1, 0), 14)


def fits(grid: Grid) -> bool:
    """Whether a sheet can hold the grid."""
    rows = sum(level.size for level in grid.rows.levels) + 6
    columns = sum(level.size for level in grid.columns.levels) * len(grid.names) + grid.rows.depth
    return rows <= _MOST_ROWS and columns <= _MOST_COLUMNS


def _heads(
    sheet: Any, formats: SheetFormats, grid: Grid, layout: Layout, columns: list[Column], top: int, titles: list[str]
) -> int:
    """Column heads, a member over all its columns; returns the row below them."""
    head, depth = formats.of(bold=True, bottom=1, align="center"), len(titles)
    for level, heading in enumerate(grid.columns.headings):
        sheet.write_string(top, 0, heading_name(heading), formats.of(bold=True))
        place = depth
        for (text, _), group in groupby(columns, key=lambda each: _head_of(grid, layout, each, level)):
            width = len(list(group))
            if width > 1 and text:
                sheet.merge_range(top, place, top, place + width - 1, "", head)
            sheet.write_string(top, place, text, head)
            place += width
        top += 1
    for at, title in enumerate(titles):
        sheet.write_string(top, at, title, formats.of(bold=True, bottom=1))
    for place, column in enumerate(columns):
        name = grid.names[column.measure] if column.measure is not None else ""
        sheet.write_string(top, depth + place, name, formats.of(bold=True, bottom=1, align="right"))
    return top + 1


def _head_of(grid: Grid, layout: Layout, column: Column, level: int) -> tuple[str, tuple[object, ...]]:
    """A column's head in one line of heads, and what tells whether its neighbour shares it."""
    whole = level < len(column.path)
    return column_label(grid, layout, column, level), column.path[: level + 1] if whole else (*column.path, "all")


def sheet_pattern(style: FigureStyle) -> str:
    """The figure's pattern as a sheet writes it: CLDR and sheets share #,##0.00, % and semicolons between plus, minus
    and nothing; a unit is put in quotes; each comma at the end divides by a thousand."""
    if style.clock:
        return "[h]:mm:ss"  # a sheet counts lengths of time in days
    if not style.pattern:
        return "General"
    parts = []
    for part in style.pattern.split(";"):
        figures = any(letter in part for letter in "#0")
        thousands = "," * round(math.log10(style.scale) / 3) if figures else ""
        unit = f'"{style.unit}"' if style.unit and figures else ""
        before = not style.unit or style.unit in CURRENCY_MARKS
        figure = f"{unit}{part}{thousands}" if before else f"{part}{thousands} {unit}"
        parts.append(figure if figures else f'"{part}"')
    return ";".join(parts)


def sheet_name(name: str) -> str:
    clean = "".join("-" if letter in "[]:*?/\\" else letter for letter in printable(name)).strip("' ")
    clean = " ".join(clean.split())[:31].strip("' ")
    return clean if clean and clean.casefold() != "history" else f"{clean} 1".strip()  # that name is taken


class SheetFormats:
    """Each look of a cell made once."""

    def __init__(self, book: Any) -> None:
        self.book = book
        self.known: dict[tuple[tuple[str, object], ...], Any] = {}

    def of(self, **look: object) -> Any:
        key = tuple(sorted(look.items()))
        if key not in self.known:
            self.known[key] = self.book.add_format(look)
        return self.known[key]
