"""The path along which members are looked into: headings in the order they are gone through."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QWidget

from summula.core.phrases.editing import default_heading
from summula.core.tables.field import MEASURED
from summula.desk.phrase.phrasewords import heading_words
from summula.desk.phrase.popoverparts import field_choices
from summula.desk.theme import font, tint
from summula.desk.widgets.picklist import PickList
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover, small_heading

if TYPE_CHECKING:
    from summula.core.fields.heading import Heading
    from summula.core.tables.table import Table


class PathPopover(Popover):
    """`put` takes every change at once; the popover stays, so that a path can be laid step by step."""

    stays = True

    def __init__(
        self, parent: QWidget, path: tuple[Heading, ...], table: Table, put: Callable[[tuple[Heading, ...]], None]
    ) -> None:
        super().__init__(parent, "Drill order", 290)
        self.path, self.table, self._put = list(path), table, put
        self.notice = Label("A double click drills into the next of these. If none is set, a field is chosen.")
        self.notice.setWordWrap(True)
        self.notice.setFont(font(12))
        tint(self.notice, "muted")
        self.column.addWidget(self.notice)
        self.list = QListWidget()
        self.list.setAccessibleName("path")
        self.list.setFont(font(13))
        self.list.setFixedHeight(112)
        self.column.addWidget(self.list)
        row = QHBoxLayout()
        for text, run in (
            ("← Earlier", lambda: self._move(-1)),
            ("Later →", lambda: self._move(1)),
            ("Remove", self._remove),
        ):
            button = Button(text)
            button.clicked.connect(run)
            row.addWidget(button)
        self.column.addLayout(row)
        self.column.addWidget(small_heading("Add"))
        self.fields = PickList(
            field_choices(table, ("category", "flag", "date", *MEASURED)), name="fields", most_rows=6
        )
        self.fields.picked.connect(self._add)
        self.column.addWidget(self.fields)
        self._show(0)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.list.hasFocus():
            self._remove()
        else:
            super().keyPressEvent(event)

    def _show(self, current: int) -> None:
        self.list.clear()
        self.list.addItems([heading_words(each) for each in self.path])
        self.list.setCurrentRow(min(current, len(self.path) - 1))

    def _changed(self, current: int) -> None:
        self._show(current)
        self._put(tuple(self.path))

    def _add(self, name: str) -> None:
        self.fields.search.clear()  # for the next of the path
        heading = default_heading(self.table, name)
        if heading not in self.path:
            self.path.append(heading)
            self._changed(len(self.path) - 1)

    def _move(self, by: int) -> None:
        at = self.list.currentRow()
        if 0 <= at < len(self.path) and 0 <= at + by < len(self.path):
            self.path[at], self.path[at + by] = self.path[at + by], self.path[at]
            self._changed(at + by)

    def _remove(self) -> None:
        at = self.list.currentRow()
        if 0 <= at < len(self.path):
            del self.path[at]
            self._changed(at)
