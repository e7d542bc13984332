"""What a phrase means, from docs/phrase.md alone: rows as dictionaries, figures as exact fractions, no arrays.

Slow and plain on purpose. `answered` gives every cell that has rows, in the shape of `oracle.figures_of`.
"""

from __future__ import annotations

import datetime as dt
import math
import re
import unicodedata
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from typing import Any, NamedTuple

from summula.core.fields.bands import Bands
from summula.core.fields.heading import Heading
from summula.core.phrases.phrase import (
    Aggregate,
    Arithmetic,
    Calculation,
    Comparison,
    Condition,
    Keep,
    Measure,
    Number,
    Phrase,
)

Row = dict[str, Any]
Path = tuple[Any, ...]
Figure = Fraction | float | None


class Rest(NamedTuple):
    """The gathered member."""

    size: int


def decimal(number: float) -> Fraction:
    return Fraction(repr(float(number)))


# -- members ---------------------------------------------------------------------------------------


def part_of(day: dt.date, part: str) -> Any:
    year, month, quarter, half = day.year, day.month, (day.month + 2) // 3, (day.month + 5) // 6
    iso = day.isocalendar()
    return {
        "year": year, "half": half, "quarter": quarter, "month": month, "week": iso.week, "weekday": iso.weekday,
        "day": day.day, "month-day": f"{month:02d}-{day.day:02d}",
        "quarter-day": (day - dt.date(year, quarter * 3 - 2, 1)).days + 1,
        "year-half": f"{year}-H{half}", "year-quarter": f"{year}-Q{quarter}", "year-month": f"{year}-{month:02d}",
        "year-week": f"{iso.year}-W{iso.week:02d}",
    }[part]  # fmt: skip


def band_at(bands: Bands, index: int) -> tuple[float | None, float | None]:
    """The band of an index: -1 below the first limit, the last above all."""
    if bands.at:
        limits = [decimal(each) for each in bands.at]
        return (
            float(limits[index]) if index >= 0 else None,
            float(limits[index + 1]) if index + 1 < len(limits) else None,
        )
    width, start = decimal(bands.width or 0), decimal(bands.lowest or 0)
    low, high = start + index * width, start + (index + 1) * width
    if bands.lowest is not None and index < 0:
        return None, float(start)
    if bands.highest is not None:
        end = decimal(bands.highest)
        if low >= end:
            return float(end), None
        high = min(high, end)
    return float(low), float(high)


def band_index(bands: Bands, value: Fraction) -> int:
    if bands.at:
        return sum(decimal(each) <= value for each in bands.at) - 1
    width, start = decimal(bands.width or 0), decimal(bands.lowest or 0)
    index = math.floor((value - start) / width)
    if bands.highest is not None:
        index = min(index, math.ceil((decimal(bands.highest) - start) / width))
        if value >= decimal(bands.highest):
            index = math.ceil((decimal(bands.highest) - start) / width)
    return max(index, -1) if bands.lowest is not None else index


def member(row: Row, heading: Heading) -> Any:
    value = row[heading.field]
    if value is None:
        return None
    if heading.part is not None:
        return part_of(value, heading.part)
    if heading.bands is not None:
        return band_at(heading.bands, band_index(heading.bands, value))
    if isinstance(value, Fraction):
        return float(value)
    return value.isoformat() if isinstance(value, dt.date) else value


def folded(text: str) -> str:
    return "".join(c for c in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(c))


def own_order(value: Any) -> tuple[Any, ...]:
    """A key for a heading's own order: blank last, gathered after it."""
    if value is None:
        return (1,)
    if isinstance(value, Rest):
        return (2,)
    if isinstance(value, str):
        parts = re.split(r"(\d+)", folded(value))
        return (0, [(0, int(p), "") if at % 2 else (1, 0, p) for at, p in enumerate(parts) if p or at % 2], value)
    if isinstance(value, tuple):
        return (0, -math.inf if value[0] is None else value[0])
    return (0, value)


# -- conditions ------------------------------------------------------------------------------------


def days(limit: Any) -> tuple[dt.date, dt.date]:
    """The first and the last day of a date or period."""
    text = str(int(limit)) if isinstance(limit, float | int) else limit
    if len(text) == 10:
        day = dt.date.fromisoformat(text)
        return day, day
    year, _, within = text.partition("-")
    if within[:1] == "W":
        first = dt.date.fromisocalendar(int(year), int(within[1:]), 1)
        return first, first + dt.timedelta(days=6)
    start, length = 1, 12
    if within:
        length = {"Q": 3, "H": 6}.get(within[0], 1)
        start = (int(within.lstrip("QH")) - 1) * length + 1
    after = int(year) * 12 + start - 1 + length
    return dt.date(int(year), start, 1), dt.date(after // 12, after % 12 + 1, 1) - dt.timedelta(days=1)


YEARLY = ("year", "year-half", "year-quarter", "year-month", "year-week")


def meets(row: Row, condition: Condition, table: Sequence[Row]) -> bool:
    heading, test, values = condition.heading, condition.test, condition.values
    own = member(row, heading)
    if test in ("is blank", "is not blank"):
        return (own is None) == (test == "is blank")
    if own is None:
        return test == "is not"
    if test == "is in the last":
        latest = max(each[heading.field] for each in table if each[heading.field] is not None)
        number, unit = int(values[0]), values[1]
        if unit in ("days", "weeks"):
            return bool((latest - row[heading.field]).days < number * (7 if unit == "weeks" else 1))
        months = latest.year * 12 + latest.month - 1 - number * {"months": 1, "quarters": 3, "years": 12}[str(unit)]
        after = months + 1
        last = (dt.date(after // 12, after % 12 + 1, 1) - dt.timedelta(days=1)).day
        return bool(row[heading.field] > dt.date(months // 12, months % 12 + 1, min(latest.day, last)))
    if test in ("contains", "starts with", "ends with"):
        text, part = folded(own), folded(str(values[0]))
        return {"contains": part in text, "starts with": text.startswith(part), "ends with": text.endswith(part)}[test]
    if heading.part in YEARLY or (heading.part is None and isinstance(row[heading.field], dt.date)):
        first, last = days(own)
        spans = [days(value) for value in values]
        if test in ("is", "is not"):
            return any(low <= first and last <= high for low, high in spans) != (test == "is not")
        (low, high), top = spans[0], spans[-1][1]
        return {
            "is over": first > high, "is at least": last >= low, "is under": last < low, "is at most": first <= high,
            "is from": last >= low and first <= top,
        }[test]  # fmt: skip
    if test in ("is", "is not"):
        asked = [_plain(own, value) for value in values]
        return (_plain(own, own) in asked) != (test == "is not")
    mine: Any = own
    limits: list[Any] = list(values)
    if isinstance(own, str) and all(isinstance(value, float) for value in values):
        if not re.fullmatch(r"\d+(\.\d+)?", own):
            return False
        mine = decimal(float(own))
    elif isinstance(own, str):
        mine, limits = folded(own), [folded(str(value)) for value in values]
    else:
        mine = decimal(own)
    if isinstance(mine, Fraction):
        limits = [decimal(float(limit)) for limit in limits]
    low = limits[0]
    return bool({
        "is over": mine > low, "is at least": mine >= low, "is under": mine < low, "is at most": mine <= low,
        "is from": low <= mine <= limits[-1],
    }[test])  # fmt: skip


def _plain(own: Any, value: Any) -> Any:
    if isinstance(own, bool):
        return value if isinstance(value, bool) else value == "yes"
    return decimal(float(value)) if isinstance(own, float | int) else value


# -- figures ---------------------------------------------------------------------------------------


def aggregated(aggregate: Aggregate, rows: Sequence[Row], table: Sequence[Row]) -> Figure:
    rows = [row for row in rows if all(meets(row, each, table) for each in aggregate.where)]
    if aggregate.function == "rows":
        return Fraction(len(rows))
    assert aggregate.field is not None
    known = [row[aggregate.field] for row in rows if row[aggregate.field] is not None]
    if aggregate.function == "count":
        return Fraction(len(known))
    if aggregate.function == "distinct count":
        return Fraction(len(set(known)))
    if not known:
        return None
    ordered, total, count = sorted(known), sum(known), len(known)
    mean = Fraction(total) / count
    if aggregate.function in ("variance", "standard deviation"):
        if count < 2:
            return None
        variance = sum((each - mean) ** 2 for each in known) / (count - 1)
        return variance if aggregate.function == "variance" else math.sqrt(variance)

    def at(percent: Fraction) -> Fraction:
        place = percent * (count - 1) / 100
        below = math.floor(place)
        return ordered[below] + (ordered[min(below + 1, count - 1)] - ordered[below]) * (place - below)

    work: dict[str, Callable[[], Fraction]] = {
        "sum": lambda: Fraction(total), "mean": lambda: mean, "min": lambda: ordered[0], "max": lambda: ordered[-1],
        "range": lambda: ordered[-1] - ordered[0], "first": lambda: known[0], "last": lambda: known[-1],
        "median": lambda: at(Fraction(50)), "percentile": lambda: at(decimal(aggregate.percentile or 0)),
    }  # fmt: skip
    return work[aggregate.function]()


def calculated(calculation: Calculation, rows: Sequence[Row], table: Sequence[Row]) -> Figure:
    if isinstance(calculation, Aggregate):
        return aggregated(calculation, rows, table)
    if isinstance(calculation, Number):
        return decimal(calculation.value)
    assert isinstance(calculation, Arithmetic)
    left, right = calculated(calculation.left, rows, table), calculated(calculation.right, rows, table)
    if left is None or right is None or (calculation.operator == "/" and right == 0):
        return None
    return {
        "+": lambda: left + right, "-": lambda: left - right, "*": lambda: left * right, "/": lambda: left / right,
    }[calculation.operator]()  # fmt: skip


def over(figure: Figure, whole: Figure) -> Figure:
    return None if figure is None or whole is None or whole == 0 else figure / abs(whole) * (1 if whole > 0 else -1)


# -- axes ------------------------------------------------------------------------------------------


class Side(NamedTuple):
    """One axis: its headings, the path of each row in play, and the nodes shown at each level."""

    headings: tuple[Heading, ...]
    paths: list[Path]
    nodes: list[set[Path]]

    def alike(self, path: Path) -> Path | None:
        """The node of this path; what is gathered is one member, however many it stands for."""
        wanted = tuple(Rest(0) if isinstance(each, Rest) else each for each in path)
        for node in self.nodes[len(path)]:
            if tuple(Rest(0) if isinstance(each, Rest) else each for each in node) == wanted:
                return node
        return None


class Asked:
    """One phrase asked of one table."""

    def __init__(self, phrase: Phrase, table: Sequence[Row]) -> None:
        self.phrase, self.table = phrase, table
        self.found = [row for row in table if all(meets(row, each, table) for each in phrase.where)]
        self.kept, self.moved, self.limited = self._keep()
        self.rows, self.columns = self._side(phrase.by), self._side(phrase.across)

    def _keep(
        self,
    ) -> tuple[list[Row], dict[Heading, tuple[Keep, set[Path], list[Row]]], dict[Heading, Heading | None]]:
        rows, moved = list(self.found), {}
        for keep in self.phrase.keeping:
            by = (keep.heading,) if keep.each is None else (keep.each, keep.heading)
            groups: dict[Path, list[Row]] = {}
            for row in rows:
                groups.setdefault(tuple(member(row, each) for each in by), []).append(row)
            chosen: set[Path] = set()
            for outer in dict.fromkeys(path[:-1] for path in groups):
                inner = sorted((path for path in groups if path[:-1] == outer), key=lambda path: own_order(path[-1]))
                figures = {path: calculated(keep.measure.calculation, groups[path], self.table) for path in inner}
                sign = -1 if keep.end == "top" else 1
                ranked = sorted(inner, key=lambda path: (figures[path] is None, sign * (figures[path] or 0)))
                if keep.percent:
                    running, whole = Fraction(0), sum(Fraction(figures[path] or 0) for path in ranked)
                    few: list[Path] = []
                    for path in ranked:
                        few.append(path)
                        running += Fraction(figures[path] or 0)
                        if running * 100 >= whole * decimal(keep.number):
                            break
                    chosen.update(few)
                else:
                    chosen.update(ranked[: int(keep.number)])
            if keep.gather:
                if len(chosen) < len(groups):
                    moved[keep.heading] = (keep, chosen, list(rows))
            else:
                rows = [row for row in rows if tuple(member(row, each) for each in by) in chosen]
        return rows, moved, {each.heading: each.each for each in self.phrase.keeping}

    def _member(self, row: Row, heading: Heading, outer: Sequence[Heading]) -> Any:
        own = member(row, heading)
        if heading not in self.moved:
            return own
        keep, chosen, then = self.moved[heading]
        if self._path(keep, row) in chosen:
            return own
        left = [each for each in then if self._path(keep, each) not in chosen]
        if keep.each is not None and keep.each in outer:
            depth = list(outer).index(keep.each)
            group = self._member(row, keep.each, outer[:depth])
            left = [each for each in left if self._member(each, keep.each, outer[:depth]) == group]
        return Rest(len({member(each, heading) for each in left}))

    @staticmethod
    def _path(keep: Keep, row: Row) -> Path:
        return tuple(
            member(row, each) for each in ((keep.heading,) if keep.each is None else (keep.each, keep.heading))
        )

    def _side(self, headings: tuple[Heading, ...]) -> Side:
        paths = [
            tuple(self._member(row, heading, headings[:at]) for at, heading in enumerate(headings)) for row in self.kept
        ]
        nodes: list[set[Path]] = [{()}]
        for depth, heading in enumerate(headings):
            level: set[Path] = set()
            for parent in nodes[-1]:
                present = {path[depth] for path in paths if path[:depth] == parent}
                level.update((*parent, each) for each in self._shown(heading, present, parent, paths, headings[:depth]))
            nodes.append(level)
        return Side(headings, paths, nodes)

    def _shown(
        self, heading: Heading, present: set[Any], parent: Path, paths: list[Path], outer: tuple[Heading, ...]
    ) -> set[Any]:
        depth = len(outer)
        if self.phrase.every_member:
            if heading in self.limited:
                within = self.limited[heading]
                at = outer.index(within) if within in outer else None
                some = {path[depth] for path in paths if at is None or path[at] == parent[at]}
                return present | {each for each in some if each is not None and not isinstance(each, Rest)}
            return present | self._all_members(heading)
        if heading.bands is not None and heading not in self.limited:
            return present | self._between(heading, {each for each in present if each is not None})
        return present

    def _all_members(self, heading: Heading) -> set[Any]:
        every = {member(row, heading) for row in self.table} - {None}
        return every if heading.bands is None else self._between(heading, every)

    def _between(self, heading: Heading, some: set[Any]) -> set[Any]:
        """The bands from the first to the last of some."""
        if not some or heading.bands is None:
            return some
        low, high = min(some, key=own_order), max(some, key=own_order)
        known = [row[heading.field] for row in self.table if row[heading.field] is not None]
        first, last = (band_index(heading.bands, pick(known)) for pick in (min, max))
        every = [band_at(heading.bands, index) for index in range(first, last + 1)]
        return {each for each in every if own_order(low) <= own_order(each) <= own_order(high)}

    # -- figures at a place ------------------------------------------------------------------------

    def here(self, by: Path, across: Path) -> list[Row]:
        return [
            row
            for row, one, other in zip(self.kept, self.rows.paths, self.columns.paths, strict=True)
            if one[: len(by)] == by and other[: len(across)] == across
        ]

    def figure(self, measure: Measure, by: Path, across: Path) -> Figure:
        def at(one: Path, other: Path) -> Figure:
            return calculated(measure.calculation, self.here(one, other), self.table)

        own = at(by, across)
        if measure.comparison is None:
            return own
        kind = measure.comparison.kind
        if kind == "share of all":
            return over(own, at((), ()))
        if kind == "share of everything":
            return over(own, calculated(measure.calculation, self.found, self.table))
        if kind == "share of row":
            return over(own, at(by, ()))
        if kind == "share of column":
            return over(own, at((), across))
        if kind == "share of group":
            return over(own, at(by[:-1], across) if by or not self.columns.headings else at(by, across[:-1]))
        if kind.endswith("a year earlier"):
            return self._change(kind, own, self._year_earlier(at, by, across))
        return self._along(measure.comparison, own, at, by, across)

    @staticmethod
    def _change(kind: str, own: Figure, old: Figure) -> Figure:
        if own is None or old is None:
            return None
        return over(own - old, abs(old)) if kind.startswith("percent") else own - old

    def _year_earlier(self, at: Callable[[Path, Path], Figure], by: Path, across: Path) -> Figure:
        moved = [_a_year_back(side.headings, path) for side, path in ((self.rows, by), (self.columns, across))]
        if all(path == own for path, own in zip(moved, (by, across), strict=True)):
            return None
        if any(path is None for path in moved):
            return None
        one, other = (side.alike(path) for side, path in zip((self.rows, self.columns), moved, strict=True) if path is not None)
        return None if one is None or other is None else at(one, other)

    def _along(
        self, comparison: Comparison, own: Figure, at: Callable[[Path, Path], Figure], by: Path, across: Path
    ) -> Figure:
        on_rows = comparison.along not in self.columns.headings
        side, path = (self.rows, by) if on_rows else (self.columns, across)
        assert comparison.along is not None
        depth = side.headings.index(comparison.along)
        if len(path) <= depth:
            return None

        def moved(each: Any) -> Path | None:
            return side.alike((*path[:depth], each, *path[depth + 1 :]))

        def figure(there: Path) -> Figure:
            return at(there, across) if on_rows else at(by, there)

        # The neighbours: members within the same enclosing ones, in the heading's own order.
        members = sorted({node[depth] for node in side.nodes[depth + 1] if node[:depth] == path[:depth]}, key=own_order)
        found = [(each, there) for each in members if (there := moved(each)) is not None]
        if comparison.kind == "rank":
            others = [figure(there) for _, there in found]
            return None if own is None else Fraction(1 + sum(each is not None and each > own for each in others))
        if comparison.kind == "running total":
            until = members[: members.index(path[depth]) + 1]
            known = [figure(there) for each, there in found if each in until]
            some = [each for each in known if each is not None]
            return sum(some, Fraction(0)) if some else None
        if comparison.kind.endswith("previous"):
            place = members.index(path[depth])
            if place == 0 or isinstance(path[depth], Rest):
                return None
            target = members[place - 1]
        else:
            asked = comparison.member
            meant = [each for each in members if _plain(each, each) == _plain(each, asked) or each == asked]
            if not meant:
                return None
            target = meant[0]
        goal = moved(target)
        return None if goal is None else self._change(comparison.kind, own, figure(goal))

    def answer(self) -> dict[tuple[Path, Path], list[Figure]]:
        return dict(self._cells())

    def _cells(self) -> Iterator[tuple[tuple[Path, Path], list[Figure]]]:
        for by in {path[:level] for path in self.rows.paths for level in range(len(path) + 1)}:
            for across in {path[:level] for path in self.columns.paths for level in range(len(path) + 1)}:
                if self.here(by, across):
                    yield (by, across), [self.figure(each, by, across) for each in self.phrase.measures]


def _a_year_back(headings: Sequence[Heading], path: Path) -> Path | None:
    """The path one calendar year back; None where there is none, the same path where no heading carries the year."""
    found = []
    for heading, each in zip(headings, path, strict=False):
        dated = heading.part in YEARLY or (heading.part is None and heading.field == "D")
        if not dated:
            found.append(each)
        elif each is None or isinstance(each, Rest):
            return None
        elif heading.part == "year":
            found.append(each - 1)
        else:
            if heading.part is None and each.endswith("-02-29"):
                return None
            found.append(f"{int(each[:4]) - 1}{each[4:]}")
    return tuple(found)
