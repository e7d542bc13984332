"""Saving the folio, and asking before one that is not saved is left."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from summula.core.folio.model import SUFFIX
from summula.core.refusal import Refusal
from summula.desk.frame.statusline import StatusLine
from summula.desk.session import Session
from summula.desk.work import Work


class Saving:
    """Works for one window."""

    def __init__(self, window: QWidget, session: Session, work: Work, status: StatusLine) -> None:
        self.window, self.session, self.reading, self.status = window, session, work, status

    def save(self) -> None:
        if self.session.path is None:
            self.save_as()
        else:
            self._save_to(self.session.path)

    def save_as(self) -> None:
        path = self._ask_place()
        if path is not None:
            self._save_to(path)

    def _save_to(self, path: Path) -> None:
        self.status.begin(f"saving {path.name} …")
        self.reading.ask(self.session.writing(path), lambda mark: mark(), self.session.refuse)

    def _ask_place(self) -> Path | None:
        suggested = str(self.session.path or f"{self.session.folio.name}{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(self.window, "Save the folio", suggested, f"Folios (*{SUFFIX})")
        return Path(name) if name else None

    def _save_and_leave(self) -> bool:
        """Save here and now, since what comes next takes the folio away."""
        path = self.session.path or self._ask_place()
        if path is None:
            return False
        try:
            self.session.save(path)
        except Refusal as refusal:
            self.session.refuse(refusal)
            return False
        return True

    def may_leave(self) -> bool:
        """Whether the present folio may be left; asks when it has changes that are not saved."""
        if not self.session.unsaved:
            return True
        buttons = QMessageBox.StandardButton
        asked = QMessageBox(self.window)
        asked.setWindowTitle("Summula")
        asked.setText(f"“{self.session.folio.name}” has changes that are not saved.")
        asked.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        asked.setDefaultButton(buttons.Save)
        answer = asked.exec()
        if answer == buttons.Save:
            return self._save_and_leave()
        return answer == buttons.Discard
