"""Draws a Scene with QPainter: the one place where marks become pixels on the screen."""

from __future__ import annotations

import math
from array import array
from functools import lru_cache
from threading import get_ident, main_thread
from typing import NamedTuple, assert_never

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QFontMetricsF,
    QImage,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QStaticText,
)

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
from summula.desk.theme import colour, font, shared_font, worn

# Named once: they are asked hundreds of times a picture, and an enumeration's members are looked up slowly.
_SMOOTH, _NO_PEN = QPainter.RenderHint.Antialiasing, Qt.PenStyle.NoPen


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
    alike: list[Point] = []  # points of one look that follow each other are painted at once
    for mark in marks:
        if isinstance(mark, Point):
            if not mark.radius:
                continue  # it is there to be asked only
            if alike and (mark.ink, mark.radius, mark.hollow) != (alike[0].ink, alike[0].radius, alike[0].hollow):
                _points(painter, alike, ground)
                alike = []
            alike.append(mark)
            continue
        if alike:
            _points(painter, alike, ground)
            alike = []
        _mark(painter, mark, ground)
    if alike:
        _points(painter, alike, ground)
    painter.restore()


def _mark(painter: QPainter, mark: Mark, ground: str) -> None:
    match mark:
        case Text():
            _text(painter, mark, ground)
        case Box():
            _box(painter, mark, ground)
        case Line():
            _line(painter, mark, ground)
        case Point():
            _points(painter, [mark], ground)
        case Area():
            _fill(painter, mark.points, mark.ink, ground)
        case Wedge():
            _wedge(painter, mark, ground)
        case Path():
            _path(painter, mark, ground)
        case Picture():
            painter.setOpacity(mark.strength)
            painter.drawImage(QRectF(mark.x, mark.y, mark.width, mark.height), _image(mark.data))
            painter.setOpacity(1.0)
        case Mosaic():
            painter.drawImage(QRectF(mark.x, mark.y, mark.width, mark.height), _mosaic(mark, ground))
        case Group():
            painter.save()
            painter.translate(mark.x, mark.y)
            if mark.clip is not None:
                painter.setClipRect(QRectF(0, 0, *mark.clip), Qt.ClipOperation.IntersectClip)
            paint_marks(painter, mark.marks, ground=ground)
            painter.restore()
        case _:
            assert_never(mark)


def _wedge(painter: QPainter, mark: Wedge, ground: str) -> None:
    painter.setRenderHint(_SMOOTH, True)
    painter.setPen(_NO_PEN)
    painter.setBrush(_colour(mark.ink, ground))
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
    painter.drawPath(outline)


def _mosaic(mark: Mosaic, ground: str) -> QImage:
    """A pixel a square; it is enlarged without smoothing when it is painted."""
    colours = {
        count: colour(mark.ink.token, round(strength, 2), ground).rgba() for count, strength in mark.strengths().items()
    }
    colours[0] = 0  # nothing at all
    data = array("I", [colours[count] for count in mark.counts]).tobytes()
    return QImage(data, mark.columns, mark.lines, 4 * mark.columns, QImage.Format.Format_ARGB32).copy()


def _colour(ink: Ink, ground: str) -> QColor:
    return colour(ink.token, ink.strength, ground)


def _box(painter: QPainter, mark: Box, ground: str) -> None:
    area = QRectF(mark.x, mark.y, mark.width, mark.height)
    if not mark.radius and mark.edge is None:  # sharp edges: painted without smoothing
        painter.setRenderHint(_SMOOTH, False)
        painter.fillRect(area, _colour(mark.ink, ground))
        return
    painter.setRenderHint(_SMOOTH, True)
    painter.setPen(QPen(_colour(mark.edge, ground), 1) if mark.edge is not None else _NO_PEN)
    painter.setBrush(_colour(mark.ink, ground))
    painter.drawRoundedRect(area, mark.radius, mark.radius)


_WINDOWS = main_thread().ident  # the thread that windows are painted in: a text laid out may be painted in one alone


class _LaidOut(NamedTuple):
    """A text whose letters are chosen and placed already, and how far its baseline lies below its top."""

    text: QStaticText
    ascent: float


@lru_cache(maxsize=4096)
def _laid_out(text: str, size: float, weight: int, serif: bool) -> _LaidOut:
    """Names and figures come again and again: at each click, in each panel."""
    face = font(size, weight, serif=serif)
    made = QStaticText(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setPerformanceHint(QStaticText.PerformanceHint.AggressiveCaching)
    made.prepare(font=face)
    return _LaidOut(made, QFontMetricsF(face).ascent())


def _text(painter: QPainter, mark: Text, ground: str) -> None:
    serif = mark.serif and worn().serif_headings
    painter.setFont(shared_font(mark.size, mark.weight, serif=serif))
    painter.setPen(colour(mark.ink.token, mark.ink.strength, ground))
    x = mark.x
    if mark.align != "left":
        width = text_width(mark.text, mark.size, mark.weight, serif)
        x -= width if mark.align == "right" else width / 2
    if get_ident() != _WINDOWS:
        painter.drawText(QPointF(x, mark.y), mark.text)
        return
    laid_out = _laid_out(mark.text, mark.size, mark.weight, serif)
    painter.drawStaticText(QPointF(x, mark.y - laid_out.ascent), laid_out.text)


@lru_cache(maxsize=512)
def _pen(rgb: int, width: float, *, dashed: bool, flat: bool) -> QPen:
    pen = QPen(QBrush(QColor(rgb)), width)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap if flat else Qt.PenCapStyle.RoundCap)
    if dashed:
        pen.setDashPattern([1.6, 1.6])
    return pen


def _line(painter: QPainter, mark: Line, ground: str) -> None:
    points, ink = mark.points, mark.ink
    straight = len(points) == 2 and (points[0][0] == points[1][0] or points[0][1] == points[1][1])
    painter.setRenderHint(_SMOOTH, not straight)
    flat = straight or mark.dashed
    painter.setPen(_pen(_colour(ink, ground).rgb(), mark.width, dashed=mark.dashed, flat=flat))
    if len(points) == 2:
        painter.drawLine(QLineF(*points[0], *points[1]))
        return
    corners = [QPointF(px, py) for px, py in points]
    if len(corners) <= _LONG or mark.dashed or mark.width <= 1:
        painter.drawPolyline(QPolygonF(corners))
        return
    for at in range(0, len(corners) - 1, _PIECE):
        painter.drawPolyline(QPolygonF(corners[at : at + _PIECE + 1]))


_LONG, _PIECE = 40, 3  # points: a long thick line is one shape to Qt, filled in the square of the time of its pieces


def _fill(painter: QPainter, points: tuple[XY, ...], ink: Ink, ground: str) -> None:
    painter.setPen(_NO_PEN)
    painter.setBrush(_colour(ink, ground))
    corners = [QPointF(x, y) for x, y in points]
    half = len(corners) // 2
    upper, lower = corners[:half], corners[: half - 1 : -1]
    if len(corners) <= _MANY_CORNERS or any(one.x() != other.x() for one, other in zip(upper, lower, strict=False)):
        painter.setRenderHint(_SMOOTH, True)
        painter.drawPolygon(QPolygonF(corners))
        return
    painter.setRenderHint(_SMOOTH, False)  # its pieces leave no seams so
    for at in range(0, half - 1, _PIECE_CORNERS):
        piece = slice(at, at + _PIECE_CORNERS + 1)
        painter.drawPolygon(QPolygonF([*upper[piece], *reversed(lower[piece])]))


_MANY_CORNERS, _PIECE_CORNERS = 48, 12  # a band of many corners is filled in pieces: whole, in the square of the time


def _path(painter: QPainter, mark: Path, ground: str) -> None:
    path = QPainterPath(QPointF(*mark.start))
    for first, second, end in mark.pieces:
        path.cubicTo(QPointF(*first), QPointF(*second), QPointF(*end))
    painter.setRenderHint(_SMOOTH, True)
    painter.strokePath(path, QPen(_colour(mark.ink, ground), mark.width))


def _points(painter: QPainter, points: list[Point], ground: str) -> None:
    """Points of one look, thousands in one call. Full ones are the round ends of lines that go nowhere; of hollow ones
    that would cover each other to the pixel, one is painted."""
    look, radius = points[0], points[0].radius
    painter.setRenderHint(_SMOOTH, True)
    ink = _colour(look.ink, ground)
    if not look.hollow:
        painter.setPen(QPen(ink, 2 * radius, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
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
            ring = _ring(ink.rgb(), colour(ground).rgb(), radius, part, low)
            middle = ring.width() // 2
            painter.drawImage(QPointF(left - middle - along, top - middle - down), ring)
        return
    _draw_rings(painter, ink, colour(ground), radius, [QPointF(each.x, each.y) for each in seen])


def _draw_rings(painter: QPainter, ink: QColor, ground: QColor, radius: float, middles: list[QPointF]) -> None:
    painter.setPen(QPen(ink, 1.8))
    painter.setBrush(QBrush(ground))
    for middle in middles:
        painter.drawEllipse(middle, radius, radius)


@lru_cache(maxsize=1024)
def _ring(ink: int, ground: int, radius: float, along: int, down: int) -> QImage:
    """A hollow point, its middle so many quarters of a pixel beyond the image's."""
    half = math.ceil(radius + 2)
    image = QImage(2 * half + 1, 2 * half + 1, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(_SMOOTH, True)
    _draw_rings(painter, QColor(ink), QColor(ground), radius, [QPointF(half + along / 4, half + down / 4)])
    painter.end()
    return image
