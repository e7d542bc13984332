"""Find-anything: fields, pages and actions by name, from anywhere (Ctrl+K)."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QWidget

from summula.desk.widgets.glyphs import KIND_WORDS
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.desk.actions import Actions
    from summula.desk.session import Session


def open_finder(
    parent: QWidget, session: Session, actions: Actions, ask_field: Callable[[str, str], None], place: QPoint
) -> Popover:
    """Show the finder at a place; what is picked is done when it has closed."""
    choices: list[Pick] = []
    for number, (kind, page) in enumerate(session.folio.pages(), start=1):
        choices.append(Pick(page.name, ("page", page.id), f"page {number} · {kind}"))
    for action in actions.possible():
        keys = f" · {action.keys[0]}" if action.keys else ""
        choices.append(Pick(action.name, ("action", action.key), action.hint + keys))
    several = len(session.folio.tables) > 1
    for entry in session.folio.tables:
        for field in entry.fields:
            about = [KIND_WORDS[field.kind].split(":")[0], entry.name if several else "", field.description]
            choices.append(
                Pick(field.name, ("field", entry.id, field.name), " · ".join(part for part in about if part))
            )
    popover = Popover(parent, "", 460)
    popover.setAccessibleName("Find anything")
    found = PickList(choices, name="fields, pages and actions", most_rows=11, search=True)
    found.search.setPlaceholderText("Find a field, a page or an action")

    def go(what: tuple[str, ...]) -> None:
        popover.close()
        if what[0] == "page":
            session.turn_to(what[1])
        elif what[0] == "action":
            actions.run(what[1])
        else:
            ask_field(what[1], what[2])

    found.picked.connect(go)
    popover.column.addWidget(found)
    popover.open_at(place, parent)
    found.focus_in()
    return popover
