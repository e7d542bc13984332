"""A summary as pages: its name, its phrase, its chart; a grid goes on over as many pages as its lines need."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.charts.chart import Canvas, Chart
from summula.core.charts.drawers import draw
from summula.core.charts.gridform import grid_parts
from summula.core.composition.composition import Composition, Foot
from summula.core.composition.surroundings import bare_page, bare_room, surroundings

if TYPE_CHECKING:
    from summula.core.charts.scene import XY

_MOST_PAGES = 500


def compose_summary(name: str, phrase: str, chart: Chart, size: XY, stated: Foot = Foot()) -> Composition:  # noqa: B008
    """`phrase` is said below the name. A grid is cut where a page is full, its heads on every page."""
    around = surroundings(name, phrase, stated, size)
    if around is None:
        return compose_bare(name, chart, size)
    canvas = Canvas(*around.room)
    cut = chart.form == "grid" and not chart.grid.empty
    scenes = grid_parts(chart, canvas, _MOST_PAGES) if cut else [draw(chart, canvas)]
    pages = []
    for at, scene in enumerate(scenes):
        number = f"{at + 1} of {len(scenes)}" if len(scenes) > 1 else ""
        pages.append(around.page(scene.marks, chart.grid.names, number))
    return Composition(name, tuple(pages))


def compose_bare(name: str, chart: Chart, size: XY) -> Composition:
    """The chart alone, as large as the picture; a grid is not cut, and tells what has no room."""
    scene = draw(chart, Canvas(*bare_room(size)))
    return Composition(name, (bare_page(name, scene.marks, size, chart.grid.names),))
