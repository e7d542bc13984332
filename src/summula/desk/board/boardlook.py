"""What the margin offers for a whole board: how it looks, its sketch, its reach, its links."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QWidget

from summula.core.boards.board import Board, Frames, Underlay
from summula.core.theme.palettes import PALETTES
from summula.desk.board.pictureasking import ask_picture
from summula.desk.frame.marginblocks import Block, Pair
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.desk.session import Session

_FRAMES: tuple[tuple[Frames, str], ...] = (("card", "cards"), ("line", "lines"), ("none", "none"))


def board_blocks(session: Session, board: Board) -> list[Block]:
    palette = next((name for name, each in PALETTES.items() if each == session.folio.palette), "its own")
    sketch = "none" if board.underlay is None else f"{board.underlay.strength * 100:.0f}%"
    frames = dict(_FRAMES)[board.frames]
    return [
        "Board",
        Pair("Colours, background, fonts", f"{palette} ▾", lambda anchor: choose_palette(anchor, session)),
        Pair(
            "Panel borders",
            f"{frames} ▾",
            lambda anchor: _choose_frames(anchor, session, board),
        ),
        Pair("Linked tables", f"{len(session.folio.links) or 'none'} ▾", lambda anchor: open_links(anchor, session)),
        Pair("Background sketch", f"{sketch} ▾", lambda anchor: _choose_sketch(anchor, session, board)),
    ]


def open_links(anchor: QWidget, session: Session) -> None:
    from summula.desk.board.links import LinksPopover

    LinksPopover(anchor, session).open_below(anchor)


def choose_palette(anchor: QWidget, session: Session) -> None:
    """The inks of all charts of the folio, its paper and the face of its headings, in one move."""
    from summula.desk.widgets.inkchoice import PalettePopover

    def put(palette: object) -> None:
        session.edit(replace(session.folio, palette=palette), "Change palette")

    PalettePopover(anchor, session.folio.palette, put, session.refuse).open_below(anchor)


def _choose_frames(anchor: QWidget, session: Session, board: Board) -> None:
    popover = Popover(anchor, "Panel borders", 200)
    picks = PickList([Pick(words, frames) for frames, words in _FRAMES], name="frames", search=False)

    def take(frames: Frames) -> None:
        popover.close()
        session.set_board(replace(board, frames=frames), "Panel borders")

    picks.picked.connect(take)
    popover.column.addWidget(picks)
    popover.open_below(anchor)
    picks.focus_in()


def _choose_sketch(anchor: QWidget, session: Session, board: Board) -> None:
    """A picture under the board, faded, that panels are laid upon."""
    popover = Popover(anchor, "Background sketch", 230)
    choices = [Pick("No background sketch", None), *(Pick(each.name, each.id) for each in session.folio.pictures)]
    choices.append(Pick("From a file …", ""))
    if board.underlay is not None:
        now = round(board.underlay.strength * 100)
        choices += [Pick(f"{share}% strong", share) for share in (15, 30, 60) if share != now]
    picks = PickList(choices, name="sketch", search=False)

    def take(choice: str | int | None) -> None:
        popover.close()
        if isinstance(choice, int) and board.underlay is not None:
            underlay: Underlay | None = replace(board.underlay, strength=choice / 100)
        else:
            key = ask_picture(anchor, session) if choice == "" else choice
            if choice == "" and not key:
                return
            underlay = Underlay(str(key)) if key else None
        session.set_board(replace(session.folio.board(board.id), underlay=underlay), "Background sketch")

    picks.picked.connect(take)
    popover.column.addWidget(picks)
    popover.open_below(anchor)
    picks.focus_in()
