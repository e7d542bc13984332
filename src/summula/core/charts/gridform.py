"""A grid as marks, for a panel of a board: figures right-aligned, a rule above totals, a double one below; laid out and
dressed as its summary says."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec

from summula.core.charts.cellform import BAR, SHADE, CellForm, cell_form, sparkline_of
from summula.core.charts.scene import Box, Ink, Line, Mark, Pair, Point, Scene, Tag, Text, TextWidth, fitted, message
from summula.core.charts.series import head_name, pairs
from summula.core.engine.grid import Grid
from summula.core.fields.figures import FigureStyle, plural
from summula.core.grids.layout import Layout
from summula.core.grids.lines import (
    Column,
    Row,
    as_rows,
    column_label,
    columns_of,
    figure_at,
    measure_at,
    row_titles,
    rows_of,
)
from summula.core.grids.measurestyle import MeasureStyle, reach_of

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart

_ROW = 22.0
_SIZE = 12.0
_SPARKLINE = 96.0
_MOST_COLUMNS = 200  # more are never in sight on a panel
_MOST_OF_PARTS = 5_000  # columns of a grid that is cut over pages


class _Styled(msgspec.Struct, frozen=True):
    """A grid with what its summary says of its looks."""

    grid: Grid
    layout: Layout
    measure_styles: tuple[MeasureStyle, ...]
    styles: tuple[FigureStyle, ...]
    columns: list[Column]
    sparklines: list[int]  # the measures whose course is drawn
    all_columns: int
    reaches: tuple[tuple[float, float], ...]  # each measure's least and greatest figure

    @classmethod
    def of(cls, chart: Chart, most: int = _MOST_COLUMNS) -> _Styled:
        grid, look = chart.grid, chart.look.grid
        measure_styles = tuple(look.style_of(at) for at in range(len(grid.names)))
        sparklines = [at for at, own in enumerate(measure_styles) if own.sparkline] if grid.columns.depth else []
        if as_rows(grid, look.layout):
            sparklines = sparklines[:1]
        columns = columns_of(grid, look.layout, look.folded_across)
        reaches = tuple(reach_of(grid, at) for at in range(len(grid.names)))
        return cls(grid, look.layout, measure_styles, chart.styles, columns[:most], sparklines, len(columns), reaches)

    def text(self, row: Row, column: Column) -> str:
        return self.styles[measure_at(row, column)].text(figure_at(self.grid, row, column)) if row.figures else ""

    def name(self, measure: int) -> str:
        return head_name(self.grid, measure, self.measure_styles[measure], self.styles[measure])

    def label(self, row: Row) -> str:
        """What stands before a line: its member; on the further lines of a member, the measure."""
        if row.measure is None:
            return row.label
        return f"{row.label} · {self.name(row.measure)}" if row.first else self.name(row.measure)

    def head(self, column: Column) -> tuple[str, ...]:
        """One line, or the members across over the measure's name where there are several."""
        labels = [column_label(self.grid, self.layout, column, at) for at in range(self.grid.columns.depth)]
        members = " · ".join(label for label in labels if label)
        if column.measure is None:
            return (members or "Figures",)
        if not self.grid.columns.depth:
            return (self.name(column.measure),)
        return (members, self.name(column.measure)) if len(self.grid.names) > 1 else (members,)


def draw_grid(chart: Chart, canvas: Canvas) -> Scene:
    """As many rows and columns as fit; what does not fit is said."""
    grid = chart.grid
    if grid.empty:
        return message("No data: no rows match the filters and slicers", canvas.size, canvas.text_width)
    shown, every = _Styled.of(chart), lines_of(chart)
    room = max(int((canvas.height - 2 * _ROW) // _ROW), 1)
    rows, hidden = list(every[:room]), max(0, len(every) - room)
    if hidden:  # the bottom line stays in sight, with all its measures
        bottom = [row for row in every[-len(grid.names) :] if row.level == 0 and grid.rows.depth]
        rows = [row for row in rows[: max(room - 1 - len(bottom), 1)] if row.level or not bottom] + bottom
        hidden = len(every) - len(rows)
    measured = _Measured.of(shown, rows, canvas)
    fitting = _fitting(measured.widths, len(shown.sparklines), canvas.width - measured.head)
    marks, end = _drawn(shown, rows, measured, fitting, canvas)
    columns = shown.all_columns + len(shown.sparklines) - len(fitting)
    left_out = [plural(hidden, "row")] if hidden else []
    left_out += [plural(columns, "column")] if columns else []
    if left_out:
        words = f"{' and '.join(left_out)} more than fit here"
        marks.append(Text(0, end + 15, words, Ink("muted"), 11))
    return Scene(canvas.width, canvas.height, tuple(marks))


def lines_of(chart: Chart) -> Sequence[Row]:
    """The lines of a chart's grid in their order."""
    return rows_of(chart.grid, chart.look.grid.layout, chart.look.grid.folded, heads=True)


def grid_parts(chart: Chart, canvas: Canvas, most: int) -> list[Scene]:
    """A grid cut into parts that each have room, at most so many: first all its columns, then on with its lines. Heads
    stand in every part."""
    shown, every = _Styled.of(chart, _MOST_OF_PARTS), lines_of(chart)
    parts: list[Scene] = []
    first = 0
    while first < len(every) and len(parts) < most:
        heads = 2 if shown.grid.columns.depth and len(shown.grid.names) > 1 else 1
        room = max(int((canvas.height - (heads + 0.5) * _ROW) // _ROW), 1)
        rows = list(every[first : first + room])
        measured = _Measured.of(shown, rows, canvas)
        column, columns = 0, len(measured.widths)
        while column < columns and len(parts) < most:
            left, stop = canvas.width - measured.head, column
            while stop < columns and (stop == column or measured.widths[stop] <= left + 0.5):
                left -= measured.widths[stop]
                stop += 1
            marks, _ = _drawn(shown, rows, measured, list(range(column, stop)), canvas)
            parts.append(Scene(canvas.width, canvas.height, tuple(marks)))
            column = stop
        first += room
    return parts


_TEXT = Ink("text")


class _Measured(msgspec.Struct, frozen=True):
    """The labels of some lines, the heads of all columns, what is written in each (`texts`, line by line), and how wide
    they are; `head`: the room of the labels."""

    labels: list[str]
    texts: list[list[str]]
    titles: str
    heads: list[tuple[str, ...]]
    head: float
    widths: list[float]

    @classmethod
    def of(cls, shown: _Styled, rows: list[Row], canvas: Canvas) -> _Measured:
        grid, width = shown.grid, canvas.text_width
        labels = [shown.label(row) for row in rows]
        widest = max(width(text, _SIZE, 600) + _indent(row) for text, row in zip(labels, rows, strict=True))
        titles = " › ".join(row_titles(grid))
        if len(grid.names) == 1 and grid.columns.depth:  # no head says the unit and the scale
            scale = shown.measure_styles[0].scale if shown.styles[0].scale != 1.0 else ""
            titles = " · ".join(part for part in (titles, f"{shown.styles[0].unit} {scale}".strip()) if part)
        heads = [shown.head(column) for column in shown.columns]
        heads += [
            ("Course",) if len(shown.sparklines) == 1 else (f"Trend of {shown.name(at)}",) for at in shown.sparklines
        ]
        texts = [[shown.text(row, column) for row in rows] for column in shown.columns]
        widths = [_column_width(shown, at, {*heads[at], *texts[at]}, width) for at in range(len(shown.columns))]
        widths += [_SPARKLINE] * len(shown.sparklines)
        return cls(
            labels, texts, titles, heads, min(max(widest, width(titles, 11, 400)) + 12, canvas.width * 0.45), widths
        )


def _drawn(
    shown: _Styled, rows: list[Row], measured: _Measured, fitting: list[int], canvas: Canvas
) -> tuple[list[Mark], float]:
    """The marks of these lines and columns, stretched to the width, and where they end."""
    width, head_width, heads = canvas.text_width, measured.head, measured.heads
    lines = max(len(head) for head in heads)
    stretch = max(0.0, (canvas.width - head_width - sum(measured.widths[at] for at in fitting)) / len(fitting))
    top = _ROW * lines
    titles = fitted(measured.titles, head_width, 11, 400, width)
    marks: list[Mark] = [Text(0, top - 8, titles, Ink("muted"), 11, full=measured.titles)]
    rights, x = {}, head_width
    for at in fitting:
        x += measured.widths[at] + stretch
        rights[at] = x
        _head(marks, heads, at, lines, x, measured.widths[at] + stretch, width, first=at == fitting[0])
    marks.append(Line(((0, top - 2), (canvas.width, top - 2)), Ink("ink", 0.9)))
    columns = shown.grid.columns
    across = {at: pairs(columns, columns.path(*shown.columns[at].place)) for at in fitting if at < len(shown.columns)}
    for place, row in enumerate(rows):
        texts = {at: measured.texts[at][place] for at in across}
        y = top + place * _ROW
        _row(marks, shown, row, measured.labels[place], (texts, across, rights), (y, head_width, canvas.width), width)
    return marks, top + len(rows) * _ROW


def _fitting(widths: list[float], sparklines: int, room: float) -> list[int]:
    """The columns that fit, one at least; courses, which stand last, before all others."""
    room -= sum(widths[len(widths) - sparklines :])
    fits = 0
    while fits < len(widths) - sparklines and widths[fits] <= room + 0.5:
        room -= widths[fits]
        fits += 1
    return [*range(max(fits, 1)), *range(len(widths) - sparklines, len(widths))]


def _indent(row: Row) -> float:
    return 14.0 * max(row.level - 1, 0) + (14.0 if row.measure is not None and not row.first else 0.0)


def _column_width(shown: _Styled, at: int, texts: set[str], width: TextWidth) -> float:
    """The room of a column that these texts stand in."""
    column = shown.columns[at]
    measures = range(len(shown.measure_styles)) if column.measure is None else [column.measure]
    marked = any(shown.measure_styles[each].signs or shown.measure_styles[each].goal is not None for each in measures)
    return max(width(text, _SIZE, 500) for text in texts) + 16 + (22 if marked else 0)


def _head(
    marks: list[Mark],
    heads: list[tuple[str, ...]],
    at: int,
    lines: int,
    x: float,
    room: float,
    width: TextWidth,
    *,
    first: bool,
) -> None:
    head = heads[at]
    for line, text in enumerate(head, start=lines - len(head)):
        lowest = line == lines - 1
        before = () if first or not at else heads[at - 1]
        if not lowest and len(before) == len(head) and before[line - lines + len(head)] == text:
            continue  # said once over its columns
        shown = fitted(text, room - 6, 11, 400, width)
        ink, weight = (Ink("muted"), 400) if lowest else (Ink("text"), 600)
        marks.append(Text(x, line * _ROW + 14, shown, ink, 11, weight, "right", full=text))


def _row(
    marks: list[Mark],
    shown: _Styled,
    row: Row,
    label: str,
    columns: tuple[dict[int, str], dict[int, tuple[Pair, ...]], dict[int, float]],
    area: tuple[float, float, float],
    width: TextWidth,
) -> None:
    """One line. `columns`: by number what is written in each, the members it stands for, its right edge."""
    grid, (y, head_width, right), (texts, across, rights) = shown.grid, area, columns
    total = row.level < grid.rows.depth
    weight = 600 if total else 400
    bottom = row.level == 0 and grid.rows.depth > 0
    if bottom and row.first:
        marks.append(Line(((0, y), (right, y)), Ink("ink", 0.9)))
    text = fitted(label, head_width - _indent(row) - 6, _SIZE, weight, width)
    marks.append(Text(_indent(row), y + 15, text, Ink("text"), _SIZE, weight, full=label))
    along = pairs(grid.rows, grid.rows.path(row.level, row.node))
    left = x = head_width
    for at, end in rights.items():
        left, x = x, end
        if at >= len(shown.columns):
            _sparkline(marks, shown, row, shown.sparklines[at - len(shown.columns)], (left, y, x))
            continue
        if not row.figures:
            continue
        column = shown.columns[at]
        measure, value = measure_at(row, column), figure_at(grid, row, column)
        finest = (row.level, column.level) == grid.finest
        form = cell_form(shown.measure_styles[measure], value, shown.reaches[measure], finest=finest)
        _form(marks, form, (left + 12, y, x - left - 10))
        tag = Tag(along, across[at], measure, value, row.label, texts[at])
        ink = Ink(form.token) if form.token else _TEXT
        marks.append(Text(x, y + 15, texts[at], ink, _SIZE, weight, "right", tag=tag))
    if bottom and (row.measure is None or row.measure == len(shown.measure_styles) - 1):
        for offset in (_ROW - 1, _ROW + 1.5):
            marks.append(Line(((0, y + offset), (right, y + offset)), Ink("ink", 0.9)))


def _form(marks: list[Mark], form: CellForm, area: tuple[float, float, float]) -> None:
    """A cell's bar, shade and mark."""
    x, y, room = area
    if form.shade:
        marks.append(Box(x - 2, y + 1, room + 3, _ROW - 2, Ink(form.fill_token, SHADE * abs(form.shade))))
    if form.bar is not None:
        start, end = form.bar
        bar = Box(x + room * start, y + 4, max(room * (end - start), 1.0), _ROW - 8, Ink(form.fill_token, BAR))
        marks.append(bar)
        if form.zero is not None:
            zero = x + room * form.zero
            marks.append(Line(((zero, y + 2), (zero, y + _ROW - 2)), Ink("faint")))
    if form.mark:
        marks.append(Text(x, y + 15, form.mark, Ink(form.mark_token), 9 if form.token else 11))


def _sparkline(marks: list[Mark], shown: _Styled, row: Row, measure: int, area: tuple[float, float, float]) -> None:
    """A line's course, between a left and a right edge."""
    measure = row.measure if row.measure is not None else measure
    if not row.figures or not shown.measure_styles[measure].sparkline:
        return
    left, y, right = area
    sparkline = sparkline_of(shown.grid.values[row.level, shown.grid.columns.depth][measure, row.node])

    def place(point: tuple[float, float]) -> tuple[float, float]:
        return left + 14 + (right - left - 20) * point[0], y + _ROW - 6 - (_ROW - 11) * point[1]

    for run in sparkline.runs:
        points = tuple(place(point) for point in run)
        marks.append(Line(points if len(points) > 1 else (points[0], points[0]), Ink("series 0"), 1.3))
    if sparkline.runs:
        x, bottom = place(sparkline.runs[-1][-1])
        marks.append(Point(x, bottom, 2.0, Ink("series 0"), hollow=False))
