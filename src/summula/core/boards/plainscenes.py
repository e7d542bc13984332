"""What panels draw that show no figures of a table: a lever, a picture, a line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.charts.scene import Box, Ink, Line, Mark, Picture, Point, Scene, Text, fitted, message

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas
    from summula.core.charts.foliopicture import FolioPicture
    from summula.core.phrases.lever import LeverSetting


def lever_scene(lever: LeverSetting | None, canvas: Canvas) -> Scene:
    """Where a lever stands between its ends, and where it began."""
    if lever is None:
        return message("This lever is no longer in the folio", canvas.size, canvas.text_width)
    width, text_width = canvas.width, canvas.text_width
    value = lever.text()
    name = fitted(lever.name, width - text_width(value, 13, 600) - 10, 13, 400, text_width)
    marks: list[Mark] = [
        Text(0, 14, name, Ink("text"), 13, full=lever.name),
        Text(width, 14, value, Ink("ink"), 13, 600, "right"),
        Box(0, 26, width, 4, Ink("shape"), radius=2),
    ]
    share = (lever.value - lever.low) / (lever.high - lever.low)
    marks += [Box(0, 26, width * share, 4, Ink("plum"), radius=2), Point(width * share, 28, 5, Ink("plum"), False)]
    if lever.start is not None and lever.start != lever.value:
        marks.append(Text(0, 48, f"was {lever.text(lever.start)}", Ink("muted"), 11.5))
    return Scene(canvas.width, canvas.height, tuple(mark for mark in marks if _low(mark) <= canvas.height))


def _low(mark: Mark) -> float:
    return mark.y if isinstance(mark, Text | Box | Point) else 0.0


def picture_scene(picture: tuple[FolioPicture, float] | None, canvas: Canvas) -> Scene:
    """A picture in its own shape, as large as there is room for."""
    if picture is None:
        return message("This picture is no longer in the folio", canvas.size, canvas.text_width)
    found, strength = picture
    wide, high = found.size
    scale = min(canvas.width / wide, canvas.height / high)
    x, y = (canvas.width - wide * scale) / 2, (canvas.height - high * scale) / 2
    return Scene(canvas.width, canvas.height, (Picture(x, y, wide * scale, high * scale, found.data, strength),))


def rule_scene(rule: str, canvas: Canvas) -> Scene:
    """A line through the middle of its place."""
    x, y = canvas.width / 2, canvas.height / 2
    ends = ((x, 0.0), (x, canvas.height)) if rule == "upright" else ((0.0, y), (canvas.width, y))
    return Scene(canvas.width, canvas.height, (Line(ends, Ink("ink", 0.8), 1.2),))
