"""What a field is like once it is read: its pattern by the unit it is written in, and whether it adds up."""

from __future__ import annotations

from typing import Literal

from summula.core.arrays import np
from summula.core.tables.column import Column, NumberColumn
from summula.core.tables.field import Field, Sensed
from summula.core.tables.names import averages, sums, words
from summula.core.tables.units import CURRENCIES, is_money

_RATES = words(
    """
    % ‰ ° °c °f k km/h kmh mph kn kt kts knots m/s hpa pa kpa psi bar db rpm bpm ppm ppb dpi hz khz mhz ghz v
    kv
    """
)  # units of what is averaged
_MONEY_DECIMALS = 2
_SHARES = 20  # values from 0 to 1, at least, that are told to be shares by their range alone


def field_for(name: str, sensed: Sensed, column: Column) -> Field:
    """The field as it is described until a person says otherwise."""
    if not isinstance(column, NumberColumn) or sensed.kind != "number":
        return Field(name, sensed.kind)
    return Field(
        name, sensed.kind, pattern=pattern_for(sensed.unit, column.decimals), total=_total(name, sensed, column)
    )


def pattern_for(unit: str, decimals: int) -> str:
    """The CLDR pattern that writes numbers with their unit; empty where they have none."""
    if not unit:
        return ""
    if unit == "%":
        return f"0{_places(max(decimals - 2, 0))}%"
    if unit in CURRENCIES:
        return f"{unit}#,##0{_places(max(decimals, _MONEY_DECIMALS) if decimals else 0)}"
    if is_money(unit) and decimals:
        decimals = max(decimals, _MONEY_DECIMALS)
    return f"#,##0{_places(decimals)} '{unit.replace(chr(39), chr(39) * 2)}'"


def _places(decimals: int) -> str:
    return "." + "0" * decimals if decimals else ""


def _total(name: str, sensed: Sensed, column: NumberColumn) -> Literal["sum", "mean"]:
    """Whether a field adds up, told by its unit, its name, and the range and shape of its values."""
    if sums(name):
        return "sum"
    if sensed.unit.lower() in _RATES or averages(name):
        return "mean"
    return "mean" if _are_shares(column) else "sum"


def _are_shares(column: NumberColumn) -> bool:
    """Whether all values lie between nothing and one, hardly any of them whole: shares, odds, indices."""
    if (
        not column.decimals
        or len(column.values) < _SHARES
        or column.values.min() < 0
        or column.values.max() > column.unit
    ):
        return False
    values = column.present()
    whole = int(np.count_nonzero(values == np.rint(values)))
    return len(values) >= _SHARES and whole * 5 < len(values)
