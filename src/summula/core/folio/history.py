"""Undo and redo: the folios that were, with what was done between them."""

from __future__ import annotations

import msgspec

from summula.core.folio.model import Folio


class HistoryEntry(msgspec.Struct, frozen=True):
    """A folio, and in words what made it from the one before ("Slice by Route")."""

    folio: Folio
    edit_name: str


class History(msgspec.Struct, frozen=True):
    """Steps done (the last is now) and steps undone (the last is redone first). Folios share structure."""

    done: tuple[HistoryEntry, ...]
    undone: tuple[HistoryEntry, ...] = ()

    MOST = 500

    @classmethod
    def begun(cls, folio: Folio) -> History:
        return cls((HistoryEntry(folio, ""),))

    @property
    def folio(self) -> Folio:
        return self.done[-1].folio

    @property
    def undo_name(self) -> str:
        """What undo would take back; empty when there is nothing."""
        return self.done[-1].edit_name if len(self.done) > 1 else ""

    @property
    def redo_name(self) -> str:
        return self.undone[-1].edit_name if self.undone else ""

    def did(self, folio: Folio, edit_name: str, *, going_on: bool = False) -> History:
        """One step further. A deed that is `going_on` takes the place of the step before it, where that was of the same
        sort (what stands before a colon): a lever that is pulled through twenty places is moved once, and so is a run
        of slicing."""
        if folio == self.folio:
            return self
        same = self.undo_name.partition(":")[0] == edit_name.partition(":")[0]
        before = self.done[:-1] if going_on and len(self.done) > 1 and same else self.done
        return History((*before, HistoryEntry(folio, edit_name))[-self.MOST :])

    def undo(self) -> History:
        if len(self.done) < 2:
            return self
        return History(self.done[:-1], (*self.undone, self.done[-1]))

    def redo(self) -> History:
        if not self.undone:
            return self
        return History((*self.done, self.undone[-1]), self.undone[:-1])
