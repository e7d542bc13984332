"""A form's button: its small glyph and its name."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from summula.core.summaries.phrase import Form
from summula.desk.theme import colour, font


class FormButton(QWidget):
    """A form's glyph and name. One that does not fit the phrase is pale and says why."""

    chosen = pyqtSignal(str)

    def __init__(self, form: Form) -> None:
        super().__init__()
        self.form, self.current, self.why = form, False, ""
        self.label = "stacked" if form == "stacked columns" else form  # the whole name is the tooltip
        self.setFixedSize(60 if len(self.label) > 8 else 52, 46)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def set_state(self, current: bool, why: str) -> None:
        self.current, self.why = current, why
        self.setToolTip(why or f"Draw as {self.form}")
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
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, self.form in ("lines", "scatter"))
        _paint_form(painter, self.form, self.width() / 2 - 11, 7, token, strength)
        painter.setFont(font(11.5, 600 if self.current else 400))
        painter.setPen(colour("faint" if self.why else token))
        painter.drawText(QRectF(0, 26, self.width(), 17), Qt.AlignmentFlag.AlignCenter, self.label)


def _paint_form(painter: QPainter, form: Form, x: float, y: float, token: str, strength: float) -> None:
    ink, pale = colour(token, strength, "paper"), colour(token, strength * 0.5, "paper")
    if form == "grid":
        painter.setPen(QPen(ink, 1.4))
        for at in range(4):
            painter.drawLine(QPoint(int(x), int(y + 1 + at * 5)), QPoint(int(x + 22), int(y + 1 + at * 5)))
        painter.drawLine(QPoint(int(x + 8), int(y + 1)), QPoint(int(x + 8), int(y + 16)))
    elif form in ("columns", "stacked columns"):
        for at, height in enumerate((9, 16, 12)):
            painter.fillRect(QRectF(x + at * 8, y + 17 - height, 6, height), ink)
            if form == "stacked columns":
                painter.fillRect(QRectF(x + at * 8, y + 17 - height, 6, height * 0.45), pale)
    elif form == "bars":
        for at, width in enumerate((22, 15, 9)):
            painter.fillRect(QRectF(x, y + 1 + at * 6, width, 4.5), ink)
    elif form == "scatter":
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        for dx, dy in ((2, 13), (7, 9), (9, 14), (13, 6), (17, 8), (20, 2)):
            painter.drawEllipse(QRectF(x + dx - 1.8, y + dy - 1.0, 3.6, 3.6))
    elif form == "histogram":
        for at, height in enumerate((4, 9, 16, 12, 7, 3)):
            painter.fillRect(QRectF(x + 1 + at * 3.5, y + 17 - height, 3.2, height), ink)
    elif form == "box plot":
        for dx, top, high in ((2, 5, 7), (13, 2, 9)):
            painter.fillRect(QRectF(x + dx + 2.5, y, 1.2, 17), pale)
            painter.fillRect(QRectF(x + dx, y + top, 6.2, high), ink)
    else:
        painter.setPen(QPen(ink, 2))
        for (x0, y0), (x1, y1) in (((0, 14), (7, 8)), ((7, 8), (13, 11)), ((13, 11), (22, 3))):
            painter.drawLine(QPoint(int(x + x0), int(y + y0)), QPoint(int(x + x1), int(y + y1)))
