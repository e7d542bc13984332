"""A grid as marks, for a panel of a board: figures right-aligned, a rule above totals, a double one below."""

from __future__ import annotations

from summula.core.charts.look import Look
from summula.core.charts.scene import Ink, Line, Mark, Scene, Tag, Text, TextWidth, message
from summula.core.charts.series import column_name, fitted
from summula.core.fields.labels import heading_name, label_of
from summula.core.summaries.figures import said
from summula.core.summaries.grid import Grid
from summula.core.summaries.layout import columns_of, rows_of

_ROW = 22.0
_SIZE = 12.0


def draw_grid(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """As many rows and columns as fit; what does not fit is said."""
    if grid.empty:
        return message("Nothing to show: no rows are in play", size)
    rows = [(row.level, row.node) for row in rows_of(grid)]
    columns = [(column.place, column.measure or 0) for column in columns_of(grid)]
    room = int((size[1] - 2 * _ROW) // _ROW)
    hidden = max(0, len(rows) - room)
    if hidden:  # the bottom line stays in sight
        kept = max(room - 2, 1)
        hidden = len(rows) - kept - (1 if rows[-1][0] == 0 else 0)
        rows = rows[:kept] + ([rows[-1]] if rows[-1][0] == 0 else [])
    labels = [_row_label(grid, row) for row in rows]
    head_width = min(
        max(width(text, _SIZE, 600) + 14 * max(row[0] - 1, 0) for text, row in zip(labels, rows, strict=True)) + 12,
        size[0] * 0.45,
    )
    texts = [[grid.styles[m].text(grid.figure(m, row, node)) for node, m in columns] for row in rows]
    heads = [_column_head(grid, node, m) for node, m in columns]
    top = _ROW * len(heads[0]) if heads else _ROW
    widths = [
        max(width(t, _SIZE, 500) for t in [*heads[at], *(line[at] for line in texts)]) + 16
        for at in range(len(columns))
    ]
    fits = 0
    used = head_width
    for each in widths:
        if used + each > size[0] + 0.5:
            break
        used += each
        fits += 1
    fits = max(fits, 1)
    stretch = max(0.0, (size[0] - head_width - sum(widths[:fits])) / fits)
    marks: list[Mark] = []
    titles = " › ".join(heading_name(h) for h in grid.rows.headings)
    marks.append(Text(0, top - 8, fitted(titles, head_width, 11, 400, width), Ink("muted"), 11, full=titles))
    x = head_width
    rights = []
    for at in range(fits):
        x += widths[at] + stretch
        rights.append(x)
        for line, head in enumerate(heads[at]):
            if line < len(heads[at]) - 1 and at and heads[at - 1][line] == head:
                continue  # said once over its columns
            text = fitted(head, widths[at] + stretch - 6, 11, 400, width)
            lowest = line == len(heads[at]) - 1
            ink = Ink("muted") if lowest else Ink("text")
            y = line * _ROW + 14
            marks.append(Text(x, y, text, ink, 11, 400 if lowest else 600, "right", full=head))
    marks.append(Line(((0, top - 2), (size[0], top - 2)), Ink("ink", 0.9)))
    for place, row in enumerate(rows):
        _row(
            marks,
            grid,
            row,
            labels[place],
            texts[place],
            columns,
            rights,
            top + place * _ROW,
            head_width,
            size[0],
            width,
        )
    left_out = [said(hidden, "row")] if hidden else []
    if fits < len(columns):
        left_out.append(said(len(columns) - fits, "column"))
    if left_out:
        words = f"{' and '.join(left_out)} more than fit here"
        marks.append(Text(0, top + len(rows) * _ROW + 15, words, Ink("muted"), 11))
    return Scene(size[0], size[1], tuple(marks))


def _row_label(grid: Grid, row: tuple[int, int]) -> str:
    level, node = row
    if level == 0:
        return "All" if grid.rows.depth else "All rows"
    return label_of(grid.rows.headings[level - 1], grid.rows.path(level, node)[-1])


def _column_head(grid: Grid, node: tuple[int, int], measure: int) -> tuple[str, ...]:
    """One line, or the members across over the measure's name where there are several."""
    path = grid.columns.path(*node)
    labels = [label_of(h, m) for h, m in zip(grid.columns.headings, path, strict=False)]
    if not labels and grid.columns.depth:
        labels = ["All"]
    name = column_name(grid, measure)
    if not labels:
        return (name,)
    return (" · ".join(labels), name) if len(grid.names) > 1 else (" · ".join(labels),)


def _row(
    marks: list[Mark],
    grid: Grid,
    row: tuple[int, int],
    label: str,
    texts: list[str],
    columns: list[tuple[tuple[int, int], int]],
    rights: list[float],
    y: float,
    head_width: float,
    right: float,
    width: TextWidth,
) -> None:
    level, node = row
    total = level < grid.rows.depth
    weight = 600 if total else 400
    indent = 14.0 * max(level - 1, 0)
    if level == 0 and grid.rows.depth:
        marks.append(Line(((0, y), (right, y)), Ink("ink", 0.9)))
    text = fitted(label, head_width - indent - 6, _SIZE, weight, width)
    marks.append(Text(indent, y + 15, text, Ink("text"), _SIZE, weight, full=label))
    path = grid.rows.path(level, node)
    for at, x in enumerate(rights):
        (column_level, column), measure = columns[at]
        value = grid.figure(measure, row, (column_level, column))
        across = grid.columns.path(column_level, column)
        tag = Tag(path, across, measure, value, label, texts[at])
        marks.append(Text(x, y + 15, texts[at], Ink("text"), _SIZE, weight, "right", tag=tag))
    if level == 0 and grid.rows.depth:
        for offset in (_ROW - 1, _ROW + 1.5):
            marks.append(Line(((0, y + offset), (right, y + offset)), Ink("ink", 0.9)))
