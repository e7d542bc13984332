"""The folio as a value. An edit makes a new one; these structs are the file format as well."""

from collections.abc import Iterator
from pathlib import Path
from typing import Literal, TypeVar

from msgspec.structs import replace

from summula.core.boards.board import Board
from summula.core.charts.chart import SummaryLook
from summula.core.charts.foliopicture import FolioPicture
from summula.core.charts.inks import MemberInk
from summula.core.charts.style import ChartStyle
from summula.core.charts.style import with_levers as style_with_levers
from summula.core.fields.heading import Heading
from summula.core.grids.gridlook import GridLook
from summula.core.grids.layout import Layout
from summula.core.grids.measurestyle import MeasureSetting, measure_styles
from summula.core.phrases.lever import LeverSetting, with_levers
from summula.core.phrases.members import DrillStep
from summula.core.phrases.phrase import Phrase, Struct
from summula.core.preparation.steps import AnyStep
from summula.core.reading.readas import ReadAs
from summula.core.refusal import Refusal
from summula.core.slicing.linking import Link
from summula.core.tables.field import Field, Sensed
from summula.core.theme.palettes import Palette

FORMAT = 6
SUFFIX = ".summula"


class Source(Struct, frozen=True):
    """A file whose rows the folio keeps, in `tables/<id>.parquet`; how it was read, and what it held.

    `place` is where the file was: relative to the folio where it stood beside or below it. `reading` counts how often
    it has been read: the rows of an earlier reading come back with undo. `fields` are the fields as they were read.
    """

    id: str
    place: str = ""
    read_as: ReadAs = ReadAs()
    fields: tuple[Field, ...] = ()
    sensed: tuple[Sensed, ...] = ()
    rows: int = 0
    read_at: str = ""
    reading: int = 0


class TableEntry(Struct, frozen=True):
    """A table of the folio: its source, the files appended to it, and the steps that lead from their rows to the table.

    `fields` are the table's fields with what has been said of them; those of a source that lacks them now are kept.
    `fresh` says what happens when the source changes: it "offers" itself, or is read "again" by itself.
    """

    id: str
    name: str
    source: Source
    fields: tuple[Field, ...]
    rows: int
    appended: tuple[Source, ...] = ()
    steps: tuple[AnyStep, ...] = ()
    fresh: Literal["offers", "again"] = "offers"

    def sources(self) -> tuple[Source, ...]:
        return (self.source, *self.appended)


class Summary(Struct, frozen=True):
    """A phrase about a table, under a name.

    `folded` and `folded_across` are the paths of labels whose members are hidden, on each axis. `measures` say how the
    figures of a measure look, `style` how its chart does, `layout` where totals and measures stand. `ways` lead back
    out of the members that have been looked into; `path` is what is looked into next, empty for what suits.
    """

    id: str
    name: str
    table: str
    phrase: Phrase
    folded: tuple[tuple[str, ...], ...] = ()
    measures: tuple[MeasureSetting, ...] = ()
    folded_across: tuple[tuple[str, ...], ...] = ()
    layout: Layout = Layout()
    drilled: tuple[DrillStep, ...] = ()
    path: tuple[Heading, ...] = ()
    style: ChartStyle = ChartStyle()


AnyPage = TableEntry | Summary | Board


class Folio(Struct, frozen=True):
    """Everything a person has made, apart from the rows. `next_id` numbers what is made next; `year_begins` is the
    month (1-12) with which the fiscal year begins. `inks`: those that members have for good; `palette`: how
    all of it looks; `links`: fields of tables that mean the same; `style`: that of a summary to come."""

    name: str
    tables: tuple[TableEntry, ...] = ()
    summaries: tuple[Summary, ...] = ()
    boards: tuple[Board, ...] = ()
    next_id: int = 1
    levers: tuple[LeverSetting, ...] = ()
    year_begins: int = 1
    inks: tuple[MemberInk, ...] = ()
    palette: Palette = Palette()
    pictures: tuple[FolioPicture, ...] = ()
    style: ChartStyle = ChartStyle()
    links: tuple[Link, ...] = ()

    def table(self, table_id: str) -> TableEntry:
        return _found(self.tables, table_id)

    def summary(self, summary_id: str) -> Summary:
        return _found(self.summaries, summary_id)

    def board(self, board_id: str) -> Board:
        return _found(self.boards, board_id)

    def pages(self) -> Iterator[tuple[Literal["table", "summary", "board"], AnyPage]]:
        """The pages in the order of the Contents."""
        yield from (("table", each) for each in self.tables)
        yield from (("summary", each) for each in self.summaries)
        yield from (("board", each) for each in self.boards)

    def source(self, source_id: str) -> Source:
        for entry in self.tables:
            for source in entry.sources():
                if source.id == source_id:
                    return source
        raise Refusal(f"the folio has no rows '{source_id}'", "read the file again")

    def places(self) -> tuple[Path, ...]:
        """The files that its rows were read from."""
        return tuple(Path(each.place) for entry in self.tables for each in entry.sources() if each.place)

    def phrases(self) -> dict[str, tuple[str, Phrase]]:
        """By summary id: its table's id, and its phrase with the levers where they stand."""
        return {each.id: (each.table, with_levers(each.phrase, self.levers)) for each in self.summaries}

    def looks(self) -> dict[str, SummaryLook]:
        """By summary id: how it looks, with what levers set."""
        return {each.id: self.look_of(each) for each in self.summaries}

    def read_at(self) -> dict[str, str]:
        """By table id: when its rows were read."""
        return {each.id: each.source.read_at for each in self.tables}

    def look_of(self, summary: Summary) -> SummaryLook:
        own = measure_styles(summary.measures, summary.phrase, self.levers)
        grid = GridLook(summary.layout, own, frozenset(summary.folded), frozenset(summary.folded_across))
        return SummaryLook(grid, style_with_levers(summary.style, self.levers), self.inks, self.palette, self.pictures)


_Page = TypeVar("_Page", TableEntry, Summary, Board)


def _found(those: tuple[_Page, ...], wanted: str) -> _Page:
    for each in those:
        if each.id == wanted:
            return each
    raise Refusal(f"the folio has no page '{wanted}'", "choose another in the Contents")


def taken_id(folio: Folio, letter: str) -> tuple[Folio, str]:
    """A fresh id ("s7"), and the folio that will not give it again."""
    return replace(folio, next_id=folio.next_id + 1), f"{letter}{folio.next_id}"


def free_name(folio: Folio, wanted: str) -> str:
    """The name, or the name with the first free number behind it."""
    taken = {page.name.casefold() for _, page in folio.pages()}
    name, copy = wanted, 2
    while name.casefold() in taken:
        name, copy = f"{wanted} {copy}", copy + 1
    return name


def with_table(folio: Folio, entry: TableEntry) -> Folio:
    return replace(folio, tables=_put(folio.tables, entry))


def with_summary(folio: Folio, summary: Summary) -> Folio:
    """The folio with this summary, new or in the place of the one with its id."""
    return replace(folio, summaries=_put(folio.summaries, summary))


def with_lever(folio: Folio, lever: LeverSetting) -> Folio:
    """The folio with this lever, new or in the place of the one of its name."""
    known = [each.name for each in folio.levers]
    levers = tuple(lever if each.name == lever.name else each for each in folio.levers)
    return replace(folio, levers=levers if lever.name in known else (*levers, lever))


def without_lever(folio: Folio, name: str) -> Folio:
    """The folio without a lever. Phrases that name it stay, and say what they lack."""
    return replace(folio, levers=tuple(each for each in folio.levers if each.name != name))


def with_board(folio: Folio, board: Board) -> Folio:
    return replace(folio, boards=_put(folio.boards, board))


def _put(those: tuple[_Page, ...], new: _Page) -> tuple[_Page, ...]:
    if any(each.id == new.id for each in those):
        return tuple(new if each.id == new.id else each for each in those)
    return those + (new,)  # noqa: RUF005  mypy follows this and not the unpacking


def without_page(folio: Folio, page_id: str) -> Folio:
    """The folio without a summary or board. Panels that showed the summary stay, and say what they lack."""
    return replace(
        folio,
        summaries=tuple(each for each in folio.summaries if each.id != page_id),
        boards=tuple(each for each in folio.boards if each.id != page_id),
    )
