"""What a step did."""

from __future__ import annotations

import msgspec


class Effect(msgspec.Struct, frozen=True):
    """What a step did: rows before and after, cells it touched, a few words, whether one should look twice; or what it
    lacks."""

    before: int
    after: int
    cells: int = 0
    notice: str = ""
    lacks: str = ""
    doubt: bool = False
