"""A form's button: its small glyph and its name."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from summula.core.charts.drawers import DRAWERS
from summula.core.charts.glyphs import inked
from summula.desk.theme import colour, font
from summula.desk.widgets.painter import paint_marks
from summula.desk.widgets.plaintext import set_tip

if TYPE_CHECKING:
    from summula.core.phrases.forms import Form


class FormButton(QWidget):
    """A form's glyph and name. One that does not fit the phrase is pale and says why."""

    chosen = pyqtSignal(str)

    def __init__(self, form: Form) -> None:
        super().__init__()
        self.form = form
        self.current: bool | None = None  # until it is told
        self.why = ""
        self.lines = form.split(" ", 1)
        self.setFixedSize(60 if max(map(len, self.lines)) > 8 else 54, 56)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def set_state(self, current: bool, why: str) -> None:
        if (current, why) == (self.current, self.why):
            return
        self.current, self.why = current, why
        set_tip(self, why or f"Draw as {self.form}")
        self.setAccessibleName(f"Draw as {self.form}" + (", chosen" if current else ""))
        self.setAccessibleDescription(why)
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if not self.why:
            self.chosen.emit(self.form)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space) and not self.why:
            self.chosen.emit(self.form)
        else:
            super().keyPressEvent(event)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        area = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        if self.current or self.hasFocus():
            painter.setPen(
                QPen(
                    colour("plum"),
                    (2.4 if self.hasFocus() else 1.4) if self.current else 1,
                    Qt.PenStyle.SolidLine if self.current else Qt.PenStyle.DotLine,
                )
            )
            painter.setBrush(colour("sheet") if self.current else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(area, 6, 6)
        elif self.underMouse() and not self.why:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("sheet"))
            painter.drawRoundedRect(area, 6, 6)
        token = "plum" if self.current else "muted"
        strength = 0.45 if self.why else 1.0
        paint_marks(painter, inked(DRAWERS[self.form].glyph, token, strength), self.width() / 2 - 11, 6, ground="paper")
        painter.setFont(font(11.5, 600 if self.current else 400))
        painter.setPen(colour("faint" if self.why else token))
        for at, line in enumerate(self.lines):
            painter.drawText(QRectF(0, 25 + 13 * at, self.width(), 15), Qt.AlignmentFlag.AlignCenter, line)
