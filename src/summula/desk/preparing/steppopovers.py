"""Which popover makes or changes a step, one row a kind that has one of its own; all others have a form."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, NamedTuple, TypeAlias

from PyQt6.QtWidgets import QWidget

from summula.core.folio.model import TableEntry
from summula.core.preparation import steps as step_types
from summula.core.preparation.steps import AnyStep, Step
from summula.core.tables.table import Table
from summula.desk.session import Session

if TYPE_CHECKING:
    from summula.desk.preparing.bundles import BundlesPopover
    from summula.desk.preparing.formula import FormulaPopover
    from summula.desk.preparing.lookup import LookupPopover
    from summula.desk.preparing.steppopover import FormPopover

StepPopover: TypeAlias = "FormulaPopover | BundlesPopover | LookupPopover | FormPopover"


class Wanted(NamedTuple):
    """A step that is to be made of a table as it is before it, or (`step`) changed; about a `field`, if any. `put`
    takes what comes of it."""

    page: QWidget
    session: Session
    entry: TableEntry
    table: Table
    put: Callable[[AnyStep], None]
    step: Any = None
    field: str = ""

    @property
    def others(self) -> Any:
        """The other tables of the folio, as they are prepared."""
        return self.session.preparing.others(self.session.folio, self.entry)


def popover_for(kind: type[Step], wanted: Wanted) -> StepPopover | None:
    """The popover of a kind of step; None where the table has nothing it could be made of, which is told."""
    own = _OWN.get(kind)
    return own(wanted) if own is not None else _form(kind, wanted)


def _formula(wanted: Wanted) -> StepPopover:
    from summula.desk.preparing.formula import FormulaPopover

    begin = f'"{wanted.field}" ' if wanted.field else ""
    return FormulaPopover(wanted.page, wanted.table, wanted.others, wanted.put, wanted.step, begin)


def _bundles(wanted: Wanted) -> StepPopover | None:
    from summula.desk.preparing.bundles import BundlesPopover

    step, table = wanted.step, wanted.table
    texts = [each.name for each in table.fields if each.kind in ("category", "code", "flag")]
    usual = wanted.field if wanted.field in texts else texts[0] if texts else ""
    name = step.field if step is not None else usual
    if not name or not table.has(name):
        wanted.session.notice.emit("The table has no field with values to group.", True)
        return None
    return BundlesPopover(wanted.page, name, table, wanted.others, wanted.put, step)


def _lookup(wanted: Wanted) -> StepPopover:
    from summula.desk.preparing.lookup import LookupPopover

    tables = [(each.id, each.name) for each in wanted.session.folio.tables if each.id != wanted.entry.id]
    return LookupPopover(wanted.page, wanted.table, wanted.others, tables, wanted.put, wanted.step)


def _form(kind: type[Step], wanted: Wanted) -> StepPopover:
    from summula.desk.preparing.stepforms import form_for
    from summula.desk.preparing.steppopover import FormPopover

    form = form_for(kind)
    assert form is not None
    first = {"field": wanted.field, "fields": (wanted.field,)} if wanted.field else None
    return FormPopover(wanted.page, form, wanted.table, wanted.others, wanted.put, wanted.step, first)


_OWN: dict[type[Step], Callable[[Wanted], StepPopover | None]] = {
    step_types.AddFormula: _formula,
    step_types.AddBundles: _bundles,
    step_types.AddLookup: _lookup,
}
