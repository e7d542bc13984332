"""The one QApplication."""

from __future__ import annotations

import ctypes
import os
import sys

from PyQt6.QtWidgets import QApplication

from summula.core.refusal import Refusal
from summula.desk.theme import apply_theme

_kept: list[QApplication] = []  # Qt goes down with the last reference to its application


def application() -> QApplication:
    """The one QApplication, themed; made if there is none yet."""
    present = QApplication.instance()
    if isinstance(present, QApplication):
        if not present.property("themed"):
            present.setStyle("Fusion")
            apply_theme(present)
            present.setProperty("themed", True)
        return present
    if sys.platform == "linux" and not any(
        os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    ):
        raise Refusal("there is no screen to open a window on", "start it in a desktop session, or set DISPLAY")
    _share_one_heap()
    made = QApplication(["summula", "-style", "fusion"])  # setStyle answers with a QStyle: 6 ms of enums nobody reads
    made.setApplicationName("Summula")
    made.setDesktopFileName("summula")  # by which the desktop knows the icon, and which windows are ours
    apply_theme(made)
    made.setProperty("themed", True)
    _kept.append(made)
    return made


_ARENAS = -8  # M_ARENA_MAX of the GNU C library


def _share_one_heap() -> None:
    """Let workers take memory from the heap of the window's thread: what each keeps free on a heap of its own, none of
    the others can have, and a day's work would leave tens of megabytes so."""
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt is not None and sys.platform == "linux":
        mallopt(_ARENAS, 1)
