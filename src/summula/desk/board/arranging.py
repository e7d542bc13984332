"""The margin while a board is arranged: the selected panel's settings, its reach, what can be put on."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QWidget

from summula.core.boards.arrangement import with_slicer
from summula.core.boards.panelkinds import is_known
from summula.core.slicing.linking import linked_slicer
from summula.core.tables.field import MEASURED
from summula.desk.board.arranger import EDGES, Arranger
from summula.desk.board.boardlook import board_blocks
from summula.desk.board.paneleditors import EDITORS, add_panel, change_text
from summula.desk.board.placepopover import PlacePopover
from summula.desk.board.putonboard import add_slicer
from summula.desk.frame.marginblocks import ActionBlock, Block, Buttons, Note, Pair
from summula.desk.phrase.popoverparts import field_choices
from summula.desk.widgets.picklist import PickList
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.boards.board import Board, Panel
    from summula.core.slicing.slicer import Slicer
    from summula.desk.session import Session


def arranging_blocks(session: Session, board: Board, arranger: Arranger) -> list[Block]:
    """What the margin offers: for one panel, for several, or for the board."""
    blocks: list[Block] = []
    ids = arranger.selection
    if len(ids) == 1:
        panel = board.panel(ids[0])
        blocks += _panel_blocks(session, board, panel, arranger)
        blocks += _reach_blocks(session, board, panel)
        blocks += _common_blocks(board, arranger)
    elif ids:
        blocks += _several_blocks(arranger)
        blocks += _common_blocks(board, arranger)
    else:
        blocks += ["Arranging", Note("Click a panel to move, resize or change it; draw over several to select them.")]
    blocks.append("Add to board")
    blocks += [Pair(each.offer, "+", _adder(session, board, kind)) for kind, each in EDITORS.items()]
    blocks.append(Pair("Slicer or period ruler", "+", lambda anchor: _slice_by(anchor, session, board)))
    blocks += board_blocks(session, board)
    return blocks


def _panel_blocks(session: Session, board: Board, panel: Panel, arranger: Arranger) -> list[Block]:
    place = panel.place

    def exactly(anchor: QWidget) -> None:
        PlacePopover(anchor, place, lambda new: arranger.place_exactly(panel.id, new)).open_below(anchor)

    return [
        f"Selected · {panel.title}",
        Pair("Place", f"column {place.column + 1}, row {place.row + 1} ▾", exactly),
        Pair("Size", f"{place.width} × {place.height} ▾", exactly),
        Pair("Title", "change ▾", lambda anchor: change_text(anchor, session, board, panel, "title", "Title")),
        *EDITORS[type(panel)].blocks(session, board, panel),
    ]


def _several_blocks(arranger: Arranger) -> list[Block]:
    """All of them like the first that was selected."""
    edges = tuple(
        (words.split()[0] if "middle" not in words else edge, f"Align {words}", partial(arranger.align, edge))
        for edge, words in EDGES
    )
    return [
        f"Selected · {len(arranger.selection)} panels",
        Note("Aligned to the first selected panel."),
        Buttons("Align", edges),
        Buttons("Same", (
            ("width", "Same width", lambda: arranger.equalise(width=True, height=False)),
            ("height", "Same height", lambda: arranger.equalise(width=False, height=True)),
            ("size", "Same size", lambda: arranger.equalise(width=True, height=True)),
        )),
        Buttons("Equal gaps", (
            ("across", "Equal gaps across", lambda: arranger.distribute(down=False)),
            ("down", "Equal gaps down", lambda: arranger.distribute(down=True)),
        )),
    ]  # fmt: skip


def _common_blocks(board: Board, arranger: Arranger) -> list[Block]:
    locked = all(board.panel(each).locked for each in arranger.selection)
    away = "Remove panel" if len(arranger.selection) == 1 else "Remove panels"
    return [
        Buttons("Order", (
            ("back", "Send back", lambda: arranger.order(behind=True)),
            ("forward", "Bring forward", lambda: arranger.order(behind=False)),
            ("unlock" if locked else "lock", "Unlock" if locked else "Lock position", arranger.lock),
            ("duplicate", "Duplicate", arranger.duplicate),
        )),
        ActionBlock(away, arranger.remove),
    ]  # fmt: skip


def _reach_blocks(session: Session, board: Board, panel: Panel) -> list[Block]:
    """Which slicers move this panel; each can be let go or taken back."""
    own = reaching_slicers(session, board, panel)
    if not own:
        return []
    blocks: list[Block] = ["Slicers that affect it"]
    for slicer in own:
        moves = panel.id not in slicer.spares
        blocks.append(
            Pair(
                slicer.dimension.field,
                "● affects it" if moves else "○ does not",
                _toggler(session, board, slicer, panel),
            )
        )
    return blocks


def reaching_slicers(session: Session, board: Board, panel: Panel) -> list[Slicer]:
    """The slicers that can move a panel: those of its table, and of tables linked to it."""
    reckoning = session.reckoning(board)
    table = reckoning.table_of(panel) if is_known(panel, reckoning.asked) else ""
    if not table:
        return []
    return [slicer for slicer in board.slicers if linked_slicer(session.folio.links, slicer, table) is not None]


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
