"""Changes of a preparation: steps put in, moved, switched off, taken out."""

from __future__ import annotations

from collections.abc import Container, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.preparation.steps import (
    AddBands,
    AddBundles,
    AddFormula,
    AddLookup,
    AddPart,
    AnyStep,
    Bundle,
    Join,
    SetKind,
)

if TYPE_CHECKING:
    from summula.core.tables.field import Kind

Steps = tuple[AnyStep, ...]


def with_kind(steps: Steps, field: str, kind: Kind, reading: str = "") -> Steps:
    """The field read as this kind; a last step that said so otherwise is replaced."""
    if steps and isinstance(steps[-1], SetKind) and steps[-1].field == field:
        steps = steps[:-1]
    return (*steps, SetKind(field, kind, reading))


def put(steps: Steps, at: int, step: AnyStep) -> Steps:
    return (*steps[:at], step, *steps[at + 1 :])


def without(steps: Steps, at: int) -> Steps:
    return (*steps[:at], *steps[at + 1 :])


def moved(steps: Steps, at: int, by: int) -> Steps:
    """The step further ahead or back, as far as there is room."""
    to = min(max(at + by, 0), len(steps) - 1)
    rest = without(steps, at)
    return (*rest[:to], steps[at], *rest[to:])


def switched(steps: Steps, at: int) -> Steps:
    """The step switched off, or on again."""
    return put(steps, at, replace(steps[at], off=not steps[at].off))


def derived_fields(steps: Steps) -> set[str]:
    """The names of fields that steps make from others."""
    made = {step.name for step in steps if isinstance(step, AddPart | AddBands | AddBundles | AddFormula | Join)}
    return made | {name for step in steps if isinstance(step, AddLookup) for name in step.names}


def bundled(
    steps: tuple[AnyStep, ...], field: str, name: str, members: Sequence[str], taken: Container[str]
) -> tuple[tuple[AnyStep, ...], str]:
    """The steps with some values of a field bundled under a name, and the field that holds the bundle: the field itself
    where it is made of bundles, else a new one. `taken` are the names of fields that there are."""
    for at, step in enumerate(steps):
        if isinstance(step, AddBundles) and step.name == field:
            made = {each.name: each.members for each in step.bundles}
            inside = tuple(dict.fromkeys(value for each in members for value in made.get(each, (each,))))
            others = tuple(each for each in step.bundles if each.name not in (*members, name))
            changed = replace(step, bundles=(*others, Bundle(name, inside)))
            return (*steps[:at], changed, *steps[at + 1 :]), field
    called, number = f"{field} group", 2
    while called in taken:
        called, number = f"{field} group {number}", number + 1
    return (*steps, AddBundles(field, (Bundle(name, tuple(members)),), called)), called
