"""Pages handed out: composed without Qt, as wide as measured, and what stands in an SVG is what the grid holds."""

from __future__ import annotations

import json
import sys
import xml.etree.ElementTree as xml
from itertools import groupby
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PyQt6.QtGui import QFontMetricsF, QImage

from summula.cli import main
from summula.core.boards.board import NotePanel, Place
from summula.core.charts.chart import chart_of
from summula.core.charts.places import text_bounds
from summula.core.charts.scene import Box, Group, Ink, Line, Picture, Scene, Text, Wedge
from summula.core.charts.scene import Path as Curve
from summula.core.composition.composition import Composition, Foot, Page, one_page
from summula.core.composition.summarypages import compose_bare, compose_summary
from summula.core.folio.file import save_folio
from summula.core.folio.model import with_board
from summula.core.folio.opened import Opened
from summula.core.handout.formats import FORMATS, format_for
from summula.core.handout.pages import compose, page_named
from summula.core.handout.svg import svg_text
from summula.core.refusal import Refusal
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.theme.advances import LETTERS
from summula.core.theme.shaping import shaped_advance, shaping_face
from summula.core.theme.tokens import LIGHT, SERIES, contrast
from summula.core.theme.typefaces import face_files, fallback_file, file_of, text_width
from summula.desk.application import application
from summula.desk.pictures import ALL_FORMATS, page_image
from summula.desk.theme import font

SVG = "{http://www.w3.org/2000/svg}"


def words(element: xml.Element) -> str:
    """What a text says, without its tooltip."""
    title = element.find(f"{SVG}title")
    return (element.text if title is None else title.tail) or ""


def composed(demo: Opened, page: str, size: tuple[float, float] = (1280, 800)) -> Composition:
    return compose(page_named(demo.folio, page), demo.folio, demo.prepared(), size)


def test_texts_are_as_wide_as_they_are_painted() -> None:
    application()
    for text in ("Takings by Vessel", "£1,234,567.89", "Osk – Vaila", "▲ +3.4%", "AVATAR To Ty. W.A.", "Île d’Été", "office fluffy ffi", ""):
        for size, weight, serif in ((11, 400, False), (11.5, 600, False), (12.5, 500, False), (13, 700, False), (22, 600, True), (15, 400, True)):
            painted = QFontMetricsF(font(size, weight, serif=serif)).horizontalAdvance(text)
            assert text_width(text, size, weight, serif) == pytest.approx(painted, rel=0.01, abs=0.05), (text, size, weight)
    shades = [LIGHT.colour(f"series {at}") for at in range(3 * SERIES)]
    assert len(set(shades)) == 3 * SERIES and contrast(LIGHT.colour("muted"), LIGHT.colour("paper")) >= 4.5


@given(st.text(st.sampled_from(LETTERS), min_size=1, max_size=14), st.sampled_from(face_files()[:-1]))
def test_the_tables_of_advances_say_what_the_shaping_library_says(text: str, file: Path) -> None:
    """After a change of a face: python -m summula.core.theme.advances."""
    own, other = shaping_face(file), shaping_face(fallback_file())
    runs = [(own if mine else other, "".join(run)) for mine, run in groupby(text, key=lambda letter: ord(letter) in own.known)]
    ems = sum(shaped_advance(face, run) / face.units for face, run in runs)
    weight, serif = next((weight, serif) for weight in (400, 500, 600, 700) for serif in (False, True) if file_of(weight, serif=serif) == file)
    assert text_width(text, 100, weight, serif) == pytest.approx(100 * ems, abs=1e-9)


@pytest.mark.parametrize("size", [(1280.0, 800.0), (700.0, 500.0)])
def test_every_page_is_composed_and_written(demo: Opened, size: tuple[float, float]) -> None:
    application()
    for _, page in demo.folio.pages():
        made = composed(demo, page.name, size)
        assert made.title == page.name and made.pages and all(each.scene.width == size[0] for each in made.pages)
        texts = [text for each in made.pages for text in each.scene.texts()]
        assert (page.name in texts and any("24,285" in text for text in texts)) or page.id == "t2"
        document = xml.fromstring(FORMATS[0].make(made))
        joined = one_page(made)
        assert float(document.attrib["height"]) == pytest.approx(joined.scene.height, abs=0.01)
        assert [words(each) for each in document.iter(f"{SVG}text")] == joined.scene.texts()
        image = page_image(joined)
        assert (image.width(), image.height()) == (round(joined.scene.width), round(joined.scene.height))


def test_a_tall_board_loses_nothing(demo: Opened) -> None:
    board = demo.folio.boards[0]
    tall = replace(board, panels=(*board.panels, NotePanel("p99", Place(0, 40, 8, 6), "First line\n\nSecond " + "word " * 80, "Read me")))
    opened = replace(demo, folio=with_board(demo.folio, tall))
    page = composed(opened, board.name).pages[0]
    assert page.scene.height > 40 * 28 and "Read me" in page.scene.texts() and "First line" in page.scene.texts()
    lowest = max(mark.y for mark in page.scene.marks if isinstance(mark, Group))
    assert lowest > 40 * 28 and any(text.endswith("…") for text in page.scene.texts())  # what the note has no room for


def test_marks_of_an_svg_say_their_figures(demo: Opened) -> None:
    document = xml.fromstring(FORMATS[0].make(composed(demo, "Passengers by ticket")))
    grid = answer(demo.folio.summary("s7").phrase, demo.tables["t1"])
    finest = {
        (tuple(grid.rows.path(grid.rows.depth, r)), grid.columns.path(grid.columns.depth, c)): grid.values[grid.finest][0, r, c]
        for r in range(grid.rows.levels[-1].size) for c in range(grid.columns.levels[-1].size)
    }  # fmt: skip
    found = [each for each in document.iter(f"{SVG}rect") if "data-value" in each.attrib]
    assert len(found) == sum(figure == figure and figure != 0 for figure in finest.values())
    assert sorted(float(each.attrib["data-value"]) for each in found) == sorted(v for v in finest.values() if v == v and v != 0)
    first = found[0]
    assert first.attrib["data-measure"] == "sum of Passengers" and len(json.loads(first.attrib["data-by"])) == 2
    title = first.find(f"{SVG}title")
    assert title is not None and "Passengers" in (title.text or "")
    assert not any(each.attrib.get("href", "data:").startswith("http") for each in document.iter())


def test_a_long_grid_goes_on_over_pages(demo: Opened) -> None:
    phrase = parse('show sum of Takings and rows by Route then Vessel then Ticket across year of "Sailed on" then quarter of "Sailed on"')
    long = replace(demo.folio.summary("s3"), phrase=phrase, name="Long")
    opened = replace(demo, folio=replace(demo.folio, summaries=(*demo.folio.summaries[1:], long)))
    made = composed(opened, "Long", (900, 600))
    assert len(made.pages) > 12 and f"1 of {len(made.pages)}" in made.pages[0].scene.texts()
    grid = answer(phrase, opened.tables["t1"])
    told = [mark.tag for page in made.pages for mark, _, _ in page.scene.flat() if mark.tag is not None and mark.tag.measure >= 0]
    cells = {(tag.members, tag.members_across, tag.measure) for tag in told}
    lines, columns = sum(level.size for level in grid.rows.levels), sum(level.size for level in grid.columns.levels)
    assert len(cells) == len(told) == lines * columns * 2  # every figure once
    assert "pages more than a picture holds" in " ".join(one_page(made).scene.texts())


def test_hostile_words_stay_words() -> None:
    marks = (
        Text(1, 12, "<script>\x00alert(1)</script> & \"x\""), Box(0, 0, 5, 5, Ink("plum"), radius=2, edge=Ink("ink")),
        Wedge(50, 50, 10, 40, 0.1, 0.6, Ink("series 9")), Curve((0, 0), (((1, 1), (2, 2), (3, 3)),), Ink("gain"), 2.0),
        Line(((0, 0), (9, 9)), Ink("loss"), 2, dashed=True), Picture(0, 0, 4, 4, b"\x89PNG\r\n", 0.5),
        Group(3, 4, (Box(0, 0, 2, 2, Ink("ghost")),), clip=(10, 10)),
    )  # fmt: skip
    text = svg_text(Scene(100, 100, marks), "A <b> page")
    document = xml.fromstring(text)
    assert "<script" not in text and any((each.text or "").startswith("<script>alert") for each in document.iter(f"{SVG}text"))
    application()
    assert page_image(Page("x", Scene(100, 100, marks))).pixelColor(80, 45).name() == LIGHT.hex("series 9")


def test_formats_by_name() -> None:
    assert format_for("A.SVG", ALL_FORMATS, "page").key == "svg" and format_for("a.b.csv", FORMATS, "figures").key == "csv"
    for name, takes in (("a.csv", "page"), ("a.svg", "figures"), ("a", "page")):
        with pytest.raises(Refusal, match="does not end in a format"):
            format_for(name, ALL_FORMATS, takes)  # type: ignore[arg-type]
    assert len({each.key for each in ALL_FORMATS}) == len(ALL_FORMATS)


def test_draw_and_render_without_a_window(demo: Opened, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "d.summula"
    save_folio(path, demo.folio, demo.tables)
    style = tmp_path / "style.json"
    style.write_text('{"legend": {"place": "right"}, "words": {"note": "Source: harbour office"}}')
    phrase = "show sum of Takings by Vessel across Ticket drawn as stacked columns"
    assert main(["draw", str(path), phrase, "--style", str(style), "--to", str(tmp_path / "a.svg"), "--title", "Vessels"]) == 0
    texts = {words(each) for each in xml.parse(tmp_path / "a.svg").iter(f"{SVG}text")}
    assert {"Vessels", phrase, "Source: harbour office"} <= texts
    assert main(["draw", str(path), phrase, "--size", "640x480", "--to", str(tmp_path / "a.png")]) == 0
    assert QImage(str(tmp_path / "a.png")).width() == 640
    assert main(["draw", str(path), phrase, "--bare", "--to", str(tmp_path / "bare.svg")]) == 0
    bare = {words(each) for each in xml.parse(tmp_path / "bare.svg").iter(f"{SVG}text")}
    assert "Kittiwake" in bare and not {phrase, "Sailings"} & bare
    assert main(["render", str(path), "Season at a glance", "--to", str(tmp_path / "b.svg")]) == 0
    assert "Season at a glance" in (tmp_path / "b.svg").read_text("utf-8")
    capsys.readouterr()
    for arguments, told in (
        (["draw", str(path), phrase.replace("sum", "mean"), "--to", str(tmp_path / "no.svg")], ""),
        (["draw", str(path), "show rows drawn as columns for each Ticket", "--to", str(tmp_path / "no.svg")], ""),
        (["draw", str(path), "show rows by Ticket drawn as pie for each Ticket", "--to", str(tmp_path / "c.svg")], "for each"),
        (["draw", str(path), "show rows by Boats", "--to", str(tmp_path / "c.svg")], "no field 'Boats'"),
        (["draw", str(path), phrase, "--to", str(tmp_path / "c.doc")], "does not end in a format"),
        (["draw", str(path), phrase, "--style", str(tmp_path / "none.json"), "--to", str(tmp_path / "c.svg")], "could not be read"),
        (["draw", str(path), phrase, "--to", str(tmp_path / "nowhere" / "c.svg")], "could not be written"),
    ):
        assert main(arguments) == (1 if told else 0)
        assert told in capsys.readouterr().err
    (tmp_path / "style.json").write_text('{"legend": {"place": "everywhere"}}')
    assert main(["draw", str(path), phrase, "--style", str(style), "--to", str(tmp_path / "c.svg")]) == 1
    assert "not a chart style" in capsys.readouterr().err and not (tmp_path / "c.svg").exists()


def test_core_draws_without_qt(demo: Opened) -> None:
    import subprocess

    code = (
        "import sys; from summula.demo.folio import demo_folio; from summula.core.handout.pages import compose, page_named;"
        "from summula.core.handout.formats import FORMATS; o = demo_folio(); p = page_named(o.folio, '8');"
        "FORMATS[0].make(compose(p, o.folio, o.prepared(), (900, 600))); assert not any('PyQt' in name for name in sys.modules)"
    )
    subprocess.run([sys.executable, "-c", code], check=True, timeout=120)


PAINTED_BESIDE = """
import threading
from PyQt6.QtGui import QImage, QPainter
from summula.core.charts.scene import Ink, Point, Scene, Text
from summula.desk.application import application
from summula.desk.widgets.painter import paint_scene

def picture(n):
    texts = [Text(10.0 + i % 30, 10.0 + i * 7 % 280, f"Takings {i * n % 900}", Ink("ink"), 11.0 + i % 3, 400 + 100 * (i % 3)) for i in range(120)]
    points = [Point(5.0 * i, 20.0 + i, 3.6, Ink("series 0")) for i in range(30)]
    image = QImage(400, 300, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    paint_scene(painter, Scene(400.0, 300.0, (*texts, *points)))
    painter.end()

def work():
    n = 1
    while not stop.is_set():
        picture(n)
        n += 1

application()
stop = threading.Event()
workers = [threading.Thread(target=work) for _ in range(2)]
for each in workers:
    each.start()
for n in range(300):
    picture(n)
stop.set()
for each in workers:
    each.join()
"""


def test_pictures_are_painted_in_workers_while_the_window_paints() -> None:
    """In a process of its own: what two threads share by mistake ends it, not with an exception."""
    import subprocess

    subprocess.run([sys.executable, "-c", PAINTED_BESIDE], check=True, timeout=120)


@pytest.mark.parametrize("size", [(160, 120), (240, 160), (340, 220), (200, 700), (700, 130), (500, 330), (900, 600)])
@pytest.mark.parametrize("form", ["columns", "bars", "ring", "grid", "heat grid"])
def test_what_surrounds_a_chart_goes_first_where_room_is_short(size: tuple[int, int], form: str, demo: Opened) -> None:
    """Whatever the size: as large as asked, the chart has most of it, and nothing lies over anything else."""
    table = demo.tables["t1"]
    phrase = f'show sum of Takings by Vessel across Ticket where Route is "Osk – Vaila" and Weather is not Fog drawn as {form}'
    chart = chart_of(answer(parse(phrase, Vocabulary(table)), table), table)
    composed = compose_summary("A long name of a summary, longer than a picture", phrase, chart, size, Foot("sailings.csv", "2025-11-12", "24,285 rows"))
    for page in composed.pages:
        assert (page.scene.width, page.scene.height) == size
        content = next(mark for mark in page.scene.marks if isinstance(mark, Group))
        assert content.clip is not None
        around = [mark for mark in page.scene.marks if isinstance(mark, Text)]
        assert content.clip[1] >= 0.9 * size[1] or content.clip[1] >= 140  # alone, or high enough
        for text in around:
            area = text_bounds(text, text_width)
            assert area.left >= 0 and area.right <= size[0] + 0.5 and area.top >= 0 and area.bottom <= size[1]
            assert area.bottom <= content.y or area.top >= content.y + content.clip[1]
        parts = [text_bounds(mark, text_width) for mark in content.marks if isinstance(mark, Text)]
        assert parts and all(part.bottom <= content.clip[1] + 4 and part.right <= content.clip[0] + 8 for part in parts)
    if size == (900, 600):
        told = " ".join(text.text for text in around)
        assert phrase in told and "sailings.csv · read 2025-11-12 · 24,285 rows" in told
    bare = compose_bare("Bare", chart, size).pages[0].scene
    assert len(bare.marks) == 1 and isinstance(bare.marks[0], Group) and bare.marks[0].clip == (size[0] - 12, size[1] - 12)
