"""How much memory may be asked for by what is read: a share of what the machine has left."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

_SHARE = 0.6
_UNKNOWN = 8 * 1024**3  # where the machine does not tell


def most_memory() -> int:
    """Bytes that one reading may take."""
    with suppress(OSError, ValueError, IndexError):
        for line in Path("/proc/meminfo").read_text("ascii").splitlines():
            if line.startswith("MemAvailable:"):
                return int(int(line.split()[1]) * 1024 * _SHARE)
    return _UNKNOWN
