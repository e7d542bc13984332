"""Formulas that would bring what works them out down: too deep, of impossible types, of kinds that few think of."""

from __future__ import annotations

import polars as pl
import pytest

from summula.core.preparation.formula import growth
from summula.core.preparation.sandboxed import add_formula
from summula.core.preparation.steps import AddFormula
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.tables.table import Table


@pytest.mark.parametrize("text", [" || ".join(['"A"'] * 490), " + ".join(["1"] * 300), "NOT " * 200 + "TRUE", "- " * 200 + "1"])
def test_deep_formulas_are_refused(text: str) -> None:
    with pytest.raises(Refusal):
        growth(text)


def test_long_formulas_are_not() -> None:
    assert growth(" + ".join(['"A"'] * 80)) >= 0


def crossings() -> Table:
    frame = pl.DataFrame({"Left": ["2024-05-01", "2024-05-03"], "Came": ["2024-05-02", "2024-05-03"], "Paid": [1.5, 2.0]})
    return table_from_frame("Crossings", frame)


def test_a_date_less_another_is_a_length_of_time() -> None:
    table = crossings()
    done = add_formula(table, AddFormula("Under way", '"Came" - "Left"'), lambda name: table)
    column = done.table.number("Under way")
    assert done.table.field("Under way").kind == "duration" and column.present().tolist() == [24.0, 0.0]


@pytest.mark.parametrize("kind", ["DECIMAL(400, 400)", "DECIMAL(39)", "VARCHAR(99999999999)", "DECIMAL(10, 20)"])
def test_a_type_of_impossible_digits_is_refused(kind: str) -> None:
    table = crossings()
    with pytest.raises(Refusal) as refused:
        add_formula(table, AddFormula("New", f"CAST(Paid AS {kind})"), lambda name: table)
    assert "sudden" not in str(refused.value) and "assertion" not in str(refused.value)
