"""How a list slicer looks: its columns, its order, one at a time or several."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QSpinBox,
    QWidget,
)

from summula.desk.widgets.plaintext import Button, CheckBox, Label
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Holding, ListSlicer, MemberOrder

_ORDERS: tuple[tuple[MemberOrder, str], ...] = (("own", "its own"), ("rows", "by rows"), ("hand", "by hand"))


class ListLookPopover(Popover):
    """`put` takes the slicer with each change; `invert` chooses all but what is chosen."""

    stays = True

    def __init__(
        self,
        parent: QWidget,
        slicer: ListSlicer,
        held: list[Holding],
        put: Callable[[ListSlicer], object],
        invert: Callable[[], None],
    ) -> None:
        super().__init__(parent, "Slicer settings", 250)
        self.slicer, self._held, self._put = slicer, held, put
        self.columns = QSpinBox()
        self.columns.setRange(1, 6)
        self.columns.setValue(slicer.columns)
        self.columns.valueChanged.connect(lambda count: self._take(columns=count))
        self._row("Columns", self.columns)
        self.order = QComboBox()
        for _, words in _ORDERS:
            self.order.addItem(words)
        self.order.setCurrentIndex([each for each, _ in _ORDERS].index(slicer.order))
        self.order.activated.connect(self._reorder)
        self._row("Order", self.order)
        self.by_hand = QListWidget()
        self.by_hand.setAccessibleName("Members: drag to reorder")
        self.by_hand.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.by_hand.setMaximumHeight(160)
        for each in held:
            item = QListWidgetItem(each.label)
            item.setData(Qt.ItemDataRole.UserRole, each.choice)
            self.by_hand.addItem(item)
        model = self.by_hand.model()
        assert model is not None
        model.rowsMoved.connect(lambda *_: self._take(sequence=self._sequence()))
        self.by_hand.setVisible(slicer.order == "hand")
        self.column.addWidget(self.by_hand)
        for words, name in (
            ("Drop-down when space is short", "drop_down"),
            ("Single selection", "single"),
            ("Hide members without rows", "holding"),
        ):
            box = CheckBox(words)
            box.setChecked(getattr(slicer, name))
            box.toggled.connect(lambda on, name=name: self._take(**{name: on}))
            self.column.addWidget(box)
        if slicer.chosen:
            button = Button("Exclude the selection")
            button.clicked.connect(invert)
            button.clicked.connect(self.close)
            self.column.addWidget(button)

    def _row(self, words: str, editor: QWidget) -> None:
        row = QHBoxLayout()
        row.addWidget(Label(words), 1)
        editor.setAccessibleName(words)
        row.addWidget(editor)
        self.column.addLayout(row)

    def _sequence(self) -> tuple[object, ...]:
        items = [self.by_hand.item(at) for at in range(self.by_hand.count())]
        return tuple(item.data(Qt.ItemDataRole.UserRole) for item in items if item is not None)

    def _reorder(self, at: int) -> None:
        order = _ORDERS[at][0]
        self.by_hand.setVisible(order == "hand")
        self.adjustSize()
        self._take(order=order, sequence=self._sequence() if order == "hand" else ())

    def _take(self, **changes: object) -> None:
        self.slicer = replace(self.slicer, **changes)
        self._put(self.slicer)
