"""Where everything of a pivot grid stands: rows in view, columns, heads, widths and texts. No painting."""

from __future__ import annotations

import bisect
from dataclasses import dataclass

from summula.core.charts.series import column_name
from summula.core.fields.labels import heading_name, label_of
from summula.core.summaries.dress import Dress, dress_of, dressed, reach_of, status
from summula.core.summaries.figures import FigureStyle, said
from summula.core.summaries.grid import Grid
from summula.core.summaries.records import walk
from summula.desk.theme import text_width

ROW = 27
HEAD = 27
_MEASURED = 300  # rows whose texts decide a column's width


@dataclass(frozen=True, slots=True)
class Line:
    """One row in view. `path`: the labels that lead to it, for folding."""

    level: int
    node: int
    label: str
    path: tuple[str, ...]
    total: bool
    foldable: bool
    folded: bool


@dataclass(frozen=True, slots=True)
class HeadSpan:
    """A column head over columns start … stop-1."""

    start: int
    stop: int
    text: str


class GridLayout:
    """Made anew for each grid and each folding."""

    def __init__(self, grid: Grid, folded: frozenset[tuple[str, ...]], dresses: tuple[Dress, ...] = ()) -> None:
        self.grid = grid
        self.dresses = tuple(dress_of(dresses, at) for at in range(len(grid.names)))
        self.styles = tuple(dressed(style, dress) for style, dress in zip(grid.styles, self.dresses, strict=True))
        self.reaches = tuple(reach_of(grid, at) for at in range(len(grid.names)))
        self.rows = _lines(grid, folded)
        self.folds = any(line.foldable for line in self.rows)
        self.columns: list[tuple[tuple[int, int], int]] = [
            (node, measure)
            for node in walk(grid.columns, grid.phrase, subtotals_last=True)
            for measure in range(len(grid.names))
        ]
        self.names = [_head_name(grid, at, self.dresses[at], self.styles[at]) for at in range(len(grid.names))]
        self.heads = self._head_spans()
        self.head_height = len(self.heads) * HEAD
        self.corner = " › ".join(heading_name(h) for h in grid.rows.headings)
        self.group_starts = {span.start for span in self.heads[0]} if len(self.heads) > 1 else set()
        labels = [text_width(line.label, 13, 600) + 16 * max(line.level - 1, 0) for line in self.rows[:2000]]
        corner = text_width(self.corner, 12)
        self.head_width = int(min(max([*labels, corner, 70]) + (37 if self.folds else 24), 330))
        self.widths = [self._width(at) for at in range(len(self.columns))]
        self.lefts: list[float] = []
        x = 0.0
        for width in self.widths:
            self.lefts.append(x)
            x += width
        self.width = self.head_width + x

    def _head_spans(self) -> list[list[HeadSpan]]:
        grid = self.grid
        levels: list[list[HeadSpan]] = []
        for level in range(grid.columns.depth):
            spans: list[HeadSpan] = []
            previous: object = None
            for at, (node, _) in enumerate(self.columns):
                path = grid.columns.path(*node)
                inside = len(path) > level
                key = (path[: level + 1], node if not inside else None)
                if key == previous:
                    spans[-1] = HeadSpan(spans[-1].start, at + 1, spans[-1].text)
                else:
                    text = (
                        label_of(grid.columns.headings[level], path[level])
                        if inside
                        else "All"
                        if len(path) == level
                        else ""
                    )
                    spans.append(HeadSpan(at, at + 1, text))
                previous = key
            levels.append(spans)
        if len(self.names) > 1 or not levels:
            levels.append([HeadSpan(at, at + 1, self.names[measure]) for at, (_, measure) in enumerate(self.columns)])
        return levels

    def _width(self, at: int) -> float:
        texts = [self.text(row, at) for row in range(min(len(self.rows), _MEASURED))]
        widest = max((text_width(text, 13, 500) for text in texts), default=0)
        if self.rows and len(self.rows) > _MEASURED:
            widest = max(widest, text_width(self.text(len(self.rows) - 1, at), 13, 600))
        head = next((text_width(s.text, 13, 600) for s in self.heads[-1] if s.start == at and s.stop == at + 1), 0)
        dress = self.dresses[self.columns[at][1]]
        marked = 18 if dress.signs or dress.goal is not None else 0
        return float(min(max(widest + marked, head, 40) + 20, 260))

    def columns_between(self, left: float, right: float) -> range:
        first = max(0, bisect.bisect_right(self.lefts, left) - 1)
        return range(first, bisect.bisect_left(self.lefts, right))

    def column_at(self, x: float) -> int | None:
        at = bisect.bisect_right(self.lefts, x) - 1
        return at if 0 <= at < len(self.lefts) and x <= self.lefts[at] + self.widths[at] else None

    def value(self, row: int, column: int) -> float:
        line, (node, measure) = self.rows[row], self.columns[column]
        return self.grid.figure(measure, (line.level, line.node), node)

    def text(self, row: int, column: int) -> str:
        line, (node, measure) = self.rows[row], self.columns[column]
        value = self.grid.figure(measure, (line.level, line.node), node)
        if self.grid.cell_rows[line.level, node[0]][line.node, node[1]] == 0 and value == 0:
            return "–"  # nothing here, rather than a count of none
        return self.styles[measure].text(value)

    def exact(self, row: int, column: int) -> str:
        value = self.value(row, column)
        if value != value:
            return ""
        return str(int(value)) if value == int(value) and abs(value) < 2**53 else repr(value)

    def column_words(self, column: int) -> str:
        node, measure = self.columns[column]
        path = self.grid.columns.path(*node)
        labels = [label_of(h, m) for h, m in zip(self.grid.columns.headings, path, strict=False)]
        return " · ".join([*labels, self.names[measure]])

    def words(self, row: int, column: int) -> str:
        """What a place has to say, for its tooltip."""
        if row >= 0 and column < 0:
            return self.rows[row].label
        if row < 0 or column < 0:
            return ""
        line, (node, _) = self.rows[row], self.columns[column]
        rows = int(self.grid.cell_rows[line.level, node[0]][line.node, node[1]])
        where = " › ".join(line.path) or "All"
        counted = said(rows, "row")
        standing = status(self.dresses[self.columns[column][1]], self.value(row, column))
        goal = {"reached": " · reaches the goal", "near": " · near the goal", "missed": " · misses the goal"}.get(
            standing, ""
        )
        return f"{where} · {self.column_words(column)}\n{self.exact(row, column) or 'blank'} · from {counted}{goal}"


def _head_name(grid: Grid, measure: int, dress: Dress, style: FigureStyle) -> str:
    """The measure's name; its unit and scale are said here, once."""
    name = column_name(grid, measure)
    if style.unit != grid.styles[measure].unit:
        name = f"{name.removesuffix(f' ({grid.styles[measure].unit})')} ({style.unit})"
    if style.scale == 1.0:
        return name
    return (
        f"{name[:-1]} {dress.scale})" if name.endswith(f"({style.unit})") and style.unit else f"{name} ({dress.scale})"
    )


def _lines(grid: Grid, folded: frozenset[tuple[str, ...]]) -> list[Line]:
    axis = grid.rows
    lines: list[Line] = []
    hidden: tuple[str, ...] | None = None
    for level, node in walk(axis, grid.phrase):
        path = tuple(label_of(h, m) for h, m in zip(axis.headings, axis.path(level, node), strict=False))
        if hidden is not None and len(path) > len(hidden) and path[: len(hidden)] == hidden:
            continue
        foldable = 0 < level < axis.depth
        is_folded = foldable and path in folded
        hidden = path if is_folded else None
        label = path[-1] if path else _bottom_name(grid)
        lines.append(Line(level, node, label, path, level < axis.depth or level == 0, foldable, is_folded))
    return lines


def _bottom_name(grid: Grid) -> str:
    if not grid.rows.depth:
        return "All rows"
    return "All" if grid.rows.depth > 1 or not grid.rows.headings else f"All {grid.rows.headings[0].field}"
