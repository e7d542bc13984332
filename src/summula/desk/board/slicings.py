"""The slicings that a board keeps under names."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from summula.core.boards.reach import keeping_slicing, sliced_as, slicing_now, without_slicing
from summula.core.refusal import Refusal
from summula.desk.widgets.plaintext import Button
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.desk.session import Session


class SlicingsPopover(Popover):
    """A click on a name slices the board so; what it is sliced by now is kept under a new one."""

    def __init__(self, parent: QWidget, session: Session, board_id: str) -> None:
        super().__init__(parent, "Saved selections", 270)
        self.session, self.board_id = session, board_id
        board = session.folio.board(board_id)
        now = slicing_now(board)
        self.names: dict[str, Button] = {}
        for each in board.slicings:
            row = QHBoxLayout()
            button = Button(f"● {each.name}" if each.name == now else each.name)
            button.setProperty("quiet", "true")
            button.setStyleSheet("text-align: left")
            button.setAccessibleName(f"Apply {each.name}")
            button.clicked.connect(lambda _, name=each.name: self._choose(name))
            gone = Button("✕")
            gone.setProperty("quiet", "true")
            gone.setFixedWidth(26)
            gone.setAccessibleName(f"Remove {each.name} away")
            gone.clicked.connect(lambda _, name=each.name: self._remove(name))
            row.addWidget(button, 1)
            row.addWidget(gone)
            self.column.addLayout(row)
            self.names[each.name] = button
        self.line = QLineEdit()
        self.line.setPlaceholderText("Save selection as …")
        self.line.setAccessibleName("Name of the selection")
        self.line.returnPressed.connect(self._keep)
        self.column.addWidget(self.line)

    def _choose(self, name: str) -> None:
        self.close()
        self.session.set_board(sliced_as(self.session.folio.board(self.board_id), name), f"Apply {name}")

    def _remove(self, name: str) -> None:
        self.close()
        self.session.set_board(without_slicing(self.session.folio.board(self.board_id), name), f"Remove {name}")

    def _keep(self) -> None:
        try:
            after = keeping_slicing(self.session.folio.board(self.board_id), self.line.text())
        except Refusal as refusal:
            self.session.refuse(refusal)
            return
        self.close()
        self.session.set_board(after, f"Save selection {after.slicings[-1].name}")
