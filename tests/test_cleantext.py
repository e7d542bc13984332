"""Names that other programs would take for formulas, markup or no text at all go out as text, in every format."""

from __future__ import annotations

import base64
import csv
import io
import re
import xml.etree.ElementTree as xml
from hashlib import sha256
from pathlib import Path

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st
from markdown_it import MarkdownIt
from msgspec.structs import replace
from openpyxl import load_workbook

from summula.core.composition.paper import Paper
from summula.core.folio.model import Folio, Summary, with_summary, with_table
from summula.core.folio.opened import entry_of
from summula.core.handout.cleantext import harmless, printable
from summula.core.handout.formats import FORMATS
from summula.core.handout.markdown import markdown_text
from summula.core.handout.order import Order, handed_out
from summula.core.handout.rows import rows_text
from summula.core.reading.readers import read_found
from summula.core.summaries import Vocabulary, parse

_ODD = ["a\0b", "a\ufffeb", "\x1b[31m", "x\ufdd0", "tab\there", "\U0001ffff!", "=1+1", "\u202e=cmd", "</script>", "<b>&amp;"]


@pytest.mark.parametrize("text", ["=1", "\n=1", "\t=1", " =1", "\x01=1", "\u200b=1", "\u202e=1", "\u200f@x", "\ufeff+1+1", "\u00a0-2+3", "\uff1d1", "\r\n=1", "-x", "+44 1234"])
def test_what_begins_like_a_formula_stays_text(text: str) -> None:
    assert harmless(text).startswith("'")


@pytest.mark.parametrize("text", ["", "-3.5", "-1e-7", "Osk", "a=b", "12", "\u05d0\u05d1", "Ærø", "…", "(12)", "“Osk”"])
def test_other_text_stays_as_it_is(text: str) -> None:
    assert harmless(text) == text


@given(st.lists(st.text(alphabet=st.characters(codec="utf-8", exclude_characters="\0\r"), max_size=8), min_size=1, max_size=6))
def test_rows_go_out_as_cells_do(texts: list[str]) -> None:
    """The rows of a table, told at one go, are as harmless as cell by cell."""
    import numpy as np

    from summula.core.tables.encoding import encode
    from summula.core.tables.field import Field, Sensed
    from summula.core.tables.table import Table

    table = Table("t", (Field("A", "category"),), (encode(pl.Series("A", texts), Sensed("category", "typed")),), len(texts))
    read = list(csv.reader(io.StringIO(rows_text(table, np.arange(len(texts)), ["A"]), newline="")))
    shown = [row[0] if row else "" for row in read[1:]]
    assert shown == [harmless(text) for text in texts]


@given(st.text(max_size=30))
def test_printable_is_xml(text: str) -> None:
    clean = printable(text)
    assert (xml.fromstring(f"<a>{clean.replace('&', '&amp;').replace('<', '&lt;')}</a>").text or "").replace("\n", "") == clean.replace("\r\n", "\n").replace("\r", "\n").replace("\n", "")


@pytest.mark.parametrize("cell", ["<img src=x onerror=alert(1)>", "[x](javascript:alert(1))", "![x](file:///etc)", "**bold** _it_ `c`", "a\nb|c", "<javascript:alert(1)>", "&lt;b&gt;", "https://example.test/x", "javascript:alert(1)", "~~x~~", "a\\|b", "\r\n| --- |", "Osk – Vaila", "R&D 50%"])
def test_markdown_shows_a_cell_as_it_is(cell: str) -> None:
    made = MarkdownIt("gfm-like", {"linkify": False}).render(markdown_text([["Route", "Takings"], [cell, "5"]], 1))
    shown = re.findall(r"<td[^>]*>(.*?)</td>", made, re.DOTALL)
    assert len(shown) == 2 and "<" not in shown[0], made
    from html import unescape

    assert unescape(shown[0]).split() == printable(cell).split()


def test_odd_names_leave_every_format_readable(tmp_path: Path) -> None:
    path = tmp_path / "s.json"
    import json

    path.write_text(json.dumps([{"Route": text, "Takings": at + 1} for at, text in enumerate(_ODD)]))
    table, _ = read_found(path)
    words = Vocabulary(table)
    folio = with_table(Folio("a\0b"), replace(entry_of("t1", table, "2025-01-01"), name="t\ufffe\0"))
    summary = Summary("s1", "=History\0\ufffe", "t1", parse("show sum of Takings by Route drawn as bars", words))
    folio = with_summary(folio, summary)
    for way in FORMATS:
        made = handed_out([summary], folio, {"t1": table}, way, Order(on=Paper(), live=("Route",) if way.live else ()))
        if way.suffix == "svg":
            xml.fromstring(made)
        elif way.suffix == "xlsx":
            book = load_workbook(io.BytesIO(made))
            cells = [cell for sheet in book for row in sheet.iter_rows() for cell in row]
            assert all(cell.data_type != "f" for cell in cells) and any(cell.value == "=1+1" for cell in cells)
        elif way.suffix == "html":
            text = made.decode("utf-8")
            (policy,) = re.findall(r"script-src '(sha256-[^']+)'", text)
            (script,) = re.findall(r"<script>(.*?)</script>", text, re.DOTALL)
            assert policy == "sha256-" + base64.b64encode(sha256(script.encode()).digest()).decode()
            assert "'unsafe-inline'" not in text[text.index("script-src") : text.index("script-src") + 80]
        elif way.suffix == "pdf":
            assert made.startswith(b"%PDF")


def test_a_sheet_is_never_called_what_is_taken() -> None:
    from summula.core.handout.workbook import sheet_name

    assert sheet_name("History").casefold() != "history" and sheet_name("\0") and sheet_name("'a'") == "a"
    assert len(sheet_name("x" * 40)) <= 31
