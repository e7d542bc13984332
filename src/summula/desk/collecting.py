"""When garbage is looked through: a little all along, all of it while nothing goes on.

What is young is collected as ever. What has lived for a while is set aside (frozen), so that the next look goes over
what is new only; that which dies afterwards waits for a whole look, which takes up to a tenth of a second and would add
to what a person waits for.
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
_NEW, _WHOLE, _AT_LATEST = 20, 60, 300  # seconds between looks: at what is new, at all in a quiet moment, at all
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
        self.looked = self.looked_whole = time.monotonic()
        self._before = gc.get_count()
        self._dirty = False  # whether anything went on since the last whole look
        self.timeout.connect(self.tick)
        self.start(_TICK)

    def tick(self) -> None:
        now, before, self._before = time.monotonic(), self._before, gc.get_count()
        quiet = self._before[1:] == before[1:] and abs(self._before[0] - before[0]) < _QUIET
        self._dirty |= not quiet
        since = now - self.looked_whole
        if self._dirty and since > (_WHOLE if quiet else _AT_LATEST):
            gc.unfreeze()
            self._look()
            self.looked_whole, self._dirty = now, False
        elif self._dirty and now - self.looked > _NEW:
            self._look()

    def _look(self) -> None:
        """Collect what is not set aside, set aside what is left, and give the system back what is free."""
        gc.collect()
        gc.freeze()
        if self._give_back is not None:
            self._give_back(0)
        self.looked = time.monotonic()
        self._before = gc.get_count()
