"""A small simulated feed: the ferry company's next sailings, written into its file a few at a time."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

import polars as pl

from summula.demo.files import next_rows

_AT_ONCE = 6  # rows


def feed(
    folder: Path,
    every: float,
    times: int | None,
    tell: Callable[[str], None],
    wait: Callable[[float], None] = time.sleep,
) -> int:
    """Write the next sailings into `sailings.csv` of a folder, some of them every so many seconds, `times` times (None:
    until the calendar or the person ends it); how many rows were written. The file is replaced in one step each time.
    """
    place, written = folder / "sailings.csv", 0
    rows, new = next_rows(folder)
    while times is None or times > 0:
        if not new.height:
            rows, new = next_rows(folder)
        some, new = new.head(_AT_ONCE), new.slice(_AT_ONCE)
        rows = pl.concat([rows, some])
        part = place.with_suffix(".part")
        rows.write_csv(part)
        part.replace(place)
        written += some.height
        tell(f"{some.height} sailings up to {some['Sailed on'].to_list()[-1]} written ({rows.height:,} rows)")
        times = None if times is None else times - 1
        if times != 0:
            wait(every)
    return written
