"""The names of members along the bottom of a chart, as many as can be read, and of those that they belong to."""

from __future__ import annotations

import math
from collections.abc import Sequence
from datetime import date
from itertools import pairwise
from typing import TYPE_CHECKING

from summula.core.charts.calendarmarks import calendar_marks
from summula.core.charts.lettering import LABEL
from summula.core.charts.scene import Ink, Line, Text, fitted
from summula.core.charts.series import Category, Series, name_tag, short_label

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas
    from summula.core.charts.frame import Frame

LEAST_CUT = 38.0  # pixels of a name that is cut
_NARROWEST = 14.0  # of a group that is named below its members
_CROWDED = 34.0  # pixels a group: fewer, and names that are longer are cut to nothing
_LONGEST_GROUP = 110.0  # pixels of a name that stands for several groups
_MEASURED = 80  # labels, by which it is seen how many have room
NAME_LINE = 13.0  # pixels from a line of names to the next


def in_two_lines(cats: Sequence[Category], step: float, canvas: Canvas) -> bool:
    """Whether names are read by turns in two lines, where one has no room: those of things, which have no order that
    tells a name that is left out."""
    heading = cats[0].pairs[-1][0] if cats[0].pairs else None
    if heading is None or heading.part is not None or heading.bands is not None or len(cats) > 40:
        return False
    if isinstance(cats[0].path[-1], date):
        return False
    widest = max(canvas.text_width(cat.label, LABEL, 400) for cat in cats)
    return step - 4 < widest <= 2.6 * step - 6


def name_members(frame: Frame, cats: Sequence[Category], *, grouped: bool, lines: int = 1) -> None:
    """The members along the bottom, as many as can be read; their groups in a second line. In two `lines` they stand by
    turns."""
    step, left, bottom = frame.step, frame.left, frame.bottom
    text_width = frame.canvas.text_width
    measured = cats[:: max(1, len(cats) // _MEASURED)]
    widest = max(text_width(cat.label, LABEL, 400) for cat in measured)
    short_names = widest > step - 4
    if short_names:
        widest = max(text_width(short_label(cat), LABEL, 400) for cat in measured)
    every = 1
    if widest > step - 4:
        every = 1 if step >= LEAST_CUT and are_words(cats) else math.ceil((min(widest, 90) + 6) / step)
    marks = calendar_marks(cats, step, min(widest, 90) + 10) if widest > step - 4 and lines == 1 else None
    if lines > 1:
        every = 1
    elif marks is not None:
        every = max(every, 2)
    places: Sequence[int] = marks or range(0, len(cats), every)
    for place, after in pairwise([*places, max(len(cats), places[-1] + every)]):
        cat, room = cats[place], step * max((after - place), every) * lines - 4
        label = fitted(short_label(cat) if short_names else cat.label, room, LABEL, 400, text_width)
        if label == "…":
            continue
        x, y = left + (place + 0.5) * step, bottom + 15 + NAME_LINE * (place % lines)
        mark = Text(
            x, y, label, Ink("muted"), LABEL, align="centre",
            full=cat.label, optional=every > 1, tag=name_tag(cat), part="Members",
        )  # fmt: skip
        frame.marks.append(mark)
    if grouped:
        _groups(frame, cats, 4 if every == 1 else 20)


def are_words(named: Sequence[Category] | Sequence[Series]) -> bool:
    """Whether a name that is cut still says what it names: a word does, a date or a number does not."""
    heading = named[0].pairs[-1][0] if named[0].pairs else None
    if heading is None:
        return True
    words = any(isinstance(each.path[-1], str) for each in named)
    return words and heading.bands is None and heading.part is None


def _groups(frame: Frame, cats: Sequence[Category], below: float) -> None:
    """The members that those along the bottom belong to, below them. Where they are too many to stand each with its
    name between two rules, as many are named as can be read, each from where it begins. Rules begin so many pixels
    `below` the drawing: names that stand for several members run across them."""
    step, left, bottom, text_width = frame.step, frame.left, frame.bottom, frame.canvas.text_width
    starts = [0, *(at for at in range(1, len(cats)) if cats[at].group != cats[at - 1].group)]
    apart = step * len(cats) / len(starts)
    names = [cats[at].group for at in starts[:: max(1, len(starts) // _MEASURED)]]
    widest = min(max(text_width(name, LABEL, 600) for name in names), _LONGEST_GROUP)
    if apart < min(widest + 6, _CROWDED):
        end = left
        for at in starts:
            x, full = left + at * step, cats[at].group
            if x < end:
                continue
            label = fitted(full, widest, LABEL, 600, text_width)
            if x + 4 + text_width(label, LABEL, 600) > left + step * len(cats):
                break
            frame.marks.append(Line(((x, bottom + 22), (x, bottom + 34)), Ink("hairline"), 1))
            frame.marks.append(Text(x + 4, bottom + 31, label, Ink("text"), LABEL, 600, full=full))
            end = x + widest + 14
        return
    for at, after in pairwise([*starts, len(cats)]):
        x0, x1 = left + at * step, left + after * step
        if at:
            frame.marks.append(Line(((x0, bottom + below), (x0, bottom + 34)), Ink("hairline"), 1))
        if x1 - x0 >= _NARROWEST:
            full = cats[at].group
            label = fitted(full, x1 - x0 - 6, LABEL, 600, text_width)
            frame.marks.append(Text((x0 + x1) / 2, bottom + 31, label, Ink("text"), LABEL, 600, "centre", full=full))
