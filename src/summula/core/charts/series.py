"""A grid as series over categories: what columns, bars and lines are drawn from."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from functools import lru_cache
from typing import TYPE_CHECKING

import msgspec

from summula.core.arrays import np
from summula.core.charts.inks import MemberInk, member_ink, numbered
from summula.core.charts.scene import Ink, Pair, Saying, Tag
from summula.core.fields.heading import Member, Others
from summula.core.fields.labels import label_of
from summula.core.memory import Remembered
from summula.core.phrases.phrase import Aggregate, Measure, figures_shown

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.charts.chart import Chart
    from summula.core.engine.axis import Axis
    from summula.core.engine.grid import Grid
    from summula.core.fields.figures import FigureStyle
    from summula.core.grids.measurestyle import MeasureStyle


class Category(msgspec.Struct, frozen=True, gc=False):
    """A finest member along the by axis; `group` is the label of its enclosing members. `node` is -1 for one that only
    the ghost still has."""

    node: int
    path: tuple[Member, ...]
    label: str
    group: str
    pairs: tuple[Pair, ...] = ()  # the path's members, each with its heading
    total: bool = False  # of all members together

    @property
    def gathered(self) -> bool:
        return any(isinstance(member, Others) for member in self.path)

    @property
    def name(self) -> str:
        return f"{self.group} · {self.label}" if self.group else self.label


class Series(msgspec.Struct, frozen=True, gc=False):
    """A finest member across, of one measure. `as_line`: it is drawn as a line among other marks."""

    node: int
    measure: int
    path: tuple[Member, ...]
    label: str
    ink: Ink
    pairs: tuple[Pair, ...] = ()
    as_line: bool = False


_CATEGORIES: Remembered[int, tuple[Category, ...]] = Remembered("categories", most=2)  # of an axis, the first so many


def categories(grid: Grid, most: int | None = None) -> list[Category]:
    """The finest members of the rows, the first `most` of them."""
    axis, size = grid.rows, grid.rows.levels[grid.rows.depth].size
    asked = size if most is None else min(size, most)
    return list(_CATEGORIES.of(axis.memo, asked, lambda: tuple(_first_categories(axis, asked))))


def _first_categories(axis: Axis, most: int) -> Iterator[Category]:
    for node, named in enumerate(named_members(axis, np.arange(most))):
        yield Category(node, *named)


def named_members(
    axis: Axis, nodes: NDArray[np.intp]
) -> Iterator[tuple[tuple[Member, ...], str, str, tuple[Pair, ...]]]:
    """Of each finest node: its path, its label, its group's, and the path's members with their headings. A member's
    label and pair are made once, however many nodes it leads to; under one heading it leads to one."""
    codes_of = axis.levels[axis.depth].codes[nodes].tolist()
    if axis.depth == 1:
        heading, members = axis.headings[0], axis.members[0]
        for (code,) in codes_of:
            member = members[code]
            yield (member,), label_of(heading, member), "", ((heading, member),)
        return
    known: list[dict[int, tuple[Member, str, Pair]]] = [{} for _ in axis.headings]
    for codes in codes_of:
        found = []
        for heading, members, met, code in zip(axis.headings, axis.members, known, codes, strict=True):
            one = met.get(code)
            if one is None:
                member = members[code]
                one = met[code] = (member, label_of(heading, member), (heading, member))
            found.append(one)
        path, labels, own = zip(*found, strict=True) if found else ((), (), ())
        yield path, labels[-1] if labels else "All", " · ".join(labels[:-1]), own


_SERIES: Remembered[object, tuple[Series, ...]] = Remembered("series", most=8)  # of an axis, by measures and inks


def series_of(grid: Grid, own: tuple[MemberInk, ...] = ()) -> list[Series]:
    """The finest members across, by measure, in their inks (`own`: those that were given for good)."""
    return list(_SERIES.of(grid.columns.memo, (grid.phrase.measures, grid.names, own), lambda: _series(grid, own)))


def _series(grid: Grid, own: tuple[MemberInk, ...]) -> tuple[Series, ...]:
    axis = grid.columns
    several = len(grid.phrase.measures) > 1
    found: list[Series] = []
    for node in range(axis.levels[axis.depth].size):
        path = axis.path(axis.depth, node)
        labels = [label_of(h, m) for h, m in zip(axis.headings, path, strict=True)]
        for measure, each in enumerate(grid.phrase.measures):
            ink = numbered(len(found)) if several or not path else member_ink(axis, path[-1], own)
            name = [short_name(each, grid.names[measure])] if several or not labels else []
            found.append(Series(node, measure, path, " · ".join(labels + name), ink, pairs(axis, path)))
    return tuple(found)


@lru_cache(maxsize=256)
def short_name(measure: Measure, full: str) -> str:
    """A measure in as few words as say it: "Takings" for its sum."""
    calculation = measure.calculation
    if measure.name is None and isinstance(calculation, Aggregate):
        word = {"sum": "", "rows": "rows", "default": ""}.get(calculation.function, calculation.function)
        text = " ".join(part for part in (word, calculation.field or "") if part)
        return f"{text}, {measure.comparison.kind}" if measure.comparison else text
    return full


def column_name(grid: Grid, at: int) -> str:
    """A measure as a column's head: with its unit, or as a comparison of the figure before it."""
    measures, style = grid.phrase.measures, grid.styles[at]
    name = short_name(measures[at], grid.names[at])
    comparison = measures[at].comparison
    if comparison is not None and at and measures[at].name is None:
        name = comparison.kind if measures[at].calculation == measures[at - 1].calculation else name
    return f"{name} ({style.unit})" if style.unit else name


def value(grid: Grid, category: Category, series: Series) -> float:
    if category.node < 0 or series.node < 0:
        return math.nan
    return float(grid.values[grid.finest][series.measure, category.node, series.node])


def total_value(grid: Grid, series: Series) -> float:
    """A series' figure of all members together; NaN where the grid has no such series."""
    block = grid.values[0, grid.columns.depth]
    return float(block[series.measure, 0, series.node]) if 0 <= series.node < block.shape[2] else math.nan


def pairs(axis: Axis, path: tuple[Member, ...]) -> tuple[Pair, ...]:
    """The members of a path, each with its heading."""
    return tuple(zip(axis.headings, path, strict=False))


def tag(chart: Chart, category: Category, series: Series, figure: float, ghost: float = math.nan) -> Tag:
    """What the mark of one figure stands for."""
    return tagged(chart, series)(category, figure, ghost)


def tagged(chart: Chart, series: Series) -> Callable[[Category, float, float], Tag]:
    """What the marks of a series stand for: a tag of a category, its figure, and what it was before slicing."""
    grid, style, words, across, at = (
        chart.grid, chart.styles[series.measure], chart.ghost_words, series.pairs, series.measure
    )  # fmt: skip
    name = short_name(grid.phrase.measures[at], grid.names[at])
    after = f" · {series.label}" if series.path else ""

    def of(category: Category, figure: float, ghost: float) -> Tag:
        said = Saying(name, style, figure, ghost, words)
        return Tag(category.pairs, across, at, figure, category.name + after, said)

    return of


def ghost_tag(chart: Chart, category: Category, series: Series, before: float) -> Tag:
    """What a mark of the whole stands for, where the part has none: its members, and no figure of the grid."""
    name, style = short_name(chart.grid.phrase.measures[series.measure], ""), chart.styles[series.measure]
    title = f"{category.name} · {series.label}" if series.path else category.name
    said = f"{name} {chart.ghost_words} {style.text(before, unit=True)}".strip()
    return Tag(category.pairs, series.pairs, -1, before, title, said)


def short_label(category: Category) -> str:
    """A member's name where there is little room: a band by its limits alone."""
    return band_label(category.label, category.pairs)


def band_label(label: str, path: tuple[Pair, ...]) -> str:
    if not path or path[-1][0].bands is None:
        return label
    return label.replace(" to under ", "–").replace(" and over", "+").replace("under ", "< ")


def name_tag(category: Category) -> Tag:
    """What the name of a member stands for: the member, and no figure."""
    return Tag(category.pairs, (), -1, math.nan, category.name, "")


def head_name(grid: Grid, measure: int, own: MeasureStyle, style: FigureStyle) -> str:
    """The measure's name; its unit and scale are said here, once."""
    name = column_name(grid, measure)
    if style.unit != grid.styles[measure].unit:
        name = f"{name.removesuffix(f' ({grid.styles[measure].unit})')} ({style.unit})"
    if style.scale == 1.0:
        return name
    return f"{name[:-1]} {own.scale})" if name.endswith(f"({style.unit})") and style.unit else f"{name} ({own.scale})"


def field_of(grid: Grid, measure: int) -> str:
    """The field whose values themselves a measure shows."""
    calculation = figures_shown(grid.phrase)[measure].calculation
    return (calculation.field or "") if isinstance(calculation, Aggregate) else ""


def figure_name(grid: Grid, measure: int) -> str:
    """A measure as an axis is named: "each row" goes without saying."""
    return column_name(grid, measure).removeprefix("each row ")
