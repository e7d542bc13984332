"""Boards from nothing: whole ones for a table, empty layouts, and the panel that a field makes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.boards.arrangement import with_panel, with_slicer
from summula.core.boards.board import Board, FramePanel, KeyFigurePanel, Panel, Place, SummaryPanel
from summula.core.folio.model import Folio, Summary, free_name, taken_id, with_board, with_summary
from summula.core.language.starting import (
    StartingPoint,
    by_months,
    groups_of,
    measures_of,
    months_of,
    ordered_as,
    spans_of,
    starting_points,
    years_of,
)
from summula.core.language.vocabulary import Vocabulary
from summula.core.phrases.editing import default_aggregate
from summula.core.phrases.fitting import why_not
from summula.core.phrases.forms import FORMS
from summula.core.phrases.phrase import Aggregate, Measure, aggregates_of
from summula.core.phrases.printing import name_text
from summula.core.refusal import Refusal
from summula.core.slicing.making import slicer_for
from summula.core.statistics.distribution import distribution
from summula.core.tables.field import MEASURED
from summula.core.tables.periodnumbers import period_unit

if TYPE_CHECKING:
    from summula.core.phrases.forms import Form
    from summula.core.phrases.phrase import Phrase
    from summula.core.tables.table import Table

SLOT = "Drop a field here"
LAYOUTS: dict[str, tuple[Place, ...]] = {
    "One large": (Place(0, 0, 24, 18),),
    "Two halves": (Place(0, 0, 12, 18), Place(12, 0, 12, 18)),
    "Four quarters": (Place(0, 0, 12, 9), Place(12, 0, 12, 9), Place(0, 9, 12, 9), Place(12, 9, 12, 9)),
    "Figures and two": (
        *(Place(6 * at, 0, 6, 3) for at in range(4)), Place(0, 3, 12, 15), Place(12, 3, 12, 15),
    ),
    "Wide and three": (Place(0, 0, 24, 9), *(Place(8 * at, 9, 8, 9) for at in range(3))),
}  # fmt: skip
_FIGURES, _CHARTS = 4, 6


class BoardOffer(msgspec.Struct, frozen=True):
    """`points` become its charts, `measures` its key figures, `sliced` the fields it is sliced by; `dated` is the date
    of courses and comparisons. `charts` across stand beside each other."""

    name: str
    points: tuple[StartingPoint, ...]
    measures: tuple[Measure, ...]
    sliced: tuple[str, ...]
    dated: str | None
    charts: int = 2


def offered_boards(table: Table) -> list[BoardOffer]:
    """Three whole boards, the fewer where a table says less: an overview, one over time, one that compares."""
    from summula.core.language.grammar import parse  # what starting does not need

    dates, groups = spans_of(table), groups_of(table)
    dated = dates[0][0] if dates else None
    words = Vocabulary(table)
    texts = [text for text, _ in measures_of(table)][: _FIGURES - 1]
    flags = [field.name for field in table.fields if field.kind == "flag" and not field.hidden]
    said_yes = [f"rows for ({name_text(each)} is yes)" for each in flags]
    told = ["rows", *texts, *said_yes][:_FIGURES]
    measures = tuple(parse(f"show {text}", words).measures[0] for text in told)
    small = sorted(groups, key=lambda each: abs(each[1] - 8))
    sliced = tuple(name for name, _ in small[:3])
    first = texts[0] if texts else "rows"
    ruler = (dated,) if dated else ()
    years, months = years_of(table) if dated is None else [], months_of(table)
    if not ruler and years:
        ruler = (years[0][0],)
    found = [BoardOffer("Overview", tuple(starting_points(table)[:4]), measures, (*ruler, *sliced[:2]), dated)]
    if dated is not None:
        asked = [(f"{first} month by month", f"show {first} by year-month of {name_text(dated)} drawn as lines")]
        asked += [
            (f"{name} over time", f"show {first} by year-quarter of {name_text(dated)} across {name_text(name)} "
             f"keeping top 5 {name_text(name)} by {first} gathering the rest drawn as areas")
            for name, _ in small[:2]
        ]  # fmt: skip
        asked.append(("By weekday", f"show {first} by weekday of {name_text(dated)} drawn as columns"))
        found.append(BoardOffer("Over time", _points(asked, table, "lines"), measures, (*ruler, *sliced), dated))
    elif years:
        year = name_text(years[0][0])
        asked = [(f"{first} year by year", f"show {first} by {year} drawn as lines")]
        asked += [
            (f"{name} over time", f"show {first} by {year} across {name_text(name)} "
             f"keeping top 5 {name_text(name)} by {first} gathering the rest drawn as areas")
            for name, _ in small[:2] if name != months
        ]  # fmt: skip
        if months:
            asked.insert(1, (f"{first} month by month", by_months(table, first, months, years[0][0])))
        found.append(BoardOffer("Over time", _points(asked, table, "lines"), measures, (*ruler, *sliced), None))
    if groups:
        asked = [(f"{first} by {name}", _compared(table, first, name)) for name, _ in small[:4]]
        if len(small) > 1:
            one, other = (name_text(name) for name, _ in small[:2])
            asked.append(
                (f"{small[0][0]} and {small[1][0]}", f"show {first} by {one} across {other} drawn as heat grid")
            )
        asked.append((f"Share of {small[0][0]}", f"show {first} by {name_text(small[0][0])} drawn as ring"))
        found.append(BoardOffer("Compared", _points(asked, table, None), measures, (*ruler, *sliced[:2]), dated, 3))
    return [each for each in found if each.points]


def _compared(table: Table, first: str, name: str) -> str:
    """A phrase that compares the members of a field: the largest first, or months and weekdays as they follow."""
    order = ordered_as(table, name)
    if order:
        return f"show {first} by {name_text(name)}{order} drawn as columns"
    keeping = f"keeping top 10 {name_text(name)} by {first} gathering the rest"
    return f"show {first} by {name_text(name)} {keeping} ordered by {first}, largest first drawn as bars"


def _points(asked: Sequence[tuple[str, str]], table: Table, instead: Form | None) -> tuple[StartingPoint, ...]:
    """What can be drawn of it; `instead` of forms that these figures cannot be parts of, or left out."""
    from summula.core.language.grammar import parse  # what starting does not need

    found, words = [], Vocabulary(table)
    for name, text in asked:
        try:
            phrase = parse(text, words)
        except Refusal:
            continue
        if not _can_be_parts(phrase, table):
            if instead is None:
                continue
            phrase = replace(phrase, form=instead)
        found.append(StartingPoint(name.removeprefix("sum of ").strip()[:80], phrase))
    return tuple(found[:_CHARTS])


def _can_be_parts(phrase: Phrase, table: Table) -> bool:
    """Whether the form of a phrase takes its figures, as far as a look at the fields can tell: all of them add up, and
    none may be below nothing, where it shows parts of a whole."""
    if why_not(phrase, phrase.form):
        return False
    if not FORMS[phrase.form].one_sign:
        return True
    asked = (aggregate for measure in phrase.measures for aggregate in aggregates_of(measure.calculation))
    least = [distribution(table, each.field).least for each in asked if each.field is not None]
    return all(not isinstance(each, int | float) or each >= 0 for each in least)


def with_offer(folio: Folio, table_id: str, table: Table, offer: BoardOffer, board: Board) -> Folio:
    """The folio in which a board (an empty one of it, or a new one) is what was offered; its charts are summaries."""
    figures = offer.measures[:_FIGURES]
    wide = 24 // max(len(figures), 1)
    for at, measure in enumerate(figures):
        folio, key = taken_id(folio, "p")
        title = _title(measure)
        panel = KeyFigurePanel(key, Place(wide * at, 0, wide, 3), table_id, measure, offer.dated, title)
        board = with_panel(board, panel)
    for at, point in enumerate(offer.points):
        row, nth = divmod(at, offer.charts)
        across = 24 // min(offer.charts, len(offer.points) - row * offer.charts)  # the last row is filled, too
        folio, summary_id = taken_id(folio, "s")
        folio, key = taken_id(folio, "p")
        summary = Summary(summary_id, free_name(folio, point.name), table_id, point.phrase, style=folio.style)
        folio = with_summary(folio, summary)
        place = Place(nth * across, 3 + row * 8, across, 8)
        board = with_panel(board, SummaryPanel(key, place, summary_id, point.name))
    for name in offer.sliced:
        folio, key = taken_id(folio, "l")
        board = with_slicer(board, slicer_for(table, table_id, name, key))
    return with_board(folio, board)


def _title(measure: Measure) -> str:
    calculation = measure.calculation
    if isinstance(calculation, Aggregate) and calculation.field is not None:
        return calculation.field if calculation.function == "sum" else f"{calculation.function} {calculation.field}"
    if isinstance(calculation, Aggregate) and calculation.where:
        return f"{calculation.where[0].heading.field}: yes"
    return "Rows"


def with_layout(folio: Folio, board: Board, name: str) -> Folio:
    """The folio in which a board has the empty places of a layout."""
    for place in LAYOUTS[name]:
        folio, key = taken_id(folio, "p")
        board = with_panel(board, FramePanel(key, place, SLOT))
    return with_board(folio, board)


def with_field_panel(
    folio: Folio, board: Board, table_id: str, table: Table, name: str, place: Place, slot: str = ""
) -> tuple[Folio, str]:
    """The folio in which a field has made its panel on a board, and that panel's id: a number its key figure, a date a
    line, a flag a ring, any other field bars. In the place of the panel `slot`, where that is given."""
    from summula.core.language.grammar import parse  # what starting does not need

    field = table.field(name)
    spans = spans_of(table)
    folio, key = taken_id(folio, "p")
    measures = [text for text, _ in measures_of(table)]
    first = measures[0] if measures else "rows"
    panel: Panel
    if field.kind in MEASURED and not period_unit(table, name):
        measure = Measure(default_aggregate(table, name))
        panel = KeyFigurePanel(key, place, table_id, measure, spans[0][0] if spans else None, name)
    else:
        quoted = name_text(name)
        text, title = {
            "date": (f"show {first} by year-month of {quoted} drawn as lines", f"By month of {name}"),
            "flag": (f"show {first} by {quoted} drawn as ring", f"Share of {name}"),
        }.get(field.kind, (f"show {first} by {quoted} ordered by {first}, largest first drawn as bars", f"By {name}"))
        if field.kind == "number" or ordered_as(table, name):  # years, months and weekdays follow each other
            text = f"show {first} by {quoted}{ordered_as(table, name)} drawn as columns"
        folio, summary_id = taken_id(folio, "s")
        phrase = parse(text, Vocabulary(table))
        if not _can_be_parts(phrase, table):
            phrase, title = replace(phrase, form="bars"), f"By {name}"
        summary = Summary(summary_id, free_name(folio, title), table_id, phrase, style=folio.style)
        folio = with_summary(folio, summary)
        panel = SummaryPanel(key, place, summary_id, title)
    panels = tuple(each for each in board.panels if each.id != slot)
    return with_board(folio, with_panel(replace(board, panels=panels), panel)), key
