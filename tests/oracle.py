"""The same questions asked of others: DuckDB and pandas, for the figures that the fold works out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import duckdb
import pandas as pd

from summula.core.engine.grid import Grid
from summula.core.fields.heading import Heading
from summula.core.fields.labels import json_member

Path = tuple[Any, ...]
Answer = dict[tuple[Path, Path], list[float | None]]

SQL_PART = {
    "year": "year({0})", "quarter": "quarter({0})", "month": "month({0})", "day": "day({0})", "week": "weekofyear({0})",
    "weekday": "isodow({0})", "half": "((month({0}) + 5) // 6)",
    "year-quarter": "(year({0}) || '-Q' || quarter({0}))", "year-month": "strftime({0}, '%Y-%m')",
    "month-day": "strftime({0}, '%m-%d')",
    "quarter-day": "(date_diff('day', date_trunc('quarter', {0}), {0}) + 1)",
    "year-half": "(year({0}) || '-H' || ((month({0}) + 5) // 6))", "year-week": "strftime({0}, '%G-W%V')",
}  # fmt: skip
# Of a fiscal year that begins in April.
SQL_FISCAL = {
    "fiscal year": "strftime({0} - interval 3 month, '%Y') || '/' || strftime({0} + interval 9 month, '%y')",
    "fiscal half": "((month({0} - interval 3 month) + 5) // 6)",
    "fiscal quarter": "quarter({0} - interval 3 month)",
    "fiscal year-quarter": "(strftime({0} - interval 3 month, '%Y') || '/' || strftime({0} + interval 9 month, '%y')"
    " || '-Q' || quarter({0} - interval 3 month))",
    "fiscal year-half": "(strftime({0} - interval 3 month, '%Y') || '/' || strftime({0} + interval 9 month, '%y')"
    " || '-H' || ((month({0} - interval 3 month) + 5) // 6))",
    "month": "month({0})",
}
SQL_AGGREGATE = {
    "rows": "count(*)", "sum": "sum({0})", "mean": "avg({0})", "median": "median({0})", "min": "min({0})", "max": "max({0})",
    "range": "max({0}) - min({0})", "count": "count({0})", "distinct count": "count(distinct {0})",
    "variance": "var_samp({0})", "standard deviation": "stddev_samp({0})",
}  # fmt: skip


def sql_heading(heading: Heading) -> str:
    name = f'"{heading.field}"'
    return {**SQL_FISCAL, **SQL_PART}[heading.part].format(name) if heading.part else name


def ask_duckdb(
    frame: pd.DataFrame, aggregates: Sequence[str], by: Sequence[str], across: Sequence[str], where: str = "true"
) -> Answer:
    """Every level of totals in one question, by grouping sets. All arguments are SQL."""
    connection = duckdb.connect()
    connection.register("rows_in_play", frame)
    sets = []
    for i in range(len(by) + 1):
        for j in range(len(across) + 1):
            sets.append((i, j))
    answer: Answer = {}
    for i, j in sets:
        chosen = [*by[:i], *across[:j]]
        columns = ", ".join([*chosen, *aggregates])
        group = f" group by {', '.join(str(n + 1) for n in range(len(chosen)))}" if chosen else ""
        for record in connection.execute(f"select {columns} from rows_in_play where {where}{group}").fetchall():
            path = tuple(_plain(each) for each in record[: len(chosen)])
            answer[path[:i], path[i:]] = [_plain(each) for each in record[len(chosen) :]]
    connection.close()
    return answer


def ask_pandas(frame: pd.DataFrame, column: str, by: Sequence[str], across: Sequence[str]) -> Answer:
    """The sum of a column at every level of totals; `by` and `across` are columns of the frame."""
    answer: Answer = {((), ()): [float(frame[column].sum())]}
    for i in range(len(by) + 1):
        for j in range(len(across) + 1):
            keys = [*by[:i], *across[:j]]
            if keys:
                for path, total in frame.groupby(keys)[column].sum().items():
                    whole = path if isinstance(path, tuple) else (path,)
                    answer[whole[:i], whole[i:]] = [float(total)]
    return answer


def _plain(value: Any) -> Any:
    if value is None or (isinstance(value, float) and math.isnan(value)):
        return None
    if isinstance(value, int | float | str | bool):
        return value
    return value.isoformat() if hasattr(value, "isoformat") else float(value)


def figures_of(grid: Grid) -> Answer:
    """A grid in the oracle's shape: cells that have rows."""
    answer: Answer = {}
    for (i, j), block in grid.values.items():
        for row in range(block.shape[1]):
            by = tuple(_hashable(json_member(m)) for m in grid.rows.path(i, row))
            for column in range(block.shape[2]):
                if grid.cell_rows[i, j][row, column] > 0:
                    across = tuple(_hashable(json_member(m)) for m in grid.columns.path(j, column))
                    values = [None if math.isnan(v) else float(v) for v in block[:, row, column]]
                    answer[by, across] = values
    return answer


def _hashable(member: Any) -> Any:
    return tuple(member) if isinstance(member, list) else "~rest" if isinstance(member, dict) else member


def assert_same(ours: Answer, theirs: Answer, rel: float = 1e-9) -> None:
    """The same cells, and the same figures in them. The bottom line of no rows stands for nothing.

    Others add doubles: beside 1e9, a few units of 1e-7 are lost. That our sums are exact is shown elsewhere.
    """
    theirs = {key: values for key, values in theirs.items() if key != ((), ()) or key in ours}
    assert ours.keys() == theirs.keys()
    for key, values in ours.items():
        for mine, other in zip(values, theirs[key], strict=True):
            if mine is None or other is None:
                assert mine is None and other is None, (key, values, theirs[key])
            else:
                assert math.isclose(mine, other, rel_tol=rel, abs_tol=1e-5), (key, values, theirs[key])
