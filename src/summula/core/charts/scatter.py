"""Scatter: one figure against another. A point a member or a point a row; many rows become squares, darker where more
lie."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, TypeAlias

from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.charts.extents import Extent
from summula.core.charts.frame import Along, Frame, framed, trend_room
from summula.core.charts.inks import MemberInk, member_ink
from summula.core.charts.lettering import LABEL
from summula.core.charts.places import Edges, Taken, take, takes_its_place
from summula.core.charts.scene import Ink, Line, Mark, Mosaic, Point, Scene, Tag, Text, fitted_name, message
from summula.core.charts.series import Category, Series, categories, field_of, figure_name, pairs
from summula.core.charts.trail import draw_trail
from summula.core.charts.trend import trends_of_points
from summula.core.engine.samples import Density, Limits, Points
from summula.core.engine.trends import Moments, moments
from summula.core.fields.figures import plural
from summula.core.fields.labels import label_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.charts.chart import Canvas, Chart
    from summula.core.engine.grid import Grid

Figures: TypeAlias = "NDArray[np.float64]"
MOST_PALE = 3_000  # marks from before slicing that are drawn one by one
_SQUARE = 5.0  # pixels, at least
_SQUARES = 100  # along the shorter side of a large chart, at most
_PARTS = (1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 24, 30, 40)  # that may make a square; each divides both numbers of them
_NAMES = (150.0, 84.0)  # pixels that a name may take: else it is cut
_HALF = 6.5  # pixels of a name's height, above its middle and below
_LABELLED = 40  # the most points that are named beside them


def draw_scatter(chart: Chart, canvas: Canvas) -> Scene:
    """The first figure upward, the second along the bottom."""
    held, before = chart.grid.samples, chart.ghost.samples if chart.ghost is not None else None
    if held is None and isinstance(before, Points | Density):  # slicing has left none
        nothing = np.zeros(0)
        held = Points(np.zeros(0, dtype=np.intp), nothing, nothing)
    if isinstance(held, Points):
        return _of_points(chart, held, canvas)
    if isinstance(held, Density):
        return _of_density(chart, held, canvas)
    return _of_members(chart, canvas)


def _frame(
    chart: Chart,
    canvas: Canvas,
    x: Extent,
    y: Extent,
    entries: list[Series],
    note: str = "",
    figures: Sequence[float] | None = None,
) -> Frame:
    """Both scales, for these extents; `figures` are those upward, where they are known one by one."""
    grid = chart.grid
    along = Along(x, chart.styles[1], chart.style.words.members or figure_name(grid, 1), note=note)
    frame = framed(
        chart, canvas, [y], along=along, entries=entries if grid.columns.depth else (), zero=False,
        names=[figure_name(grid, 0)], beside=6.0, figures=figures,
        above=trend_room(chart, max(1, len(entries))),
    )  # fmt: skip
    upright = frame.scales[0]
    if upright.low < 0 < upright.high:
        frame.marks.append(Line(((frame.left, upright(0)), (frame.right, upright(0))), Ink("muted"), 1))
    return frame


def _of_members(chart: Chart, canvas: Canvas) -> Scene:
    grid = chart.grid
    cats, across = categories(grid), across_series(grid, chart.look.inks)
    block = grid.values[grid.finest]
    y, x = block[0], block[1]
    known = ~(np.isnan(x) | np.isnan(y))
    if not known.any():
        return message("No data: no member has both values", canvas.size, canvas.text_width)
    all_x, all_y = x[known], y[known]
    if chart.ghost is not None:
        before = chart.ghost.values[chart.ghost.finest]
        all_x, all_y = np.append(all_x, before[1]), np.append(all_y, before[0])
    ends_x, ends_y = _ends(all_x[~np.isnan(all_x)]), _ends(all_y[~np.isnan(all_y)])
    if chart.course is not None:
        ends_x = Extent(*chart.course.extent(1, ends_x.low, ends_x.high))
        ends_y = Extent(*chart.course.extent(0, ends_y.low, ends_y.high))
    frame = _frame(chart, canvas, ends_x, ends_y, across, "", y[known].tolist())
    if chart.ghost is not None:
        up, along = (each.ravel() for each in chart.ghost.values[chart.ghost.finest][:2])
        _pale_points(frame, up, along)
    points: list[tuple[float, float, str, float]] = []
    for each in across:  # points of one ink follow each other: they are painted at once
        for cat in cats:
            up, along = float(y[cat.node, each.node]), float(x[cat.node, each.node])
            if known[cat.node, each.node] and frame.scales[0].holds(up):
                place, height = frame.x(along), frame.scales[0].within(up)
                draw_trail(frame, chart.course, cat, each, (up, along))
                frame.marks.append(
                    Point(place, height, 4.5, each.ink, False, member_tag(chart, cat, each, (up, along)))
                )
                points.append((place, height, cat.name if grid.rows.depth else each.label, 4.5))
    if chart.style.labels.show != "none" and (len(points) <= _LABELLED or chart.style.labels.show == "all"):
        named_points(frame, points)
    trends_of_points(frame, chart, groups_of(chart, across, [(x[:, each.node], y[:, each.node]) for each in across]))
    return frame.scene()


def groups_of(
    chart: Chart, across: Sequence[Series], values: Sequence[tuple[Figures, Figures]]
) -> list[tuple[Moments | None, Ink]]:
    """The points that have a trend of their own: of each member across, or all of them."""
    if not chart.style.trend.kind:
        return []
    if chart.style.trend.each == "member" and len(across) > 1:
        return [(moments(*each), series.ink) for each, series in zip(values, across, strict=True)]
    return [(moments(np.concatenate([x for x, _ in values]), np.concatenate([y for _, y in values])), Ink("ink"))]


def across_series(grid: Grid, own: tuple[MemberInk, ...] = ()) -> list[Series]:
    """One series a member across, in the member's own ink; a single one in the first ink."""
    axis = grid.columns
    if not axis.depth:
        return [Series(0, 0, (), "", Ink("series 0"))]
    found = []
    for node in range(axis.levels[axis.depth].size):
        path = axis.path(axis.depth, node)
        label = " · ".join(label_of(heading, member) for heading, member in zip(axis.headings, path, strict=True))
        found.append(Series(node, 0, path, label, member_ink(axis, path[-1], own)))
    return found


def _pale_points(frame: Frame, up: Figures, along: Figures, radius: float = 4.5) -> None:
    """What stood there before slicing, with its figures upward and along; of very many, where they stood."""
    upright = frame.scales[0]
    there = ~np.isnan(along) & (up >= upright.low) & (up <= upright.high)
    x, y = frame.x.places(along[there]), upright.places(up[there])
    if len(x) > MOST_PALE:
        frame.marks.append(pale_squares(x, y))
        return
    ink = Ink("shape")
    frame.marks += [Point(*place, radius, ink, hollow=False) for place in zip(x.tolist(), y.tolist(), strict=True)]


def pale_squares(x: Figures, y: Figures) -> Mosaic:
    """Small squares wherever one of many marks (of these pixels) stood before slicing."""
    left, top = float(x.min()) - _SQUARE / 2, float(y.min()) - _SQUARE / 2
    column, line = ((x - left) // _SQUARE).astype(np.intp), ((y - top) // _SQUARE).astype(np.intp)
    wide, high = int(column.max()) + 1, int(line.max()) + 1
    counts = np.bincount(line * wide + column, minlength=wide * high)
    return Mosaic(left, top, wide * _SQUARE, high * _SQUARE, wide, tuple(counts.tolist()), Ink("ghost"), ghost=True)


def member_tag(chart: Chart, cat: Category, each: Series, figures: tuple[float, ...]) -> Tag:
    """What the point of a member stands for: all its figures; the first is the cell's."""
    grid = chart.grid
    names = [name for name in (cat.group, cat.label if grid.rows.depth else "", each.label) if name]
    said = [f"{grid.names[at]} {chart.styles[at].text(figure, unit=True)}" for at, figure in enumerate(figures)]
    by, across = pairs(grid.rows, cat.path), pairs(grid.columns, each.path)
    return Tag(by, across, 0, figures[0], " · ".join(names), "; ".join(said))


def named_points(frame: Frame, points: list[tuple[float, float, str, float]]) -> None:
    """Names beside points of these radii, or above or below them, where they touch neither a point nor another name; of
    a large one inside. Where a long one has no room it is cut."""
    taken: Taken = {}
    nothing = frame.scales[0](0) if frame.scales[0].low < 0 < frame.scales[0].high else math.inf
    areas = [(x - r - 1.5, y - r - 1.5, x + r + 1.5, y + r + 1.5) for x, y, _, r in points]
    for area in areas:
        take(area, taken)
    width = frame.canvas.text_width
    for (x, y, label, radius), own in zip(points, areas, strict=True):
        for text in dict.fromkeys(fitted_name(label, room, LABEL, 400, width) for room in _NAMES):
            wide = width(text, LABEL, 400)
            place = _free_beside(frame, (x, y, radius), wide, own, taken)
            if place is not None:
                start, middle = place
                full = label if text != label else ""
                slip = abs(middle - nothing) < _HALF  # the line would run through it
                said = Text(start, middle + 4, text, Ink("text"), LABEL, full=full, optional=True, slip=slip)
                frame.marks.append(said)
                break


def _free_beside(
    frame: Frame, point: tuple[float, float, float], wide: float, own: Edges, taken: Taken
) -> tuple[float, float] | None:
    """Where a name of this width begins, and its middle; it is taken then. Beside it stands level with its point, but
    off the lines that the drawing ends at."""
    x, y, radius = point
    level = min(max(y, frame.top + _HALF), frame.bottom - _HALF)
    away = radius + 3.5
    places = [(x + away, level), (x - away - wide, level), (x - wide / 2, y - away - 4), (x - wide / 2, y + away + 4)]
    for start, middle in [(x - wide / 2, y), *places] if wide < radius * 1.8 else places:
        box = (start - 2, middle - _HALF, start + wide + 2, middle + _HALF)
        within = frame.left + 2 <= start and start + wide <= frame.canvas.width
        upright = frame.top - _HALF <= middle - _HALF and middle + _HALF <= frame.bottom
        if within and upright and takes_its_place(box, taken, own):
            return start, middle
    return None


def _of_points(chart: Chart, held: Points, canvas: Canvas) -> Scene:
    grid = chart.grid
    across = across_series(grid, chart.look.inks)
    before = chart.ghost.samples if chart.ghost is not None else None
    if isinstance(before, Density):
        frame = _frame(chart, canvas, Extent(*before.x), Extent(*before.y), across, f"paler: {chart.ghost_words}")
        frame.marks += _mosaic(chart, frame, before, canvas, ghost=True)
    else:
        whole = before if isinstance(before, Points) else held
        frame = _frame(chart, canvas, _ends(whole.x), _ends(whole.y), across, "", whole.y.tolist())
        if whole is not held:
            _pale_points(frame, whole.y, whole.x, 3.0)
    for along, up, at in zip(held.x.tolist(), held.y.tolist(), held.column.tolist(), strict=True):
        if not frame.scales[0].holds(up):
            continue
        each = across[at]
        figures = [f"{figure_name(grid, n)} {chart.styles[n].text(v, unit=True)}" for n, v in ((0, up), (1, along))]
        limits = tuple(Limits(field_of(grid, n), v, v, figures[n], True) for n, v in ((0, up), (1, along)))
        tag = Tag((), pairs(grid.columns, each.path), -1, up, each.label, "; ".join(figures), limits)
        frame.marks.append(Point(frame.x(along), frame.scales[0].within(up), 3.0, each.ink, True, tag))
    parts = [(held.x[held.column == each.node], held.y[held.column == each.node]) for each in across]
    trends_of_points(frame, chart, groups_of(chart, across, parts))
    return frame.scene()


def _ends(values: Figures) -> Extent:
    return Extent(float(values.min()), float(values.max()))


def _mosaic(chart: Chart, frame: Frame, held: Density, canvas: Canvas, *, ghost: bool = False) -> list[Mark]:
    """Rows counted in small squares: so many of the fine parts together that a square can be seen."""
    high, wide = held.counts.shape
    least = max(_SQUARE, min(canvas.size) / _SQUARES)
    upright, along_scale = frame.scales[0], frame.x
    joined = [
        next(n for n in _PARTS if n * abs(place(ends[1]) - place(ends[0])) / parts >= least or n == _PARTS[-1])
        for place, ends, parts in ((upright, held.y, high), (along_scale, held.x, wide))
    ]
    counts = held.counts.reshape(high // joined[0], joined[0], wide // joined[1], joined[1]).sum(axis=(1, 3))
    up = held.y[0] + np.arange(counts.shape[0] + 1) * joined[0] * (held.y[1] - held.y[0]) / high
    along = held.x[0] + np.arange(counts.shape[1] + 1) * joined[1] * (held.x[1] - held.x[0]) / wide
    # A scale may be told to show less than there is.
    inside = (up[:-1] >= upright.low - 1e-9 * abs(upright.low)) & (up[1:] <= upright.high + 1e-9 * abs(upright.high))
    kept = np.flatnonzero(inside)
    if not len(kept):
        return []
    counts, up = counts[kept[0] : kept[-1] + 1], up[kept[0] : kept[-1] + 2]
    ends = upright(float(up[0])), upright(float(up[-1]))
    top, bottom = min(ends), max(ends)
    if ends[0] > ends[1]:  # as nearly always: the first line is at the bottom
        counts, up = counts[::-1], up[::-1]
    left, right = along_scale(held.x[0]), along_scale(held.x[1])
    said = ((), ()) if ghost else (_parts_in_words(chart, 1, along.tolist()), _parts_in_words(chart, 0, up.tolist()))
    made = Mosaic(
        left, top, right - left, bottom - top, counts.shape[1], tuple(counts.astype(int).ravel().tolist()),
        Ink("ghost") if ghost else Ink("series 0"), *said, ghost=ghost,
    )  # fmt: skip
    if not upright.log:
        return [made]
    heights = [upright.within(each) for each in up.tolist()]  # lines that are not equally high stand for themselves
    lines = [round((box.y - made.y) / (made.height / made.lines)) for box in made.squares()]
    return [
        replace(box, y=min(heights[line], heights[line + 1]), height=abs(heights[line] - heights[line + 1]))
        for box, line in zip(made.squares(), lines, strict=True)
    ]


def _of_density(chart: Chart, held: Density, canvas: Canvas) -> Scene:
    """Rows counted in small squares, darker where more lie."""
    before = chart.ghost.samples if chart.ghost is not None else None
    note = f"{plural(int(held.counts.sum()), 'row')}: darker where more lie"
    frame = _frame(chart, canvas, Extent(*held.x), Extent(*held.y), [], note)
    if isinstance(before, Density):
        frame.marks += _mosaic(chart, frame, before, canvas, ghost=True)
    frame.marks += _mosaic(chart, frame, held, canvas)
    trends_of_points(frame, chart, [(held.moments, Ink("ink"))])
    return frame.scene()


def _parts_in_words(chart: Chart, measure: int, edges: list[float]) -> tuple[str, ...]:
    name, style = figure_name(chart.grid, measure), chart.styles[measure]
    written = [style.text(edge, unit=True) for edge in edges]
    upward = edges[0] <= edges[-1]
    return tuple(f"{name} {a} to {b}" if upward else f"{name} {b} to {a}" for a, b in pairwise(written))
