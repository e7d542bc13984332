"""The popover of a condition: a test, and what it asks for: members to tick, limits, a text, or so many days."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QListWidgetItem,
    QSpinBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from summula.core.fields.heading import Heading, encode_heading
from summula.core.fields.labels import label_of
from summula.core.phrases.printing import name_text, print_condition, print_heading, value_text
from summula.core.phrases.words import UNIT_WORDS
from summula.core.refusal import Refusal
from summula.core.summaries import parse
from summula.core.tables.field import MEASURED
from summula.desk.phrase.popoverparts import Say, done, foot, tell, trouble_label, typed
from summula.desk.widgets.picklist import PickList
from summula.desk.widgets.plaintext import Button
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.language.vocabulary import Vocabulary
    from summula.core.phrases.phrase import Condition, Phrase, Value
    from summula.core.tables.table import Table
    from summula.desk.phrase.phrasewords import Word

_TEXTS = ("contains", "starts with", "ends with")
_LIMITS = ("is over", "is at least", "is under", "is at most")
_BLANKS = ("is blank", "is not blank")
_MOST_MEMBERS = 2_000


def tests_for(table: Table, heading: Heading) -> tuple[str, ...]:
    """The tests that a heading allows, in the order they are offered."""
    kind = table.field(heading.field).kind
    if heading.bands is not None:
        return ("is", "is not", *_BLANKS)
    if heading.part is not None:
        return ("is", "is not", "is from", *_LIMITS, *_BLANKS)
    if kind in MEASURED:
        return (*_LIMITS, "is from", "is", "is not", *_BLANKS)
    if kind == "date":
        return ("is from", "is in the last", *_LIMITS, *_BLANKS)
    return ("is", "is not", *(_TEXTS if kind != "flag" else ()), *_BLANKS)


def condition_popover(anchor: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    condition = phrase.where[word.at]
    popover = Popover(anchor, f"Only rows where {condition.heading.field}", 310)

    def read(text: str) -> Phrase:
        new = parse(f"show rows where {text}", vocabulary).where
        where = (*phrase.where[: word.at], *new, *phrase.where[word.at + 1 :])
        return replace(phrase, where=where)

    form = ConditionForm(condition, vocabulary.table)
    popover.column.addWidget(form)
    notice = trouble_label()
    take = Button("Apply")
    take.setProperty("strong", "true")

    def taken() -> None:
        try:
            changed = read(form.text())
        except Refusal as refusal:
            tell(notice, refusal, popover)
            return
        done(popover, say, changed, f"where {form.text()}")

    form.entered = taken
    take.clicked.connect(taken)
    popover.column.addWidget(notice)
    popover.column.addWidget(take)
    typed(popover, print_condition(condition), "the condition as text", read, say, "Change a condition")
    foot(popover, word, phrase, say, len(phrase.where))
    return popover


class ConditionForm(QWidget):
    """A test and what it asks for; `text` is the condition as it would be written."""

    def __init__(self, condition: Condition, table: Table) -> None:
        super().__init__()
        self.heading, self.table = condition.heading, table
        self.kind = table.field(condition.heading.field).kind
        self.entered: Callable[[], None] = lambda: None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.test = QComboBox()
        self.test.setAccessibleName("which rows")
        self.test.addItems(tests_for(table, condition.heading))
        self.test.setCurrentText(condition.test)
        self.test.currentTextChanged.connect(self._shown)
        column.addWidget(self.test)
        self.stack = QStackedWidget()
        self.members = self._member_list(condition) if "is" in self._tests() and not self._plain_number() else None
        self.first, self.second = self._line("from, or the limit"), self._line("to")
        self.number, self.unit = QSpinBox(), QComboBox()
        self.lines = self._row(self.first, self.second)
        self.span = self._row(self.number, self.unit)
        self.nothing = QWidget()
        for page in (self.lines, self.span, self.nothing, *([self.members] if self.members is not None else [])):
            self.stack.addWidget(page)
        column.addWidget(self.stack)
        self.number.setAccessibleName("how many")
        self.number.setRange(1, 100_000)
        self.unit.setAccessibleName("days, weeks, months, quarters or years")
        self.unit.addItems(UNIT_WORDS)
        self._fill(condition)
        self._shown()

    def _tests(self) -> list[str]:
        return [self.test.itemText(at) for at in range(self.test.count())]

    def _plain_number(self) -> bool:
        return self.kind in MEASURED and self.heading.bands is None

    def _line(self, name: str) -> QLineEdit:
        line = QLineEdit()
        line.setAccessibleName(name)
        line.setPlaceholderText("2024-05-31, or 2024-05" if self.kind == "date" and self.heading.part is None else "")
        line.returnPressed.connect(lambda: self.entered())
        return line

    def _row(self, *widgets: QWidget) -> QWidget:
        inside = QWidget()
        row = QHBoxLayout(inside)
        row.setContentsMargins(0, 0, 0, 0)
        for widget in widgets:
            row.addWidget(widget)
        return inside

    def _fill(self, condition: Condition) -> None:
        values = [value_text(value).strip('"') for value in condition.values]
        if condition.test == "is in the last" and len(values) == 2:
            self.number.setValue(int(float(values[0])))
            self.unit.setCurrentText(values[1])
            return
        self.number.setValue(3)
        self.unit.setCurrentText("months")
        if condition.test in ("is", "is not") and self._plain_number():
            self.first.setText(" or ".join(values))
        elif condition.test not in ("is", "is not", *_BLANKS):
            self.first.setText(values[0] if values else "")
            self.second.setText(values[1] if len(values) > 1 else "")

    def _member_list(self, condition: Condition) -> PickList:
        """The members, those of the condition ticked."""
        encoded = encode_heading(self.table, condition.heading)
        picks = PickList([], name="members", most_rows=9, search=len(encoded.members) > 9)
        picks.list.setSelectionMode(picks.list.SelectionMode.NoSelection)
        chosen = {str(v).casefold() if isinstance(v, str) else str(int(v)) for v in condition.values}
        picks.list.clear()
        for member in encoded.members[:_MOST_MEMBERS]:
            spelled = member.isoformat() if isinstance(member, date) else member
            item = QListWidgetItem(label_of(condition.heading, member))
            value: Value = (
                float(spelled) if isinstance(spelled, int) and not isinstance(spelled, bool) else str(spelled)
            )
            item.setData(Qt.ItemDataRole.UserRole, value)
            ticked = condition.test in ("is", "is not") and str(spelled).casefold() in chosen
            item.setCheckState(Qt.CheckState.Checked if ticked else Qt.CheckState.Unchecked)
            picks.list.addItem(item)
        rows = min(max(len(encoded.members), 1), 9)
        picks.list.setFixedHeight(rows * max(picks.list.sizeHintForRow(0), 24) + 6)
        picks.list.itemClicked.disconnect()
        picks.list.itemActivated.disconnect()
        picks.search.textChanged.disconnect()
        picks.search.textChanged.connect(lambda text: _hide_others(picks, text))
        return picks

    def _shown(self) -> None:
        """Only what the test asks for."""
        test = self.test.currentText()
        if test in _BLANKS:
            page: QWidget = self.nothing
        elif test == "is in the last":
            page = self.span
        elif test in ("is", "is not") and self.members is not None:
            page = self.members
        else:
            page = self.lines
            self.second.setVisible(test == "is from")
        self.stack.setCurrentWidget(page)
        self.stack.setFixedHeight(0 if page is self.nothing else page.sizeHint().height())
        window = self.window()
        if isinstance(window, Popover):
            window.adjustSize()

    def text(self) -> str:
        """The condition as it would be written."""
        test = self.test.currentText()
        head = f"{print_heading(self.heading)} {test}"
        if test in _BLANKS:
            return head
        if test == "is in the last":
            return f"{head} {self.number.value()} {self.unit.currentText()}"
        if test in ("is", "is not") and self.members is not None:
            return f"{head} " + " or ".join(value_text(value) for value in self._ticked())
        if test == "is from":
            return f"{head} {self._value(self.first.text())} to {self._value(self.second.text())}"
        if test in ("is", "is not"):
            return f"{head} " + " or ".join(self._value(each) for each in self.first.text().split(" or "))
        return f"{head} {self._value(self.first.text())}"

    def _value(self, text: str) -> str:
        """A value as it is written: a text in quotation marks, a number or a date as it stands."""
        text = " ".join(text.split())
        words = self.kind in ("category", "code", "flag") and self.heading.part is None
        return name_text(text) if words and text else text.replace(",", "") if self._plain_number() else text

    def _ticked(self) -> list[Value]:
        assert self.members is not None
        items = [self.members.list.item(row) for row in range(self.members.list.count())]
        return [
            item.data(Qt.ItemDataRole.UserRole)
            for item in items
            if item is not None and item.checkState() == Qt.CheckState.Checked
        ]


def _hide_others(picks: PickList, text: str) -> None:
    for row in range(picks.list.count()):
        item = picks.list.item(row)
        if item is not None:
            item.setHidden(text.casefold() not in item.text().casefold())
