"""How much memory may be asked for by what is read: a share of what the machine has left."""

from __future__ import annotations

from summula.core.sandbox.limits import free_memory

_SHARE = 0.6


def most_memory() -> int:
    """Bytes that one reading may take."""
    return int(free_memory() * _SHARE)
