"""A file before it is taken in: its first rows under the settings found for it, each to change."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec.structs import replace
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from summula.core.fields.figures import plural
from summula.core.reading.readas import ReadAs, Setting
from summula.core.refusal import Refusal, sentence, shortened
from summula.desk.frame.marginblocks import Block, Note
from summula.desk.grid.rowsview import RowsView
from summula.desk.theme import font, tint
from summula.desk.widgets.glyphs import KIND_WORDS
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.popover import Popover
from summula.desk.widgets.swaparea import let_go
from summula.desk.work import Work

if TYPE_CHECKING:
    from PyQt6.QtGui import QKeyEvent

    from summula.core.tables.table import Table
    from summula.desk.frame.margin import Margin
    from summula.desk.frame.statusline import StatusLine

_NAMES = {
    "encoding": "Encoding", "delimiter": "Delimiter", "head": "Header row", "sheet": "Sheet",
    "decimal": "Decimal sign", "dates": "Date order", "leave_totals": "Total rows", "area": "Cell range",
    "merged": "Merged cells", "century": "Two-digit years", "markers": "Blank markers",
    "formulas": "Formulas", "periods": "Periods",
}  # fmt: skip


class Pending(msgspec.Struct, frozen=True):
    """A file that waits to be taken in. `take` is handed how it is to be read, and whether all its rows were shown;
    `instead` names the table that it is read for, where that is there already."""

    path: Path
    read_as: ReadAs
    take: Callable[[ReadAs, bool], None]
    instead: str = ""
    name: str = ""


class PreviewPage(QWidget):
    taken = pyqtSignal()
    left = pyqtSignal()

    def __init__(self, margin: Margin, status: StatusLine) -> None:
        super().__init__()
        self.margin, self.status = margin, status
        self.setObjectName("page")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(20, 16, 0, 0)
        self.column.setSpacing(10)
        self.title = Label()
        self.title.setFont(font(22, 600, serif=True))
        self.about = Label()
        tint(self.about, "muted")
        self.take = Button("Import")
        self.take.setProperty("strong", "true")
        set_tip(self.take, "Enter")
        self.take.clicked.connect(self._take)
        self.leave = Button("Cancel")
        set_tip(self.leave, "Escape")
        self.leave.clicked.connect(self.left)
        top = QHBoxLayout()
        top.setContentsMargins(0, 0, 20, 0)
        top.addWidget(self.title)
        top.addSpacing(10)
        top.addWidget(self.about, 1)
        top.addWidget(self.leave)
        top.addWidget(self.take)
        self.column.addLayout(top)
        self.trouble = Label()
        self.trouble.setWordWrap(True)
        tint(self.trouble, "loss")
        self.trouble.setContentsMargins(0, 0, 20, 0)
        self.trouble.hide()
        self.column.addWidget(self.trouble)
        self.rows: RowsView | None = None
        self._room = QWidget()  # takes the space until there are rows
        self.column.addWidget(self._room, 1)
        self.work = Work(self)
        status.attend(self.work)
        self.pending: Pending | None = None
        self.read_as = ReadAs()
        self.settings: tuple[Setting, ...] = ()
        self.whole = False  # whether all rows of the file are shown

    def show_file(self, pending: Pending) -> None:
        self.pending, self.read_as = pending, pending.read_as
        self.settings = ()  # those, and the rows, of the file before
        self._clear()
        self._margin(None)
        self.status.select("")
        self.title.setText(pending.name or pending.path.name)
        self.take.setText("Apply" if pending.instead else "Import")
        self._look()

    def _look(self) -> None:
        """Read the beginning under the settings as they stand; in a worker."""
        pending, read_as = self.pending, self.read_as
        assert pending is not None

        def look() -> tuple[Table, tuple[Setting, ...], bool]:
            from summula.core.reading.sandboxed import preview

            return preview(pending.path, read_as, self.work.progressed)

        self.status.say("Not imported yet", f"looking at {pending.path.name} …")
        self.work.ask(look, lambda found: self._show(*found), self._refused)

    def _clear(self) -> None:
        """Show no rows, and nothing that is said of them."""
        self.trouble.hide()
        self.about.setText("")
        self.take.setEnabled(False)
        if self.rows is not None:
            self.column.removeWidget(self.rows)
            let_go(self.rows)
            self.rows = None
        self._room.show()

    def _refused(self, refusal: Refusal) -> None:
        self._clear()
        self.trouble.setText(sentence(refusal))
        self.trouble.show()
        self.status.say("Not imported yet", "")
        self._margin(None)

    def _show(self, table: Table, settings: tuple[Setting, ...], whole: bool) -> None:
        self.settings, self.whole = settings, whole
        self.trouble.hide()
        self.take.setEnabled(True)
        self._room.hide()
        if self.rows is not None:
            self.column.removeWidget(self.rows)
            let_go(self.rows)
        apart = frozenset(row for setting in settings for row in setting.rows)
        self.rows = RowsView(table, apart=apart)
        self.rows.refused.connect(lambda wrong, remedy: self.status.tell(f"{Refusal(wrong, remedy)}.", True))
        self.column.addWidget(self.rows, 1)
        some = f"{table.rows:,} rows" if whole else f"the first {table.rows:,} rows"
        self.about.setText(f"{some} · {len(table.fields)} fields · not imported yet")
        self.status.say("Not imported yet", "")
        self._margin(table)
        self.take.setFocus()

    # -- settings ----------------------------------------------------------------------------------------

    def _margin(self, table: Table | None) -> None:
        blocks: list[Block] = ["Read settings"]
        doubts = [setting for setting in self.settings if setting.doubt]
        if doubts:
            blocks.append(Note("Marked settings are uncertain: please check them."))
        for setting in self.settings:
            blocks.append(_SettingRow(setting, self.change))
        if self.pending is not None and self.pending.path.suffix.lower() in (".xlsx", ".xlsm", ".xls", ".ods"):
            blocks.append(self._area_row())
        if self.read_as != ReadAs():
            back = Button("Detected")
            back.clicked.connect(lambda: self._put(ReadAs()))
            blocks.append(back)
        if table is not None:
            blocks.append("Findings")
            counts: dict[str, int] = {}
            for field in table.fields:
                word = KIND_WORDS[field.kind].split(":")[0]
                counts[word] = counts.get(word, 0) + 1
            blocks.append(Note(" · ".join(plural(count, word) for word, count in counts.items())))
            notice = {setting.why for setting in self.settings}
            by_why: dict[str, list[str]] = {}
            for field, sensed in zip(table.fields, table.sensed, strict=False):
                if sensed.why and f"{field.name}: {sensed.why}" not in notice and "of the values" not in sensed.why:
                    by_why.setdefault(sensed.why, []).append(field.name)
            whys = [f"{_some(names)}: {why}" for why, names in by_why.items()]
            for field, column in zip(table.fields, table.columns, strict=True):
                if column.refused and not column.refused[0].text.startswith("="):
                    first = column.refused[0]
                    where = f"“{shortened(first.text, 24)}” in row {first.row + 1}"
                    whys.append(f"{field.name}: {where} is not a {field.kind}; it is kept")
            if table.ragged:
                whys.append(f"row {table.ragged[0].row + 1} has too many or too few values; extra values are kept")
            if whys:
                blocks.append(Note("\n".join(sentence(why) for why in whys[:8])))
            blocks.append(Note("You can change field types later on the table's page."))
        self.margin.show_blocks(blocks, "preview")

    def _area_row(self) -> QWidget:
        line = QLineEdit(self.read_as.area)
        line.setPlaceholderText("Cell range, such as B3:H200")
        line.setAccessibleName("cell range to read")
        line.returnPressed.connect(lambda: self.change("area", line.text().strip()))
        return line

    def change(self, name: str, value: Any) -> None:
        """Read under another value of a setting."""
        self._put(replace(self.read_as, **{name: value}))

    def _put(self, read_as: ReadAs) -> None:
        self.read_as = read_as
        self._look()

    # -- taking in ---------------------------------------------------------------------------------------

    def _take(self) -> None:
        if self.pending is not None and self.take.isEnabled():
            pending = self.pending
            self.taken.emit()
            pending.take(self.read_as, self.whole)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take()
        elif event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)


def _some(names: list[str]) -> str:
    return ", ".join(names[:2]) + (f" and {len(names) - 2} more" if len(names) > 2 else "")


class _SettingRow(QWidget):
    """A setting: its name, its value as a button, and below it why it is so."""

    def __init__(self, setting: Setting, change: Callable[[str, Any], None]) -> None:
        super().__init__()
        self.setting, self.change = setting, change
        self.setObjectName("setting")
        if setting.doubt:
            self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
            self.setProperty("doubt", True)
        column = QVBoxLayout(self)
        column.setContentsMargins(8 if setting.doubt else 0, 6, 0, 6)
        column.setSpacing(0)
        row = QHBoxLayout()
        name = Label(_NAMES.get(setting.name, setting.name))
        name.setWordWrap(True)
        row.addWidget(name, 1)
        self.button = Button(f"{setting.value} ▾" if setting.choices else setting.value)
        self.button.setProperty("quiet", "true")
        self.button.setFont(font(13, 600))
        self.button.setAccessibleName(f"{_NAMES.get(setting.name, setting.name)}: {setting.value}")
        self.button.clicked.connect(self.choose)
        if setting.choices:
            row.addWidget(self.button)
        else:  # nothing to choose: it is told, not offered
            self.button.setParent(self)
            self.button.hide()
            notice = Label(setting.value)
            notice.setFont(font(13, 600))
            tint(notice, "muted")
            row.addWidget(notice)
        column.addLayout(row)
        if setting.why:
            why = Label(setting.why)
            why.setWordWrap(True)
            why.setFont(font(12))
            tint(why, "muted")
            column.addWidget(why)
        self.offer: Button | None = None
        if setting.offer:
            self.offer = Button(setting.offer)
            self.offer.setAccessibleDescription(setting.why)
            self.offer.clicked.connect(self.take_other)
            line = QHBoxLayout()
            line.setContentsMargins(0, 4, 0, 2)
            line.addWidget(self.offer)
            line.addStretch(1)
            column.addLayout(line)

    def take_other(self) -> None:
        """The other of two choices, at one click."""
        other = next(value for text, value in self.setting.choices if text != self.setting.value)
        self.change(self.setting.name, other)

    def choose(self) -> None:
        popover = Popover(self, _NAMES.get(self.setting.name, self.setting.name), 230)
        picks = PickList([Pick(text, value) for text, value in self.setting.choices], name="values", search=False)

        def pick(value: Any) -> None:
            popover.close()
            self.change(self.setting.name, value)

        picks.picked.connect(pick)
        popover.column.addWidget(picks)
        popover.open_below(self.button)
        picks.focus_in()
