"""From a wish to a step: which popover opens for which kind of step, and what becomes of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from summula.core.folio.model import TableEntry
from summula.core.preparation import editing
from summula.core.preparation import steps as step_types
from summula.core.preparation.steps import AnyStep, Step
from summula.core.preparation.wording import effect_words, explained, words
from summula.core.refusal import with_capital
from summula.desk.preparing.steppopovers import Wanted, popover_for
from summula.desk.theme import font, tint
from summula.desk.widgets.lastpopover import LastPopover
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.tables.table import Table
    from summula.desk.session import Session

Take = Callable[[tuple[AnyStep, ...], str], None]


class StepMaker:
    """Makes and changes the steps of the table in view. `take` is handed all steps, and what was done."""

    popover: LastPopover[Popover] = LastPopover()

    def __init__(self, page: QWidget, session: Session, take: Take, ask_rows: Callable[[], None]) -> None:
        self.page, self.session, self.take, self.ask_rows = page, session, take, ask_rows

    def _entry(self) -> TableEntry:
        entry = self.session.page_of(TableEntry)
        assert entry is not None
        return entry

    # -- a new step --------------------------------------------------------------------------------

    def choose(self, anchor: QWidget) -> None:
        """The kinds of steps, to pick one."""
        popover = Popover(self.page, "Add a step", 360)
        choices = step_picks()
        picks = PickList(choices, name="steps", most_rows=18, search=True)

        def chosen(step: type[Step]) -> None:
            self._after(popover, lambda: self.make(step, anchor))

        picks.picked.connect(chosen)
        popover.column.addWidget(picks)
        self._open(popover, anchor)
        picks.focus_in()

    def make(self, kind: type[Step], anchor: QWidget, field: str = "") -> None:
        """The popover for a new step of this kind, about `field` where one is selected."""
        if kind is step_types.Append:
            self.ask_rows()
            return
        entry, table = self._entry(), self.session.table(self._entry().id)

        def put(step: AnyStep) -> None:
            self.take((*entry.steps, step), _deed(step))

        self._show(kind, anchor, table, put, field=field)

    def change(self, at: int, anchor: QWidget) -> None:
        """The popover of a step that is there: its effect, its place, its form."""
        entry = self._entry()
        step = entry.steps[at]
        effect = self.session.prepared(entry.id).effects[at]
        popover = Popover(self.page, f"Step {at + 2}", 330)
        title = Label(explained(step))
        title.setWordWrap(True)
        title.setFont(font(13, 600))
        popover.column.addWidget(title)
        notice = Label(effect_words(effect))
        notice.setWordWrap(True)
        tint(notice, "loss" if effect.lacks else "amber" if effect.doubt else "muted")
        popover.column.addWidget(notice)
        row = QHBoxLayout()
        for text, by, possible in (("← Earlier", -1, at > 0), ("Later →", 1, at < len(entry.steps) - 1)):
            button = Button(text)
            button.setEnabled(possible)
            button.clicked.connect(
                lambda _, by=by: self._done(popover, editing.moved(entry.steps, at, by), f"Move: {words(step)}")
            )
            row.addWidget(button)
        row.addStretch(1)
        popover.column.addLayout(row)
        row = QHBoxLayout()
        if not isinstance(step, step_types.Append):
            change = Button("Change …")
            change.setProperty("strong", "true")
            change.clicked.connect(lambda: self._change(popover, at, anchor))
            row.addWidget(change)
        switch = Button("Turn on" if step.off else "Turn off")
        switch.clicked.connect(
            lambda: self._done(popover, editing.switched(entry.steps, at), f"{switch.text()}: {words(step)}")
        )
        row.addWidget(switch)
        row.addStretch(1)
        away = Button("Remove")
        away.clicked.connect(lambda: self._done(popover, editing.without(entry.steps, at), f"Remove: {words(step)}"))
        row.addWidget(away)
        popover.column.addLayout(row)
        self._open(popover, anchor)

    def _change(self, popover: Popover, at: int, anchor: QWidget) -> None:
        self._after(popover, lambda: self._change_now(at, anchor))

    def _after(self, popover: Popover, run: Callable[[], None]) -> None:
        """Close a popover, then open another: not at once, or the closing of the first takes the second along."""
        popover.close()
        QTimer.singleShot(0, run)

    def _change_now(self, at: int, anchor: QWidget) -> None:
        entry = self._entry()
        prepared = self.session.prepared(entry.id)
        before = prepared.stages[at - 1] if at else prepared.raw

        def put(step: AnyStep) -> None:
            self.take(editing.put(entry.steps, at, step), f"Change: {words(step)}")

        self._show(type(entry.steps[at]), anchor, before, put, step=entry.steps[at])

    def _done(self, popover: Popover, steps: tuple[AnyStep, ...], edit_name: str) -> None:
        popover.close()
        self.take(steps, edit_name)

    def _show(
        self, kind: type[Step], anchor: QWidget, table: Table, put: Callable[[AnyStep], None],
        step: Any = None, field: str = "",
    ) -> None:  # fmt: skip
        popover = popover_for(kind, Wanted(self.page, self.session, self._entry(), table, put, step, field))
        if popover is not None:
            self._open(popover, anchor)
            popover.focus_in()

    def _open(self, popover: Popover, anchor: QWidget) -> None:
        self.popover = popover
        popover.open_below(anchor if anchor.isVisible() else self.page)


def _deed(step: AnyStep) -> str:
    text = words(step)
    return with_capital(text) if text[0].isalpha() else text


def step_picks() -> list[Pick]:
    """Every kind of step, by its name."""
    from summula.desk.preparing.stepforms import FORMS

    choices: list[Pick] = [Pick(form.title, form.step, form.hint) for form in FORMS]
    choices[-2:-2] = [Pick("Append rows of other files", step_types.Append, "by field name")]
    return [
        *choices,
        Pick("Groups of values", step_types.AddBundles, "selected and named by hand"),
        Pick("Formula", step_types.AddFormula, "calculated for each row"),
        Pick("Look up from another table", step_types.AddLookup, "matched by key fields"),
    ]
