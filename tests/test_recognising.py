"""Values told by their bytes are what parsing them says: of random texts and numbers, and of whole files."""

from __future__ import annotations

import math
import random
from decimal import Decimal
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from summula.core.reading import blocks, delimited, textfile
from summula.core.reading.digits import plain_numbers
from summula.core.reading.growing import Growing, parts_told
from summula.core.reading.readers import read_table
from summula.core.reading.recognising import MOST_LETTERS, Known, Lines, laid_out
from summula.core.tables import dictionary, sensing
from summula.core.tables.dictionary import encode_distinct
from summula.core.tables.encoding import series_of
from summula.core.tables.field import Kind, Sensed
from summula.core.tables.sensing import Signs, sense
from summula.core.tables.table import Table

LETTERS = st.text(st.characters(exclude_characters='",\n\r\0', exclude_categories=["Cs"]), min_size=1, max_size=14)
NUMBERLIKE = st.one_of(
    st.text("0123456789.-+/e ", max_size=18),
    st.integers(-(10**16), 10**16).map(str),
    st.decimals(-(10**9), 10**9, places=3).map(str),
    st.floats(allow_nan=False, allow_infinity=False).map(repr),
    st.sampled_from(
        ["", ".", "-", "-.", "5.", ".5", "-0", "0.0", "007", "1.2.3", "12/.3", "/.", "1./", "../", "inf", "nan"]
    ),
)


def block(columns: list[list[str]], end: str = "\n") -> bytes:
    return "".join(",".join(row) + end for row in zip(*columns, strict=True)).encode("utf-8")


@given(
    st.lists(LETTERS, min_size=1, max_size=30, unique=True),
    st.lists(LETTERS, max_size=30),
    st.sampled_from(["\n", "\r\n"]),
    st.randoms(),
)
def test_known_texts_are_told_and_no_others(
    known: list[str], strange: list[str], end: str, chance: random.Random
) -> None:
    texts = [*known, *strange, "", *known]
    chance.shuffle(texts)
    # Beginnings and ends of known texts are the likeliest to be taken for them.
    texts += [text[:-1] for text in known] + [text + "x" for text in known] + ["y" * (MOST_LETTERS + 3)]
    laid = laid_out(Lines.of(block([texts, ["1"] * len(texts), texts], end)), ",", 3)
    told_by = Known.of(known)
    assert laid is not None
    if told_by is None:
        assert max(len(text.encode()) for text in known) > MOST_LETTERS
        return
    assert told_by.size == len(known)
    for field in (0, 2):
        codes, other = told_by.codes(laid, field)
        assert [texts[row] for row in other] == laid.texts(field, other)
        told = dict(enumerate(codes.tolist()))
        for row in other.tolist():
            assert texts[row] not in ("", *known)
            del told[row]
        for row, code in told.items():
            assert texts[row] == ("" if code == 0 else known[code - 1])


@given(st.lists(NUMBERLIKE, min_size=1, max_size=40), st.booleans())
@example(["1.5", "12345678.25", "-1234567890.5", "999999999999999", "1234567890123456"], False)
@example(["00", "0", "-0", "-12", "12-", "10"], True)
def test_plain_numbers_are_what_python_reads(texts: list[str], whole: bool) -> None:
    laid = laid_out(Lines.of(block([["é"] * len(texts), texts])), ",", 2)
    assert laid is not None
    values, places, other = plain_numbers(laid, 1, whole=whole)
    values = values / 10.0 ** (places or 0)
    left = set(other.tolist())
    for row, text in enumerate(texts):
        bare = text.removeprefix("-")
        digits, point, decimals = bare.partition(".")
        plain = (
            (digits + decimals).isascii() and (digits + decimals).isdigit() and len(bare) <= 15 and len(decimals) < 8
        )
        if whole:
            plain = plain and not point and (bare == "0" or not bare.startswith("0"))
        assert (row not in left) == plain, text
        if plain:
            assert values[row] == float(text) and math.copysign(1, values[row]) == math.copysign(1, float(text))


ISO_LIKE = st.one_of(
    st.dates().map(str),
    st.sampled_from(
        [
            "2024-02-30",
            "2024-13-01",
            "2024-W01-1",
            "2024-1-5",
            " 2024-01-05",
            "2024-01-05T03",
            "0000-01-01",
            "２０２４-01-01",
            "20240105",
        ]
    ),
)


@given(st.lists(ISO_LIKE, min_size=1, max_size=12, unique=True), st.sampled_from([None, "date"]))
def test_plain_days_are_what_sensing_comes_to(texts: list[str], kind: Kind | None) -> None:
    distinct = pl.Series(texts)
    codes = np.array([at % (len(texts) + 1) for at in range(5 * len(texts))], dtype=np.uint8)
    quick = encode_distinct("On", distinct, codes, kind)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(dictionary, "_MOST_DAYS", -1)
        slow = encode_distinct("On", distinct, codes, kind)
    assert quick[1] == slow[1] and quick[0].refused == slow[0].refused and type(quick[0]) is type(slow[0])
    assert series_of("On", quick[0]).equals(series_of("On", slow[0]))


PLAINLY = st.one_of(
    st.lists(st.integers(-99, 10**8).map(str), min_size=1, max_size=40),
    st.lists(st.integers(0, 10**7), min_size=18, max_size=24, unique=True).map(lambda all: [str(n) for n in sorted(all)]),
    st.lists(st.decimals(-999, 10**6, places=2).map(str) | st.just("12") | st.none(), min_size=1, max_size=80),
    st.lists(st.sampled_from(["0", "1", "0.5", "-0", "1.250", "07", "3.", "Fog", "2024-05-31", "", None]), max_size=30),
)


@given(PLAINLY, st.sampled_from(["Takings", "Berth no."]), st.sampled_from(["", "point", "comma"]), st.booleans())
def test_what_is_told_at_once_is_what_a_closer_look_tells(
    texts: list[str | None], name: str, decimal: str, repeating: bool
) -> None:
    values, signs = pl.Series(texts, dtype=pl.String), Signs(decimal)
    if repeating:
        values = values.unique(maintain_order=True)
    counts = (lambda: np.full(len(values), 3)) if repeating else None
    quick = sense(name, values, counts, signs)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(sensing, "_FEW", -1)
        assert sense(name, values, counts, signs) == quick


@pytest.mark.parametrize(
    "text",
    [
        b'a,"b"\n',
        b"a,b",
        b"a\n",
        b"a,b,c\n",
        b"a\nb,c,d\n",
        b"a,\0\n",
        b"a,b\r\nc,d\n",
        b"\n\n",
        b"a,b\n,\n",
        b"a,b\r\n,\r\n",
    ],
)
def test_what_is_laid_out_otherwise_is_left_to_the_parser(text: bytes) -> None:
    assert laid_out(Lines.of(text), ",", 2) is None


def test_gaps_between_rows_are_no_rows_and_other_letters_no_known_texts(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for heads, row, gap in (("a,b", "x,1", ","), ("only", "x", "")):
        path = tmp_path / "gaps.csv"
        path.write_text("\n".join([heads, *[row] * 5_000, gap, *[row] * 45_000, gap, row, ""]))
        monkeypatch.setattr(delimited, "_BLOCK", 20_000)
        table = read_table(path)
        assert table.rows == 50_001 and table.column(heads.split(",")[0]).blank is None
    assert laid_out(Lines.of(b"x\n\ny\n"), ",", 1) is None
    assert Known.of(["a", "a\0"]) is None


@pytest.mark.parametrize("bad", ["", "Weather", "Takings", "Passengers", "Route"])
def test_a_file_told_by_its_bytes_is_the_file_parsed(bad: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The same file read both ways, plain and with values that come late, fit nowhere, or never repeat."""
    chance = np.random.default_rng(5)
    rows = 60_000
    frame = pl.DataFrame({
        "Route": chance.choice(["Aldry – Fenholm", "Merrow – Sule", "Grimsay – a much longer name of a route"][: 2 + (bad == "Route")], rows),
        "Weather": chance.choice(["Calm", "Fog", ""], rows),
        "Passengers": chance.integers(0, 400, rows).astype(str),
        "Takings": np.round(chance.normal(300, 900, rows), 2).astype(str),
    })  # fmt: skip
    late = {"Weather": "Überraschung", "Takings": "lost", "Passengers": "007"}
    if bad in late:
        changed = frame[bad].to_list()
        changed[50_000::9_000] = [late[bad]] * len(changed[50_000::9_000])
        frame = frame.with_columns(pl.Series(bad, changed))
    path = tmp_path / "rows.csv"
    frame.write_csv(path, quote_style="never")
    monkeypatch.setattr(delimited, "_BLOCK", 200_000)
    told = 0

    def counting(*asked: object) -> object:
        nonlocal told
        found = parts(*asked)  # type: ignore[arg-type]
        told += found is not None
        return found

    parts = blocks.parts_told
    monkeypatch.setattr(blocks, "parts_told", counting)
    by_bytes = read_table(path)
    assert told == 1 if bad == "Route" else told > 5  # nothing is known yet in the first block
    monkeypatch.setattr(blocks, "parts_told", lambda *asked: None)
    assert_same(by_bytes, read_table(path))


def assert_same(one: Table, other: Table) -> None:
    assert one.fields == other.fields and one.rows == other.rows and one.sensed == other.sensed
    for field, left, right in zip(one.fields, one.columns, other.columns, strict=True):
        assert left.refused == right.refused
        assert series_of(field.name, left).equals(series_of(field.name, right))


def test_fields_that_grow_while_a_block_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    """Another thread may add what ends the telling of a field while a block is under way."""
    fields = [Growing(name, "text", Sensed("category")) for name in ("Route", "Note")]
    laid = laid_out(Lines.of(b"Osk,a\n" * 40), ",", 2)
    assert laid is not None
    codes = Known.codes

    def meanwhile(self: Known, *asked: Any) -> Any:
        fields[1].parts = [pl.Series(["never", "repeats"])]
        fields[1].known = pl.Series([f"{at}" for at in range(9_000)])
        return codes(self, *asked)

    monkeypatch.setattr(Known, "codes", meanwhile)
    parts = parts_told(laid, fields)
    assert parts is not None and [part.new for part in parts] == [("Osk",), ("a",)]
    assert fields[1].told_by() is None and parts_told(laid, fields) is None


PLACES = st.integers(0, 7).flatmap(lambda places: st.decimals(-(10**7), 10**7, places=places)).map(str)


@given(st.lists(PLACES, min_size=30, max_size=120), st.lists(st.sampled_from(["", "1,250.75", "12345678.12345678"]), max_size=4))
@example(["0"] * 28 + ["0.1", "1E-7"], [])
def test_numbers_of_any_decimals_come_out_as_they_were_written(
    tmp_path_factory: pytest.TempPathFactory, numbers: list[str], odd: list[str]
) -> None:
    texts = [*numbers, *odd, *numbers[:10]]
    path = tmp_path_factory.mktemp("n") / "t.csv"
    path.write_text("Route,Paid\n" + "".join(f'Osk,"{text}"\n' if "," in text else f"Osk,{text}\n" for text in texts))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(textfile, "LOOK", 700)
        patch.setattr(textfile, "_SHORT", 200)
        patch.setattr(delimited, "_BLOCK", 300)
        table = read_table(path, kinds={"Paid": "number"})
    wanted = [float(text.replace(",", "")) if text else None for text in texts]
    assert [None if value is None else float(str(value)) for value in series_of("Paid", table.column("Paid")).to_list()] == wanted
    exact = [Decimal(text.replace(",", "")).normalize() for text in texts if text]  # "1E-7" has seven places
    needed = max(0, *(-int(number.as_tuple().exponent) for number in exact))
    assert needed > 6 or table.number("Paid").decimals == needed


def test_small_numbers_that_grow_and_long_ones_are_read_all_the_same(tmp_path: Path) -> None:
    rows = 6_000
    frame = pl.DataFrame(
        {
            "Grows": [(n * 7919) % 90 if n < 1_000 else (n * 7919) % 1_000_003 for n in range(rows)],
            "Small": [(n * 31) % 240 for n in range(rows)],
            "Long": [math.sin(n) / 3 for n in range(rows)],
        }
    )
    frame.write_csv(tmp_path / "t.csv")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(textfile, "_SHORT", 4_000)
        patch.setattr(delimited, "_BLOCK", 20_000)
        table = read_table(tmp_path / "t.csv")
    assert [field.kind for field in table.fields] == ["number"] * 3
    for name in frame.columns:
        assert [float(str(value)) for value in series_of(name, table.column(name)).to_list()] == frame[name].to_list()
