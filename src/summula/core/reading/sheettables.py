"""Several tables on one sheet: side by side, or one below the other. Told from the sheet's first rows."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from summula.core.reading.heads import is_valued

if TYPE_CHECKING:
    from summula.core.reading.sheetrows import Look

LAST_ROW = 1_048_576
_LEAST_ROWS, _LEAST_COLUMNS = 3, 2  # of a table that stands beside or below another


def tables_on(look: Look) -> tuple[str, ...]:
    """The blocks of cells ("A1:C20") that hold a table each, from the left and from above; empty where there is one."""
    rows = [[cell or "" for cell in row] for row in look.text.rows()]
    filled = np.array([[bool(cell.strip()) for cell in row] for row in rows], dtype=np.bool_)
    if filled.size == 0:
        return ()
    found: list[tuple[int, int, int, int]] = []
    groups = _side_by_side(rows, filled)
    for left, right in groups:
        found += [(top, left, bottom, right) for top, bottom in _stacked(rows, filled[:, left:right], left, right)]
    if len(found) < 2:
        return ()
    return tuple(_named(look, *each, last=len(rows)) for each in found)


def _runs(there: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where flags are true without a break: from, and up to."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], there, [False]]).astype(np.int8)))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def _side_by_side(rows: Sequence[Sequence[str]], filled: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The columns of each table; all of them together where a blank column is but a gap."""
    used = np.flatnonzero(filled.any(axis=0))
    whole = [(int(used[0]), int(used[-1]) + 1)] if len(used) else []
    # A title may reach over several: columns are looked at from the first row that is fuller.
    start = _first_full(filled)
    groups = _runs(np.asarray(filled[start:].any(axis=0)))
    if len(groups) < 2 or any(right - left < _LEAST_COLUMNS for left, right in groups):
        return whole
    spans = []
    for left, right in groups:
        lines = np.flatnonzero(filled[:, left:right].sum(axis=1) >= _LEAST_COLUMNS)
        if len(lines) < _LEAST_ROWS or not _heads_values(rows, int(lines[0]), left, right):
            return whole
        spans.append((int(lines[0]), int(lines[-1])))
    heads = [
        {cell.strip().casefold() for cell in rows[top][left:right]}
        for (top, _), (left, right) in zip(spans, groups, strict=True)
    ]
    apart = len(set(spans)) > 1 or any(one & other for at, one in enumerate(heads) for other in heads[at + 1 :])
    return groups if apart else whole


def _first_full(filled: NDArray[np.bool_]) -> int:
    counts = filled.sum(axis=1)
    return int(np.flatnonzero(counts * 2 >= counts.max())[0])


def _stacked(rows: Sequence[Sequence[str]], filled: NDArray[np.bool_], left: int, right: int) -> list[tuple[int, int]]:
    """The rows of each table in some columns: a new one begins below a blank row with heads of its own."""
    runs = _runs(np.asarray(filled.any(axis=1)))
    if not runs:
        return []
    starts = [runs[0][0]]
    for (_, before), (top, bottom) in pairwise(runs):
        new = bottom - top >= _LEAST_ROWS and before - starts[-1] >= _LEAST_ROWS
        if new and _heads_values(rows, top, left, right) and int(filled[top].sum()) >= _LEAST_COLUMNS:
            starts.append(top)
    ends = [*(start for start in starts[1:]), runs[-1][1]]
    return [(start, end) for start, end in zip(starts, ends, strict=True)]


def _heads_values(rows: Sequence[Sequence[str]], at: int, left: int, right: int) -> bool:
    """Whether a row is of names, with values below at least one of them."""
    names = [cell.strip() for cell in rows[at][left:right]]
    if any(is_valued(name) for name in names) or at + 1 >= len(rows):
        return False
    below = [cell.strip() for cell in rows[at + 1][left:right]]
    return any(name and is_valued(value) for name, value in zip(names, below, strict=True))


def _named(look: Look, top: int, left: int, bottom: int, right: int, *, last: int) -> str:
    """A block as a sheet names it; one that reaches the last row that was looked at may go on."""
    end = LAST_ROW if bottom >= last else look.top + bottom
    return f"{letters_of(look.left + left)}{look.top + top + 1}:{letters_of(look.left + right - 1)}{end}"


def letters_of(column: int) -> str:
    """The column (from 0) as a sheet names it: 0 is A, 26 is AA."""
    letters = ""
    column += 1
    while column:
        column, at = divmod(column - 1, 26)
        letters = chr(65 + at) + letters
    return letters
