"""Box plot: the middle half of the values as a box, their median a line, whiskers, and what lies beyond as points."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

from msgspec.structs import replace

from summula.core.charts.extents import Extent
from summula.core.charts.frame import FOOT, Along, Frame, bottom_axis, framed
from summula.core.charts.ghosts import members_shown
from summula.core.charts.legend import legend, note_at_foot
from summula.core.charts.lettering import LABEL
from summula.core.charts.scale import Scale
from summula.core.charts.scene import Box, Ink, Line, Mark, Point, Scene, Tag, Text, fitted_name, message
from summula.core.charts.series import Category, Series, figure_name, name_tag, pairs
from summula.core.charts.stacking import side_by_side
from summula.core.charts.style import BoxesStyle
from summula.core.engine.samples import Boxes, Spread
from summula.core.fields.figures import plural

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.engine.grid import Grid

_NAMES = 0.34  # of the width, at most: names beside lying boxes
_EDGE = 1.5  # far values are shown as far out as so many lengths of all whiskers together
_MOST_BEYOND = 40  # points drawn on either side of a box, the farthest


def draw_boxes(chart: Chart, canvas: Canvas) -> Scene:
    """A box a member, beside each other where members stand across."""
    grid = chart.grid
    shown = members_shown(chart)
    cats, series = shown.cats, shown.series
    known = _spreads(grid, [each.node for each in cats], [each.node for each in series])
    before = _spreads(chart.ghost, shown.rows, shown.columns)
    drawn = [each for each in (*known, *before) if each is not None]
    if not drawn:
        return message("No data: no values match the filters and slicers", canvas.size, canvas.text_width)
    extent = _extent(drawn)
    cut = any(each.beyond[0] < extent[0] or each.beyond[-1] > extent[1] for each in drawn if len(each.beyond))
    if _lies(chart, canvas, cats):
        return _lying(chart, canvas, cats, series, known, before, extent, cut)
    frame = framed(
        chart, canvas, [Extent(*extent)], cats=cats, entries=series if grid.columns.depth else (), zero=False,
        names=[figure_name(grid, 0)], above=16.0 if cut else 4.0, below=14.0 if cut else 4.0,
        figures=[each.median for each in drawn],
    )  # fmt: skip
    upright, marks = frame.scales[0], frame.marks
    if cut:
        words = "+ counts values beyond the picture"
        marks.append(Text(canvas.width - 4, frame.top - 23, words, Ink("muted"), 10.5, align="right", optional=True))
    step = frame.step
    thick = min(side_by_side(len(series), step, 0.62)[1], 64.0)
    for at, cat in enumerate(cats):
        x = frame.middle(at) - thick * len(series) / 2
        for which, each in enumerate(series):
            ink = each.ink if grid.columns.depth else Ink("series 0")
            shape = _Shape(x + which * thick, thick, upright, ink, extent)
            place = at * len(series) + which
            _box(marks, chart, cat, each, known[place], before[place], shape)
    return frame.scene()


def _spreads(grid: Grid | None, rows: Sequence[int], columns: Sequence[int]) -> list[Spread | None]:
    """The spread of each member and series, by where these stand in the grid; None where it has no values of them."""
    if grid is None or not isinstance(grid.samples, Boxes):
        return [None] * (len(rows) * len(columns))
    wide, spreads = grid.columns.levels[grid.columns.depth].size, grid.samples.spreads
    return [spreads[row * wide + at] if row >= 0 and at >= 0 else None for row in rows for at in columns]


def _lies(chart: Chart, canvas: Canvas, cats: list[Category]) -> bool:
    """Whether boxes lie: where their names would not be read below them."""
    said = chart.style.own_of(BoxesStyle).lying
    if said:
        return said == "yes"
    widest = max(canvas.text_width(cat.name, LABEL, 400) for cat in cats)
    return len(cats) > 1 and widest > (canvas.width - 60) / len(cats) - 4 and canvas.height / len(cats) >= 22


def _lying(
    chart: Chart,
    canvas: Canvas,
    cats: list[Category],
    series: list[Series],
    known: Sequence[Spread | None],
    before: Sequence[Spread | None],
    extent: tuple[float, float],
    cut: bool,
) -> Scene:
    """A box a line, its name at the left, the figures along the bottom."""
    grid = chart.grid
    marks: list[Mark] = []
    top, right = legend(marks, chart, canvas, series if grid.columns.depth else ())
    foot = note_at_foot(marks, chart, canvas)
    widest = max(canvas.text_width(cat.name, LABEL, 400) for cat in cats)
    left = min(widest + 10, canvas.width * _NAMES)
    bottom = canvas.height - foot - FOOT
    frame = Frame(
        canvas, left, top + 2, right - (34 if cut else 12), bottom, (Scale(0, 1, bottom, top, ()),), (0,), marks
    )
    reach = chart.reach[0] if chart.reach else extent
    ends = Extent(min(extent[0], reach[0]), max(extent[1], reach[1]))
    note = "+ counts values beyond the picture" if cut else ""
    name = chart.style.words.figures or figure_name(grid, 0)
    frame = replace(frame, along=bottom_axis(frame, Along(ends, chart.styles[0], name, note=note), named=True))
    row = (bottom - frame.top) / len(cats)
    thick = min(side_by_side(len(series), row, 0.62)[1], 40.0)
    for at, cat in enumerate(cats):
        middle = frame.top + (at + 0.5) * row
        text = fitted_name(cat.name, left - 8, LABEL, 400, canvas.text_width)
        said = name_tag(cat)
        marks.append(
            Text(left - 8, middle + 4, text, Ink("text"), LABEL, 400, "right", full=cat.name, tag=said, part="Members")
        )
        for which, each in enumerate(series):
            place = at * len(series) + which
            ink = each.ink if grid.columns.depth else Ink("series 0")
            shape = _Shape(middle - thick * len(series) / 2 + which * thick, thick, frame.x, ink, extent)
            upright: list[Mark] = []
            _box(upright, chart, cat, each, known[place], before[place], shape)
            marks += [_turned(mark, frame.x(extent[1])) for mark in upright]
    return Scene(canvas.width, canvas.height, tuple(marks), reach=((frame.x.low, frame.x.high),))


def _turned(mark: Mark, far: float) -> Mark:
    """A mark of an upright box, lying. What counts values beyond stands outside of the picture's `far` end."""
    match mark:
        case Box():
            return replace(mark, x=mark.y, y=mark.x, width=mark.height, height=mark.width)
        case Line():
            return replace(mark, points=tuple((y, x) for x, y in mark.points))
        case Point():
            return replace(mark, x=mark.y, y=mark.x)
        case Text():
            above = abs(mark.y + 5 - far) < 1
            return replace(
                mark, x=mark.y + 5 + 6 if above else mark.y - 11 - 6, y=mark.x + 4, align="left" if above else "right"
            )
        case _:
            return mark


class _Shape(NamedTuple):
    """Where a box stands and how wide it is; `upright` leads from a figure to its height; `extent` is what the picture
    shows."""

    x: float
    thick: float
    upright: Scale
    ink: Ink
    extent: tuple[float, float]


def _extent(drawn: list[Spread]) -> tuple[float, float]:
    """What the picture shows: all values, unless a few absurd ones would press the boxes flat. Those are counted at the
    edge."""
    low, high = min(each.low for each in drawn), max(each.high for each in drawn)
    room = _EDGE * ((high - low) or 1.0)
    least = min(min((each.low, *each.beyond[:1].tolist())) for each in drawn)
    most = max(max((each.high, *each.beyond[-1:].tolist())) for each in drawn)
    return max(least, low - room), min(most, high + room)


def _box(
    marks: list[Mark],
    chart: Chart,
    cat: Category,
    each: Series,
    found: Spread | None,
    before: Spread | None,
    shape: _Shape,
) -> None:
    """The box of a member's values, the paler and wider one `before` slicing behind it."""
    grid, style = chart.grid, chart.styles[0]
    at, ink, (lowest, highest) = shape.upright.within, shape.ink, shape.extent
    inner, middle = shape.thick * (0.86 if before is None else 0.56), shape.x + shape.thick / 2
    if before is not None:
        wide = shape.thick * 0.92
        y0, y1 = sorted((at(before.three_quarters), at(before.quarter)))
        for end, side in ((before.low, before.quarter), (before.high, before.three_quarters)):
            marks.append(Line(((middle, at(end)), (middle, at(side))), Ink("ghost"), 4.0))
        marks.append(Box(middle - wide / 2, y0, wide, max(y1 - y0, 1.0), Ink("ghost"), ghost=True))
        median = at(before.median)
        marks.append(Line(((middle - wide / 2, median), (middle + wide / 2, median)), Ink("muted"), 1.2))
    if found is None:
        return

    def words(figure: float) -> str:
        return style.text(figure, unit=True)

    by, across = pairs(grid.rows, cat.path), pairs(grid.columns, each.path)
    title = " · ".join(name for name in (cat.group, cat.label, each.label if each.path else "") if name)
    text = (
        f"median {words(found.median)}, half from {words(found.quarter)} to {words(found.three_quarters)}; "
        f"{plural(found.count, 'value')}, {len(found.beyond):,} far out"
    )
    if before is not None:
        text += f" · {chart.ghost_words} median {words(before.median)} of {plural(before.count, 'value')}"
    tag = Tag(by, across, 0, found.median, title, text)
    for end, side in ((found.low, found.quarter), (found.high, found.three_quarters)):
        marks.append(Line(((middle, at(end)), (middle, at(side))), Ink("muted"), 1.2))
        marks.append(Line(((middle - inner / 4, at(end)), (middle + inner / 4, at(end))), Ink("muted"), 1.2))
    y0, y1 = sorted((at(found.three_quarters), at(found.quarter)))
    marks.append(Box(middle - inner / 2, y0, inner, max(y1 - y0, 1.0), ink.pale(), tag))
    marks.append(Line(((middle - inner / 2, at(found.median)), (middle + inner / 2, at(found.median))), ink, 2.4))
    if chart.style.own_of(BoxesStyle).mean:
        y, arm = at(found.mean), min(4.0, inner / 3)
        marks.append(Line(((middle - arm, y - arm), (middle + arm, y + arm)), Ink("ink"), 1.4))
        marks.append(Line(((middle - arm, y + arm), (middle + arm, y - arm)), Ink("ink"), 1.4))
    far = found.beyond
    left = far[(far >= lowest) & (far < found.quarter)][:_MOST_BEYOND].tolist()
    right = far[(far > found.three_quarters) & (far <= highest)][-_MOST_BEYOND:].tolist()
    for value in (*left, *right):
        one = Tag(by, across, -1, value, title, f"far out: {words(value)}")
        marks.append(Point(middle, at(value), 2.2, ink, hollow=True, tag=one))
    above, below = far[far > highest][::-1], far[far < lowest]
    ends = (
        ("above", above, highest, shape.upright.within(highest) - 5),
        ("below", below, lowest, shape.upright.within(lowest) + 11),
    )
    for word, values, edge, y in ends:
        if len(values):
            farthest = float(values[0])
            words_beyond = f"{plural(len(values), 'value')} {word} {words(edge)}, as far as {words(farthest)}"
            tag = Tag(by, across, -1, farthest, title, words_beyond)
            mark = Text(middle, y, f"+{len(values):,}", Ink("muted"), 10.5, align="centre", tag=tag, optional=True)
            marks.append(mark)
