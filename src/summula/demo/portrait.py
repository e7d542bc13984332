"""The demo's third board: the season in every kind of chart, and the summaries that stand on it."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace

from summula.core.boards.board import Board, Panel, Place, SummaryPanel
from summula.core.charts.foliopicture import FolioPicture
from summula.core.charts.inks import MemberInk
from summula.core.charts.settings import Value, with_value
from summula.core.charts.style import PLAIN_STYLE, ChartStyle
from summula.core.fields.heading import Heading
from summula.core.folio.model import Summary
from summula.core.grids.measurestyle import MeasureSetting, MeasureStyle
from summula.core.phrases.lever import LeverSetting
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.summaries import Vocabulary, parse

_NET = 'sum of Takings - sum of "Running cost" called "Net"'
_MONTHS = 'month of "Sailed on"'
_BANDS = '"Distance (nm)" in bands of 10'
_GROWTH = (
    'sum of Takings for (year of "Sailed on" is 2024) / sum of Takings for (year of "Sailed on" is 2023) - 1 '
    'called "Growth in 2024"'
)
_ON_TIME = 'rows for ("Delay (min)" is at most 10) / count of "Delay (min)" called "Within ten minutes"'
BUSIEST = LeverSetting("Busiest", 2, 0, 4, 1)
INKS = tuple(
    MemberInk("Ticket", ticket, ink)
    for ticket, ink in (
        ("Day return", 0),
        ("Single", 1),
        ("Islander pass", 2),
        ("Vehicle", 4),
        ("Group", 5),
        ("Child", 7),
    )
)

# By id: name, phrase, what its style sets, and a pattern for its first figure.
_SUMMARIES: tuple[tuple[str, str, str, dict[str, Value], str], ...] = (
    ("s40", "Takings against passengers", "show sum of Takings against sum of Passengers by Route drawn as scatter",
     {"trend.kind": "line"}, ""),
    ("s41", "Delay by weather", 'show each row of "Delay (min)" by Weather drawn as box plot',
     {"box plot.mean": True, "reference.at": "figure", "reference.figure": 10.0, "reference.name": "promised"}, ""),
    ("s42", "How far they sail", f"show rows by {_BANDS} drawn as waffle", {}, ""),
    ("s43", "Short trips and long ones", f"show rows and mean of Takings by {_BANDS} drawn as columns and lines",
     {"picture.id": "g60", "picture.how": "cut out", "emphasis.end": "top", "emphasis.lever": "Busiest",
      "words.members": "nautical miles"}, ""),
    ("s44", "Share of tickets", "show sum of Takings by Ticket drawn as ring", {}, ""),
    ("s45", "Routes",
     "show sum of Takings by Route keeping top 5 Route by sum of Takings gathering the rest drawn as pie", {}, ""),
    ("s46", "Net, month by month", f"show {_NET} by {_MONTHS} drawn as columns",
     {"total.shown": True, "total.name": "Year", "reference.at": "mean"}, ""),
    ("s47", "Takings, cost and what is left",
     f'show sum of Takings and sum of "Running cost" and {_NET} by {_MONTHS} drawn as columns and lines',
     {"colour.by": "measure", "scale.second": "tied"}, ""),
    ("s48", "Full ships and full tills",
     "show rows by Takings in bands of 500 from 0 to 3000 across Passengers in bands of 25 from 0 to 150 "
     "drawn as heat grid",
     {"words.members": "Passengers", "words.figures": "Sailings, by takings"}, ""),
    ("s49", "Growth on a year earlier", f"show {_GROWTH} drawn as gauge",
     {"gauge.low": -0.1, "gauge.high": 0.2, "gauge.fair": 0.0, "gauge.good": 0.05, "gauge.goal": 0.08}, "0.0%"),
    ("s50", "Punctuality against goal", f"show {_ON_TIME} by Vessel drawn as bars",
     {"reference.at": "figure", "reference.figure": 0.78, "reference.name": "goal", "emphasis.end": "at least",
      "emphasis.figure": 0.78}, "0%"),
    ("s51", "Months of each route", f"show sum of Takings by {_MONTHS} drawn as columns for each Route", {}, ""),
)  # fmt: skip


def portrait_summaries(words: Vocabulary) -> tuple[Summary, ...]:
    found = []
    for key, name, text, said, pattern in _SUMMARIES:
        style: ChartStyle = PLAIN_STYLE
        for setting, value in said.items():
            style = with_value(style, setting, value)
        summary = Summary(key, name, "t1", parse(text, words), style=style)
        if pattern:
            setting_of = MeasureSetting(summary.phrase.measures[0], MeasureStyle(pattern=pattern))
            summary = replace(summary, measures=(setting_of,))
        found.append(summary)
    return tuple(found)


def sea() -> FolioPicture:
    return FolioPicture("g60", "The sea", (Path(__file__).parent / "sea.png").read_bytes())


def portrait_board() -> Board:
    def panel(
        key: str, summary: str, column: int, row: int, size: tuple[int, int], title: str, line: str = ""
    ) -> Panel:
        return SummaryPanel(key, Place(column, row, *size), summary, title, line)

    panels = (
        panel("p61", "s40", 0, 0, (8, 8), "Takings against passengers", "A point a route"),
        panel("p62", "s46", 8, 0, (10, 8), "Net, month by month", "{period}, the year set apart"),
        panel("p63", "s49", 18, 0, (6, 8), "Growth on a year earlier", "2024 against 2023"),
        panel("p64", "s43", 0, 8, (9, 8), "Short trips and long ones", 'The {lever "Busiest"} busiest bands strong'),
        panel("p65", "s42", 9, 8, (7, 8), "How far they sail", "A square for each percent of {rows} sailings"),
        panel("p66", "s41", 16, 8, (8, 8), "Delay by weather", "Minutes; a cross at the mean"),
        panel("p67", "s44", 0, 16, (8, 8), "Share of tickets", "{sum of Takings} in all"),
        panel("p68", "s45", 8, 16, (8, 8), "Routes", "{names: top 2 Route by sum of Takings} lead"),
        panel("p69", "s50", 16, 16, (8, 8), "Punctuality against goal", "Sailings at most ten minutes late"),
        panel("p70", "s47", 0, 24, (12, 8), "Takings, cost and what is left", "Columns in the ink of the result"),
        panel("p71", "s48", 12, 24, (12, 8), "Full ships and full tills", "Sailings by passengers and takings"),
        panel("p72", "s51", 0, 32, (24, 10), "Months of each route", "All on one scale"),
    )
    slicers = (PeriodSlicer("l61", "t1", "Sailed on"), ListSlicer("l62", "t1", Heading("Vessel")))
    return Board("b60", "The season in pictures", panels, slicers)
