"""Writes one line of text: names and figures come again and again, so that their letters are placed once."""

from __future__ import annotations

from functools import lru_cache
from threading import get_ident, main_thread
from typing import Literal, NamedTuple

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QGlyphRun, QPainter, QTextLayout

from summula.desk.theme import font, text_width, worn

Side = Literal["left", "right", "middle"]

_FLAGS: dict[Side, Qt.AlignmentFlag] = {
    "left": Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
    "right": Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
    "middle": Qt.AlignmentFlag.AlignCenter,
}


_WINDOWS = main_thread().ident  # the thread that windows are painted in: a text laid out may be painted in one alone


class LaidOut(NamedTuple):
    """A text whose letters are chosen and placed already, a run for each face that it takes letters from; how far its
    baseline lies below its top, and how high it is, in pixels."""

    runs: tuple[QGlyphRun, ...]
    ascent: float
    height: float


@lru_cache(maxsize=4096)
def laid_out(text: str, size: float, weight: int = 400, serif: bool = False, italic: bool = False) -> LaidOut:
    """Names and figures come again and again: at each click, in each panel."""
    face = font(size, weight, serif=serif, italic=italic)
    layout = QTextLayout(text, face)
    layout.beginLayout()
    line = layout.createLine()
    layout.endLayout()
    ascent = line.ascent() if line.isValid() else 0.0
    return LaidOut(tuple(layout.glyphRuns()), ascent, QFontMetricsF(face).height())


def in_window() -> bool:
    """Whether this is the window's thread, in which alone what is laid out may be painted."""
    return get_ident() == _WINDOWS


def write(
    painter: QPainter,
    area: QRectF,
    text: str,
    size: float,
    weight: int = 400,
    *,
    side: Side = "left",
    serif: bool = False,
    italic: bool = False,
) -> None:
    """Write a line in the painter's pen, in the middle of the area's height; what is wider than the area is cut."""
    if not text:
        return
    serif = serif and worn().serif_headings
    left, room = area.x(), area.width() - text_width(text, size, weight, serif, italic)
    if room < 0 or not in_window():
        painter.setFont(font(size, weight, serif=serif, italic=italic))
        painter.drawText(area, _FLAGS[side], text)
        return
    left += room if side == "right" else room / 2 if side == "middle" else 0.0
    placed = laid_out(text, size, weight, serif, italic)
    place = QPointF(left, area.y() + (area.height() - placed.height) / 2)
    for run in placed.runs:
        painter.drawGlyphRun(place, run)


def elided(text: str, room: float, size: float, weight: int = 400, *, serif: bool = False) -> str:
    """The text, or as much of it as there is room for, in pixels, and an ellipsis."""
    serif = serif and worn().serif_headings
    return text if text_width(text, size, weight, serif) <= room else _shortened(text, room, size, weight, serif)


@lru_cache(maxsize=4096)
def _shortened(text: str, room: float, size: float, weight: int, serif: bool) -> str:
    metrics = QFontMetricsF(font(size, weight, serif=serif))
    return metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
