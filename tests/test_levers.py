"""Levers: named numbers in a phrase, moved by hand, on the desk and on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from summula.cli import main
from summula.core.folio.opened import Opened
from summula.core.phrases.lever import LeverSetting, checked, levers_in, with_levers
from summula.core.refusal import Refusal
from summula.core.summaries import Vocabulary, answer, parse, print_phrase

FARES = LeverSetting("Fare change", 0.1, -0.3, 0.3, 0.02, "0%")
SAID = "show sum of Takings and sum of Takings * (1 + Fare change) called New by Route"


def test_a_lever_moves_a_figure_and_a_name_means_it_only_where_it_is_one(demo: Opened) -> None:
    table = demo.tables["t1"]
    words = Vocabulary(table, ("Fare change",))
    phrase = parse(SAID, words)
    assert levers_in(phrase) == ("Fare change",)
    assert 'lever "Fare change"' in print_phrase(phrase)
    assert parse(print_phrase(phrase), words) == phrase
    for lever in (FARES, FARES.at(0), FARES.at(99)):
        grid = answer(with_levers(phrase, [lever]), table)
        for level in grid.values.values():
            assert level[1] == pytest.approx(level[0] * (1 + lever.value))
    with pytest.raises(Refusal, match="no lever 'Fare change'"):
        answer(phrase, table)
    with pytest.raises(Refusal, match="did you mean 'Fare change'"):
        parse("show Takings * lever Fare", words)
    # A field of that name comes first; the lever is meant where it is said.
    both = Vocabulary(table, ("takings", "Fare change"))
    assert levers_in(parse("show takings", both)) == ()
    assert levers_in(parse("show lever Takings", both)) == ("takings",)


@given(st.floats(-1e6, 1e6), st.floats(1e-3, 1e5), st.integers(1, 500), st.integers(-5, 600))
def test_a_lever_stays_between_its_ends_and_on_its_steps(low: float, step: float, steps: int, place: int) -> None:
    lever = LeverSetting("L", low, low, low + step * steps, step)
    moved = lever.at(place)
    assert moved.place == min(max(place, 0), lever.steps)
    assert low - 1e-6 <= moved.value <= lever.high + 1e-6 * max(1.0, abs(lever.high))
    assert abs(lever.steps - steps) <= 1
    assert FARES.at(3).at(15).value == 0.0  # not 5.5e-17
    assert FARES.at(20).text() == "10%"


@pytest.mark.parametrize(
    "wrong",
    [
        LeverSetting("", 0, 0, 1, 1), LeverSetting("L", 0, 1, 0, 1), LeverSetting("L", 0, 0, 1, 0),
        LeverSetting("L", 2, 0, 1, 0.1), LeverSetting("L", 0, 0, 1e9, 1e-3), LeverSetting("L", float("nan"), 0, 1, 1),
    ],
)  # fmt: skip
def test_a_lever_that_cannot_be_moved_is_refused(wrong: LeverSetting) -> None:
    with pytest.raises(Refusal):
        checked(wrong)


def test_levers_and_the_fiscal_year_on_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    table = tmp_path / "trips.csv"
    table.write_text("On,Paid\n2024-03-31,100\n2024-04-01,50\n")
    ask = ["ask", str(table), "show Paid * (1 + lever Rise) by fiscal year of On", "--format", "json"]
    assert main([*ask, "--lever", "Rise=0.5", "--year-begins", "4"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["levers"] == {"Rise": 0.5}
    assert [(each["by"], each["values"]) for each in told["cells"]] == [
        (["2023/24"], [150]), (["2024/25"], [75]), ([], [225]),
    ]  # fmt: skip
    assert main([*ask, "--year-begins", "4"]) == 1
    assert "no lever 'Rise'" in capsys.readouterr().err
    for wrong in ("Rise", "Rise=nan", "=2"):
        assert main([*ask, "--lever", wrong]) == 1
        assert "--lever" in capsys.readouterr().err
