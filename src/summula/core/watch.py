"""How far a long piece of work over rows has come, and how it is stopped from outside."""

from collections.abc import Callable

Watch = Callable[[int], None]
"""Told the rows read so far, now and then. It stops the work by raising."""


class Stopped(Exception):
    """The work was stopped from outside: no refusal, nothing to tell."""


def unwatched(rows: int) -> None:
    """Nobody is watching."""
