"""What stands around the content of a page: its title, a line below, its foot. Where room is short they go first."""

from __future__ import annotations

from typing import NamedTuple

from summula.core.charts.scene import XY, Group, Mark, Scene
from summula.core.composition.composition import NARROW, WIDE, Edge, Foot, Page, foot, heading, white_sheet
from summula.core.theme.typefaces import text_width

_SMALL = 360.0  # pixels: a picture that is less wide or high has narrow edges
_LEAST = 140.0  # pixels that the content is high before anything stands around it
_BARE = 6.0  # pixels around content that stands alone


class Surroundings(NamedTuple):
    """What stands around, and where the content's white sheet lies."""

    title: str
    head: tuple[Mark, ...]
    stated: Foot
    edge: Edge
    sheet: tuple[float, float, float, float]
    size: XY

    @property
    def room(self) -> XY:
        """Of the content."""
        return self.sheet[2] - 2 * self.edge.pad, self.sheet[3] - 2 * self.edge.pad

    def page(self, content: tuple[Mark, ...], measures: tuple[str, ...] = (), number: str = "") -> Page:
        """The page with this content; `number`: which of several it is."""
        left, top, pad = self.sheet[0], self.sheet[1], self.edge.pad
        marks = (
            *self.head,
            white_sheet(*self.sheet),
            Group(left + pad, top + pad, content, clip=self.room, measures=measures),
            *foot(self.stated, number, self.size, text_width, self.edge),
        )
        return Page(self.title, Scene(self.size[0], self.size[1], marks))


def surroundings(title: str, line: str, stated: Foot, size: XY) -> Surroundings | None:
    """All of it, else without the line, else without the foot as well; None where the content has room only alone."""
    for lines, below in (([line], stated), ([], stated), ([], Foot())):
        found = _within(title, lines, below, size)
        if found.room[1] >= _LEAST:
            return found
    return None


def _within(title: str, lines: list[str], stated: Foot, size: XY) -> Surroundings:
    edge = NARROW if min(size) < _SMALL else WIDE
    head, top = heading(title, lines, size, text_width, edge)
    below = edge.below if stated.words() or edge is WIDE else edge.margin
    sheet = (edge.margin, top + 4, size[0] - 2 * edge.margin, size[1] - top - 4 - below)
    return Surroundings(title, tuple(head), stated, edge, sheet, size)


def bare_room(size: XY) -> XY:
    """The room of content that stands alone on a page."""
    return size[0] - 2 * _BARE, size[1] - 2 * _BARE


def bare_page(title: str, content: tuple[Mark, ...], size: XY, measures: tuple[str, ...] = ()) -> Page:
    """The content alone, on white."""
    group = Group(_BARE, _BARE, content, clip=bare_room(size), measures=measures)
    return Page(title, Scene(size[0], size[1], (group,)), ground="sheet")
