"""Panels carried from a board to another, in this folio or a second one: with the summaries, levers and pictures that
they show. What a stranger may have put on the clipboard is checked as a folio is."""

from __future__ import annotations

import msgspec
from msgspec.structs import replace

from summula.core.boards.arrangement import put_beside
from summula.core.boards.board import (
    KeyFigurePanel,
    NotePanel,
    Panel,
    PicturePanel,
    SummaryPanel,
)
from summula.core.boards.panelkinds import kind_of
from summula.core.charts.foliopicture import FolioPicture
from summula.core.decoding import decoded
from summula.core.folio.model import Folio, Summary, free_name, taken_id, with_board, with_lever
from summula.core.phrases.lever import LeverSetting
from summula.core.phrases.phrase import Struct
from summula.core.refusal import Refusal

MIME = "application/x-summula-panels+json"
_MOST = 32 * 1024**2  # bytes


class Carried(Struct, frozen=True):
    """`tables`: the names of the tables that are asked, by id."""

    panels: tuple[Panel, ...]
    summaries: tuple[Summary, ...] = ()
    levers: tuple[LeverSetting, ...] = ()
    pictures: tuple[FolioPicture, ...] = ()
    tables: dict[str, str] = msgspec.field(default_factory=dict)


def carried(folio: Folio, panels: tuple[Panel, ...]) -> Carried:
    """Panels with all that they show; slicers stay with their board."""
    used = [kind_of(panel).uses(panel) for panel in panels]
    panels = tuple(panel for panel, uses in zip(panels, used, strict=True) if not uses.slicer)
    wanted = {uses.summary for uses in used}
    summaries = tuple(each for each in folio.summaries if each.id in wanted)
    pictures = {uses.picture for uses in used}
    names = {each.id: each.name for each in folio.tables}
    return Carried(
        panels, summaries, folio.levers, tuple(each for each in folio.pictures if each.id in pictures), names
    )


def to_bytes(value: Carried) -> bytes:
    return msgspec.json.encode(value)


def from_bytes(data: bytes) -> Carried:
    """Raises Refusal where it is something else."""
    if len(data) > _MOST:
        raise Refusal("too much was copied", "copy fewer panels")
    try:
        return decoded(data, Carried)
    except (msgspec.DecodeError, msgspec.ValidationError, RecursionError):
        raise Refusal("the clipboard holds no panels", "copy them again") from None


def pasted(folio: Folio, board_id: str, value: Carried) -> tuple[Folio, tuple[str, ...]]:
    """The folio with copies of panels on a board, and their ids. A summary that the folio has already is shown; one of
    another folio is made here, if a table of that name is here. Refuses what has no table."""
    tables = {each.name.casefold(): each.id for each in folio.tables}
    here = {old: tables.get(name.casefold(), "") for old, name in value.tables.items()}
    summaries: dict[str, str] = {}
    for summary in value.summaries:
        own = next((each for each in folio.summaries if each.id == summary.id and each.phrase == summary.phrase), None)
        if own is not None:
            summaries[summary.id] = own.id
            continue
        table = here.get(summary.table, "")
        if not table:
            raise Refusal(
                f"'{summary.name}' asks a table that is not in this folio",
                f"open '{value.tables.get(summary.table, 'it')}' here first",
            )
        folio, key = taken_id(folio, "s")
        made = replace(summary, id=key, table=table, name=free_name(folio, summary.name))
        folio = replace(folio, summaries=(*folio.summaries, made))
        summaries[summary.id] = key
    known = {each.name for each in folio.levers}
    for lever in value.levers:
        used = any(kind_of(panel).uses(panel).lever == lever.name for panel in value.panels)
        if lever.name not in known and used:
            folio = with_lever(folio, lever)
    pictures: dict[str, str] = {}
    for picture in value.pictures:
        same = next((each.id for each in folio.pictures if each.data == picture.data), None)
        if same is None:
            folio, same = taken_id(folio, "g")
            folio = replace(folio, pictures=(*folio.pictures, replace(picture, id=same)))
        pictures[picture.id] = same
    panels, ids = [], []
    for panel in value.panels:
        match panel:
            case SummaryPanel():
                panel = replace(panel, summary=summaries.get(panel.summary, panel.summary))
            case PicturePanel():
                panel = replace(panel, picture=pictures.get(panel.picture, panel.picture))
            case KeyFigurePanel() | NotePanel():
                panel = replace(panel, table=here.get(panel.table) or panel.table)
            case _:
                pass
        folio, key = taken_id(folio, "p")
        panels.append(panel)
        ids.append(key)
    board = put_beside(folio.board(board_id), panels, ids)
    return with_board(folio, board), tuple(ids)
