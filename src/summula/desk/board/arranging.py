"""The margin while a board is arranged: the selected panel's settings, its reach, what can be put on."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PyQt6.QtWidgets import QWidget

from summula.core.boards.arrangement import with_slicer
from summula.core.boards.board import Board, Panel
from summula.core.boards.panelkinds import is_known
from summula.core.slicing import Slicer
from summula.core.tables.field import MEASURED
from summula.desk.board.paneleditors import EDITORS, add_panel, change_text
from summula.desk.board.putonboard import add_slicer
from summula.desk.frame.margin import ActionBlock, Block, Note, Pair
from summula.desk.phrase.popoverparts import field_choices
from summula.desk.session import Session
from summula.desk.widgets.picklist import PickList
from summula.desk.widgets.popover import Popover


def arranging_blocks(session: Session, board: Board, panel_id: str, remove: Callable[[str], None]) -> list[Block]:
    blocks: list[Block] = []
    panel = next((each for each in board.panels if each.id == panel_id), None)
    if panel is None:
        blocks += ["Arranging", Note("Click a panel to move, resize or change it.")]
    else:
        blocks += _panel_blocks(session, board, panel)
        blocks += _reach_blocks(session, board, panel)
        blocks.append(ActionBlock("Take this panel away", lambda: remove(panel.id)))
    blocks.append("Put on the board")
    blocks += [Pair(each.offer, "+", _adder(session, board, kind)) for kind, each in EDITORS.items()]
    blocks.append(Pair("Slicer or period ruler", "+", lambda anchor: _slice_by(anchor, session, board)))
    return blocks


def _panel_blocks(session: Session, board: Board, panel: Panel) -> list[Block]:
    place = panel.place
    return [
        f"Selected · {panel.title}",
        Pair("Place", f"column {place.column + 1}, row {place.row + 1}"),
        Pair("Size", f"{place.width} × {place.height}"),
        Pair("Title", "change ▾", lambda anchor: change_text(anchor, session, board, panel, "title", "Title")),
        *EDITORS[type(panel)].blocks(session, board, panel),
    ]


def _reach_blocks(session: Session, board: Board, panel: Panel) -> list[Block]:
    """Which slicers move this panel; each can be let go or taken back."""
    reckoning = session.reckoning(board)
    table = reckoning.table_of(panel) if is_known(panel, reckoning.asked) else ""
    own = [slicer for slicer in board.slicers if slicer.table == table]
    if not own:
        return []
    blocks: list[Block] = ["Reach · what moves it"]
    for slicer in own:
        moves = panel.id not in slicer.spares
        blocks.append(
            Pair(
                slicer.dimension.field,
                "● moves it" if moves else "○ does not",
                _toggler(session, board, slicer, panel),
            )
        )
    return blocks


def _slice_by(anchor: QWidget, session: Session, board: Board) -> None:
    open_slicers(anchor, session, board)


def _adder(session: Session, board: Board, kind: type) -> Callable[[QWidget], None]:
    def add(anchor: QWidget) -> None:
        add_panel(anchor, session, board, kind)

    return add


def _toggler(session: Session, board: Board, slicer: Slicer, panel: Panel) -> Callable[[QWidget], None]:
    return lambda _: _toggle(session, board, slicer, panel)


def _toggle(session: Session, board: Board, slicer: Slicer, panel: Panel) -> None:
    if panel.id in slicer.spares:
        spares, edit_name = tuple(each for each in slicer.spares if each != panel.id), "reaches"
    else:
        spares, edit_name = (*slicer.spares, panel.id), "spares"
    new = replace(slicer, spares=spares)
    session.set_board(with_slicer(board, new), f"{slicer.dimension.field} {edit_name} {panel.title}")


def open_slicers(anchor: QWidget, session: Session, board: Board) -> Popover:
    """The popover that puts a slicer on the board."""
    popover = Popover(anchor, "Slice by", 290)
    table_id = session.default_table()
    taken = {s.dimension.field for s in board.slicers if s.table == table_id}
    kinds = ("category", "flag", "date", "code", "text", *MEASURED)
    choices = field_choices(session.table(table_id), kinds) if table_id else []
    picks = PickList([each for each in choices if each.value not in taken], name="slicer", search=True)

    def put(value: str) -> None:
        popover.close()
        add_slicer(session, board, table_id, value)

    picks.picked.connect(put)
    popover.column.addWidget(picks)
    popover.open_below(anchor)
    picks.focus_in()
    return popover
