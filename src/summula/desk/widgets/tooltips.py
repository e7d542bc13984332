"""Asking for a tooltip."""

from __future__ import annotations

from typing import TypeGuard

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QHelpEvent


def tip_asked(event: QEvent | None) -> TypeGuard[QHelpEvent]:
    """Whether an event asks what lies under the mouse."""
    return isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip
