"""Values as whole units (pence, minutes), sorted figure by figure: one plain sort, after which every order statistic,
and how many values lie below any limit, is found without looking at a row again."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import msgspec

from summula.core.arrays import np
from summula.core.engine.samples import Boxes, Ranges, Spread
from summula.core.engine.spreads import REACH, TAIL, Edges, edges_around
from summula.core.memory import Remembered
from summula.core.tables.column import EXACT, STRETCH, NumberColumn, stretches

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.engine.cells import Cells
    from summula.core.engine.fold import Fold, Groups

UNITS: Remembered[str, WholeUnits | None] = Remembered("whole units", most=16, of_columns=True)


class WholeUnits(msgspec.Struct, frozen=True, eq=False):
    """A number field as whole numbers from 0 to `span` - 1, beginning with its least value `low`; 0 where blank."""

    units: NDArray[np.signedinteger]
    low: float
    span: int


class Runs(msgspec.Struct, frozen=True, eq=False):
    """Each group's values in their order, one group's run after another's: as unit + group * span. A group's run begins
    at `start` and holds `count`."""

    keys: NDArray[Any]
    start: NDArray[np.int64]
    count: NDArray[np.int64]

    @classmethod
    def of(cls, groups: Groups, column: NumberColumn, size: int, whole: WholeUnits) -> Runs:
        """Units and their group make one whole number, so that one plain sort does it all."""
        kind: type[np.signedinteger] = np.int32 if whole.span * size < 2**31 else np.int64
        keys: NDArray[Any] = np.empty(len(groups), dtype=kind)
        count, end = np.zeros(size, dtype=np.int64), 0
        for part in stretches(len(groups), max(STRETCH, size)):
            chosen, units = groups[part], whole.units[part]
            inside = chosen >= 0 if column.blank is None else (chosen >= 0) & ~column.blank[part]
            if not inside.all():
                chosen, units = chosen[inside], units[inside]
            here = keys[end : end + len(chosen)]
            here[:] = chosen
            here *= kind(whole.span)
            here += units.astype(kind, copy=False)
            count += np.bincount(chosen, minlength=size)
            end += len(chosen)
        keys = keys[:end]
        keys.sort()
        return cls(keys, np.cumsum(count) - count, count)


def whole_units(cells: Cells, name: str) -> WholeUnits | None:
    """A number field as small whole numbers; None where its values are not whole units. Remembered by the table."""
    return UNITS.of(cells.table.memo, name, lambda: _as_whole_units(cells.table.number(name)))


def _as_whole_units(column: NumberColumn) -> WholeUnits | None:
    low, high = np.inf, -np.inf
    for part in stretches(column.rows):
        here = column.values[part] if column.blank is None else column.values[part][~column.blank[part]]
        if not np.array_equal(here, np.rint(here)):
            return None
        if len(here):
            low, high = min(low, float(here.min())), max(high, float(here.max()))
    if low > high or max(abs(low), abs(high)) >= EXACT:
        return None
    span = int(high - low) + 1
    units: NDArray[np.signedinteger] = np.empty(column.rows, dtype=np.int32 if span < 2**31 else np.int64)
    for part in stretches(column.rows):
        here = column.values[part]
        units[part] = (here if column.blank is None else np.where(column.blank[part], low, here)) - low
    return WholeUnits(units, low, span)


class SortedValues(msgspec.Struct, frozen=True, eq=False):
    """The values of each figure of a block in ascending order. `unit`: how many of a value's units make one; `blank`
    rows in play have no value."""

    runs: Runs
    whole: WholeUnits
    unit: float
    blank: int

    def run(self, group: int) -> NDArray[Any]:
        """A figure's values, in units from the least of the field."""
        start, count = int(self.runs.start[group]), int(self.runs.count[group])
        found: NDArray[Any] = self.runs.keys[start : start + count] - self.runs.keys.dtype.type(group * self.whole.span)
        return found

    def true(self, units: float) -> float:
        return (units + self.whole.low) / self.unit

    def edges(self, groups: Sequence[int]) -> Edges:
        """About two dozen ranges that hold the values of these figures; see `edges_around`."""
        runs = [run for each in groups if len(run := self.run(each))]
        every = runs[0] if len(runs) == 1 else np.sort(np.concatenate(runs))
        low, high = (self.true(_at_share(every, percent / 100)) for percent in (TAIL, 100 - TAIL))

        def whole() -> bool:
            return self.unit == 1.0 or not np.any((every + int(self.whole.low)) % int(self.unit))

        return edges_around(self.true(int(every[0])), self.true(int(every[-1])), low, high, whole=whole)

    def ranges(self, groups: Sequence[int], edges: Edges) -> Ranges:
        """The rows of each figure in each range; those beyond in the outermost."""
        limits = [self._first_unit(limit) for limit in edges.limits[1:-1].tolist()]
        counts = []
        for each in groups:
            run = self.run(each)
            below = np.searchsorted(run, limits)
            counts.append(np.diff(np.concatenate([[0], below, [len(run)]])))
        return Ranges(edges.limits, edges.below, edges.above, np.array(counts, dtype=np.float64), self.blank)

    def _first_unit(self, limit: float) -> int:
        """The least unit whose value is not below a limit."""
        found = math.ceil(limit * self.unit - self.whole.low)
        while self.true(found - 1) >= limit:
            found -= 1
        while self.true(found) < limit:
            found += 1
        return found

    def boxes(self, groups: Sequence[int]) -> Boxes:
        return Boxes(tuple(self._spread(self.run(each)) for each in groups))

    def _spread(self, run: NDArray[Any]) -> Spread | None:
        if not len(run):
            return None
        quarter, median, three = (_at_share(run, share) for share in (0.25, 0.5, 0.75))
        reach = REACH * (three - quarter)
        first = int(np.searchsorted(run, math.ceil(quarter - reach)))
        last = int(np.searchsorted(run, math.floor(three + reach), side="right"))
        beyond = np.concatenate([run[:first], run[last:]]).astype(np.float64)
        mean = int(run.sum(dtype=np.int64)) / len(run)
        ends = (int(run[first]), quarter, median, three, int(run[last - 1]), mean)
        low, quarter, median, three, high, mean = (self.true(each) for each in ends)
        return Spread(len(run), low, quarter, median, three, high, mean, (beyond + self.whole.low) / self.unit)


_WORTH = 20_000  # rows: fewer are sorted as they are
_OF_ALL: Remembered[str, Runs] = Remembered("sorted values", most=8, of_columns=True)  # of a whole table


def sorted_values(fold: Fold, field: str, places: Groups, size: int) -> SortedValues | None:
    """The values of a field by each row's figure (`places` in a block of `size` figures, -1 out of play); None where
    they are no whole units, or few."""
    if len(places) < _WORTH:
        return None
    whole = whole_units(fold.cells, field)
    if whole is None or whole.span * size >= 2**31:
        return None
    column = fold.cells.table.number(field)
    if size == 1 and int(places.min()) >= 0:
        runs = _OF_ALL.of(fold.cells.table.memo, field, lambda: Runs.of(places, column, size, whole))
    else:
        runs = Runs.of(places, column, size, whole)
    blank = 0 if column.blank is None else int(np.count_nonzero(places[column.blank] >= 0))
    return SortedValues(runs, whole, column.unit, blank)


def _at_share(run: NDArray[Any], share: float) -> float:
    """Linear interpolation between order statistics: at (n-1)·share (numpy's default method)."""
    place = (len(run) - 1) * share
    low, high = int(run[int(place)]), int(run[math.ceil(place)])
    return low + (high - low) * (place - int(place))
