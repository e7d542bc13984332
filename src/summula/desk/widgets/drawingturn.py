"""How long pictures are drawn in one turn of the window's loop. A board has a dozen, and all may want to be drawn anew
at once: those that come late stand as they were for a moment, so that a hand is answered in between."""

from __future__ import annotations

import time

from PyQt6.QtCore import QTimer

_MOST = 0.03  # seconds


class DrawingTurn:
    """Begins with the first picture that is drawn, and ends when the loop comes round."""

    def __init__(self) -> None:
        self._began = 0.0

    def has_time(self) -> bool:
        """Whether one more picture may be drawn in this turn; the first always may."""
        if not self._began:
            self._began = time.perf_counter()
            QTimer.singleShot(0, self._end)
        return time.perf_counter() - self._began < _MOST

    def _end(self) -> None:
        self._began = 0.0


TURN = DrawingTurn()  # there is one loop, and one thread that draws for it
