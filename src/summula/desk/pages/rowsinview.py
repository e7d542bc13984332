"""Which rows of a table are in view: all of them, those found, or all in another order."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from summula.core.arrays import np
from summula.core.fields.figures import plural
from summula.core.statistics.distribution import distribution, rows_of_bar
from summula.core.tables import finding
from summula.core.tables.column import CodedColumn
from summula.desk.theme import tint
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.searchline import SearchLine
from summula.desk.work import QUICK_ROWS, QUICK_TEXTS, Work

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.tables.table import Table
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.grid.rowsview import RowsView
    from summula.desk.session import Session

_PAUSE = 250  # ms without a key before rows are searched


class RowsInView(QWidget):
    """The line above a table's rows: a search, what was found, and the way back to all rows. Where there are many, rows
    are looked for in a worker."""

    def __init__(self, session: Session, status: StatusLine) -> None:
        super().__init__()
        self.session, self.status = session, status
        self.table: Table | None = None
        self.rows: RowsView | None = None
        self.work = Work(self)
        status.attend(self.work)
        self._words = ""  # what was looked for
        self.search = SearchLine("Search the rows")
        self.search.setFixedWidth(240)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(self.search_rows)
        self.search.textChanged.connect(lambda _: self._pause.start(_PAUSE))
        self.search.returnPressed.connect(self.search_rows)
        self.account = Label()
        tint(self.account, "muted")
        self.all_rows = Button("Show all rows")
        self.all_rows.setProperty("quiet", "true")
        self.all_rows.clicked.connect(self.show_all)
        self.all_rows.hide()
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(self.search)
        line.addSpacing(8)
        line.addWidget(self.account)
        line.addWidget(self.all_rows)
        line.addStretch(1)

    def show_rows_of(self, table: Table | None, rows: RowsView | None) -> None:
        """All rows of another table."""
        self.table, self.rows = table, rows
        self._forget()

    def _forget(self) -> None:
        self._words = ""
        self.account.setText("")
        self.all_rows.hide()
        self.search.clear()
        self._pause.stop()

    def show_all(self) -> None:
        self._forget()
        if self.rows is not None:
            self.rows.show_rows(None)

    def search_rows(self) -> None:
        """Show the rows that hold the text searched for."""
        self._pause.stop()
        table, text = self.table, self.search.text().strip()
        if table is None:
            return
        if text:
            self._find(lambda: np.flatnonzero(finding.rows_with(table, text)), f"with “{text}”")
        elif self._words.startswith("with “"):
            self.show_all()

    def show_bar(self, name: str, bar: int) -> None:
        """The rows behind a bar of a field's distribution."""
        table = self._present()
        label = distribution(table, name).labels[bar]
        self._find(lambda: np.flatnonzero(rows_of_bar(table, name, bar)), f"where {name} is {label}")

    def show_blank(self, name: str) -> None:
        table = self._present()
        self._find(lambda: np.flatnonzero(finding.blank_rows(table, name)), f"where {name} is blank")

    def show_refused(self, name: str) -> None:
        """The rows whose value does not fit the field's kind."""
        table = self._present()
        kind = table.field(name).kind
        self._find(lambda: np.flatnonzero(finding.refused_rows(table, name)), f"where {name} is not a {kind}")

    def show_ragged(self) -> None:
        table = self._present()
        self._find(lambda: np.flatnonzero(finding.ragged_rows(table)), "with too many or too few values")

    def show_extreme(self, name: str, greatest: bool) -> None:
        """The row that holds the least or greatest value, selected among all rows."""
        table = self._present()
        row = finding.first_row(table, name, greatest=greatest)
        if row >= 0 and self.rows is not None:
            self.show_all()
            self.rows.reveal(row, table.place(name))

    def order_by(self, name: str, how: str) -> None:
        """All rows by a field, "largest" or "smallest" first; "" as they came."""
        table = self._present()
        if not how:
            self.show_all()
            return
        self._find(
            lambda: finding.in_order(table, name, largest=how == "largest"), f"in the order of {name}, {how} first"
        )

    def _present(self) -> Table:
        assert self.table is not None
        return self.table

    def _find(self, work: Callable[[], NDArray[np.int64]], words: str) -> None:
        table = self._present()

        def show(found: NDArray[np.int64]) -> None:
            if table is not self.table or self.rows is None:
                return
            self._words = words
            self.rows.show_rows(found)
            count = plural(table.rows, "row")
            some = count if len(found) == table.rows else f"{len(found):,} of {count}"
            self.account.setText(f"{some} {words}" if len(found) else f"No row {words}")
            self.all_rows.show()

        texts = sum(len(each.members) for each in table.columns if isinstance(each, CodedColumn))
        soon = table.rows <= QUICK_ROWS and texts <= QUICK_TEXTS
        self.work.ask(work, show, self.session.refuse, soon=soon)
        if self.work.waits:
            self.status.begin("looking through the rows …")
