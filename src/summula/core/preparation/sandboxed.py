"""Formulas worked out by a process of its own, which has limits: a folio's come from whoever made it."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from summula.core.preparation.formula import check_named, fields_named
from summula.core.preparation.outcome import Done, Tables, with_added
from summula.core.refusal import Refusal
from summula.core.sandbox.asking import ask
from summula.core.sandbox.messages import Answer, Request
from summula.core.tables.field import Field
from summula.core.tables.table import Table, blanks

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.preparation.steps import AddFormula
    from summula.core.watch import Watch


class WorkOut(Request, frozen=True, kw_only=True):
    """A formula in each row of the table that is given: the fields that it names."""

    text: str

    def files(self) -> tuple[Path, ...]:
        return ()

    def deed(self) -> str:
        return "working out the formula"

    def remedy(self) -> str:
        return "change the formula"

    def do(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        from summula.core.preparation.workingout import column_of, worked_out

        kind, column = column_of(worked_out(given[0], self.text))
        return Answer((Table("", (Field("formula", kind),), (column,), given[0].rows),))


def add_formula(table: Table, step: AddFormula, others: Tables) -> Done:
    """A field of what a formula gives in each row. Raises Refusal, at its place, for what cannot be worked out."""
    named = fields_named(step.text)
    check_named(table, step.text, named)
    if table.has(step.name):
        raise Refusal(f"there is a field '{step.name}' already", "choose another name")
    given = Table("", tuple(map(table.field, named)), tuple(map(table.column, named)), table.rows)
    made = ask(WorkOut(text=step.text), (given,)).tables[0]
    kind, column = made.fields[0].kind, made.columns[0]
    pattern = _pattern(table, step.text, named) if kind == "number" else ""
    return Done(with_added(table, Field(step.name, kind, pattern=pattern), column), table.rows - blanks(column))


def _pattern(table: Table, text: str, named: tuple[str, ...]) -> str:
    """Sums and differences of figures that are all written alike are written so as well."""
    if re.search(r"[*/(]", text):
        return ""
    patterns = {table.field(name).pattern for name in named}
    return patterns.pop() if len(patterns) == 1 else ""
