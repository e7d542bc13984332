"""The finest figures of a grid as a table of columns, in Parquet or Arrow: a row for each pair of members, columns of
headings and measures."""

from __future__ import annotations

import io
from datetime import date
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.fields.labels import heading_name, label_of

if TYPE_CHECKING:
    import polars as pl

    from summula.core.engine.grid import Grid
    from summula.core.fields.heading import Heading, Member


def parquet_bytes(grid: Grid) -> bytes:
    """The table in Parquet, which is stored."""
    packed = io.BytesIO()
    _frame(grid).write_parquet(packed)
    return packed.getvalue()


def arrow_bytes(grid: Grid) -> bytes:
    """The table in Arrow's file format, which programs lay in memory as it is."""
    packed = io.BytesIO()
    _frame(grid).write_ipc(packed)
    return packed.getvalue()


def _frame(grid: Grid) -> pl.DataFrame:
    """Members that are texts, dates, flags or whole numbers stay so; others are told by their names. Blank figures are
    null; pairs without rows are left out."""
    import polars as pl

    depths = (grid.rows.depth, grid.columns.depth)
    block, held = grid.values[depths], grid.cell_rows[depths] > 0
    rows, columns = np.nonzero(held)
    series: list[pl.Series] = []
    taken: set[str] = set()
    for axis, nodes in ((grid.rows, rows), (grid.columns, columns)):
        paths = [axis.path(axis.depth, node) for node in range(axis.levels[axis.depth].size)]
        for level, heading in enumerate(axis.headings):
            members = [paths[node][level] for node in nodes.tolist()]
            series.append(pl.Series(_free(heading_name(heading), taken), _plain(heading, members)))
    for measure, name in enumerate(grid.names):
        figures = block[measure][rows, columns]
        series.append(pl.Series(_free(name, taken), figures, dtype=pl.Float64).fill_nan(None))
    return pl.DataFrame(series)


def _plain(heading: Heading, members: list[Member]) -> list[Member]:
    kinds = {type(each) for each in members if each is not None}
    if len(kinds) <= 1 and kinds <= {str, int, float, bool, date}:
        return members
    return [None if each is None else label_of(heading, each) for each in members]


def _free(name: str, taken: set[str]) -> str:
    """A column's name; none stands twice in a table."""
    found, at = name, 2
    while found in taken:
        found, at = f"{name} ({at})", at + 1
    taken.add(found)
    return found
