"""A formula that joins very many parts one into the other is refused before anything could run out of stack."""

from __future__ import annotations

import pytest

from summula.core.preparation.formula import growth
from summula.core.refusal import Refusal


@pytest.mark.parametrize("text", [" || ".join(['"A"'] * 490), " + ".join(["1"] * 300), "NOT " * 200 + "TRUE", "- " * 200 + "1"])
def test_deep_formulas_are_refused(text: str) -> None:
    with pytest.raises(Refusal):
        growth(text)


def test_long_formulas_are_not() -> None:
    assert growth(" + ".join(['"A"'] * 80)) >= 0
