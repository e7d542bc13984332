"""Every action, declared once: its name, hint, key and condition. Menus, keys, buttons and find-anything
all come here."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import cached_property

import msgspec
from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QWidget


class Action(msgspec.Struct, frozen=True):
    """`possible` tells whether it can be done now; an action that cannot is not offered. The keys of a `late` one
    belong first to whatever has the focus: the window asks for it when nobody took them."""

    key: str
    name: str
    hint: str
    run: Callable[[], object]
    keys: tuple[str, ...] = ()
    possible: Callable[[], bool] = lambda: True
    late: bool = False


class Actions:
    """The registry: what a window's actions are, found by name. They are declared when one is first asked for, or the
    keys are listened to: a window is painted without."""

    def __init__(self, window: QWidget, declared: Callable[[], Iterable[Action]]) -> None:
        self._window, self._declared = window, declared
        self.asleep: Callable[[], bool] = lambda: False  # while it is, nothing can be done

    @cached_property
    def _actions(self) -> dict[str, Action]:
        actions = {action.key: action for action in self._declared()}
        for action in actions.values():
            if action.keys and not action.late:
                shortcut = QAction(action.name, self._window)
                shortcut.setShortcuts([QKeySequence(each) for each in action.keys])
                shortcut.triggered.connect(lambda _, key=action.key: self.run(key))
                self._window.addAction(shortcut)
        return actions

    @property
    def heard(self) -> bool:
        """Whether the keys are listened to."""
        return "_actions" in self.__dict__

    def listen(self) -> None:
        """Listen to the keys from now on."""
        _ = self._actions

    def run(self, key: str) -> None:
        action = self._actions[key]
        if action.possible() and not self.asleep():
            action.run()

    def run_late(self, event: QKeyEvent) -> bool:
        """Do what nobody else took a key for; whether there is such an action. Of any other as well where the keys were
        not listened to yet: the window has not been painted."""
        heard = self.heard
        pressed = QKeySequence(event.keyCombination())
        for action in self._actions.values():
            if (
                (action.late or not heard)
                and any(QKeySequence(each) == pressed for each in action.keys)
                and action.possible()
            ):
                self.run(action.key)
                return True
        return False

    def __getitem__(self, key: str) -> Action:
        return self._actions[key]

    def every(self) -> list[Action]:
        """All that are declared, in that order."""
        return list(self._actions.values())

    def possible(self) -> list[Action]:
        return [action for action in self._actions.values() if action.possible()]
