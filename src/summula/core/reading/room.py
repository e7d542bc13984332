"""Room for the arrays of one block after the other."""

from __future__ import annotations

import ctypes
from functools import cache

_TRIM_THRESHOLD, _MMAP_THRESHOLD = -1, -3  # as <malloc.h> numbers them
_KEPT = 64 * 1024**2  # bytes that may stay with the process in each thread's heap
_LARGE = 32 * 1024**2  # bytes of an array that is given back as soon as it is let go


@cache
def keep_room() -> None:
    """Let the C library keep the room of arrays that have been let go, for those of the next block.

    By itself glibc hands it back whenever some megabytes are free, and is handed it again, each page cleared anew: a
    tenth of the time that reading takes. Other C libraries lack the setting, and are left as they are.
    """
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return
    mallopt(_MMAP_THRESHOLD, _LARGE)
    mallopt(_TRIM_THRESHOLD, _KEPT)
