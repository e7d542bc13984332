"""Sizes of paper, and how large a page is composed that is to fill one."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec

from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.charts.scene import XY

_MM = 72 / 25.4  # points
SIZES: dict[str, XY] = {  # millimetres, upright
    "A3": (297.0, 420.0),
    "A4": (210.0, 297.0),
    "A5": (148.0, 210.0),
    "Letter": (215.9, 279.4),
    "Legal": (215.9, 355.6),
}
_ACROSS, _UPRIGHT = 1280.0, 900.0  # pixels: how wide a page is composed that lies, and one that stands
MOST_MARGIN = 60.0  # millimetres


class Paper(msgspec.Struct, frozen=True):
    """`size`: one of `SIZES`. `edge`: the margin in millimetres. `lies`: whether it lies; None: as the page does.
    `white`: without the colour of the page, for printing."""

    size: str = "A4"
    edge: float = 10.0
    lies: bool | None = None
    white: bool = False

    @property
    def margin(self) -> float:
        """In points."""
        return self.edge * _MM

    def points(self, wide: bool) -> XY:
        """Its width and height in points; `wide`: whether the page is wider than high."""
        short, long = (each * _MM for each in SIZES[self.size])
        return (long, short) if (wide if self.lies is None else self.lies) else (short, long)

    def pixels(self, wide: bool) -> XY:
        """How large a page is composed that fills it."""
        width, height = self.points(wide)
        lies = width > height
        across = _ACROSS if lies else _UPRIGHT
        return across, round(across * (height - 2 * self.margin) / (width - 2 * self.margin))


def paper_named(text: str, edge: float = 10.0) -> Paper:
    """The paper that is called so: "A4", "A4 landscape", "letter portrait". Raises Refusal."""
    name, _, turned = text.strip().partition(" ")
    found = next((each for each in SIZES if each.casefold() == name.casefold()), None)
    lies = {"": None, "landscape": True, "portrait": False}.get(turned.strip().casefold(), "?")
    if found is None or lies == "?":
        known = ", ".join(SIZES)
        raise Refusal(f"'{text}' is not a paper size", f"enter one of {known}, perhaps with landscape or portrait")
    if not 0 <= edge <= MOST_MARGIN:
        raise Refusal(f"a margin of {edge:g} mm leaves no room", f"choose one from 0 to {MOST_MARGIN:g} mm")
    return Paper(found, edge, lies)  # type: ignore[arg-type]
