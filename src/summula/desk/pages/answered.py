"""What a page has answered already: turning back to a summary works nothing out, and draws nothing, again."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple, TypeVar
from weakref import ref

if TYPE_CHECKING:
    from summula.core.boards.linkedtables import LinkedTables
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.scene import XY, Scene
    from summula.core.engine.grid import Grid
    from summula.core.phrases.phrase import Phrase
    from summula.core.slicing.linking import Link
    from summula.core.tables.table import Table
    from summula.core.theme.tokens import Theme

T = TypeVar("T")
MOST = 16  # summaries


class Answered(NamedTuple):
    """A grid, and what it answers. Tables are not held by it: who changes one has no need of the rows before."""

    phrase: Phrase
    tables: tuple[ref[Table], ...]  # the phrase's own, and those that are linked to it
    links: tuple[Link, ...]
    grid: Grid
    took: float  # seconds

    @classmethod
    def of(cls, phrase: Phrase, table: Table, others: LinkedTables, grid: Grid, took: float) -> Answered:
        asked = (table, *others.tables.values())
        return cls(phrase, tuple(ref(each) for each in asked), others.links, grid, took)

    def answers(self, phrase: Phrase, table: Table, others: LinkedTables) -> bool:
        asked = (table, *others.tables.values())
        same = len(asked) == len(self.tables) and all(
            each() is one for each, one in zip(self.tables, asked, strict=True)
        )
        return same and phrase == self.phrase and others.links == self.links

    @property
    def is_light(self) -> bool:
        """Whether it may be kept while other pages are in view: it holds no rows."""
        return self.grid.samples is None


class Drawn(NamedTuple):
    """A chart as it was drawn last."""

    chart: Chart
    theme: Theme
    size: XY
    scene: Scene

    def shows(self, chart: Chart, theme: Theme, canvas: Canvas) -> bool:
        alike = all(getattr(chart, name) == getattr(self.chart, name) for name in chart.__struct_fields__)
        return alike and theme is self.theme and canvas.size == self.size


def keep(kept: dict[str, T], summary: str, one: T) -> None:
    """Keep one of a summary, as the newest; the oldest goes where there are too many."""
    kept.pop(summary, None)
    kept[summary] = one
    while len(kept) > MOST:
        del kept[next(iter(kept))]
