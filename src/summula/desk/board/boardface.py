"""What stands on the page for one board. It is built once, and hidden while another board is in view."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from summula.core.boards.panelkinds import kind_of
from summula.desk.board.panelview import PanelView
from summula.desk.board.slicerviews import SLICER_VIEWS
from summula.desk.theme import font
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.swaparea import SwapArea, let_go

if TYPE_CHECKING:
    from summula.core.boards.board import Board, Panel
    from summula.core.slicing.slicer import Slicer
    from summula.core.tables.field import Field


_MOST = 6  # boards that are kept as they stand


def made_of(board: Board, fields_of: Callable[[Slicer], tuple[Field, ...]]) -> object:
    """What a face is built of: it serves a board as long as this is the same."""
    slicers = [
        (each.id, type(each), each.dimension.field, each.dimension.part, [(f.name, f.kind) for f in fields_of(each)])
        for each in board.slicers
    ]
    return board.name, [panel.id for panel in board.panels], slicers


class BoardFace:
    """A board's panels, and its slicers: on the rail, on top, or in panels of their own."""

    def __init__(
        self,
        board: Board,
        rails: QStackedWidget,
        strip: QBoxLayout,
        canvas: QWidget,
        fields_of: Callable[[Slicer], tuple[Field, ...]],
        live: Callable[[Panel], QWidget | None],
    ) -> None:
        """`live`: what is moved by hand on a panel, beside slicers."""
        self.made_of = made_of(board, fields_of)
        self.panels: dict[str, PanelView] = {}
        self.slicers: dict[str, Any] = {}  # their views (see `slicerviews.py`)
        self._tops: list[QWidget] = []
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 14, 8)
        column.setSpacing(14)
        title = Label(board.name)
        title.setFont(font(22, 600, serif=True))
        title.setWordWrap(True)
        column.addWidget(title)
        on_board = {kind_of(panel).uses(panel).slicer: panel.id for panel in board.panels}
        lives: dict[str, QWidget] = {}
        for slicer in board.slicers:
            row = SLICER_VIEWS[type(slicer)]
            widget = self.slicers[slicer.id] = row.make(slicer, fields_of(slicer))
            if slicer.id in on_board:
                lives[on_board[slicer.id]] = widget
            elif row.top:
                strip.addWidget(widget)
                self._tops.append(widget)
            else:
                column.addWidget(widget)
        self.add_slicer = _quiet("+ slicer")
        self.slicings = _quiet("saved selections ▾")
        self.slicings.setAccessibleName("Saved selections")
        for button in (self.add_slicer, self.slicings):
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        self.slicings.hide()
        column.addStretch(1)
        self._rails, self._rail = rails, SwapArea()
        self._rail.swap(inner)
        rails.addWidget(self._rail)
        for panel in board.panels:
            view = self.panels[panel.id] = PanelView(panel, lives.get(panel.id) or live(panel))
            view.setParent(canvas)
        for panel in reversed(board.panels):
            if kind_of(panel).behind:
                self.panels[panel.id].lower()
        self.show()

    def show(self) -> None:
        self._rails.setCurrentWidget(self._rail)
        for view in self.panels.values():
            view.blockSignals(False)
        for each in (*self._tops, *self.panels.values()):
            each.show()

    def hide(self) -> None:
        """But for the rail, which goes as another comes."""
        for view in self.panels.values():  # the keys go from one to the next as they are hidden: nobody picks them
            view.blockSignals(True)
        for each in (*self._tops, *self.panels.values()):
            each.hide()

    def let_go(self) -> None:
        self.hide()
        self._rails.removeWidget(self._rail)
        for each in (self._rail, *self._tops, *self.panels.values()):
            let_go(each)


class Faces:
    """The faces of the boards that were turned to last; one of them is in view."""

    def __init__(self, build: Callable[[Board], BoardFace]) -> None:
        self._build = build
        self._kept: dict[str, BoardFace] = {}  # by board, the one in view last
        self.now: BoardFace | None = None

    def __len__(self) -> int:
        return len(self._kept)

    def turn_to(self, board: Board, made: object, boards: Collection[str]) -> bool:
        """Have the face in view that the board needs, `made` of this: the one it had, where it still serves. Whether it
        is another than before. Those of other than these `boards` go."""
        found = self._kept.get(board.id)
        if found is not None and found is self.now and found.made_of == made:
            return False
        if self.now is not None:
            self.now.hide()
        if found is not None and found.made_of == made:
            found.show()
        else:
            if found is not None:
                found.let_go()
            found = self._build(board)
        self._kept.pop(board.id, None)
        self._kept[board.id] = self.now = found
        for key in [key for key in self._kept if key not in boards and key != board.id]:
            self._kept.pop(key).let_go()
        while len(self._kept) > _MOST:
            self._kept.pop(next(iter(self._kept))).let_go()
        return True

    def let_go(self) -> None:
        """All but the one in view."""
        for key in [key for key, face in self._kept.items() if face is not self.now]:
            self._kept.pop(key).let_go()


def _quiet(words: str) -> Button:
    button = Button(words)
    button.setProperty("quiet", "true")
    return button
