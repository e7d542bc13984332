"""Names and figures beside, on and below marks: inside what they stand on, told apart, at the beginnings of periods."""

from __future__ import annotations

import datetime as dt
import math
from itertools import pairwise

import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PyQt6.QtGui import QColor, QImage, QPainter
from pytestqt.qtbot import QtBot

from summula.core.charts import draw
from summula.core.charts.chart import Canvas, SummaryLook, chart_of
from summula.core.charts.places import on_circle, room_in_slice, text_bounds
from summula.core.charts.scene import Box, Ink, Point, Scene, Text, Wedge, fitted_name
from summula.core.charts.style import PLAIN_STYLE
from summula.core.reading.readers import table_from_frame
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.tables.table import Table
from summula.core.theme.typefaces import text_width
from summula.desk.widgets.painter import paint_marks

LONG = "Aldry – Fenholm by way of the outer skerries"
ROUTES = pl.DataFrame({
    "Route": [LONG] * 40 + ["Osk – Vaila in winter"] * 25 + ["Fenholm – Osk"] * 20 + ["Vaila"] * 10 + ["Holm"] * 3,
    "Vessel": (["Tern", "Gull", "A vessel of a very long name"] * 33)[:98], "Fare": [float(at % 13 - 3) for at in range(98)],
})  # fmt: skip


def drawn(table: Table, text: str, size: tuple[float, float], *, before: str = "", **labels: str) -> Scene:
    def told(phrase: str) -> object:
        return answer(parse(phrase, Vocabulary(table)), table)

    look = SummaryLook(style=replace(PLAIN_STYLE, labels=replace(PLAIN_STYLE.labels, **labels)))
    return draw(chart_of(told(text), table, look, told(before) if before else None), Canvas(*size))  # type: ignore[arg-type]


def in_slice(x: float, y: float, start: float, stop: float, inner: float, outer: float) -> bool:
    after = (math.atan2(x, -y) / (2 * math.pi) - start + 1e-7) % 1.0
    return inner - 1e-6 <= math.hypot(x, y) <= outer + 1e-6 and (stop - start >= 1 or after <= stop - start + 2e-7)


@settings(max_examples=300, deadline=None)
@given(
    st.floats(0, 1), st.one_of(st.floats(0.01, 0.99), st.just(1.0)), st.floats(15, 200), st.floats(0, 0.8), st.floats(0.2, 0.9)
)
def test_a_text_as_wide_as_its_room_lies_in_its_slice(start: float, turns: float, outer: float, hole: float, at: float) -> None:
    stop, inner = start + turns, outer * hole
    middle = inner + (outer - inner) * at
    wide = room_in_slice(start, stop, inner, outer, middle, 5.5)
    x, y = on_circle(0.0, 0.0, middle, (start + stop) / 2)

    def lies(wide: float) -> bool:
        return all(
            in_slice(x + wide * (part / 40 - 0.5), y + down, start, stop, inner, outer)
            for part in range(41) for down in (-5.5, 0.0, 5.5)
        )  # fmt: skip

    assert lies(wide * 0.999) if wide > 0 else not lies(0.0)
    assert wide <= 0 or not lies(wide + 1.0)


@pytest.mark.parametrize("form", ["pie", "ring"])
@pytest.mark.parametrize("before", ["", "show rows by Route"])
def test_figures_on_slices_stay_on_them(form: str, before: str) -> None:
    table, met = table_from_frame("Crossings", ROUTES), 0
    narrowed = ' where Vessel is "Tern" or "Gull"' if before else ""
    for size in range(120, 480, 12):
        for says in ("", "name share", "name value share"):
            scene = drawn(
                table, f"show rows by Route{narrowed} drawn as {form}", (size, size), before=before, place="inside", says=says
            )
            slices = [mark for mark in scene.marks if isinstance(mark, Wedge)]
            for mark in scene.marks:
                if isinstance(mark, Text) and mark.part == "Value labels":
                    met += 1
                    half = text_width(mark.text, mark.size, mark.weight) / 2
                    corners = [(mark.x + side, mark.y - 4 + down) for side in (-half, half) for down in (-5, 5)]
                    assert any(
                        all(in_slice(x - s.x, y - s.y, s.start, s.stop, s.inner, s.outer) for x, y in corners) for s in slices
                    ), (size, mark)
    assert met > 40


@given(st.lists(st.text("abc ØW–", min_size=1, max_size=40), min_size=1, max_size=3), st.floats(30, 300))
def test_a_name_cut_within_its_room_still_tells_the_last_member(names: list[str], room: float) -> None:
    cut = fitted_name(" · ".join(names), room, 11, 400, text_width)
    assert cut == "…" or text_width(cut, 11, 400) <= room + 1e-6
    last = names[-1].strip()
    if last and text_width(names[-1], 11, 400) <= room * 0.6:
        assert cut.rstrip().endswith(last)


def test_names_alike_in_their_beginning_stay_apart() -> None:
    table = table_from_frame("Crossings", ROUTES)
    scene = drawn(table, "show rows by Route then Vessel drawn as bars", (320, 400))
    names = [mark.text for mark in scene.marks if isinstance(mark, Text) and mark.part == "Members"]
    assert len(names) > 10 and len(set(names)) == len(names)
    scene = drawn(table, "show sum of Fare and rows by Route drawn as scatter", (360, 260))
    said = [mark.full or mark.text for mark in scene.marks if isinstance(mark, Text)]
    assert LONG in said  # cut, rather than not told at all
    points = [text_bounds(mark, text_width) for mark in scene.marks if isinstance(mark, Text) and mark.optional]
    assert all(place.right <= 360 and place.bottom <= 260 for place in points)
    # What is free in a line of the legend goes to the names in it.
    scene = drawn(table, 'show rows by Vessel across Route where Route is not "Vaila" drawn as stacked columns', (420, 300))
    legend = [mark for mark in scene.marks if isinstance(mark, Text) and mark.part == "Legend"]
    alone = next(mark for mark in legend if mark.full == LONG)
    assert text_width(alone.text, 11, 400) > 150 or len({mark.y for mark in legend}) == 1


@pytest.mark.parametrize("form", ["bars", "columns", "dots", "lines"])
@pytest.mark.parametrize("total", [False, True])
@pytest.mark.parametrize("high", [150, 420])
def test_shares_on_marks_are_of_all_members(form: str, total: bool, high: float) -> None:
    """Also where some of them have no room, and one more mark stands for all together."""
    frame = pl.DataFrame({"Pier": [f"P{at:02}" for at in range(12) for _ in range(at + 1)], "Fare": [1.5 + at for at in range(78)]})
    table, own = table_from_frame("Crossings", frame), {f"P{at:02}": (at + 1) / 78 for at in range(12)}
    style = replace(PLAIN_STYLE, total=replace(PLAIN_STYLE.total, shown=total))
    look = SummaryLook(style=replace(style, labels=replace(style.labels, show="all", says="share")))
    chart = chart_of(answer(parse(f"show rows by Pier drawn as {form}", Vocabulary(table)), table), table, look)
    scene = draw(chart, Canvas(700, high))
    said = [mark.text for mark in scene.marks if isinstance(mark, Text) and mark.text.endswith("%")]
    shares = {f"{share:.1%}" for share in own.values()} | {f"{share:.0%}" for share in own.values()}
    assert len(said) > 3 and set(said) <= shares | {"100.0%", "100%"}
    assert (form == "lines" or not total) or {"100.0%", "100%"} & set(said)
    # Means are parts of nothing: they say what they are.
    means = chart_of(answer(parse(f"show mean of Fare by Pier drawn as {form}", Vocabulary(table)), table), table, look)
    assert not [mark for mark in draw(means, Canvas(700, high)).marks if isinstance(mark, Text) and "%" in mark.text]
    # The highest is one of the members, not all of them together.
    ends = replace(look, style=replace(look.style, labels=replace(look.style.labels, show="ends", says="")))
    scene = draw(replace(chart, look=ends), Canvas(700, 420))
    said = [mark.text for mark in scene.marks if isinstance(mark, Text) and mark.part != "Axis"]
    assert said.count("12") == 1 and (form != "columns" or "78" not in said)


@settings(max_examples=60, deadline=None)
@given(st.dates(dt.date(1990, 1, 1), dt.date(2020, 1, 1)), st.integers(14, 140), st.integers(300, 900))
def test_names_of_months_stand_at_beginnings(first: dt.date, months: int, wide: int) -> None:
    count = first.year * 12 + first.month - 1
    days = [dt.date((count + at) // 12, (count + at) % 12 + 1, 1) for at in range(months)]
    table = table_from_frame("Crossings", pl.DataFrame({"Day": days, "V": [at % 7 + 0.5 for at in range(months)]}))
    scene = drawn(table, "show sum of V by year-month of Day drawn as columns", (wide, 240))
    said = [dt.datetime.strptime(mark.text, "%b %Y") for mark in scene.marks if isinstance(mark, Text) and mark.part == "Members"]
    assert len(said) > 1 and said == sorted(said)
    apart = {(b.year - a.year) * 12 + b.month - a.month for a, b in pairwise(said[1:])}
    assert len(apart) <= 1  # evenly, but for the first, which may be the rest of a period
    step = apart.pop() if apart else 12
    assert all((each.year * 12 + each.month - 1) % step == 0 for each in said[1:])


def test_every_column_leaves_ink_however_thin(qtbot: QtBot) -> None:
    """Sharp edges are rounded to whole pixels: what is thinner must not be rounded away."""
    image = QImage(200, 40, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    boxes = tuple(Box(at * 0.93 + 0.2, 5, 0.4, 30, Ink("ink")) for at in range(200))
    flat = Box(0, 38.4, 200, 0.5, Ink("ink"))
    paint_marks(painter, (*boxes, flat))
    painter.end()
    white = QColor("white").rgb()
    bare = [x for x in range(1, 184) if image.pixel(x, 20) == image.pixel(x + 1, 20) == white]
    assert not bare and any(image.pixel(100, y) != white for y in (37, 38, 39))


@pytest.mark.parametrize("form", ["bars", "dots"])
def test_what_is_told_of_all_members_does_not_change_with_the_room(form: str) -> None:
    """A mean, the largest few, inks by size: of all members, also where some have no room; never of their total."""
    frame = pl.DataFrame({"Pier": [f"P{at:02}" for at in range(30) for _ in range(at % 11 + at // 9 + 1)]})
    table = table_from_frame("Crossings", frame)
    grid = answer(parse(f"show rows by Pier drawn as {form}", Vocabulary(table)), table)
    own = [float(each) for each in grid.values[grid.finest][0, :, 0]]
    largest = {f"P{at:02}" for at in sorted(range(30), key=lambda at: -own[at])[:5]}
    style = replace(
        PLAIN_STYLE, reference=replace(PLAIN_STYLE.reference, at="mean"), emphasis=replace(PLAIN_STYLE.emphasis, end="top", number=5),
        total=replace(PLAIN_STYLE.total, shown=True), colour=replace(PLAIN_STYLE.colour, by="size"),
    )  # fmt: skip
    inks: dict[str, set[Ink]] = {}
    for high in (200, 320, 900):
        scene = draw(chart_of(grid, table, SummaryLook(style=style)), Canvas(600, high))
        texts = [mark for mark in scene.marks if isinstance(mark, Text)]
        said = next(mark.full for mark in texts if mark.full.startswith("mean"))
        assert float(said.split()[1]) == pytest.approx(sum(own) / 30, abs=0.05)
        strong = {mark.text for mark in texts if mark.part == "Members" and mark.weight == 500 and mark.text.startswith("P")}
        shown = {mark.text for mark in texts if mark.part == "Members"}
        assert strong == largest & shown
        for mark in scene.tagged():
            if mark.tag is not None and mark.tag.by and isinstance(mark, Box | Point):
                inks.setdefault(str(mark.tag.by[-1][1]), set()).add(mark.ink)
    assert len(inks) == 30 and all(len(each) == 1 for each in inks.values()) and len({ink for each in inks.values() for ink in each}) > 4


def test_blanks_alone_are_told() -> None:
    frame = pl.DataFrame({"Pier": ["A", "B", "A"], "Fare": pl.Series([None, None, None], dtype=pl.Float64)})
    table = table_from_frame("Crossings", frame, {"Fare": "number"})
    for form in ("columns", "bars", "lines", "dots", "stacked columns across Pier", "heat grid across Pier"):
        name, _, across = form.partition(" across ")
        text = f"show mean of Fare by Pier{' across Pier' if across else ''} drawn as {name}"
        if name == "stacked columns":
            text = text.replace("mean", "sum")
        scene = drawn(table, text, (400, 240))
        assert [mark.text for mark in scene.marks if isinstance(mark, Text)] == ["No data: all values are blank"], text
