"""A menu that is shown once, and let go when it has been shut."""

from __future__ import annotations

from PyQt6.QtWidgets import QMenu, QWidget


def passing_menu(parent: QWidget) -> QMenu:
    """A menu for one question. Qt would keep it as long as its parent."""
    menu = QMenu(parent)
    menu.aboutToHide.connect(menu.deleteLater)
    return menu
