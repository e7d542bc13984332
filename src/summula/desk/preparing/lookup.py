"""A look-up from another table: which table, by which key fields, which fields to bring."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QComboBox, QGridLayout, QWidget

from summula.core.preparation.lookup import named
from summula.core.preparation.steps import AddLookup, AnyStep, Key
from summula.core.refusal import Refusal
from summula.desk.preparing.formparts import FieldsPart
from summula.desk.preparing.steppopover import Put, StepPopover
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Label

if TYPE_CHECKING:
    from summula.core.preparation.outcome import Tables
    from summula.core.tables.table import Table

_KEYS = 3


class LookupPopover(StepPopover):
    """`tables` are the other tables of the folio: their ids and names."""

    def __init__(
        self, parent: QWidget, table: Table, others: Tables, tables: list[tuple[str, str]], put: Put,
        step: AddLookup | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent, "Look up from another table", table, others, put, 380)
        self.tables = tables
        self._before = step
        self.which = QComboBox()
        self.which.setAccessibleName("table to look up in")
        self.which.addItems([name for _, name in tables])
        self.body.addWidget(self.which)
        self.body.addWidget(_muted("Matching fields"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        self.keys: list[tuple[QComboBox, QComboBox]] = []
        for at in range(_KEYS):
            pair = (QComboBox(), QComboBox())
            for place, combo in enumerate(pair):
                combo.setAccessibleName(f"key {at + 1}, {'there' if place else 'here'}")
                combo.setMaxVisibleItems(18)
                combo.currentIndexChanged.connect(lambda _: self.later())
                grid.addWidget(combo, at, place * 2)
            grid.addWidget(Label("="), at, 1)
            self.keys.append(pair)
        grid.setColumnStretch(0, 1)
        grid.setColumnStretch(2, 1)
        self.body.addLayout(grid)
        self.fields = FieldsPart("fields", "Fields to add")
        self.fields.setParent(self)
        self.body.addWidget(_muted("Fields to add"))
        self.body.addWidget(self.fields.widget)
        self.fields.changed.connect(self.later)
        self.which.currentIndexChanged.connect(lambda _: self._offer())
        if step is not None:
            places = [at for at, (table_id, _) in enumerate(tables) if table_id == step.table]
            if places:
                self.which.setCurrentIndex(places[0])
            self.take.setText("Apply")
        self._offer()
        if step is not None:
            for (mine, theirs), key in zip(self.keys, step.keys, strict=False):
                mine.setCurrentText(key.mine)
                theirs.setCurrentText(key.theirs)
            self.fields.put(step.fields)

    def _offer(self) -> None:
        """Fields of both tables; of the same name they are taken for keys at once."""
        if not self.tables:
            self.tell("The folio has no other table. Open one first.", "muted")
            self.take.setEnabled(False)
            return
        try:
            other = self.others(self.tables[self.which.currentIndex()][0])
        except Refusal as refusal:
            self.tell(str(refusal), "loss")
            return
        names = [field.name for field in other.fields]
        mine = [field.name for field in self.table.fields]
        alike = [name for name in mine if name in names]
        for at, (here, there) in enumerate(self.keys):
            here.clear()
            there.clear()
            here.addItems([*(["–"] if at else []), *mine])
            there.addItems([*(["–"] if at else []), *names])
            if at < len(alike):
                here.setCurrentText(alike[at])
                there.setCurrentText(alike[at])
        self.fields.offer(other)
        self.later()

    def step(self) -> AnyStep:
        if not self.tables:
            raise Refusal("the folio has no other table", "open one first")
        keys = tuple(
            Key(here.currentText(), there.currentText())
            for here, there in self.keys
            if here.currentText() not in ("", "–") and there.currentText() not in ("", "–")
        )
        fields = self.fields.value()
        if not fields:
            raise Refusal("no field selected to add", "select one")
        table_id = self.tables[self.which.currentIndex()][0]
        return named(AddLookup(table_id, keys, fields), self.table, self.others(table_id), self._before)

    def focus_in(self) -> None:
        self.which.setFocus()


def _muted(text: str) -> Label:
    label = Label(text)
    label.setFont(font(12))
    tint(label, "muted")
    return label
