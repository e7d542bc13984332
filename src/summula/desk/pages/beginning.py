"""What stands below a summary that asks nothing yet: what to drop where, and summaries worth asking for."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from summula.core.language.starting import starting_points
from summula.core.phrases.phrase import Aggregate, Phrase
from summula.desk.frame.contents import dragged_field
from summula.desk.theme import font, tint
from summula.desk.widgets.flow import FlowLayout
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.swaparea import let_go

if TYPE_CHECKING:
    from summula.core.tables.table import Table

_OFFERED = 4


def asks_nothing(phrase: Phrase) -> bool:
    """Whether a phrase only counts all rows, as a new summary does."""
    plain = [measure.calculation for measure in phrase.measures] == [Aggregate("rows")]
    return plain and not (phrase.by or phrase.across or phrase.where or phrase.keeping)


class Beginning(QWidget):
    """`put` takes a field into the summary; `ask` asks a phrase instead of the present one."""

    def __init__(self, put: Callable[[str], None], ask: Callable[[Phrase, str], None]) -> None:
        super().__init__()
        self._put, self._ask = put, ask
        self._table: Table | None = None
        self.setAcceptDrops(True)
        self.setAccessibleName("Suggestions")
        column = QVBoxLayout(self)
        column.setContentsMargins(2, 6, 2, 10)
        column.setSpacing(8)
        title = Label("This summary is empty")
        title.setFont(font(17, 600, serif=True))
        text = Label(
            "Drop fields from the left here or on the words above: a category or date makes rows, a number makes a "
            "value. The + beside “by”, “across” and the values does the same."
        )
        text.setWordWrap(True)
        tint(text, "muted")
        column.addWidget(title)
        column.addWidget(text)
        self.offers = QWidget()
        self.flow = FlowLayout(self.offers, 8, 6)
        column.addWidget(self.offers)
        column.addStretch(1)

    def let_go(self) -> None:
        """Hold nothing of a folio that has gone."""
        self._table = None

    def show_table(self, table: Table) -> None:
        """Offer what is worth asking of the table."""
        if table is self._table:
            return
        self._table = table
        while self.flow.count():
            item = self.flow.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                let_go(widget)
        for point in starting_points(table)[:_OFFERED]:
            button = Button(point.name)
            set_tip(button, "Use this")
            button.clicked.connect(lambda _, point=point: self._ask(point.phrase, point.name))
            self.flow.addWidget(button)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dragged_field(event.mimeData()) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        name = dragged_field(event.mimeData()) if event is not None else None
        if event is not None and name is not None:
            event.acceptProposedAction()
            self._put(name)
