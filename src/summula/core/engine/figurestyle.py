"""How the figures of a measure are written: by its field's pattern, or by their size."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.fields.figures import FigureStyle, decimals_for, plain_pattern, split_unit
from summula.core.memory import Remembered
from summula.core.phrases.phrase import Aggregate, Calculation, Lever, Linked, Measure, Number
from summula.core.tables.column import NumberColumn

if TYPE_CHECKING:
    from summula.core.engine.grid import Block
    from summula.core.tables.table import Table

_BY_NATURE: Remembered[Measure, tuple[str, FigureStyle | None, str]] = Remembered("styles by nature")


def style_of(measure: Measure, table: Table, blocks: Collection[Block]) -> FigureStyle:
    """How a measure's figures are written: from its field's pattern, and from their size."""
    unit, style, like = _BY_NATURE.of(table.memo, measure, lambda: _style_by_nature(measure, table))
    if style is not None:
        return style
    largest = 0.0
    for block in blocks:
        if not decimals_for(largest):
            break
        if block.size:
            largest = max(largest, float(np.fmax.reduce(np.abs(block), axis=None)))
    return FigureStyle(plain_pattern(decimals_for(largest), like), unit)


def _style_by_nature(measure: Measure, table: Table) -> tuple[str, FigureStyle | None, str]:
    """A measure's unit, its style where the figures' size has no say in it, and the pattern that it is like."""
    kind = measure.comparison.kind if measure.comparison is not None else ""
    if kind.startswith(("share", "percent")):
        return "", FigureStyle("0.0%", percent=True), ""
    if kind == "rank":
        return "", FigureStyle(), ""
    calculation = measure.calculation
    if not isinstance(calculation, Aggregate):
        return _common_unit(calculation, table), None, ""
    if calculation.field is None or calculation.function in ("rows", "count", "distinct count"):
        return "", FigureStyle(), ""
    if table.field(calculation.field).kind == "duration":
        return "", FigureStyle(clock=True), ""
    unit, pattern = split_unit(table.field(calculation.field).pattern)
    if calculation.function not in ("sum", "min", "max", "range", "first", "last", "each row"):
        return unit, None, pattern
    column = table.column(calculation.field)
    if not pattern and isinstance(column, NumberColumn) and column.decimals == 0:
        pattern = "#,##0"
    return unit, FigureStyle(pattern, unit) if pattern else None, pattern


def _common_unit(calculation: Calculation, table: Table) -> str:
    """The unit of a calculation of figures that share one: sums and differences keep it, as does a
    ratio to a bare count."""
    if isinstance(calculation, Number | Lever | Linked):
        return ""
    if isinstance(calculation, Aggregate):
        if calculation.field is None or calculation.function in ("count", "distinct count"):
            return ""
        return split_unit(table.field(calculation.field).pattern)[0]
    left, right = _common_unit(calculation.left, table), _common_unit(calculation.right, table)
    if calculation.operator == "/":
        return left if not right else ""
    return left if left == right or (calculation.operator == "*" and not right) else ""
