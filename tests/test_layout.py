"""How a grid is laid out: lines and columns against a plain walk of the tree; members kept, moved, looked into."""

from __future__ import annotations

import io
from collections.abc import Iterator

import msgspec
import numpy as np
import openpyxl
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from summula.core.engine.grid import Grid
from summula.core.fields.heading import Heading, Others
from summula.core.grids.layout import Layout
from summula.core.grids.lines import columns_of, figure_at, path_labels, rows_of
from summula.core.grids.records import laid_out
from summula.core.handout.markdown import markdown_text
from summula.core.handout.workbook import workbook_bytes
from summula.core.phrases.members import DrillStep, deeper, looked_back, looked_into, moved, next_way, with_members
from summula.core.reading.readers import table_from_frame
from summula.core.summaries import Phrase, Vocabulary, answer, parse, print_phrase
from summula.core.tables.table import Table

FIELDS = ("a", "b", "c")
records = st.lists(
    st.fixed_dictionaries(
        {
            "a": st.sampled_from(["x", "y", "z", None]),
            "b": st.sampled_from(["p", "q"]),
            "c": st.sampled_from(["k", "l", "m"]),
            "n": st.integers(-5, 5),
        }
    ),
    max_size=14,
)
layouts = st.builds(
    Layout,
    st.sampled_from(["above", "below"]), st.sampled_from(["below", "above"]), st.sampled_from(["after", "before"]),
    measures=st.sampled_from(["columns", "rows"]),
)  # fmt: skip


def table_of(rows: list[dict[str, object]]) -> Table:
    schema = {"a": pl.String, "b": pl.String, "c": pl.String, "n": pl.Int64}
    return table_from_frame("T", pl.DataFrame(rows, schema=schema), dict.fromkeys(FIELDS, "category") | {"n": "number"})


def walked(
    grid: Grid, columns: bool, folded: frozenset[tuple[str, ...]], above: bool, bottom_first: bool, heads: bool
) -> Iterator[tuple[int, int, str]]:
    """The nodes as a person would write them down: (level, node, how it stands)."""
    axis, phrase = (grid.columns if columns else grid.rows), grid.phrase

    def below(level: int, node: int) -> Iterator[tuple[int, int, str]]:
        if level == axis.depth:
            yield level, node, "ahead"
            return
        if level and path_labels(axis, level, node) in folded:
            yield level, node, "folded"
            return
        total = level > 0 and phrase.subtotals
        if total and above:
            yield level, node, "ahead"
        elif level and heads:
            yield level, node, "head"
        for child in axis.children(level, node):
            yield from below(level + 1, int(child))
        if total and not above:
            yield level, node, "behind"

    if axis.depth == 0:
        yield 0, 0, "ahead"
        return
    if phrase.totals and bottom_first:
        yield 0, 0, "bottom"
    yield from below(0, 0)
    if phrase.totals and not bottom_first:
        yield 0, 0, "bottom"


@given(records, layouts, st.permutations(FIELDS), st.integers(0, 3), st.booleans(), st.booleans(), st.booleans(), st.data())
def test_lines_and_columns_stand_as_the_tree_is_walked(
    rows: list[dict[str, object]], layout: Layout, fields: list[str], by: int, subtotals: bool, totals: bool,
    every: bool, data: st.DataObject,
) -> None:  # fmt: skip
    text = "show rows and sum of n"
    phrase = msgspec.structs.replace(
        parse(text),
        by=tuple(Heading(name) for name in fields[:by]), across=tuple(Heading(name) for name in fields[by:]),
        subtotals=subtotals, totals=totals, every_member=every,
    )  # fmt: skip
    grid = answer(phrase, table_of(rows))
    folded = {}
    for axis in (grid.rows, grid.columns):
        paths = [path_labels(axis, level, node) for level in range(1, axis.depth) for node in range(axis.levels[level].size)]
        folded[axis] = frozenset(data.draw(st.sets(st.sampled_from(paths)))) if paths else frozenset()
    lines = rows_of(grid, layout, folded[grid.rows], heads=True)
    expected = []
    for level, node, how in walked(
        grid, False, folded[grid.rows], layout.subtotals == "above", layout.bottom == "above", True
    ):
        measures = range(2) if layout.measures == "rows" and how != "head" else range(1)
        expected += [(level, node, how != "head", how == "folded", at == 0) for at in measures]
    assert [(each.level, each.node, each.figures, each.folded, each.first) for each in lines] == expected
    assert len(lines) == len(expected) and [lines[at] for at in range(len(lines))] == list(lines)
    before = layout.across == "before"
    places = [(level, node) for level, node, _ in walked(grid, True, folded[grid.columns], before, before, False)]
    wanted = [place for place in places for _ in range(1 if layout.measures == "rows" else 2)]
    columns = columns_of(grid, layout, folded[grid.columns])
    assert [each.place for each in columns] == wanted
    # What is written down holds the same figures, whichever way it is laid out.
    exact = laid_out(grid, exact=True, layout=layout)
    assert len({len(line) for line in exact}) == 1
    figures = sorted(float(text) for line in exact for text in line if text.lstrip("-").replace(".", "").isdigit())
    if not folded[grid.rows] and not folded[grid.columns]:
        shown = [figure_at(grid, line, column) for line in lines for column in columns]
        assert figures == sorted(each for each in shown if not np.isnan(each))


ROUTES = table_from_frame(
    "T",
    pl.DataFrame(
        {
            "Route": ["Osk", "Osk", "Hesta", "Vaila", "Vaila", None],
            "Boat": ["Tern", "Gull", "Gull", "Skua", "Tern", "Skua"],
            "Year": ["2024", "2025", "2024", "2024", "2025", "2025"],
            "Paid": [10.5, 2.25, 3.0, -4.0, 5.0, 1.0],
        }
    ),
    {"Year": "category"},
)
NESTED = "show sum of Paid and rows by Route then Boat across Year"


def asked(text: str, layout: Layout) -> list[list[str]]:
    return laid_out(answer(parse(text, Vocabulary(ROUTES)), ROUTES), exact=True, layout=layout)


def test_totals_below_renamed_and_measures_as_lines() -> None:
    below = asked(NESTED, Layout(subtotals="below", bottom_name="Net", subtotal_name="Sum", across_name="Both"))
    assert [line[:2] for line in below[2:6]] == [["Hesta", "Gull"], ["Hesta", "Sum"], ["Osk", "Gull"], ["Osk", "Tern"]]
    assert below[-1][:2] == ["Net", ""] and below[0][-1] == "Both"
    assert asked(NESTED, Layout(bottom="above"))[2][:2] == ["All", ""]
    lines = asked(NESTED, Layout(measures="rows"))
    assert lines[0][:4] == ["Year", "", "", "2024"] and lines[1][:3] == ["Route", "Boat", "Measure"]
    assert [line[2] for line in lines[2:6]] == ["sum of Paid", "rows"] * 2
    assert lines[-2][2:] == ["sum of Paid", "9.5", "8.25", "17.75"] and lines[-1][2:] == ["rows", "3", "3", "6"]
    before = asked("show sum of Paid by Boat across Year", Layout(across="before"))
    assert before[0] == ["Year", "All", "2024", "2025"]


def test_sheets_and_markdown_follow_the_layout() -> None:
    grid = answer(parse(NESTED, Vocabulary(ROUTES)), ROUTES)
    layout = Layout(subtotals="below", measures="rows", bottom_name="Net")
    sheet = openpyxl.load_workbook(io.BytesIO(workbook_bytes(grid, "T", "show", (), layout))).active
    assert sheet is not None
    cells = [[cell.value for cell in row] for row in sheet.iter_rows(min_row=4)]
    assert cells[1][:3] == ["Route", "Boat", "Measure"] and sheet.freeze_panes == "D6"
    assert cells[-2] == ["Net", "", "sum of Paid", 9.5, 8.25, 17.75]
    rows = laid_out(grid, exact=False, layout=layout)
    assert markdown_text(rows, 3).count("\n") == len(rows) + 1


def phrase_of(text: str) -> Phrase:
    return parse(text, Vocabulary(ROUTES))


def test_members_are_kept_left_out_and_moved() -> None:
    base, route = phrase_of("show rows by Route"), Heading("Route")

    def after(changed: Phrase | None) -> str:
        assert changed is not None
        return print_phrase(changed)

    assert after(with_members(base, route, ["Osk", "Vaila"], only=True)).endswith("where Route is Osk or Vaila")
    one = with_members(base, route, ["Osk", "Vaila"], only=True)
    assert one is not None and after(with_members(one, route, ["Osk"], only=True)).endswith("where Route is Osk")
    less = with_members(base, route, ["Osk", None], only=False)
    assert after(less).endswith("where Route is not Osk and Route is not blank")
    assert less is not None and after(with_members(less, route, ["Vaila"], only=False)).count("is not Osk or Vaila") == 1
    assert with_members(base, route, ["Osk", None], only=True) is None
    assert with_members(base, route, [Others(3)], only=True) is None
    bands = phrase_of("show rows by Paid in bands at 0, 5, 10")
    grid = answer(bands, ROUTES)
    low, *rest = [grid.rows.path(1, node)[0] for node in range(grid.rows.levels[1].size)]
    assert after(with_members(bands, bands.by[0], rest[:2], only=True)).endswith("where Paid is at least 0 and Paid is under 10")
    assert after(with_members(bands, bands.by[0], [low], only=True)).endswith("where Paid is under 0")
    assert with_members(bands, bands.by[0], [low, rest[-1]], only=True) is None
    shown = ["Hesta", "Osk", "Vaila", None]
    assert after(moved(base, route, shown, shown, "Vaila", "Hesta", after=False)).endswith("ordered Route as Vaila")
    assert after(moved(base, route, shown, shown, "Hesta", None, after=True)).endswith("ordered Route as Osk, Vaila")
    assert moved(base, route, shown, shown, None, "Osk", after=True) is None
    back = moved(base, route, shown, ["Vaila", "Hesta", "Osk", None], "Vaila", "Osk", after=True)
    assert back is not None and back.order is None  # as it was: nothing to say
    many = [f"m{n:04d}" for n in range(3000)]
    assert moved(base, route, many, many, "m0000", "m2999", after=True) is None
    first = moved(base, route, many, many, "m2999", "m0000", after=False)
    assert first is not None and first.order is not None and first.order.sequence == ("m2999",)


@pytest.mark.parametrize(
    "text",
    [
        "show rows by Route", "show rows by Route then Boat", "show rows by Boat across Route where Route is Osk or Hesta",
        "show sum of Paid by Route keeping top 2 Route by rows", "show rows by Route ordered Route backwards",
    ],
)  # fmt: skip
def test_a_step_into_a_member_is_taken_back_whatever_changed_since(text: str) -> None:
    start = phrase_of(text)
    by = deeper(start, ROUTES, Heading("Route"))[0]
    found = looked_into(start, Heading("Route"), "Osk", "Osk", by)
    assert found is not None
    inside, way = found
    assert Heading("Route") not in (*inside.by, *inside.across) and by in (*inside.by, *inside.across)
    assert answer(inside, ROUTES).rows_used == 2
    back = looked_back(inside, way)
    same = msgspec.structs.replace(start, by=start.by, across=start.across)
    if by not in (*start.by, *start.across):
        assert back == same
    edited = msgspec.structs.replace(inside, totals=False)
    assert not looked_back(edited, way).totals and Heading("Route") in (*back.by, *back.across)
    assert isinstance(way, DrillStep) and looked_into(start, Heading("Route"), Others(2), "2 others", by) is None


def test_the_path_a_person_has_laid_comes_first() -> None:
    phrase, route, boat, year = phrase_of("show rows by Route"), Heading("Route"), Heading("Boat"), Heading("Year")
    assert next_way(phrase, ROUTES, route, ()) == boat
    assert next_way(phrase, ROUTES, route, (route, year, boat)) == year
    assert next_way(phrase, ROUTES, route, (year,)) == year
    assert next_way(phrase_of("show rows by Year"), ROUTES, year, (route, year)) is None
    assert next_way(phrase, ROUTES, route, (Heading("Gone"), boat)) == boat


@given(st.permutations(list("abcdef")), st.sampled_from("abcdef"), st.sampled_from("abcdef"), st.booleans())
def test_an_order_made_by_hand_is_the_one_that_is_shown(shown: list[str], member: str, anchor: str, after: bool) -> None:
    """However few members are listed, all stand where the hand left them."""
    table = table_from_frame("T", pl.DataFrame({"w": list("abcdef")}))
    phrase = parse("show rows by w")
    changed = moved(phrase, Heading("w"), list("abcdef"), shown, member, anchor, after=after)
    if member == anchor:
        assert changed is None
        return
    assert changed is not None
    wanted = [each for each in shown if each != member]
    wanted.insert(wanted.index(anchor) + after, member)
    grid = answer(changed, table)
    assert [grid.rows.path(1, node)[0] for node in range(6)] == wanted
