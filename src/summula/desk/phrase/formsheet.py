"""The sheet of forms: this summary drawn in every form, as small live pictures in groups. What does not fit is pale,
and says why below."""

from __future__ import annotations

from collections.abc import Callable
from itertools import groupby
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from summula.core.charts import draw
from summula.core.charts.chart import Canvas, SummaryLook, chart_of, drawn_as
from summula.core.charts.drawers import DRAWERS
from summula.core.charts.glyphs import inked
from summula.core.phrases.fitting import why_not
from summula.core.phrases.forms import FORMS, Form, FormNeeds
from summula.core.refusal import Refusal
from summula.core.summaries import answer
from summula.desk.theme import colour, font, tint
from summula.desk.widgets.painter import paint_marks, paint_scene
from summula.desk.widgets.plaintext import Label, set_tip
from summula.desk.widgets.popover import Popover, small_heading
from summula.desk.work import QUICK_ROWS

if TYPE_CHECKING:
    from summula.core.boards.linkedtables import LinkedTables
    from summula.core.charts.scene import Scene
    from summula.core.engine.grid import Grid
    from summula.core.phrases.phrase import Phrase
    from summula.core.tables.table import Table

_CARD = QSize(116, 88)
_PICTURE = 62  # pixels high
_SMALL = 0.42  # a picture is drawn as if it had more room, then made small
_MOST_FIGURES = 4_000  # more are not drawn small: the glyph stands for them
_COLUMNS = (("compare",), ("over time",), ("parts of a whole",), ("two figures", "one figure"), ("spread", "a table"))
_WIDE = {"parts of a whole": 2, "compare": 2}  # columns of cards that a group takes


class FormCard(QWidget):
    """One form: its picture above its name."""

    chosen = pyqtSignal(str)
    looked_at = pyqtSignal(str)  # the form, as the mouse or the keyboard comes to it

    def __init__(self, form: Form, why: str, current: bool) -> None:
        super().__init__()
        self.form, self.why, self.current = form, why, current
        self.scene: Scene | None = None
        self.setFixedSize(_CARD)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.ArrowCursor if why else Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Draw as {form}" + (", chosen" if current else ""))
        self.setAccessibleDescription(why)
        set_tip(self, why)

    @property
    def room(self) -> tuple[float, float]:
        """What a picture is drawn in."""
        return (_CARD.width() - 10) / _SMALL, (_PICTURE - 8) / _SMALL

    def show_scene(self, scene: Scene) -> None:
        self.scene = scene
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if not self.why:
            self.chosen.emit(self.form)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            if not self.why:
                self.chosen.emit(self.form)
        else:
            super().keyPressEvent(event)

    def enterEvent(self, event: object) -> None:
        self.looked_at.emit(self.form)
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self.looked_at.emit(self.form)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        area = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        warm = not self.why and (self.underMouse() or self.hasFocus())
        ink = "plum" if warm or self.current else "hairline"
        painter.setPen(QPen(colour(ink), 1.8 if self.current or self.hasFocus() else 1))
        painter.setBrush(colour("sheet") if not self.why else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(area, 5, 5)
        if self.scene is not None and not self.why:
            painter.save()
            painter.translate(5, 5)
            painter.scale(_SMALL, _SMALL)
            paint_scene(painter, self.scene)
            painter.restore()
        else:
            glyph = inked(DRAWERS[self.form].glyph, "muted", 0.45 if self.why else 1.0)
            paint_marks(painter, glyph, self.width() / 2 - 11, _PICTURE / 2 - 7, ground="paper")
        painter.setFont(font(12, 600 if self.current else 400))
        painter.setPen(colour("muted" if self.why else "plum" if self.current else "text"))
        painter.drawText(QRectF(0, _PICTURE, self.width(), 24), Qt.AlignmentFlag.AlignCenter, self.form)


class FormSheet(Popover):
    """`chosen` takes a form; the arrows walk over the cards, Enter takes one."""

    def __init__(
        self, parent: QWidget, phrase: Phrase, grid: Grid | None, table: Table, look: SummaryLook,
        take: Callable[[Form], None], others: LinkedTables | None = None,
    ) -> None:  # fmt: skip
        columns = sum(max(_WIDE.get(each, 1) for each in group) for group in _COLUMNS)
        super().__init__(parent, "", columns * (_CARD.width() + 6) + 14 * (len(_COLUMNS) - 1) + 30)
        self.setAccessibleName("Chart type")
        self.phrase, self.grid, self.table, self.look, self.others = phrase, grid, table, look, others
        self._take = take
        self.cards: dict[Form, FormCard] = {}
        row = QHBoxLayout()
        row.setSpacing(14)
        for group in _COLUMNS:
            column = QVBoxLayout()
            column.setSpacing(6)
            for purpose in group:
                column.addWidget(small_heading(purpose))
                forms = [needs for needs in FORMS.values() if needs.purpose == purpose]
                self._lay(column, forms, max(_WIDE.get(each, 1) for each in group))
                column.addSpacing(8)
            column.addStretch(1)
            row.addLayout(column)
        self.column.addLayout(row)
        self.reason = Label(" ")
        self.reason.setFont(font(12.5))
        self.reason.setWordWrap(True)
        self.reason.setMinimumHeight(20)
        tint(self.reason, "muted")
        self.column.addWidget(self.reason)
        self._left = [form for form, card in self.cards.items() if not card.why]
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._draw_next)
        self._timer.start(0)
        self.cards[phrase.form].setFocus()

    def _lay(self, column: QVBoxLayout, forms: list[FormNeeds], wide: int) -> None:
        for _, group in groupby(enumerate(forms), lambda each: each[0] // wide):
            line = QHBoxLayout()
            line.setSpacing(6)
            for _, needs in group:
                card = FormCard(needs.name, why_not(self.phrase, needs.name), needs.name == self.phrase.form)
                card.chosen.connect(self._chosen)
                card.looked_at.connect(self._say)
                self.cards[needs.name] = card
                line.addWidget(card)
            line.addStretch(1)
            column.addLayout(line)

    def _draw_next(self) -> None:
        """One picture at a time, so that the sheet is there at once and never in the way."""
        if not self._left:
            self._timer.stop()
            return
        form = self._left.pop(0)
        card = self.cards[form]
        grid = self._answered(form)
        if grid is not None:
            card.show_scene(draw(chart_of(grid, self.table, self.look), Canvas(*card.room)))

    def _answered(self, form: Form) -> Grid | None:
        """The summary's answer as a form draws it; None where that would take too long."""
        if self.grid is None or self.grid.values[self.grid.finest].size > _MOST_FIGURES:
            return None
        samples = FORMS[form].sampled and self.grid.samples is not None
        if form == self.phrase.form or (not samples and not (self.phrase.multiples and form == "grid")):
            return drawn_as(self.grid, form)
        if self.table.rows > QUICK_ROWS:
            return None
        try:
            return answer(replace(self.phrase, form=form), self.table, others=self.others)
        except Refusal:
            return None

    def _say(self, form: Form) -> None:
        self.reason.setText(self.cards[form].why or FORMS[form].title + ": " + _SAID[FORMS[form].purpose])

    def _chosen(self, form: Form) -> None:
        self.close()
        self._take(form)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        steps = {
            Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Down: (0, 1), Qt.Key.Key_Up: (0, -1),
        }  # fmt: skip
        step = steps.get(Qt.Key(event.key())) if event is not None else None
        if step is None:
            super().keyPressEvent(event)
            return
        here = next((card for card in self.cards.values() if card.hasFocus()), self.cards[self.phrase.form])
        place = here.mapTo(self, here.rect().center())
        nearest, least = None, 1e9
        for card in self.cards.values():
            there = card.mapTo(self, card.rect().center()) - place
            ahead, aside = (there.x(), there.y()) if step[0] else (there.y(), there.x())
            ahead *= step[0] + step[1]
            if ahead > 8 and ahead + 2.5 * abs(aside) < least:
                nearest, least = card, ahead + 2.5 * abs(aside)
        if nearest is not None:
            nearest.setFocus()


_SAID = {
    "compare": "compare members",
    "over time": "trend over members",
    "parts of a whole": "share of the whole",
    "two figures": "correlation of two measures",
    "one figure": "single value",
    "spread": "distribution",
    "a table": "table of values",
}
