"""A menu that is shown once, and let go when it has been shut."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QMenu, QWidget

from summula.desk.widgets.plaintext import without_mnemonics


def passing_menu(parent: QWidget) -> QMenu:
    """A menu for one question. Qt would keep it as long as its parent."""
    menu = QMenu(parent)
    menu.aboutToHide.connect(menu.deleteLater)
    return menu


def add(menu: QMenu, text: str, run: Callable[[], object], *, enabled: bool = True) -> None:
    """An entry of a menu."""
    made = menu.addAction(without_mnemonics(text).replace("\t", " "))  # what stands behind a tab would be a key
    assert made is not None
    made.setEnabled(enabled)
    made.triggered.connect(lambda: run())
