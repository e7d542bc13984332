"""Links between tables: fields that mean the same, offered where names and members agree."""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QWidget

from summula.core.slicing.linking import FieldOf, Link, offered_links
from summula.desk.theme import tint
from summula.desk.widgets.plaintext import Button, CheckBox, Label
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.folio.model import Folio
    from summula.desk.session import Session

_MOST_TABLES = 8  # that are compared with each other


class LinksPopover(Popover):
    """Links are ticked and unticked; two fields of any tables can be linked by hand."""

    stays = True

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent, "Link fields between tables", 400)
        self.session = session
        self.boxes: dict[Link, CheckBox] = {}
        folio = session.folio
        found = [*folio.links, *offers(session)]
        if not found:
            label = Label("No fields of the tables match. Link two below.")
            label.setWordWrap(True)
            tint(label, "muted")
            self.column.addWidget(label)
        for link in found:
            box = CheckBox(link_words(folio, link))
            box.setChecked(link in folio.links)
            box.toggled.connect(lambda on, link=link: self._turn(link, on))
            self.boxes[link] = box
            self.column.addWidget(box)
        if len(folio.tables) > 1:
            row = QHBoxLayout()
            self.first, self.second = QComboBox(), QComboBox()
            for box_, table in ((self.first, folio.tables[0].id), (self.second, folio.tables[1].id)):
                box_.setAccessibleName("Field to link")
                for entry in folio.tables:
                    for field in session.table(entry.id).fields:
                        box_.addItem(f"{field.name} · {entry.name}", (entry.id, field.name))
                box_.setCurrentIndex(next((n for n in range(box_.count()) if box_.itemData(n)[0] == table), 0))
                row.addWidget(box_, 1)
            link_ = Button("Link")
            link_.clicked.connect(self._link)
            row.addWidget(link_)
            self.column.addLayout(row)

    def _turn(self, link: Link, on: bool) -> None:
        folio = self.session.folio
        links = tuple(each for each in folio.links if each != link)
        words = link_words(folio, link)
        self.session.edit(
            replace(folio, links=(*links, link) if on else links), f"{'Link' if on else 'Unlink'} {words}"
        )

    def _link(self) -> None:
        (one, field), (other, twin) = self.first.currentData(), self.second.currentData()
        if one == other:
            return
        dated = self.session.table(one).field(field).kind == "date"
        self._turn(Link(FieldOf(one, field), FieldOf(other, twin), by="month" if dated else "member"), True)
        self.close()


def offers(session: Session) -> list[Link]:
    """The links that tables of the folio seem to have, and have not."""
    folio = session.folio
    entries = [each for each in folio.tables if each.rows][:_MOST_TABLES]
    found: list[Link] = []
    for one, other in combinations(entries, 2):
        pair = (one.id, session.table(one.id)), (other.id, session.table(other.id))
        found += offered_links(*pair, folio.links)
    return found


def link_words(folio: Folio, link: Link) -> str:
    """ "Month of Monthly targets is month of Sailed on of Sailings"."""
    names = {each.id: each.name for each in folio.tables}
    first, second = (f"{end.field} of {names.get(end.table, 'a lost table')}" for end in (link.first, link.second))
    return f"{first} is {second}" + (", by month" if link.by == "month" else "")
