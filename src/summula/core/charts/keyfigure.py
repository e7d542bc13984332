"""A key figure: one number in large type, its comparison, and its course in small columns."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

import msgspec

from summula.core.charts.scene import Box, Ink, Mark, Pair, Scene, Tag, Text, fitted
from summula.core.fields.figures import FigureStyle, percent_text

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas


class KeyFigure(msgspec.Struct, frozen=True):
    """`change` is a fraction against `against` ("the same days of 2024"), NaN when there is none. `course` has a figure
    for each period in play, with its heading and member, and its label. `whole`: the figure of all in play, where
    `value` is that of a part of it; `adds_up`: whether parts make up the whole.
    """

    title: str
    value: float
    style: FigureStyle
    change: float = math.nan
    against: str = ""
    sparkline: Sequence[tuple[Pair, str, float]] = ()
    before: float = math.nan
    rising: Literal["gain", "loss"] = "gain"
    whole: float = math.nan
    adds_up: bool = True


def draw_key_figure(figure: KeyFigure, canvas: Canvas) -> Scene:
    """The figure, its change below, its course at the right where there is room."""
    size, width = canvas.size, canvas.text_width
    marks: list[Mark] = [
        Text(0, 13, fitted(figure.title, size[0], 12, 400, width), Ink("muted"), 12, full=figure.title)
    ]
    cramped = size[1] < 50
    large = 20.0 if cramped else max(18.0, min(28.0, size[1] * 0.42, (size[1] - 34) / 1.15))  # with a line below it
    tag = Tag((), (), 0, figure.value, figure.title, _words(figure))
    written = figure.style.short(figure.value)
    baseline = 13 + large * 1.15
    marks.append(Text(0, baseline, written, Ink("ink"), large, 600, serif=True, tag=tag))
    if not math.isnan(figure.whole) and not cramped:
        y = min(baseline + 22, size[1] - 2)
        share = figure.value / figure.whole if figure.whole and figure.adds_up else math.nan
        said = (
            f"of {figure.style.short(figure.whole)}" if figure.adds_up else f"{figure.style.short(figure.whole)} in all"
        )
        said += f", {percent_text(share)}" if 0 <= share <= 1 else ""
        marks.append(Text(0, y, fitted(said, size[0], 12, 500, width), Ink("muted"), 12, 500))
    elif not math.isnan(figure.change) and not cramped:
        change, ink = _change(figure)
        y = min(baseline + 22, size[1] - 2)
        marks.append(Text(0, y, change, ink, 12, 500))
        x = width(change, 12, 500) + 5
        rest = f"{'with' if change == 'level' else 'on'} {figure.against}"
        marks.append(Text(x, y, fitted(rest, size[0] - x, 12, 400, width), Ink("muted"), 12, full=rest))
    start = width(written, large * 1.12, 600) + 14
    _sparkline(marks, figure, start, size[0], 18 if cramped else 22, baseline)
    return Scene(size[0], size[1], tuple(marks))


def _change(figure: KeyFigure) -> tuple[str, Ink]:
    """The change with its sign mark, in the ink of gain or loss; level when it rounds to nothing."""
    size = percent_text(abs(figure.change))
    if size == "0.0%":
        return "level", Ink("text")
    rose = figure.change > 0
    mark = "▲ +" if rose else "▼ \N{MINUS SIGN}"
    return mark + size, Ink("gain" if rose == (figure.rising == "gain") else "loss")


def _words(figure: KeyFigure) -> str:
    words = figure.style.text(figure.value, unit=True)
    if not math.isnan(figure.whole):
        words += f" · of all in play {figure.style.text(figure.whole, unit=True)}"
    elif not math.isnan(figure.before) and figure.before != figure.value:
        words += f" · before slicing {figure.style.text(figure.before, unit=True)}"
    if not math.isnan(figure.change):
        words += f" · {_change(figure)[0]} on {figure.against}"
    return words


def _sparkline(marks: list[Mark], figure: KeyFigure, left: float, right: float, top: float, bottom: float) -> None:
    known = [value for _, _, value in figure.sparkline if not math.isnan(value)]
    room = min(right - left, 76.0)
    if len(known) < 2 or room < 24:
        return
    shown = list(figure.sparkline)[-int(room // 3.2) :]
    left = right - room
    step = room / len(shown)
    low, high = min(0.0, *known), max(0.0, *known)
    span = (high - low) or 1.0
    for at, (pair, label, value) in enumerate(shown):
        if math.isnan(value):
            continue
        y0 = bottom - (0 - low) / span * (bottom - top)
        y1 = bottom - (value - low) / span * (bottom - top)
        words = Tag((pair,), (), 0, value, f"{figure.title}, {label}", figure.style.text(value, unit=True))
        height = max(abs(y1 - y0), 0.5)
        marks.append(Box(left + at * step, min(y0, y1), max(step - 1, 1), height, Ink("series 0", 0.32), words))
