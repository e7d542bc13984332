"""Few values, told one by one, come to what the general way comes to."""

from __future__ import annotations

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from summula.core.reading import growing
from summula.core.tables.column import CodedColumn, DateColumn, NumberColumn
from summula.core.tables.few import encode_few
from summula.core.tables.sensing import SENSE_ALL, Signs

_numbers = st.integers(-300, 99_999_999).map(str) | st.decimals(-99, 9999, places=2).map(str) | st.floats(0, 9, width=32).map(lambda x: f"{x:.5f}")
_days = st.dates().map(str) | st.dates(min_value=__import__("datetime").date(1970, 1, 1)).map(lambda day: f"{day:%d/%m/%Y}")
_words = st.sampled_from(["Osk", "A12", "12 High St", "n/a", "-", "?", "yes", "no", "x", "Q1 2024", "1h 20m", "12 kg", "£3.50", "007", "1,234", " ", "", "Ärø"])
_columns = st.one_of(*(st.lists(kind | st.none(), min_size=1, max_size=40) for kind in (_numbers, _days, _words, st.integers(0, 60).map(str), st.integers(0, 99).map(lambda n: f"{n}.0"))))
_mixed = st.lists(st.one_of(_numbers, _words, st.none()), min_size=1, max_size=40)


@settings(max_examples=400)
@given(
    st.sampled_from(["Fee", "No.", "Vessel id", "On", "Age", "phone"]), _columns | _mixed,
    st.sampled_from([SENSE_ALL, Signs(markers=False), Signs(decimal="comma"), Signs(decimal="point"), Signs(dates="month first")]),
)  # fmt: skip
def test_few_values_one_by_one(name: str, values: list[str | None], signs: Signs) -> None:
    found = encode_few(name, values, None, signs)
    if found is None:
        return
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(growing, "encode_few", lambda *_: None)
        column, sensed = growing.encode_texts(pl.Series(name, values, dtype=pl.String), None, signs)
    assert (found[1].kind, found[1].reading, found[1].unit, set(found[1].markers)) == (sensed.kind, sensed.reading, sensed.unit, set(sensed.markers))
    assert type(found[0]) is type(column) and found[0].refused == column.refused
    if isinstance(column, CodedColumn):
        assert isinstance(found[0], CodedColumn)
        assert found[0].members == column.members and np.array_equal(found[0].codes, column.codes)
    elif isinstance(column, NumberColumn):
        assert isinstance(found[0], NumberColumn)
        assert found[0].decimals == column.decimals and np.array_equal(found[0].values, column.values)
    else:
        assert isinstance(column, DateColumn) and isinstance(found[0], DateColumn) and np.array_equal(found[0].days, column.days)
    blanks = [None if each.blank is None else each.blank.tolist() for each in (found[0], column)]
    assert blanks[0] == blanks[1]
