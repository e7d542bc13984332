"""The strip of steps: "Prepared by 1 read sailings.csv | 2 trim spaces | … + step"."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton, QWidget

from summula.core.preparation.wording import effect_words, explained, words
from summula.desk.theme import colour, font, text_width, tint
from summula.desk.widgets.flow import FlowLayout
from summula.desk.widgets.plaintext import Button, Label, set_tip

if TYPE_CHECKING:
    from summula.core.preparation.effect import Effect
    from summula.core.preparation.steps import AnyStep

_HEIGHT = 26
_WIDEST = 260


class StepChip(QAbstractButton):
    """One step: its number and its words. What it lacks is told in the colour of loss; switched off it is pale."""

    def __init__(self, number: int, text: str, hint: str, *, lacks: bool = False, off: bool = False) -> None:
        super().__init__()
        self.number, self.words, self.lacks, self.off = number, text, lacks, off
        set_tip(self, hint)
        self.setAccessibleName(f"Step {number}: {text}")
        self.setAccessibleDescription(hint)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def sizeHint(self) -> QSize:
        return QSize(int(min(text_width(self.words, 12.5) + 36, _WIDEST)), _HEIGHT)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        area = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        ground = "plum wash" if self.isDown() else "sheet"
        painter.setPen(QPen(colour("plum" if self.hasFocus() else "loss" if self.lacks else "hairline"), 1))
        painter.setBrush(colour(ground if not self.off else "paper"))
        painter.drawRoundedRect(area, 3, 3)
        if self.underMouse() and not self.isDown():
            painter.fillRect(area.adjusted(1, area.height() - 2, -1, 0), colour("plum"))
        painter.setFont(font(12.5, serif=True, italic=True))
        painter.setPen(colour("plum" if not self.off else "muted"))
        painter.drawText(QRectF(0, 0, 22, self.height()), Qt.AlignmentFlag.AlignCenter, str(self.number))
        face = font(12.5)
        if self.off:
            face = font(12.5, italic=True)
        painter.setFont(face)
        painter.setPen(colour("loss" if self.lacks else "muted" if self.off else "ink"))
        text = painter.fontMetrics().elidedText(self.words, Qt.TextElideMode.ElideRight, self.width() - 32)
        painter.drawText(QRectF(24, 0, self.width() - 28, self.height()), Qt.AlignmentFlag.AlignVCenter, text)

    def enterEvent(self, event: object) -> None:
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.update()


class StepStrip(QWidget):
    """The steps of one table, in their order; the first is the reading of its source."""

    source_asked = pyqtSignal(QWidget)
    step_asked = pyqtSignal(int, QWidget)
    new_asked = pyqtSignal(QWidget)

    def __init__(self) -> None:
        super().__init__()
        self.flow = FlowLayout(self, 4, 4)
        self.setAccessibleName("Preparation")
        self._made_of: object = None
        self._chips: list[StepChip] = []

    def show_steps(self, source: str, how: str, steps: tuple[AnyStep, ...], effects: tuple[Effect, ...]) -> None:
        made_of = (source, how, steps, effects)
        if made_of == self._made_of:
            return
        self._made_of = made_of
        while (item := self.flow.takeAt(0)) is not None:
            old = item.widget()
            if old is not None:
                old.hide()
                old.deleteLater()
        lead = Label("Prepared by")
        lead.setFont(font(15, serif=True, italic=True))
        tint(lead, "muted")
        lead.setFixedHeight(_HEIGHT)
        self.flow.addWidget(lead)
        first = StepChip(1, f"read {source}" if source else "rows as they were read", how)
        first.clicked.connect(lambda: self.source_asked.emit(first))
        self.flow.addWidget(first)
        self._chips = [first]
        for at, (step, effect) in enumerate(zip(steps, effects, strict=True)):
            hint = f"{explained(step)}\n{effect_words(effect)}"
            chip = StepChip(at + 2, words(step), hint, lacks=bool(effect.lacks), off=step.off)
            chip.clicked.connect(lambda _, at=at, chip=chip: self.step_asked.emit(at, chip))
            self.flow.addWidget(chip)
            self._chips.append(chip)
        more = Button("+ step")
        more.setProperty("quiet", "true")
        more.setAccessibleName("add a step")
        more.setFixedHeight(_HEIGHT)
        more.clicked.connect(lambda: self.new_asked.emit(more))
        self.flow.addWidget(more)
        self.updateGeometry()

    def chips(self) -> list[StepChip]:
        """The steps' chips in their order."""
        return list(self._chips)
