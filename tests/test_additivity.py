"""What adds up: whatever is said to, does, over the members of a heading; and the forms of parts take nothing else."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from summula.core.phrases.additivity import adds_up, calculation_adds_up, is_part_of_all
from summula.core.phrases.fitting import why_not
from summula.core.phrases.phrase import Aggregate, Arithmetic, Calculation, Comparison, Measure, Number, Phrase
from summula.core.reading.readers import read_found
from summula.core.refusal import Refusal
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.tables.table import Table

_PARTS = ("pie", "ring", "waffle", "stacked columns", "share bars", "areas")


@pytest.fixture(scope="module")
def sailings(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path: Path = tmp_path_factory.mktemp("adds") / "s.csv"
    path.write_text("Route,A,B\n" + "".join(f"{'xyz'[at % 3]},{at * 7 % 11},{at * 5 % 13 + 1}\n" for at in range(40)))
    return read_found(path)[0]


_aggregates = st.builds(Aggregate, st.sampled_from(["sum", "count", "mean", "median", "min", "max", "distinct count"]), st.sampled_from(["A", "B"])) | st.just(Aggregate("rows"))
_calculations: st.SearchStrategy[Calculation] = st.recursive(
    _aggregates | st.builds(Number, st.sampled_from([2.0, 0.5, -3.0])),
    lambda inner: st.builds(Arithmetic, st.sampled_from(["+", "-", "*", "/"]), inner, inner),
    max_leaves=5,
)


@given(_calculations)
def test_what_is_said_to_add_up_does(sailings: Table, calculation: Calculation) -> None:
    measure = Measure(calculation)
    if not adds_up(measure):
        return
    heading = parse("show rows by Route", Vocabulary(sailings)).by
    parts = answer(Phrase((measure,), by=heading), sailings).values[1, 0][0, :, 0]
    whole = answer(Phrase((measure,)), sailings).bottom_line()
    assert np.isclose(parts.sum(), whole, rtol=1e-12, equal_nan=True)


@pytest.mark.parametrize(
    ("text", "additive"),
    [
        ("sum of A", True), ("count of A", True), ("rows", True), ("sum of A + sum of B", True),
        ("sum of A - count of B", True), ("sum of A * 2", True), ("2 * sum of A", True), ("sum of A / (2 * 3)", True),
        ("(sum of A + sum of B) / 4 - rows", True),
        ("sum of A / sum of B", False), ("sum of A * sum of B", False), ("2 / sum of A", False),
        ("mean of A + mean of B", False), ("sum of A + 5", False), ("sum of A + mean of B", False),
        ("max of A - min of A", False), ("mean of A * 2", False), ("(sum of A / sum of B) * 100", False),
        ("distinct count of A", False),
    ],
)  # fmt: skip
def test_forms_of_parts_take_only_what_adds_up(sailings: Table, text: str, additive: bool) -> None:
    words = Vocabulary(sailings)
    phrase = parse(f"show {text} by Route", words)
    assert adds_up(phrase.measures[0]) == additive
    for form in _PARTS:
        if "stack" in form or form in ("share bars", "areas"):
            continue
        assert ("does not add up" in why_not(phrase, form)) == (not additive), form
    two = parse(f"show {text} and rows by Route", words)
    assert ("does not add up" in why_not(two, "stacked columns")) == (not additive)
    if not additive:
        with pytest.raises(Refusal, match="does not add up"):
            parse(f"show rows by Route keeping top 50% of Route by {text}", words)
    else:
        parse(f"show rows by Route keeping top 50% of Route by {text}", words)


@pytest.mark.parametrize("kind", ["share of all", "share of row", "change on previous"])
def test_comparisons_add_up_where_their_figures_do(kind: str) -> None:
    comparison = Comparison(kind)  # type: ignore[arg-type]
    ratio = Arithmetic("/", Aggregate("sum", "A"), Aggregate("sum", "B"))
    assert adds_up(Measure(Aggregate("sum", "A"), comparison)) and not adds_up(Measure(ratio, comparison))
    assert not adds_up(Measure(Aggregate("sum", "A"), Comparison("rank"))) and not calculation_adds_up(Number(3))
    assert is_part_of_all(Measure(Aggregate("sum", "A"), comparison)) == (kind == "share of all")


def test_a_form_says_how_many_figures_it_shows(sailings: Table) -> None:
    phrase = parse("show sum of A and rows by Route", Vocabulary(sailings))
    assert why_not(phrase, "pie") == "A pie shows one figure, not 2: show one figure"
