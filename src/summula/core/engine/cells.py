"""The cell fold: rows folded once into the distinct combinations of some headings.

Everything that can be added is kept a cell (rows, and a number's sum, count, least, greatest),
so that masks and groupings run on thousands of cells instead of millions of rows. What cannot be added
(median, percentile, distinct count) goes back to the rows through `cell_of_row`.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Literal

import msgspec

from summula.core.arrays import np
from summula.core.engine.combinations import Figures, combine, counted
from summula.core.engine.conditions import holds_by_member, holds_by_row
from summula.core.engine.joined import Joined, Packed, fold_rows
from summula.core.fields.heading import PARTS, Encoded, Heading, coarsen, encode_heading
from summula.core.memory import Memory, Remembered
from summula.core.phrases.phrase import Condition
from summula.core.tables.column import Mask, take_at
from summula.core.tables.exact import Splitting, limb, splitting_of
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from numpy.typing import NDArray

Dimension = Heading | Condition
SumPart = Literal[
    "count", "sum", "min", "max", "first", "last",
    "limb 0", "limb 1", "limb 2", "limb 3", "limb 4", "limb 5", "limb 6", "limb 7",
]  # fmt: skip
LIMBS: tuple[SumPart, ...] = ("limb 0", "limb 1", "limb 2", "limb 3", "limb 4", "limb 5", "limb 6", "limb 7")

_MOST_FOLDS = 24  # remembered of a table, so that a day of questions does not fill the memory
_BY_MONTH = {"year", "half", "quarter", "month", "year-half", "year-quarter", "year-month"} | {
    part for part in PARTS if part.startswith("fiscal ")
}
_BY_DAY = {"month-day", "quarter-day", "week", "weekday", "day", "year-week"}


ROW_MASKS: Remembered[Condition, Mask] = Remembered("rows' masks", most=_MOST_FOLDS, of_columns=True)
_SPLITTINGS: Remembered[str, Splitting | None] = Remembered("splittings", most=2_000)
_CODES_IN_USE: Remembered[Dimension, int] = Remembered("codes in use", most=500)


class Cells(msgspec.Struct, frozen=True, eq=False):
    """`size` cells over a table's rows.

    Made from the rows (`of_row`: each row's cell), or from `finer` cells (`of_finer`: each finer cell's cell). Without
    either, each row is a cell of its own.
    """

    table: Table
    bases: dict[Dimension, Encoded]
    size: int
    of_row: NDArray[np.unsignedinteger] | Joined | None
    rows: Figures | None  # rows a cell; None: one each
    memo: Memory = msgspec.field(default_factory=Memory)
    finer: Cells | None = None
    of_finer: NDArray[np.unsignedinteger] | None = None

    @property
    def folded(self) -> bool:
        """Whether a cell stands for more than one row."""
        return self.of_row is not None or self.finer is not None

    @property
    def cell_of_row(self) -> NDArray[np.unsignedinteger] | None:
        """Each row's cell; None where each row is a cell of its own."""
        if self.finer is None and not isinstance(self.of_row, Joined):
            return self.of_row
        found = _CELL_OF_ROW.get(self.memo, "")
        if found is None:  # only what cannot be added asks for it
            if isinstance(self.of_row, Joined):
                found = self.of_row.all()
            else:
                assert self.finer is not None and self.of_finer is not None
                places = self.finer.cell_of_row
                assert places is not None
                found = take_at(self.of_finer, places)
            _CELL_OF_ROW.put(self.memo, "", found)
        return found

    def encoded(self, heading: Heading) -> Encoded:
        """The heading's codes, one a cell."""
        found = self.bases.get(heading)
        if found is None and not self.folded:
            found = encode_heading(self.table, heading)
        return _OF_BASES.of(self.memo, heading, lambda: self._from_base(heading)) if found is None else found

    def _from_base(self, heading: Heading) -> Encoded:
        for base, encoded in self.bases.items():
            if tells(base, heading):
                assert heading.part is not None
                return coarsen(encoded, heading.part, self.table.year_begins)
        raise KeyError(heading)

    def passes(self, condition: Condition) -> Mask:
        """Which cells meet the condition; remembered."""
        found = _PASSES.get(self.memo, condition)
        if found is None:
            base = self.bases.get(condition)
            if base is not None:
                found = base.codes == 1
            elif not self.folded:
                found = row_mask(self.table, condition)
            else:
                encoded = self.encoded(condition.heading)
                found = take_at(holds_by_member(condition, encoded, self.table), encoded.codes)
            _PASSES.put(self.memo, condition, found)
        return found

    def part(self, name: str, part: SumPart) -> Figures:
        """An additive part of a number field, one figure a cell, in the column's own units.

        `count` counts what is not blank (of any field). `first`/`last` are row numbers. Least and greatest
        of nothing are +inf and -inf. Limbs are what a number is taken apart into where its sums would lose something.
        """
        return PARTS_KNOWN.of(self.memo, (name, part), lambda: self._work_out(name, part))

    def _work_out(self, name: str, part: SumPart) -> Figures:
        if self.finer is not None and self.of_finer is not None:
            return self._from_finer(self.finer.part(name, part), part, self.of_finer)
        blank = self.table.column(name).blank
        if part == "count":
            return self._count(blank)
        if part in ("first", "last"):
            return self._edge_row(blank, part)
        column = self.table.number(name)
        values, cells = column.values, self.cell_of_row
        if part in LIMBS:
            splitting = exact_splitting(self.table, name)
            assert splitting is not None
            values = limb(column, splitting, LIMBS.index(part))
        if part == "sum" or part in LIMBS:
            return values if cells is None else counted(cells, self.size, values)
        nothing = np.inf if part == "min" else -np.inf
        filled = values if blank is None else np.where(blank, nothing, values)
        if cells is None:
            return filled
        figures = np.full(self.size, nothing)
        (np.minimum if part == "min" else np.maximum).at(figures, cells, filled)
        return figures

    def _from_finer(self, figures: Figures, part: SumPart, places: NDArray[np.unsignedinteger]) -> Figures:
        if part in ("count", "sum") or part in LIMBS:
            return counted(places, self.size, figures)
        least = part in ("min", "first")
        found = np.full(self.size, np.inf if least else -np.inf)
        (np.minimum if least else np.maximum).at(found, places, figures)
        return found

    def _count(self, blank: Mask | None) -> Figures:
        rows = np.ones(self.size) if self.rows is None else self.rows
        if blank is None:
            return rows
        if self.cell_of_row is None:
            return (~blank).astype(np.float64)
        return rows - counted(self.cell_of_row[blank], self.size)

    def _edge_row(self, blank: Mask | None, part: str) -> Figures:
        nothing = np.inf if part == "first" else -np.inf
        figures = np.full(self.size, nothing)
        rows = np.arange(self.table.rows) if blank is None else np.flatnonzero(~blank)
        cells = rows if self.cell_of_row is None else self.cell_of_row[rows]
        order = slice(None, None, -1) if part == "first" else slice(None)
        figures[cells[order]] = rows[order]
        return figures


FOLDED: Remembered[frozenset[Dimension], Cells] = Remembered("folds", most=_MOST_FOLDS)  # of a table
_UNFOLDED: Remembered[str, Cells] = Remembered("rows as cells", most=1)
COARSER: Remembered[tuple[Dimension, ...], Cells] = Remembered("coarser cells", most=_MOST_FOLDS)  # of cells
PARTS_KNOWN: Remembered[tuple[str, SumPart], Figures] = Remembered("parts", most=200)
_CELL_OF_ROW: Remembered[str, NDArray[np.unsignedinteger]] = Remembered("cell of row", most=1)
_OF_BASES: Remembered[Heading, Encoded] = Remembered("headings told by others")
_PASSES: Remembered[Condition, Mask] = Remembered("cells' masks", most=_MOST_FOLDS)


def exact_splitting(table: Table, name: str) -> Splitting | None:
    """How a number field is taken apart to be added up exactly; None where it need not be. Remembered by the table."""
    return _SPLITTINGS.of(table.memo, name, lambda: splitting_of(table.number(name)))


def tells(base: Dimension, heading: Heading) -> bool:
    """Whether a date's part follows from what cells are folded by: its year from its month, its week from its day."""
    if not isinstance(base, Heading) or base.field != heading.field:
        return False
    if base.part is None:
        return heading.part in _BY_DAY or heading.part in _BY_MONTH
    return base.part == "year-month" and heading.part in _BY_MONTH


def row_mask(table: Table, condition: Condition) -> Mask:
    """Which rows meet the condition; remembered by the table."""
    return ROW_MASKS.of(table.memo, condition, lambda: _row_mask(table, condition))


def _row_mask(table: Table, condition: Condition) -> Mask:
    by_row = holds_by_row(condition, table)
    if by_row is None:
        encoded = encode_heading(table, condition.heading)
        by_row = take_at(holds_by_member(condition, encoded, table), encoded.codes)
    return by_row


def fold(table: Table, dimensions: Sequence[Dimension], *, summed: str | None = None) -> Cells:
    """The table's rows folded by these dimensions; remembered by the table.

    A fold that would not at least halve the rows is not made: then each row is its own cell. `summed` names a number
    field whose sums will be asked for: they are worked out on the way where that costs nothing.
    """
    bases = _bases(dimensions)
    return FOLDED.of(table.memo, frozenset(bases), lambda: _fold(table, bases, summed) or unfolded(table))


def coarser(cells: Cells, dimensions: Sequence[Dimension]) -> Cells:
    """The cells folded once more by fewer dimensions; the same cells where that would not at least halve them.
    Remembered by the cells."""
    bases = _bases(dimensions)
    return COARSER.of(cells.memo, tuple(bases), lambda: _coarser(cells, bases))


def _coarser(cells: Cells, bases: Sequence[Dimension]) -> Cells:
    if cells.rows is None or not bases:
        return cells
    encoded = [
        cells.encoded(base) if isinstance(base, Heading) else Encoded(cells.passes(base).view(np.uint8), (0, 1))
        for base in bases
    ]
    codes = [each.codes for each in encoded]
    combined = combine(codes, [_codes_in_use(each) for each in encoded], most=cells.size // 2, tally=False)
    if combined is None:
        return cells
    of_cell = {
        base: Encoded(combined.codes[:, at].astype(each.codes.dtype), each.members)
        for at, (base, each) in enumerate(zip(bases, encoded, strict=True))
    }
    rows = counted(combined.ids, len(combined.codes), cells.rows)
    return Cells(cells.table, of_cell, len(combined.codes), None, rows, Memory(), cells, combined.ids)


def is_folded(table: Table, dimensions: Sequence[Dimension]) -> bool:
    """Whether this fold has been made, and is smaller than the rows."""
    found = FOLDED.get(table.memo, frozenset(_bases(dimensions)))
    return found is not None and found.folded


def unfolded(table: Table) -> Cells:
    """Each row a cell of its own."""
    return _UNFOLDED.of(table.memo, "", lambda: Cells(table, {}, table.rows, None, None))


def _bases(dimensions: Sequence[Dimension]) -> list[Dimension]:
    """The fewest dimensions that tell the others: the month tells its quarter and year."""
    parts: dict[str, set[Any]] = {}
    bases: list[Dimension] = []
    for each in dict.fromkeys(dimensions):
        if isinstance(each, Heading) and each.part is not None and each.part != "hour":
            parts.setdefault(each.field, set()).add(each.part)
        elif isinstance(each, Heading) and each.bands is None and each.part is None and each.field in parts:
            parts[each.field].add(None)
        else:
            bases.append(each)
    for name, of_field in parts.items():
        plain = Heading(name)
        if plain in bases:
            continue
        if len(of_field) == 1:
            bases.append(Heading(name, next(iter(of_field))))
        else:
            bases.append(Heading(name, "year-month") if of_field <= _BY_MONTH else plain)
    return sorted(bases, key=repr)


def _fold(table: Table, bases: Sequence[Dimension], summed: str | None) -> Cells | None:
    if not bases:
        ids = np.zeros(table.rows, dtype=np.uint8)
        return Cells(table, {}, 1, ids, np.array([float(table.rows)])) if table.rows > 1 else None
    encoded = []
    for base in bases:
        if isinstance(base, Condition):
            encoded.append(Encoded(row_mask(table, base).view(np.uint8), (0, 1)))
        else:
            encoded.append(encode_heading(table, base))
    sizes = []
    for base, each in zip(bases, encoded, strict=True):
        sizes.append(_CODES_IN_USE.of(table.memo, base, lambda each=each: _codes_in_use(each)))  # type: ignore[misc]
    packed = Packed.of(table, summed) if summed is not None else None
    folded = fold_rows([each.codes for each in encoded], sizes, most=max(table.rows // 2, 64), packed=packed)
    if folded is None:
        return None
    of_cell = {
        base: Encoded(folded.codes[:, at].astype(e.codes.dtype), e.members)
        for at, (base, e) in enumerate(zip(bases, encoded, strict=True))
    }
    cells = Cells(table, of_cell, len(folded.codes), folded.of_row, folded.counts)
    if folded.sums is not None and summed is not None:
        PARTS_KNOWN.put(cells.memo, (summed, "sum"), folded.sums)
    return cells


def _codes_in_use(encoded: Encoded) -> int:
    """The codes that can occur: the blank's only where there is one, so that keys stay dense."""
    blank = len(encoded.members)
    occurs = len(encoded.codes) > 0 and int(encoded.codes.max()) == blank
    return blank + 1 if occurs or blank == 0 else blank
