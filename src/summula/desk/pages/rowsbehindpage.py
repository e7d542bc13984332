"""The rows behind a figure: a page of its own, from which one comes back to the summary."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from summula.core.arrays import np
from summula.core.fields.figures import plural
from summula.core.handout.rows import rows_text
from summula.core.refusal import Refusal
from summula.desk.frame.marginblocks import Block, Note
from summula.desk.grid.copying import MOST_CELLS
from summula.desk.grid.rowsview import RowsView, TableModel
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.swaparea import let_go

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.tables.table import Table
    from summula.desk.filewriting import FileWriting
    from summula.desk.frame.margin import Margin
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.session import Session


class RowsBehindPage(QWidget):
    left = pyqtSignal()

    def __init__(self, session: Session, margin: Margin, status: StatusLine, writing: FileWriting) -> None:
        super().__init__()
        self.session, self.margin, self.status, self.writing = session, margin, status, writing
        self.setObjectName("page")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(20, 16, 0, 0)
        self.column.setSpacing(10)
        self.title = Label("Rows behind this figure")
        self.title.setFont(font(22, 600, serif=True))
        self.about = Label()
        self.about.setWordWrap(True)
        tint(self.about, "muted")
        self.back = Button("Back")
        self.back.setProperty("strong", "true")
        set_tip(self.back, "Escape")
        self.back.clicked.connect(self.left)
        self.copy = Button("Copy rows")
        self.copy.clicked.connect(self.copy_all)
        self.out = Button("Save as CSV …")
        self.out.clicked.connect(self.export)
        top = QHBoxLayout()
        top.setContentsMargins(0, 0, 20, 0)
        top.addWidget(self.title, 1)
        for button in (self.copy, self.out, self.back):
            top.addWidget(button)
        self.column.addLayout(top)
        self.column.addWidget(self.about)
        self.rows: RowsView | None = None
        self._rows_words = ""

    def show_rows(self, table: Table, rows: NDArray[np.int64], words: Sequence[str]) -> None:
        """The rows of a table under the words that explain the figure."""
        self.let_go()
        self.rows = RowsView(table)
        self.rows.refused.connect(lambda wrong, remedy: self.session.refuse(Refusal(wrong, remedy)))
        self.rows.show_rows(rows)
        self.column.addWidget(self.rows, 1)
        self.about.setText(" · ".join(words[:2]))
        blocks: list[Block] = ["Where the figure comes from", *(Note(each) for each in words)]
        self.margin.show_blocks(blocks, "rows behind")
        self._rows_words = plural(len(rows), "row")
        self.status.say(f"{self._rows_words} of {table.rows:,}")
        self.status.select("")
        self.status.clear.hide()
        self.rows.setFocus()

    def let_go(self) -> None:
        """Hold no rows any more: another figure's are to be shown, or their folio has gone."""
        if self.rows is not None:
            self.column.removeWidget(self.rows)
            let_go(self.rows)
            self.rows = None

    def _shown(self) -> tuple[Callable[[str], str], int]:
        """What makes the rows' text, parted by a sign; and how many cells it has."""
        assert self.rows is not None
        model = self.rows.model()
        assert isinstance(model, TableModel)
        table, order = model.table, model.order if model.order is not None else np.arange(model.table.rows)
        names = [field.name for field in table.fields]
        return lambda sign: rows_text(table, order, names, sign), len(order) * len(names)

    def copy_all(self) -> None:
        made, cells = self._shown()
        if cells > MOST_CELLS:
            self.session.refuse(Refusal("too many cells for the clipboard", "save them as CSV"))
            return
        self.writing.copy(lambda: made("\t"), f"{self._rows_words} on the clipboard")

    def export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Rows behind this figure", "rows.csv", "CSV (*.csv)")
        if name:
            made, _ = self._shown()
            self.writing.write(name, lambda: made(","))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)
