"""How long a piece of work takes."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Hashable, Mapping
from functools import cache
from typing import TypeVar

Work = Callable[[], object]
K = TypeVar("K", bound=Hashable)

_DISTURBED = 1.25  # times the quickest pace met: what the machine shares with others is at work


def _fixed() -> float:
    """Seconds for a fixed piece of work."""
    begun, total = time.perf_counter(), 0
    for each in range(20_000):
        total += each
    return time.perf_counter() - begun


@cache
def _at_best(seconds: float = 15.0) -> float:
    """The least of it in so many seconds: a machine that shares its processors with others is twice as slow for most of
    the time, and quick for a second now and then."""
    until, found = time.monotonic() + seconds, _fixed()
    while time.monotonic() < until:
        found = min(found, _fixed())
        time.sleep(0.005)
    return found


def pace() -> float:
    """How many times as long as at best a fixed piece of work takes at this moment."""
    return _fixed() / _at_best()


def least(works: Mapping[K, Work], calm: int = 5, within: float = 45.0) -> dict[K, float]:
    """The least time of each, in milliseconds: all take turns until each was met so often with the machine undisturbed
    before and after, but for so many seconds at most."""
    met, found = dict.fromkeys(works, 0), dict.fromkeys(works, math.inf)
    before, until = pace(), time.monotonic() + within
    while min(met.values()) < calm and (time.monotonic() < until or math.inf in found.values()):
        for key, work in works.items():
            found[key] = min(found[key], once(work))
            after = pace()
            met[key] += max(before, after) < _DISTURBED
            before = after
    return found


def undisturbed(event: Callable[[int], None], times: int, within: float = 40.0) -> tuple[list[float], list[float]]:
    """So many runs of an event one after the other, in milliseconds; and as many with the machine undisturbed before and
    after, or what there were of them in so many seconds."""
    every, calm = [], []
    until, at, before = time.monotonic() + within, 0, pace()
    while len(every) < times or (len(calm) < times and time.monotonic() < until):
        taken = once(lambda at=at: event(at))  # type: ignore[misc]
        after = pace()
        if len(every) < times:
            every.append(taken)
        if max(before, after) < _DISTURBED:
            calm.append(taken)
        before, at = after, at + 1
    return every, calm


def once(work: Work) -> float:
    """One run, in milliseconds."""
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000


def in_turn(
    ours: Work, rivals: Mapping[str, Work], times: int, fresh: Work, runs: int = 1
) -> tuple[float, dict[str, float]]:
    """The least of our runs and of each rival's, in milliseconds, after one turn of each that is not counted.

    They take turns, since the machine's speed drifts from minute to minute: one after the other, the drift would show
    as a ratio. `fresh` makes us forget before each of our runs. With more `runs` a turn, what takes a part of a
    millisecond is also met with the processor awake and its caches warm, as while someone types.
    """
    works = {"": ours, **rivals}
    taken: dict[str, list[float]] = {name: [] for name in works}
    for turn in range(times + 1):
        for name, work in works.items():
            for _ in range(runs):
                fresh()
                run = once(work)
                if turn:
                    taken[name].append(run)
    least = {name: min(each) for name, each in taken.items()}
    return least.pop(""), least
