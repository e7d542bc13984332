"""The popover that a widget opened last."""

from __future__ import annotations

import weakref
from typing import TYPE_CHECKING, Generic, TypeVar

if TYPE_CHECKING:
    from summula.desk.widgets.popover import Popover

P = TypeVar("P", bound="Popover")


class LastPopover(Generic[P]):
    """An attribute for the popover that was opened last. It is held by its window, and only until it closes: what it
    is about (tables of a folio that has gone, say) goes with it."""

    def __set_name__(self, owner: type, name: str) -> None:
        self._key = f"last {name}"

    def __get__(self, owner: object, kind: type) -> P | None:
        held: weakref.ref[P] | None = owner.__dict__.get(self._key)
        return None if held is None else held()

    def __set__(self, owner: object, popover: P | None) -> None:
        owner.__dict__[self._key] = None if popover is None else weakref.ref(popover)
