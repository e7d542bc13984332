"""A summary as pages: its name, its phrase, its chart; a grid goes on over as many pages as its lines need."""

from __future__ import annotations

from summula.core.charts.chart import Canvas, Chart
from summula.core.charts.drawers import draw
from summula.core.charts.gridform import grid_parts
from summula.core.charts.scene import XY, Group, Mark, Scene
from summula.core.composition.composition import MARGIN, Composition, Foot, Page, foot, heading, white_sheet
from summula.core.theme.typefaces import text_width

_PAD = 16.0
_MOST_PAGES = 500


def compose_summary(name: str, phrase: str, chart: Chart, size: XY, stated: Foot = Foot()) -> Composition:  # noqa: B008
    """`phrase` is said below the name. A grid is cut where a page is full, its heads on every page."""
    head, top = heading(name, [phrase], size, text_width)
    area = (MARGIN, top + 4, size[0] - 2 * MARGIN, max(size[1] - top - 38, 60.0))
    canvas = Canvas(area[2] - 2 * _PAD, area[3] - 2 * _PAD)
    cut = chart.form == "grid" and not chart.grid.empty
    scenes = grid_parts(chart, canvas, _MOST_PAGES) if cut else [draw(chart, canvas)]
    pages = []
    for at, scene in enumerate(scenes):
        number = f"{at + 1} of {len(scenes)}" if len(scenes) > 1 else ""
        marks: tuple[Mark, ...] = (
            *head,
            white_sheet(*area),
            Group(area[0] + _PAD, area[1] + _PAD, scene.marks, clip=canvas.size, measures=chart.grid.names),
            *foot(stated, number, size, text_width),
        )
        pages.append(Page(name, Scene(size[0], size[1], marks)))
    return Composition(name, tuple(pages))
