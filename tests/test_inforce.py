"""What is in force beside a setting that nobody changed: as the drawn chart shows it."""

from __future__ import annotations

import pytest
from PyQt6.QtWidgets import QPushButton

from summula.core.charts.chart import Canvas, SummaryLook, chart_of
from summula.core.charts.drawers import draw
from summula.core.charts.inforce import in_force, seen_in
from summula.core.charts.inks import MemberInk, member_ink
from summula.core.charts.settings import heeded, with_value
from summula.core.charts.style import PLAIN_STYLE
from summula.core.folio.opened import Opened
from summula.core.phrases.forms import FORMS
from summula.core.summaries import Vocabulary, answer, parse
from summula.desk.widgets.stylepopover import StylePopover
from summula.desk.window import Window
from tests.hands import margin_of, settled, shown


def told(demo: Opened, phrase: str, group: str, **style: object) -> str:
    table, look = demo.tables["t1"], PLAIN_STYLE
    for key, value in style.items():
        look = with_value(look, key.replace("__", "."), value)  # type: ignore[arg-type]
    asked = parse(phrase, Vocabulary(table))
    scene = draw(chart_of(answer(asked, table), table, SummaryLook(style=look)), Canvas(900, 500))
    return in_force(group, [each for each in heeded(asked.form) if each.group == group], seen_in(scene))


BARS = "show sum of Takings by Vessel drawn as columns"
STACKS = "show sum of Takings by Vessel across Ticket drawn as stacked columns"


@pytest.mark.parametrize(
    ("phrase", "group", "expected"),
    [(BARS, "Axis", "£0 to £1.6m"), (BARS, "Colour", "single colour"), ("show sum of Takings by Vessel across quarter of \"Sailed on\" drawn as stacked columns", "Colour", "4 colours"), (STACKS, "Legend", "top"),
     (BARS, "Legend", "none"), (BARS, "Titles", "none"), (BARS, "Highlight", "none"), (BARS, "Reference line", "none"), (BARS, "Picture", "none"),
     (BARS, "Value labels", "on all marks"), ("show sum of Takings by Vessel drawn as ring", "Ring", "hole size 0.6"),
     ("show sum of Takings against sum of Passengers by Vessel drawn as scatter", "Titles", "Takings (£), Passengers")],
)  # fmt: skip
def test_what_is_in_force_is_what_is_drawn(phrase: str, group: str, expected: str, demo: Opened) -> None:
    assert told(demo, phrase, group) == expected


def test_it_follows_the_chart(demo: Opened) -> None:
    assert told(demo, STACKS, "Legend", legend__place="right") == "right"
    assert told(demo, BARS, "Axis", scale__hidden=True) == "hidden"


@pytest.mark.parametrize("form", FORMS)
def test_no_setting_says_nothing(form: str) -> None:
    for group in {each.group for each in heeded(form)}:  # type: ignore[arg-type]
        words = in_force(group, [each for each in heeded(form) if each.group == group], None)  # type: ignore[arg-type]
        assert words.strip() and "suits" not in words and "automatic" not in words


def test_a_changed_setting_stands_out_and_is_reset(on_demo: Window) -> None:
    page = shown(on_demo, STACKS)

    def button(name: str) -> QPushButton:
        settled()
        return next(b for b in margin_of(on_demo).findChildren(QPushButton) if b.accessibleName().startswith(f"{name}:"))

    assert button("Legend").text() == "top ▾" and button("Legend").property("by_default") == "True"
    page.summary_margin.set_style("Legend", page.margin)
    popover = page.popover
    assert isinstance(popover, StylePopover) and not [b for b in popover.findChildren(QPushButton) if b.text().startswith("Reset")]
    popover.close()
    assert page.summary is not None
    page.summary_margin._restyle(page.summary.id, with_value(page.summary.style, "legend.place", "right"), "legend.place", False)
    assert button("Legend").text() == "right ▾" and button("Legend").property("by_default") == "False"
    page.summary_margin.set_style("Legend", page.margin)
    assert isinstance(page.popover, StylePopover)
    next(b for b in page.popover.findChildren(QPushButton) if b.text() == "Reset legend").click()
    assert button("Legend").text() == "top ▾" and page.summary.style == PLAIN_STYLE


@pytest.mark.parametrize("given", [{"Day return": 0}, {"Day return": 0, "Bicycle": 3}, {"Vehicle": 1, "Child": 2, "Single": 5}])
def test_no_two_members_share_an_ink_where_one_was_given_another(given: dict[str, int], demo: Opened) -> None:
    """Who had the ink before takes the one that is free now; nobody else's changes."""
    table, asked = demo.tables["t1"], "show sum of Takings by Vessel across Ticket drawn as stacked columns"
    grid = answer(parse(asked, Vocabulary(table)), table)
    own = tuple(MemberInk("Ticket", member, ink) for member, ink in given.items())

    def inks(own: tuple[MemberInk, ...]) -> dict[str, str]:
        return {str(member): member_ink(grid.columns, member, own).token for member in grid.columns.members[-1] if member is not None}

    before, now = inks(()), inks(own)
    assert len(set(now.values())) == len(now) and all(now[member] == f"series {ink}" for member, ink in given.items())
    assert sum(before[member] != now[member] for member in now) <= 2 * len(given)
