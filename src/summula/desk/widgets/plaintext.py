"""Widgets that show text as it is. Names come from files of strangers; Qt takes what looks like HTML for HTML, and
opens what pictures in it name.

Labels, tooltips, buttons, menus and questions are made here and nowhere else.
"""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QCheckBox, QLabel, QMessageBox, QPushButton, QToolTip, QWidget

_JOINER = "\N{WORD JOINER}"  # seen by nobody; no tag begins with it


class Label(QLabel):
    """A label that shows its text as it is."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        if text:
            self.setText(text)


class Button(QPushButton):
    """A button that shows its text as it is: `&` is an ampersand, not a key."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(without_mnemonics(text), parent)

    def setText(self, text: str | None) -> None:
        super().setText(without_mnemonics(text or ""))

    def text(self) -> str:
        return super().text().replace("&&", "&")


class CheckBox(QCheckBox):
    """A check box that shows its text as it is."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(without_mnemonics(text), parent)

    def setText(self, text: str | None) -> None:
        super().setText(without_mnemonics(text or ""))

    def text(self) -> str:
        return super().text().replace("&&", "&")


class Question(QMessageBox):
    """A question in a window of its own, its text shown as it is."""

    def __init__(self, window: QWidget, text: str) -> None:
        super().__init__(window)
        self.setWindowTitle("Summula")
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class _Tipped(Protocol):
    def setToolTip(self, text: str | None, /) -> None: ...


def set_tip(thing: _Tipped, text: str) -> None:
    """What a widget or an item says when the mouse stays on it."""
    thing.setToolTip(plain_tip(text))


def show_tip(place: QPoint, text: str, widget: QWidget) -> None:
    """Say something at a place on the screen now."""
    QToolTip.showText(place, plain_tip(text), widget)


def hide_tip() -> None:
    QToolTip.hideText()


def plain_tip(text: str) -> str:
    """The text as a tooltip shows it as it is. Qt has no setting for that: it looks for tags and for `&lt;`."""
    if "<" not in text and "&lt;" not in text:
        return text
    return text.replace("<", "<" + _JOINER).replace("&", "&" + _JOINER)


def without_mnemonics(text: str) -> str:
    """The text for a button or a menu, in which a single `&` underlines the next letter."""
    return text.replace("&", "&&")
