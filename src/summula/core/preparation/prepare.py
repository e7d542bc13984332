"""From the rows as they were read to the table: the steps one after another, each with its effect."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec

from summula.core.preparation.effect import Effect
from summula.core.preparation.steps import AnyStep
from summula.core.tables.field import Field
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from summula.core.preparation.outcome import Tables


class Prepared(msgspec.Struct, frozen=True, eq=False):
    """The table, and what each step did. `stages` are the tables after each step, by which a changed step need not
    begin at the beginning."""

    raw: Table
    steps: tuple[AnyStep, ...]
    table: Table
    effects: tuple[Effect, ...]
    stages: tuple[Table, ...]


def prepare(raw: Table, steps: tuple[AnyStep, ...], others: Tables, before: Prepared | None = None) -> Prepared:
    """Every step done in turn. A step that lacks something is told and passed over, and the others go on.

    `before` is an earlier preparation of the same rows: the steps both begin with are not done again.
    """
    known = 0
    if before is not None and before.raw is raw:
        while known < min(len(steps), len(before.steps)) and steps[known] == before.steps[known]:
            known += 1
    stages: list[Table] = list(before.stages[:known]) if before is not None else []
    effects: list[Effect] = list(before.effects[:known]) if before is not None else []
    table = stages[-1] if stages else raw
    if known == len(steps):
        return Prepared(raw, steps, table, tuple(effects), tuple(stages))
    from summula.core.preparation.doing import done  # most steps need polars; a table without steps does not

    for step in steps[known:]:
        table, effect = done(table, step, others)
        stages.append(table)
        effects.append(effect)
    return Prepared(raw, steps, table, tuple(effects), tuple(stages))


def described(table: Table, fields: tuple[Field, ...]) -> Table:
    """The table with what has been said of its fields: descriptions, patterns, totals, what is hidden."""
    by_name = {field.name: field for field in fields}
    new = tuple(field if field.name not in by_name else _said(field, by_name[field.name]) for field in table.fields)
    return table if new == table.fields else table.with_fields(new)


def _said(field: Field, by: Field) -> Field:
    return Field(field.name, field.kind, by.description, by.pattern, by.total, by.hidden)
