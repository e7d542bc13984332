"""Inks by hand: that of one member, for good, and the palette of the whole folio."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from summula.core.folio.palettefile import palette_from
from summula.core.refusal import Refusal
from summula.core.theme.palettes import OWN, PALETTES, Palette, theme_of
from summula.core.theme.tokens import SERIES, SHADES
from summula.desk.theme import colour, font
from summula.desk.widgets.plaintext import Button, set_tip
from summula.desk.widgets.popover import Popover

_SQUARE, _GAP = 20, 6
_MOST = 100_000  # bytes of a palette's file


class InkChoice(QWidget):
    """The inks of the palette in their shades; the arrows walk over them, a click or Enter takes one. The first place
    after them gives the usual ink back."""

    taken = pyqtSignal(object)  # the number of an ink, None for the usual one

    def __init__(self, name: str, palette: Palette, current: int | None) -> None:
        super().__init__()
        self.ink_palette, self.current, self.at = palette, current, current or 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"Ink of {name}")
        self.setAccessibleDescription("Arrow keys and Enter; Delete resets the colour")
        set_tip(self, "Used everywhere in this folio; click the ring to reset it")
        self.setFixedHeight(SHADES * (_SQUARE + _GAP))
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(SERIES * (_SQUARE + _GAP), SHADES * (_SQUARE + _GAP))

    def _square(self, ink: int) -> QRectF:
        shade, hue = divmod(ink, SERIES)
        return QRectF(1 + hue * (_SQUARE + _GAP), 1 + shade * (_SQUARE + _GAP), _SQUARE, _SQUARE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        theme = theme_of(self.ink_palette)
        for ink in range(SERIES * SHADES):
            area = self._square(ink)
            painter.setBrush(QColor(*theme.colour(f"series {ink}")))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRoundedRect(area, 3, 3)
            if ink == self.current or (self.hasFocus() and ink == self.at):
                painter.setBrush(Qt.BrushStyle.NoBrush)
                style = Qt.PenStyle.SolidLine if ink == self.current else Qt.PenStyle.DotLine
                painter.setPen(QPen(colour("ink"), 1.6, style))
                painter.drawRoundedRect(area.adjusted(-1, -1, 1, 1), 4, 4)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            for ink in range(SERIES * SHADES):
                if self._square(ink).contains(event.position()):
                    self.taken.emit(ink)
                    return

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        key = Qt.Key(event.key()) if event is not None else None
        steps = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: SERIES, Qt.Key.Key_Up: -SERIES}
        if key in steps:
            self.at = (self.at + steps[key]) % (SERIES * SHADES)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.taken.emit(self.at)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.taken.emit(None)
        else:
            super().keyPressEvent(event)


class _PaletteRow(Button):
    """A palette: its eight inks on its paper, and its name in the face of its headings."""

    def __init__(self, name: str, palette: Palette, current: bool) -> None:
        super().__init__()
        self.name, self.shown, self.current = name, palette, current
        self.setAccessibleName(f"{name}, chosen" if current else name)
        self.setFixedHeight(30)
        self.setProperty("quiet", "true")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        if self.underMouse() or self.hasFocus():
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("plum wash"))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0, 1, 0, -1), 4, 4)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme_of(self.shown).tokens["paper"]))
        painter.drawRect(QRectF(2, 4, SERIES * 15 + 7, 22))
        for at, ink in enumerate(self.shown.inks or OWN):
            painter.setBrush(QColor(ink))
            painter.drawRect(QRectF(6 + at * 15, 8, 14, 14))
        painter.setPen(colour("plum" if self.current else "text"))
        painter.setFont(font(13, 600 if self.current else 400, serif=self.shown.headings == "serif"))
        area = QRectF(6 + SERIES * 15 + 12, 0, self.width(), self.height())
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, self.name)


class PalettePopover(Popover):
    """`put` takes the palette that a whole folio is drawn in."""

    def __init__(
        self, parent: QWidget, palette: Palette, put: Callable[[Palette], None], refuse: Callable[[Refusal], None]
    ) -> None:
        super().__init__(parent, "Palette of this folio", 260)
        self._put, self._refuse = put, refuse
        self.rows: dict[str, Button] = {}
        column = QVBoxLayout()
        column.setSpacing(0)
        for name, each in PALETTES.items():
            row = _PaletteRow(name, each, each == palette)
            row.clicked.connect(lambda _, each=each: self._take(each))
            self.rows[name] = row
            column.addWidget(row)
        self.column.addLayout(column)
        more = Button("From a file …")
        set_tip(more, 'A JSON file such as {"inks": ["#5a3566", "#c68a1e"], "paper": "#f3efe6", "headings": "serif"}')
        more.clicked.connect(self._from_file)
        self.column.addWidget(more)

    def _take(self, palette: Palette) -> None:
        self.close()
        self._put(palette)

    def _from_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self.parentWidget(), "A palette", "", "Palettes (*.json)")
        if name:
            self.take_file(Path(name))

    def take_file(self, path: Path) -> None:
        try:
            with path.open("rb") as file:
                text = file.read(_MOST + 1)
            if len(text) > _MOST:
                raise Refusal(f"{path.name} is too large for a palette", "it has eight inks at most")
            self._take(palette_from(json.loads(text)))
        except OSError as fault:
            self._refuse(Refusal(f"{path.name} cannot be read: {fault.strerror}", "choose another file"))
        except (ValueError, RecursionError):
            self._refuse(Refusal(f"{path.name} is not JSON", 'enter {"inks": ["#rrggbb", …]}'))
        except Refusal as refusal:
            self._refuse(refusal)
