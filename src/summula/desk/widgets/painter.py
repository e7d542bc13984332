"""Draws a Scene with QPainter: the one place where marks become pixels."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen, QPolygonF

from summula.core.charts.scene import Box, Ink, Line, Mark, Point, Scene, Text
from summula.desk.theme import colour, font, text_width


def paint_scene(painter: QPainter, scene: Scene, x: float = 0, y: float = 0, *, ground: str = "sheet") -> None:
    """Paint all marks, the scene's top left corner at (x, y)."""
    painter.save()
    painter.translate(x, y)
    alike: list[Point] = []  # points of one look that follow each other, which are painted at once
    for mark in scene.marks:
        if isinstance(mark, Point):
            if not mark.radius:
                continue  # there to be asked, not to be seen
            if alike and _look(mark) != _look(alike[0]):
                _points(painter, alike, ground)
                alike = []
            alike.append(mark)
            continue
        if alike:
            _points(painter, alike, ground)
            alike = []
        if isinstance(mark, Text):
            _text(painter, mark, ground)
        elif isinstance(mark, Box):
            # Sharp edges: boxes are painted without smoothing.
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            painter.fillRect(
                QRectF(mark.x, mark.y, mark.width, mark.height),
                colour(mark.ink.token, mark.ink.strength, ground),
            )
        else:
            _line(painter, mark, ground)
    if alike:
        _points(painter, alike, ground)
    painter.restore()


def _text(painter: QPainter, mark: Text, ground: str) -> None:
    painter.setFont(font(mark.size, mark.weight, serif=mark.serif))
    painter.setPen(colour(mark.ink.token, mark.ink.strength, ground))
    x = mark.x
    if mark.align != "left":
        width = text_width(mark.text, mark.size, mark.weight, mark.serif)
        x -= width if mark.align == "right" else width / 2
    painter.drawText(QPointF(x, mark.y), mark.text)


def _line(painter: QPainter, mark: Line, ground: str) -> None:
    straight = len(mark.points) == 2 and (
        mark.points[0][0] == mark.points[1][0] or mark.points[0][1] == mark.points[1][1]
    )
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, not straight)
    pen = QPen(colour(mark.ink.token, mark.ink.strength, ground), mark.width)
    pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap if straight or mark.dashed else Qt.PenCapStyle.RoundCap)
    if mark.dashed:
        pen.setDashPattern([1.6, 1.6])
    painter.setPen(pen)
    points = [QPointF(px, py) for px, py in mark.points]
    if len(points) <= _LONG or mark.dashed or mark.width <= 1:
        painter.drawPolyline(QPolygonF(points))
        return
    for at in range(0, len(points) - 1, _PIECE):
        painter.drawPolyline(QPolygonF(points[at : at + _PIECE + 1]))


_LONG, _PIECE = 40, 3  # points: a long thick line is one shape to Qt, filled in the square of the time of its pieces


def _look(point: Point) -> tuple[Ink, float, bool]:
    return point.ink, point.radius, point.hollow


def _points(painter: QPainter, points: list[Point], ground: str) -> None:
    """Points of one look, thousands in one call. Full ones are the round ends of lines that go nowhere; of hollow ones
    that would cover each other to the pixel, one is painted."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    look, radius = points[0], points[0].radius
    ink = colour(look.ink.token, look.ink.strength, ground)
    if not look.hollow:
        painter.setPen(QPen(ink, 2 * radius, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawPoints(QPolygonF([QPointF(each.x, each.y) for each in points]))
        return
    painter.setPen(QPen(ink, 1.8))
    painter.setBrush(QBrush(colour(ground)))
    for each in {(round(each.x), round(each.y)): each for each in points}.values():
        painter.drawEllipse(QPointF(each.x, each.y), radius, radius)


def mark_at(scene: Scene, x: float, y: float) -> Mark | None:
    """The topmost mark at a place that stands for something, or was cut and has more to say."""
    for mark in reversed(scene.marks):
        if isinstance(mark, Text):
            if (mark.tag is not None or (mark.full and mark.full != mark.text)) and _in_text(mark, x, y):
                return mark
        elif mark.tag is None:
            continue
        elif isinstance(mark, Box):
            # A thin mark is given a little room around it.
            slack_x, slack_y = max(0.0, 3 - mark.width / 2), max(0.0, 3 - mark.height / 2)
            if mark.x - slack_x <= x <= mark.x + mark.width + slack_x and (
                mark.y - slack_y <= y <= mark.y + mark.height + slack_y
            ):
                return mark
        elif isinstance(mark, Point) and (mark.x - x) ** 2 + (mark.y - y) ** 2 <= (mark.radius + 5) ** 2:
            return mark
    return None


def _in_text(mark: Text, x: float, y: float) -> bool:
    width = text_width(mark.text, mark.size, mark.weight, mark.serif)
    left = mark.x - (width if mark.align == "right" else width / 2 if mark.align == "centre" else 0)
    return left <= x <= left + width and mark.y - mark.size <= y <= mark.y + 3


def bounds(mark: Mark) -> QRectF:
    """The rectangle around a mark, for focus rings."""
    if isinstance(mark, Box):
        return QRectF(mark.x, mark.y, mark.width, mark.height)
    if isinstance(mark, Point):
        return QRectF(mark.x - mark.radius, mark.y - mark.radius, 2 * mark.radius, 2 * mark.radius)
    if isinstance(mark, Text):
        width = text_width(mark.text, mark.size, mark.weight, mark.serif)
        left = mark.x - (width if mark.align == "right" else width / 2 if mark.align == "centre" else 0)
        return QRectF(left, mark.y - mark.size, width, mark.size + 3)
    xs, ys = [p[0] for p in mark.points], [p[1] for p in mark.points]
    return QRectF(min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys))
