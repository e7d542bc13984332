"""What may be written next, and where to begin."""

from __future__ import annotations

import datetime as dt

import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from summula.core.folio.opened import Opened
from summula.core.language.completing import complete
from summula.core.language.starting import MOST, starting_points
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.summaries import Vocabulary, answer, parse, print_phrase
from summula.demo.folio import SUMMARIES
from summula.desk.pages.startingpoints import PointCard
from summula.desk.window import Window
from tests.hands import LEFT, settled

PHRASES = [text for _, text in SUMMARIES] + [
    "show percentile 90 of Takings as change on previous weekday of \"Booked on\" by weekday of \"Booked on\" without totals",
    'show distinct count of Vessel for (Ticket is Single and Takings is over 5) by Takings in bands of 50 across Ticket with every member',
]  # fmt: skip


def texts(text: str, words: Vocabulary) -> list[str]:
    return [choice.text for choice in complete(text, len(text), words).choices]


@pytest.fixture(scope="module")
def words(demo: Opened) -> Vocabulary:
    return Vocabulary(demo.tables["t1"])


@pytest.mark.parametrize(
    ("text", "first", "never"),
    [
        ("", "show", "by"), ("show me", "mean of", "Takings"), ("show sum of ", "Passengers", "Route"),
        ('show median of "Ru', '"Running cost"', "Route"), ("show rows by year of ", '"Sailed on"', "Takings"),
        ("show rows by Route w", "where", "show"), ("show rows where Ticket is ", "Bicycle", "Route"),
        ("show rows where Ticket is Single or Is", '"Islander pass"', "Single"), ("show rows where Ticket i", "is", "by"),
        ('show rows where month of "Sailed on" is ', "1", "Jan"), ("show rows drawn as st", "stacked columns", "bars"),
        ('show rows where "Sailed on" is in the last 3 m', "months", "Route"), ("show Takings as sh", "share of all", "sum of"),
        ("show rows keeping ", "bottom", "Route"), ("show rows by Route then We", "Weather", "where"),
    ],
)  # fmt: skip
def test_what_may_follow(text: str, first: str, never: str, words: Vocabulary) -> None:
    found = texts(text, words)
    assert found[0] == first and never not in found


def begun_with(printed: str, at: int) -> bool:
    return printed[:at].endswith("called")  # a name of one's own


@pytest.mark.parametrize("phrase", PHRASES)
def test_every_word_of_a_phrase_is_offered_at_its_place(phrase: str, words: Vocabulary) -> None:
    """Each word that begins after a blank is among what may follow there, given its first letters."""
    printed = print_phrase(parse(phrase, words))
    for at in range(len(printed)):
        if printed[at] == " " and printed[:at].count('"') % 2 == 0 and at + 1 < len(printed):
            rest = printed[at + 1 :]
            if rest[0].isdigit() or rest[0] in "+-*/(," or begun_with(printed, at):
                continue
            begun = printed[: at + 1]
            offered = complete(begun, len(begun), words).choices
            long = [choice.text for choice in complete(begun + rest[0], at + 2, words).choices]
            inside = any(rest.startswith(choice.text) for choice in offered) or any(rest.startswith(each) for each in long)
            # the later words of a compound ("of", "first") belong to the word before them
            compound = any(
                choice.text.startswith(before) and f"{before} {rest}".startswith(choice.text)
                for back in range(1, 4)
                for before in [" ".join(printed[:at].split(" ")[-back:])]
                for choice in complete(printed[: at - len(before)], at - len(before), words).choices
                if " " in choice.text
            )
            assert inside or compound, (begun, rest, [choice.text for choice in offered])


def test_a_phrase_is_typed_with_tab(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    window.activateWindow()
    session.turn_to("s3")
    page = window.pages.summary
    QTest.keyClick(window, Qt.Key.Key_F2)
    settled()
    text = page.phrase.text
    listed = page.phrase.completions()
    text.selectAll()
    for part in ("sh", "med", "Ta", "b", "Wea", "whe", "Tic", "i", "Isl"):
        QTest.keyClicks(text, part)
        assert listed.isVisible(), (part, text.toPlainText())
        QTest.keyClick(text, Qt.Key.Key_Tab)
    assert text.toPlainText() == 'show median of Takings by Weather where Ticket is "Islander pass" '
    QTest.keyClicks(text, "or ")
    QTest.keyClick(text, Qt.Key.Key_Down)
    QTest.keyClick(text, Qt.Key.Key_Return)  # after an arrow, Enter takes the choice, not the phrase
    assert text.toPlainText().endswith('or Child ') and page.phrase.typing.isVisible()
    QTest.keyClick(text, Qt.Key.Key_Escape)
    assert not listed.isVisible() and page.phrase.typing.isVisible()
    QTest.keyClick(text, Qt.Key.Key_Return)
    assert print_phrase(session.folio.summary("s3").phrase) == 'show median of Takings by Weather where Ticket is "Islander pass" or Child'


def test_starting_points_are_begun_with_a_click(on_demo: Window) -> None:
    window, session = on_demo, on_demo.session
    before = len(session.folio.summaries)
    session.turn_to("t1")
    window.activateWindow()
    settled()
    page = window.pages.table
    QTest.mouseClick(page.summarise, LEFT)
    settled()
    cards = page.starting.findChildren(PointCard)
    assert 4 <= len(cards) <= MOST and all(card.picture.grid is not None for card in cards)
    assert "month by month" in cards[0].accessibleName()
    chosen = cards[1].point
    QTest.keyClick(cards[1], Qt.Key.Key_Return)
    kind, summary = session.page() or ("", None)
    assert kind == "summary" and summary is not None and summary.phrase == chosen.phrase
    session.undo()
    assert len(session.folio.summaries) == before


_columns = st.fixed_dictionaries(
    {
        "Key no.": st.lists(st.integers(1, 9), min_size=6, max_size=6), "Group": st.lists(st.sampled_from(["a", "b", None]), min_size=6, max_size=6),
        "by": st.lists(st.sampled_from(["x y", "z"]), min_size=6, max_size=6), "Sum": st.lists(st.one_of(st.none(), st.floats(-1e6, 1e6)), min_size=6, max_size=6),
        "On": st.lists(st.one_of(st.none(), st.dates(dt.date(2020, 1, 1), dt.date(2025, 1, 1))), min_size=6, max_size=6),
    }
)  # fmt: skip
_schema = {"Key no.": pl.Int64, "Group": pl.String, "by": pl.String, "Sum": pl.Float64, "On": pl.Date}


@settings(max_examples=60)
@given(_columns, st.sets(st.sampled_from(list(_schema)), min_size=1), st.integers(0, 6))
def test_every_table_has_a_place_to_begin(columns: dict[str, list[object]], kept: set[str], rows: int) -> None:
    frame = pl.DataFrame(columns, schema=_schema).head(rows).select(sorted(kept))
    table = table_from_frame("T", frame)
    points = starting_points(table)
    assert points
    codes = {field.name for field in table.fields if field.kind == "code"}
    for point in points:
        answer(point.phrase, table)
        assert parse(print_phrase(point.phrase), Vocabulary(table)) == point.phrase
        assert not codes & set(print_phrase(point.phrase).split('"'))
    try:
        assert complete("show ", 5, Vocabulary(table)).choices
    except Refusal as refusal:
        raise AssertionError from refusal
