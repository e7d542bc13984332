"""Which function does which step.

To add a step: a struct in `steps`, a function `(Table, step, Tables) -> Done`, a line here, its words in `wording`.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from summula.core.preparation import derive, reshape, text
from summula.core.preparation import steps as step_types
from summula.core.preparation.effect import Effect
from summula.core.preparation.lookup import add_lookup
from summula.core.preparation.sandboxed import add_formula
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from collections.abc import Callable

    from summula.core.preparation.outcome import Done, Tables
    from summula.core.preparation.steps import AnyStep, Step
    from summula.core.tables.table import Table

_DOERS: dict[type[Step], Callable[[Table, Any, Tables], Done]] = {
    step_types.SetKind: text.set_kind,
    step_types.Rename: reshape.rename,
    step_types.DropFields: reshape.drop_fields,
    step_types.KeepFields: reshape.keep_fields,
    step_types.Tidy: text.tidy,
    step_types.Replace: text.replace_text,
    step_types.FillBlanks: text.fill_blanks,
    step_types.Split: text.split,
    step_types.Join: text.join,
    step_types.Rows: reshape.rows,
    step_types.DropDuplicates: reshape.drop_duplicates,
    step_types.Append: reshape.append,
    step_types.Unpivot: reshape.unpivot,
    step_types.AddPart: derive.add_part,
    step_types.AddBands: derive.add_bands,
    step_types.AddBundles: derive.add_bundles,
    step_types.AddFormula: add_formula,
    step_types.AddLookup: add_lookup,
}


def done(table: Table, step: AnyStep, others: Tables) -> tuple[Table, Effect]:
    """One step done, or passed over with what it lacks."""
    if step.off:
        return table, Effect(table.rows, table.rows, notice="switched off")
    try:
        outcome = _DOERS[type(step)](table, step, others)
    except Refusal as refusal:
        return table, Effect(table.rows, table.rows, lacks=str(refusal))
    return outcome.table, Effect(table.rows, outcome.table.rows, outcome.cells, outcome.notice, doubt=outcome.doubt)


def check(table: Table, step: AnyStep, others: Tables) -> Done:
    """A step tried out; refuses what it cannot do."""
    return _DOERS[type(step)](table, step, others)
