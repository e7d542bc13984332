"""A list slicer: its members, a search when they are many; or a button that opens them, where room is short."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6 import sip
from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from summula.core.fields.labels import heading_name
from summula.core.refusal import shortened
from summula.core.slicing.slicerkinds import slicer_words
from summula.desk.board.memberrows import ROW, MemberRows
from summula.desk.board.slicerhead import SlicerHead
from summula.desk.widgets.plaintext import Button, set_tip
from summula.desk.widgets.searchline import SearchLine

if TYPE_CHECKING:
    from summula.core.slicing.slicer import Holding, ListSlicer, MemberChoice
    from summula.desk.widgets.popover import Popover

_MOST_ROWS = 11  # a longer list scrolls
_SEARCHED = 12  # a longer list can be searched


class SlicerList(QWidget):
    """A heading, its members, and a way to clear."""

    chosen = pyqtSignal(str, object)  # slicer id, the new choices
    restyled = pyqtSignal(object)  # the slicer with another look
    removed = pyqtSignal(str)
    refused = pyqtSignal(object)  # a Refusal

    def __init__(self, slicer: ListSlicer) -> None:
        super().__init__()
        self.slicer = slicer
        self._held: list[Holding] = []
        self._popover: Popover | None = None
        name = heading_name(slicer.heading)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        self.head = SlicerHead(name)
        self.head.cleared.connect(lambda: self.chosen.emit(self.slicer.id, ()))
        self.head.removed.connect(lambda: self.removed.emit(self.slicer.id))
        self.head.looks.connect(self.open_look)
        column.addWidget(self.head)
        self.opener = Button()
        self.opener.setAccessibleName(f"Members of {name}")
        self.opener.clicked.connect(self._open)
        self.opener.hide()
        column.addWidget(self.opener)
        self.inner = QWidget()
        self._lines = inner = QVBoxLayout(self.inner)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(3)
        self.rows = MemberRows(name)
        self.rows.chosen.connect(self._chosen)
        self.area = QScrollArea()
        self.area.setFocusPolicy(self.area.focusPolicy().NoFocus)  # what it holds is reached
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(self.area.horizontalScrollBarPolicy().ScrollBarAlwaysOff)
        self.area.setWidget(self.rows)
        inner.addWidget(self.area)
        column.addWidget(self.inner)

    @cached_property
    def search(self) -> SearchLine:
        """Above the members: made when there are many first."""
        search = SearchLine("Search", f"Search {self.slicer.heading.field}")
        search.textChanged.connect(self._narrow)
        self._lines.insertWidget(0, search)
        return search

    def show_slicer(self, slicer: ListSlicer, held: list[Holding], *, arranging: bool) -> None:
        self.slicer, self._held = slicer, arranged(slicer, held)
        chosen = len(slicer.chosen)
        self.head.say(f"{chosen} of {len(held)}" if chosen else "all", narrows=bool(chosen), arranging=arranging)
        many = len(held) > _SEARCHED
        if many or "search" in self.__dict__:  # made already
            self.search.setVisible(many)
        self.rows.columns, self.rows.single = slicer.columns, slicer.single
        self._narrow(self.search.text() if many else "")
        self.area.setFixedHeight(min(self.rows.lines, _MOST_ROWS) * ROW + 2)
        open_ = self._popover is not None and self._popover.isVisible()
        self.opener.setVisible(slicer.drop_down)
        if not open_:
            self.inner.setVisible(not slicer.drop_down)
        words = slicer_words(slicer).partition(" is ")[2] if chosen else "all"
        self.opener.setText(f"{shortened(words, 23)}  ▾")
        set_tip(self.opener, slicer_words(slicer))

    def _open(self) -> None:
        """Where room is short, the members open below their button."""
        from summula.desk.widgets.popover import Popover

        popover = Popover(self, "", 250)
        popover.stays = True
        column = self.layout()
        assert column is not None

        def back() -> None:
            if sip.isdeleted(self):
                return
            self._popover = None
            self.inner.setParent(self)
            column.addWidget(self.inner)
            self.inner.setVisible(not self.slicer.drop_down)

        popover.column.addWidget(self.inner)
        self.inner.show()
        popover.closed.connect(back)
        popover.goes_with(self)
        self._popover = popover
        popover.open_below(self.opener)
        self.rows.setFocus()

    def open_look(self, anchor: QWidget) -> None:
        from summula.desk.board.slicerlook import ListLookPopover

        def invert() -> None:
            others = tuple(each.choice for each in self._held if each.choice not in self.slicer.chosen)
            self.chosen.emit(self.slicer.id, others)

        def restyle(slicer: ListSlicer) -> None:
            self.restyled.emit(slicer)

        popover = ListLookPopover(self, self.slicer, self._held, restyle, invert)
        popover.goes_with(self)
        popover.open_below(anchor)

    def _narrow(self, text: str) -> None:
        text = text.casefold()
        self.rows.show_held([each for each in self._held if text in each.label.casefold()], self.slicer.chosen)

    def _chosen(self, choices: tuple[MemberChoice, ...]) -> None:
        order = {each.choice: at for at, each in enumerate(self._held)}
        self.chosen.emit(self.slicer.id, tuple(sorted(choices, key=lambda choice: order.get(choice, len(order)))))

    def sizeHint(self) -> QSize:
        below = 38 if self.slicer.drop_down else min(self.rows.lines, _MOST_ROWS) * ROW
        return QSize(174, 34 + below)


def arranged(slicer: ListSlicer, held: list[Holding]) -> list[Holding]:
    """The members in the slicer's order, those alone that hold something where it says so (and those chosen)."""
    if slicer.holding:
        held = [each for each in held if each.rows or each.choice in slicer.chosen]
    match slicer.order:
        case "own":
            return held
        case "rows":
            return sorted(held, key=lambda each: -each.before)
        case "hand":
            place = {choice: at for at, choice in enumerate(slicer.sequence)}
            return sorted(held, key=lambda each: place.get(each.choice, len(place)))
