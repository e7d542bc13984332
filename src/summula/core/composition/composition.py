"""A composition: what is handed out, page by page."""

from __future__ import annotations

from typing import NamedTuple

import msgspec

from summula.core.charts.scene import XY, Box, Group, Ink, Mark, Scene, Text, TextWidth, fitted, wrapped
from summula.core.composition.paper import Paper
from summula.core.theme.palettes import Palette

MARGIN = 22.0  # pixels around what stands on a page
_LINE = 12.5  # pixels of letters


class Edge(NamedTuple):
    """What surrounds the content of a page, in pixels."""

    margin: float  # around it
    pad: float  # within its white sheet
    title: float  # letters of the title
    line: float  # letters of what stands below the title
    foot: float  # letters of the foot
    below: float  # from the content to the lower edge, where there is a foot


WIDE = Edge(MARGIN, 16.0, 22.0, _LINE, 11.0, 34.0)
NARROW = Edge(8.0, 8.0, 15.0, 11.0, 10.0, 22.0)  # of a small picture


class PageLink(msgspec.Struct, frozen=True):
    """A place on a page that leads to another page, by its place in the composition."""

    x: float
    y: float
    width: float
    height: float
    page: int


class Page(msgspec.Struct, frozen=True):
    """`ground` is the token of the paper. `chapter`: its bookmark, `depth` deep; empty where the one before goes on."""

    name: str
    scene: Scene
    ground: str = "paper"
    chapter: str = ""
    depth: int = 0
    links: tuple[PageLink, ...] = ()


class Composition(msgspec.Struct, frozen=True):
    """`palette`: that of the folio, whose paper and face it has. `on`: the paper it is put on, where it is printed;
    `scale`: pixels of a picture for each of its own."""

    title: str
    pages: tuple[Page, ...]
    palette: Palette = Palette()
    on: Paper | None = None
    scale: float = 1.0


class Foot(msgspec.Struct, frozen=True):
    """What is said at the foot of a page: the source, when it was read, the slicing in words, and the rows used."""

    source: str = ""
    read_at: str = ""
    rows: str = ""
    slicing: str = ""

    def words(self) -> str:
        read = f"read {self.read_at}" if self.read_at else ""
        return " · ".join(part for part in (self.source, read, self.slicing, self.rows) if part)


def heading(title: str, lines: list[str], size: XY, width: TextWidth, edge: Edge = WIDE) -> tuple[list[Mark], float]:
    """The title of a page and what stands below it, in as many lines as it needs; where the page goes on."""
    margin, room = edge.margin, size[0] - 2 * edge.margin
    text = fitted(title, room, edge.title, 600, width)
    y = margin + edge.title - 4
    marks: list[Mark] = [Text(margin, y, text, Ink("ink"), edge.title, 600, serif=True, full=title)]
    y += edge.title
    apart = edge.line + 5.5
    for line in lines:
        for part in wrapped(line, room, edge.line, 400, width):
            marks.append(Text(margin, y, part, Ink("muted"), edge.line))
            y += apart
    return marks, y - 4


def foot(stated: Foot, number: str, size: XY, width: TextWidth, edge: Edge = WIDE) -> list[Mark]:
    """The foot of a page, with its number where there are several."""
    margin, letters = edge.margin, edge.foot
    y = size[1] - letters - 1
    marks: list[Mark] = []
    numbered = width(number, letters, 400) + 12 if number else 0.0
    if number:
        marks.append(Text(size[0] - margin, y, number, Ink("muted"), letters, align="right"))
    words = stated.words()
    if words:
        text = fitted(words, size[0] - 2 * margin - numbered, letters, 400, width)
        marks.append(Text(margin, y, text, Ink("muted"), letters, full=words))
    return marks


def white_sheet(x: float, y: float, width: float, height: float, radius: float = 0.0) -> Box:
    """A white sheet on the paper."""
    return Box(x, y, width, height, Ink("sheet"), radius=radius, edge=Ink("hairline"))


_MOST_JOINED = 12  # pages that one picture holds


def one_page(composition: Composition) -> Page:
    """All pages below each other as one, for pictures; of very many the first, and how many more there are."""
    first = composition.pages[0]
    if len(composition.pages) == 1:
        return first
    shown = composition.pages[:_MOST_JOINED]
    y, marks = 0.0, list[Mark]()
    for page in shown:
        marks.append(Group(0, y, page.scene.marks))
        y += page.scene.height
    more = len(composition.pages) - len(shown)
    if more:
        words = f"{more:,} pages more than a picture holds: export the values as XLSX or CSV"
        marks.append(Text(MARGIN, y + 14, words, Ink("muted"), _LINE))
        y += 30
    return Page(first.name, Scene(max(page.scene.width for page in shown), y, tuple(marks)), first.ground)
