"""The popover of a table's first step: where it was read from, how, and what happens when the file changes."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QFileDialog, QWidget

from summula.core.folio.model import TableEntry, with_table
from summula.desk.theme import tint
from summula.desk.widgets.plaintext import Button, CheckBox, Label, set_tip
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from collections.abc import Callable

    from summula.desk.session import Session


def source_popover(
    page: QWidget, session: Session, entry: TableEntry, anchor: QWidget,
    again: Callable[[], None], read_from: Callable[[Path], None], preview: Callable[[], None],
) -> Popover:  # fmt: skip
    """`again` reads it as it is, `read_from` from another file, `preview` shows how it is read."""
    popover = Popover(page, "Source", 340)
    place = Label(entry.source.place or "These rows do not come from a file.")
    place.setWordWrap(True)
    set_tip(place, entry.source.place)
    popover.column.addWidget(place)
    notice = Label(f"{entry.source.rows:,} rows of {len(entry.source.fields)} fields, read {entry.source.read_at}")
    tint(notice, "muted")
    popover.column.addWidget(notice)

    def button(text: str, hint: str, run: Callable[[], object], enabled: bool = True) -> None:
        made = Button(text)
        set_tip(made, hint)
        made.setEnabled(enabled)
        made.clicked.connect(popover.close)
        made.clicked.connect(lambda: run())
        popover.column.addWidget(made)

    has_file = bool(entry.source.place)
    button("Refresh", "F5", again, has_file)
    button("Change read settings …", "with a preview", preview, has_file)

    def other() -> None:
        from summula.core.reading.naming import READABLE

        kinds = " ".join(f"*{ending}" for ending in READABLE)
        name, _ = QFileDialog.getOpenFileName(page, "Use another file", "", f"Tables ({kinds})")
        if name:
            read_from(Path(name))

    button("Use another file …", "keeps the preparation", other)
    fresh = CheckBox("Refresh automatically when the file changes")
    fresh.setChecked(entry.fresh == "again")
    fresh.setEnabled(has_file)

    def change(by_itself: bool) -> None:
        popover.close()
        changed = replace(entry, fresh="again" if by_itself else "offers")
        edit_name = f"{entry.name} is read again {'by itself' if by_itself else 'when asked'}"
        session.edit(with_table(session.folio, changed), edit_name)

    fresh.toggled.connect(change)
    popover.column.addWidget(fresh)
    popover.open_below(anchor)
    return popover
