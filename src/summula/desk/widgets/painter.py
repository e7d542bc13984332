"""Draws a Scene with QPainter: the one place where marks become pixels on the screen."""

from __future__ import annotations

import math
from array import array
from functools import lru_cache
from itertools import pairwise
from typing import assert_never

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QImage,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
)

from summula.core.charts.places import slip_bounds
from summula.core.charts.scene import (
    XY,
    Area,
    Box,
    Group,
    Ink,
    Line,
    Mark,
    Mosaic,
    Path,
    Picture,
    Point,
    Scene,
    Text,
    Wedge,
)
from summula.core.theme.typefaces import text_width
from summula.desk.theme import brush, colour, pen, shared_font, worn
from summula.desk.widgets.writing import along, laid_out

# Named once: they are asked hundreds of times a picture, and an enumeration's members are looked up slowly.
_SMOOTH, _NO_PEN = QPainter.RenderHint.Antialiasing, QPen(Qt.PenStyle.NoPen)


@lru_cache(maxsize=24)
def _image(data: bytes) -> QImage:
    """A picture unpacked: a chart asks for it once a column."""
    return QImage.fromData(data)


def paint_scene(painter: QPainter, scene: Scene, x: float = 0, y: float = 0, *, ground: str = "sheet") -> None:
    """Paint all marks, the scene's top left corner at (x, y)."""
    paint_marks(painter, scene.marks, x, y, ground=ground)


def paint_marks(
    painter: QPainter, marks: tuple[Mark, ...], x: float = 0, y: float = 0, *, ground: str = "sheet"
) -> None:
    painter.save()
    painter.translate(x, y)
    _paint(_Hand(painter, ground), marks)
    painter.restore()


class _Hand:
    """A painter, and what it holds: it is told what changes alone, since telling takes as long as painting. Its values
    of Qt's are filled anew for each mark: making one takes as long, too."""

    __slots__ = ("_brush", "_face", "_pen", "_smooth", "area", "ground", "painter", "place", "stretch")

    def __init__(self, painter: QPainter, ground: str) -> None:
        self.painter, self.ground = painter, ground
        self.area, self.place, self.stretch = QRectF(), QPointF(), QLineF()
        self._smooth: bool | None = None
        self._pen: QPen | None = None
        self._brush: QBrush | None = None
        self._face: QFont | None = None

    def smooth(self, on: bool) -> None:
        if on is not self._smooth:
            self.painter.setRenderHint(_SMOOTH, on)
            self._smooth = on

    def pen(self, held: QPen) -> None:
        if held is not self._pen:
            self.painter.setPen(held)
            self._pen = held

    def brush(self, held: QBrush) -> None:
        if held is not self._brush:
            self.painter.setBrush(held)
            self._brush = held

    def fill(self, ink: Ink) -> None:
        """Shapes are filled with an ink, and have no edge."""
        self.pen(_NO_PEN)
        self.brush(brush(ink.token, ink.strength, self.ground))

    def face(self, held: QFont) -> None:
        if held is not self._face:
            self.painter.setFont(held)
            self._face = held


def _paint(hand: _Hand, marks: tuple[Mark, ...]) -> None:
    alike: list[Point] = []  # points of one look that follow each other are painted at once
    for mark in marks:
        if isinstance(mark, Point):
            if not mark.radius:
                continue  # it is there to be asked only
            if alike and (mark.ink, mark.radius, mark.hollow) != (alike[0].ink, alike[0].radius, alike[0].hollow):
                _points(hand, alike)
                alike = []
            alike.append(mark)
            continue
        if alike:
            _points(hand, alike)
            alike = []
        _mark(hand, mark)
    if alike:
        _points(hand, alike)


def _mark(hand: _Hand, mark: Mark) -> None:
    match mark:
        case Text():
            _text(hand, mark)
        case Box():
            _box(hand, mark)
        case Line():
            _line(hand, mark)
        case Point():
            _points(hand, [mark])
        case Area():
            _area(hand, mark.points, mark.ink)
        case Wedge():
            _wedge(hand, mark)
        case Path():
            _path(hand, mark)
        case Picture():
            hand.painter.setOpacity(mark.strength)
            hand.painter.drawImage(QRectF(mark.x, mark.y, mark.width, mark.height), _image(mark.data))
            hand.painter.setOpacity(1.0)
        case Mosaic():
            hand.painter.drawImage(QRectF(mark.x, mark.y, mark.width, mark.height), _mosaic(mark, hand.ground))
        case Group():
            painter = hand.painter
            painter.save()
            painter.translate(mark.x, mark.y)
            if mark.clip is not None:
                painter.setClipRect(QRectF(0, 0, *mark.clip), Qt.ClipOperation.IntersectClip)
            _paint(_Hand(painter, hand.ground), mark.marks)
            painter.restore()  # and what this hand knows to be held is held again
        case _:
            assert_never(mark)


def _wedge(hand: _Hand, mark: Wedge) -> None:
    hand.smooth(True)
    hand.fill(mark.ink)
    # Qt's angles are degrees, against the clock from three o'clock.
    start, length = 90.0 - 360.0 * mark.start, -360.0 * (mark.stop - mark.start)
    outline = QPainterPath()
    outer, inner = (QRectF(mark.x - r, mark.y - r, 2 * r, 2 * r) for r in (mark.outer, mark.inner))
    outline.arcMoveTo(outer, start)
    outline.arcTo(outer, start, length)
    if mark.inner:
        outline.arcTo(inner, start + length, -length)
    elif mark.stop - mark.start < 1:
        outline.lineTo(mark.x, mark.y)
    outline.closeSubpath()
    hand.painter.drawPath(outline)


def _mosaic(mark: Mosaic, ground: str) -> QImage:
    """A pixel a square; it is enlarged without smoothing when it is painted."""
    colours = {
        count: colour(mark.ink.token, round(strength, 2), ground).rgba() for count, strength in mark.strengths().items()
    }
    colours[0] = 0  # nothing at all
    data = array("I", [colours[count] for count in mark.counts]).tobytes()
    return QImage(data, mark.columns, mark.lines, 4 * mark.columns, QImage.Format.Format_ARGB32).copy()


def _box(hand: _Hand, mark: Box) -> None:
    area, edge = hand.area, mark.edge
    area.setRect(mark.x, mark.y, mark.width, mark.height)
    inside = brush(mark.ink.token, mark.ink.strength, hand.ground)
    if not mark.radius and edge is None:  # sharp edges: without smoothing, by which less than a pixel may be nothing
        hand.smooth(mark.width < 1.0 or mark.height < 1.0)
        hand.painter.fillRect(area, inside)
        return
    hand.smooth(True)
    hand.pen(_NO_PEN if edge is None else pen(edge.token, edge.strength, hand.ground))
    hand.brush(inside)
    hand.painter.drawRoundedRect(area, mark.radius, mark.radius)


def _text(hand: _Hand, mark: Text) -> None:
    if mark.slip:
        area = slip_bounds(mark, text_width)
        hand.smooth(False)
        hand.area.setRect(area.left, area.top, area.right - area.left, area.bottom - area.top)
        hand.painter.fillRect(hand.area, brush(hand.ground))
    ink, size, weight = mark.ink, mark.size, mark.weight
    serif = mark.serif and worn().serif_headings
    hand.pen(pen(ink.token, ink.strength, hand.ground))
    x = mark.x
    if mark.align != "left":
        width = text_width(mark.text, size, weight, serif)
        x -= width if mark.align == "right" else width / 2
    place = hand.place
    place.setX(along(x))
    placed = laid_out(mark.text, size, weight, serif)
    if placed is None:
        hand.face(shared_font(size, weight, serif=serif))
        place.setY(mark.y)
        hand.painter.drawText(place, mark.text)
        return
    place.setY(mark.y - placed.ascent)
    placed.paint(hand.painter, place)


@lru_cache(maxsize=512)
def _stroke(rgb: int, width: float, ends: Qt.PenCapStyle, *, dashed: bool = False) -> QPen:
    made = QPen(QBrush(QColor(rgb)), width)
    made.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    made.setCapStyle(ends)
    if dashed:
        made.setDashPattern([1.6, 1.6])
    return made


_FLAT, _SQUARE, _ROUND = Qt.PenCapStyle.FlatCap, Qt.PenCapStyle.SquareCap, Qt.PenCapStyle.RoundCap
_FINE = 1.0  # pixels: Qt is quick with lines as fine as that
_THICK = 3.0  # pixels: the corners of finer lines look round without being so


def _line(hand: _Hand, mark: Line) -> None:
    points, width, painter = mark.points, mark.width, hand.painter
    ink = colour(mark.ink.token, mark.ink.strength, hand.ground).rgb()
    straight = len(points) == 2 and (points[0][0] == points[1][0] or points[0][1] == points[1][1])
    hand.smooth(not straight)
    if len(points) == 2:
        ends = _FLAT if straight or mark.dashed else _ROUND
        hand.pen(_stroke(ink, width, ends, dashed=mark.dashed))
        hand.stretch.setLine(*points[0], *points[1])
        painter.drawLine(hand.stretch)
    elif mark.dashed or width <= _FINE:
        hand.pen(_stroke(ink, width, _FLAT if mark.dashed else _ROUND, dashed=mark.dashed))
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in points]))
    else:  # in one it is a shape to Qt, filled in ten times the time of its stretches, and the square of their number
        stretches = [QLineF(*one, *other) for one, other in pairwise(points)]
        hand.pen(_stroke(ink, width, _SQUARE if width < _THICK else _FLAT))
        painter.drawLines(*stretches)
        if width >= _THICK:
            hand.pen(_stroke(ink, width, _ROUND))
            painter.drawPoints(QPolygonF([QPointF(x, y) for x, y in points]))


def _area(hand: _Hand, points: tuple[XY, ...], ink: Ink) -> None:
    hand.fill(ink)
    painter = hand.painter
    corners = [QPointF(x, y) for x, y in points]
    half = len(corners) // 2
    upper, lower = corners[:half], corners[: half - 1 : -1]
    if len(corners) <= _MANY_CORNERS or any(one.x() != other.x() for one, other in zip(upper, lower, strict=False)):
        hand.smooth(True)
        painter.drawPolygon(QPolygonF(corners))
        return
    hand.smooth(False)  # its pieces leave no seams so
    for at in range(0, half - 1, _PIECE_CORNERS):
        piece = slice(at, at + _PIECE_CORNERS + 1)
        painter.drawPolygon(QPolygonF([*upper[piece], *reversed(lower[piece])]))


_MANY_CORNERS, _PIECE_CORNERS = 48, 12  # a band of many corners is filled in pieces: whole, in the square of the time


def _path(hand: _Hand, mark: Path) -> None:
    path = QPainterPath(QPointF(*mark.start))
    for first, second, end in mark.pieces:
        path.cubicTo(QPointF(*first), QPointF(*second), QPointF(*end))
    hand.smooth(True)
    hand.painter.strokePath(path, QPen(colour(mark.ink.token, mark.ink.strength, hand.ground), mark.width))


def _points(hand: _Hand, points: list[Point]) -> None:
    """Points of one look, thousands in one call. Full ones are the round ends of lines that go nowhere; of hollow ones
    that would cover each other to the pixel, one is painted."""
    look, radius, painter = points[0], points[0].radius, hand.painter
    hand.smooth(True)
    ink, ground = colour(look.ink.token, look.ink.strength, hand.ground), colour(hand.ground)
    if not look.hollow:
        hand.pen(_stroke(ink.rgb(), 2 * radius, _ROUND))
        painter.drawPoints(QPolygonF([QPointF(each.x, each.y) for each in points]))
        return
    seen = {(round(each.x), round(each.y)): each for each in points}.values()
    moved = painter.transform()
    device = painter.device()
    if not moved.isScaling() and not moved.isRotating() and device is not None and device.devicePixelRatio() == 1:
        # To the quarter of a pixel they are alike: painted once, and then put down.
        along, down = moved.dx(), moved.dy()
        for each in seen:
            left, part = divmod(round((each.x + along) * 4), 4)
            top, low = divmod(round((each.y + down) * 4), 4)
            ring = _ring(ink.rgb(), ground.rgb(), radius, part, low)
            middle = ring.width() // 2
            painter.drawImage(QPointF(left - middle - along, top - middle - down), ring)
        return
    hand.pen(_stroke(ink.rgb(), _RING, _ROUND))
    hand.brush(brush(hand.ground))
    for each in seen:
        painter.drawEllipse(QPointF(each.x, each.y), radius, radius)


_RING = 1.8  # pixels: of the line around a hollow point


@lru_cache(maxsize=1024)
def _ring(ink: int, ground: int, radius: float, along: int, down: int) -> QImage:
    """A hollow point, its middle so many quarters of a pixel beyond the image's."""
    half = math.ceil(radius + 2)
    image = QImage(2 * half + 1, 2 * half + 1, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(_SMOOTH, True)
    painter.setPen(_stroke(ink, _RING, _ROUND))
    painter.setBrush(QBrush(QColor(ground)))
    painter.drawEllipse(QPointF(half + along / 4, half + down / 4), radius, radius)
    painter.end()
    return image
