"""What leaves the desk sliced tells nothing of the rows that were sliced away: no name and no figure, in any format."""

from __future__ import annotations

import base64
import gzip
import io
import re
import zipfile
from pathlib import Path

import pytest
from msgspec.structs import replace
from pypdf import PdfReader

from summula.core.boards.board import Board, KeyFigurePanel, NotePanel, Place, SlicerPanel, SourcesPanel, SummaryPanel
from summula.core.boards.playing import playable
from summula.core.composition.paper import Paper
from summula.core.folio.model import Folio, Summary, with_board, with_summary, with_table
from summula.core.folio.opened import entry_of
from summula.core.handout.formats import FORMATS, Format
from summula.core.handout.order import Order, handed_out
from summula.core.handout.played import played_pages
from summula.core.phrases.phrase import Aggregate, Measure
from summula.core.reading.readers import read_found
from summula.core.slicing.making import slicer_for
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.summaries import Vocabulary, parse
from summula.core.tables.table import Table

_FORMS = (
    "columns", "bars", "stacked columns", "share bars", "lines", "areas", "pie", "ring", "waffle", "heat grid",
    "dots", "cards", "grid", "box plot", "histogram", "scatter",
)  # fmt: skip


@pytest.fixture(scope="module")
def world(tmp_path_factory: pytest.TempPathFactory) -> tuple[Board, Folio, dict[str, Table]]:
    """A board of every form, sliced to one region; the other region's names say so, and its figures are unlike any."""
    path: Path = tmp_path_factory.mktemp("sliced") / "s.csv"
    lines = ["Region,Route,Vessel,Sailed on,Takings"]
    for at in range(240):
        kept = at % 3 == 0
        region, route, vessel = ("North", "Osk Vaila"[4 * (at % 2) :][:4].strip(), "Brim") if kept else ("Hushed", f"Hushed{at % 4}", f"Hushed{at % 5}")
        lines.append(f"{region},{route},{vessel},2024-{at % 12 + 1:02d}-{at % 27 + 1:02d},{at % 17 + 1 if kept else 987_654 + at * 7919}")
    path.write_text("\n".join(lines) + "\n")
    table, _ = read_found(path)
    words = Vocabulary(table)
    folio = with_table(Folio("Season"), entry_of("t1", table, "2025-01-01 09:00"))
    panels: list[object] = []

    def place() -> Place:
        return Place(len(panels) % 3 * 8, len(panels) // 3 * 6, 8, 6)

    for at, form in enumerate(_FORMS):
        text = {
            "heat grid": "show sum of Takings by Route across Vessel", "stacked columns": "show sum of Takings by Route across Vessel",
            "share bars": "show sum of Takings by Route across Vessel", "areas": "show sum of Takings by year-month of \"Sailed on\" across Vessel",
            "lines": "show sum of Takings by year-month of \"Sailed on\" across Route", "box plot": "show each row of Takings by Route",
            "histogram": "show each row of Takings", "scatter": "show sum of Takings against rows by Route",
        }.get(form, "show sum of Takings by Route with every member")  # fmt: skip
        phrase = parse(f"{text} drawn as {form}", words)
        folio = with_summary(folio, Summary(f"s{at}", f"As {form}", "t1", phrase))
        panels.append(SummaryPanel(f"p{at}", place(), f"s{at}", f"As {form}"))
    panels.append(KeyFigurePanel("k1", place(), "t1", Measure(Aggregate("sum", "Takings")), "Sailed on", "Takings"))
    panels.append(NotePanel("n1", place(), "{sum of Takings} of {rows} rows: {names: top 3 Route by sum of Takings}", table="t1"))
    panels.append(SourcesPanel("q1", place()))
    slicer = replace(slicer_for(table, "t1", "Region", "l1"), chosen=("North",))
    panels.append(SlicerPanel("l9", place(), "t1", "l1"))
    board = Board("b1", "North alone", tuple(panels), (slicer, PeriodSlicer("l2", "t1", "Sailed on", first="2024-02", last="2024-11")))  # type: ignore[arg-type]
    return board, with_board(folio, board), {"t1": table}


def _texts(made: bytes, way: Format) -> str:
    """All that a file says, its metadata and packed parts among it."""
    if way.suffix == "pdf":
        read = PdfReader(io.BytesIO(made))
        return "\n".join([*(page.extract_text() for page in read.pages), str(read.metadata), str(read.outline)])
    if way.suffix == "xlsx":
        with zipfile.ZipFile(io.BytesIO(made)) as archive:
            return "\n".join(archive.read(name).decode("utf-8", "replace") for name in archive.namelist())
    text = made.decode("utf-8")
    packed = re.findall(r"H4sI[A-Za-z0-9+/=]+", text)
    return text + "\n".join(gzip.decompress(base64.b64decode(each)).decode("utf-8") for each in packed)


def _numbers(text: str) -> set[str]:
    return {each.replace(",", "") for each in re.findall(r"\d[\d,]*(?:\.\d+)?", text)}


def _leaks(text: str, table: Table) -> set[str]:
    """Names of what was sliced away, and totals that only its rows give."""
    takings = [int(line.rsplit(",", 1)[1]) for line in Path(table.source).read_text().splitlines()[1:]]
    whole = sum(takings)
    loud = {str(whole), str(sum(each for each in takings if each > 1000)), *(str(each) for each in takings if each > 1000)}
    found = set(re.findall(r"Hushed\w*", text)) | (loud & _numbers(text))
    return found | set(re.findall(r"before slicing|>\s*\d[\d.,]*m\s*<|\b(?:240|220) rows", text))


_WAYS = [each for each in FORMATS if each.takes in ("page", "board")]


@pytest.mark.parametrize("way", _WAYS, ids=lambda way: way.key)
def test_nothing_of_what_was_sliced_away_goes_out(way: Format, world: tuple[Board, Folio, dict[str, Table]]) -> None:
    board, folio, tables = world
    live = ("Route",) if way.live else ()
    made = handed_out([board], folio, tables, way, Order(on=Paper(), live=live))
    assert not _leaks(_texts(made, way), tables["t1"])
    asked = _texts(handed_out([board], folio, tables, way, Order(on=Paper(), live=live, unsliced=True)), way)
    if way.suffix in ("svg", "html"):  # and where it is asked for, it is there
        assert "Hushed0" in asked and "before slicing" in asked
    everything = replace(board, slicers=tuple(replace(each, chosen=()) if isinstance(each, ListSlicer) else replace(each, first=None, last=None) for each in board.slicers))
    assert "Hushed0" in _texts(handed_out([everything], with_board(folio, everything), tables, way, Order(on=Paper())), way)


def test_chapters_and_steps_of_play_tell_only_their_own(world: tuple[Board, Folio, dict[str, Table]]) -> None:
    board, folio, tables = world
    pdf = next(each for each in FORMATS if each.key == "pdf")
    text = _texts(handed_out([board], folio, tables, pdf, Order(on=Paper(), each="Route")), pdf)
    assert not _leaks(text, tables["t1"]) and "Osk" in text
    play = playable(replace(board, slicers=board.slicers[:1]), tables, "quarter")
    assert play is not None
    svg = next(each for each in FORMATS if each.key == "svg")
    for _, composition in played_pages(replace(board, slicers=board.slicers[:1]), folio, tables, (1280, 800), play):
        assert not _leaks(svg.make(composition).decode("utf-8"), tables["t1"])


def test_slices_that_are_said_beside_hide_the_rest(world: tuple[Board, Folio, dict[str, Table]]) -> None:
    board, folio, tables = world
    bare = replace(board, slicers=())
    folio = with_board(folio, bare)
    svg = next(each for each in FORMATS if each.key == "svg")
    assert not _leaks(_texts(handed_out([bare], folio, tables, svg, Order(slices=("Region=North",))), svg), tables["t1"])
