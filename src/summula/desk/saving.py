"""Saving the folio: nothing is saved over unseen, and where a place takes nothing another is offered."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog, QWidget

from summula.core.folio.model import SUFFIX
from summula.core.refusal import Refusal, sentence
from summula.desk.widgets.plaintext import Question

if TYPE_CHECKING:
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.session import Session
    from summula.desk.work import Work


class Saving:
    """Works for one window."""

    def __init__(self, window: QWidget, session: Session, work: Work, status: StatusLine) -> None:
        self.window, self.session, self.reading, self.status = window, session, work, status

    def save(self) -> None:
        path = self.session.path
        if path is None:
            self.save_as()
        elif not self.session.overtaken or self._may_overwrite(path):
            self._save_to(path)

    def save_as(self) -> None:
        path = self._ask_place()
        if path is not None:
            self._save_to(path)

    def _save_to(self, path: Path) -> None:
        if not self.session.hold(_named(path)):
            self.session.refuse(Refusal(f"'{path.name}' is open in another window", "choose another name"))
            return
        self.status.begin(f"saving {path.name} …")
        self.reading.ask(self.session.writing(path), lambda mark: mark(), self._unsaved)

    def _unsaved(self, refusal: Refusal) -> None:
        """The work stays as it is; another place is offered."""
        self.session.refuse(refusal)
        if self._asked(f"{sentence(refusal)}\nYour work is still here.", "Save as …", "Not now"):
            self.save_as()

    def _may_overwrite(self, path: Path) -> bool:
        """The file has been changed by somebody else: whether to save over it; or, as another was asked for, there."""
        asked = Question(
            self.window,
            f"“{path.name}” has been changed by somebody else since it was opened here.\n"
            "Saving over it would lose those changes.",
        )
        elsewhere = asked.addButton("Save as …", Question.ButtonRole.AcceptRole)
        over = asked.addButton("Overwrite", Question.ButtonRole.DestructiveRole)
        asked.addButton("Cancel", Question.ButtonRole.RejectRole)
        asked.setDefaultButton(elsewhere)
        asked.exec()
        if asked.clickedButton() is elsewhere:
            self.save_as()
        return asked.clickedButton() is over

    def _asked(self, text: str, yes: str, no: str) -> bool:
        asked = Question(self.window, text)
        accept = asked.addButton(yes, Question.ButtonRole.AcceptRole)
        asked.addButton(no, Question.ButtonRole.RejectRole)
        asked.setDefaultButton(accept)
        asked.exec()
        return asked.clickedButton() is accept

    def _ask_place(self) -> Path | None:
        suggested = str(self.session.path or f"{self.session.folio.name}{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(self.window, "Save the folio", suggested, f"Folios (*{SUFFIX})")
        return Path(name) if name else None

    def _save_and_leave(self) -> bool:
        """Save here and now, since what comes next takes the folio away."""
        path = self.session.path or self._ask_place()
        if path is None or (self.session.overtaken and not self._may_overwrite(path)):
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
        asked = Question(self.window, f"“{self.session.folio.name}” has changes that are not saved.")
        buttons = Question.StandardButton
        asked.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        asked.setDefaultButton(buttons.Save)
        answer = asked.exec()
        if answer == buttons.Save:
            return self._save_and_leave()
        return answer == buttons.Discard

    # -- earlier versions ----------------------------------------------------------------------------------

    def choose_version(self, anchor: QWidget, open_copy: Callable[[Path, str], None]) -> None:
        """How the folio was: one of the files that saves have replaced, opened beside."""
        from summula.core.folio.versions import versions_of
        from summula.desk.widgets.picklist import Pick
        from summula.desk.widgets.pickpopover import open_picks

        found = versions_of(self.session.path) if self.session.path is not None else []
        if not found:
            self.session.refuse(Refusal("there are no earlier versions", "every save keeps the previous version"))
            return
        picks = [Pick(each.words, each, "as it was until then") for each in found]
        open_picks(anchor, "Earlier versions", picks, lambda each: open_copy(each.path, each.words), 330)


def _named(path: Path) -> Path:
    return path if path.suffix.lower() == SUFFIX else path.with_name(path.name + SUFFIX)
