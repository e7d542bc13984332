"""How a summary's grid is laid out, its measures written, and which members are folded away."""

from __future__ import annotations

import msgspec

from summula.core.grids.layout import PLAIN as PLAIN_LAYOUT
from summula.core.grids.layout import Labels, Layout
from summula.core.grids.measurestyle import MeasureStyle, style_at


class GridLook(msgspec.Struct, frozen=True, gc=False):
    """`measures`: the style of each figure of the phrase, in their order, plain beyond; `folded` are the paths of
    labels whose members are hidden."""

    layout: Layout = PLAIN_LAYOUT
    measures: tuple[MeasureStyle, ...] = ()
    folded: frozenset[Labels] = frozenset()
    folded_across: frozenset[Labels] = frozenset()

    def style_of(self, measure: int) -> MeasureStyle:
        return style_at(self.measures, measure)


PLAIN_LOOK = GridLook()
