"""What panels are answered from, and what they answer."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.slicing.slicer import Echo

if TYPE_CHECKING:
    from summula.core.boards.board import Board
    from summula.core.boards.linkedtables import LinkedTables
    from summula.core.charts.chart import Chart, SummaryLook
    from summula.core.charts.foliopicture import FolioPicture
    from summula.core.charts.keyfigure import KeyFigure
    from summula.core.engine.grid import Grid
    from summula.core.phrases.lever import LeverSetting
    from summula.core.phrases.phrase import Phrase
    from summula.core.slicing.linking import Link
    from summula.core.slicing.slicer import Narrowing
    from summula.core.tables.table import Table


class Asked(msgspec.Struct, frozen=True, eq=False):
    """What panels are answered from, beside the rows: phrases by summary (with its table's id), their looks, levers,
    when the rows of each table were read; the `tables` by id, the panel's `board`, and all `slicers` of it that move
    the panel. `unsliced`: whether it is shown what there was before slicing."""

    phrases: Mapping[str, tuple[str, Phrase]]
    looks: Mapping[str, SummaryLook] = {}
    levers: tuple[LeverSetting, ...] = ()
    read_at: Mapping[str, str] = {}
    links: tuple[Link, ...] = ()
    pictures: tuple[FolioPicture, ...] = ()
    tables: Mapping[str, Table] = {}
    slicers: tuple[Narrowing, ...] = ()
    board: Board | None = None
    unsliced: bool = True

    def others(self, home: str, *, echo: bool = False) -> LinkedTables:
        """The tables linked to one, under the slicers of the board; under what echoes as well with `echo`."""
        from summula.core.boards.linkedtables import LinkedTables

        moving = tuple(each for each in self.slicers if echo or not isinstance(each, Echo))
        return LinkedTables(home, self.tables, self.links, moving)


class PanelAnswer(msgspec.Struct, frozen=True, eq=False):
    """What a panel shows: a chart, a key figure (with the grid of its course), words, or why it can show nothing."""

    chart: Chart | None = None
    sparkline: Grid | None = None
    key_figure: KeyFigure | None = None
    words: str = ""
    refusal: str = ""
    caption: tuple[str, str] | None = None  # the title and the line below it, where they hold live figures
    lever: LeverSetting | None = None
    picture: tuple[FolioPicture, float] | None = None  # and how strong it is
    rule: str = ""

    @property
    def grid(self) -> Grid | None:
        """The grid that its marks stand for figures of."""
        return self.chart.grid if self.chart is not None else self.sparkline


def without_unsliced(answer: PanelAnswer) -> PanelAnswer:
    """The answer without what stands behind it: no figure or name that only rows before slicing give."""
    chart, key = answer.chart, answer.key_figure
    return replace(
        answer,
        chart=replace(chart, ghost=None) if chart is not None else None,
        key_figure=replace(key, before=math.nan, whole=math.nan) if key is not None else None,
    )
