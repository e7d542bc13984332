"""Every action, declared once: its name, hint, key and condition. Menus, keys, buttons and find-anything
all come here."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget


class Action(msgspec.Struct, frozen=True):
    """`possible` tells whether it can be done now; an action that cannot is not offered."""

    key: str
    name: str
    hint: str
    run: Callable[[], object]
    keys: tuple[str, ...] = ()
    possible: Callable[[], bool] = lambda: True


class Actions:
    """The registry: declares actions on a window and finds them by name."""

    def __init__(self, window: QWidget) -> None:
        self._window = window
        self._actions: dict[str, Action] = {}
        self.asleep: Callable[[], bool] = lambda: False  # while it is, nothing can be done

    def declare(self, action: Action) -> None:
        self._actions[action.key] = action
        # Escape belongs to whatever has the focus first; the window asks for it when nobody took it.
        if action.keys and action.keys != ("Escape",):
            shortcut = QAction(action.name, self._window)
            shortcut.setShortcuts([QKeySequence(each) for each in action.keys])
            shortcut.triggered.connect(lambda: self.run(action.key))
            self._window.addAction(shortcut)

    def run(self, key: str) -> None:
        action = self._actions[key]
        if action.possible() and not self.asleep():
            action.run()

    def __getitem__(self, key: str) -> Action:
        return self._actions[key]

    def possible(self) -> list[Action]:
        return [action for action in self._actions.values() if action.possible()]
