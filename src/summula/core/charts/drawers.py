"""How each form is drawn: one row a form. `core/summaries/forms.py` tells what it needs."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, assert_never

import msgspec
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.charts.areas import draw_areas, draw_share_areas
from summula.core.charts.bars import draw_bars, draw_share_bars, draw_stacked_bars
from summula.core.charts.boxplot import draw_boxes
from summula.core.charts.bubbles import draw_bubbles
from summula.core.charts.cards import draw_cards
from summula.core.charts.chart import Canvas, Chart
from summula.core.charts.columns import draw_columns, draw_share_columns, draw_stacked_columns
from summula.core.charts.columnslines import draw_columns_and_lines
from summula.core.charts.dots import draw_dots
from summula.core.charts.extents import scales_of, units_of
from summula.core.charts.gauge import draw_gauge
from summula.core.charts.glyphs import (
    AREAS,
    BARS,
    BOXES,
    BUBBLES,
    CARDS,
    COLUMNS,
    COLUMNS_AND_LINES,
    DOTS,
    GAUGE,
    GRID,
    HEAT_GRID,
    HISTOGRAM,
    KEY_FIGURE,
    LINES,
    PIE,
    RING,
    SCATTER,
    SHARE_AREAS,
    SHARE_BARS,
    SHARE_COLUMNS,
    STACKED_BARS,
    STACKED_COLUMNS,
    WAFFLE,
)  # fmt: skip
from summula.core.charts.gridform import draw_grid
from summula.core.charts.heatgrid import draw_heat_grid
from summula.core.charts.histogram import draw_histogram
from summula.core.charts.keyfigureform import draw_key_figure_form
from summula.core.charts.lines import draw_lines
from summula.core.charts.multiples import Reach, Told, draw_multiples
from summula.core.charts.pictures import picture_of
from summula.core.charts.places import settled
from summula.core.charts.scatter import draw_scatter
from summula.core.charts.scene import (
    Area,
    Box,
    Group,
    Ink,
    Line,
    Mark,
    Mosaic,
    Path,
    Picture,
    Point,
    Scene,
    Text,
    Wedge,
    fitted,
    message,
    wrapped,
)  # fmt: skip
from summula.core.charts.slices import draw_pie, draw_ring
from summula.core.charts.waffle import draw_waffle
from summula.core.phrases.fitting import why_not
from summula.core.phrases.forms import FORMS, Form
from summula.core.theme.palettes import theme_of
from summula.core.theme.tokens import LIGHT, Theme

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid

_LEAST = (40.0, 30.0)  # pixels: less shows nothing
_ALL = ("words.note", "legend", "emphasis")
_SCALED = (
    "words.figures", "words.members", "scale.begin", "scale.low", "scale.high", "scale.step", "scale.log",
    "scale.reversed", "scale.hidden", "scale.span", "frame.grid_lines",
)  # fmt: skip
_SCALED_ALONG = (
    "scale.begin", "scale.low", "scale.high", "scale.step", "scale.log", "scale.reversed", "scale.span",
    "frame.grid_lines",
)  # fmt: skip
_LINES = ("reference", "second_reference")
_WORDS = ("words.figures", "words.members", "words.note")
_TWO_SCALES = ("scale.second", "words.second")


class Drawer(msgspec.Struct, frozen=True):
    """`listens`: the settings that the form heeds, by key or by group (see `settings.py`). `glyph`: its sign, as marks
    in 22 by 18 pixels. `scales`: how many units it can tell apart; 0 where each mark says its own.
    `told`: what a legend tells apart. `reach`: how it is known from where to where its scales go, before it is
    drawn."""

    draw: Callable[[Chart, Canvas], Scene]
    glyph: tuple[Mark, ...]
    listens: tuple[str, ...] = ()
    scales: int = 1
    told: Told = "series"
    reach: Reach = "drawn"


DRAWERS: dict[Form, Drawer] = {
    "grid": Drawer(draw_grid, GRID, scales=0, told=""),
    "columns": Drawer(
        draw_columns,
        COLUMNS,
        ("picture", *_LINES, "trend", "total", "frame", *_ALL, *_SCALED, *_TWO_SCALES, "labels", "colour"),
        scales=2,
        reach="figures",
    ),
    "bars": Drawer(
        draw_bars,
        BARS,
        ("picture", *_LINES, "total", *_ALL, "labels", "colour", "scale.low", "scale.high"),
        scales=0,
        reach="figures",
    ),
    "stacked columns": Drawer(
        draw_stacked_columns,
        STACKED_COLUMNS,
        (*_LINES, "total", "frame", *_ALL, *_SCALED, "labels", "colour"),
        reach="stacks",
    ),
    "stacked bars": Drawer(draw_stacked_bars, STACKED_BARS, ("total", *_ALL, "labels", "colour"), reach="stacks"),
    "share columns": Drawer(
        draw_share_columns, SHARE_COLUMNS, ("total", "frame", *_ALL, *_WORDS, "labels", "colour"), reach=""
    ),
    "share bars": Drawer(draw_share_bars, SHARE_BARS, ("total", *_ALL, "labels", "colour"), reach=""),
    "dots": Drawer(
        draw_dots,
        DOTS,
        (*_LINES, "total", *_ALL, *_SCALED_ALONG, "labels", "colour"),
        reach="figures",
    ),
    "lines": Drawer(
        draw_lines,
        LINES,
        (*_LINES, "trend", *_ALL, *_SCALED, *_TWO_SCALES, "labels", "lines"),
        scales=2,
        reach="figures",
    ),
    "columns and lines": Drawer(
        draw_columns_and_lines,
        COLUMNS_AND_LINES,
        ("picture", *_LINES, "trend", "frame", *_ALL, *_SCALED, *_TWO_SCALES, "labels", "colour", "lines"),
        scales=2,
        reach="figures",
    ),
    "areas": Drawer(draw_areas, AREAS, (*_LINES, *_WORDS, "legend", *_SCALED), reach="stacks"),
    "share areas": Drawer(draw_share_areas, SHARE_AREAS, (*_WORDS, "legend"), reach=""),
    "pie": Drawer(draw_pie, PIE, (*_ALL, "labels", "colour", "slices"), scales=0, told="members", reach=""),
    "ring": Drawer(draw_ring, RING, (*_ALL, "labels", "colour", "slices", "ring"), scales=0, told="members", reach=""),
    "waffle": Drawer(
        draw_waffle,
        WAFFLE,
        (*_ALL, "labels.says", "labels.joined", "labels.pattern", "colour"),
        scales=0,
        told="members",
        reach="",
    ),
    "heat grid": Drawer(
        draw_heat_grid,
        HEAT_GRID,
        (*_WORDS, "legend.place", "labels.show", "labels.pattern", "heat grid"),
        scales=0,
        told="",
    ),
    "scatter": Drawer(
        draw_scatter, SCATTER, (*_LINES, "trend", *_WORDS, "legend", *_SCALED, "labels.show"), scales=0, told="across"
    ),
    "bubbles": Drawer(
        draw_bubbles, BUBBLES, (*_LINES, "trend", *_WORDS, "legend", *_SCALED, "labels.show"), scales=0, told="across"
    ),
    "histogram": Drawer(draw_histogram, HISTOGRAM, (*_WORDS, "legend", "histogram", *_SCALED), told="across"),
    "box plot": Drawer(draw_boxes, BOXES, (*_LINES, *_WORDS, "legend", *_SCALED, "box plot")),
    "gauge": Drawer(draw_gauge, GAUGE, ("words.note", "words.figures", "gauge"), scales=0, told=""),
    "key figure": Drawer(
        draw_key_figure_form, KEY_FIGURE, ("words.note", "words.figures"), scales=0, told="", reach=""
    ),
    "cards": Drawer(draw_cards, CARDS, ("words.note", "emphasis"), scales=0, told="", reach=""),
}


def draw(chart: Chart, canvas: Canvas) -> Scene:
    """The scene of a chart on a canvas, once for each member where that is asked; where it cannot be drawn, it says
    why."""
    palette = theme_of(chart.look.palette)
    if palette is not LIGHT and canvas.theme is LIGHT:
        return _recoloured(draw(chart, replace(canvas, theme=palette)), palette)
    marks: list[Mark] = []
    head = _title(marks, chart, canvas) if FORMS[chart.form].multiples else 0.0
    room = replace(canvas, height=canvas.height - head)
    if chart.grid.several and FORMS[chart.form].multiples:
        scene = settled(
            draw_multiples(chart, room, draw_one, DRAWERS[chart.form].told, DRAWERS[chart.form].reach),
            canvas.text_width,
        )
    else:
        scene = draw_one(chart, room)
    behind = picture_of(chart, chart.style.picture.behind)
    if behind is not None:
        marks.insert(0, Picture(0, 0, canvas.width, canvas.height, behind.data, chart.style.picture.strength))
    if not marks:
        return scene
    return replace(scene, height=canvas.height, marks=(*marks, Group(0, head, scene.marks)))


def _recoloured(scene: Scene, palette: Theme) -> Scene:
    """The scene in the inks of a palette, as colours of their own: whoever paints it needs not know the palette."""

    def own(ink: Ink) -> Ink:
        return Ink(palette.hex(ink.token), ink.strength) if ink.token.startswith("series") else ink

    def coloured(mark: Mark) -> Mark:
        match mark:
            case Group():
                return replace(mark, marks=tuple(map(coloured, mark.marks)))
            case Picture():
                return mark
            case Box() if mark.edge is not None:
                return replace(mark, ink=own(mark.ink), edge=own(mark.edge))
            case Box() | Line() | Area() | Wedge() | Path() | Point() | Text() | Mosaic():
                return replace(mark, ink=own(mark.ink)) if mark.ink.token.startswith("series") else mark
            case _:
                assert_never(mark)

    return replace(scene, marks=tuple(map(coloured, scene.marks)))


TITLES = ("words.title", "words.line")
_TITLE, _LINE = 16.0, 12.0  # pixels


def _title(marks: list[Mark], chart: Chart, canvas: Canvas) -> float:
    """The title and the line below it, where there is room for both them and the chart; how many pixels they take."""
    words, head = chart.style.words, 0.0
    if canvas.height < 3 * _LEAST[1] + 40:
        return 0.0
    if words.title:
        text = fitted(words.title, canvas.width - 4, _TITLE * 1.06, 600, canvas.text_width)
        marks.append(Text(0, 15, text, Ink("ink"), _TITLE, 600, serif=True, full=words.title, part="Titles"))
        head = 26.0
    if words.line:
        for text in wrapped(words.line, canvas.width - 4, _LINE, 400, canvas.text_width)[:2]:
            marks.append(Text(0, head + 11, text, Ink("muted"), _LINE, full=words.line, part="Titles"))
            head += 16.0
        head += 4.0
    return head


def draw_one(chart: Chart, canvas: Canvas) -> Scene:
    """A single chart; see `draw`."""
    if canvas.width < _LEAST[0] or canvas.height < _LEAST[1]:
        return Scene(canvas.width, canvas.height, ())
    needs = FORMS[chart.form]
    why = why_not(chart.grid.phrase, chart.form) or _why_not_these(chart.grid, chart.form) or _why_not_on_scales(chart)
    if not why and chart.ghost is not None and needs.purpose == "parts of a whole" and not needs.series:
        why = _why_not_these(chart.ghost, chart.form)  # the whole is the one before slicing
    if not why and all(_all_blank(each, chart.form) for each in (chart.grid, chart.ghost) if each is not None):
        why = "No data: all values are blank"
    if why:
        return message(why, canvas.size, canvas.text_width)
    return settled(DRAWERS[chart.form].draw(chart, canvas), canvas.text_width)


_MOST_SERIES = 400  # lines, slices of a stack


def _why_not_these(grid: Grid, form: Form) -> str:
    """Why an answer cannot be drawn in a form, though its phrase could; empty when it can."""
    needs, finest = FORMS[form], grid.values[grid.finest]
    if needs.most_marks and finest.size > needs.most_marks:
        return f"{finest.size:,} marks are too many to read: keep the top few, or use a coarser heading"
    across = grid.columns.levels[-1].size
    if form != "grid" and across > _MOST_SERIES:  # where what stands along is cut, what stands across is not
        return f"{across:,} members across are too many to tell apart: swap rows and columns, or keep the top few"
    if needs.one_sign and bool(np.any(finest < 0)):
        instead = "columns" if needs.headings else "stacked columns or lines"
        shows = "show" if form.endswith("s") else "shows"
        return f"Some values are negative, and {needs.article} {shows} parts of a whole: draw {instead}"
    return ""


def _all_blank(grid: Grid, form: Form) -> bool:
    """Whether there are members, and none has a figure to draw; what only says figures says so itself."""
    needs, finest = FORMS[form], grid.values[grid.finest]
    marks = needs.purpose not in ("a table", "one figure") and not needs.sampled
    return marks and finest.size > 0 and bool(np.isnan(finest).all())


def _why_not_on_scales(chart: Chart) -> str:
    """Why the figures cannot share the scales of the form; empty when they can."""
    needs, scales = FORMS[chart.form], DRAWERS[chart.form].scales
    units = max(scales_of(chart) if scales > 1 else units_of(chart), default=0) + 1
    if scales and units > scales:
        if needs.additive:
            return "Values with different units cannot be stacked: use columns, or remove a measure"
        return f"{units} units need as many axes: remove a measure, or use bars"
    style = chart.style.scale
    if style.log and scales and not needs.sampled:
        finest = chart.grid.values[chart.grid.finest]
        if bool((finest <= 0).any()):
            return "A logarithmic axis cannot show zero or negative values: use a linear axis, or filter them out"
    return ""
