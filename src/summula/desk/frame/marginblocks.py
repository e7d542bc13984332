"""What pages hand the margin: blocks, which its rows tell."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PyQt6.QtWidgets import (
    QWidget,
)

from summula.core.secondlook.look import SecondLook
from summula.core.statistics.distribution import Distribution
from summula.core.tables.field import Kind


class Pair(msgspec.Struct, frozen=True):
    """A label and its value; with `change`, the value is a button that changes it. `by_default`: nobody chose it."""

    label: str
    value: str
    change: Callable[[QWidget], None] | None = None
    by_default: bool = False


class Note(msgspec.Struct, frozen=True):
    text: str


class ActionBlock(msgspec.Struct, frozen=True):
    """Something to do about what is selected."""

    text: str
    run: Callable[[], None]


class LookBlock(msgspec.Struct, frozen=True):
    """A second look, and what its remedy does."""

    look: SecondLook
    run: Callable[[], None] | None = None


class Offer(msgspec.Struct, frozen=True):
    """Something that can be made: its words, a kind's glyph behind them."""

    text: str
    glyph: Kind
    run: Callable[[QWidget], None]
    hint: str = ""


class Shape(msgspec.Struct, frozen=True):
    """A distribution; with `chosen`, each of its bars can be clicked."""

    shape: Distribution
    chosen: Callable[[int], None] | None = None


class Buttons(msgspec.Struct, frozen=True):
    """Small buttons in a row, under a title: of each a short text, its full name, and what it does."""

    title: str
    buttons: tuple[tuple[str, str, Callable[[], object]], ...]


Block = Buttons | LookBlock | Offer | Shape | str | Pair | Note | ActionBlock | SecondLook | Distribution | QWidget

# Pixels above and below.
APART: dict[type, tuple[int, int]] = {str: (16, 4), ActionBlock: (6, 0), SecondLook: (0, 8), LookBlock: (0, 8)}
