"""How the figures of a measure are written: by its field's pattern, or by their size."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.fields.figures import FigureStyle, decimals_for, plain_pattern, split_unit
from summula.core.memory import Remembered
from summula.core.phrases.phrase import Aggregate, Calculation, Lever, Linked, Measure, Number
from summula.core.tables.column import NumberColumn, stretches

if TYPE_CHECKING:
    from summula.core.engine.grid import Block
    from summula.core.tables.table import Table

_EXACT = ("sum", "min", "max", "range", "first", "last", "each row")  # of as many decimals as the values
_SHARES = FigureStyle("0.0%", percent=True)
_BY_NATURE: Remembered[Measure, tuple[str, FigureStyle | None, str]] = Remembered("styles by nature")
_WHOLE: Remembered[str, bool] = Remembered("whole numbers", most=4_000, of_columns=True)


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
        return "", _SHARES, ""
    if kind == "rank":
        return "", FigureStyle(), ""
    calculation = measure.calculation
    if not isinstance(calculation, Aggregate):
        common = _common_unit(calculation, table)
        return ("", _SHARES, "") if common == "%" else (common, None, "")
    if calculation.field is None or calculation.function in ("rows", "count", "distinct count"):
        return "", FigureStyle(), ""
    if table.field(calculation.field).kind == "duration":
        return "", FigureStyle(clock=True), ""
    unit, pattern = split_unit(table.field(calculation.field).pattern)
    if "%" in pattern and calculation.function != "variance":  # which is of percents squared
        exact = calculation.function in _EXACT or "." in pattern
        return unit, FigureStyle(pattern, unit, percent=True) if exact else _SHARES, pattern
    if calculation.function not in _EXACT:
        return unit, None, pattern
    if not pattern and _is_whole(table, calculation.field):
        pattern = "#,##0"
    return unit, FigureStyle(pattern, unit) if pattern else None, pattern


def _is_whole(table: Table, field: str) -> bool:
    """Whether all numbers of a field are whole. Numbers that are held as they are have no decimals of their own."""
    column = table.column(field)
    if not isinstance(column, NumberColumn) or column.decimals:
        return False
    values = column.values
    return _WHOLE.of(
        table.memo,
        field,
        lambda: all(bool((np.rint(values[part]) == values[part]).all()) for part in stretches(len(values))),
    )


def _common_unit(calculation: Calculation, table: Table) -> str:
    """The unit (or the per cent) of a calculation of figures that share one: sums and differences keep it, as does a
    ratio to a bare count."""
    if isinstance(calculation, Number | Lever | Linked):
        return ""
    if isinstance(calculation, Aggregate):
        if calculation.field is None or calculation.function in ("count", "distinct count"):
            return ""
        unit, pattern = split_unit(table.field(calculation.field).pattern)
        return "%" if "%" in pattern else unit
    left, right = _common_unit(calculation.left, table), _common_unit(calculation.right, table)
    if calculation.operator == "/":
        return left if not right else ""
    return left if left == right or (calculation.operator == "*" and not right) else ""
