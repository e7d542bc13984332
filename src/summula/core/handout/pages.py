"""From a page of a folio to its composition, with what its foot says."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from msgspec.structs import replace

from summula.core.boards.board import Board
from summula.core.boards.linkedtables import LinkedTables
from summula.core.boards.livefigures import LiveRows, with_live_words
from summula.core.boards.reckoning import Reckoning
from summula.core.charts.chart import chart_of
from summula.core.composition.boardpages import compose_board
from summula.core.composition.composition import Composition, Foot
from summula.core.composition.summarypages import compose_summary
from summula.core.composition.tablepages import compose_table
from summula.core.engine.answer import answer
from summula.core.folio.model import AnyPage, Folio, Summary, TableEntry
from summula.core.phrases.lever import with_levers
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal, nearest
from summula.core.slicing.slicerkinds import slicer_words

if TYPE_CHECKING:
    from summula.core.charts.scene import XY
    from summula.core.slicing.slicer import Slicer
    from summula.core.tables.table import Table


def page_named(folio: Folio, wanted: str) -> AnyPage:
    """The page called so, or with that number in the Contents."""
    pages = [page for _, page in folio.pages()]
    for number, page in enumerate(pages, start=1):
        if wanted == str(number) or page.name.casefold() == wanted.casefold():
            return page
    guess = nearest(wanted, [page.name for page in pages])
    remedy = f"did you mean '{guess}'?" if guess else f"give its name, or a number from 1 to {len(pages)}"
    raise Refusal(f"the folio has no page '{wanted}'", remedy)


class Shown(NamedTuple):
    """What a page shows beside its figures. `foot`: below, where they come from. `unsliced`: what there was before
    slicing, behind what there is."""

    foot: bool = True
    unsliced: bool = False


_SHOWN = Shown()


def compose(page: AnyPage, folio: Folio, tables: dict[str, Table], size: XY, shown: Shown = _SHOWN) -> Composition:
    """The composition of a page of the folio; `tables` are its prepared tables by id."""
    return replace(_composed(page, folio, tables, size, shown), palette=folio.palette)


def compose_all(
    pages: Sequence[AnyPage], folio: Folio, tables: dict[str, Table], size: XY, shown: Shown = _SHOWN
) -> Composition:
    """Several pages of the folio as one document, each a chapter."""
    return joined(folio, [(page.name, compose(page, folio, tables, size, shown)) for page in pages])


def joined(folio: Folio, parts: Sequence[tuple[str, Composition]], title: str = "") -> Composition:
    """Compositions one after the other, each a chapter of the name beside it."""
    pages = []
    for name, part in parts:
        pages += [replace(page, chapter=name if not at else "") for at, page in enumerate(part.pages)]
    title = title or (parts[0][1].title if len(parts) == 1 else folio.name)
    return Composition(title, tuple(pages), folio.palette)


def _composed(page: AnyPage, folio: Folio, tables: dict[str, Table], size: XY, shown: Shown) -> Composition:
    said = shown.foot
    match page:
        case TableEntry():
            table = tables[page.id]
            return compose_table(table, size, foot_of(folio, page.id, table.rows, table.rows) if said else Foot())
        case Summary():
            table = tables[page.table]
            phrase = with_levers(page.phrase, folio.levers)
            grid = answer(phrase, table, others=LinkedTables(page.table, tables, folio.links))
            rows = LiveRows(table, None, (), phrase.where, folio.levers, folio.read_at().get(page.table, ""))
            chart = with_live_words(chart_of(grid, table, folio.look_of(page)), rows)
            stated = foot_of(folio, page.table, grid.rows_used, grid.rows_read) if said else Foot()
            return compose_summary(page.name, print_phrase(page.phrase), chart, size, stated)
        case Board():
            reckoning = reckoning_of(folio, tables, unsliced=shown.unsliced)
            return compose_board(page, reckoning, size, board_foot(folio, page, reckoning) if said else Foot())


def reckoning_of(folio: Folio, tables: dict[str, Table], *, unsliced: bool = False) -> Reckoning:
    """What answers the boards of a folio; `tables` are its prepared tables by id. `unsliced`: whether what there was
    before slicing is shown, too."""
    return Reckoning(
        tables, folio.phrases(), folio.looks(), folio.levers, folio.read_at(), folio.links, folio.pictures, unsliced
    )


def board_foot(folio: Folio, board: Board, reckoning: Reckoning) -> Foot:
    """The foot of a board: of the table that its slicers, or its panels, are about."""
    shown = _tables_of(board.slicers) or list(reckoning.tables)[:1]
    if not shown:
        return Foot()
    table_id = shown[0]
    slicing = " · ".join(slicer_words(each) for each in board.slicers if each.narrows)
    used = reckoning.rows_in_play(board, table_id)
    stated = foot_of(folio, table_id, used, reckoning.tables[table_id].rows if reckoning.unsliced else used)
    return replace(stated, slicing=slicing)


def _tables_of(slicers: tuple[Slicer, ...]) -> list[str]:
    return list(dict.fromkeys(slicer.table for slicer in slicers))


def foot_of(folio: Folio, table_id: str, used: int, rows: int) -> Foot:
    """The source by the name of its file alone: where it lies is nobody's business."""
    source = folio.table(table_id).source
    stated = f"{rows:,} rows" if used == rows else f"{used:,} of {rows:,} rows"
    return Foot(Path(source.place).name, source.read_at[:10], stated)
