"""A formula, checked as it is typed: what it gives in the first rows, or where it goes wrong."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtGui import QKeyEvent, QTextCharFormat, QTextCursor
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPlainTextEdit, QTextEdit, QWidget

from summula.core.preparation.steps import AddFormula, AnyStep
from summula.core.preparation.workingout import worked_out
from summula.core.refusal import Refusal
from summula.desk.preparing.steppopover import Put, StepPopover
from summula.desk.theme import colour, font, tint
from summula.desk.widgets.plaintext import Label

if TYPE_CHECKING:
    from summula.core.preparation.outcome import Tables
    from summula.core.tables.table import Table

_SHOWN = 5
_SIGNS = (
    ("Functions and operators", ""), ("+  -  *  /", " + "),
    ("CASE WHEN … THEN … ELSE … END", "CASE WHEN  THEN  ELSE  END"),
    ("ROUND(…, 2)", "ROUND(, 2)"), ("COALESCE(…, 0)", "COALESCE(, 0)"), ("ABS(…)", "ABS()"), ("UPPER(…)", "UPPER()"),
    ("LEFT(…, 3)", "LEFT(, 3)"), ("LENGTH(…)", "LENGTH()"), ("CONCAT(…, …)", "CONCAT(, )"),
    ("EXTRACT(YEAR FROM …)", "EXTRACT(YEAR FROM )"),
    ("… BETWEEN … AND …", " BETWEEN  AND "), ("… LIKE 'A%'", " LIKE 'A%'"),
    ("… IS NULL", " IS NULL"),
)  # fmt: skip


class _Editor(QPlainTextEdit):
    def __init__(self, popover: FormulaPopover) -> None:
        super().__init__()
        self.popover = popover

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (0x01000004, 0x01000005) and not event.modifiers():
            self.popover.confirm()  # Enter takes it; Shift+Enter begins a line
            return
        if event is not None and event.key() == 0x01000001:  # Tab goes on to the next control
            self.focusNextChild()
            return
        super().keyPressEvent(event)


class FormulaPopover(StepPopover):
    def __init__(
        self, parent: QWidget, table: Table, others: Tables, put: Put, step: AddFormula | None = None, begin: str = ""
    ) -> None:
        super().__init__(parent, "Formula", table, others, put, 400)
        hint = Label("Calculated for each row. Put names with spaces in double quotes, text in single quotes.")
        hint.setWordWrap(True)
        hint.setFont(font(12))
        tint(hint, "muted")
        self.body.addWidget(hint)
        self.text = _Editor(self)
        self.text.setAccessibleName("formula")
        self.text.setPlaceholderText('"Takings" - "Running cost"')
        self.text.setFixedHeight(76)
        self.text.setPlainText(step.text if step else begin)
        self.body.addWidget(self.text)
        row = QHBoxLayout()
        self.fields = QComboBox()
        self.fields.addItems(["Insert field", *(field.name for field in table.fields)])
        self.fields.setAccessibleName("insert field")
        self.fields.setMaxVisibleItems(18)
        self.fields.activated.connect(self._put_field)
        self.signs = QComboBox()
        self.signs.addItems([text for text, _ in _SIGNS])
        self.signs.setAccessibleName("insert function or operator")
        self.signs.setMaxVisibleItems(18)
        self.signs.activated.connect(self._put_sign)
        row.addWidget(self.fields, 1)
        row.addWidget(self.signs, 1)
        self.body.addLayout(row)
        self.first = Label(" ")
        self.first.setFont(font(12))
        self.first.setWordWrap(True)
        self.first.setMinimumHeight(38)
        self.first.setAccessibleName("preview of the formula")
        self.body.addWidget(self.first)
        row = QHBoxLayout()
        called = Label("Name")
        tint(called, "muted")
        row.addWidget(called)
        self.called = QLineEdit(step.name if step else "")
        self.called.setAccessibleName("name of the field")
        self.called.setPlaceholderText("Net result")
        self.called.returnPressed.connect(self.confirm)
        row.addWidget(self.called, 1)
        self.body.addLayout(row)
        if step is not None:
            self.take.setText("Apply")
        self.text.textChanged.connect(self._check)
        self.called.textChanged.connect(lambda _: self.later())
        self._check()

    def _put_field(self, at: int) -> None:
        if at:
            self.text.insertPlainText(f'"{self.fields.itemText(at)}"')
            self.fields.setCurrentIndex(0)
        self.text.setFocus()

    def _put_sign(self, at: int) -> None:
        if at:
            self.text.insertPlainText(_SIGNS[at][1])
            self.signs.setCurrentIndex(0)
        self.text.setFocus()

    def _check(self) -> None:
        """Where it goes wrong is underlined; what it gives in the first rows is shown."""
        text = self.text.toPlainText()
        self.text.setExtraSelections([])
        if not text.strip():
            self.first.setText(" ")
            self.tell(" ", "muted")
            return
        try:
            series = worked_out(self.table, text, 200)
        except Refusal as refusal:
            self.first.setText(" ")
            self.tell(str(refusal), "loss")
            if refusal.span is not None:
                self._underline(*refusal.span)
            return
        values = ["–" if value is None else _plain(value) for value in series.head(_SHOWN).to_list()]
        self.first.setText("First rows:  " + "  ·  ".join(values))
        tint(self.first, "ink")
        self.later()

    def _underline(self, start: int, end: int) -> None:
        cursor = self.text.textCursor()
        cursor.setPosition(min(start, len(self.text.toPlainText())))
        cursor.setPosition(min(max(end, start + 1), len(self.text.toPlainText())), QTextCursor.MoveMode.KeepAnchor)
        mark = QTextEdit.ExtraSelection()
        look = QTextCharFormat()
        look.setUnderlineStyle(QTextCharFormat.UnderlineStyle.WaveUnderline)
        look.setUnderlineColor(colour("loss"))
        look.setForeground(colour("loss"))
        mark.format, mark.cursor = look, cursor
        self.text.setExtraSelections([mark])

    def step(self) -> AnyStep:
        worked_out(self.table, self.text.toPlainText(), 1)
        name = " ".join(self.called.text().split())
        if not name:
            raise Refusal("the new field has no name", "enter one")
        return AddFormula(name, self.text.toPlainText().strip())

    def focus_in(self) -> None:
        self.text.setFocus()
        self.text.moveCursor(QTextCursor.MoveOperation.End)


def _plain(value: object) -> str:
    return f"{value:,.6g}" if isinstance(value, float) else str(value)
