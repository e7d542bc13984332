"""Writes one line of text: names and figures come again and again, so that their letters are placed once."""

from __future__ import annotations

from functools import lru_cache
from itertools import islice
from threading import get_ident, main_thread
from typing import Literal

import msgspec
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QGlyphRun, QPainter, QTextLayout

from summula.desk.theme import font, shared_font, text_width, worn

Side = Literal["left", "right", "middle"]

_FLAGS: dict[Side, Qt.AlignmentFlag] = {
    "left": Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
    "right": Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
    "middle": Qt.AlignmentFlag.AlignCenter,
}

_WINDOWS = main_thread().ident  # the thread that windows are painted in: a text laid out may be painted in one alone
_GRID = 64  # parts of a pixel that letters are placed by: else a text would move a little when it is laid out


class LaidOut(msgspec.Struct, frozen=True, gc=False):
    """A text whose letters are chosen and placed already: a run for each face that it takes letters from, mostly one,
    and how far their baseline lies below where they are put, in pixels. There are thousands: as little as can be is
    made for each, and none of it is looked through for garbage but the runs."""

    ascent: float
    run: QGlyphRun | None
    others: tuple[QGlyphRun, ...] = ()

    def paint(self, painter: QPainter, place: QPointF) -> None:
        if self.run is not None:
            painter.drawGlyphRun(place, self.run)
        for run in self.others:
            painter.drawGlyphRun(place, run)


_MOST_TEXTS = 4096
_TEXTS: dict[tuple[str, float, int, bool, bool], LaidOut | None] = {}  # None: met once; touched by one thread alone


def laid_out(text: str, size: float, weight: int = 400, serif: bool = False, italic: bool = False) -> LaidOut | None:
    """For a text that comes again (names and figures do, at each click, in each panel); None the first time, since
    laying out takes twice as long as painting once, and in any other thread than the window's."""
    if get_ident() != _WINDOWS:
        return None
    key = (text, size, weight, serif, italic)
    if key not in _TEXTS:
        if len(_TEXTS) >= _MOST_TEXTS:  # those met first go
            for old in list(islice(_TEXTS, _MOST_TEXTS // 4)):
                del _TEXTS[old]
        _TEXTS[key] = None
        return None
    known = _TEXTS[key]
    if known is None:
        known = _TEXTS[key] = _lay_out(text, size, weight, serif, italic)
    return known


def _lay_out(text: str, size: float, weight: int, serif: bool, italic: bool) -> LaidOut:
    layout = QTextLayout(text, font(size, weight, serif=serif, italic=italic))
    layout.beginLayout()
    line = layout.createLine()
    layout.endLayout()
    runs = layout.glyphRuns()
    return LaidOut(line.ascent() if line.isValid() else 0.0, runs[0] if runs else None, tuple(runs[1:]))


@lru_cache(maxsize=512)
def _upright(size: float, weight: int, serif: bool, italic: bool) -> tuple[float, float]:
    """How far the baseline of a face lies below its top, and how high it is."""
    metrics = QFontMetricsF(font(size, weight, serif=serif, italic=italic))
    return metrics.ascent(), metrics.height()


def along(x: float) -> float:
    """Where a text begins, so that it stands there to the pixel however it is painted."""
    return round(x * _GRID) / _GRID


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
    if room < 0:
        painter.setFont(shared_font(size, weight, serif=serif, italic=italic))
        painter.drawText(area, _FLAGS[side], text)
        return
    left = along(left + (room if side == "right" else room / 2 if side == "middle" else 0.0))
    ascent, height = _upright(size, weight, serif, italic)
    baseline = area.y() + (area.height() - height) / 2 + ascent
    placed = laid_out(text, size, weight, serif, italic)
    if placed is None:
        painter.setFont(shared_font(size, weight, serif=serif, italic=italic))
        painter.drawText(QPointF(left, baseline), text)
        return
    placed.paint(painter, QPointF(left, baseline - placed.ascent))


def elided(text: str, room: float, size: float, weight: int = 400, *, serif: bool = False) -> str:
    """The text, or as much of it as there is room for, in pixels, and an ellipsis."""
    serif = serif and worn().serif_headings
    return text if text_width(text, size, weight, serif) <= room else _shortened(text, room, size, weight, serif)


@lru_cache(maxsize=4096)
def _shortened(text: str, room: float, size: float, weight: int, serif: bool) -> str:
    metrics = QFontMetricsF(font(size, weight, serif=serif))
    return metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
