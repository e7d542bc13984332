"""A searchable list to pick from: the inside of most popovers, and of find-anything."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import msgspec
from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QSizePolicy, QVBoxLayout, QWidget

from summula.desk.theme import font
from summula.desk.widgets.plaintext import set_tip
from summula.desk.widgets.searchline import SearchLine


class Pick(msgspec.Struct, frozen=True):
    """`text` is shown; `hint` stands behind it; `value` is what is picked; `tip` says more when one stays on it. All of
    it is searched."""

    text: str
    value: Any
    hint: str = ""
    tip: str = ""


Search = Callable[[str], tuple[Sequence[Pick], str]]  # the picks for what was typed, and what is to be told about them


class PickList(QWidget):
    """Type to narrow, arrows to move, Enter to pick."""

    picked = pyqtSignal(object)

    def __init__(
        self, choices: Sequence[Pick], *, name: str, most_rows: int = 9, search: bool | None = None,
        find: Search | None = None,
    ) -> None:  # fmt: skip
        """`find` says what is meant by what was typed; without it the picks that have all its words."""
        super().__init__()
        self.choices = list(choices)
        self._find = find or self._having
        self.most_rows = most_rows
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.search = SearchLine("Search", f"Search {name}")
        self.search.textChanged.connect(self._narrow)
        self.search.installEventFilter(self)
        self.search.returnPressed.connect(self._pick_current)
        self.list = QListWidget()
        self.list.setAccessibleName(name)
        self.list.setFont(font(13))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemClicked.connect(self._pick)
        self.list.itemActivated.connect(self._pick)
        column.addWidget(self.search)
        column.addWidget(self.list)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.search.setVisible(len(self.choices) > most_rows if search is None else search)
        self._narrow("")

    def focus_in(self) -> None:
        (self.list if self.search.isHidden() else self.search).setFocus()

    def _narrow(self, text: str) -> None:
        self.list.clear()
        found, told = self._find(text)
        if told:
            self._tell(told)
        for choice in found:
            item = QListWidgetItem(choice.text if not choice.hint else f"{choice.text}   {choice.hint}")
            item.setData(Qt.ItemDataRole.UserRole, choice)
            set_tip(item, choice.tip or choice.hint or choice.text)
            self.list.addItem(item)
        if not found and not told:
            self._tell("No matches")
        self.list.setCurrentRow(1 if told and found else 0)
        rows = min(max(self.list.count(), 1), self.most_rows)
        self.list.setFixedHeight(rows * max(self.list.sizeHintForRow(0), 24) + 4)
        around = self.window()
        if around is not None and around.isVisible() and around.windowType() == Qt.WindowType.Popup:
            if (laid := self.layout()) is not None:
                laid.activate()
            around.adjustSize()  # no empty room around fewer lines

    def _having(self, text: str) -> tuple[Sequence[Pick], str]:
        """The picks that have all the words; what begins with them comes first."""
        words, ranked = text.casefold().split(), []
        for at, choice in enumerate(self.choices):
            searched = f"{choice.text} {choice.hint} {choice.tip}".casefold()
            if all(word in searched for word in words):
                ranked.append((not choice.text.casefold().startswith(text.casefold()) if words else False, at, choice))
        return [choice for _, _, choice in sorted(ranked, key=lambda each: each[:2])[:500]], ""

    def _tell(self, text: str) -> None:
        """A line that cannot be picked."""
        item = QListWidgetItem(text)
        item.setFlags(Qt.ItemFlag.NoItemFlags)
        self.list.addItem(item)

    def _pick(self, item: QListWidgetItem | None) -> None:
        choice = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if choice is not None:
            self.picked.emit(choice.value)

    def _pick_current(self) -> None:
        self._pick(self.list.currentItem())

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self.search and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 8, Qt.Key.Key_PageUp: -8}.get(
                Qt.Key(event.key())
            )
            if step is not None:
                row = min(max(self.list.currentRow() + step, 0), self.list.count() - 1)
                self.list.setCurrentRow(row)
                return True
        return super().eventFilter(watched, event)
