"""What stands on a board, as frozen values; part of the folio."""

from typing import Literal

from summula.core.charts.style import Emphasis, Labels, Legend, Words
from summula.core.phrases.phrase import Measure, Struct
from summula.core.slicing.slicer import Slicer

COLUMNS = 24


class Place(Struct, frozen=True):
    """Where a panel stands: from `column` (0-23) and `row`, `width` columns by `height` rows."""

    column: int
    row: int
    width: int
    height: int

    def overlaps(self, other: "Place") -> bool:
        return (
            self.column < other.column + other.width
            and other.column < self.column + self.width
            and self.row < other.row + other.height
            and other.row < self.row + self.height
        )


class SummaryPanel(Struct, frozen=True, tag="summary"):
    """A summary of the folio, drawn in its own form. What is said of its words, figures on marks, legend and emphasis
    overrules the summary's own; nothing else of its style can be overruled."""

    id: str
    place: Place
    summary: str
    title: str = ""
    line: str = ""
    emphasis: Emphasis | None = None
    words: Words | None = None
    labels: Labels | None = None
    legend: Legend | None = None


class KeyFigurePanel(Struct, frozen=True, tag="key figure"):
    """One measure in large type. `dated` is the date field of its course and comparison; `rising` says
    whether a rise is a gain or a loss (delays, costs)."""

    id: str
    place: Place
    table: str
    measure: Measure
    dated: str | None = None
    title: str = ""
    rising: Literal["gain", "loss"] = "gain"


class NotePanel(Struct, frozen=True, tag="note"):
    """Words to read, in paragraphs."""

    id: str
    place: Place
    text: str = ""
    title: str = ""


Panel = SummaryPanel | KeyFigurePanel | NotePanel


class Board(Struct, frozen=True):
    """A page of panels, and the slicers that reach them."""

    id: str
    name: str
    panels: tuple[Panel, ...] = ()
    slicers: tuple[Slicer, ...] = ()

    def panel(self, panel_id: str) -> Panel:
        return next(panel for panel in self.panels if panel.id == panel_id)

    def slicer(self, slicer_id: str) -> Slicer:
        return next(slicer for slicer in self.slicers if slicer.id == slicer_id)

    @property
    def rows(self) -> int:
        """How many grid rows the panels take."""
        return max((panel.place.row + panel.place.height for panel in self.panels), default=0)
