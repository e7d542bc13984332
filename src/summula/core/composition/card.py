"""A panel's card: its frame, its title with the line below, and where its content stands. The desk paints the same."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.boards.panelkinds import kind_of, panel_scene
from summula.core.charts.chart import Canvas
from summula.core.charts.scene import XY, Box, Group, Ink, Mark, Scene, Text, TextWidth, fitted
from summula.core.theme.typefaces import text_width

if TYPE_CHECKING:
    from summula.core.boards.board import Frames, Panel
    from summula.core.boards.panelanswer import PanelAnswer

PAD = 13.0
_RADIUS = 4.0


def card(
    panel: Panel,
    size: XY,
    width: TextWidth,
    caption: tuple[str, str] | None = None,
    frames: Frames = "card",
) -> tuple[Mark, ...]:
    """The marks of a card of this size, without its content; `caption`: its title and line with their live figures;
    `frames`: how the board sets its panels off."""
    stated, line = caption or (panel.title, line_of(panel))
    marks: list[Mark] = []
    if kind_of(panel).framed and frames != "none":
        fill = Ink("sheet") if frames == "card" and not kind_of(panel).behind else Ink("paper")
        marks.append(Box(0.5, 0.5, size[0] - 1, size[1] - 1, fill, radius=_RADIUS, edge=Ink("hairline")))
    if kind_of(panel).titled and stated:
        room = size[0] - 2 * PAD
        title = fitted(stated, room, 16, 600, width)  # the serif face is a little wider
        marks.append(Text(PAD, 25, title, Ink("ink"), 15, 600, serif=True, full=stated))
        if line:
            marks.append(Text(PAD, 44, fitted(line, room, 12, 400, width), Ink("muted"), 12, full=line))
    return tuple(marks)


def line_of(panel: Panel) -> str:
    """The line below the title, of those that have one."""
    return kind_of(panel).line(panel)


def content_area(panel: Panel, size: XY) -> tuple[float, float, float, float]:
    """Where a card's content stands: left, top, width, height."""
    if not kind_of(panel).framed:
        return 0.0, 0.0, max(size[0], 10.0), max(size[1], 4.0)
    top = PAD - 3
    if kind_of(panel).titled and panel.title:
        top += 24 + (18 if line_of(panel) else 0)
    return PAD, top, max(size[0] - 2 * PAD, 10.0), max(size[1] - top - PAD + 4, 10.0)


def card_scene(panel: Panel, answer: PanelAnswer, size: XY, frames: Frames = "card") -> Scene:
    """A panel whole: its card, its title, and what it shows."""
    inner = content_area(panel, size)
    content = panel_scene(panel, answer, Canvas(inner[2], inner[3]))
    names = answer.grid.names if answer.grid is not None else ()
    marks: tuple[Mark, ...] = (
        *card(panel, size, text_width, answer.caption, frames),
        Group(inner[0], inner[1], content.marks, clip=(inner[2], inner[3]), measures=names),
    )
    return Scene(size[0], size[1], marks)
