"""Which function does which step.

To add a step: a struct in `steps`, a function `(Table, step, Tables) -> Done`, a line here, its words in `wording`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from summula.core.preparation import derive, reshape, text
from summula.core.preparation import steps as said
from summula.core.preparation.effect import Effect
from summula.core.preparation.lookup import add_lookup
from summula.core.preparation.outcome import Done, Tables
from summula.core.preparation.steps import AnyStep, Step
from summula.core.refusal import Refusal
from summula.core.tables.table import Table

_DOERS: dict[type[Step], Callable[[Table, Any, Tables], Done]] = {
    said.SetKind: text.set_kind,
    said.Rename: reshape.rename,
    said.DropFields: reshape.drop_fields,
    said.KeepFields: reshape.keep_fields,
    said.Tidy: text.tidy,
    said.Replace: text.replace_text,
    said.FillBlanks: text.fill_blanks,
    said.Split: text.split,
    said.Join: text.join,
    said.Rows: reshape.rows,
    said.DropDuplicates: reshape.drop_duplicates,
    said.Append: reshape.append,
    said.Unpivot: reshape.unpivot,
    said.AddPart: derive.add_part,
    said.AddBands: derive.add_bands,
    said.AddBundles: derive.add_bundles,
    said.AddFormula: derive.add_formula,
    said.AddLookup: add_lookup,
}


def done(table: Table, step: AnyStep, others: Tables) -> tuple[Table, Effect]:
    """One step done, or passed over with what it lacks."""
    if step.off:
        return table, Effect(table.rows, table.rows, told="switched off")
    try:
        outcome = _DOERS[type(step)](table, step, others)
    except Refusal as refusal:
        return table, Effect(table.rows, table.rows, lacks=str(refusal))
    return outcome.table, Effect(table.rows, outcome.table.rows, outcome.cells, outcome.told, doubt=outcome.doubt)


def check(table: Table, step: AnyStep, others: Tables) -> Done:
    """A step tried out; refuses what it cannot do."""
    return _DOERS[type(step)](table, step, others)
