"""How the figures of a measure are written: by its field's pattern, or by their size."""

from __future__ import annotations

from collections.abc import Collection
from decimal import Decimal
from typing import TYPE_CHECKING, NamedTuple, assert_never

from summula.core.arrays import np
from summula.core.fields.figures import FigureStyle, decimals_for, plain_pattern, split_unit
from summula.core.memory import Remembered
from summula.core.phrases.phrase import Aggregate, Arithmetic, Calculation, Lever, Linked, Measure, Number
from summula.core.tables.column import NumberColumn, stretches

if TYPE_CHECKING:
    from summula.core.engine.grid import Block
    from summula.core.tables.table import Table

_EXACT = ("sum", "min", "max", "range", "first", "last", "each row")  # of as many decimals as the values
_COUNTS = ("rows", "count", "distinct count")
_SHARES = FigureStyle("0.0%", percent=True)
_MOST_PLAIN = 2  # decimals of the values that are written whatever the size of the figures


class _Nature(NamedTuple):
    """What a measure says of how its figures are written, whatever their size: `style`, where size has no say in it;
    else the unit, the pattern that it is like, and how many decimals the figures can have (None: any number)."""

    style: FigureStyle | None
    unit: str = ""
    like: str = ""
    decimals: int | None = None


_NATURES: Remembered[Measure, _Nature] = Remembered("styles by nature")
_WHOLE: Remembered[str, bool] = Remembered("whole numbers", most=4_000, of_columns=True)


def style_of(measure: Measure, table: Table, blocks: Collection[Block]) -> FigureStyle:
    """How a measure's figures are written: from its field's pattern, and from their size."""
    nature = _NATURES.of(table.memo, measure, lambda: _nature_of(measure, table))
    if nature.style is not None:
        return nature.style
    largest = 0.0
    for block in blocks:
        if not decimals_for(largest):
            break
        if block.size:
            largest = max(largest, float(np.fmax.reduce(np.abs(block), axis=None)))
    decimals = decimals_for(largest)
    if nature.decimals is not None:
        decimals = min(nature.decimals, max(decimals + 1, _MOST_PLAIN))
    return FigureStyle(plain_pattern(decimals, nature.like), nature.unit)


def _nature_of(measure: Measure, table: Table) -> _Nature:
    kind = measure.comparison.kind if measure.comparison is not None else ""
    if kind.startswith(("share", "percent")):
        return _Nature(_SHARES)
    if kind == "rank":
        return _Nature(FigureStyle())
    calculation = measure.calculation
    if not isinstance(calculation, Aggregate):
        common = _common_unit(calculation, table)
        return _Nature(_SHARES if common == "%" else None, common, decimals=_decimals_of(calculation, table))
    if calculation.field is None or calculation.function in _COUNTS:
        return _Nature(FigureStyle())
    if table.field(calculation.field).kind == "duration":
        return _Nature(FigureStyle(clock=True))
    unit, pattern = split_unit(table.field(calculation.field).pattern)
    exact = calculation.function in _EXACT
    if "%" in pattern and calculation.function != "variance":  # which is of percents squared
        return _Nature(FigureStyle(pattern, unit, percent=True) if exact or "." in pattern else _SHARES)
    if exact and pattern:
        return _Nature(FigureStyle(pattern, unit))
    return _Nature(None, unit, pattern, _decimals_of(calculation, table))


def _decimals_of(calculation: Calculation, table: Table) -> int | None:
    """The most decimals that a figure can have, told by the values it is made of; None where there is no telling."""
    match calculation:
        case Number(value):
            exponent = Decimal(repr(value)).normalize().as_tuple().exponent
            return max(-exponent, 0) if isinstance(exponent, int) else None
        case Lever() | Linked():
            return None
        case Aggregate(function, field):
            if field is None or function in _COUNTS:
                return 0
            column = table.column(field)
            if function not in _EXACT or not isinstance(column, NumberColumn) or column.per != 1:
                return None
            return column.decimals or (0 if _is_whole(table, field) else None)
        case Arithmetic(operator, left, right):
            sides = _decimals_of(left, table), _decimals_of(right, table)
            if operator == "/" or sides[0] is None or sides[1] is None:
                return None
            return sides[0] + sides[1] if operator == "*" else max(sides[0], sides[1])
        case _:
            assert_never(calculation)


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
        if calculation.field is None or calculation.function in _COUNTS:
            return ""
        unit, pattern = split_unit(table.field(calculation.field).pattern)
        return "%" if "%" in pattern else unit
    left, right = _common_unit(calculation.left, table), _common_unit(calculation.right, table)
    if calculation.operator == "/":
        return left if not right else ""
    return left if left == right or (calculation.operator == "*" and not right) else ""
