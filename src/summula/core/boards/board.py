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
    overrules the summary's own; nothing else of its style can be overruled. `slices`: a click on a mark slices the
    board, and does not only echo."""

    id: str
    place: Place
    summary: str
    title: str = ""
    line: str = ""
    emphasis: Emphasis | None = None
    words: Words | None = None
    labels: Labels | None = None
    legend: Legend | None = None
    slices: bool = False
    locked: bool = False


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
    locked: bool = False


class NotePanel(Struct, frozen=True, tag="note"):
    """Words to read, in CommonMark; with live figures, which are of `table`."""

    id: str
    place: Place
    text: str = ""
    title: str = ""
    table: str = ""
    locked: bool = False


class LeverPanel(Struct, frozen=True, tag="lever"):
    """A lever of the folio, to be moved on the board."""

    id: str
    place: Place
    lever: str
    title: str = ""
    locked: bool = False


class SlicerPanel(Struct, frozen=True, tag="slicer"):
    """A slicer of the board, of this table, that stands here and not in the strip beside it."""

    id: str
    place: Place
    slicer: str
    table: str
    title: str = ""
    locked: bool = False


class PicturePanel(Struct, frozen=True, tag="picture"):
    """A picture of the folio, in its own shape; paler with a lesser `strength`."""

    id: str
    place: Place
    picture: str
    title: str = ""
    strength: float = 1.0
    locked: bool = False


class RulePanel(Struct, frozen=True, tag="rule"):
    """A line across its place, or upright."""

    id: str
    place: Place
    title: str = ""
    upright: bool = False
    locked: bool = False


class FramePanel(Struct, frozen=True, tag="frame"):
    """A framed area with a heading, behind other panels."""

    id: str
    place: Place
    title: str = ""
    locked: bool = False


class SourcesPanel(Struct, frozen=True, tag="sources"):
    """What the board's figures come from: its tables, how many rows they have, and when these were read."""

    id: str
    place: Place
    title: str = ""
    locked: bool = False


Panel = (
    SummaryPanel
    | KeyFigurePanel
    | NotePanel
    | LeverPanel
    | SlicerPanel
    | PicturePanel
    | RulePanel
    | FramePanel
    | SourcesPanel
)
Frames = Literal["card", "line", "none"]


class NamedSlicing(Struct, frozen=True):
    """A board's slicing, kept under a name: its slicers as they were set."""

    name: str
    slicers: tuple[Slicer, ...] = ()


class Underlay(Struct, frozen=True):
    """A picture of the folio under the whole board, faded, to match an agreed sketch by."""

    picture: str
    strength: float = 0.3


class Board(Struct, frozen=True):
    """A page of panels, and the slicers that reach them. `frames`: how panels are set off from the paper."""

    id: str
    name: str
    panels: tuple[Panel, ...] = ()
    slicers: tuple[Slicer, ...] = ()
    slicings: tuple[NamedSlicing, ...] = ()
    underlay: Underlay | None = None
    frames: Frames = "card"

    def panel(self, panel_id: str) -> Panel:
        return next(panel for panel in self.panels if panel.id == panel_id)

    def slicer(self, slicer_id: str) -> Slicer:
        return next(slicer for slicer in self.slicers if slicer.id == slicer_id)

    @property
    def rows(self) -> int:
        """How many grid rows the panels take."""
        return max((panel.place.row + panel.place.height for panel in self.panels), default=0)
