"""Where totals and measures stand in a grid, and how wide its columns have been made."""

from __future__ import annotations

from typing import Literal

from msgspec.structs import replace

from summula.core.phrases.phrase import Struct

Labels = tuple[str, ...]


class Width(Struct, frozen=True):
    """A column made as wide as a person wants it: the labels that lead to it, its measure, its width in pixels."""

    path: Labels
    measure: int
    width: int


class Layout(Struct, frozen=True):
    """`subtotals` and `bottom` say where the lines of totals stand, `across` where the columns of totals do. Their
    names are ours where empty. Several measures are columns side by side, or lines below each other. `head_width` and
    `widths` are those that have been pulled by hand (0: as its texts need)."""

    subtotals: Literal["above", "below"] = "above"
    bottom: Literal["below", "above"] = "below"
    across: Literal["after", "before"] = "after"
    bottom_name: str = ""
    subtotal_name: str = ""
    across_name: str = ""
    measures: Literal["columns", "rows"] = "columns"
    head_width: int = 0
    widths: tuple[Width, ...] = ()

    def width_of(self, path: Labels, measure: int) -> int:
        """The width that a column has been pulled to; 0 where it has not."""
        return next((each.width for each in self.widths if each.path == path and each.measure == measure), 0)

    def with_width(self, path: Labels, measure: int, width: int) -> Layout:
        """With a column as wide as this; 0 for as wide as its texts need."""
        others = tuple(each for each in self.widths if each.path != path or each.measure != measure)
        widths = (*others, Width(path, measure, width)) if width else others
        return replace(self, widths=widths)


PLAIN = Layout()
