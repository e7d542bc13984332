"""How a person stands before a board: what is no edit, and so no part of the folio or its history."""

from __future__ import annotations

import msgspec


class BoardState(msgspec.Struct, frozen=True):
    """Gone when another page is turned to. `arranging`: panels can be moved; `selected`: the panel whose settings are
    shown, by its id."""

    arranging: bool = False
    selected: str = ""
