"""Box plot: the middle half of the values as a box, their median a line, whiskers, and what lies beyond as points."""

from __future__ import annotations

from summula.core.charts.axes import NAME_ROOM, axis_name, figure_name, fit, left_axis
from summula.core.charts.columns import category_axis, legend
from summula.core.charts.look import Look
from summula.core.charts.scale import Scale
from summula.core.charts.scene import Box, Ink, Line, Mark, Point, Scene, Tag, Text, TextWidth, message
from summula.core.charts.series import Category, Series, categories, series_of
from summula.core.summaries.figures import said
from summula.core.summaries.grid import Grid
from summula.core.summaries.samples import Boxes, Spread

_EDGE = 1.5  # far values are shown as far out as so many lengths of all whiskers together
_MOST_BEYOND = 60  # points drawn on either side of a box, the farthest


def draw_boxes(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """A box a member, beside each other where members stand across."""
    cats, series = categories(grid), series_of(grid)
    held = grid.samples
    if not isinstance(held, Boxes) or not cats:
        return message("Nothing to draw: no values are in play", size)
    known = held.spreads
    drawn = [each for each in known if each is not None]
    extent = _extent(drawn)
    cut = any(each.beyond[0] < extent[0] or each.beyond[-1] > extent[1] for each in drawn if len(each.beyond))
    marks: list[Mark] = []
    top = legend(marks, series, size[0], width) if grid.columns.depth else 0.0
    grouped = any(cat.group for cat in cats)
    bottom = size[1] - (38.0 if grouped else 22.0)
    vertical = fit(*extent, bottom - 4, top + NAME_ROOM + (18 if cut else 4), every=40)
    left = left_axis(marks, grid.styles[0], vertical, size[0] - 4, width)
    axis_name(marks, figure_name(grid, 0), 0, top + 11, size[0] * 0.5, width, right=False)
    if cut:
        marks.append(
            Text(size[0] - 4, top + 11, "+ counts values beyond the picture", Ink("muted"), 10.5, align="right")
        )
    step = (size[0] - left - 4) / len(cats)
    thick = min(step * 0.62 / len(series), 64.0)
    for at, cat in enumerate(cats):
        x = left + (at + 0.5) * step - thick * len(series) / 2
        for which, each in enumerate(series):
            found = known[at * len(series) + which]
            if found is not None:
                ink = each.ink if grid.columns.depth else Ink("series 0")
                _box(marks, grid, cat, each, found, x + which * thick, thick, vertical, ink, extent)
    category_axis(marks, cats, left, step, bottom, width, grouped)
    return Scene(size[0], size[1], tuple(marks))


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
    grid: Grid,
    cat: Category,
    each: Series,
    found: Spread,
    x: float,
    thick: float,
    at: Scale,
    ink: Ink,
    extent: tuple[float, float],
) -> None:
    """`at` leads from a figure to its height; `extent` is what the picture shows."""
    inner, middle = thick * 0.86, x + thick / 2
    style = grid.styles[0]

    def words(figure: float) -> str:
        return style.text(figure, unit=True)

    title = " · ".join(name for name in (cat.group, cat.label, each.label if each.path else "") if name)
    text = (
        f"median {words(found.median)}, half from {words(found.quarter)} to {words(found.three_quarters)}; "
        f"{said(found.count, 'value')}, {len(found.beyond):,} far out"
    )
    tag = Tag(cat.path, each.path, 0, found.median, title, text)
    for end, side in ((found.low, found.quarter), (found.high, found.three_quarters)):
        marks.append(Line(((middle, at(end)), (middle, at(side))), Ink("muted"), 1.2))
        marks.append(Line(((middle - inner / 4, at(end)), (middle + inner / 4, at(end))), Ink("muted"), 1.2))
    y0, y1 = at(found.three_quarters), at(found.quarter)
    marks.append(Box(middle - inner / 2, y0, inner, max(y1 - y0, 1.0), ink.pale(), tag))
    marks.append(Line(((middle - inner / 2, at(found.median)), (middle + inner / 2, at(found.median))), ink, 2.4))
    lowest, highest = extent
    far = found.beyond
    left = far[(far >= lowest) & (far < found.quarter)][:_MOST_BEYOND].tolist()
    right = far[(far > found.three_quarters) & (far <= highest)][-_MOST_BEYOND:].tolist()
    for value in (*left, *right):
        one = Tag(cat.path, each.path, -1, value, title, f"far out: {words(value)}")
        marks.append(Point(middle, at(value), 2.2, ink, hollow=True, tag=one))
    above, below = far[far > highest][::-1], far[far < lowest]
    for word, values, edge, y in (("above", above, highest, at.end - 5), ("below", below, lowest, at.start - 2)):
        if len(values):
            farthest = float(values[0])
            told = f"{said(len(values), 'value')} {word} {words(edge)}, as far as {words(farthest)}"
            tag = Tag(cat.path, each.path, -1, farthest, title, told)
            marks.append(Text(middle, y, f"+{len(values):,}", Ink("muted"), 10.5, align="centre", tag=tag))
