"""Eight charts of a board drawn and painted after a click, and composed to SVG, against Matplotlib drawing the same."""

from __future__ import annotations

import io
import os
from itertools import cycle
from typing import TYPE_CHECKING, Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from msgspec.structs import replace
from PyQt6.QtGui import QImage, QPainter

from benchmarks.timing import in_turn
from summula.core.boards.board import Board, Place, SummaryPanel
from summula.core.boards.panelkinds import panel_scene
from summula.core.boards.reckoning import Reckoning
from summula.core.charts.chart import Canvas
from summula.core.composition.boardpages import compose_board
from summula.core.fields.heading import Heading
from summula.core.handout.formats import FORMATS
from summula.core.slicing.slicer import ListSlicer
from summula.core.summaries import Vocabulary, parse
from summula.demo.folio import demo_folio
from summula.desk.application import application
from summula.desk.widgets.painter import paint_scene

if TYPE_CHECKING:
    from collections.abc import Callable

    from summula.core.tables.table import Table

SIZE = (300.0, 360.0)  # of each of eight panels, two by four, on 1280x800
PHRASES = (
    "show sum of Takings by Vessel ordered by sum of Takings, largest first drawn as bars",
    'show sum of Takings by month of "Sailed on" across year of "Sailed on" drawn as lines',
    'show sum of Passengers by year of "Sailed on" then quarter of "Sailed on" across Ticket drawn as stacked columns',
    'show sum of Takings and rows by month of "Sailed on" drawn as columns',
    'show sum of Passengers by year-month of "Sailed on" across Ticket drawn as areas',
    'show each row of "Delay (min)" by Weather drawn as box plot',
    'show each row of "Delay (min)" across Weather drawn as histogram',
    "show sum of Takings against sum of Passengers by Vessel across Ticket drawn as scatter",
)


def eight_charts(table: Table) -> tuple[Board, Reckoning]:
    """A board of them, and what answers it."""
    words = Vocabulary(table)
    phrases = {f"s{at}": ("t1", parse(text, words)) for at, text in enumerate(PHRASES)}
    panels = tuple(SummaryPanel(f"p{at}", Place(at % 4 * 6, at // 4 * 9, 6, 9), f"s{at}", f"Panel {at}") for at in range(8))
    return Board("b", "Eight", panels, (ListSlicer("l", "t1", Heading("Sold through")),)), Reckoning({"t1": table}, phrases)


def drawing(report: Callable[..., None]) -> None:
    import matplotlib

    matplotlib.use("Agg")
    application()
    opened = demo_folio()
    table = opened.prepared()["t1"]
    board, reckoning = eight_charts(table)
    ways = cycle([(), *((member,) for member in table.column("Sold through").members)])  # type: ignore[union-attr]

    def clicked() -> Board:
        return replace(board, slicers=(replace(board.slicers[0], chosen=next(ways)),))  # type: ignore[call-arg]

    image = QImage(1280, 800, QImage.Format.Format_RGB32)

    def ours() -> None:
        now = clicked()
        image.fill(0xFFFDF9)
        painter = QPainter(image)
        for at, panel in enumerate(now.panels):
            scene = panel_scene(panel, reckoning.panel(now, panel), Canvas(*SIZE))
            paint_scene(painter, scene, at % 4 * 320.0, at // 4 * 400.0)
        painter.end()

    def ours_svg() -> None:
        FORMATS[0].make(compose_board(clicked(), reckoning, (1280, 800)))

    grids = [reckoning.panel(board, panel).grid for panel in board.panels]
    for title, work, ending, goal in (
        ("Eight charts drawn and painted at 1280x800 after a click", ours, "png", "under 0.03"),
        ("Eight charts composed to SVG after a click", ours_svg, "svg", "under 0.1"),
    ):
        def rival(ending: str = ending) -> None:
            by_matplotlib(grids, ending)

        report(title, *in_turn(work, {"matplotlib": rival}, 7, lambda: None), goal)


def by_matplotlib(grids: list[Any], ending: str) -> None:
    """The same figures, worked out already, in the same forms."""
    from matplotlib.figure import Figure

    figure = Figure(figsize=(12.8, 8.0), dpi=100)
    axes = figure.subplots(2, 4).ravel()
    blocks = [grid.values[grid.finest] for grid in grids]
    labels = [[str(grid.rows.path(grid.rows.depth, node)[-1]) if grid.rows.depth else "" for node in range(grid.rows.levels[-1].size)] for grid in grids]
    axes[0].barh(labels[0], blocks[0][0, :, 0])
    for column in range(blocks[1].shape[2]):
        axes[1].plot(labels[1], blocks[1][0, :, column], marker="o", label=str(column))
    axes[1].legend()
    base = 0.0
    for column in range(blocks[2].shape[2]):
        heights = blocks[2][0, :, column].copy()
        heights[heights != heights] = 0.0
        axes[2].bar(range(len(heights)), heights, bottom=base, label=str(column))
        base = base + heights
    axes[2].legend()
    places = range(blocks[3].shape[1])
    axes[3].bar([each - 0.2 for each in places], blocks[3][0, :, 0], 0.4)
    axes[3].twinx().bar([each + 0.2 for each in places], blocks[3][1, :, 0], 0.4)
    layers = blocks[4][0].T.copy()
    layers[layers != layers] = 0.0
    axes[4].stackplot(range(layers.shape[1]), layers)
    spreads = [each for each in grids[5].samples.spreads if each is not None]
    axes[5].bxp([
        {"med": s.median, "q1": s.quarter, "q3": s.three_quarters, "whislo": s.low, "whishi": s.high, "fliers": s.beyond[-40:]} for s in spreads
    ])  # fmt: skip
    held = grids[6].samples
    base = 0.0
    for counts in held.counts:
        axes[6].bar(held.edges[:-1], counts, width=(held.edges[1] - held.edges[0]) * 0.95, bottom=base, align="edge")
        base = base + counts
    for column in range(blocks[7].shape[2]):
        axes[7].scatter(blocks[7][1, :, column], blocks[7][0, :, column], label=str(column))
    axes[7].legend()
    figure.savefig(io.BytesIO(), format=ending)
