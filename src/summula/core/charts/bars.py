"""Bars: members down the side, first at the top. The largest few strong, the others paler."""

from __future__ import annotations

import math

from summula.core.charts.look import Look
from summula.core.charts.scale import scale
from summula.core.charts.scene import Box, Ink, Line, Mark, Scene, Text, TextWidth, message
from summula.core.charts.series import Ghost, categories, fitted, ghost_value, series_of, tag, value
from summula.core.summaries.grid import Grid

_LABEL = 12.0
_LEAST_ROW = 15.0


def draw_bars(grid: Grid, look: Look, size: tuple[float, float], width: TextWidth) -> Scene:
    """One bar a member (a group of bars with several series), its figure at its end, its ghost behind."""
    series, every = series_of(grid), grid.rows.levels[grid.rows.depth].size
    ghost = Ghost.of(look.ghost)
    if not every or not series:
        return message("Nothing to draw: no rows are in play", size)
    room = int((size[1] - 4) / (_LEAST_ROW * max(1, len(series) * 0.7)))
    cats = categories(grid, max(1, room - 1) if every > room else None)
    left_out = every - len(cats)
    rows = len(cats) + (1 if left_out else 0)
    row = min((size[1] - 4) / rows, 40.0 * max(1, len(series) * 0.6))
    names = [f"{cat.group} · {cat.label}" if cat.group else cat.label for cat in cats]
    label_room = min(max(width(name, _LABEL, 500) for name in names) + 10, size[0] * 0.38)
    figures = [[value(grid, cat, each) for each in series] for cat in cats]
    ghosts = [[ghost_value(ghost, cat, each) for each in series] for cat in cats]
    known = [v for line in figures + ghosts for v in line if not math.isnan(v)] or [0.0]
    lowest, highest = min(0.0, *known), max(0.0, *known)
    style = grid.styles[0]
    widest = max(width(style.short(v), _LABEL, 500) for v in known)
    horizontal = scale(lowest, highest, label_room + (widest + 6 if lowest < 0 else 0), size[0] - widest - 10)
    # The longest bar reaches the end of its room: no axis is drawn, so no round last tick is needed.
    span = (highest - lowest) or 1.0
    start, end = horizontal.start, horizontal.end

    def place(figure: float) -> float:
        return start + (figure - lowest) / span * (end - start)

    strong = _strong(figures, look.strong)
    marks: list[Mark] = []
    for at, cat in enumerate(cats):
        y = 2 + at * row
        thick = row * 0.72 / len(series)
        emphasised = at in strong
        ink_of_name = Ink("text") if emphasised else Ink("muted")
        name = fitted(names[at], label_room - 10, _LABEL, 500, width)
        marks.append(
            Text(
                label_room - 10,
                y + row / 2 + 4,
                name,
                ink_of_name,
                _LABEL,
                500 if emphasised else 400,
                "right",
                full=names[at],
            )
        )
        for which, each in enumerate(series):
            top = y + row * 0.14 + which * thick
            figure, before = figures[at][which], ghosts[at][which]
            end_of_bar = place(0.0)
            if not math.isnan(before):
                marks.append(_bar(place(0), place(before), top, thick, Ink("ghost"), ghost=True))
                end_of_bar = max(end_of_bar, place(before))
            if math.isnan(figure):
                continue
            ink = each.ink if emphasised and not cat.gathered else each.ink.pale()
            box = _bar(place(0), place(figure), top, thick, ink)
            marks.append(Box(box.x, box.y, box.width, box.height, ink, tag(grid, cat, each, figure, before)))
            text = grid.styles[each.measure].short(figure)
            if thick >= 9:
                if figure < 0:
                    marks.append(
                        Text(
                            place(figure) - 5,
                            top + thick / 2 + 4,
                            text,
                            Ink("text"),
                            _LABEL - 0.5,
                            align="right",
                        )
                    )
                else:
                    x = max(end_of_bar, place(figure)) + 6
                    marks.append(Text(x, top + thick / 2 + 4, text, ink_of_name, _LABEL - 0.5))
    if lowest < 0:
        marks.append(Line(((place(0), 2), (place(0), 2 + len(cats) * row)), Ink("ink", 0.8)))
    if left_out:
        more = f"and {left_out:,} more: make the panel taller, or keep the top few"
        marks.append(Text(label_room, 2 + len(cats) * row + 13, more, Ink("muted"), 11))
    return Scene(size[0], size[1], tuple(marks))


def _strong(figures: list[list[float]], count: int) -> set[int]:
    if count <= 0 or count >= len(figures):
        return set(range(len(figures)))
    totals = [sum(v for v in line if not math.isnan(v)) for line in figures]
    order = sorted(range(len(totals)), key=lambda at: -totals[at])
    return set(order[:count])


def _bar(zero: float, end: float, y: float, height: float, ink: Ink, *, ghost: bool = False) -> Box:
    return Box(min(zero, end), y, max(abs(end - zero), 0.5), max(height - 1, 1), ink, ghost=ghost)
