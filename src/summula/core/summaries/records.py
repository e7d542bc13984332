"""A grid as plain records: the exact JSON of the command line, and rows laid out for text and CSV."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import numpy as np

from summula.core.fields.labels import heading_name, json_member, label_of
from summula.core.summaries.axis import Axis
from summula.core.summaries.grid import Grid
from summula.core.summaries.lever import standings
from summula.core.summaries.phrase import Phrase
from summula.core.summaries.printing import print_heading, print_phrase

Node = tuple[int, int]  # (level, node)


def shown_levels(axis: Axis, phrase: Phrase) -> list[int]:
    """The levels a phrase shows: the finest always, subtotals and the total unless taken away."""
    middle = range(1, axis.depth) if phrase.subtotals else range(0)
    total = [0] if phrase.totals and axis.depth else []
    return sorted({axis.depth, *middle, *total})


def json_record(grid: Grid, phrase: Phrase) -> dict[str, Any]:
    """The complete answer; cells without rows are left out. `phrase` is printed as it was asked."""
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
        "phrase": print_phrase(phrase),
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


def walk(axis: Axis, phrase: Phrase, *, subtotals_last: bool = False) -> Iterator[Node]:
    """The nodes in the order they are shown: subtotals above their members (or behind them, as columns
    have it), the bottom line last."""
    levels = set(shown_levels(axis, phrase))
    bounds = [_child_bounds(axis, level) for level in range(axis.depth)]

    def below(level: int, node: int) -> Iterator[Node]:
        own = level in levels and level > 0
        if own and not subtotals_last:
            yield level, node
        if level < axis.depth:
            for child in range(bounds[level][node], bounds[level][node + 1]):
                yield from below(level + 1, child)
        if own and subtotals_last:
            yield level, node

    if axis.levels[0].size:
        yield from below(0, 0)
    if 0 in levels:
        yield 0, 0


def _child_bounds(axis: Axis, level: int) -> list[int]:
    """Where each node's children begin at the level below (they are neighbours), and where the last end."""
    parents = axis.levels[level + 1].parent
    return [int(at) for at in np.searchsorted(parents, np.arange(axis.levels[level].size + 1))]


def laid_out(grid: Grid, *, exact: bool) -> list[list[str]]:
    """The grid as rows of text: heads, then a row a member with its figures.

    Exact figures are full numbers (blank: empty); otherwise they read as on screen.
    """
    phrase = grid.phrase
    columns = list(walk(grid.columns, phrase, subtotals_last=True))
    depth = max(grid.rows.depth, 1)
    several = len(grid.names) > 1
    heads: list[list[str]] = []
    for level in range(grid.columns.depth):
        heading = grid.columns.headings[level]
        line = [heading_name(heading) if at == 0 else "" for at in range(depth)]
        for column_level, node in columns:
            path = grid.columns.path(column_level, node)
            text = label_of(heading, path[level]) if level < len(path) else ("All" if level == len(path) else "")
            line.extend([text] * len(grid.names))
        heads.append(line)
    if several or not grid.columns.depth:
        titles = [heading_name(h) for h in grid.rows.headings] or [""]
        heads.append(titles + list(grid.names) * len(columns))
    body: list[list[str]] = []
    for row_level, node in walk(grid.rows, phrase):
        path = grid.rows.path(row_level, node)
        labels = [label_of(h, m) for h, m in zip(grid.rows.headings, path, strict=False)]
        if row_level < grid.rows.depth:
            labels.append("All")
        labels += [""] * (depth - len(labels))
        for column_level, column in columns:
            for measure, style in enumerate(grid.styles):
                value = grid.figure(measure, (row_level, node), (column_level, column))
                labels.append(_written(value) if exact else style.text(value))
        body.append(labels)
    return heads + body


def _written(value: float) -> str:
    exact = _exact(value)
    return "" if exact is None else repr(exact)
