"""A slicer for a field: of the kind that its values suit."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.engine.spreads import edges_of
from summula.core.fields.heading import Heading
from summula.core.slicing.slicer import ListSlicer, NumberSlicer, PeriodSlicer, Slicer, TextSlicer
from summula.core.tables.calendarnames import calendar_names
from summula.core.tables.column import CodedColumn, NumberColumn, different_values
from summula.core.tables.field import MEASURED
from summula.core.tables.periodnumbers import period_unit

if TYPE_CHECKING:
    from summula.core.tables.table import Table

_FEW_PERIODS = 31
_MANY = 400  # members: to find one among more of them, letters are typed


def slicer_for(table: Table, table_id: str, name: str, slicer_id: str) -> Slicer:
    """The period ruler for a date, a range for a number, letters for very many texts, a list for everything else: for a
    few years or months too, and in the calendar's order for months and weekdays."""
    field, column = table.field(name), table.column(name)
    if field.kind == "date":
        return PeriodSlicer(slicer_id, table_id, name)
    if field.kind in MEASURED and isinstance(column, NumberColumn):
        values = column.present()
        if period_unit(table, name) and len(different_values(values)) <= _FEW_PERIODS:
            return ListSlicer(slicer_id, table_id, Heading(name))
        edges = tuple(edges_of(values).limits[1:-1].tolist()) if len(values) else ()
        return NumberSlicer(slicer_id, table_id, name, edges)
    if isinstance(column, CodedColumn) and len(column.members) > _MANY:
        return TextSlicer(slicer_id, table_id, name)
    named = calendar_names(table, name)
    if named is not None:
        return ListSlicer(slicer_id, table_id, Heading(name), order="hand", sequence=named.members)
    return ListSlicer(slicer_id, table_id, Heading(name))
