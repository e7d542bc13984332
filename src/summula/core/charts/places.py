"""Where marks lie: their bounds, what is met at a point, and texts that must not touch."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple, assert_never

from msgspec.structs import replace

from summula.core.charts.scene import (
    XY,
    Area,
    Box,
    Group,
    Line,
    Mark,
    Mosaic,
    Path,
    Picture,
    Point,
    Scene,
    Text,
    TextWidth,
    Wedge,
    fitted,
)

_SLACK = 3.0  # pixels around a thin mark that count as it
_REACH = 5.0  # around a point
_ASCENT, _DESCENT = 0.80, 0.22  # of a text's size, above and below its baseline
_LEAST_CUT = 22.0  # pixels: a text cut to less than that says nothing


class Bounds(NamedTuple):
    left: float
    top: float
    right: float
    bottom: float

    def holds(self, x: float, y: float, slack_x: float = 0.0, slack_y: float = 0.0) -> bool:
        return self.left - slack_x <= x <= self.right + slack_x and self.top - slack_y <= y <= self.bottom + slack_y


def text_bounds(mark: Text, width: TextWidth) -> Bounds:
    wide = width(mark.text, mark.size, mark.weight)
    left = mark.x - (wide if mark.align == "right" else wide / 2 if mark.align == "centre" else 0.0)
    return Bounds(left, mark.y - mark.size * _ASCENT, left + wide, mark.y + mark.size * _DESCENT)


def slip_bounds(mark: Text, width: TextWidth) -> Bounds:
    """The slip of paper below a text: a little larger than the text."""
    area = text_bounds(mark, width)
    return Bounds(area.left - 3, area.top - 1, area.right + 3, area.bottom + 1)


def bounds(mark: Mark, width: TextWidth) -> Bounds:
    """The rectangle around a mark."""
    match mark:
        case Box() | Picture() | Mosaic():
            return Bounds(mark.x, mark.y, mark.x + mark.width, mark.y + mark.height)
        case Point():
            return Bounds(mark.x - mark.radius, mark.y - mark.radius, mark.x + mark.radius, mark.y + mark.radius)
        case Text():
            return text_bounds(mark, width)
        case Line() | Area():
            return _around(mark.points)
        case Path():
            return _around((mark.start, *(point for piece in mark.pieces for point in piece)))
        case Wedge():
            return _around(wedge_points(mark))
        case Group():
            inner = [bounds(each, width) for each in mark.marks]
            if not inner:
                return Bounds(mark.x, mark.y, mark.x, mark.y)
            lefts, tops, rights, bottoms = zip(*inner, strict=True)
            found = Bounds(min(lefts) + mark.x, min(tops) + mark.y, max(rights) + mark.x, max(bottoms) + mark.y)
            if mark.clip is None:
                return found
            right, bottom = mark.x + mark.clip[0], mark.y + mark.clip[1]
            return Bounds(
                max(found.left, mark.x), max(found.top, mark.y), min(found.right, right), min(found.bottom, bottom)
            )
        case _:
            assert_never(mark)


def _around(points: tuple[XY, ...]) -> Bounds:
    xs, ys = [x for x, _ in points], [y for _, y in points]
    return Bounds(min(xs), min(ys), max(xs), max(ys))


def wedge_points(mark: Wedge, *, every: float = 1 / 90) -> tuple[XY, ...]:
    """A wedge's outline, its arcs as short straight lines."""
    steps = max(1, math.ceil((mark.stop - mark.start) / every))
    turns = [mark.start + (mark.stop - mark.start) * at / steps for at in range(steps + 1)]
    outer = [on_circle(mark.x, mark.y, mark.outer, turn) for turn in turns]
    inner = (
        [on_circle(mark.x, mark.y, mark.inner, turn) for turn in reversed(turns)] if mark.inner else [(mark.x, mark.y)]
    )
    return (*outer, *inner)


def on_circle(x: float, y: float, radius: float, turn: float) -> XY:
    """A place on a circle; `turn` from 0 to 1, clockwise from twelve o'clock."""
    return x + radius * math.sin(2 * math.pi * turn), y - radius * math.cos(2 * math.pi * turn)


def room_in_slice(start: float, stop: float, inner: float, outer: float, middle: float, half: float) -> float:
    """How wide a text of the height 2 x `half` may be that is centred in a slice of a ring (turns; radii in pixels), at
    the radius `middle` half-way between its edges; 0 where it has no room."""
    x, y = on_circle(0.0, 0.0, middle, (start + stop) / 2)
    free, whole = math.inf, stop - start > 1 - 1e-9
    for level in (y - half, y, y + half):
        along = math.atan2(x, -level) / (2 * math.pi) % 1.0
        if not inner <= math.hypot(x, level) <= outer or (not whole and (along - start) % 1.0 > stop - start):
            return 0.0
        ends = math.sqrt(outer**2 - level**2)
        meets = [ends - x, ends + x]
        if abs(level) < inner:
            meets.append(abs(x) - math.sqrt(inner**2 - level**2))
        for edge in () if whole else (start, stop):
            along_x, along_y = on_circle(0.0, 0.0, 1.0, edge)
            far = level / along_y if along_y else math.inf  # along the edge, to where it crosses this level
            if 0 <= far <= outer:
                meets.append(abs(far * along_x - x))
        free = min(free, *meets)
    return 2 * free


def mark_at(scene: Scene, x: float, y: float, width: TextWidth) -> Mark | None:
    """The topmost mark at a place that stands for something, or was cut and has more to say."""
    for mark, moved_x, moved_y in reversed(list(scene.flat((x, y)))):
        asks = mark.tag is not None or (isinstance(mark, Text) and mark.full not in ("", mark.text))
        if asks and _is_met(mark, x - moved_x, y - moved_y, width):
            return mark
    return None


def part_at(scene: Scene, x: float, y: float, width: TextWidth) -> tuple[Mark, Bounds] | None:
    """The topmost mark at a place that stands for something or is about settings, and where it lies."""
    for mark, moved_x, moved_y in reversed(list(scene.flat((x, y)))):
        about: object = mark.tag is not None or getattr(mark, "part", "")
        if about and _is_met(mark, x - moved_x, y - moved_y, width):
            own = bounds(mark, width)
            return mark, Bounds(own.left + moved_x, own.top + moved_y, own.right + moved_x, own.bottom + moved_y)
    return None


def _is_met(mark: Mark, x: float, y: float, width: TextWidth) -> bool:
    match mark:
        case Box() | Picture():  # a thin mark is given a little room around it
            slack_x, slack_y = max(0.0, _SLACK - mark.width / 2), max(0.0, _SLACK - mark.height / 2)
            return bounds(mark, width).holds(x, y, slack_x, slack_y)
        case Point():
            return math.hypot(mark.x - x, mark.y - y) <= mark.radius + _REACH
        case Text() | Mosaic() | Group():
            return bounds(mark, width).holds(x, y)
        case Area():
            return is_inside(mark.points, x, y)
        case Wedge():
            radius = math.hypot(x - mark.x, y - mark.y)
            turn = math.atan2(x - mark.x, mark.y - y) / (2 * math.pi) % 1.0
            return mark.inner <= radius <= mark.outer and mark.start <= turn <= mark.stop
        case Line() | Path():
            return bounds(mark, width).holds(x, y, _SLACK, _SLACK)
        case _:
            assert_never(mark)


def is_inside(points: tuple[XY, ...], x: float, y: float) -> bool:
    """Whether a place lies inside an outline (even-odd rule)."""
    inside = False
    before = points[-1]
    for point in points:
        (x0, y0), (x1, y1) = before, point
        if (y0 > y) != (y1 > y) and x < x0 + (y - y0) / (y1 - y0) * (x1 - x0):
            inside = not inside
        before = point
    return inside


def clipped(points: Sequence[XY], edge: float, other: float) -> list[tuple[XY, ...]]:
    """The parts of a line that lie between two heights: where it leaves them it ends at the edge."""
    top, bottom = min(edge, other) - 0.01, max(edge, other) + 0.01
    if len(points) > 1 and all(top <= y <= bottom for _, y in points):  # as nearly always
        return [tuple(points)]
    pieces: list[list[XY]] = []
    for (x0, y0), (x1, y1) in pairwise(points):
        start, stop = 0.0, 1.0
        if y0 != y1:
            crossings = sorted(((top - y0) / (y1 - y0), (bottom - y0) / (y1 - y0)))
            start, stop = max(start, crossings[0]), min(stop, crossings[1])
        elif not top <= y0 <= bottom:
            continue
        if start >= stop:
            continue
        first = (x0 + (x1 - x0) * start, y0 + (y1 - y0) * start)
        last = (x0 + (x1 - x0) * stop, y0 + (y1 - y0) * stop)
        if pieces and start == 0.0 and pieces[-1][-1] == first:
            pieces[-1].append(last)
        else:
            pieces.append([first, last])
    return [tuple(piece) for piece in pieces]


def settled(scene: Scene, width: TextWidth) -> Scene:
    """The scene without texts that touch others or leave it: those that stand later give way, optional ones first.
    A text that only runs over an edge is moved in, or cut. Texts lie above all other marks."""
    taken: Taken = {}
    marks: list[Mark] = []
    first: list[Text] = []
    then: list[Text] = []
    for mark in scene.marks:
        if isinstance(mark, Text):
            (then if mark.optional else first).append(mark)
        else:
            marks.append(mark)
    left_out = scene.left_out
    for text in (*first, *then):
        inside = _moved_inside(text, scene, width) if text.text else None
        if inside is None or not takes_its_place(inside[1], taken):
            left_out += 1
        else:
            marks.append(inside[0])
    return replace(scene, marks=tuple(marks), left_out=left_out)


def takes_its_place(area: Edges, taken: Taken, but: Edges | None = None) -> bool:
    """Whether an area touches none that is taken, `but` for one; it is taken then, too."""
    left, top, right, bottom = area
    cells = _cells(area)
    left, top, right, bottom = left + _CLOSE, top + _CLOSE, right - _CLOSE, bottom - _CLOSE
    for cell in cells:
        for other in taken.get(cell, ()):
            other_left, other_top, other_right, other_bottom = other
            if left < other_right and other_left < right and top < other_bottom and other_top < bottom and other != but:
                return False
    for cell in cells:
        taken.setdefault(cell, []).append(area)
    return True


def take(area: Edges, taken: Taken) -> None:
    """Let an area be taken, whatever it touches."""
    for cell in _cells(area):
        taken.setdefault(cell, []).append(area)


def _cells(area: Edges) -> list[tuple[int, int]]:
    left, top, right, bottom = area
    first, last = int(left // _CELL), int(right // _CELL)
    above, below = int(top // _CELL), int(bottom // _CELL)
    if first == last and above == below:
        return [(first, above)]
    return [(x, y) for y in range(above, below + 1) for x in range(first, last + 1)]


Edges = tuple[float, float, float, float]  # left, top, right, bottom: as Bounds, which take longer to be made
Taken = dict[tuple[int, int], list[Edges]]  # what is taken, by the squares of _CELL that it touches
_CLOSE = 0.5  # pixels: so near, texts do not touch yet
_CELL = 64.0  # pixels: texts are looked for in the squares of this width that they touch


def _moved_inside(mark: Text, scene: Scene, width: TextWidth) -> tuple[Text, Edges] | None:
    """The text inside the scene, and where it lies: moved along, or cut where it is too long; None where it lies above
    or below."""
    size, align = mark.size, mark.align
    wide = width(mark.text, size, mark.weight)
    left = mark.x - (wide if align == "right" else wide / 2 if align == "centre" else 0.0)
    top, right, bottom = mark.y - size * _ASCENT, left + wide, mark.y + size * _DESCENT
    if top < -1.0 or bottom > scene.height + 1.0:
        return None
    if left >= 0 and right <= scene.width:
        return mark, (left, top, right, bottom)
    if wide <= scene.width:
        moved = -left if left < 0 else scene.width - right
        return replace(mark, x=mark.x + moved), (left + moved, top, right + moved, bottom)
    if scene.width < _LEAST_CUT:
        return None
    text = fitted(mark.text, scene.width, mark.size, mark.weight, width)
    cut = replace(mark, text=text, x=0.0, align="left", full=mark.full or mark.text)
    return cut, text_bounds(cut, width)
