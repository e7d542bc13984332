"""Whether a folio makes sense: checked in one place once it is decoded, since it may come from a stranger.

What fails is set aside, each with a sentence that names its page; the rest opens. Nothing here reads rows.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from functools import partial
from typing import TYPE_CHECKING, TypeVar

from msgspec.structs import replace

from summula.core.boards.board import COLUMNS, Board, Panel, Place
from summula.core.boards.panelkinds import kind_of
from summula.core.charts.foliopicture import FolioPicture, checked_picture
from summula.core.charts.settings import checked_chart
from summula.core.charts.style import ChartStyle
from summula.core.fields.figures import checked_pattern
from summula.core.folio.opened import Problem
from summula.core.folio.palettefile import checked_palette
from summula.core.grids.layout import Layout
from summula.core.grids.measurestyle import MeasureSetting, MeasureStyle
from summula.core.phrases.lever import LeverSetting
from summula.core.phrases.lever import checked as checked_lever
from summula.core.phrases.phrase import MOST_MEASURES, Aggregate, Measure, Phrase, figures_shown
from summula.core.phrases.wellformed import check_conditions, check_heading, checked_phrase
from summula.core.preparation import steps as step_types
from summula.core.reading.heads import MOST_FIELDS
from summula.core.refusal import Refusal, shortened
from summula.core.slicing.slicerkinds import slicer_kind
from summula.core.theme.palettes import Palette
from summula.core.theme.tokens import SERIES, SHADES

if TYPE_CHECKING:
    from summula.core.folio.model import Folio, Source, Summary, TableEntry
    from summula.core.preparation.steps import AnyStep
    from summula.core.slicing.linking import Link
    from summula.core.slicing.slicer import Slicer
    from summula.core.tables.field import Field

_ID = re.compile(r"[A-Za-z0-9_-]{1,40}")
_MOST_PICTURES = 40
_MOST_INKS = 10_000  # of members
_MOST_PAGES, _MOST_PANELS, _MOST_SLICERS, _MOST_STEPS, _MOST_LEVERS = 2_000, 200, 60, 1_000, 500
_MOST_NAME, _MOST_PLACE = 500, 4_096  # letters
_MOST_FOLDED, _MOST_WIDTHS = 100_000, 1_000
_LOWEST_ROW, _TALLEST, _WIDEST = 2_000, 200, 10_000
_MOST_LINKS = 500
_MOST_ID = 10**9
_T = TypeVar("_T")


def sound(folio: Folio) -> tuple[Folio, tuple[Problem, ...]]:
    """The folio with what makes no sense set aside, and a sentence for each such thing."""
    return _Checking().folio(folio)


class _Checking:
    def __init__(self) -> None:
        self.problems: list[Problem] = []
        self.ids: set[str] = set()

    def tell(self, page: str, what: str, fault: Refusal | str) -> None:
        why = str(fault)
        self.problems.append(Problem(page, f"{what} was skipped: {why}."))

    def tried(self, page: str, what: str, check: Callable[[], _T], instead: _T) -> _T:
        """What the check gives; where it refuses, that is told and the other taken."""
        try:
            return check()
        except Refusal as refusal:
            self.tell(page, what, refusal)
            return instead

    def single(self, things: Iterable[_T], what: str, page: str, most: int, id_of: Callable[[_T], str]) -> list[_T]:
        """The things whose identity is well formed and taken by no other, and no more than so many."""
        kept: list[_T] = []
        for each in things:
            name = id_of(each)
            if not _ID.fullmatch(name) or name in self.ids:
                self.tell(page, f"A {what}", f"its identity '{shortened(name)}' is not its own")
            elif len(kept) == most:
                self.tell(page, f"A {what}", f"there are more than {most:,}")
                break
            else:
                self.ids.add(name)
                kept.append(each)
        return kept

    # -- the folio ---------------------------------------------------------------------------------

    def folio(self, folio: Folio) -> tuple[Folio, tuple[Problem, ...]]:
        year = folio.year_begins
        if not 1 <= year <= 12:
            self.tell("", f"Month {year} as the fiscal year's first", "there are twelve")
            year = 1
        levers = self.levers(folio.levers)
        palette = self.tried("", "The palette", lambda: checked_palette(folio.palette), Palette())
        inks = tuple(each for each in folio.inks[:_MOST_INKS] if 0 <= each.ink < SERIES * SHADES)
        if len(inks) < len(folio.inks):
            self.tell("", "Some inks of members", "these colours do not exist")
        tables = [self.table(each) for each in self.single(folio.tables, "table", "", _MOST_PAGES, lambda t: t.id)]
        known = {each.id for each in tables}
        tables = [replace(each, steps=self.steps(each, known)) for each in tables]
        summaries = []
        for summary in self.single(folio.summaries, "summary", "", _MOST_PAGES, lambda s: s.id):
            if summary.table in known:
                summaries.append(self.summary(summary))
            else:
                self.tell("", f"The summary “{_short(summary.name)}”", "its table is missing")
        boards = [
            self.board(each, known) for each in self.single(folio.boards, "board", "", _MOST_PAGES, lambda b: b.id)
        ]
        numbers = [int(found[0]) for each in self.ids if (found := re.search(r"\d{1,12}$", each))]
        return (
            replace(
                folio,
                name=_short(folio.name),
                tables=tuple(tables),
                summaries=tuple(summaries),
                boards=tuple(boards),
                levers=levers,
                year_begins=year,
                inks=inks,
                links=self.links(folio.links, tables),
                style=self.tried("", "How charts look", lambda: checked_chart(folio.style), ChartStyle()),
                pictures=self.pictures(folio.pictures),
                palette=palette,
                next_id=min(max([folio.next_id, 1, *(number + 1 for number in numbers)]), _MOST_ID),
            ),
            tuple(self.problems),
        )

    def levers(self, levers: tuple[LeverSetting, ...]) -> tuple[LeverSetting, ...]:
        kept: dict[str, LeverSetting] = {}
        for each in levers[:_MOST_LEVERS]:
            what = f"The lever “{_short(each.name)}”"
            try:
                checked_pattern(each.pattern)
                if len(each.name) > _MOST_NAME or each.name in kept:
                    raise Refusal("its name is already used")
                kept[each.name] = checked_lever(each)
            except Refusal as refusal:
                self.tell("", what, refusal)
        return tuple(kept.values())

    def links(self, links: tuple[Link, ...], tables: Sequence[TableEntry]) -> tuple[Link, ...]:
        there = {(table.id, field.name) for table in tables for field in table.fields}
        kept = []
        for each in links[:_MOST_LINKS]:
            ends = (each.first, each.second)
            if each.first.table != each.second.table and all((end.table, end.field) in there for end in ends):
                kept.append(each)
            else:
                what = f"The link of “{_short(each.first.field)}” to “{_short(each.second.field)}”"
                self.tell("", what, "one of the fields does not exist")
        return tuple(kept)

    def pictures(self, pictures: tuple[FolioPicture, ...]) -> tuple[FolioPicture, ...]:
        kept = []
        for each in self.single(pictures[:_MOST_PICTURES], "picture", "", _MOST_PICTURES, lambda picture: picture.id):
            try:
                checked_picture(each.data)
                kept.append(replace(each, name=_short(each.name)))
            except Refusal as refusal:
                self.tell("", f"The picture “{_short(each.name)}”", refusal)
        return tuple(kept)

    # -- tables ------------------------------------------------------------------------------------

    def table(self, entry: TableEntry) -> TableEntry:
        name = _short(entry.name)
        appended = self.single(entry.appended, "file appended to a table", entry.id, _MOST_PAGES, lambda s: s.id)
        source = entry.source
        if not _ID.fullmatch(source.id) or (source.id != entry.id and source.id in self.ids):
            self.tell(entry.id, f"The rows of “{name}”", "their id is already used")
            source = replace(source, id=entry.id)
        self.ids.add(source.id)
        return replace(
            entry,
            name=name,
            source=self.source(source, entry.id),
            fields=self.fields(entry.fields, entry.id),
            appended=tuple(self.source(each, entry.id) for each in appended),
            rows=max(entry.rows, 0),
        )

    def source(self, source: Source, page: str) -> Source:
        place = source.place
        if not place.isprintable() or len(place) > _MOST_PLACE:
            self.tell(page, "Where the file was", "the file path is not valid")
            place = ""
        fields = self.fields(source.fields, page)
        sensed = source.sensed if len(source.sensed) == len(fields) else ()
        return replace(
            source, place=place, fields=fields, sensed=sensed, rows=max(source.rows, 0), reading=max(source.reading, 0)
        )

    def fields(self, fields: tuple[Field, ...], page: str) -> tuple[Field, ...]:
        kept: dict[str, Field] = {}
        for each in fields:
            if each.name in kept or not each.name or len(each.name) > _MOST_NAME * 4 or len(kept) == MOST_FIELDS:
                self.tell(page, f"The field “{_short(each.name)}”", "its name is already used")
                continue
            what = f"The pattern of “{_short(each.name)}”"
            pattern = self.tried(page, what, lambda each=each: checked_pattern(each.pattern), "")  # type: ignore[misc]
            kept[each.name] = replace(each, pattern=pattern)
        return tuple(kept.values())

    def steps(self, entry: TableEntry, tables: set[str]) -> tuple[AnyStep, ...]:
        kept: list[AnyStep] = []
        parts = {source.id for source in entry.appended}
        for each in entry.steps:
            if len(kept) == _MOST_STEPS:
                self.tell(entry.id, "The preparation's end", f"there are more than {_MOST_STEPS:,} steps")
                break
            try:
                _check_step(each, tables, parts)
            except Refusal as refusal:
                self.tell(entry.id, "A step of the preparation", refusal)
            else:
                kept.append(each)
        return tuple(kept)

    # -- summaries ---------------------------------------------------------------------------------

    def summary(self, summary: Summary) -> Summary:
        page = summary.id
        rows = Phrase((Measure(Aggregate("rows")),))
        phrase = self.tried(page, "The phrase", lambda: checked_phrase(summary.phrase), rows)
        shown = figures_shown(phrase)
        measures = []
        for each in summary.measures[:MOST_MEASURES]:
            if each.measure in shown:
                checked = partial(_checked_style, each.style)
                style = self.tried(page, "How a measure looks", checked, MeasureStyle())
                measures.append(MeasureSetting(each.measure, style))
        folded, across = summary.folded[:_MOST_FOLDED], summary.folded_across[:_MOST_FOLDED]

        def drilled() -> bool:
            for way in summary.drilled:
                check_heading(way.heading)
                check_heading(way.by)
                check_conditions((*way.conditions, *way.removed))
                checked_phrase(replace(rows, keeping=way.keeping, order=way.order))
            for heading in summary.path:
                check_heading(heading)
            return True

        sound_ways = self.tried(page, "The drill path", drilled, False)
        return replace(
            summary,
            name=_short(summary.name),
            phrase=phrase,
            measures=tuple(measures),
            style=self.tried(page, "How its chart looks", lambda: checked_chart(summary.style), ChartStyle()),
            folded=folded,
            folded_across=across,
            layout=self.tried(page, "The layout", lambda: _checked_layout(summary.layout), Layout()),
            drilled=summary.drilled[:100] if sound_ways else (),
            path=summary.path[:100] if sound_ways else (),
        )

    # -- boards ------------------------------------------------------------------------------------

    def board(self, board: Board, tables: set[str]) -> Board:
        page = board.id
        panels = []
        for panel in self.single(board.panels, "panel", page, _MOST_PANELS, lambda each: each.id):
            try:
                panels.append(_checked_panel(panel, tables))
            except Refusal as refusal:
                self.tell(page, f"The panel “{_short(panel.title) or panel.id}”", refusal)
        slicers = []
        for slicer in self.single(board.slicers, "slicer", page, _MOST_SLICERS, lambda each: each.id):
            try:
                slicers.append(_checked_slicer(slicer, tables))
            except Refusal as refusal:
                self.tell(page, "A slicer", refusal)
        return replace(board, name=_short(board.name), panels=tuple(panels), slicers=tuple(slicers))


def _short(name: str) -> str:
    """A name on one line, of a length that can be shown."""
    return " ".join(name.split())[:_MOST_NAME]


def _check_step(step: AnyStep, tables: set[str], parts: set[str]) -> None:
    match step:
        case step_types.Rows():
            check_conditions(step.where)
        case step_types.AddPart():
            if not 1 <= step.starts <= 12:
                raise Refusal(f"a year does not begin with month {step.starts}", "enter 1 to 12")
        case step_types.AddBands():
            if len(step.labels) > 10_000:
                raise Refusal("it has too many bands")
        case step_types.Append():
            if step.part not in parts:
                raise Refusal(f"the rows of '{_short(step.name)}' are missing", "append the file again")
        case step_types.AddLookup():
            if step.table not in tables:
                raise Refusal("the table to look up in is missing", "choose another")
            if step.called and len(step.called) != len(step.fields):
                raise Refusal("the names of the added fields do not match")
        case _:
            pass  # the step itself refuses what it cannot do


def _checked_style(own: MeasureStyle) -> MeasureStyle:
    checked_pattern(own.pattern)
    if own.goal is not None and not abs(own.goal) < 1e300:
        raise Refusal("its goal is not a valid number", "enter another")
    return own


def _checked_layout(layout: Layout) -> Layout:
    widths = [layout.head_width, *(each.width for each in layout.widths)]
    if len(widths) > _MOST_WIDTHS or not all(0 <= width <= _WIDEST for width in widths):
        raise Refusal("its columns are too wide", "set the widths again")
    if max(len(layout.bottom_name), len(layout.subtotal_name), len(layout.across_name)) > _MOST_NAME:
        raise Refusal("the labels of its totals are too long", "enter shorter ones")
    return layout


def _check_place(place: Place) -> None:
    if not (
        0 <= place.column < COLUMNS
        and 1 <= place.width <= COLUMNS - place.column
        and 0 <= place.row <= _LOWEST_ROW
        and 1 <= place.height <= _TALLEST
    ):
        raise Refusal("it lies outside the board", "place it again")


def _checked_panel(panel: Panel, tables: set[str]) -> Panel:
    _check_place(panel.place)
    kind_of(panel).check(panel, tables)
    texts = {name: _short(getattr(panel, name)) for name in ("title", "line") if hasattr(panel, name)}
    return replace(panel, **texts)


def _checked_slicer(slicer: Slicer, tables: set[str]) -> Slicer:
    if slicer.table not in tables:
        raise Refusal("its table is missing", "choose another")
    if len(slicer.spares) > _MOST_PANELS:
        raise Refusal("it excludes more panels than the board has", "set the panels it affects again")
    slicer_kind(slicer).check(slicer)
    return slicer
