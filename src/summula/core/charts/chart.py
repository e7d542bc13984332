"""What is drawn, and on what: the two values every form takes."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.charts.foliopicture import FolioPicture
from summula.core.charts.inks import MemberInk
from summula.core.charts.scene import XY, TextWidth
from summula.core.charts.style import PLAIN_STYLE, ChartStyle
from summula.core.fields.figures import FigureStyle
from summula.core.grids.gridlook import PLAIN_LOOK, GridLook
from summula.core.grids.measurestyle import styled
from summula.core.theme.palettes import Palette
from summula.core.theme.tokens import LIGHT, Theme
from summula.core.theme.typefaces import text_width as shipped_width

if TYPE_CHECKING:
    from summula.core.charts.course import Course
    from summula.core.engine.grid import Grid
    from summula.core.phrases.forms import Form
    from summula.core.tables.table import Table


class Canvas(msgspec.Struct, frozen=True, eq=False):
    """`width` and `height` in pixels; how wide texts are; the colours that marks will be painted in."""

    width: float
    height: float
    text_width: TextWidth = shipped_width
    theme: Theme = LIGHT

    @property
    def size(self) -> XY:
        return self.width, self.height


class SummaryLook(msgspec.Struct, frozen=True, gc=False):
    """What a summary says of its looks, with what levers set; and the folio, of its inks and pictures."""

    grid: GridLook = PLAIN_LOOK
    style: ChartStyle = PLAIN_STYLE
    inks: tuple[MemberInk, ...] = ()
    palette: Palette = Palette()
    pictures: tuple[FolioPicture, ...] = ()


PLAIN = SummaryLook()


class Chart(msgspec.Struct, frozen=True, eq=False):
    """A grid in its phrase's form. `styles` write the figures of each measure. `ghost`: the same grid before slicing.
    `part_way`: the last period is not over, but stops on `until`.
    `reach`: from where to where each scale goes at least, as others go that stand beside it. `ghost_words` say what
    the ghost is. `course`: the steps that it is played through."""

    grid: Grid
    styles: tuple[FigureStyle, ...]
    look: SummaryLook = PLAIN
    ghost: Grid | None = None
    part_way: bool = False
    until: str = ""
    reach: tuple[XY, ...] = ()
    ghost_words: str = "before slicing"
    course: Course | None = None

    @property
    def form(self) -> Form:
        return self.grid.phrase.form

    @property
    def style(self) -> ChartStyle:
        return self.look.style


def chart_of(
    grid: Grid,
    table: Table | None = None,
    look: SummaryLook = PLAIN,
    ghost: Grid | None = None,
    ghost_words: str = "before slicing",
) -> Chart:
    """The chart of an answer, for whoever shows it: a page, a board, a starting point, the command line. `table` tells
    whether the last period is over."""
    from summula.core.engine.periods import last_part_way

    part = last_part_way(table, grid) if table is not None else None
    styles = tuple(styled(own, look.grid.style_of(at)) for at, own in enumerate(grid.styles))
    until = part.edge_words if part else ""
    return Chart(grid, styles, look, ghost, part is not None, until, ghost_words=ghost_words)


def drawn_as(grid: Grid, form: Form) -> Grid:
    """The same answer in another form, where that asks for no other figures."""
    return grid if grid.phrase.form == form else replace(grid, phrase=replace(grid.phrase, form=form))
