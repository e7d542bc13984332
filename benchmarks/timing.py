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


def middle(taken: list[float]) -> float:
    return sorted(taken)[len(taken) // 2]


def best(work: Work, times: int = 7, fresh: Work | None = None) -> float:
    """The median of several runs, in milliseconds."""
    taken = []
    for _ in range(times):
        if fresh is not None:
            fresh()
        taken.append(once(work))
    return middle(taken)


def in_turn(ours: Work, rivals: Mapping[str, Work], times: int, fresh: Work) -> tuple[float, dict[str, float]]:
    """The medians of our work and each rival's, in milliseconds, after one run of each that is not counted.

    They take turns, since the machine's speed drifts from minute to minute: one after the other, the drift would show
    as a ratio. `fresh` makes us forget before each of our runs.
    """
    works = {"": ours, **rivals}
    taken: dict[str, list[float]] = {name: [] for name in works}
    for turn in range(times + 1):
        for name, work in works.items():
            fresh()
            run = once(work)
            if turn:
                taken[name].append(run)
    medians = {name: middle(each) for name, each in taken.items()}
    return medians.pop(""), medians
