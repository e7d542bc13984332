"""Rows that are no rows of the table: totals, subtotals in between, balances, notes below. Told by the words they begin
or end with, and by adding up."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TYPE_CHECKING, Literal

import msgspec
import numpy as np

from summula.core.reading.totalwords import BALANCE, NOTE, TOTAL, TOTAL_ALONE
from summula.core.refusal import shortened
from summula.core.tables.column import CodedColumn, Column, NumberColumn
from summula.core.tables.natural import folded

if TYPE_CHECKING:
    from summula.core.tables.table import Table

Sort = Literal["total", "subtotal", "balance", "note", "head"]

_LEAST_ROWS = 3
_CHANCE = 8
_MOST_ROWS = 200_000  # of a table in which rows in between are looked for; reports with subtotals are short
_NAMING = 4  # columns of text, the first ones, that may hold a row's own name
_END = 40  # rows at the end of a longer one


_SORTS: dict[Sort, tuple[str, str]] = {
    "total": ("total", "totals"),
    "subtotal": ("subtotal", "subtotals"),
    "balance": ("balance", "balances"),
    "note": ("note", "notes"),
    "head": ("header line", "header lines"),
}
_TOLD = 3  # names of each sort


class Apart(msgspec.Struct, frozen=True):
    """A row (from 0) that is none of the table's, what sort it is, and how it calls itself."""

    row: int
    sort: Sort
    name: str


def rows_apart(table: Table) -> tuple[Apart, ...]:
    """The rows that are no rows of the table, in their order."""
    if table.rows < 2:
        return ()
    look = _Look(table)
    found: dict[int, Apart] = {}
    for row, name in look.notes():
        found[row] = Apart(row, "note", name)
    for row, name in look.heads():
        found.setdefault(row, Apart(row, "head", name))
    last = table.rows - 1
    while last in found:
        last -= 1
    named = [each for each in look.named(TOTAL) if each[0] not in found]
    balances = [each for each in look.named(BALANCE) if each[0] not in found and look.is_edge(each[0], last)]
    for row, name, _ in balances:
        found.setdefault(row, Apart(row, "balance", name))
    for row, name, sort in look.totals([each for each in named if each[0] not in found], last):
        found[row] = Apart(row, sort, name)
    if last >= _LEAST_ROWS - 1 and last not in found and look.adds_up_throughout(last):
        found[last] = Apart(last, "total", "")
    return tuple(found[row] for row in sorted(found))


class _Look:
    """A table looked at row by row: what each holds, as text and as numbers."""

    def __init__(self, table: Table) -> None:
        self.table = table
        self.columns = table.columns
        self.refused = [{each.row: each.text for each in column.refused} for column in table.columns]
        self.first = 0 if table.rows <= _MOST_ROWS else table.rows - _END
        filled = np.zeros((len(self.columns), table.rows - self.first), dtype=np.bool_)
        for at, column in enumerate(self.columns):
            blank = column.blank
            filled[at] = True if blank is None else ~blank[self.first :]
            for each in column.refused:
                if each.row >= self.first:
                    filled[at, each.row - self.first] = True
        self.filled = filled
        self.counts = filled.sum(axis=0)
        often = np.bincount(self.counts) if len(self.counts) else np.zeros(1)
        self.usual = int(np.flatnonzero(often * 2 >= often.max())[-1])  # of several, the fullest
        self.numbers = [(at, column) for at, column in enumerate(self.columns) if isinstance(column, NumberColumn)]

    def text(self, at: int, row: int) -> str:
        refused = self.refused[at].get(row)
        if refused is not None:
            return refused
        column = self.columns[at]
        code = int(column.codes[row]) if isinstance(column, CodedColumn) else 0
        return column.members[code] if isinstance(column, CodedColumn) and code < len(column.members) else ""

    def first_text(self, row: int) -> tuple[int, str]:
        """The first filled cell of a row: its column and its text."""
        places = np.flatnonzero(self.filled[:, row - self.first])
        return (int(places[0]), self.text(int(places[0]), row)) if len(places) else (-1, "")

    def notes(self) -> list[tuple[int, str]]:
        """Lines at the very end that are sentences, not rows."""
        found = []
        for row in range(self.table.rows - 1, max(self.first, self.table.rows - _END) - 1, -1):
            at, text = self.first_text(row)
            count = int(self.counts[row - self.first])
            if self._is_note(at, text, count):
                found.append((row, text))
            else:
                break
        return found[::-1] if len(found) < self.table.rows else []

    def _is_note(self, at: int, text: str, count: int) -> bool:
        if at != 0 or self.usual < 2:
            return False
        stated = bool(NOTE.search(folded(text)))
        if stated and count <= max(self.usual // 2, 1):
            return True
        sentence = len(text.split()) >= 4 and len(text) > 24
        return count == 1 and self.usual >= 3 and sentence and not TOTAL.search(folded(text))

    def heads(self) -> list[tuple[int, str]]:
        """Rows that repeat the heads."""
        names = [field.name.casefold() for field in self.table.fields]
        if len(names) < 2:
            return []
        column = self.columns[0]
        places = _rows_with(column, {self.table.fields[0].name})
        found = []
        for row in places:
            if row < self.first:
                continue
            texts = [self.text(at, row).casefold() for at in range(len(names))]
            if sum(text == name for text, name in zip(texts, names, strict=True)) > len(names) / 2:
                found.append((row, self.text(0, row)))
        return found if len(found) < self.table.rows else []

    def named(self, words: re.Pattern[str]) -> list[tuple[int, str, int]]:
        """Rows whose own name has such words: row, name, and the column that holds it."""
        found: dict[int, tuple[int, str, int]] = {}
        named = 0
        for at, column in enumerate(self.columns):
            rows: list[tuple[int, str]] = []
            words_in = self.table.fields[at].kind == "category"  # digits that identify are no words
            if isinstance(column, CodedColumn) and words_in and named < _NAMING:
                named += 1
                known = [code for code, member in enumerate(column.members) if _has(words, member)]
                if known:
                    codes = column.codes[self.first :]
                    rows = [
                        (int(row) + self.first, column.members[int(codes[row])])
                        for row in np.flatnonzero(np.isin(codes, known))
                    ]
            refused = [each for each in column.refused if each.row >= self.first]
            rows += [(each.row, each.text) for each in refused if _has(words, each.text)]
            for row, name in rows:
                found.setdefault(row, (row, name, at))
        return sorted(found.values())

    def is_edge(self, row: int, last: int) -> bool:
        """Whether a balance stands where those do: first, or among the last."""
        return row in (0, last, last - 1) and int(self.counts[row - self.first]) < max(len(self.columns), 2)

    def totals(self, named: list[tuple[int, str, int]], last: int) -> list[tuple[int, str, Sort]]:
        """Those of the named rows that add up others, or whose names stand alone."""
        if not named:
            return []
        rows = {row for row, _, _ in named}
        label = min(at for _, _, at in named)
        texts = [at for at, column in enumerate(self.columns) if not isinstance(column, NumberColumn)]
        found: list[tuple[int, str, Sort]] = []
        starts = sorted(rows)
        sums = _Sums(self.numbers, self.first, last, rows)
        ending = last  # from here on all rows are named so
        while ending > self.first and ending - 1 in rows and ending in rows:
            ending -= 1
        begin = self.first
        often = len(rows) * 3 > self.table.rows
        for place, (row, name, at) in enumerate(named):
            others = [each for each in texts if each != at]
            alone = bool(others) and not any(self.filled[each, row - self.first] for each in others)
            stop = starts[place + 1] if place + 1 < len(starts) else last + 1
            whole = sums.add_up(row, self.first, row)
            adds = whole or sums.add_up(row, begin, row) or sums.add_up(row, row + 1, stop)
            stated = row >= ending and self._is_short(row) and bool(TOTAL_ALONE.match(folded(name)))
            if (adds and at == label and not often) or alone or stated:
                found.append((row, name, "total" if row == last or (whole and begin > self.first) else "subtotal"))
            begin = row + 1
        return found

    def _is_short(self, row: int) -> bool:
        """Whether a row leaves cells blank that others fill."""
        return int(self.counts[row - self.first]) < self.usual or self.usual <= 2 or len(self.columns) <= 2

    def adds_up_throughout(self, row: int) -> bool:
        """Whether an unnamed last row is one of totals: all its numbers are the sums of those above."""
        sums = 0
        for _, column in self.numbers:
            if column.blank is not None and column.blank[row]:
                continue
            above = float(column.values[:row].sum())
            if above == 0 or not _alike(above, float(column.values[row])):
                return False
            sums += 1
        return sums > 1 or (sums > 0 and row + 1 >= _CHANCE)  # one small field could add up by chance (1, 2, 3)


class _Sums:
    """Running sums of the rows that are not called totals, so that a report of any length is gone through once."""

    def __init__(self, numbers: list[tuple[int, NumberColumn]], first: int, last: int, named: set[int]) -> None:
        self.first = first
        counted = np.ones(last + 1 - first, dtype=np.bool_)
        counted[[row - first for row in named if row <= last]] = False
        self.count = np.concatenate([[0], np.cumsum(counted)])
        self.columns = []
        for _, column in numbers:
            values = np.where(counted, column.values[first : last + 1], 0.0)  # 0 where blank
            self.columns.append((column, np.concatenate([[0.0], np.cumsum(values)])))

    def add_up(self, row: int, start: int, stop: int) -> bool:
        """Whether some number of the row is the sum of the rows from `start` to before `stop`."""
        start, stop = start - self.first, stop - self.first
        if stop <= start or self.count[stop] == self.count[start]:
            return False
        sums = 0
        for column, running in self.columns:
            if column.blank is not None and column.blank[row]:
                continue
            value = float(column.values[row])
            sums += value != 0 and _alike(float(running[stop] - running[start]), value)
        return sums > 1 or (sums == 1 and self.count[stop] - self.count[start] > 1)


def _alike(one: float, other: float) -> bool:
    return abs(one - other) <= 1e-9 * max(abs(one), abs(other))


def _has(words: re.Pattern[str], text: str) -> bool:
    return len(text) <= 80 and bool(words.search(folded(text)))


def _rows_with(column: Column, texts: set[str]) -> list[int]:
    folded_texts = {text.casefold() for text in texts}
    rows = [each.row for each in column.refused if each.text.casefold() in folded_texts]
    if isinstance(column, CodedColumn):
        known = [code for code, member in enumerate(column.members) if member.casefold() in folded_texts]
        if known:
            rows += np.flatnonzero(np.isin(column.codes, known)).tolist()
    return sorted(rows)


def told_of(apart: Sequence[Apart]) -> str:
    """Which rows these are, in words: "3 subtotals (“North total” in row 4, …) and 1 note"."""
    parts = []
    for sort, (one, many) in _SORTS.items():
        some = [each for each in apart if each.sort == sort]
        if some:
            names = [_called(each) for each in some[:_TOLD]]
            more = f" and {len(some) - _TOLD:,} more" if len(some) > _TOLD else ""
            parts.append(f"{len(some):,} {one if len(some) == 1 else many} ({', '.join(names)}{more})")
    return " and ".join(filter(None, (", ".join(parts[:-1]), *parts[-1:])))


def _called(each: Apart) -> str:
    return (
        f"“{shortened(each.name)}” in row {each.row + 1:,}"
        if each.name
        else f"row {each.row + 1:,}, which adds up all above"
    )
