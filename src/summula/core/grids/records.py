"""A grid as plain records: the exact JSON of the command line, and rows laid out for text and CSV."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from summula.core.fields.labels import heading_name, json_member
from summula.core.grids.layout import PLAIN, Layout
from summula.core.grids.lines import (
    Row,
    as_rows,
    column_label,
    columns_of,
    figure_at,
    measure_at,
    row_titles,
    rows_of,
    shown_levels,
)
from summula.core.phrases.lever import standings
from summula.core.phrases.printing import print_heading, print_phrase

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid
    from summula.core.fields.figures import FigureStyle
    from summula.core.phrases.phrase import Phrase


def json_record(grid: Grid, phrase: Phrase, text: str | None = None) -> dict[str, Any]:
    """The complete answer; cells without rows are left out. `phrase` is printed as it was asked, or as `text`."""
    cells: list[dict[str, Any]] = []
    for i in reversed(shown_levels(grid.rows, phrase)):
        for j in reversed(shown_levels(grid.columns, phrase)):
            block, counts = grid.values[i, j], grid.cell_rows[i, j]
            rows = [[json_member(m) for m in grid.rows.path(i, node)] for node in range(block.shape[1])]
            columns = [[json_member(m) for m in grid.columns.path(j, node)] for node in range(block.shape[2])]
            for row, by in enumerate(rows):
                cells.extend(
                    {"by": by, "across": across, "values": [_exact(v) for v in block[:, row, column]]}
                    for column, across in enumerate(columns)
                    if counts[row, column] > 0
                )
    levers = {name: value for name, value in standings(phrase).items() if value is not None}
    return {
        "phrase": print_phrase(phrase) if text is None else text,
        "rows_read": grid.rows_read,
        "rows_used": grid.rows_used,
        "by": [_plain_heading(h) for h in grid.rows.headings],
        "across": [_plain_heading(h) for h in grid.columns.headings],
        "measures": list(grid.names),
        **({"levers": levers} if levers else {}),
        "cells": cells,
    }


def _plain_heading(heading: Any) -> str:
    return print_heading(heading).replace('"', "")


def _exact(value: float) -> float | int | None:
    if not math.isfinite(value):
        return None
    return int(value) if value == int(value) and abs(value) < 2**53 else float(value)


def laid_out(
    grid: Grid, *, exact: bool, layout: Layout = PLAIN, styles: tuple[FigureStyle, ...] | None = None
) -> list[list[str]]:
    """The grid as rows of text: heads, then a line a member with its figures.

    Exact figures are full numbers (blank: empty); otherwise they read as on screen, in `styles` (the grid's own).
    """
    columns = list(columns_of(grid, layout))
    titles = row_titles(grid) or [""]
    below = as_rows(grid, layout)
    labels_wide = len(titles) + below
    heads: list[list[str]] = []
    for level in range(grid.columns.depth):
        first = [heading_name(grid.columns.headings[level]), *[""] * (labels_wide - 1)]
        heads.append(first + [column_label(grid, layout, column, level) for column in columns])
    if below or len(grid.names) > 1 or not grid.columns.depth:
        names = ["" if below else grid.names[column.measure or 0] for column in columns]
        heads.append([*titles, *["Measure"] * below, *names])
    body: list[list[str]] = []
    for row in rows_of(grid, layout):
        line = [*row.path[: len(titles)]]
        if row.level < grid.rows.depth:
            line.append(total_label(layout, row))
        line += [""] * (len(titles) - len(line))
        line += [grid.names[row.measure or 0]] * below
        for column in columns:
            value = figure_at(grid, row, column)
            line.append(_written(value) if exact else (styles or grid.styles)[measure_at(row, column)].text(value))
        body.append(line)
    return heads + body


def total_label(layout: Layout, row: Row) -> str:
    """What stands for the members of a total, in a table whose every line spells its path."""
    return (layout.subtotal_name if row.path else layout.bottom_name) or "All"


def _written(value: float) -> str:
    exact = _exact(value)
    return "" if exact is None else repr(exact)
