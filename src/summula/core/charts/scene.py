"""The marks of a chart, in device-independent pixels from the top left. No Qt: any painter can draw them."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Literal

import msgspec

from summula.core.summaries.samples import Limits

if TYPE_CHECKING:
    from summula.core.fields.heading import Member
else:
    Member = Any  # a scene that is kept and read again keeps none

# Width in pixels of a text at a size and weight: the one thing a form must ask of its surroundings.
TextWidth = Callable[[str, float, int], float]


class Ink(msgspec.Struct, frozen=True):
    """A theme token ("ink", "muted", "ghost", "gain", "series 0" …) and how strongly it is laid on."""

    token: str
    strength: float = 1.0

    def pale(self) -> Ink:
        return Ink(self.token, self.strength * 0.4)


class Tag(msgspec.Struct, frozen=True):
    """What a mark stands for: members along each axis, the measure (-1: it stands for no figure of the grid), and the
    words a tooltip shows. Rows are behind it where it stands for a figure, or for values `within` limits."""

    by: tuple[Member, ...]
    across: tuple[Member, ...]
    measure: int
    value: float
    title: str
    text: str
    within: tuple[Limits, ...] = ()

    @property
    def has_rows(self) -> bool:
        return self.measure >= 0 or bool(self.within)


class Box(msgspec.Struct, frozen=True, tag=True):
    x: float
    y: float
    width: float
    height: float
    ink: Ink
    tag: Tag | None = None
    ghost: bool = False


class Line(msgspec.Struct, frozen=True, tag=True):
    points: tuple[tuple[float, float], ...]
    ink: Ink
    width: float = 1.0
    dashed: bool = False
    tag: Tag | None = None


class Point(msgspec.Struct, frozen=True, tag=True):
    x: float
    y: float
    radius: float
    ink: Ink
    hollow: bool = True
    tag: Tag | None = None


class Text(msgspec.Struct, frozen=True, tag=True):
    """`y` is the baseline. `weight` as in CSS; `serif` for titles and key figures."""

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


Mark = Box | Line | Point | Text


class Scene(msgspec.Struct, frozen=True):
    width: float
    height: float
    marks: tuple[Mark, ...]

    def tagged(self) -> list[Mark]:
        """The marks that stand for a figure, in drawing order."""
        return [mark for mark in self.marks if mark.tag is not None]

    def texts(self) -> list[str]:
        return [mark.text for mark in self.marks if isinstance(mark, Text)]


def message(text: str, size: tuple[float, float]) -> Scene:
    """A scene that only says something, in the middle."""
    middle = Text(size[0] / 2, size[1] / 2, text, Ink("muted"), 13, align="centre")
    return Scene(size[0], size[1], (middle,))
