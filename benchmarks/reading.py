"""Reading: from a file to an encoded, profiled table, against polars' bare readers of the same file."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median

import polars as pl

from benchmarks.data import frame
from summula.core.reading import readers
from summula.core.reading.sandboxed import read_table
from summula.core.statistics.distribution import describe
from summula.core.tables.column import CodedColumn, NumberColumn
from summula.core.tables.table import Table

Report = Callable[[str, float, dict[str, float], str], None]

# Reads one file in a process of its own and prints the peak of its memory above what its imports take, in bytes.
PEAK = """
import sys
from pathlib import Path
from summula.core.reading import readers
from summula.core.reading.sandboxed import read_table
from summula.core.statistics.distribution import describe
import polars
def peak():
    line = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
    return int(line.split()[1]) * 1024  # of this process alone, unlike what getrusage tells after a fork
before = peak()
describe(read_table(Path(sys.argv[1])))
print(peak() - before)
"""


def turns(ours: Callable[[], object], theirs: Callable[[], object], times: int) -> tuple[float, float, float]:
    """The least of each in milliseconds, and the median of the ratios, turn by turn: the two take turns, since the
    machine's speed drifts. A work that takes longer fits less often into a moment in which nobody disturbs it, so that
    the least of each flatters the shorter one."""
    taken: tuple[list[float], list[float]] = ([], [])
    for _ in range(times):
        for work, kept in zip((ours, theirs), taken, strict=True):
            start = time.perf_counter()
            work()
            kept.append((time.perf_counter() - start) * 1000)
    return min(taken[0]), min(taken[1]), median(one / other for one, other in zip(*taken, strict=True))


def whole(rows: int) -> pl.DataFrame:
    return frame(rows).with_columns(pl.col("Passengers").cast(pl.Int64))


def encoded_bytes(table: Table) -> int:
    size = 0
    for column in table.columns:
        if isinstance(column, CodedColumn):
            size += column.codes.nbytes
        elif isinstance(column, NumberColumn):
            size += column.values.nbytes
        else:
            size += column.days.nbytes
        blank = column.blank
        size += 0 if blank is None or isinstance(column, CodedColumn) else blank.nbytes
    return size


def reading(report: Report) -> None:
    with tempfile.TemporaryDirectory() as folder:
        text, book, large = (Path(folder) / name for name in ("m.csv", "m.xlsx", "large.csv"))
        whole(1_000_000).write_csv(text)
        ours, theirs, by_turn = turns(lambda: describe(read_table(text)), lambda: pl.read_csv(text), 15)
        report("CSV of 1,000,000 rows x 8 fields, encoded and profiled", ours, {"polars read_csv": theirs}, "under 2.0")
        print(f"    turn by turn               median ratio  {by_turn:6.3f}")
        apart, here, by_turn = turns(lambda: read_table(text), lambda: readers.read_table(text), 15)
        report("The same in a process of its own", apart, {"in this process": here}, "under 1.05")
        print(f"    turn by turn               median ratio  {by_turn:6.3f}")
        whole(100_000).write_excel(book, autofit=False)
        ours, theirs, by_turn = turns(lambda: describe(read_table(book)), lambda: pl.read_excel(book), 9)
        report(
            "XLSX of 100,000 rows x 8 fields, encoded and profiled", ours, {"polars read_excel": theirs}, "under 1.3"
        )
        print(f"    turn by turn               median ratio  {by_turn:6.3f}")
        whole(10_000_000).write_csv(large)
        done = subprocess.run([sys.executable, "-c", PEAK, str(large)], capture_output=True, text=True, check=True)
        size = encoded_bytes(read_table(large))
        peak = int(done.stdout)
        print(
            f"Memory of reading a CSV of 10,000,000 rows ({large.stat().st_size / 1e6:,.0f} MB)\n"
            f"    peak {peak / 1e6:9.0f} MB   encoded table {size / 1e6:7.0f} MB   ratio {peak / size:6.3f}   goal: under 4"
        )


def refresh() -> None:
    """The demo read again after a new month, from the file to the described tables."""
    from summula.core.folio.refreshing import refreshed
    from summula.demo.files import add_next_month, write_files
    from summula.demo.folio import demo_folio

    with tempfile.TemporaryDirectory() as folder:
        write_files(Path(folder))
        opened = demo_folio(Path(folder))
        add_next_month(Path(folder))
        taken = []
        for _ in range(5):
            start = time.perf_counter()
            refreshed(opened, ["t1", "t2"], Path(folder) / "x.summula")
            taken.append((time.perf_counter() - start) * 1000)
        print(f"Refresh of the demo after a new month\n    summula {sorted(taken)[2]:9.2f} ms   goal: under 500 ms")
