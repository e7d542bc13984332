"""What the forms of steps are made of: a label and something to choose or write with, and the value it stands for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QLineEdit, QListWidget, QListWidgetItem, QWidget

from summula.core.language.grammar import parse
from summula.core.language.vocabulary import Vocabulary
from summula.core.phrases.printing import number_text, print_condition
from summula.core.refusal import Refusal
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import CheckBox, Label

if TYPE_CHECKING:
    from summula.core.fields.bands import Bands
    from summula.core.phrases.phrase import Condition
    from summula.core.tables.table import Table

_ROWS = 7


class FormPart(QObject):
    """One value of a step: `name` is the step's own, `label` what a person reads."""

    changed = pyqtSignal()

    def __init__(self, name: str, label: str) -> None:
        super().__init__()
        self.name, self.label = name, label
        self.widget: QWidget = QWidget()

    def offer(self, table: Table) -> None:
        """What can be chosen from in this table."""

    def value(self) -> Any:
        raise NotImplementedError

    def put(self, value: Any) -> None:
        raise NotImplementedError

    def label_widget(self) -> Label:
        label = Label(self.label)
        label.setFont(font(12))
        tint(label, "muted")
        label.setBuddy(self.widget)
        return label


class FieldPart(FormPart):
    """One field, of these kinds (none: of any)."""

    def __init__(self, name: str, label: str, kinds: Sequence[str] = ()) -> None:
        super().__init__(name, label)
        self.kinds = tuple(kinds)
        self.combo = self.widget = QComboBox()
        self.combo.setAccessibleName(label)
        self.combo.setMaxVisibleItems(18)
        self.combo.currentIndexChanged.connect(self.changed)

    def offer(self, table: Table) -> None:
        names = [field.name for field in table.fields if not self.kinds or field.kind in self.kinds]
        self.combo.clear()
        self.combo.addItems(names)

    def value(self) -> str:
        text = self.combo.currentText()
        if not text:
            raise Refusal("the table has no suitable field", "change a field's type first")
        return text

    def put(self, value: Any) -> None:
        if self.combo.findText(value) < 0:  # a field that is missing now stays said
            self.combo.addItem(value)
        self.combo.setCurrentText(value)


class FieldsPart(FormPart):
    """Several fields, to tick; `ordered` fields can be dragged into another order."""

    def __init__(self, name: str, label: str, kinds: Sequence[str] = (), *, all_at_first: bool = False) -> None:
        super().__init__(name, label)
        self.kinds, self.all_at_first = tuple(kinds), all_at_first
        self.list = self.widget = QListWidget()
        self.list.setAccessibleName(label)
        self.list.itemChanged.connect(lambda _: self.changed.emit())
        self.list.itemClicked.connect(self._toggle)
        self.list.setDragDropMode(self.list.DragDropMode.InternalMove)
        model = self.list.model()
        assert model is not None
        model.rowsMoved.connect(lambda *_: self.changed.emit())

    def _toggle(self, item: QListWidgetItem) -> None:
        """A click on the name ticks as well as one on the box."""
        box = self.list.mapFromGlobal(self.list.cursor().pos())
        if box.x() > 26:
            checked = item.checkState() == Qt.CheckState.Checked
            item.setCheckState(Qt.CheckState.Unchecked if checked else Qt.CheckState.Checked)

    def offer(self, table: Table) -> None:
        names = [field.name for field in table.fields if not self.kinds or field.kind in self.kinds]
        self._fill(names, set(names) if self.all_at_first else set())

    def _fill(self, names: Sequence[str], ticked: set[str]) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for name in names:
            item = QListWidgetItem(name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if name in ticked else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.list.blockSignals(False)
        rows = min(max(self.list.count(), 2), _ROWS)
        self.list.setFixedHeight(rows * max(self.list.sizeHintForRow(0), 24) + 4)

    def value(self) -> tuple[str, ...]:
        items = [self.list.item(at) for at in range(self.list.count())]
        return tuple(i.text() for i in items if i is not None and i.checkState() == Qt.CheckState.Checked)

    def put(self, value: Any) -> None:
        known = [item.text() for at in range(self.list.count()) if (item := self.list.item(at)) is not None]
        self._fill([*value, *(name for name in known if name not in value)], set(value))


class TextPart(FormPart):
    """A line of text."""

    def __init__(self, name: str, label: str, hint: str = "") -> None:
        super().__init__(name, label)
        self.line = self.widget = QLineEdit()
        self.line.setAccessibleName(label)
        self.line.setPlaceholderText(hint)
        self.line.textChanged.connect(lambda _: self.changed.emit())

    def value(self) -> Any:
        return self.line.text()

    def put(self, value: Any) -> None:
        self.line.setText(value)


class NamePart(TextPart):
    """The name of a new field; suggested until a person writes one."""

    def __init__(self, suggest: Callable[[dict[str, Any]], str], name: str = "name", label: str = "Name") -> None:
        super().__init__(name, label)
        self.suggest, self.own = suggest, False
        self.line.textEdited.connect(lambda _: setattr(self, "own", True))

    def put(self, value: Any) -> None:
        self.own = True
        super().put(value)

    def suggest_from(self, values: dict[str, Any]) -> None:
        if not self.own:
            self.line.blockSignals(True)
            self.line.setText(self.suggest(values))
            self.line.blockSignals(False)

    def value(self) -> str:
        return " ".join(self.line.text().split())


class NamesPart(TextPart):
    """Several names, with commas between."""

    def value(self) -> tuple[str, ...]:
        return tuple(name for part in self.line.text().split(",") if (name := " ".join(part.split())))

    def put(self, value: Any) -> None:
        super().put(", ".join(value))


class LimitsPart(TextPart):
    """The limits of bands, with commas between; "every 10" makes equal ones, "every 10 from 0 to 60" open ends."""

    def value(self) -> Bands:
        text = self.line.text().strip()
        if not text:
            raise Refusal("no limits given", "enter limits such as 5, 10, 20, or every 10")
        word = f"bands of {text.removeprefix('every').strip()}" if text.startswith("every") else f"bands at {text}"
        heading = parse(f'show rows by "x" in {word}').by[0]
        assert heading.bands is not None
        return heading.bands

    def put(self, value: Any) -> None:
        bands: Bands = value
        if bands.at:
            super().put(", ".join(number_text(each) for each in bands.at))
            return
        ends = [
            f" {word} {number_text(end)}"
            for word, end in (("from", bands.lowest), ("to", bands.highest))
            if end is not None
        ]
        super().put(f"every {number_text(bands.width or 0)}{''.join(ends)}")


class WherePart(TextPart):
    """Conditions, as in a phrase."""

    def __init__(self, name: str, label: str) -> None:
        super().__init__(name, label, 'Ticket is "Single" and Takings is over 0')
        self.vocabulary: Vocabulary | None = None

    def offer(self, table: Table) -> None:
        self.vocabulary = Vocabulary(table)

    def value(self) -> tuple[Condition, ...]:
        text = self.line.text().strip()
        if not text:
            raise Refusal("no condition given", "enter one, as after “where” in a phrase")
        return parse(f"show rows where {text}", self.vocabulary).where

    def put(self, value: Any) -> None:
        super().put(" and ".join(print_condition(each) for each in value))


class ChoicePart(FormPart):
    """One of a few."""

    def __init__(self, name: str, label: str, choices: Sequence[tuple[str, Any]]) -> None:
        super().__init__(name, label)
        self.choices = list(choices)
        self.combo = self.widget = QComboBox()
        self.combo.setAccessibleName(label)
        self.combo.addItems([text for text, _ in self.choices])
        self.combo.currentIndexChanged.connect(self.changed)

    def value(self) -> Any:
        return self.choices[max(self.combo.currentIndex(), 0)][1]

    def put(self, value: Any) -> None:
        places = [at for at, (_, each) in enumerate(self.choices) if each == value]
        self.combo.setCurrentIndex(places[0] if places else 0)


class TickPart(FormPart):
    """Yes or no."""

    def __init__(self, name: str, label: str) -> None:
        super().__init__(name, label)
        self.box = self.widget = CheckBox(label)
        self.box.toggled.connect(lambda _: self.changed.emit())

    def value(self) -> bool:
        return self.box.isChecked()

    def put(self, value: Any) -> None:
        self.box.setChecked(value)
