"""Where everything of a pivot grid stands: lines in view, columns, heads, widths and texts. No painting."""

from __future__ import annotations

import bisect
from itertools import pairwise
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.charts.series import head_name
from summula.core.fields.figures import plural
from summula.core.fields.labels import heading_name
from summula.core.grids.layout import PLAIN, Labels, Layout
from summula.core.grids.lines import Column, Row, as_rows, column_label, columns_of, figure_at, measure_at, rows_of
from summula.core.grids.measurestyle import MeasureStyle, reach_of, status, style_at, styled
from summula.core.phrases.members import of_members
from summula.desk.theme import text_width

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.grid import Grid
    from summula.core.phrases.phrase import Measure

ROW = 27
HEAD = 27
LEAST_WIDTH = 30
SPARKLINE_WIDTH = 104
INDENT = 16
_ONE_DIGIT = str.maketrans("123456789", "0" * 9)  # figures are of one width
_FITTED_ALONE = 300  # columns; with more, they are fitted by samples


class HeadSpan(msgspec.Struct, frozen=True):
    """A column head over columns start … stop-1. `path` leads to its member, where it stands for one."""

    start: int
    stop: int
    text: str
    path: Labels = ()
    foldable: bool = False
    folded: bool = False


class GridLayout:
    """Made anew for each grid, each folding and each change of own."""

    def __init__(
        self,
        grid: Grid,
        folded: frozenset[Labels] = frozenset(),
        measure_styles: tuple[MeasureStyle, ...] = (),
        layout: Layout = PLAIN,
        folded_across: frozenset[Labels] = frozenset(),
    ) -> None:
        self.grid, self.layout = grid, layout
        self.measure_styles = tuple(style_at(measure_styles, at) for at in range(len(grid.names)))
        self.styles = tuple(styled(style, own) for style, own in zip(grid.styles, self.measure_styles, strict=True))
        self.reaches = tuple(reach_of(grid, at) for at in range(len(grid.names)))
        self.below = as_rows(grid, layout)  # whether the measures are lines below each other
        self.rows = rows_of(grid, layout, folded, heads=True)
        self._lines: dict[int, Row] = {}
        self.folds = grid.rows.depth > 1
        self.columns = list(columns_of(grid, layout, folded_across))
        self.first_course = len(self.columns)
        self.columns += self._courses()
        self.names = [head_name(grid, at, self.measure_styles[at], self.styles[at]) for at in range(len(grid.names))]
        self.heads = self._head_spans()
        self.head_height = len(self.heads) * HEAD
        self.corner = " › ".join(heading_name(h) for h in grid.rows.headings)
        self.note = self._note()
        self.group_starts = {span.start for span in self.heads[0]} if len(self.heads) > 1 else set()
        self.member_width = self._member_width()
        self.head_width = layout.head_width or self.fitting_head_width()
        self._lowest_span = {span.start: span for span in self.heads[-1] if span.stop == span.start + 1}
        self.widths = self._widths()
        self.lefts: list[float] = []
        x = 0.0
        for width in self.widths:
            self.lefts.append(x)
            x += width
        self.width = self.head_width + x

    def line(self, row: int) -> Row:
        """A line; those in view are asked for again and again."""
        found = self._lines.get(row)
        if found is None:
            if len(self._lines) > 4000:
                self._lines.clear()
            found = self._lines[row] = self.rows[row]
        return found

    def _courses(self) -> list[Column]:
        """Columns for small lines over the across axis, behind all others: one, or one a measure."""
        measures = [at for at, own in enumerate(self.measure_styles) if own.sparkline]
        if not measures or not self.grid.columns.depth:
            return []
        return [Column(0, 0, (), None if self.below else at) for at in (measures[:1] if self.below else measures)]

    def is_sparkline(self, column: int) -> bool:
        return column >= self.first_course

    def sparkline(self, row: int, column: int) -> NDArray[np.float64]:
        """The figures of a line over the finest members across, in their order; none where it has no course."""
        line = self.line(row)
        measure = measure_at(line, self.columns[column])
        if not line.figures or not self.measure_styles[measure].sparkline:
            return np.zeros(0)
        figures: NDArray[np.float64] = self.grid.values[line.level, self.grid.columns.depth][measure, line.node]
        return figures

    # -- heads -----------------------------------------------------------------------------------------

    def _head_spans(self) -> list[list[HeadSpan]]:
        columns = self.columns
        levels: list[list[HeadSpan]] = []
        for level in range(self.grid.columns.depth):
            starts: list[int] = []
            previous: object = None
            for at, column in enumerate(columns):
                place = None if level < len(column.path) else column.place
                key = (column.path[: level + 1], place, at >= self.first_course)
                if key != previous:
                    starts.append(at)
                    previous = key
            spans = [self._head_span(*ends, level) for ends in pairwise([*starts, len(columns)])]
            levels.append(spans)
        if (len(self.names) > 1 and not self.below) or not levels:
            levels.append([HeadSpan(at, at + 1, self._lowest(at)) for at in range(len(columns))])
        elif self.first_course < len(columns):
            lowest = levels[-1]
            levels[-1] = [
                HeadSpan(each.start, each.stop, "Trend") if self.is_sparkline(each.start) else each for each in lowest
            ]
        return levels

    def _head_span(self, start: int, stop: int, level: int) -> HeadSpan:
        column = self.columns[start]
        inside = level < len(column.path)
        text = "" if self.is_sparkline(start) else column_label(self.grid, self.layout, column, level)
        path = column.path[: level + 1] if inside else ()
        foldable = inside and level + 1 < self.grid.columns.depth
        folded = foldable and column.folded and len(column.path) == level + 1
        return HeadSpan(start, stop, text, path, foldable, folded)

    def _note(self) -> str:
        """The unit and scale of the one measure, where no head names it: said once, in the corner."""
        if len(self.names) > 1 or not self.grid.columns.depth:
            return ""
        style, scale = self.styles[0], self.measure_styles[0].scale
        return " ".join(part for part in (style.unit, scale if style.scale != 1.0 else "") if part)

    def _lowest(self, at: int) -> str:
        measure = self.columns[at].measure
        if self.is_sparkline(at):
            return f"Trend of {self.names[measure or 0]}"
        return self.names[measure] if measure is not None else "Figures"

    def _member_width(self) -> int:
        shapes = {(label.translate(_ONE_DIGIT), level) for label, level in self.rows.heads(2000)}
        labels = [text_width(shape, 13, 600) + INDENT * max(level - 1, 0) for shape, level in shapes]
        corner = text_width(self.corner, 12) + (text_width(self.note, 12) + 22 if self.note else 0)
        return int(max([*labels, corner, 70])) + (37 if self.folds else 24)

    def fitting_head_width(self) -> int:
        """The width that the lines' heads need: their labels, and the measures' names where these are lines."""
        if not self.below:
            return min(self.member_width, 330)
        names = max(text_width(name, 12.5) for name in self.names)
        return int(min(self.member_width, 260) + min(names, 190) + 14)

    @property
    def name_left(self) -> float:
        """Where the measures' names begin, in heads that have them."""
        names = max(text_width(name, 12.5) for name in self.names) + 14
        return max(60.0, self.head_width - min(names, 204))

    def _widths(self) -> list[float]:
        """Each column's own width; of very many, those of a measure are as wide as the widest of a sample."""
        pulled = [self.layout.width_of(self.width_key(at), each.measure or 0) for at, each in enumerate(self.columns)]
        if len(self.columns) <= _FITTED_ALONE:
            return [float(width) or self.fitting_width(at) for at, width in enumerate(pulled)]
        widest: dict[int, float] = {}
        step = max(1, len(self.columns) // _FITTED_ALONE)
        for at in {*range(0, len(self.columns), step), *range(len(self.columns) - len(self.names), len(self.columns))}:
            measure = self.columns[at].measure or 0
            widest[measure] = max(widest.get(measure, 0.0), self.fitting_width(at))
        return [float(width) or widest.get(self.columns[at].measure or 0, 90.0) for at, width in enumerate(pulled)]

    def width_key(self, at: int) -> Labels:
        """The labels by which a column's width is kept."""
        return ("course",) if self.is_sparkline(at) else self.columns[at].path

    def fitting_width(self, at: int) -> float:
        """The width that a column's texts need."""
        span = self._lowest_span.get(at)
        head = text_width(span.text, 13, 600) if span is not None else 0.0
        if self.is_sparkline(at):
            return float(min(max(SPARKLINE_WIDTH, head + 20), 260))
        widest = max(text_width(text, 13, 600 if total else 500) for text, total in self._widest_texts(at))
        worn = self.measure_styles if self.below else (self.measure_styles[self.columns[at].measure or 0],)
        marked = 18 if any(own.signs or own.goal is not None for own in worn) else 0
        folds = 14 if span is not None and span.foldable else 0
        return float(min(max(widest + marked, head + folds + 8, 40) + 20, 260))

    def _widest_texts(self, at: int) -> set[tuple[str, bool]]:
        """The texts of a column that may be its widest, and whether each is a total's: under one pattern, and with
        figures of one width, those of its greatest and least figures, of nothing and of a blank."""
        column = self.columns[at]
        texts = {("–", False)}
        for measure in range(len(self.names)) if self.below else (column.measure or 0,):
            style = self.styles[measure]
            for level in range(self.grid.rows.depth + 1):
                figures = self.grid.values[level, column.level][measure][:, column.node]
                known = figures[np.isfinite(figures)]
                if len(known):
                    ends = (float(known.max()), float(known.min()), 0.0)
                    texts |= {(style.text(value), level == 0) for value in ends}
        return texts

    # -- places ----------------------------------------------------------------------------------------

    def columns_between(self, left: float, right: float) -> range:
        first = max(0, bisect.bisect_right(self.lefts, left) - 1)
        return range(first, bisect.bisect_left(self.lefts, right))

    def column_at(self, x: float) -> int | None:
        at = bisect.bisect_right(self.lefts, x) - 1
        return at if 0 <= at < len(self.lefts) and x <= self.lefts[at] + self.widths[at] else None

    def edge_at(self, x: float, reach: float = 4) -> int | None:
        """The column whose right edge is near; `x` counts from the first column's left."""
        for at in (bisect.bisect_right(self.lefts, x) - 1, bisect.bisect_right(self.lefts, x - reach) - 1):
            if 0 <= at < len(self.lefts) and abs(self.lefts[at] + self.widths[at] - x) <= reach:
                return at
        return None

    def span_at(self, x: float, y: float) -> HeadSpan | None:
        """The column head at a place; `x` counts from the first column's left, `y` from the top of the heads."""
        level, at = int(y // HEAD), self.column_at(x)
        if at is None or not 0 <= level < len(self.heads):
            return None
        return next((span for span in self.heads[level] if span.start <= at < span.stop), None)

    # -- what stands there -----------------------------------------------------------------------------

    def column_measure(self, column: int) -> Measure | None:
        """The measure that stands in a column, of that column's members alone."""
        each, phrase = self.columns[column], self.grid.phrase
        members = self.grid.columns.path(*each.place)
        return of_members(phrase.measures[each.measure or 0], self.grid.columns.headings, members)

    def can_order(self, column: int) -> bool:
        """Whether lines can be ordered by a column."""
        return bool(self.grid.rows.depth) and not self.is_sparkline(column) and self.column_measure(column) is not None

    def order_sign(self, column: int) -> str:
        """▾ where the lines stand by this column, its largest figure first; ▴ the other way round."""
        order = self.grid.phrase.order
        if order is None or order.measure is None or self.is_sparkline(column):
            return ""
        mine = self.column_measure(column)
        if mine is None or mine.calculation != order.measure.calculation:
            return ""
        return "▾" if order.largest else "▴"

    def measure(self, row: int, column: int) -> int:
        return measure_at(self.line(row), self.columns[column])

    def value(self, row: int, column: int) -> float:
        return float("nan") if self.is_sparkline(column) else figure_at(self.grid, self.line(row), self.columns[column])

    def figures(self, rows: range, columns: range) -> list[tuple[int, NDArray[np.float64]]]:
        """The figures of a part of the grid that are not blank, by measure; courses are none."""
        levels, nodes, measures = self.rows.places(rows.start, rows.stop)
        chosen = [self.columns[at] for at in columns if not self.is_sparkline(at)]
        found: dict[int, list[NDArray[np.float64]]] = {}
        for level, measure in sorted(set(zip(levels.tolist(), measures.tolist(), strict=True))):
            lines = nodes[(levels == level) & (measures == measure)]
            for across, own in sorted({(each.level, each.measure or 0) for each in chosen}):
                which = own if measure < 0 else measure
                places = [each.node for each in chosen if (each.level, each.measure or 0) == (across, own)]
                block = self.grid.values[level, across][which][np.ix_(lines, places)].ravel()
                found.setdefault(which, []).append(block[np.isfinite(block)])
        return [(measure, np.concatenate(blocks)) for measure, blocks in sorted(found.items())]

    def text(self, row: int, column: int) -> str:
        line, place = self.line(row), self.columns[column]
        if not line.figures or self.is_sparkline(column):
            return ""
        value = figure_at(self.grid, line, place)
        if value == 0 and self.rows_behind(row, column) == 0:
            return "–"  # nothing here, rather than a count of none
        return self.styles[measure_at(line, place)].text(value)

    def rows_behind(self, row: int, column: int) -> int:
        """How many rows of the table a figure was worked out from."""
        line, place = self.line(row), self.columns[column]
        return int(self.grid.cell_rows[line.level, place.level][line.node, place.node])

    def exact(self, row: int, column: int) -> str:
        value = self.value(row, column)
        if value != value:
            return ""
        return str(int(value)) if value == int(value) and abs(value) < 2**53 else repr(value)

    def column_words(self, row: int, column: int) -> str:
        labels = ["course"] if self.is_sparkline(column) else list(self.columns[column].path)
        return " · ".join([*labels, self.names[self.measure(row, column)]])

    def words(self, row: int, column: int) -> str:
        """What a place has to say, for its tooltip."""
        if row >= 0 and column < 0:
            line = self.line(row)
            return line.label if line.measure is None else f"{line.label}\n{self.names[line.measure]}"
        if row < 0 or column < 0:
            return ""
        line = self.line(row)
        where = " › ".join(line.path) or "All"
        if self.is_sparkline(column):
            figures = self.sparkline(row, column)
            known = figures[np.isfinite(figures)]
            style = self.styles[self.measure(row, column)]
            ends = f": from {style.text(known[0])} to {style.text(known[-1])}" if len(known) > 1 else ""
            return f"{where} · {self.column_words(row, column)}{ends}\nEach line from its minimum to its maximum"
        if not line.figures:
            return where
        counted = plural(self.rows_behind(row, column), "row")
        standing = status(self.measure_styles[self.measure(row, column)], self.value(row, column))
        goal = {"reached": " · reaches the goal", "near": " · near the goal", "missed": " · misses the goal"}.get(
            standing, ""
        )
        exact = self.exact(row, column) or "blank"
        return f"{where} · {self.column_words(row, column)}\n{exact} · from {counted}{goal}"
