"""Preparation: every step against what polars makes of the same rows; what a step lacks is told and comes back."""

from __future__ import annotations

import datetime as dt
from typing import TYPE_CHECKING

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from summula.core.fields.bands import Bands
from summula.core.preparation import editing
from summula.core.preparation import steps as s
from summula.core.preparation.prepare import prepare
from summula.core.preparation.steps import AnyStep
from summula.core.preparation.wording import effect_words, explained, words
from summula.core.preparation.workingout import worked_out
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.summaries import Vocabulary, parse
from summula.core.tables.encoding import series_of
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from collections.abc import Callable

ROWS = pl.DataFrame(
    {
        "Vessel": ["Tern", " tern", "Gull", None, "Gull  two", "Tern"],
        "Pier": ["North/1", "North/2", "South", None, "South/3/b", "North/1"],
        "On": [dt.date(2024, 3, 31), dt.date(2024, 4, 1), dt.date(2025, 1, 5), None, dt.date(2025, 12, 6), dt.date(2024, 3, 31)],
        "Fee": [12.5, 0.1, None, 7.25, -3.0, 12.5],
        "Cost": [2.3, 0.2, 1.0, 1.1, 5.5, 2.3],
        "Jan": [1.0, 2.0, None, 4.0, 5.0, 1.0],
        "Feb": [10.0, None, 30.0, 40.0, 50.0, 10.0],
        "Open": [True, False, None, True, False, True],
    }
)  # fmt: skip
TABLE = table_from_frame("Boats", ROWS)
PRICES = table_from_frame("Prices", pl.DataFrame({"Ship": ["Tern", "Gull", "Gull"], "Berth": [5, 6, 7], "Fee": [1, 2, 3]}))
MORE = table_from_frame("More", pl.DataFrame({"Vessel": ["Skua"], "Fee": [3.125], "Crew": [4], "On": [dt.date(2026, 1, 1)]}))


def others(name: str) -> Table:
    found = {"prices": PRICES, "more": MORE}.get(name)
    if found is None:
        raise Refusal("there is no such table", "choose another")
    return found


def made(*steps: AnyStep) -> Table:
    prepared = prepare(TABLE, steps, others)
    assert not [effect.lacks for effect in prepared.effects if effect.lacks]
    assert all(words(step) and explained(step) and effect_words(e) for step, e in zip(steps, prepared.effects, strict=True))
    return prepared.table


def values(table: Table, name: str) -> list[object]:
    found = series_of(name, table.column(name)).to_list()
    return [float(each) if table.field(name).kind == "number" and each is not None else each for each in found]


def conditions(text: str) -> tuple[object, ...]:
    return parse(f"show rows where {text}", Vocabulary(TABLE)).where


@pytest.mark.parametrize(
    ("step", "field", "expected"),
    [
        (s.Tidy(), "Vessel", ["Tern", "tern", "Gull", None, "Gull two", "Tern"]),
        (s.Tidy(("Vessel",), "title"), "Vessel", ["Tern", "Tern", "Gull", None, "Gull  Two", "Tern"]),
        (s.Replace("Vessel", "Gull", "Skua"), "Vessel", ["Tern", "tern", "Skua", None, "Skua  two", "Tern"]),
        (s.Replace("Vessel", "Gull", "Skua", whole=True), "Vessel", ["Tern", "tern", "Skua", None, "Gull  two", "Tern"]),
        (s.FillBlanks("Vessel", "Auk"), "Vessel", ["Tern", "tern", "Gull", "Auk", "Gull  two", "Tern"]),
        (s.FillBlanks("Fee", "0.5"), "Fee", [12.5, 0.1, 0.5, 7.25, -3.0, 12.5]),
        (s.FillBlanks("On", above=True), "On", [*ROWS["On"].fill_null(strategy="forward")]),
        (s.FillBlanks("Open", "yes"), "Open", [True, False, True, True, False, True]),
        (s.Split("Pier", "/", ("Side", "Berth")), "Berth", ["1", "2", None, None, "3/b", "1"]),
        (s.Join(("Pier", "Vessel"), "Both", ": "), "Both", ["North/1: Tern", "North/2: tern", "South: Gull", None, "South/3/b: Gull  two", "North/1: Tern"]),
        (s.SetKind("Cost", "code"), "Cost", ["2.3", "0.2", "1.0", "1.1", "5.5", "2.3"]),
        (s.SetKind("Vessel", "number"), "Vessel", [None] * 6),
        (s.DropDuplicates(), "Fee", [12.5, 0.1, None, 7.25, -3.0]),
        (s.DropDuplicates(("Open",)), "Fee", [12.5, 0.1, None]),
        (s.Rows(conditions("Fee is at least 0")), "Fee", [12.5, 0.1, 7.25, 12.5]),
        (s.Rows(conditions('Vessel is "Tern" and year of On is 2024'), keep=False), "Fee", [0.1, None, 7.25, -3.0]),
        (s.Append("more", "more.csv"), "Fee", [12.5, 0.1, None, 7.25, -3.0, 12.5, 3.125]),
        (s.Append("more", "more.csv"), "Crew", [None] * 6 + [4]),
        (s.Append("more", "more.csv"), "Vessel", ["Tern", "tern", "Gull", None, "Gull  two", "Tern", "Skua"]),
        (s.AddPart("On", "year-quarter", "Quarter"), "Quarter", ["Q1 2024", "Q2 2024", "Q1 2025", None, "Q4 2025", "Q1 2024"]),
        (s.AddPart("On", "year", "FY", starts=4), "FY", ["2023/24", "2024/25", "2024/25", None, "2025/26", "2023/24"]),
        (s.AddPart("On", "quarter", "FQ", starts=4), "FQ", ["Q4", "Q1", "Q4", None, "Q3", "Q4"]),
        (s.AddBands("Fee", Bands(at=(0.0, 10.0)), "Size", ("refund", "small", "large")), "Size", ["large", "small", None, "small", "refund", "large"]),
        (s.AddBands("Fee", Bands(at=(10.0,)), "Size"), "Size", ["10 and over", "under 10", None, "under 10", "under 10", "10 and over"]),
        (s.AddBundles("Vessel", (s.Bundle("Gulls", ("Gull", "Gull  two")),), "Kin"), "Kin", ["Tern", "tern", "Gulls", None, "Gulls", "Tern"]),
        (s.AddBundles("Vessel", (s.Bundle("Gulls", ("Gull", "Gull  two")),), "Kin", "rest"), "Kin", ["rest", "rest", "Gulls", None, "Gulls", "rest"]),
        (s.AddFormula("Net", "Fee - Cost"), "Net", [10.2, -0.1, None, 6.15, -8.5, 10.2]),
        (s.AddFormula("Big", "Fee > 5 AND \"Open\""), "Big", [True, False, None, True, False, True]),
        (s.AddFormula("Word", "CASE WHEN Fee > 5 THEN 'dear' ELSE upper(Vessel) END"), "Word", ["dear", "TERN", "GULL", "dear", "GULL  TWO", "dear"]),
        (s.AddFormula("One", "1"), "One", [1.0] * 6),
        (s.AddLookup("prices", (s.Key("Vessel", "Ship"),), ("Berth", "Fee")), "Fee (Prices)", [1.0, None, 2.0, None, None, 1.0]),
    ],
)  # fmt: skip
def test_a_step_gives_the_values_it_says(step: AnyStep, field: str, expected: list[object]) -> None:
    assert values(made(step), field) == expected
    assert TABLE.rows == 6  # the raw rows stay as they are
    assert [values(TABLE, f.name) for f in TABLE.fields] == [values(table_from_frame("x", ROWS), f.name) for f in TABLE.fields]


ANY_STEP = st.sampled_from(
    [
        s.Tidy(), s.Tidy(("Vessel",), "upper"), s.Replace("Vessel", "Gull", "Skua"), s.FillBlanks("Fee", "0.5"), s.FillBlanks("Pier", above=True),
        s.Split("Pier", "/", ("Side", "Berth")), s.Join(("Pier", "Vessel"), "Both"), s.SetKind("Cost", "code"), s.SetKind("Fee", "category"),
        s.SetKind("Vessel", "number"), s.SetKind("Jan", "date"), s.DropDuplicates(), s.DropDuplicates(("Vessel",)), s.Rows(conditions("Fee is at least 0")),
        s.Rows(conditions('Vessel is "Tern"'), keep=False), s.Rows(conditions("Fee is over 1000")), s.Append("more", "more.csv"), s.Append("gone", "gone.csv"),
        s.AddPart("On", "year-quarter", "Quarter"), s.AddBands("Fee", Bands(at=(0.0, 10.0)), "Size"), s.AddBundles("Vessel", (s.Bundle("Gulls", ("Gull",)),), "Kin", "rest"),
        s.AddFormula("Net", "Fee - Cost"), s.AddFormula("Twice", "Net * 2"), s.AddFormula("Word", "upper(Vessel)"), s.AddLookup("prices", (s.Key("Vessel", "Ship"),), ("Berth", "Fee")),
        s.Unpivot(("Jan", "Feb"), "Month", "Sold"), s.Rename("Fee", "Fare"), s.Rename("Fare", "Fee"), s.DropFields(("Cost",)), s.KeepFields(("Vessel", "Fee", "On")),
    ]
)  # fmt: skip


@given(st.lists(ANY_STEP, max_size=7), st.data())
def test_steps_changed_in_any_order_come_to_what_doing_them_anew_comes_to(steps: list[AnyStep], data: st.DataObject) -> None:
    """What is kept of the preparation before is only kept where it still holds; nothing that a step lacks stops the others."""
    kept, now = prepare(TABLE, tuple(steps), others), tuple(steps)
    for _ in range(data.draw(st.integers(1, 5))):
        at = data.draw(st.integers(0, max(len(now) - 1, 0)))
        edit_name = data.draw(st.sampled_from(["put", "without", "moved", "switched", "more"]))
        if edit_name == "more" or not now:
            now = (*now, data.draw(ANY_STEP))
        elif edit_name == "put":
            now = editing.put(now, at, data.draw(ANY_STEP))
        elif edit_name == "moved":
            now = editing.moved(now, at, data.draw(st.sampled_from([-1, 1])))
        else:
            now = {"without": editing.without, "switched": editing.switched}[edit_name](now, at)
        kept = prepare(TABLE, now, others, kept)
        anew = prepare(TABLE, now, others)
        assert kept.effects == anew.effects and len(kept.effects) == len(now)
        assert kept.table.fields == anew.table.fields and kept.table.ragged == anew.table.ragged
        for field in anew.table.fields:
            one, other = kept.table.column(field.name), anew.table.column(field.name)
            assert one.rows == kept.table.rows and one.refused == other.refused
            assert series_of(field.name, one).equals(series_of(field.name, other))
        assert all(words(step) and explained(step) and effect_words(effect) for step, effect in zip(now, anew.effects, strict=True))


def test_wide_fields_become_rows() -> None:
    tall = made(s.Unpivot(("Jan", "Feb"), "Month", "Sold"))
    expected = ROWS.with_row_index().unpivot(["Jan", "Feb"], index=["index", "Fee"]).drop_nulls("value").sort("index", maintain_order=True)
    assert values(tall, "Sold") == expected["value"].to_list()
    assert values(tall, "Fee") == expected["Fee"].to_list()
    assert made(s.Unpivot(("Jan", "Feb"), "Month", "Sold", blanks=True)).rows == 12


def test_money_made_by_a_formula_adds_up_exactly() -> None:
    net = made(s.AddFormula("Net", '"Fee" - "Cost"')).number("Net")
    assert net.decimals == 2 and net.values.sum() == 1020 - 10 + 615 - 850 + 1020


def test_what_a_step_lacks_is_told_and_the_others_go_on() -> None:
    steps: tuple[AnyStep, ...] = (
        s.Rename("Fee", "Charge"), s.AddFormula("Net", "Fee - Cost"), s.AddFormula("Half", "Charge / 2"),
        s.Tidy(("Vessel",), off=True), s.AddLookup("gone", (s.Key("Vessel", "Ship"),), ("Berth",)),
    )  # fmt: skip
    prepared = prepare(TABLE, steps, others)
    assert "no field 'Fee'" in prepared.effects[1].lacks and "no such table" in prepared.effects[4].lacks
    assert prepared.table.has("Half") and not prepared.table.has("Net") and prepared.effects[3].notice == "switched off"
    # Only what comes after a change is done again.
    again = prepare(TABLE, (*steps[:3], s.Tidy(("Vessel",))), others, prepared)
    assert all(a is b for a, b in zip(again.stages[:3], prepared.stages[:3], strict=True)) and again.effects[3].cells == 1
    assert prepare(TABLE, (s.DropFields(("Gone", "Fee")), s.AddPart("On", "month", "Month")), others).table.has("Month")


@pytest.mark.parametrize(
    ("step", "told"),
    [
        (s.Replace("Vessel", "l", "x" * 10**8), "letters of"),
        (s.Join(("Pier", "Vessel"), "Both", "x" * 10**8), "too long"),
        (s.FillBlanks("Vessel", "x" * 10**6), "too long"),
        (s.AddFormula("Long", "REPEAT(REPEAT(Vessel, 900), 900)"), "far longer"),
    ],
)  # fmt: skip
def test_a_step_that_would_fill_the_memory_is_passed_over(step: AnyStep, told: str) -> None:
    prepared = prepare(TABLE, (step,), others)
    assert told in prepared.effects[0].lacks and prepared.table is TABLE


@pytest.mark.parametrize(
    ("text", "told", "at"),
    [
        ("Fee - Fuel", "no field 'Fuel'", "Fuel"), ("vessel", "no field 'vessel'.*\"Vessel\"", "vessel"),
        ("Fee -", "is incomplete; what is missing is a field", ""), ("Fee + (Cost", "is incomplete; .*closing bracket", ""),
        ("Fee + * 2", r"'\*' does not fit here", "*"), ("Fee Cost", "'Cost' does not fit", "Cost"), ("'a", "never closed", "'"), ("sum(Fee)", "one value for all rows", "sum"),
        ("Fee + Vessel", "types that do not fit together", ""), ("wobble(Fee)", "no .*function", "wobble"), ("", "empty", ""),
        ("(select 1)", "one expression", "select"), ("read_csv('/etc/passwd')", "no function 'read_csv'", "read_csv"), ("1 IN (FROM read_csv('/etc/passwd'))", "belongs to queries", "FROM"), ("REPEAT(Vessel, 999999)", "as long", ""),
    ],
)  # fmt: skip
def test_a_formula_that_does_not_work_says_why(text: str, told: str, at: str) -> None:
    with pytest.raises(Refusal, match=told) as refused:
        worked_out(TABLE, text)
    if at:
        assert refused.value.span is not None and text[slice(*refused.value.span)] == at


def test_a_look_up_tells_who_found_none_or_several() -> None:
    step = s.AddLookup("prices", (s.Key("Vessel", "Ship"),), ("Berth",))
    effect = prepare(TABLE, (step,), others).effects[0]
    assert effect.notice == "3 rows found a partner · 3 found none · 1 found several, and took the first"
    lost = prepare(TABLE, (s.Append("more", "more.csv"),), others).effects[0]
    assert "1 rows added · only there: Crew · not there: Pier, Cost, Jan, Feb" in lost.notice


def test_day_and_month_change_places() -> None:
    texts = ["03/04/2024", "05/04/2024", None, "12/01/2023"]
    table = table_from_frame("d", pl.DataFrame({"On": pl.Series(texts, dtype=pl.String), "x": [1, 2, 3, 4]}))
    assert table.sensed[0].doubt and values(table, "On")[0] == dt.date(2024, 4, 3)
    other = prepare(table, (s.SetKind("On", "date", "month first"),), others).table
    assert values(other, "On") == [dt.date(2024, 3, 4), dt.date(2024, 5, 4), None, dt.date(2023, 12, 1)]


_texts = st.one_of(st.none(), st.text(st.sampled_from("ab /Ü0"), max_size=5))


@given(st.lists(st.tuples(_texts, _texts, st.one_of(st.none(), st.integers(-3, 3))), max_size=30), st.data())
def test_steps_agree_with_polars_on_random_rows(rows: list[tuple[object, ...]], data: st.DataObject) -> None:
    schema = {"a": pl.String, "b": pl.String, "n": pl.Int64}
    clean = pl.DataFrame(rows, schema=schema, orient="row").with_columns(
        pl.col("a", "b").str.strip_chars().replace("", None)
    )
    table = table_from_frame("r", clean, {"a": "category", "b": "category", "n": "number"})
    find, put = data.draw(st.sampled_from(["a", " ", "Ü0", "b/"])), data.draw(st.sampled_from(["", "x", "ab"]))
    replaced = pl.col("a").str.replace_all(find, put, literal=True).replace("", None)
    cases: list[tuple[AnyStep, Callable[[pl.DataFrame], pl.DataFrame]]] = [
        (s.Replace("a", find, put), lambda f: f.with_columns(replaced)),
        (s.FillBlanks("b", above=True), lambda f: f.with_columns(pl.col("b").forward_fill())),
        (s.FillBlanks("n", "7"), lambda f: f.with_columns(pl.col("n").fill_null(7))),
        (s.DropDuplicates(("a", "n")), lambda f: f.unique(["a", "n"], keep="first", maintain_order=True)),
        (s.DropDuplicates(), lambda f: f.unique(keep="first", maintain_order=True)),
        (s.AddFormula("m", "n * 2 + 1"), lambda f: f.with_columns((pl.col("n") * 2 + 1).alias("m"))),
        (s.KeepFields(("n", "a")), lambda f: f.select("n", "a")),
        (s.Rows(parse("show rows where n is over 0").where), lambda f: f.filter(pl.col("n") > 0)),
        (s.Tidy(("a", "b"), "upper"), lambda f: f.with_columns(pl.col("a", "b").str.to_uppercase())),
    ]
    chosen = data.draw(st.lists(st.sampled_from(cases), max_size=4, unique_by=id))
    expected = clean
    steps: list[AnyStep] = []
    for step, same in chosen:
        try:
            expected = same(expected)
        except pl.exceptions.ColumnNotFoundError:
            continue
        steps.append(step)
    prepared = prepare(table, tuple(steps), others)
    assert [field.name for field in prepared.table.fields] == expected.columns
    for name in expected.columns:
        assert values(prepared.table, name) == expected[name].to_list(), name


def test_serial_numbers_become_days() -> None:
    texts = ["45352", "45352.5", None, "44927"]
    table = table_from_frame("d", pl.DataFrame({"On": pl.Series(texts, dtype=pl.String), "x": [45352, 1, 45353, 45354]}))
    dated = prepare(table, (s.SetKind("On", "date"),), others).table
    assert values(dated, "On") == [dt.datetime(2024, 3, 1), dt.datetime(2024, 3, 1, 12), None, dt.datetime(2023, 1, 1)]
    other = prepare(table, (s.SetKind("x", "date"),), others)
    assert len(other.table.column("x").refused) == 4 and other.effects[0].doubt  # 1 is no day: told, never guessed
