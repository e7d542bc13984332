"""A slicer for a field: of the kind that its values suit."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.engine.spreads import edges_of
from summula.core.fields.heading import Heading
from summula.core.slicing.slicer import ListSlicer, NumberSlicer, PeriodSlicer, Slicer, TextSlicer
from summula.core.tables.column import CodedColumn, NumberColumn
from summula.core.tables.field import MEASURED

if TYPE_CHECKING:
    from summula.core.tables.table import Table

_MANY = 400  # members: to find one among more of them, letters are typed


def slicer_for(table: Table, table_id: str, name: str, slicer_id: str) -> Slicer:
    """The period ruler for a date, a range for a number, letters for very many texts, a list for everything else."""
    field, column = table.field(name), table.column(name)
    if field.kind == "date":
        return PeriodSlicer(slicer_id, table_id, name)
    if field.kind in MEASURED and isinstance(column, NumberColumn):
        values = column.present()
        edges = tuple(edges_of(values).limits[1:-1].tolist()) if len(values) else ()
        return NumberSlicer(slicer_id, table_id, name, edges)
    if isinstance(column, CodedColumn) and len(column.members) > _MANY:
        return TextSlicer(slicer_id, table_id, name)
    return ListSlicer(slicer_id, table_id, Heading(name))
