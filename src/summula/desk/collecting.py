"""When garbage is looked through: what is young all along, all of it while nothing goes on.

A whole look takes some hundredths of a second, and would add to what a person waits for. What starting and warming up
have made (a hundred thousand objects of modules) is set aside for good, so that it goes over the others only.
"""

from __future__ import annotations

import ctypes
import gc
import time
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer

if TYPE_CHECKING:
    from PyQt6.QtCore import QObject

_NEVER = 1_000_000  # turns of collecting what is young
_TICK = 2_000  # ms
_IN_QUIET, _AT_LATEST = 30, 300  # seconds from one whole look to the next
_QUIET = 30  # objects that come or go between two ticks while nothing goes on


class Collector(QTimer):
    """Looks through garbage from when it is made."""

    def __init__(self, parent: QObject | None) -> None:
        super().__init__(parent)
        self._give_back = getattr(ctypes.CDLL(None), "malloc_trim", None)  # of one C library only
        gc.collect()
        gc.freeze()
        gc.set_threshold(*gc.get_threshold()[:2], _NEVER)
        gc.enable()
        self.looked = time.monotonic()
        self._before = gc.get_count()
        self._dirty = False  # whether anything went on since the last whole look
        self._warm = False  # whether what is read in after starting has been set aside as well
        self.timeout.connect(self.tick)
        self.start(_TICK)

    def tick(self) -> None:
        before, self._before = self._before, gc.get_count()
        quiet = self._before[1:] == before[1:] and abs(self._before[0] - before[0]) < _QUIET
        self._dirty |= not quiet
        if self._dirty and time.monotonic() - self.looked > (_IN_QUIET if quiet and self._warm else _AT_LATEST):
            self._look()
        elif self._dirty and quiet and not self._warm:
            self._look()
            gc.freeze()
            self._warm = True

    def _look(self) -> None:
        """Collect what is not set aside, and give the system back what is free."""
        gc.collect()
        if self._give_back is not None:
            self._give_back(0)
        self.looked, self._before, self._dirty = time.monotonic(), gc.get_count(), False
