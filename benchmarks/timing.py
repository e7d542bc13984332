"""How long a piece of work takes."""

from __future__ import annotations

import time
from collections.abc import Callable


def best(work: Callable[[], object], times: int = 7, fresh: Callable[[], object] | None = None) -> float:
    """The median of several runs, in milliseconds."""
    taken = []
    for _ in range(times):
        if fresh is not None:
            fresh()
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1000)
    return sorted(taken)[len(taken) // 2]
