"""How a person stands before a board: what is no edit, and so no part of the folio or its history."""

from __future__ import annotations

import msgspec

from summula.core.boards.playing import Play
from summula.core.slicing.slicer import Echo


class BoardState(msgspec.Struct, frozen=True):
    """Gone when another page is turned to. `arranging`: panels can be moved; `selection`: the panels that are
    selected, by their ids; `echo`: what the marks clicked pick out; `presenting`: it fills the screen;
    `play`: the period that it is played at."""

    arranging: bool = False
    selection: tuple[str, ...] = ()
    echo: Echo | None = None
    presenting: bool = False
    play: Play | None = None
