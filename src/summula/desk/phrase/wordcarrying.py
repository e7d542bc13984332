"""Carrying a word: to another place of its clause, between by and across, onto the grid, or out of the phrase."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, cast

import msgspec
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtGui import QPainter, QPen

from summula.core.phrases.editing import Clause, moved_word
from summula.desk.theme import colour
from summula.desk.widgets.plaintext import hide_tip, show_tip

if TYPE_CHECKING:
    from summula.desk.phrase.phrasebar import PhraseBar
    from summula.desk.phrase.wordbutton import WordButton

_OUT = 26  # pixels beyond the phrase, from which on a word is taken away


class Landing(msgspec.Struct, frozen=True):
    """Where a word would stand: in which clause, before which of its words; and where the mark of it is drawn."""

    clause: Clause
    at: int
    mark: QRect


class Carrying:
    """Works for one phrase bar. `elsewhere` tells the clause that a place on the screen outside of it stands for."""

    def __init__(self, bar: PhraseBar) -> None:
        self.bar = bar
        self.landing: Landing | None = None
        self.elsewhere: Callable[[QPoint], str | None] = lambda place: None

    def carry(self, button: WordButton, place: QPoint) -> None:
        """Show where the word would be put down."""
        self.landing = self._landing(button, place)
        self.bar.update()
        if self.landing is None and self._is_out(place):
            clause = self._clause_elsewhere(button, place)
            notice = f"Let go to move it to {clause}" if clause else "Drop here to remove it"
            button.setCursor(Qt.CursorShape.ClosedHandCursor if clause else Qt.CursorShape.ForbiddenCursor)
            show_tip(place, notice, self.bar)
        else:
            hide_tip()

    def put_down(self, button: WordButton, place: QPoint) -> None:
        landing, phrase, word = self._landing(button, place), self.bar.phrase, button.word
        self.forget()
        if phrase is None:
            return
        clause = cast(Clause, word.clause)
        if landing is not None:
            moved = moved_word(phrase, clause, word.at, landing.clause, landing.at)
            if moved != phrase:
                self.bar.phrase_said.emit(moved, f"Move {word.text}")
        elif self._is_out(place):
            to = self._clause_elsewhere(button, place)
            if to is None:
                self.bar.word_removed.emit(button)
            elif to != clause:
                end = len(getattr(phrase, to))
                self.bar.phrase_said.emit(moved_word(phrase, clause, word.at, to, end), f"Move {word.text} to {to}")

    def forget(self) -> None:
        self.landing = None
        hide_tip()
        self.bar.update()

    def paint(self) -> None:
        """The mark of where the word would stand, on the bar."""
        if self.landing is not None:
            painter = QPainter(self.bar)
            painter.setPen(QPen(colour("plum"), 2.5))
            painter.drawLine(self.landing.mark.topLeft(), self.landing.mark.bottomLeft())

    def _is_out(self, place: QPoint) -> bool:
        return not self.bar.rect().adjusted(-_OUT, -_OUT, _OUT, _OUT).contains(self.bar.mapFromGlobal(place))

    def _clause_elsewhere(self, button: WordButton, place: QPoint) -> Clause | None:
        """By or across, where a heading is held over that edge of the grid."""
        clause = self.elsewhere(place) if button.word.role in ("by", "across") else None
        return cast(Clause, clause) if clause in ("by", "across") else None

    def _landing(self, button: WordButton, place: QPoint) -> Landing | None:
        """The nearest gap that the word may stand in."""
        here = self.bar.mapFromGlobal(place)
        if not self.bar.rect().adjusted(-_OUT, -_OUT, _OUT, _OUT).contains(here):
            return None
        allowed = ("by", "across") if button.word.role in ("by", "across") else (button.word.clause,)
        best: tuple[float, Landing] | None = None
        for each in self.bar.buttons():
            clause, add = each.word.clause, each.word.role == "add"
            if clause not in allowed:
                continue
            area = each.geometry()
            at = len(getattr(self.bar.phrase, clause)) if add else each.word.at
            ends = ((area.left() - 4, at),) if add else ((area.left() - 4, at), (area.right() + 4, at + 1))
            for x, index in ends:
                far = abs(here.x() - x) + 3 * max(area.top() - here.y(), 0, here.y() - area.bottom())
                if best is None or far < best[0]:
                    mark = QRect(x, area.top() + 1, 1, area.height() - 6)
                    best = (far, Landing(cast(Clause, clause), index, mark))
        return best[1] if best is not None else None
