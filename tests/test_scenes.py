"""Every form, on any size, in any style: no two texts touch, nothing leaves the scene, every mark says its figure."""

from __future__ import annotations

import math
from functools import lru_cache
from pathlib import Path
from typing import get_args

import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from summula import demo
from summula.core.charts import draw
from summula.core.charts.chart import Canvas, SummaryLook, chart_of, drawn_as
from summula.core.charts.drawers import DRAWERS
from summula.core.charts.foliopicture import FolioPicture
from summula.core.charts.places import Bounds, bounds, mark_at
from summula.core.charts.scene import Box, Mark, Point, Scene, Text, Wedge
from summula.core.charts.settings import (
    BY_KEY,
    SETTINGS,
    Value,
    checked_chart,
    every_field,
    heeded,
    style_from,
    with_value,
)
from summula.core.charts.style import PLAIN_STYLE, ChartStyle
from summula.core.engine.axis import place_of
from summula.core.engine.grid import Grid
from summula.core.engine.samples import Ranges
from summula.core.phrases.fitting import suiting, why_not
from summula.core.phrases.forms import FORMS, NAMES, Form
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.tables.table import Table
from summula.core.theme.typefaces import text_width

_LONG = "The long way round by the skerries and the old light"


@lru_cache(maxsize=4)
def tables(seed: int) -> Table:
    """Made-up sailings: long names, blanks, both signs, huge and tiny figures, one member or many."""
    many = (1, 3, 9, 60)[seed]
    rows = 40 + 60 * seed
    frame = pl.DataFrame(
        {
            "Boat": [[_LONG, "Auk", "Tern", "Île d’Été"][at % 4] if seed % 2 else f"Boat {at % many}" for at in range(rows)],
            "Pier": [None if at % 11 == 3 else "NESW"[at * 7 % 4] for at in range(rows)],
            "On": [f"20{20 + at % (1 + seed * 3)}-{at % 12 + 1:02}-{at % 27 + 1:02}" for at in range(rows)],
            "Fee": [None if at % 13 == 5 else (at * 37 % 101 - (20 if seed in (1, 3) else 0)) * 10.0 ** (seed * 2) for at in range(rows)],
            "Cost": [(at * 17 % 23) / 7 for at in range(rows)],
        }
    )
    return table_from_frame("T", frame, {"Boat": "category", "Pier": "category"})


ASKED = (
    "show sum of Fee by Boat", "show sum of Fee and rows by Boat", "show rows by Boat across Pier", "show sum of Fee by Boat across Pier",
    "show sum of Cost by month of On across year of On", "show sum of Fee by year of On then month of On", "show mean of Fee by Boat across Pier",
    "show sum of Fee as share of column by Boat across Pier", "show sum of Fee against sum of Cost by Boat across Pier", "show sum of Fee",
    "show rows by Boat then Pier", "show sum of Fee by On", "show sum of Fee and sum of Cost and rows by Pier",
    "show each row of Fee across Pier", "show each row of Cost by Boat across Pier", "show each row of Fee against each row of Cost across Pier",
    "show rows by Boat where Fee is over 1e300", "show sum of Cost and rows against sum of Fee by Boat across Pier", "show sum of Fee by Pier across Boat",
    "show rows and sum of Cost and mean of Fee by Boat", "show rows by Cost in bands of 0.5 across Fee in bands of 50 from 0 to 1000",
    "show rows and sum of Cost and mean of Cost by Boat",
)  # fmt: skip


@lru_cache(maxsize=256)
def asked(seed: int, text: str, form: Form, each: str = "") -> Grid | None:
    """The answer in a form, or None where the phrase does not fit it."""
    table = tables(seed)
    if why_not(parse(text, Vocabulary(table)), form):
        return None
    return answer(parse(f"{text} drawn as {form}{each}", Vocabulary(table)), table)


def choice(key: str) -> st.SearchStrategy[Value]:
    setting = BY_KEY[key]
    match setting.editor:
        case "choice":
            return st.sampled_from([value for value, _ in setting.choices])
        case "flag":
            return st.booleans()
        case "number":
            if setting.high - setting.low < 10 and not setting.whole:
                return st.floats(setting.low, setting.high)
            numbers = st.integers(max(0, math.ceil(setting.low)) if math.isfinite(setting.low) else -100, 12)
            return st.one_of(st.none(), numbers) if setting.blank else numbers  # type: ignore[return-value]
        case "pattern":
            return st.sampled_from(["", "#,##0.00", "0.0%"])
        case "picture":
            return st.sampled_from(["", "g1", "gone"])
        case "text" | "lever":
            return st.sampled_from(["", "A note", _LONG * 3])


@st.composite
def styles(draw_: st.DrawFn) -> ChartStyle:
    style = PLAIN_STYLE
    for key in draw_(st.lists(st.sampled_from([each.key for each in SETTINGS]), max_size=5, unique=True)):
        style = with_value(style, key, draw_(choice(key)))
    try:
        return checked_chart(style)
    except Refusal:
        return PLAIN_STYLE


def placed(mark: Mark, x: float, y: float) -> Bounds:
    """Where a mark lies that its groups have moved."""
    own = bounds(mark, text_width)
    return Bounds(own.left + x, own.top + y, own.right + x, own.bottom + y)


def overlap(one: Bounds, other: Bounds) -> bool:
    """Whether two areas share more than a pixel either way."""
    across, down = min(one.right, other.right) - max(one.left, other.left), min(one.bottom, other.bottom) - max(one.top, other.top)
    return across > 1 and down > 1


def faults(scene: Scene, grid: Grid) -> list[str]:
    """What is wrong with a scene."""
    found = []
    texts = [(mark.text, placed(mark, x, y)) for mark, x, y in scene.flat() if isinstance(mark, Text)]
    for at, (text, area) in enumerate(texts):
        if area.left < -1 or area.top < -2 or area.right > scene.width + 1 or area.bottom > scene.height + 2:
            found.append(f"{text!r} leaves the scene: {area}")
        found += [f"{text!r} touches {other!r}" for other, its in texts[at + 1 :] if overlap(area, its)]
    for mark, x, y in scene.flat():
        area = placed(mark, x, y)
        if not all(math.isfinite(each) for each in area):
            found.append(f"{mark} is nowhere")
        elif not isinstance(mark, Text) and (
            area.left < -4 or area.top < -4 or area.right > scene.width + 4 or area.bottom > scene.height + 4
        ):
            found.append(f"{type(mark).__name__} leaves the scene: {area}")
        tag = mark.tag
        if tag is not None and tag.measure >= 0 and grid.samples is None:
            row, column = place_of(grid.rows, tag.members), place_of(grid.columns, tag.members_across)
            if row is None or column is None:
                found.append(f"{tag} is no cell")
            elif grid.figure(tag.measure, row, column) != tag.value and not math.isnan(tag.value):
                found.append(f"{tag} says another figure than {grid.figure(tag.measure, row, column)}")
    return found


SEA = FolioPicture("g1", "Sea", (Path(demo.__file__).parent / "sea.png").read_bytes())
FITTING = {form: [text for text in ASKED if not why_not(parse(text), form)] for form in NAMES}


@settings(max_examples=300)
@given(st.integers(0, 3), st.sampled_from(NAMES), styles(), st.data())
def test_every_form_on_any_size_in_any_style(seed: int, form: Form, style: ChartStyle, data: st.DataObject) -> None:
    text = data.draw(st.sampled_from(FITTING[form]))
    size = data.draw(st.sampled_from([(220, 140), (300, 190), (520, 300), (900, 220), (260, 700), (1280, 800), (2400, 1500)]))
    each = " for each Pier" if FORMS[form].multiples and "Pier" not in text and data.draw(st.booleans()) else ""
    grid = asked(seed, text, form, each)
    if grid is None:
        return
    ghost = asked(seed, f'{text} where Pier is not "N"', form, each) if "where" not in text and data.draw(st.booleans()) else None
    chart = chart_of(ghost or grid, tables(seed), SummaryLook(style=style, pictures=(SEA,)), grid if ghost else None)
    scene = draw(chart, Canvas(*size))
    assert scene.texts() or scene.tagged()
    assert faults(scene, ghost or grid) == []


def test_the_tables_name_the_same_forms_and_settings() -> None:
    assert list(FORMS) == list(NAMES) == list(get_args(Form)) and set(DRAWERS) == set(FORMS)
    assert {each.key for each in SETTINGS} == every_field()
    assert all(parse(f"show rows by a across b drawn as {name}").form == name for name in NAMES if FORMS[name].each_row != "must")
    for form, drawer in DRAWERS.items():
        assert drawer.glyph and all(any(each.key.startswith(heard) for each in SETTINGS) for heard in drawer.listens), form
        assert all(each.words and each.hint for each in heeded(form))


@pytest.mark.parametrize("form", [name for name in NAMES if FORMS[name].ghost])
def test_a_ghost_keeps_every_member_and_the_figures(form: Form) -> None:
    table = tables(1)
    words = Vocabulary(table)
    candidates = ("show rows by Boat", "show rows by Boat across Pier", "show each row of Fee by Boat", "show each row of Fee", *ASKED)
    text = next(each for each in candidates if not why_not(parse(each), form))
    whole = answer(parse(f"{text} drawn as {form}", words), table)
    part = answer(parse(f'{text} where Boat is not "Auk" drawn as {form}', words), table, before=whole)
    plain, ghosted = draw(chart_of(part), Canvas(600, 400)), draw(chart_of(part, ghost=whole), Canvas(600, 400))
    figures = {mark.tag.members: mark.tag.value for mark in ghosted.tagged() if mark.tag and not getattr(mark, "ghost", False)}
    assert figures == {mark.tag.members: mark.tag.value for mark in plain.tagged() if mark.tag}
    ghosts = sum(isinstance(mark, Box | Wedge) and mark.ghost for mark in ghosted.marks)
    if form == "waffle":
        assert ghosts == 25  # of four boats alike, the one without rows
    elif isinstance(plain.tagged()[0], Box | Wedge) and text == "show rows by Boat":
        assert ghosts == 4  # the one without rows, too
        inks = [{mark.ink.token for mark in scene.tagged() if isinstance(mark, Box | Wedge) and not mark.ghost} for scene in (plain, ghosted)]
        assert inks[0] == inks[1] and len(set(ghosted.texts()) & set(plain.texts())) >= 3  # its figures stay
    if form == "histogram":  # in the same ranges, each as high as all its rows before
        before, after = whole.samples, part.samples
        assert isinstance(before, Ranges) and isinstance(after, Ranges) and (before.edges == after.edges).all()
        assert (after.counts <= before.counts).all() and after.counts.sum() < before.counts.sum()
        high = [mark for mark in ghosted.marks if isinstance(mark, Box) and mark.ghost]
        assert len(high) == int((before.counts > 0).sum())
        tallest = max(high, key=lambda mark: mark.height)
        assert all(math.isclose(m.height / tallest.height, n / before.counts.max()) for m, n in zip(high, before.counts[before.counts > 0], strict=True))
        return
    if FORMS[form].purpose == "two figures":  # points without a name; each has one behind it
        assert sum(isinstance(mark, Point) and mark.ink.token in ("ghost", "shape") for mark in ghosted.marks) >= 4
        return
    if FORMS[form].purpose == "one figure":
        assert all("before slicing" in mark.tag.text for mark in ghosted.tagged() if mark.tag)
        return
    assert "Auk" in " ".join(ghosted.texts()) and "Auk" not in " ".join(plain.texts())


def test_figures_of_two_units_stand_on_scales_of_their_own() -> None:
    frame = pl.DataFrame({"Boat": ["Auk", "Tern"], "Fee": ["£100,000", "£250,000"], "Share": ["10%", "20%"]})
    table = table_from_frame("T", frame)
    words = Vocabulary(table)
    grid = answer(parse("show sum of Fee and rows by Boat drawn as columns", words), table)
    texts = draw(chart_of(grid), Canvas(600, 400)).texts()
    assert "£250k" in texts and any(text in ("1", "1.0") for text in texts) and {"Fee (£)", "rows"} <= set(texts)
    assert "Values with different units cannot be stacked" in " ".join(draw(chart_of(drawn_as(grid, "stacked columns")), Canvas(900, 400)).texts())
    three = answer(parse("show sum of Fee and rows and rows as share of all by Boat drawn as lines", words), table)
    assert "3 units need as many axes" in " ".join(draw(chart_of(three), Canvas(900, 400)).texts())


def test_styles_change_what_they_say() -> None:
    table = tables(2)
    words = Vocabulary(table)

    def scene(text: str, **said: Value) -> Scene:
        style = PLAIN_STYLE
        for key, value in said.items():
            style = with_value(style, key.replace("__", "."), value)
        return draw(chart_of(answer(parse(text, words), table), look=SummaryLook(style=style)), Canvas(700, 400))

    columns = "show rows by Pier drawn as columns"
    assert "Source: made up" in scene(columns, words__note="Source: made up").texts()
    assert {mark.ink.token for mark in scene(columns, colour__by="member").tagged() if isinstance(mark, Box)} >= {"series 0", "series 1"}
    strong = [mark.ink.strength for mark in scene(columns, emphasis__end="top", emphasis__number=1).tagged() if isinstance(mark, Box)]
    assert sorted(strong)[-1] == 1.0 and sorted(strong)[-2] < 0.5
    assert not any(text.isdigit() and int(text) < 60 and text != "0" for text in scene(columns, labels__show="none", scale__hidden=True).texts())
    ticks = scene("show rows by Pier drawn as lines", scale__low=10, scale__high=50, scale__step=20).texts()
    assert {"10", "30", "50"} & set(ticks) == {"30"} or {"20", "40"} <= set(ticks)
    assert any("%" in text for text in scene(columns, labels__says="share").texts())
    said = [scene(columns, labels__says="share", labels__least=least).texts() for least in (0.0, 25.0, 100.0)]
    shares = [{float(text[:-1]) for text in texts if text.endswith("%")} for texts in said]
    assert shares[1] == {each for each in shares[0] if each >= 25} and len(shares[1]) < len(shares[0]) and not shares[2]
    assert any(text.endswith(".00") for text in scene(columns, labels__pattern="#,##0.00").texts())
    above, below = scene(columns, scale__reversed=True), scene(columns)
    assert min(mark.y for mark in above.tagged() if isinstance(mark, Box)) < min(mark.y for mark in below.tagged() if isinstance(mark, Box))
    right = scene("show rows by Boat across Pier drawn as columns", legend__place="right")
    assert any(isinstance(mark, Text) and mark.text == "N" and mark.x > 500 for mark in right.marks)
    signed = chart_of(answer(parse("show min of Fee by Pier drawn as columns", words), tables(1)), look=SummaryLook(style=with_value(PLAIN_STYLE, "scale.log", True)))
    assert "cannot show zero or negative" in " ".join(draw(signed, Canvas(900, 400)).texts())
    with pytest.raises(Refusal, match="cannot be"):
        with_value(PLAIN_STYLE, "legend.place", "everywhere")
    with pytest.raises(Refusal, match="not a chart style"):
        style_from({"labels": {"show": 3}})
    assert style_from({"labels": {"show": "all"}}).labels.show == "all"


def test_inks_last_and_never_repeat() -> None:
    table = table_from_frame("T", pl.DataFrame({"Boat": [f"Boat {at:02}" for at in range(20)], "On": [f"{2004 + at}-05-01" for at in range(20)]}))
    words = Vocabulary(table)
    for text in ("show rows across Boat by On drawn as stacked columns", "show rows by month of On across year of On drawn as stacked columns"):
        text = text.replace("show rows across Boat by On", "show rows by On across Boat")
        scene = draw(chart_of(answer(parse(text, words), table)), Canvas(900, 500))
        inks = {mark.tag.members_across: mark.ink for mark in scene.tagged() if mark.tag and isinstance(mark, Box)}
        assert len(inks) == 20 and len({(ink.token, ink.strength) for ink in inks.values()}) == 20

    def years(last: int) -> dict[object, str]:
        made = table_from_frame("T", pl.DataFrame({"On": [f"{year}-05-01" for year in range(1998, last + 1)]}))
        scene = draw(chart_of(answer(parse("show rows by month of On across year of On drawn as columns"), made)), Canvas(900, 500))
        return {mark.tag.members_across: mark.ink.token for mark in scene.tagged() if mark.tag and isinstance(mark, Box)}

    before, after = years(2002), years(2004)
    assert before == {key: after[key] for key in before}


def test_what_suits_comes_first_and_marks_are_met() -> None:
    assert suiting(parse("show rows by month of On"))[:2] == ("grid", "lines") and suiting(parse("show rows by Boat"))[1] in ("columns", "bars")
    assert "box plot" in suiting(parse("show each row of Fee by Boat drawn as box plot"))
    scene = draw(chart_of(answer(parse("show rows by Pier across Boat drawn as areas"), tables(1))), Canvas(600, 400))
    point = scene.tagged()[0]
    met = mark_at(scene, point.x, point.y, text_width)  # type: ignore[union-attr]
    assert met is not None and met.tag == point.tag


def test_thousands_of_members_either_way_are_cut_or_refused_in_words() -> None:
    """A code that every row has its own of, dropped on the wrong place: never a picture of thousands of slivers."""
    rows = pl.DataFrame({"No": [f"N{at:05}" for at in range(9_000)], "Kind": ["a", "b", "c"] * 3_000, "Fee": [1.5] * 9_000})
    table = table_from_frame("Many", rows, {"No": "category"})
    for form, places in [(form, places) for form in FORMS for places in ("by Kind across No", "by No across Kind", "by No", "across No")]:
        phrase = parse(f"show sum of Fee {places} drawn as {form}", Vocabulary(table)) if not why_not_of(form, places, table) else None
        if phrase is None:
            continue
        scene = draw(chart_of(answer(phrase, table), table), Canvas(900, 600))
        assert len(list(scene.flat())) < 3_500
        if places == "by Kind across No" and form != "grid":
            assert any("keep the top few" in text for text in [" ".join(scene.texts())]), form


def why_not_of(form: Form, places: str, table: Table) -> str:
    return why_not(parse(f"show sum of Fee {places}", Vocabulary(table)), form)
