"""What is remembered beside a frozen value: typed, bounded, and safe between threads.

A kind of thing is declared once, where it is worked out (`ORDERS: Remembered[str, Order] = Remembered("orders")`); what
is remembered of one value stands in the `Memory` that hangs on it. Memory never changes an answer, only how soon it
comes.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, Generic, TypeVar

K = TypeVar("K", bound=Hashable)
T = TypeVar("T")
_UNKNOWN: Any = object()
_ADDING = Lock()  # held for the moment in which something is added or goes; all memories share it


class Memory:
    """What is remembered of one value, by kind. Starts empty."""

    __slots__ = ("shelves",)

    def __init__(self) -> None:
        self.shelves: dict[Remembered[Any, Any], dict[Any, Any]] = {}

    def of_columns(self) -> Memory:
        """A memory of its own with what was worked out from columns alone, whatever they are called."""
        kept = Memory()
        with _ADDING:
            kept.shelves = {kind: dict(shelf) for kind, shelf in self.shelves.items() if kind.of_columns}
        return kept

    def copy(self) -> Memory:
        """Another memory of the same things."""
        copied = Memory()
        copied.back_to(self)
        return copied

    def back_to(self, earlier: Memory) -> None:
        """Remember what another does, and nothing else."""
        with _ADDING:
            self.shelves = {kind: dict(shelf) for kind, shelf in earlier.shelves.items()}


class Remembered(Generic[K, T]):
    """One kind of thing that is remembered; of each value the `most` that came last. `of_columns`: a table's fields may
    be described otherwise without changing it."""

    __slots__ = ("most", "name", "of_columns")

    def __init__(self, name: str, *, most: int = 64, of_columns: bool = False) -> None:
        self.name, self.most, self.of_columns = name, most, of_columns

    def get(self, memory: Memory, key: K) -> T | None:
        """What is remembered under the key, or None."""
        shelf = memory.shelves.get(self)
        return None if shelf is None else shelf.get(key)

    def has(self, memory: Memory, key: K) -> bool:
        shelf = memory.shelves.get(self)
        return shelf is not None and key in shelf

    def of(self, memory: Memory, key: K, work: Callable[[], T]) -> T:
        """What is remembered under the key; else it is worked out and remembered. Two threads that ask at once may both
        work it out: to the same end."""
        shelf = memory.shelves.get(self)
        found: T = _UNKNOWN if shelf is None else shelf.get(key, _UNKNOWN)
        return self.put(memory, key, work()) if found is _UNKNOWN else found

    def put(self, memory: Memory, key: K, found: T) -> T:
        """Remember; the oldest goes where there are `most`."""
        with _ADDING:
            shelf = memory.shelves.setdefault(self, {})
            if key not in shelf:
                while len(shelf) >= self.most:
                    del shelf[next(iter(shelf))]
            shelf[key] = found
        return found

    def all(self, memory: Memory) -> tuple[T, ...]:
        """All that is remembered of this kind, oldest first."""
        with _ADDING:
            return tuple(memory.shelves.get(self, {}).values())

    def forget(self, memory: Memory) -> None:
        with _ADDING:
            memory.shelves.pop(self, None)
