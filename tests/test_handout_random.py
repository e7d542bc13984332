"""Random summaries handed out in every format, read back by others: every figure is the grid's, every name is its own."""

from __future__ import annotations

import csv
import io
import json
import math
import xml.etree.ElementTree as xml
from typing import Any

import polars as pl
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from openpyxl import load_workbook
from pypdf import PdfReader

from summula.core.charts.chart import chart_of
from summula.core.engine.grid import Grid
from summula.core.folio.model import Folio, Summary, with_table
from summula.core.folio.opened import entry_of
from summula.core.grids.layout import PLAIN
from summula.core.grids.lines import columns_of, figure_at, measure_at, rows_of
from summula.core.handout.boardcontent import BoardContent, as_board
from summula.core.handout.delimited import harmless
from summula.core.handout.formats import FORMATS, Figures
from summula.core.handout.order import Order, composed
from summula.core.phrases.fitting import why_not
from summula.core.phrases.forms import FORMS
from summula.core.phrases.phrase import Phrase
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal
from summula.core.summaries import answer
from tests.test_handout import squeezed, states
from tests.test_random_phrases import asked, table_of

WAYS = {each.key: each for each in FORMATS}
DRAWN = [name for name, needs in FORMS.items() if needs.each_row == "no"]


def shown(grid: Grid) -> list[tuple[int, float]]:
    """The figures in the order a grid shows them, each with its measure."""
    return [
        (measure_at(row, column), figure_at(grid, row, column)) for row in rows_of(grid, PLAIN) for column in columns_of(grid, PLAIN)
    ]  # fmt: skip


def alike(one: float, other: float) -> bool:
    return (math.isnan(one) and math.isnan(other)) or math.isclose(one, other, rel_tol=1e-12, abs_tol=1e-12)


@settings(max_examples=20, deadline=None, suppress_health_check=list(HealthCheck))
@given(asked(), st.sampled_from(DRAWN))
def test_figures_in_every_format_are_the_grids(case: tuple[list[dict[str, Any]], Phrase], form: Any) -> None:
    records, phrase = case
    table = table_of(records)
    if why_not(replace(phrase, form=form), form):
        form = "grid"
    phrase = replace(phrase, form=form)
    try:
        grid = answer(phrase, table)
    except Refusal:
        return
    expected = shown(grid)
    figures = Figures(grid, "=Summary", print_phrase(phrase))
    styles = [each.clock for each in grid.styles]

    rows = list(csv.reader(io.StringIO(WAYS["csv"].make(figures).decode("utf-8"))))
    width = len(columns_of(grid, PLAIN))
    body = rows[len(rows) - len(rows_of(grid, PLAIN)) :]
    read = [math.nan if not cell else float(cell) for row in body for cell in row[len(row) - width :]]
    assert len(read) == len(expected) and all(alike(a, b) for a, (_, b) in zip(read, expected, strict=True))
    assert not any(cell[:1] in "=+@" and cell[:1] for row in rows for cell in row[: len(row) - width] if cell != harmless(cell))

    record = json.loads(WAYS["json"].make(figures))
    held_rows = grid.cell_rows[grid.finest] > 0  # a pair of members without rows is left out
    wanted_there = {value for each in grid.values[grid.finest] for value in each[held_rows].tolist() if math.isfinite(value)}
    assert set(map(float, numbers_in(record))) >= wanted_there

    frame = pl.read_parquet(io.BytesIO(WAYS["parquet"].make(figures)))
    assert pl.read_ipc(WAYS["arrow"].make(figures)).equals(frame)
    finest = {round(value, 9) for value in grid.values[grid.finest].ravel().tolist() if not math.isnan(value)}
    stored = {round(value, 9) for name in frame.columns[grid.rows.depth + grid.columns.depth :] for value in frame[name].drop_nulls().to_list()}
    assert stored <= finest and frame.height == int((grid.cell_rows[grid.finest] > 0).sum())

    sheet = load_workbook(io.BytesIO(WAYS["xlsx"].make(figures))).active
    cells = [cell for row in sheet.iter_rows() for cell in row]
    assert all(cell.data_type != "f" for cell in cells)
    held = [cell.value for cell in cells if isinstance(cell.value, int | float) and not isinstance(cell.value, bool)]
    wanted = [value / 24 if styles[measure] else value for measure, value in expected if math.isfinite(value)]
    assert len(held) == len(wanted) and all(math.isclose(a, b, rel_tol=1e-9, abs_tol=1e-12) for a, b in zip(held, wanted, strict=True))

    folio = with_table(Folio("F"), entry_of("t1", table))
    summary = Summary("s1", "=Summary", "t1", phrase)
    folio = replace(folio, summaries=(summary,))
    page = composed([summary], folio, {"t1": table}, WAYS["svg"], Order(size=(1100.0, 700.0)))
    document = xml.fromstring(WAYS["svg"].make(page))
    marks = [each for each in document.iter() if each.get("data-value") and each.get("data-measure")]
    known = {round(value, 9) for block in grid.values.values() for value in block.ravel().tolist() if not math.isnan(value)}
    strays = [each.attrib["data-value"] for each in marks if round(float(each.attrib["data-value"]), 9) not in known]
    assert not strays or form in ("histogram",), (form, strays[:4])

    read_pdf = PdfReader(io.BytesIO(WAYS["pdf"].make(page)))
    texts = squeezed("".join(each.extract_text() for each in read_pdf.pages))
    digits = [each for part in page.pages for each in part.scene.texts() if each and all(letter in "0123456789.,%£−-+k" for letter in each)]
    assert all(squeezed(each) in texts for each in digits)

    content = BoardContent(as_board(summary), folio, {"t1": table}, (1100, 700))
    book = load_workbook(io.BytesIO(WAYS["workbook"].make(content)))
    assert all(cell.data_type != "f" for each in book for row in each.iter_rows() for cell in row)
    if form != "grid":
        chart = chart_of(grid, table)
        assert chart.form == form
    live = replace(content, live=("A",)) if any(each["A"] is not None for each in records) else content
    text = WAYS["html"].make(live).decode("utf-8")
    assert "<script>=" not in text and text.count("<h1>") == 1
    if live.live:
        assert len(states(text)["states"]) == 1 + len({each["A"] for each in records})


def numbers_in(value: Any) -> list[float]:
    """All numbers of a JSON document."""
    if isinstance(value, dict):
        return [each for part in value.values() for each in numbers_in(part)]
    if isinstance(value, list):
        return [each for part in value for each in numbers_in(part)]
    return [value] if isinstance(value, int | float) and not isinstance(value, bool) else []
