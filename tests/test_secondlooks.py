"""Second looks at an answer: each where it belongs, and only there; its remedy does what it says."""

from __future__ import annotations

import pytest

from summula.core.folio import Opened
from summula.core.secondlook import mended, summary_looks
from summula.core.summaries import Vocabulary, answer, parse, print_phrase
from summula.desk.window import Window
from tests.test_preparing import click
from tests.test_window import on_demo, window  # noqa: F401  fixtures, used by their names


@pytest.mark.parametrize(
    ("text", "deed", "told", "after"),
    [
        ('show sum of Takings by month of "Sailed on" across year of "Sailed on"', "without last period", "part-way",
         'show sum of Takings by month of "Sailed on" across year of "Sailed on" where year of "Sailed on" is not 2025'),
        ('show rows by year-month of "Sailed on" where year of "Sailed on" is 2025', "without last period", "part-way",
         'show rows by year-month of "Sailed on" where year of "Sailed on" is 2025 and year-month of "Sailed on" is not 2025-11'),
        ("show rows by Route keeping top 2 Route by rows", "gather", "only what is kept", "show rows by Route keeping top 2 Route by rows gathering the rest"),
        ('show mean of "Delay (min)" by Weather', "median", "pull the mean", 'show median of "Delay (min)" by Weather'),
        ('show sum of Takings - sum of "Running cost" as share of all by month of "Sailed on"', "no shares", "both signs",
         'show sum of Takings - sum of "Running cost" by month of "Sailed on"'),
        ('show median of Takings by "Sailed on" across Ticket', "rows", "fewer than 5 rows", 'show median of Takings and rows by "Sailed on" across Ticket'),
        ("show rows by Route where Ticket is Single and Ticket is Child", "without second condition", "at odds", "show rows by Route where Ticket is Single"),
    ],
)  # fmt: skip
def test_a_second_look_and_its_remedy(text: str, deed: str, told: str, after: str, demo: Opened) -> None:
    table = demo.tables["t1"]
    phrase = parse(text, Vocabulary(table))
    grid = answer(phrase, table)
    looks = {look.deed: look for look in summary_looks(phrase, table, grid)}
    assert told in f"{looks[deed].title} {looks[deed].text}" and looks[deed].remedy
    changed = mended(deed, phrase, table, grid)
    assert print_phrase(changed) == after
    again = summary_looks(changed, table, answer(changed, table))
    assert deed not in {look.deed for look in again}


@pytest.mark.parametrize("text", ["show sum of Takings by Route", "show rows by Route across Weather", "show mean of Takings by Route"])
def test_what_is_in_order_gets_no_second_look(text: str, demo: Opened) -> None:
    table = demo.tables["t1"]
    phrase = parse(text, Vocabulary(table))
    assert not [look for look in summary_looks(phrase, table, answer(phrase, table)) if look.deed]


def test_a_remedy_is_one_click_away(on_demo: Window) -> None:  # noqa: F811
    window, session = on_demo, on_demo.session  # noqa: F811
    session.turn_to("s4")
    click(window.margin, "Leave it out")
    assert "is not 2025" in print_phrase(session.folio.summary("s4").phrase)
    session.undo()
    assert "is not 2025" not in print_phrase(session.folio.summary("s4").phrase)
