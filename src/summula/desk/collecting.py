"""When garbage is looked through: by the window's own thread alone, what is young now and then, all of it while nothing
goes on, or little. What is free then goes back to the system.

Left to itself, Python looks through garbage in whichever thread makes objects; in a worker it would come upon widgets,
and Qt must not be touched there. A whole look takes some hundredths of a second, and would add to what a person waits
for. What starting and warming up have made (a hundred thousand objects of modules) is set aside for good.
"""

from __future__ import annotations

import ctypes
import gc
import time
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer

if TYPE_CHECKING:
    from PyQt6.QtCore import QObject

_TICK = 250  # ms
_YOUNG, _OLDER = 2_000, 8  # objects made since the last look at the young; looks at them since one at the older
_CALM = 8  # ticks without anything going on: then all is looked through
_FEW = 10  # objects that come or go from one tick to the next while nothing goes on
_LITTLE = 1_000  # objects from one tick to the next: something goes on, but nothing that takes long
_IN_CALM, _AT_EASE, _AT_LATEST = 30, 90, 300  # seconds from one whole look to the next
_GIVEN = 15  # seconds from giving back to the next time: some 5 ms, for what is free between things that are held


class Collector(QTimer):
    """Looks through garbage from when it is made."""

    def __init__(self, parent: QObject | None) -> None:
        super().__init__(parent)
        self._trim = getattr(ctypes.CDLL(None), "malloc_trim", None)  # of one C library only
        gc.disable()
        gc.collect()
        gc.freeze()
        self.looked = self._given = time.monotonic()
        self._before = gc.get_count()[0]
        self._calm = self._looks = 0
        self._dirty = False  # whether anything went on since the last whole look
        self._warm = False  # whether what is read in after starting has been set aside as well
        self.timeout.connect(self.tick)
        self.start(_TICK)

    def tick(self) -> None:
        made = gc.get_count()[0]
        gone_on = abs(made - self._before)
        self._calm = self._calm + 1 if gone_on < _FEW else 0
        self._dirty |= self._calm == 0
        since = time.monotonic() - self.looked
        due = since > (_AT_EASE if gone_on < _LITTLE else _AT_LATEST)
        if self._dirty and (due or (self._calm >= _CALM and (since > _IN_CALM or not self._warm))):
            self._look()
        elif made > _YOUNG:
            self._looks += 1
            gc.collect(1 if self._looks % _OLDER == 0 else 0)
        elif self._dirty and time.monotonic() - self._given > _GIVEN:
            self._give_back()
        self._before = gc.get_count()[0]

    def _look(self) -> None:
        """Collect what is not set aside, and give back what is free."""
        gc.collect()
        if self._calm and not self._warm:
            gc.freeze()
            self._warm = True
        self._give_back()
        self.looked, self._dirty = self._given, False

    def _give_back(self) -> None:
        """Give the system back the memory that is free."""
        if self._trim is not None:
            self._trim(0)
        self._given = time.monotonic()
