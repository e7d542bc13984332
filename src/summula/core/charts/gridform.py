"""A grid as marks, for a panel of a board: figures right-aligned, a rule above totals, a double one below."""

from __future__ import annotations

from summula.core.charts.look import Look
from summula.core.charts.scene import Ink, Line, Mark, Scene, Tag, Text, TextWidth, message
from summula.core.charts.series import fitted, short_name
from summula.core.fields.labels import heading_name, label_of
from summula.core.summaries.grid import Grid
from summula.core.summaries.records import walk

_ROW = 22.0
_SIZE = 12.0


def draw_grid(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """As many rows and columns as fit; what does not fit is said."""
    if grid.empty:
        return message("Nothing to show: no rows are in play", size)
    rows = list(walk(grid.rows, grid.phrase))
    columns = [
        (node, m) for node in walk(grid.columns, grid.phrase, subtotals_last=True) for m in range(len(grid.names))
    ]
    room = int((size[1] - _ROW) // _ROW)
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
    widths = [
        max(width(t, _SIZE, 500) for t in [heads[at], *(line[at] for line in texts)]) + 16 for at in range(len(columns))
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
    marks.append(Text(0, 14, fitted(titles, head_width, 11, 400, width), Ink("muted"), 11, full=titles))
    x = head_width
    rights = []
    for at in range(fits):
        x += widths[at] + stretch
        rights.append(x)
        marks.append(
            Text(
                x,
                14,
                fitted(heads[at], widths[at] + stretch - 6, 11, 400, width),
                Ink("muted"),
                11,
                align="right",
                full=heads[at],
            )
        )
    marks.append(Line(((0, _ROW - 2), (size[0], _ROW - 2)), Ink("ink", 0.9)))
    for place, row in enumerate(rows):
        _row(
            marks,
            grid,
            row,
            labels[place],
            texts[place],
            columns,
            rights,
            _ROW + place * _ROW,
            head_width,
            size[0],
            width,
        )
    if hidden:
        marks.append(Text(0, _ROW + len(rows) * _ROW + 14, f"and {hidden:,} more rows", Ink("muted"), 11))
    return Scene(size[0], size[1], tuple(marks))


def _row_label(grid: Grid, row: tuple[int, int]) -> str:
    level, node = row
    if level == 0:
        return "All" if grid.rows.depth else "All rows"
    return label_of(grid.rows.headings[level - 1], grid.rows.path(level, node)[-1])


def _column_head(grid: Grid, node: tuple[int, int], measure: int) -> str:
    path = grid.columns.path(*node)
    labels = [label_of(h, m) for h, m in zip(grid.columns.headings, path, strict=False)]
    if not labels and grid.columns.depth:
        labels = ["All"]
    name = short_name(grid.phrase.measures[measure], grid.names[measure])
    return " · ".join(labels + ([name] if len(grid.names) > 1 or not labels else []))


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
