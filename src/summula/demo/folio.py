"""The demo's folio: two tables, their summaries, three boards."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Literal

from msgspec.structs import replace

from summula.core.boards.board import Board, KeyFigurePanel, Panel, Place, SummaryPanel
from summula.core.charts.style import Emphasis
from summula.core.fields.heading import Heading
from summula.core.folio.model import Folio, Summary
from summula.core.folio.opened import Opened, entry_of
from summula.core.reading.readers import table_from_frame
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.summaries import Vocabulary, parse
from summula.core.tables.field import Field
from summula.demo.company import sailings, targets
from summula.demo.goals import FARES, LINKS, goal_summaries, goals_board
from summula.demo.portrait import BUSIEST, INKS, portrait_board, portrait_summaries, sea

if TYPE_CHECKING:
    from summula.core.phrases.phrase import Measure
    from summula.core.tables.table import Table

_MEANINGS = {
    "Sailing no.": "Harbour office running number, one for each departure and ticket class.",
    "Sailed on": "The day of the departure.",
    "Booked on": "The day the ticket was bought; on the quay, the day of sailing.",
    "Vehicles": "Cars and vans carried, on vehicle tickets only.",
    "Distance (nm)": "Length of the route in nautical miles.",
    "Takings": "What the ticket class brought in on this departure. Refunds are negative.",
    "Running cost": "The ticket class's part of fuel, crew and harbour dues.",
    "Delay (min)": "Minutes late at the far quay; blank where nobody wrote it down.",
}
_PATTERNS = {"Takings": "£#,##0", "Running cost": "£#,##0", "Takings goal": "£#,##0"}

SUMMARIES: tuple[tuple[str, str], ...] = (
    (
        "Takings by route",
        'show sum of Takings and sum of Takings as share of all by Route then Vessel across year of "Sailed on" '
        'where Ticket is not "Staff pass" keeping top 5 Route by sum of Takings gathering the rest '
        "ordered by sum of Takings, largest first",
    ),
    (
        "Takings, month by month",
        'show sum of Takings by month of "Sailed on" across year of "Sailed on" drawn as lines',
    ),
    (
        "Net result by month",
        'show sum of Takings - sum of "Running cost" called "Net result" by month of "Sailed on" drawn as columns',
    ),
    (
        "Where the takings come from",
        "show sum of Takings by Vessel ordered by sum of Takings, largest first drawn as bars",
    ),
    (
        "Passengers by ticket",
        'show sum of Passengers by year of "Sailed on" then quarter of "Sailed on" across Ticket '
        "keeping top 4 Ticket by sum of Passengers gathering the rest drawn as stacked columns",
    ),
)


def demo_tables(files: Path | None = None) -> dict[str, Table]:
    """Both tables, encoded, under the ids the folio uses. `files` is where they stand as files."""
    rows = sailings()
    goals = targets(rows)

    def place(name: str) -> str:
        return str(files / name) if files is not None else ""

    return {
        "t1": _described(table_from_frame("Sailings", rows, {"Sailing no.": "code"}, source=place("sailings.csv"))),
        "t2": _described(table_from_frame("Monthly targets", goals, source=place("monthly-targets.csv"))),
    }


def _described(table: Table) -> Table:
    for field in table.fields:
        new = Field(field.name, field.kind, _MEANINGS.get(field.name, ""), _PATTERNS.get(field.name, ""), field.total)
        if field.name in ("Delay (min)", "Distance (nm)"):
            new = replace(new, total="mean")
        table = table.with_field(field.name, new)
    return table


def demo_folio(files: Path | None = None) -> Opened:
    """The folio as `summula demo` opens it, with its tables' files in the folder `files`."""
    tables = demo_tables(files)
    words = Vocabulary(tables["t1"], (FARES.name,), others=(tables["t2"],))
    summaries = tuple(
        Summary(f"s{at}", name, "t1", parse(text, words)) for at, (name, text) in enumerate(SUMMARIES, start=3)
    )
    entries = tuple(entry_of(key, table) for key, table in tables.items())
    boards = (_season_board(words), _vessel_board(words), portrait_board(), goals_board())
    folio = Folio(
        "Skerry Ferries", entries, (*summaries, *portrait_summaries(words), *goal_summaries(words)), boards, next_id=90,
        levers=(BUSIEST, FARES), inks=INKS, pictures=(sea(),), links=LINKS,
    )  # fmt: skip
    return Opened(folio, tables)


def _measure(text: str, words: Vocabulary) -> Measure:
    return parse(f"show {text}", words).measures[0]


def _season_board(words: Vocabulary) -> Board:
    def key(panel_id: str, column: int, title: str, text: str, rising: Literal["gain", "loss"] = "gain") -> Panel:
        return KeyFigurePanel(panel_id, Place(column, 0, 6, 3), "t1", _measure(text, words), "Sailed on", title, rising)

    panels: tuple[Panel, ...] = (
        key("p11", 0, "Takings", "sum of Takings"),
        key("p12", 6, "Passengers", "sum of Passengers"),
        key("p13", 12, "Net result", 'sum of Takings - sum of "Running cost"'),
        key("p14", 18, "Median delay, minutes", 'median of "Delay (min)"', "loss"),
        SummaryPanel(
            "p15",
            Place(0, 3, 12, 9),
            "s4",
            "Takings, month by month",
            "A line a year, dashed where a month is part-way",
        ),
        SummaryPanel(
            "p16",
            Place(12, 3, 12, 9),
            "s6",
            "Where the takings come from",
            "The five largest strong; pale behind: before slicing",
            emphasis=Emphasis("top", 5),
        ),
        SummaryPanel(
            "p17",
            Place(0, 12, 12, 8),
            "s5",
            "Net result by month",
            "All years together, takings less running cost",
        ),
        SummaryPanel("p18", Place(12, 12, 12, 8), "s7", "Passengers by ticket", "Quarter by quarter"),
    )
    slicers = (
        PeriodSlicer("l21", "t1", "Sailed on"),
        ListSlicer("l22", "t1", Heading("Route")),
        ListSlicer("l23", "t1", Heading("Ticket")),
    )
    return Board("b8", "Season at a glance", panels, slicers)


def _vessel_board(words: Vocabulary) -> Board:
    def key(panel_id: str, column: int, title: str, text: str, rising: Literal["gain", "loss"] = "gain") -> Panel:
        return KeyFigurePanel(panel_id, Place(column, 0, 8, 3), "t1", _measure(text, words), "Sailed on", title, rising)

    panels: tuple[Panel, ...] = (
        key("p31", 0, "Takings per passenger", "sum of Takings / sum of Passengers"),
        key("p32", 8, "Passengers", "sum of Passengers"),
        key("p33", 16, "Mean delay, minutes", 'mean of "Delay (min)"', "loss"),
        SummaryPanel("p34", Place(0, 3, 14, 17), "s3", "Takings by route", "Five busiest routes and their vessels"),
        SummaryPanel(
            "p35",
            Place(14, 3, 10, 9),
            "s6",
            "Where the takings come from",
            "£, all routes in play",
            emphasis=Emphasis("top", 3),
        ),
        SummaryPanel("p36", Place(14, 12, 10, 8), "s4", "Takings, month by month", ""),
    )
    slicers = (
        PeriodSlicer("l24", "t1", "Sailed on"),
        ListSlicer("l25", "t1", Heading("Vessel")),
        ListSlicer("l26", "t1", Heading("Weather")),
    )
    return Board("b9", "Vessel review", panels, slicers)
