"""How long a piece of work takes."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping

Work = Callable[[], object]


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
