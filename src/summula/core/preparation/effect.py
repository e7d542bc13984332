"""What a step did."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Effect:
    """What a step did: rows before and after, cells it touched, a few words, whether one should look twice; or what it
    lacks."""

    before: int
    after: int
    cells: int = 0
    told: str = ""
    lacks: str = ""
    doubt: bool = False
