"""How a person stands before a board: what is no edit, and so no part of the folio or its history."""

from __future__ import annotations

import msgspec

from summula.core.slicing.slicer import Echo


class BoardState(msgspec.Struct, frozen=True):
    """Gone when another page is turned to. `arranging`: panels can be moved; `selected`: the panel whose settings are
    shown, by its id; `echo`: what the marks clicked pick out."""

    arranging: bool = False
    selected: str = ""
    echo: Echo | None = None
