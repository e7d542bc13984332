"""The popover of a condition: members to tick, or a comparison to type."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from typing import Any, cast

import msgspec
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QLabel,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from summula.core.fields.heading import encode_heading
from summula.core.fields.labels import label_of
from summula.core.summaries import editing, parse
from summula.core.summaries.language.printing import print_condition
from summula.core.summaries.language.vocabulary import Vocabulary
from summula.core.summaries.phrase import Condition, Phrase, Value
from summula.core.tables.table import Table
from summula.desk.phrase.phrasewords import Word
from summula.desk.phrase.popoverparts import Say, done, foot, typed
from summula.desk.theme import colour, font
from summula.desk.widgets.picklist import PickList
from summula.desk.widgets.popover import Popover


def condition_popover(beside: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    condition, table = phrase.where[word.at], vocabulary.table
    popover = Popover(beside, f"Only rows where {condition.heading.field}", 310)
    kind = table.field(condition.heading.field).kind

    def change(new: Condition) -> None:
        done(popover, say, editing.put(phrase, "where", word.at, new), f"where {print_condition(new)}")

    if kind in ("category", "flag") or condition.heading.part is not None:
        _member_choice(popover, condition, table, change)

    def read(text: str) -> Phrase:
        new = parse(f"show rows where {text}", vocabulary).where
        where = (*phrase.where[: word.at], *new, *phrase.where[word.at + 1 :])
        return msgspec.structs.replace(phrase, where=where)

    line = typed(popover, print_condition(condition), "the condition as text", read, say, "Change a condition")
    if kind in ("number", "date", "code"):
        hints = {
            "number": "is over 10 · is from 5 to 20 · is blank",
            "date": "is from 2024-01-01 to 2024-12-31 · is in the last 3 months",
            "code": 'starts with "10"',
        }
        hint = QLabel("For example: " + hints[kind])
        hint.setWordWrap(True)
        hint.setFont(font(12))
        hint.setStyleSheet(f"color: {colour('muted').name()}")
        popover.column.addWidget(hint)
        line.setFocus()
    foot(popover, word, phrase, say, len(phrase.where))
    return popover


def _member_choice(popover: Popover, condition: Condition, table: Table, change: Callable[[Condition], None]) -> None:
    test = QComboBox()
    test.setAccessibleName("which members")
    test.addItems(["is", "is not"])
    test.setCurrentText(condition.test if condition.test in ("is", "is not") else "is")
    popover.column.addWidget(test)
    encoded = encode_heading(table, condition.heading)
    picks = PickList([], name="members", most_rows=9, search=len(encoded.members) > 9)
    picks.list.setSelectionMode(picks.list.SelectionMode.NoSelection)
    chosen = {str(v).casefold() if isinstance(v, str) else str(int(v)) for v in condition.values}
    picks.list.clear()
    for member in encoded.members[:2000]:
        spelled = member.isoformat() if isinstance(member, date) else member
        item = QListWidgetItem(label_of(condition.heading, member))
        value: Value = float(spelled) if isinstance(spelled, int) and not isinstance(spelled, bool) else str(spelled)
        item.setData(Qt.ItemDataRole.UserRole, value)
        item.setCheckState(Qt.CheckState.Checked if str(spelled).casefold() in chosen else Qt.CheckState.Unchecked)
        picks.list.addItem(item)
    rows = min(max(len(encoded.members), 1), 9)
    picks.list.setFixedHeight(rows * max(picks.list.sizeHintForRow(0), 24) + 6)
    picks.list.itemClicked.disconnect()
    picks.list.itemActivated.disconnect()
    picks.search.textChanged.disconnect()
    picks.search.textChanged.connect(lambda text: _hide_others(picks, text))
    popover.column.addWidget(picks)
    take = QPushButton("Take these")
    take.setProperty("strong", "true")

    def taken() -> None:
        values = []
        for row in range(picks.list.count()):
            item = picks.list.item(row)
            if item is not None and item.checkState() == Qt.CheckState.Checked:
                values.append(item.data(Qt.ItemDataRole.UserRole))
        if values:
            change(Condition(condition.heading, cast(Any, test.currentText()), tuple(values)))

    take.clicked.connect(taken)
    popover.column.addWidget(take)


def _hide_others(picks: PickList, text: str) -> None:
    for row in range(picks.list.count()):
        item = picks.list.item(row)
        if item is not None:
            item.setHidden(text.casefold() not in item.text().casefold())
