"""The popover in which a step is made or changed. It tells at once what the step would do."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from summula.core.preparation.steps import AnyStep
from summula.core.preparation.wording import effect_words
from summula.core.refusal import Refusal, sentence, with_capital
from summula.desk.preparing.formparts import FieldPart, FieldsPart, NamePart, TextPart, TickPart
from summula.desk.preparing.stepforms import StepForm, made
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.popover import Popover
from summula.desk.work import QUICK_ROWS, Work

if TYPE_CHECKING:
    from summula.core.preparation.effect import Effect
    from summula.core.preparation.outcome import Tables
    from summula.core.tables.table import Table

Put = Callable[[AnyStep], None]
_PAUSE = 180  # ms without a key before a step is tried out


class StepPopover(Popover):
    """`table` is the table before the step. `put` takes the step when it is confirmed."""

    def __init__(self, parent: QWidget, title: str, table: Table, others: Tables, put: Put, width: int = 310) -> None:
        super().__init__(parent, title, width)
        self.table, self.others, self.put = table, others, put
        self.body = QVBoxLayout()
        self.body.setSpacing(5)
        self.column.addLayout(self.body)
        self.notice = Label(" ")
        self.notice.setWordWrap(True)
        self.notice.setFont(font(12))
        self.notice.setMinimumHeight(34)
        self.notice.setAccessibleName("what the step does")
        self.column.addWidget(self.notice)
        row = QHBoxLayout()
        row.addStretch(1)
        self.take = Button("Apply")
        self.take.setProperty("strong", "true")
        self.take.clicked.connect(self.confirm)
        row.addWidget(self.take)
        self.column.addLayout(row)
        self.work = Work(self)
        self._found: tuple[AnyStep, Effect] | None = None  # the step tried out last, and what it does
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.try_out)

    def step(self) -> AnyStep:
        """The step as the form stands; refuses what is not complete."""
        raise NotImplementedError

    def later(self) -> None:
        """Try the step out once the person pauses."""
        self._timer.start(_PAUSE)

    def try_out(self) -> None:
        try:
            step = self.step()
        except Refusal as refusal:
            self.tell(str(refusal), "muted")
            return
        from summula.core.preparation.doing import done

        def show(found: tuple[Table, Effect]) -> None:
            effect = found[1]
            self._found = (step, effect)
            self.tell(effect_words(effect), "loss" if effect.lacks else "amber" if effect.doubt else "gain")
            self.tried(*found)

        self.tell("calculating …", "muted")
        self.work.ask(
            lambda: done(self.table, step, self.others),
            show,
            lambda refusal: self.tell(str(refusal), "loss"),
            soon=self.table.rows <= QUICK_ROWS,
        )

    def tried(self, table: Table, effect: Effect) -> None:
        """What more a form shows of a step that has been tried out."""

    def tell(self, words: str, token: str) -> None:
        self.notice.setText(with_capital(words))
        tint(self.notice, token)
        set_tip(self.notice, words)

    def confirm(self) -> None:
        try:
            step = self.step()
        except Refusal as refusal:
            self.tell(str(refusal), "loss")
            return
        if self.table.rows > QUICK_ROWS:
            self._put(step)
        elif self._found is not None and self._found[0] == step:
            self._put_unless_lacking(step, self._found[1])
        else:
            from summula.core.preparation.doing import done

            self.work.ask(
                lambda: done(self.table, step, self.others),
                lambda found: self._put_unless_lacking(step, found[1]),
                lambda refusal: self.tell(str(refusal), "loss"),
                soon=True,
            )

    def _put_unless_lacking(self, step: AnyStep, effect: Effect) -> None:
        if effect.lacks:
            self.tell(effect.lacks, "loss")
        else:
            self._put(step)

    def _put(self, step: AnyStep) -> None:
        self.close()
        self.put(step)


class FormPopover(StepPopover):
    """A step by its form."""

    def __init__(
        self, parent: QWidget, form: StepForm, table: Table, others: Tables, put: Put,
        step: AnyStep | None = None, first: dict[str, Any] | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent, form.title, table, others, put)
        self.form = form
        self.parts = form.parts()
        if form.hint:
            hint = Label(sentence(form.hint))
            hint.setWordWrap(True)
            self.body.addWidget(hint)
        for part in self.parts:
            part.setParent(self)
            part.offer(table)
            if not isinstance(part, TickPart):
                self.body.addSpacing(3)
                self.body.addWidget(part.label_widget())
            self.body.addWidget(part.widget)
            if isinstance(part, TextPart):
                part.line.returnPressed.connect(self.confirm)
        for part in self.parts:
            if step is not None:
                part.put(getattr(step, part.name))
            elif first is not None and part.name in first:
                part.put(first[part.name])
            part.changed.connect(self._changed)
        if step is not None:
            self.take.setText("Apply")
        self._changed()

    def _changed(self) -> None:
        values = self._values(strict=False)
        for part in self.parts:
            if isinstance(part, NamePart):
                part.suggest_from(values)
        self.later()

    def _values(self, *, strict: bool = True) -> dict[str, Any]:
        values = {}
        for part in self.parts:
            try:
                values[part.name] = part.value()
            except Refusal:
                if strict:
                    raise
        return values

    def step(self) -> AnyStep:
        return made(self.form, self._values())

    def focus_in(self) -> None:
        """The keys go to the first part that is not answered by its place."""
        for part in self.parts:
            if isinstance(part, TextPart) and not part.line.text():
                part.line.setFocus()
                return
        for part in self.parts:
            if isinstance(part, FieldPart | FieldsPart):
                part.widget.setFocus()
                return
