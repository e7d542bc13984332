"""The phrase: what is printed parses back to itself, names are found, faults are told at their place."""

from __future__ import annotations

import re
import shlex
from importlib.resources import files
from pathlib import Path
from typing import get_args

import msgspec
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from summula.cli import main
from summula.core.fields.bands import Bands
from summula.core.fields.heading import Heading
from summula.core.language.parsetable import digest
from summula.core.phrases.phrase import (
    Aggregate,
    Arithmetic,
    Comparison,
    Condition,
    Function,
    Keep,
    Lever,
    Measure,
    Number,
    Order,
)
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.summaries import FORMS, Phrase, Vocabulary, parse, print_phrase

names = st.one_of(
    st.sampled_from(
        ["Route", "Sailed on", "Delay (min)", "by", "month", "Sum", 'say "so"', "Tarn – Ness", "2024-05", "7"]
    ),
    st.text(min_size=1, max_size=12).filter(lambda text: text.strip() == text and "\0" not in text),
)
numbers = st.one_of(
    st.integers(-10_000, 10_000).map(float), st.floats(-1e9, 1e9, allow_nan=False).map(lambda x: x + 0.0)
)
values = st.one_of(names, numbers)
bands = st.one_of(
    st.builds(Bands, st.floats(0.1, 1e6), st.none() | numbers, st.none() | numbers),
    st.builds(Bands, at=st.lists(numbers, min_size=1, max_size=4).map(tuple)),
)
parts = st.sampled_from(["year", "half", "quarter", "month", "week", "weekday", "day", "hour", "year-half",
                         "year-quarter", "year-month", "year-week", "month-day", "quarter-day", "fiscal year", "fiscal half",
                         "fiscal quarter", "fiscal year-half", "fiscal year-quarter"])  # fmt: skip
headings = st.one_of(
    st.builds(Heading, names), st.builds(Heading, names, parts), st.builds(Heading, names, st.none(), bands)
)
conditions = st.one_of(
    st.builds(Condition, headings, st.sampled_from(["is", "is not"]), st.lists(values, min_size=1, max_size=3).map(tuple)),
    st.builds(Condition, headings, st.sampled_from(["is blank", "is not blank"])),
    st.builds(Condition, headings, st.just("is from"), st.tuples(values, values)),
    st.builds(Condition, headings, st.sampled_from(["is over", "is at least", "is under", "is at most", "contains",
                                                    "starts with", "ends with"]), st.tuples(values)),
    st.builds(Condition, headings, st.just("is in the last"),
              st.tuples(st.integers(1, 99).map(float), st.sampled_from(["days", "weeks", "months", "quarters", "years"]))),
)  # fmt: skip
wheres = st.lists(conditions, max_size=2).map(tuple)
aggregates = st.one_of(
    st.builds(Aggregate, st.just("rows"), where=wheres),
    st.builds(Aggregate, st.sampled_from(["default", "each row"]), names),
    st.builds(Aggregate, st.sampled_from(["sum", "mean", "median", "min", "max", "range", "count", "distinct count",
                                          "standard deviation", "variance", "first", "last"]), names, where=wheres),
    st.builds(Aggregate, st.just("percentile"), names, st.integers(0, 100).map(float), wheres),
)  # fmt: skip
calculations = st.recursive(
    st.one_of(aggregates, st.builds(Number, numbers), st.builds(Lever, names)),
    lambda inner: st.builds(Arithmetic, st.sampled_from("+-*/"), inner, inner),
    max_leaves=5,
)
comparisons = st.one_of(
    st.builds(Comparison, st.sampled_from(["share of all", "share of row", "share of column", "share of group",
                                           "share of everything", "change on a year earlier",
                                           "percent change on a year earlier"])),
    st.builds(Comparison, st.sampled_from(["running total", "rank", "change on previous", "percent change on previous"]),
              headings),
    st.builds(Comparison, st.sampled_from(["change on", "percent change on"]), headings, values),
)  # fmt: skip
measures = st.builds(Measure, calculations, st.none() | comparisons, st.none() | names)
keeps = st.builds(
    lambda end, n, percent, heading, measure, each, gather, name: Keep(
        end, float(n), heading, measure, percent, each, gather, name if gather else None
    ),
    st.sampled_from(["top", "bottom"]), st.integers(1, 100), st.booleans(), headings, measures, st.none() | headings,
    st.booleans(), st.none() | names,
)  # fmt: skip
orders = st.one_of(
    st.builds(Order, measures, st.booleans()),
    st.builds(Order, heading=headings, backwards=st.just(True)),
    st.builds(Order, heading=headings, sequence=st.lists(values, min_size=1, max_size=3).map(tuple)),
)
phrases = st.builds(
    Phrase,
    st.lists(measures, min_size=1, max_size=3).map(tuple), st.none() | measures, st.lists(headings, max_size=3).map(tuple),
    st.lists(headings, max_size=2).map(tuple), wheres, st.lists(keeps, max_size=2).map(tuple), st.none() | orders,
    st.booleans(), st.booleans(), st.booleans(), st.sampled_from(list(FORMS)),
)  # fmt: skip


@given(phrases)
def test_what_is_printed_parses_back(phrase: Phrase) -> None:
    assert parse(print_phrase(phrase)) == phrase


@pytest.fixture(scope="module")
def words() -> Vocabulary:
    frame = pl.DataFrame(
        {
            "Sailing no.": ["100", "101", "102"],
            "Route": ["Aldry – Fenholm", "Osk – Brannay", "Osk – Brannay"],
            "Ticket": ["Day return", "Single", "Single"],
            "Takings": [1.5, 2.5, 3.5],
            "Delay (min)": [1, 2, None],
            "Sailed on": pl.Series(["2024-01-05", "2024-02-06", "2025-03-07"]).str.to_date(),
        }
    )
    return Vocabulary(table_from_frame("Sailings", frame, {"Sailing no.": "code"}))


@pytest.mark.parametrize(
    ("said", "printed"),
    [
        ("SHOW Sum Of takings BY route", "show sum of Takings by Route"),
        ("show mean of Delay (min) by month of sailed on", 'show mean of "Delay (min)" by month of "Sailed on"'),
        ("show rows where Route is osk – brannay", 'show rows where Route is "Osk – Brannay"'),
        ("show rows where month of Sailed on is Feb or 3", 'show rows where month of "Sailed on" is 2 or 3'),
        (
            "show Takings*2-1 by Ticket drawn as  Stacked   Columns",
            "show Takings * 2 - 1 by Ticket drawn as stacked columns",
        ),
        ("show distinct count of Sailing no.", 'show distinct count of "Sailing no."'),
    ],
)
def test_names_stand_bare_in_any_case(said: str, printed: str, words: Vocabulary) -> None:
    assert print_phrase(parse(said, words)) == printed


@pytest.mark.parametrize(
    ("said", "at", "suggestion", "told"),
    [
        ("show sum of Taking", "Taking", "Takings", "no field 'Taking'"),
        ("show sum of Sailing no.", "Sailing no.", None, "is a code"),
        ("show mean of Route", "Route", None, "is a category"),
        ("show rows by year of Route", "Route", None, "has no year"),
        ("show rows where Ticket is Singel", "Singel", "Single", "has no 'Singel'"),
        ("show rows where Takings is over lots", "lots", None, "compared with a number"),
        ("show rows by Ticket drawn as pies", "pies", "pie", "no form 'pies'"),
        ("show rows by Ticket drawn as pies for each Route", "pies", "pie", "no form 'pies'"),
        ("show rows by Ticket drawn as pie for each Rute", "Rute", "Route", "no field 'Rute'"),
        ("show rows by Ticket wher Takings is over 2", "wher", "where", "does not fit here"),
        ("show rows by", "y", None, "stops after 'by'"),
        ("rows by Ticket", "rows", "show", "starts with 'show'"),
        ("show sum of Takings keeping top 0 Ticket by rows", "0", None, "cannot be kept"),
        ("show rows ; by Ticket", ";", None, "does not fit"),
        ('show rows where Ticket is "Single', '"', None, "does not fit"),
    ],
)
def test_faults_are_told_at_their_place(
    said: str, at: str, suggestion: str | None, told: str, words: Vocabulary
) -> None:
    with pytest.raises(Refusal) as caught:
        parse(said, words)
    refusal = caught.value
    assert refusal.span is not None
    assert said[slice(*refusal.span)] == at
    assert refusal.suggestion == suggestion
    assert told in refusal.wrong
    assert refusal.remedy


def test_the_stored_parse_table_is_of_this_grammar() -> None:
    """After a change of the grammar: python -m summula.core.language.parsetable."""
    stored = files("summula.core.language").joinpath("phrase.table").read_bytes()
    assert msgspec.msgpack.decode(stored)["digest"] == digest()


def test_every_example_of_the_reference_has_its_answer(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    text = (Path(__file__).parent.parent / "docs" / "phrase.md").read_text("utf-8")
    table = tmp_path / "trips.csv"
    table.write_text(re.findall(r"```csv\n(.*?)```", text, re.DOTALL)[0])
    examples = re.findall(r"```ask(.*?)\n(.*?)\n(.*?)\n```", text, re.DOTALL)
    assert len(examples) > 45
    for options, phrase, expected in examples:
        assert main(["ask", str(table), phrase, *shlex.split(options)]) == 0
        assert capsys.readouterr().out.rstrip() == expected.rstrip(), phrase
    # Every function, comparison and test of the language is among them.
    asked = " ".join(phrase for _, phrase, _ in examples)
    for function in get_args(Function):
        assert function in (*asked.split(), "default", "each row") or function in asked, function
