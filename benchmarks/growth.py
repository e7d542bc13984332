"""What a question costs as rows grow tenfold: time, and memory beside the table."""

from __future__ import annotations

import gc
import tracemalloc
from collections.abc import Callable

from benchmarks.reading import encoded_bytes
from benchmarks.timing import in_turn
from summula.core.summaries import Phrase, Vocabulary, answer, parse
from summula.core.tables.table import Table

ASKED = {
    "filtered sum": 'show sum of Takings by Route across Vessel where Ticket is not "Staff pass"',
    "mean by month": 'show mean of Takings by year of "Sailed on" then month of "Sailed on"',
    "median": "show median of Takings by Route across Vessel",
    "distinct count": "show distinct count of Passengers by Route across Vessel",
    "top five gathered": "show sum of Takings by Vessel keeping top 5 Vessel by sum of Takings gathering the rest",
    "shares": 'show sum of Takings as share of row by Weather across quarter of "Sailed on"',
}


def _forgetful(*tables: Table) -> Callable[[], None]:
    """Forgets all that earlier questions left, so that each begins with the encoded table alone."""
    lasting = [(table.memo, table.memo.copy()) for table in tables]

    def forget() -> None:
        for memory, before in lasting:
            memory.back_to(before)

    return forget


def growth(small: Table, large: Table) -> None:
    """Growth of time from the small table to the large one, and peak memory of each question at the large one."""
    times = large.rows / small.rows
    print(f"Growth from {small.rows:,} to {large.rows:,} rows   goal: time no worse than {times:.0f}-fold, memory under 1.5")
    forget = _forgetful(small, large)
    held = encoded_bytes(large)
    print(f"    the encoded table takes {held / 1e6:.0f} MB")
    for name, text in ASKED.items():
        phrases: list[Phrase] = [parse(text, Vocabulary(table)) for table in (small, large)]
        taken = in_turn(
            lambda p=phrases[0]: answer(p, small),  # type: ignore[misc]
            {"large": lambda p=phrases[1]: answer(p, large)},  # type: ignore[misc]
            7,
            forget,
        )
        first, second = taken[0], taken[1]["large"]
        forget()
        gc.collect()
        tracemalloc.start()
        answer(phrases[1], large)
        _, peak = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        print(
            f"    {name:20}{first:9.1f} ms {second:9.1f} ms   growth {second / first:5.1f}"
            f"   peak beside the table {peak / 1e6:6.0f} MB, ratio {peak / held:5.2f}"
        )
    forget()
