"""Asking before a file is read that nobody here has named."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from summula.desk.widgets.plaintext import Question

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QWidget

    from summula.core.folio.model import TableEntry
    from summula.desk.session import Session

_MAX_SHOWN = 12  # files that a question names


def may_read(window: QWidget, session: Session, entries: Iterable[TableEntry]) -> bool:
    """Whether the files that these tables come from may be read. Those that only the folio names are asked about, once
    each."""
    files = session.unnamed_files(entries)
    if not files:
        return True
    more = f"\n… and {len(files) - _MAX_SHOWN} more" if len(files) > _MAX_SHOWN else ""
    those = "these files" if len(files) > 1 else "this file"
    shown = "\n".join(files[:_MAX_SHOWN])
    asked = Question(window, f"This folio was not made on this desk. It asks to read {those}:\n\n{shown}{more}")
    read = asked.addButton(f"Read {those}", Question.ButtonRole.AcceptRole)
    leave = asked.addButton("Cancel", Question.ButtonRole.RejectRole)
    asked.setDefaultButton(leave)
    asked.exec()
    if asked.clickedButton() is not read:
        return False
    session.name_files(*files)
    return True
