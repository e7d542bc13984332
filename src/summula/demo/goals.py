"""The demo's fourth board: what was taken against what was aimed at, from two linked tables; a lever and a note."""

from __future__ import annotations

from msgspec.structs import replace

from summula.core.boards.board import Board, LeverPanel, NamedSlicing, NotePanel, Place, SummaryPanel
from summula.core.charts.settings import Value, with_value
from summula.core.charts.style import PLAIN_STYLE, ChartStyle
from summula.core.fields.heading import Heading
from summula.core.folio.model import Summary
from summula.core.grids.measurestyle import MeasureSetting, MeasureStyle
from summula.core.phrases.lever import LeverSetting
from summula.core.slicing.linking import FieldOf, Link
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.summaries import Vocabulary, parse

LINKS = (
    Link(FieldOf("t1", "Route"), FieldOf("t2", "Route")),
    Link(FieldOf("t1", "Sailed on"), FieldOf("t2", "Month"), by="month"),
)
FARES = LeverSetting("Fare change", 0.0, -0.3, 0.3, 0.02, "0%", 0.0)
_GOAL = 'sum of "Takings goal" in "Monthly targets"'
_REACHED = f'sum of Takings / {_GOAL} called "Of the goal"'
_MARKS: dict[str, Value] = {"reference.at": "measure", "reference.name": "goal"}

_SUMMARIES: tuple[tuple[str, str, str, dict[str, Value], MeasureStyle], ...] = (
    ("s52", "Takings and goals, by month",
     f'show sum of Takings and {_GOAL} by year-month of "Sailed on" drawn as columns',
     _MARKS, MeasureStyle()),
    ("s53", "Takings and goals, by route", f"show sum of Takings and {_GOAL} by Route drawn as bars",
     _MARKS, MeasureStyle()),
    ("s54", "How much of the goal", f"show {_REACHED} drawn as gauge",
     {"gauge.low": 0.8, "gauge.high": 1.2, "gauge.fair": 0.95, "gauge.good": 1.0, "gauge.goal": 1.0},
     MeasureStyle(pattern="0%")),
    ("s55", "Where routes stand", f"show {_REACHED} by Route across year of \"Sailed on\"",
     {}, MeasureStyle(pattern="0%", goal=1.0)),
    ("s56", "If fares had changed",
     'show sum of Takings and sum of Takings * (1 + lever "Fare change") called "With other fares" '
     'by year of "Sailed on" drawn as columns', {}, MeasureStyle()),
)  # fmt: skip


def goal_summaries(words: Vocabulary) -> tuple[Summary, ...]:
    found = []
    for key, name, text, said, own in _SUMMARIES:
        style: ChartStyle = PLAIN_STYLE
        for setting, value in said.items():
            style = with_value(style, setting, value)
        summary = Summary(key, name, "t1", parse(text, words), style=style)
        if own != MeasureStyle():
            summary = replace(summary, measures=(MeasureSetting(summary.phrase.measures[0], own),))
        found.append(summary)
    return tuple(found)


def goals_board() -> Board:
    note = (
        "The fleet took **{sum of Takings}** in {period}. {names: top 2 Route by sum of Takings} lead; with fares "
        'changed by {lever "Fare change"} the slider on the right tells what would have come in.'
    )
    panels = (
        SummaryPanel("p81", Place(0, 0, 7, 7), "s54", "How much of the goal", "{period}"),
        NotePanel("p82", Place(7, 0, 9, 7), note, "Where we stand", "t1"),
        LeverPanel("p83", Place(16, 0, 8, 3), "Fare change", "Fare change"),
        SummaryPanel("p84", Place(16, 3, 8, 12), "s56", "If fares had changed", 'Fares {lever "Fare change"}'),
        SummaryPanel("p85", Place(0, 7, 16, 8), "s52", "Takings and goals", "By month, a mark at each goal"),
        SummaryPanel("p86", Place(0, 15, 12, 12), "s53", "By route", "A mark at each goal"),
        SummaryPanel("p87", Place(12, 15, 12, 12), "s55", "Where routes stand", "Takings as a share of the goal"),
    )
    slicers = (PeriodSlicer("l63", "t1", "Sailed on"), ListSlicer("l64", "t1", Heading("Route")))
    winter = (replace(slicers[0], first="2024-10", last="2025-03"), slicers[1])
    return Board("b61", "Against the goals", panels, slicers, (NamedSlicing("Winter 2024", winter),))
