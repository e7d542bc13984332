"""How each kind of slicer is shown and set by hand, one row each.

Each view emits `chosen` (the slicer's id, what is asked for: see `chosen` of its kind), `restyled` (the slicer with
another look), `removed` and `refused` (a Refusal), and takes `show_slicer`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import msgspec

from summula.core.slicing.slicer import ListSlicer, NumberSlicer, PeriodSlicer, TextSlicer
from summula.core.tables.field import Field
from summula.desk.board.periodruler import PeriodRuler
from summula.desk.board.slicerlist import SlicerList

if TYPE_CHECKING:
    from summula.desk.board.rangeview import RangeView
    from summula.desk.board.textview import TextView


class SlicerView(msgspec.Struct, frozen=True):
    """`make` makes the widget, of a slicer and its table's fields; on `top` of the board, or in the strip beside it."""

    make: Callable[[Any, tuple[Field, ...]], Any]
    top: bool = False


def _range_view(slicer: NumberSlicer, fields: tuple[Field, ...]) -> RangeView:
    from summula.desk.board.rangeview import RangeView

    return RangeView(slicer)


def _text_view(slicer: TextSlicer, fields: tuple[Field, ...]) -> TextView:
    from summula.desk.board.textview import TextView

    return TextView(slicer)


SLICER_VIEWS: dict[type, SlicerView] = {
    ListSlicer: SlicerView(lambda slicer, fields: SlicerList(slicer)),
    PeriodSlicer: SlicerView(PeriodRuler, top=True),
    NumberSlicer: SlicerView(_range_view),
    TextSlicer: SlicerView(_text_view),
}
