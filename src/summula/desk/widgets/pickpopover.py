"""A popover that asks for one of several things."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtWidgets import QWidget

from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.popover import Popover


def open_picks(
    anchor: QWidget, name: str, picks: Sequence[Pick], pick: Callable[[Any], object], width: int = 280
) -> Popover:
    """Open below a widget; `pick` is called with the value that is picked, once the popover has closed."""
    popover = Popover(anchor, name, width)
    choices = PickList(picks, name=name)

    def chosen(value: object) -> None:
        popover.close()
        pick(value)

    choices.picked.connect(chosen)
    popover.column.addWidget(choices)
    popover.open_below(anchor)
    choices.focus_in()
    return popover
