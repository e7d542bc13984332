"""The sign of each form: a few marks in 22 by 18 pixels, in the ink "glyph" that whoever paints them chooses."""

from __future__ import annotations

from msgspec.structs import replace

from summula.core.charts.scene import Area, Box, Ink, Line, Mark, Point, Wedge

_FULL, _PALE, _MIDDLE = Ink("glyph"), Ink("glyph", 0.4), Ink("glyph", 0.65)


def inked(marks: tuple[Mark, ...], token: str, strength: float = 1.0) -> tuple[Mark, ...]:
    """A sign in the ink of its place."""

    def own(mark: Mark) -> Mark:
        ink = getattr(mark, "ink", None)
        return replace(mark, ink=Ink(token, ink.strength * strength)) if isinstance(ink, Ink) else mark

    return tuple(map(own, marks))


def _columns(*heights: tuple[float, ...]) -> tuple[Mark, ...]:
    """Stacks of parts from the bottom, each part in another strength."""
    marks: list[Mark] = []
    for at, parts in enumerate(heights):
        y = 17.0
        for part, ink in zip(parts, (_FULL, _PALE, _MIDDLE), strict=False):
            marks.append(Box(1.0 + at * 5.4, y - part, 4.0, part - 0.6, ink))
            y -= part
    return tuple(marks)


def _bars(*widths: tuple[float, ...]) -> tuple[Mark, ...]:
    marks: list[Mark] = []
    for at, parts in enumerate(widths):
        x = 1.0
        for part, ink in zip(parts, (_FULL, _PALE, _MIDDLE), strict=False):
            marks.append(Box(x, 2.0 + at * 5.4, part - 0.6, 4.0, ink))
            x += part
    return tuple(marks)


GRID: tuple[Mark, ...] = (
    Box(1, 2, 20, 3, _FULL),
    *(Box(1 + 7 * column, 7 + 4 * row, 6, 2, _PALE) for row in range(3) for column in range(3)),
)
COLUMNS = _columns((8,), (14,), (6,), (11,))
STACKED_COLUMNS = _columns((5, 4), (8, 6), (4, 3), (6, 6))
SHARE_COLUMNS = _columns((5, 10), (9, 6), (7, 8), (11, 4))
BARS = _bars((19,), (12,), (7,))
STACKED_BARS = _bars((11, 8), (8, 5), (4, 4))
SHARE_BARS = _bars((12, 8), (6, 14), (9, 11))
DOTS: tuple[Mark, ...] = tuple(
    mark
    for y, (start, end) in ((3.5, (6.0, 18.0)), (9.0, (3.0, 11.0)), (14.5, (9.0, 15.0)))
    for mark in (
        Line(((start, y), (end, y)), _PALE, 1.4),
        Point(start, y, 2.0, _MIDDLE, hollow=False),
        Point(end, y, 2.0, _FULL, hollow=False),
    )
)
LINES: tuple[Mark, ...] = (
    Line(((1, 15), (7, 9), (13, 11), (21, 3)), _FULL, 1.6),
    Line(((1, 11), (7, 13), (13, 7), (21, 10)), _PALE, 1.6),
)
COLUMNS_AND_LINES: tuple[Mark, ...] = (
    *(Box(2 + 5.2 * at, 17 - high, 3.8, high, _PALE) for at, high in enumerate((6.0, 9.0, 7.0, 11.0))),
    Line(((2, 9), (8, 5), (14, 7), (21, 2)), _FULL, 1.6),
)
AREAS: tuple[Mark, ...] = (
    Area(((1, 17), (1, 9), (8, 4), (14, 7), (21, 2), (21, 17)), _PALE),
    Area(((1, 17), (1, 13), (8, 10), (14, 12), (21, 9), (21, 17)), _FULL),
)
SHARE_AREAS: tuple[Mark, ...] = (
    Area(((1, 17), (1, 2), (21, 2), (21, 17)), _PALE),
    Area(((1, 17), (1, 11), (8, 7), (14, 10), (21, 6), (21, 17)), _FULL),
)
PIE: tuple[Mark, ...] = (
    Wedge(11, 9, 0, 8, 0.0, 0.42, _FULL),
    Wedge(11, 9, 0, 8, 0.45, 0.72, _MIDDLE),
    Wedge(11, 9, 0, 8, 0.75, 0.97, _PALE),
)
RING: tuple[Mark, ...] = tuple(replace(mark, inner=4.4) for mark in PIE if isinstance(mark, Wedge))
WAFFLE: tuple[Mark, ...] = tuple(
    Box(3 + 4.2 * (at % 4), 1 + 4.2 * (at // 4), 3.4, 3.4, _FULL if at < 7 else _MIDDLE if at < 11 else _PALE)
    for at in range(16)
)
HEAT_GRID: tuple[Mark, ...] = tuple(
    Box(1 + 5.2 * (at % 4), 1 + 5.6 * (at // 4), 4.4, 4.8, Ink("glyph", strength))
    for at, strength in enumerate((0.25, 0.45, 0.9, 0.5, 0.5, 1.0, 0.65, 0.25, 0.9, 0.45, 0.25, 0.15))
)
SCATTER: tuple[Mark, ...] = tuple(
    Point(x, y, 1.7, _FULL, hollow=False) for x, y in ((4, 13), (8, 9), (11, 12), (14, 6), (18, 8), (17, 3))
)
BUBBLES: tuple[Mark, ...] = (
    Point(6, 12, 4.4, _PALE, hollow=False),
    Point(15, 7, 5.6, _MIDDLE, hollow=False),
    Point(9, 4, 2.4, _FULL, hollow=False),
    Point(19, 15, 1.8, _FULL, hollow=False),
)
GAUGE: tuple[Mark, ...] = (
    Wedge(11, 12, 7, 10, -0.28, -0.06, _PALE),
    Wedge(11, 12, 7, 10, -0.04, 0.12, _MIDDLE),
    Wedge(11, 12, 7, 10, 0.14, 0.28, _FULL),
    Line(((11, 12), (15, 6.5)), _FULL, 1.6),
)
KEY_FIGURE: tuple[Mark, ...] = (Box(2, 3, 9, 2, _PALE), Box(2, 7, 17, 6, _FULL, radius=1), Box(2, 15, 12, 2, _PALE))
CARDS: tuple[Mark, ...] = (
    *(Box(1 + 10.5 * at, 1 + 8.5 * row, 9, 7, _PALE, radius=1) for at in range(2) for row in range(2)),
    *(Box(2.5 + 10.5 * at, 3 + 8.5 * row, 5, 2, _FULL) for at in range(2) for row in range(2)),
)
HISTOGRAM: tuple[Mark, ...] = tuple(
    Box(1.0 + at * 4, 17.0 - high, 3.8, high, _FULL) for at, high in enumerate((4, 10, 15, 8, 3))
)
BOXES: tuple[Mark, ...] = tuple(
    mark
    for x, top, middle, low in ((3.0, 3.0, 7.0, 12.0), (13.0, 6.0, 10.0, 15.0))
    for mark in (
        Line(((x + 3, top - 2), (x + 3, low + 2)), _FULL, 1.2),
        Box(x, top + 1, 6, low - top - 2, _PALE),
        Line(((x, middle), (x + 6, middle)), _FULL, 1.6),
    )
)
