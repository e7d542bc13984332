"""Pictures in charts: columns and bars filled with one, built of it, or cut out of it; one behind a chart, faded."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from summula.core.charts.scene import Box, Group, Ink, Mark, Picture

if TYPE_CHECKING:
    from summula.core.charts.chart import Chart
    from summula.core.charts.foliopicture import FolioPicture

_MOST_TILES = 400


def picture_of(chart: Chart, wanted: str) -> FolioPicture | None:
    """A picture of the folio; None where there is none of that id."""
    return next((each for each in chart.look.pictures if each.id == wanted), None)


def picture_called(chart: Chart, name: str) -> FolioPicture | None:
    """The folio's picture of a member: the one that has its name, in any case."""
    return next((each for each in chart.look.pictures if each.name.casefold() == name.casefold()), None)


def inside(found: FolioPicture, x: float, y: float, side: float) -> Picture:
    """A picture in its own shape in the middle of a square."""
    wide, high = found.size
    scale = side / max(wide, high, 1)
    return Picture(x + (side - wide * scale) / 2, y + (side - high * scale) / 2, wide * scale, high * scale, found.data)


def pictured(chart: Chart, box: Box, whole: Box, *, upright: bool) -> list[Mark]:
    """What lies upon a column or bar, as the style dresses it: nothing, or its picture. `whole`: the room of all marks,
    that they are cut out of together; tiles are built up from the base."""
    style = chart.style.picture
    found = picture_of(chart, style.id)
    if found is None or box.width < 1 or box.height < 1:
        return []
    data, strength = found.data, box.ink.strength
    clip = (box.width, box.height)
    match style.how:
        case "filled":
            inner: Iterable[Mark] = (Picture(0, 0, box.width, box.height, data, strength),)
        case "cut out":
            inner = (Picture(whole.x - box.x, whole.y - box.y, whole.width, whole.height, data, strength),)
        case "built":
            inner = _tiles(box, found, strength, upright=upright)
    paper = Box(0, 0, box.width, box.height, Ink("sheet"))  # on which a paler one is pale
    return [Group(box.x, box.y, (paper, *inner), clip)]


def _tiles(box: Box, found: FolioPicture, strength: float, *, upright: bool) -> list[Picture]:
    """As many as there is room for, the last cut off; in their own shape, as wide as the column."""
    wide, high = found.size
    if upright:
        side = box.width * high / wide
        count = min(_MOST_TILES, int(box.height / side) + 1)
        return [Picture(0, box.height - (at + 1) * side, box.width, side, found.data, strength) for at in range(count)]
    side = box.height * wide / high
    count = min(_MOST_TILES, int(box.width / side) + 1)
    return [Picture(at * side, 0, side, box.height, found.data, strength) for at in range(count)]
