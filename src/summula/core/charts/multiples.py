"""Small multiples: a form drawn once for each member of a heading, side by side, on common scales and with the same
members along them, so that they can be compared."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import TYPE_CHECKING, Literal

import msgspec
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.charts.chart import Canvas, Chart
from summula.core.charts.columns import NOTHING
from summula.core.charts.extents import scales_of
from summula.core.charts.inks import member_ink
from summula.core.charts.legend import legend, note_at_foot
from summula.core.charts.lettering import LABEL
from summula.core.charts.plotted import plotted
from summula.core.charts.scene import XY, Group, Ink, Mark, Pair, Scene, Text, fitted, message
from summula.core.charts.series import Series, series_of
from summula.core.engine.aligning import same_nodes
from summula.core.engine.axis import Axis, Level
from summula.core.engine.samples import MOST_MULTIPLES, Several
from summula.core.fields.labels import label_of

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid

Told = Literal["", "series", "across", "members"]
Reach = Literal["", "figures", "stacks", "drawn"]
Draw = Callable[[Chart, Canvas], Scene]

MOST = MOST_MULTIPLES
_GAP = (14.0, 10.0)  # pixels between them, along and down
_TITLE = 19.0
_LEAST = 46.0  # pixels: of the height of one, and two thirds of its width
_SHAPES: dict[Told, float] = {"": 1.3, "series": 1.5, "across": 1.5, "members": 1.0}  # width to height, at its best


class Part(msgspec.Struct, frozen=True, eq=False):
    """One of them: the member it is drawn for, and its chart."""

    pair: Pair
    label: str
    chart: Chart


@cache  # not when this is read in: a window opens before numpy is
def _total() -> Level:
    """The one node of a level without headings."""
    return Level(np.zeros((1, 0), dtype=np.int64), np.zeros(1, dtype=np.intp))


def draw_multiples(chart: Chart, canvas: Canvas, draw_one: Draw, told: Told, reach: Reach = "drawn") -> Scene:
    """The first two dozen members; how many more there are is said. The legend stands once, above all."""
    every = parts_of(chart, MOST)
    if not every:
        return message(NOTHING, canvas.size, canvas.text_width)
    marks: list[Mark] = []
    foot = note_at_foot(marks, chart, canvas)
    top, right = legend(marks, chart, canvas, _entries(every, told))
    count, columns = _fitting(
        len(every), (right, canvas.height - top - foot), chart.style.multiples.columns, _SHAPES[told]
    )
    if not count:
        return message("Too small for small multiples: make the chart larger", canvas.size, canvas.text_width)
    left_out = chart.grid.rows.levels[1].size - count
    if left_out:
        foot += 16.0
        text = f"{left_out:,} more are not shown: keep the top few"
        marks.append(Text(0, canvas.height - foot + 12, text, Ink("muted"), LABEL))
    rows = -(-count // columns)
    wide = (right - _GAP[0] * (columns - 1)) / columns
    high = (canvas.height - top - foot - _GAP[1] * (rows - 1)) / rows
    size = replace(canvas, width=wide, height=max(1.0, high - _TITLE))
    shown = [replace(each, chart=_alone(each.chart)) for each in every[:count]]
    common = chart.style.multiples.scales == "common"
    if common and reach in ("figures", "stacks"):
        known = _of_figures([each.chart for each in shown], stacks=reach == "stacks")
        shown = [replace(each, chart=replace(each.chart, reach=known)) for each in shown]
    scenes = [draw_one(each.chart, size) for each in shown]
    if common and reach == "drawn":
        ends = _common([scene.reach for scene in scenes])
        scenes = [
            scene if not ends or scene.reach == ends else draw_one(replace(each.chart, reach=ends), size)
            for each, scene in zip(shown, scenes, strict=True)
        ]
    for at, (each, scene) in enumerate(zip(shown, scenes, strict=True)):
        x, y = (at % columns) * (wide + _GAP[0]), top + (at // columns) * (high + _GAP[1])
        title = fitted(each.label, wide, 12, 600, canvas.text_width)
        marks.append(Text(x, y + 12, title, Ink("text"), 12, 600, full=each.label))
        marks.append(Group(x, y + _TITLE, scene.marks, by=(each.pair,)))
    return Scene(canvas.width, canvas.height, tuple(marks), left_out + sum(scene.left_out for scene in scenes))


def _fitting(count: int, room: XY, wanted: int, shape: float) -> tuple[int, int]:
    """How many have room, and in how many columns: where they come nearest to the shape that is read best."""
    while count > 0:
        best, size = 0, 0.0
        for columns in range(1, count + 1) if not wanted else (min(wanted, count),):
            rows = -(-count // columns)
            wide = (room[0] - _GAP[0] * (columns - 1)) / columns
            high = (room[1] - _GAP[1] * (rows - 1)) / rows - _TITLE
            least = min(wide / shape, high)
            if least > size and wide >= 72.0:
                best, size = columns, least
        if best and size >= _LEAST:
            return count, best
        count -= 1
    return 0, 0


def _alone(chart: Chart) -> Chart:
    """One of them says neither legend nor note: those stand once for all."""
    style = chart.style
    style = replace(
        style, legend=replace(style.legend, place="none"), words=replace(style.words, title="", line="", note="")
    )
    return replace(chart, look=replace(chart.look, style=style))


def _of_figures(charts: list[Chart], *, stacks: bool) -> tuple[XY, ...]:
    """From where to where the figures of all of them go, on each upright scale; of stacks, where they end."""
    which = scales_of(charts[0])
    grids = [grid for chart in charts for grid in (chart.grid, chart.ghost) if grid is not None]
    found = []
    for scale in range(max(which) + 1):
        measures = [at for at, each in enumerate(which) if each == scale]
        ends = [0.0] if stacks else []
        for grid in grids:
            block = grid.values[grid.finest][measures]
            known = block[~np.isnan(block)]
            if stacks:
                block = np.nan_to_num(block)
                ends.append(float(np.maximum(block, 0).sum(axis=(0, 2)).max(initial=0)))
                ends.append(float(np.minimum(block, 0).sum(axis=(0, 2)).min(initial=0)))
            elif len(known):
                ends += [float(known.min()), float(known.max())]
        found.append((min(ends, default=0.0), max(ends, default=0.0)))
    return tuple(found)


def _common(reaches: list[tuple[XY, ...]]) -> tuple[XY, ...]:
    """From where to where all of them go."""
    most = max(map(len, reaches), default=0)
    whole = [each for each in reaches if len(each) == most]
    return tuple((min(each[at][0] for each in whole), max(each[at][1] for each in whole)) for at in range(most))


def _entries(parts: list[Part], told: Told) -> list[Series]:
    """What the legend tells apart."""
    if told == "across" and not parts[0].chart.grid.columns.depth:
        return []
    if told in ("series", "across"):
        found = series_of(
            max((part.chart.grid for part in parts), key=lambda grid: grid.columns.levels[-1].size),
            parts[0].chart.look.inks,
        )
        return found if len(found) > 1 or (found and found[0].path) else []
    if told == "members":
        seen: dict[str, Series] = {}
        for part in parts:
            axis = part.chart.grid.rows
            for cat in plotted(part.chart).cats:
                if axis.headings and cat.node >= 0:
                    ink = member_ink(axis, cat.path[-1], part.chart.look.inks)
                    seen.setdefault(cat.name, Series(0, 0, (), cat.label, ink))
        return list(seen.values())
    return []


def parts_of(chart: Chart, most: int | None = None) -> list[Part]:
    """The charts of the single members, of the first `most` of them, each with the same members along its rows where
    these have one heading."""
    grid = chart.grid
    axis = grid.rows
    level = axis.levels[1]
    known = _axis_of_all(grid)
    known_before = _axis_of_all(chart.ghost) if chart.ghost is not None else None
    before = same_nodes(chart.ghost.rows, axis)[1].tolist() if chart.ghost is not None else []
    found = []
    for node in range(level.size if most is None else min(most, level.size)):
        member = axis.members[0][int(level.codes[node, 0])]
        part = part_of(grid, node, known)
        ghost = None
        if chart.ghost is not None and before[node] >= 0:
            ghost = part_of(chart.ghost, before[node], known_before)
        one = replace(chart, grid=part, ghost=ghost if ghost is not None or chart.ghost is None else _empty(part))
        found.append(Part((axis.headings[0], member), label_of(axis.headings[0], member), one))
    return found


def _empty(grid: Grid) -> Grid:
    return replace(grid, values={level: np.full_like(block, np.nan) for level, block in grid.values.items()})


def _axis_of_all(grid: Grid) -> Axis | None:
    """The members of the second heading that occur anywhere, in their order; None where rows have other headings, or
    an order by figures, which is each member's own."""
    axis = grid.rows
    if axis.depth != 2 or grid.samples is not None or grid.phrase.order is not None or grid.phrase.keeping:
        return None
    codes = np.unique(axis.levels[2].codes[:, 1])
    level = Level(codes[:, None], np.zeros(len(codes), dtype=np.intp))
    return Axis(axis.headings[1:], axis.members[1:], (_total(), level))


def part_of(grid: Grid, node: int, known: Axis | None) -> Grid:
    """The grid of one member of the rows' first heading, as if it had been asked for alone. `known`: the axis of its
    members, where those without figures are to stand there, too."""
    axis = grid.rows
    starts, ends = [node], [node + 1]
    for level in range(2, axis.depth + 1):
        parents = axis.levels[level].parent
        starts.append(int(np.searchsorted(parents, starts[-1])))
        ends.append(int(np.searchsorted(parents, ends[-1])))
    values, counts = {}, {}
    levels = [_total()]
    for level in range(1, axis.depth + 1):
        start, end = starts[level - 1], ends[level - 1]
        own = axis.levels[level]
        if level > 1:
            levels.append(Level(own.codes[start:end, 1:], own.parent[start:end] - starts[level - 2]))
        for (row, column), block in grid.values.items():
            if row == level:
                values[level - 1, column] = block[:, start:end]
                counts[level - 1, column] = grid.cell_rows[row, column][start:end]
    if known is not None:
        size = known.levels[1].size
        place = np.searchsorted(known.levels[1].codes[:, 0], levels[1].codes[:, 0])
        for key in [each for each in values if each[0] == 1]:
            block = np.full((values[key].shape[0], size, values[key].shape[2]), np.nan)
            block[:, place] = values[key]
            spread = np.zeros((size, counts[key].shape[1]))
            spread[place] = counts[key]
            values[key], counts[key] = block, spread
    phrase = replace(grid.phrase, by=grid.phrase.by[1:])
    held = grid.samples.parts[node] if isinstance(grid.samples, Several) and node < len(grid.samples.parts) else None
    rows = known or Axis(axis.headings[1:], axis.members[1:], tuple(levels))
    return replace(
        grid, phrase=phrase, rows=rows, values=values, cell_rows=counts, samples=held, several=False,
        rows_used=int(counts[0, 0][0, 0]),
    )  # fmt: skip
