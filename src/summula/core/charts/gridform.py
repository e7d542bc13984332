"""A grid as marks, for a panel of a board: figures right-aligned, a rule above totals, a double one below; laid out and
dressed as its summary says."""

from __future__ import annotations

import msgspec

from summula.core.charts.cellform import BAR, SHADE, CellForm, cell_form, course_of
from summula.core.charts.look import Look
from summula.core.charts.scene import Box, Ink, Line, Mark, Point, Scene, Tag, Text, TextWidth, message
from summula.core.charts.series import fitted, head_name
from summula.core.summaries.dress import Dress, dress_of, dressed, reach_of
from summula.core.summaries.figures import FigureStyle, said
from summula.core.summaries.grid import Grid
from summula.core.summaries.layout import (
    Column,
    Layout,
    Row,
    as_rows,
    column_label,
    columns_of,
    figure_at,
    measure_at,
    row_titles,
    rows_of,
)

_ROW = 22.0
_SIZE = 12.0
_COURSE = 96.0
_MOST_COLUMNS = 200  # more are never in sight on a panel


class _Dressed(msgspec.Struct, frozen=True):
    """A grid with what its summary says of its looks."""

    grid: Grid
    layout: Layout
    dresses: tuple[Dress, ...]
    styles: tuple[FigureStyle, ...]
    columns: list[Column]
    courses: list[int]  # the measures whose course is drawn
    all_columns: int
    reaches: tuple[tuple[float, float], ...]  # each measure's least and greatest figure

    @classmethod
    def of(cls, grid: Grid, look: Look) -> _Dressed:
        dresses = tuple(dress_of(look.worn.dresses, at) for at in range(len(grid.names)))
        styles = tuple(dressed(style, dress) for style, dress in zip(grid.styles, dresses, strict=True))
        courses = [at for at, dress in enumerate(dresses) if dress.course] if grid.columns.depth else []
        if as_rows(grid, look.worn.layout):
            courses = courses[:1]
        columns = columns_of(grid, look.worn.layout, look.worn.folded_across)
        reaches = tuple(reach_of(grid, at) for at in range(len(grid.names)))
        return cls(grid, look.worn.layout, dresses, styles, columns[:_MOST_COLUMNS], courses, len(columns), reaches)

    def text(self, row: Row, column: Column) -> str:
        return self.styles[measure_at(row, column)].text(figure_at(self.grid, row, column)) if row.figures else ""

    def name(self, measure: int) -> str:
        return head_name(self.grid, measure, self.dresses[measure], self.styles[measure])

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


def draw_grid(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """As many rows and columns as fit; what does not fit is said."""
    if grid.empty:
        return message("Nothing to show: no rows are in play", size)
    worn = _Dressed.of(grid, look)
    every = rows_of(grid, look.worn.layout, look.worn.folded, heads=True)
    room = max(int((size[1] - 2 * _ROW) // _ROW), 1)
    rows, hidden = list(every[:room]), max(0, len(every) - room)
    if hidden:  # the bottom line stays in sight, with all its measures
        bottom = [row for row in every[-len(grid.names) :] if row.level == 0 and grid.rows.depth]
        rows = [row for row in rows[: max(room - 1 - len(bottom), 1)] if row.level or not bottom] + bottom
        hidden = len(every) - len(rows)
    labels = [worn.label(row) for row in rows]
    widest = max(width(text, _SIZE, 600) + _indent(row) for text, row in zip(labels, rows, strict=True))
    titles = " › ".join(row_titles(grid))
    if len(grid.names) == 1 and grid.columns.depth:  # no head says the unit and the scale
        scale = worn.dresses[0].scale if worn.styles[0].scale != 1.0 else ""
        titles = " · ".join(part for part in (titles, f"{worn.styles[0].unit} {scale}".strip()) if part)
    head_width = min(max(widest, width(titles, 11, 400)) + 12, size[0] * 0.45)
    heads = [worn.head(column) for column in worn.columns]
    heads += [("Course",) if len(worn.courses) == 1 else (f"Course of {worn.name(at)}",) for at in worn.courses]
    lines = max(len(head) for head in heads)
    widths = [_column_width(worn, rows, at, heads[at], width) for at in range(len(worn.columns))]
    widths += [_COURSE] * len(worn.courses)
    shown = _fitting(widths, len(worn.courses), size[0] - head_width)
    stretch = max(0.0, (size[0] - head_width - sum(widths[at] for at in shown)) / len(shown))
    top = _ROW * lines
    marks: list[Mark] = [Text(0, top - 8, fitted(titles, head_width, 11, 400, width), Ink("muted"), 11, full=titles)]
    rights, x = {}, head_width
    for at in shown:
        x += widths[at] + stretch
        rights[at] = x
        _head(marks, heads, at, lines, x, widths[at] + stretch, width)
    marks.append(Line(((0, top - 2), (size[0], top - 2)), Ink("ink", 0.9)))
    for place, row in enumerate(rows):
        y = top + place * _ROW
        _row(marks, worn, row, labels[place], rights, (y, head_width, size[0]), width)
    left_out = [said(hidden, "row")] if hidden else []
    columns = worn.all_columns + len(worn.courses) - len(shown)
    if columns:
        left_out.append(said(columns, "column"))
    if left_out:
        words = f"{' and '.join(left_out)} more than fit here"
        marks.append(Text(0, top + len(rows) * _ROW + 15, words, Ink("muted"), 11))
    return Scene(size[0], size[1], tuple(marks))


def _fitting(widths: list[float], courses: int, room: float) -> list[int]:
    """The columns that fit, one at least; courses, which stand last, before all others."""
    room -= sum(widths[len(widths) - courses :])
    fits = 0
    while fits < len(widths) - courses and widths[fits] <= room + 0.5:
        room -= widths[fits]
        fits += 1
    return [*range(max(fits, 1)), *range(len(widths) - courses, len(widths))]


def _indent(row: Row) -> float:
    return 14.0 * max(row.level - 1, 0) + (14.0 if row.measure is not None and not row.first else 0.0)


def _column_width(worn: _Dressed, rows: list[Row], at: int, head: tuple[str, ...], width: TextWidth) -> float:
    column = worn.columns[at]
    texts = {worn.text(row, column) for row in rows}
    measures = range(len(worn.dresses)) if column.measure is None else [column.measure]
    marked = any(worn.dresses[each].signs or worn.dresses[each].goal is not None for each in measures)
    return max(width(text, _SIZE, 500) for text in {*head, *texts}) + 16 + (22 if marked else 0)


def _head(
    marks: list[Mark], heads: list[tuple[str, ...]], at: int, lines: int, x: float, room: float, width: TextWidth
) -> None:
    head = heads[at]
    for line, text in enumerate(head, start=lines - len(head)):
        lowest = line == lines - 1
        before = heads[at - 1] if at else ()
        if not lowest and len(before) == len(head) and before[line - lines + len(head)] == text:
            continue  # said once over its columns
        shown = fitted(text, room - 6, 11, 400, width)
        ink, weight = (Ink("muted"), 400) if lowest else (Ink("text"), 600)
        marks.append(Text(x, line * _ROW + 14, shown, ink, 11, weight, "right", full=text))


def _row(
    marks: list[Mark],
    worn: _Dressed,
    row: Row,
    label: str,
    rights: dict[int, float],
    area: tuple[float, float, float],
    width: TextWidth,
) -> None:
    grid, (y, head_width, right) = worn.grid, area
    total = row.level < grid.rows.depth
    weight = 600 if total else 400
    bottom = row.level == 0 and grid.rows.depth > 0
    if bottom and row.first:
        marks.append(Line(((0, y), (right, y)), Ink("ink", 0.9)))
    text = fitted(label, head_width - _indent(row) - 6, _SIZE, weight, width)
    marks.append(Text(_indent(row), y + 15, text, Ink("text"), _SIZE, weight, full=label))
    path = grid.rows.path(row.level, row.node)
    left = x = head_width
    for at, end in rights.items():
        left, x = x, end
        if at >= len(worn.columns):
            _course(marks, worn, row, worn.courses[at - len(worn.columns)], (left, y, x))
            continue
        if not row.figures:
            continue
        column = worn.columns[at]
        measure, value = measure_at(row, column), figure_at(grid, row, column)
        finest = (row.level, column.level) == grid.finest
        form = cell_form(worn.dresses[measure], value, worn.reaches[measure], finest=finest)
        _form(marks, form, (left + 12, y, x - left - 10))
        written = worn.text(row, column)
        tag = Tag(path, grid.columns.path(*column.place), measure, value, row.label, written)
        ink = Ink(form.token or "text")
        marks.append(Text(x, y + 15, written, ink, _SIZE, weight, "right", tag=tag))
    if bottom and (row.measure is None or row.measure == len(worn.dresses) - 1):
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


def _course(marks: list[Mark], worn: _Dressed, row: Row, measure: int, area: tuple[float, float, float]) -> None:
    """A line's course, between a left and a right edge."""
    measure = row.measure if row.measure is not None else measure
    if not row.figures or not worn.dresses[measure].course:
        return
    left, y, right = area
    course = course_of(worn.grid.values[row.level, worn.grid.columns.depth][measure, row.node])

    def place(point: tuple[float, float]) -> tuple[float, float]:
        return left + 14 + (right - left - 20) * point[0], y + _ROW - 6 - (_ROW - 11) * point[1]

    for run in course.runs:
        points = tuple(place(point) for point in run)
        marks.append(Line(points if len(points) > 1 else (points[0], points[0]), Ink("series 0"), 1.3))
    if course.runs:
        x, bottom = place(course.runs[-1][-1])
        marks.append(Point(x, bottom, 2.0, Ink("series 0"), hollow=False))
