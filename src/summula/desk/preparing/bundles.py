"""Bundles of values, made by hand: tick some, name them, and so on."""

from __future__ import annotations

from itertools import chain, islice
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QWidget,
)

from summula.core.arrays import np
from summula.core.preparation.steps import AddBundles, AnyStep, Bundle
from summula.core.refusal import Refusal
from summula.core.tables.column import CodedColumn
from summula.desk.preparing.steppopover import Put, StepPopover
from summula.desk.theme import colour, font, tint
from summula.desk.widgets.plaintext import Button, CheckBox, Label

if TYPE_CHECKING:
    from summula.core.preparation.outcome import Tables
    from summula.core.tables.table import Table

_MOST = 300  # values that stand in the list; the others are found by searching


class BundlesPopover(StepPopover):
    def __init__(
        self, parent: QWidget, field: str, table: Table, others: Tables, put: Put, step: AddBundles | None = None
    ) -> None:
        super().__init__(parent, f"Groups of {field}", table, others, put, 340)
        self.field = field
        self.bundle_of: dict[str, str] = {
            member: each.name for each in (step.bundles if step else ()) for member in each.members
        }
        column = table.column(field)
        assert isinstance(column, CodedColumn)
        counts = np.bincount(column.codes, minlength=len(column.members) + 1).tolist()
        self.rows_of = dict(zip(column.members, counts, strict=False))
        self.ticked: dict[str, None] = {}  # in the order they were ticked
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search")
        self.search.setAccessibleName("search values")
        self.search.textChanged.connect(lambda _: self._fill())
        self.body.addWidget(self.search)
        self.list = QListWidget()
        self.list.setAccessibleName(f"values of {field}")
        self.list.setFixedHeight(226)
        self.list.itemClicked.connect(self._toggle)
        self.list.itemChanged.connect(self._tick)
        self.body.addWidget(self.list)
        row = QHBoxLayout()
        self.name = QLineEdit()
        self.name.setPlaceholderText("Group name")
        self.name.setAccessibleName("group name")
        self.name.returnPressed.connect(self.bundle)
        self.make = Button("Group selected")
        self.make.clicked.connect(self.bundle)
        row.addWidget(self.name, 1)
        row.addWidget(self.make)
        self.body.addLayout(row)
        self.together = CheckBox("All others as")
        self.rest = QLineEdit(step.rest if step and step.rest else "others")
        self.rest.setAccessibleName("label for all others")
        self.together.setChecked(bool(step and step.rest))
        self.together.toggled.connect(lambda _: self.later())
        self.rest.textChanged.connect(lambda _: self.later())
        row = QHBoxLayout()
        row.addWidget(self.together)
        row.addWidget(self.rest, 1)
        self.body.addLayout(row)
        row = QHBoxLayout()
        label = Label("Name of the new field")
        label.setFont(font(12))
        tint(label, "muted")
        row.addWidget(label)
        self.called = QLineEdit(step.name if step else self._free(f"{field} group"))
        self.called.setAccessibleName("name of the field")
        self.called.textChanged.connect(lambda _: self.later())
        row.addWidget(self.called, 1)
        self.body.addLayout(row)
        if step is not None:
            self.take.setText("Apply")
        self._fill()
        self.later()

    def _free(self, name: str) -> str:
        return name if not self.table.has(name) else f"{name} 2"

    def _fill(self) -> None:
        """The values that the search finds, first those that are bundled (under their bundle's name) or ticked, and how
        many rows hold each."""
        searched = self.search.text().casefold()
        chosen = dict.fromkeys((*self.bundle_of, *self.ticked))
        in_bundles = sorted(chosen, key=lambda member: self.bundle_of.get(member, "\uffff"))
        others = (member for member in self.rows_of if member not in chosen)
        found = (member for member in chain(in_bundles, others) if searched in self._label(member).casefold())
        shown = list(islice(found, _MOST + 1))
        self.list.blockSignals(True)
        self.list.clear()
        for member in shown[:_MOST]:
            item = QListWidgetItem(f"{self._label(member)}   {self.rows_of.get(member, 0):,}")
            item.setData(Qt.ItemDataRole.UserRole, member)
            if member in self.bundle_of:
                item.setForeground(colour("plum"))
            item.setCheckState(Qt.CheckState.Checked if member in self.ticked else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        if len(shown) > _MOST:
            item = QListWidgetItem("… more: search to find them")
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        self.list.blockSignals(False)

    def _label(self, member: str) -> str:
        bundle = self.bundle_of.get(member)
        return f"{bundle}  ·  {member}" if bundle else member

    def _tick(self, item: QListWidgetItem) -> None:
        member = item.data(Qt.ItemDataRole.UserRole)
        if item.checkState() == Qt.CheckState.Checked:
            self.ticked[member] = None
        else:
            self.ticked.pop(member, None)

    def _toggle(self, item: QListWidgetItem) -> None:
        if self.list.mapFromGlobal(self.list.cursor().pos()).x() > 26:
            ticked = item.checkState() == Qt.CheckState.Checked
            item.setCheckState(Qt.CheckState.Unchecked if ticked else Qt.CheckState.Checked)

    def bundle(self) -> None:
        """The ticked values become a bundle under the name written; without a name they leave theirs."""
        name, ticked = " ".join(self.name.text().split()), list(self.ticked)
        if not ticked:
            self.tell("First select the values to group.", "loss")
            return
        for member in ticked:
            if name:
                self.bundle_of[member] = name
            else:
                self.bundle_of.pop(member, None)
        self.ticked.clear()
        self.name.clear()
        self._fill()
        self.later()

    def step(self) -> AnyStep:
        if not self.bundle_of:
            raise Refusal("no groups yet", "select values and name the group")
        names = list(dict.fromkeys(self.bundle_of.values()))
        bundles = tuple(Bundle(n, tuple(m for m, of in self.bundle_of.items() if of == n)) for n in names)
        rest = " ".join(self.rest.text().split()) if self.together.isChecked() else ""
        return AddBundles(self.field, bundles, " ".join(self.called.text().split()), rest)

    def focus_in(self) -> None:
        self.search.setFocus()
