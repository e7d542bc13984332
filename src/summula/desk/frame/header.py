"""The header: the folio's name and state, find-anything, and the few actions that are always there."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from summula.desk.theme import colour, font, tint
from summula.desk.widgets.glyphs import paint_mark
from summula.desk.widgets.menu import add, passing_menu
from summula.desk.widgets.plaintext import Button, Label, set_tip

if TYPE_CHECKING:
    from summula.desk.actions import Actions
    from summula.desk.session import Session

HEIGHT = 46
LEAST = 720


class FindField(QWidget):
    """What looks like a field and opens find-anything."""

    clicked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(360, 28)
        self.setCursor(Qt.CursorShape.IBeamCursor)
        self.setAccessibleName("Find a field, a page or an action")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        painter.setPen(QPen(colour("plum" if self.hasFocus() else "hairline"), 1))
        painter.setBrush(colour("sheet"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 14, 14)
        painter.setPen(colour("muted"))
        painter.setFont(font(12.5))
        text = "Find a field, a page or an action  ·  Ctrl K" if self.width() > 270 else "Find  ·  Ctrl K"
        painter.drawText(QRectF(15, 0, self.width() - 20, self.height()), Qt.AlignmentFlag.AlignVCenter, text)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.clicked.emit()

    def keyPressEvent(self, event: object) -> None:
        if getattr(event, "key", lambda: 0)() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.clicked.emit()


class _Mark(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(24, 24)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        paint_mark(QPainter(self), 1, 2)


class Header(QWidget):
    """Listens to the session; its buttons run declared actions."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self.session, self.actions_ = session, actions
        self.setObjectName("frame")
        self.setFixedHeight(HEIGHT)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(10)
        self.name = Label()
        self.name.setFont(font(17, 600, serif=True))
        self.state = Label()
        self.state.setFont(font(12.5))
        tint(self.state, "muted")
        self.finder = FindField()
        self.aside = False  # whether something else than a page of the folio is in view: a preview, rows behind
        self.buttons: dict[str, Button] = {}
        row.addWidget(_Mark())
        row.addWidget(self.name)
        row.addSpacing(4)
        row.addWidget(self.state)
        row.addStretch(1)
        row.addWidget(self.finder)
        row.addStretch(1)
        for key, text in (
            ("open", "Open"),
            ("undo", "Undo"),
            ("redo", "Redo"),
            ("refresh", "Refresh"),
            ("save", "Save"),
            ("hand out", "Export"),
            ("arrange", "Arrange"),
        ):
            button = Button(text)
            button.clicked.connect(lambda _, key=key: self._run(key))
            button.setAccessibleName(text)
            self.buttons[key] = button
            row.addWidget(button)
        self.buttons["arrange"].setProperty("strong", "true")
        session.changed.connect(self.refresh)
        session.page_changed.connect(self.refresh)

    def _run(self, key: str) -> None:
        if key != "hand out":
            self.actions_.run(key)
            return
        from summula.desk.pictures import ALL_FORMATS

        menu = passing_menu(self)
        for each in ("hand out", *(f"hand out {way.key}" for way in ALL_FORMATS), "copy values", "copy phrase"):
            action = self.actions_[each]
            add(menu, action.name, partial(self.actions_.run, each), enabled=action.possible())
        button = self.buttons["hand out"]
        menu.exec(button.mapToGlobal(QPoint(0, button.height() + 2)))

    def refresh(self) -> None:
        session = self.session
        metrics = self.name.fontMetrics()
        self.name.setText(metrics.elidedText(session.folio.name, Qt.TextElideMode.ElideRight, 210))
        set_tip(self.name, str(session.path) if session.path else session.folio.name)
        kept = "all changes saved" if session.path else "not saved yet"
        state = "changes not saved yet" if session.unsaved else kept
        self.state.setText(state if self.width() > 1020 else "")
        history = session.history
        for key, word, edit_name in (("undo", "Undo", history.undo_name), ("redo", "Redo", history.redo_name)):
            button = self.buttons[key]
            button.setEnabled(bool(edit_name))
            set_tip(button, f"{word}: {edit_name}" if edit_name else f"Nothing to {word.lower()}")
        page = session.page()
        arrange = self.buttons["arrange"]
        arrange.setVisible(page is not None and page[0] == "board" and not self.aside)
        arrange.setText("Done" if session.board_state.arranging else "Arrange")
        arrange.setAccessibleName(arrange.text())
        self.buttons["hand out"].setEnabled(page is not None and not self.aside)
        self.finder.setFixedWidth(360 if self.width() > 1180 else 250 if self.width() > 980 else 150)
        self.buttons["redo"].setVisible(self.width() > 1000)
        self.buttons["refresh"].setVisible(self.width() > 900 and bool(session.folio.tables))
        set_tip(self.buttons["refresh"], "Read the sources of all tables again (Shift+F5)")

    def minimumSizeHint(self) -> QSize:
        """Of its narrowest state, to which it comes as it shrinks."""
        return QSize(LEAST, HEIGHT)

    def resizeEvent(self, event: object) -> None:
        self.refresh()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("paper"))
        painter.setPen(colour("hairline"))
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
