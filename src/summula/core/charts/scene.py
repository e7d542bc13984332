"""The marks of a chart, in device-independent pixels from the top left. No Qt: any painter can draw them.

`part` names the group of settings that a mark is about, where it stands for no figure: a click on it leads there.
None of them can hold what holds it, so that garbage is not looked for among them (`gc=False`): they come in thousands.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Any, Literal

import msgspec
from msgspec.structs import replace

from summula.core.engine.samples import Limits
from summula.core.fields.figures import FigureStyle

if TYPE_CHECKING:
    from summula.core.fields.heading import Heading, Member
else:
    Heading = Member = Any  # a scene that is kept and read again keeps none

# Width in pixels of a text at a size and weight: the one thing a form must ask of its surroundings.
TextWidth = Callable[[str, float, int], float]
Pair = tuple[Heading, Member]
XY = tuple[float, float]


class Ink(msgspec.Struct, frozen=True, gc=False):
    """A theme token ("ink", "muted", "ghost", "gain", "series 0" …) and how strongly it is laid on."""

    token: str
    strength: float = 1.0

    def soft(self) -> Ink:
        """A little paler: for large areas, beside which others lie."""
        return Ink(self.token, self.strength * 0.72)

    def pale(self) -> Ink:
        return Ink(self.token, self.strength * 0.4)


class Saying(msgspec.Struct, frozen=True, gc=False):
    """A figure in words, put together when they are asked for: a chart has hundreds of them, and few are looked at.
    `before`: of the whole that it is a part of, NaN where that is unknown; `whole` says what that is."""

    name: str
    style: FigureStyle
    figure: float
    before: float = math.nan
    whole: str = "before slicing"

    @property
    def text(self) -> str:
        text = f"{self.name} {self.style.text(self.figure, unit=True)}"
        if math.isnan(self.before) or abs(self.before - self.figure) <= 1e-9 * max(abs(self.before), 1):
            return text
        return f"{text} · {self.whole} {self.style.text(self.before, unit=True)}"


class Tag(msgspec.Struct, frozen=True, gc=False):
    """What a mark stands for: the members along each axis with their headings, the measure (-1: it stands for no figure
    of the grid), and the words a tooltip shows. Rows are behind it where it stands for a figure, or for values `within`
    limits."""

    by: tuple[Pair, ...]
    across: tuple[Pair, ...]
    measure: int
    value: float
    title: str
    said: str | Saying
    within: tuple[Limits, ...] = ()

    @property
    def text(self) -> str:
        return self.said if isinstance(self.said, str) else self.said.text

    @property
    def has_rows(self) -> bool:
        return self.measure >= 0 or bool(self.within)

    @property
    def members(self) -> tuple[Member, ...]:
        """The members along the by axis."""
        return tuple(member for _, member in self.by)

    @property
    def members_across(self) -> tuple[Member, ...]:
        return tuple(member for _, member in self.across)


class Box(msgspec.Struct, frozen=True, gc=False, tag=True):
    """A filled rectangle; with `radius` its corners are round, with `edge` a line runs around it."""

    x: float
    y: float
    width: float
    height: float
    ink: Ink
    tag: Tag | None = None
    ghost: bool = False
    radius: float = 0.0
    edge: Ink | None = None
    part: str = ""


class Line(msgspec.Struct, frozen=True, gc=False, tag=True):
    points: tuple[XY, ...]
    ink: Ink
    width: float = 1.0
    dashed: bool = False
    tag: Tag | None = None
    part: str = ""


class Area(msgspec.Struct, frozen=True, gc=False, tag=True):
    """A filled outline, closed from its last point to its first."""

    points: tuple[XY, ...]
    ink: Ink
    tag: Tag | None = None
    ghost: bool = False


class Wedge(msgspec.Struct, frozen=True, gc=False, tag=True):
    """A part of a ring around (x, y), between the radii `inner` and `outer`. Angles in turns, clockwise from twelve
    o'clock: a whole ring is from 0 to 1."""

    x: float
    y: float
    inner: float
    outer: float
    start: float
    stop: float
    ink: Ink
    tag: Tag | None = None
    ghost: bool = False


class Path(msgspec.Struct, frozen=True, gc=False, tag=True):
    """A curve: it begins at `start`; each piece leads by two points that pull it to its end (a cubic Bézier curve)."""

    start: XY
    pieces: tuple[tuple[XY, XY, XY], ...]
    ink: Ink
    width: float = 1.0
    tag: Tag | None = None


class Point(msgspec.Struct, frozen=True, gc=False, tag=True):
    """A dot; of radius 0 it is there to be asked, not to be seen."""

    x: float
    y: float
    radius: float
    ink: Ink
    hollow: bool = True
    tag: Tag | None = None


class Text(msgspec.Struct, frozen=True, gc=False, tag=True):
    """`y` is the baseline. `weight` as in CSS; `serif` for titles and key figures. `optional`: it may be left out where
    it has no room. `slip`: it stands on a slip of paper, since other marks lie below it."""

    x: float
    y: float
    text: str
    ink: Ink = Ink("ink")
    size: float = 12.0
    weight: int = 400
    align: Literal["left", "right", "centre"] = "left"
    serif: bool = False
    tag: Tag | None = None
    full: str = ""  # the whole text where `text` had to be cut
    optional: bool = False
    part: str = ""
    slip: bool = False


class Picture(msgspec.Struct, frozen=True, gc=False, tag=True):
    """A picture (`data`: a whole PNG or JPEG file), filling its place; paler with a lesser `strength`."""

    x: float
    y: float
    width: float
    height: float
    data: bytes
    strength: float = 1.0
    tag: Tag | None = None


class Mosaic(msgspec.Struct, frozen=True, gc=False, tag=True):
    """Many equal squares, each for so many rows: `counts` line by line from the top, `columns` a line; nothing is drawn
    where there are none. The more rows, the stronger the ink (by the logarithm); all alike in a ghost. `along` and
    `upward` (from the top) say what a square's place means."""

    x: float
    y: float
    width: float
    height: float
    columns: int
    counts: tuple[int, ...]
    ink: Ink
    along: tuple[str, ...] = ()
    upward: tuple[str, ...] = ()
    ghost: bool = False
    tag: Tag | None = None

    @property
    def lines(self) -> int:
        return len(self.counts) // self.columns

    def strengths(self) -> dict[int, float]:
        """How strong the ink is of squares with so many rows."""
        found = set(self.counts) - {0}
        if self.ghost:
            return dict.fromkeys(found, self.ink.strength)
        most = math.log1p(max(found, default=1))
        return {count: self.ink.strength * (0.18 + 0.82 * math.log1p(count) / most) for count in found}

    def _square(self, at: int, strength: float) -> Box:
        """One of them as a mark that can be asked."""
        count = self.counts[at]
        line, column = divmod(at, self.columns)
        wide, high = self.width / self.columns, self.height / self.lines
        tag = None
        if self.along:
            rows = f"{count:,} row{'' if count == 1 else 's'}"
            tag = Tag((), (), -1, float(count), rows, f"{self.upward[line]}; {self.along[column]}")
        ink = Ink(self.ink.token, strength)
        return Box(self.x + column * wide, self.y + line * high, wide, high, ink, tag, self.ghost)

    def squares(self) -> list[Box]:
        """Those that have rows."""
        strengths = self.strengths()
        return [self._square(at, strengths[count]) for at, count in enumerate(self.counts) if count]

    def met(self, x: float, y: float) -> Box | None:
        """The square at a place; None where it has no rows."""
        column = int((x - self.x) / self.width * self.columns)
        line = int((y - self.y) / self.height * self.lines)
        if not (self.x <= x and self.y <= y and column < self.columns and line < self.lines):
            return None
        at = line * self.columns + column
        return self._square(at, self.ink.strength) if self.counts[at] else None


class Group(msgspec.Struct, frozen=True, gc=False, tag=True):
    """Marks moved by (x, y) together; with `clip` (width, height) nothing is seen outside of it. `measures` name the
    figures that the tags within number; `by`: what all of those stand for, beside what each says."""

    x: float
    y: float
    marks: tuple[Mark, ...]
    clip: XY | None = None
    tag: Tag | None = None
    measures: tuple[str, ...] = ()
    by: tuple[Pair, ...] = ()


Mark = Box | Line | Area | Wedge | Path | Point | Text | Picture | Mosaic | Group


class Scene(msgspec.Struct, frozen=True, gc=False):
    """`left_out` tells how many labels had no room; `reach` from where to where its scales go: those upright, then
    the one along the bottom."""

    width: float
    height: float
    marks: tuple[Mark, ...]
    left_out: int = 0
    reach: tuple[XY, ...] = ()

    def flat(self, near: XY | None = None) -> Iterator[tuple[Mark, float, float]]:
        """Every mark that is no group, in drawing order, and how far its groups move it; of a mosaic its squares, or
        the one that is `near` alone."""
        yield from _flat(self.marks, 0.0, 0.0, near, ())

    def each_tagged(self) -> Iterator[Mark]:
        """The marks that stand for a figure, in drawing order, one after the other."""
        return (mark for mark, _, _ in self.flat() if mark.tag is not None and mark.tag.said)

    def tagged(self) -> list[Mark]:
        """All of them."""
        return list(self.each_tagged())

    def texts(self) -> list[str]:
        return [mark.text for mark, _, _ in self.flat() if isinstance(mark, Text)]


def _flat(
    marks: tuple[Mark, ...], x: float, y: float, near: XY | None, by: tuple[Pair, ...]
) -> Iterator[tuple[Mark, float, float]]:
    for mark in marks:
        if isinstance(mark, Group):
            yield from _flat(mark.marks, x + mark.x, y + mark.y, near, (*by, *mark.by))
        elif isinstance(mark, Mosaic):
            met = mark.squares() if near is None else [mark.met(near[0] - x, near[1] - y)]
            yield from _flat(tuple(each for each in met if each is not None), x, y, near, by)
        elif by and mark.tag is not None:
            yield replace(mark, tag=replace(mark.tag, by=(*by, *mark.tag.by))), x, y
        else:
            yield mark, x, y


def message(text: str, size: XY, width: TextWidth | None = None) -> Scene:
    """A scene that only says something, in the middle; in several lines, and in smaller letters, where its width is
    known to be too little. What has no room even so is cut at its end."""
    for letters in _MESSAGE:
        lines = [text] if width is None else wrapped(text, max(size[0] - 16, 40), letters, 400, width)
        most = max(1, int((size[1] - 4) / (letters * _APART)))
        if len(lines) <= most:
            break
    if len(lines) > most:
        lines = [*lines[: most - 1], f"{lines[most - 1].removesuffix('…')}…"]
    apart = letters * _APART
    top = size[1] / 2 + letters * 0.35 - apart / 2 * (len(lines) - 1)
    marks = tuple(
        Text(size[0] / 2, top + apart * at, line, Ink("muted"), letters, align="centre", full=text)
        for at, line in enumerate(lines)
    )
    return Scene(size[0], size[1], marks)


_MESSAGE = (13.0, 11.5, 10.0)  # pixels of letters
_APART = 1.38  # times their size from line to line


def wrapped(text: str, room: float, size: float, weight: int, width: TextWidth) -> list[str]:
    """The text in lines that fit the room; a word longer than a line is cut."""
    lines: list[str] = []
    for word in text.split():
        together = f"{lines[-1]} {word}" if lines else word
        if lines and width(together, size, weight) <= room:
            lines[-1] = together
        else:
            lines.append(fitted(word, room, size, weight, width))
    return lines or [""]


def fitted(text: str, room: float, size: float, weight: int, width: TextWidth) -> str:
    """The text, or its beginning with an ellipsis where it does not fit."""
    room += 1e-6  # pixels: a room that was made for this text, and has been reckoned with since, still holds it
    if width(text, size, weight) <= room:
        return text
    low, high = 0, len(text)
    while low < high:
        middle = (low + high + 1) // 2
        if width(text[:middle].rstrip() + "…", size, weight) <= room:
            low = middle
        else:
            high = middle - 1
    return text[:low].rstrip() + "…" if low else "…"


def fitted_name(name: str, room: float, size: float, weight: int, width: TextWidth) -> str:
    """A name of members within each other (`A · B`), each cut so that names alike in their beginning stay apart: the
    last has most of the room, or all of it where the others would be gone."""
    outer, between, last = name.rpartition(" · ")
    if not between or width(name, size, weight) <= room:
        return fitted(name, room, size, weight, width)
    apart = width(between, size, weight)
    end = fitted(last, max(room * 0.6, room - width(outer, size, weight) - apart), size, weight, width)
    begin = fitted_name(outer, room - apart - width(end, size, weight), size, weight, width)
    return fitted(last, room, size, weight, width) if begin == "…" else f"{begin}{between}{end}"
